"""Rough stretches and waves of level inside notes, looked at partial by partial.

Scratch fills the gaps between the partials from bottom to top. What a room keeps of the note
before, a pitch that moves while its echo stays, or another string leave most gaps empty, though
the period explains as little of the sound. On the simulated player's clean takes in rooms and
through microphones (70 takes, 136 rough stretches) the low gaps rise by at most 12 dB a quarter of
a second after the beginning; planted scratch 6 dB below the tone raises them by 13 … 30.

A bow that shakes moves all partials at once; a room and the body move each its own way.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from jigwright.core.gauge_maths import level_wave, wave_at
from jigwright.core.sound.continuity import partial_levels_db
from jigwright.core.sound.curves import middle, roughness_db, runs_of
from jigwright.core.sound.falls import is_broken
from jigwright.core.sound.heard import HOP_S, Burst, LevelSwing, Segment
from jigwright.core.sound.measure_segment import Take
from jigwright.core.values import Floats

EDGE_S = 0.09
_GLIDE_S = 0.2  # of a slurred note a finger may still slide: the bow goes on and scratches nothing
_GOES_ON_DB = 6.0  # the level fell no further: no bow began
ROUGH_RISE_DB, ROUGH_FLOOR_DB, SHORTEST_BURST_S = 6.0, -11.0, 0.04
_AROUND_FRAMES = 60  # of the rest of the note are enough to compare with
_GAPS = 11
_WINDOW_S, _WINDOW_PERIODS = 0.02, 6.0
_LOW_SHARE = 0.2
_LEAST_REST_FRAMES = 6
_SPOILED_S = 0.35  # in which scratch may hide the pitch
LEAST_SWING_DB, SHORTEST_SWING_S = 3.0, 0.5
_WORTH_DB = 30.0
_TOGETHER_SHARE = 0.25


def rough_runs(clarity: Floats) -> list[tuple[int, int]]:
    """Frames at which the sound of a note is much rougher than in its middle.

    Parameters
    ----------
    clarity : ndarray
        Height of the correlation peak along the inside of one note.

    Returns
    -------
    list of (int, int)
        Start and stop of every run that is long enough.
    """
    rough = _smooth(roughness_db(clarity))
    limit = max(middle(rough) + ROUGH_RISE_DB, ROUGH_FLOOR_DB)
    return [(a, b) for a, b in runs_of(rough > limit) if (b - a) * HOP_S >= SHORTEST_BURST_S]


def find_bursts(take: Take, segments: Sequence[Segment]) -> tuple[Burst, ...]:
    """Measure the sound between the partials wherever a single note is rough.

    Parameters
    ----------
    take : Take
    segments : sequence of Segment

    Returns
    -------
    tuple of Burst
        In time order.
    """
    found = []
    slurred = {s.onset_s for s in segments if s.slurred or s.attack_db < _GOES_ON_DB}
    for onset_s, offset_s in _whole_notes(segments):
        lo, hi = _inside(take, onset_s, offset_s)
        if (hi - lo) * HOP_S < SHORTEST_BURST_S:
            continue
        slides_to_s = onset_s + (_GLIDE_S if onset_s in slurred else 0.0)
        for a, b in rough_runs(take.contours.clarity[lo:hi]):
            if (lo + a) * HOP_S < slides_to_s:
                continue  # a finger that slides into the note fills the gaps as it passes them
            rise_db = _between_rise_db(take, lo, hi, lo + a, lo + b)
            found.append(
                Burst(
                    start_s=(lo + a) * HOP_S, end_s=(lo + b) * HOP_S,
                    between_db=float(np.round(rise_db, 2)),
                )
            )  # fmt: skip
    return tuple(sorted(found, key=lambda b: b.start_s))


def _whole_notes(segments: Sequence[Segment]) -> list[tuple[float, float]]:
    """Single notes, and what was heard as several because it broke."""
    notes: list[tuple[float, float]] = []
    before: Segment | None = None
    for s in segments:
        if s.i_pair >= 0:
            before = None
            continue
        if before is not None and is_broken(before, s, gap_s=_SPOILED_S):
            notes[-1] = (notes[-1][0], s.offset_s)
        else:
            notes.append((s.onset_s, s.offset_s))
        before = s
    return notes


def _inside(take: Take, onset_s: float, offset_s: float) -> tuple[int, int]:
    lo = round((onset_s + EDGE_S) / HOP_S)
    return lo, min(len(take.contours), round((offset_s - EDGE_S) / HOP_S))


def _between_rise_db(take: Take, lo: int, hi: int, start: int, stop: int) -> float:
    """By how much the low gaps rise in a stretch against the note around it; 0: cannot tell."""
    lo, hi = max(lo, start - _AROUND_FRAMES), min(hi, stop + _AROUND_FRAMES)
    gaps = _between_db(take, lo, hi)
    rest = np.ones(hi - lo, dtype=bool)
    rest[max(0, start - lo - 4) : stop - lo + 4] = False
    rest &= np.isfinite(gaps)
    there = gaps[start - lo : stop - lo]
    if np.count_nonzero(rest) < _LEAST_REST_FRAMES or not np.isfinite(there).any():
        return 0.0
    return max(0.0, middle(there) - middle(gaps[rest]))


def _between_db(take: Take, lo: int, hi: int) -> Floats:
    """Level of the emptier gaps half-way between the partials, each frame; NaN: cannot tell."""
    result = np.full(hi - lo, np.nan)
    rate, x = take.rate_hz, take.x
    heard = np.flatnonzero(np.isfinite(take.contours.f0_hz[lo:hi]))
    if not len(heard):
        return result
    # where the sound breaks up there may be no pitch: it is what it was
    pitch = np.interp(np.arange(hi - lo), heard, take.contours.f0_hz[lo:hi][heard])
    for i in range(lo, hi):
        f0 = float(pitch[i - lo])
        n = int(max(_WINDOW_PERIODS / f0, _WINDOW_S) * rate) | 1
        start = i * take.hop_samples - n // 2
        count = min(_GAPS, int(0.45 * rate / f0) - 1)
        if start < 0 or start + n > len(x) or count < 2:
            continue
        power = _powers(x[start : start + n], rate, (np.arange(1, count + 1) + 0.5) * f0)
        result[i - lo] = 10.0 * np.log10(float(np.quantile(power, _LOW_SHARE)) + 1e-18)
    return result


def _powers(x: Floats, rate_hz: int, f_hz: Floats) -> NDArray[np.float64]:
    window = np.blackman(len(x) + 2)[1:-1]
    t_s = (np.arange(len(x)) - len(x) // 2) / rate_hz
    z = np.exp(-2j * np.pi * np.outer(f_hz, t_s)) @ (x * (window / window.sum()))
    return np.asarray(np.abs(z) ** 2)


def find_swings(take: Take, segments: Sequence[Segment]) -> tuple[LevelSwing, ...]:
    """Look at every long single note along which the level swings, and at what was cut in pieces.

    Parameters
    ----------
    take : Take
    segments : sequence of Segment

    Returns
    -------
    tuple of LevelSwing
        In time order.
    """
    found = []
    single = {(s.onset_s, s.offset_s) for s in segments if s.i_pair < 0}
    for onset_s, offset_s in sorted(single.union(_whole_notes(segments))):
        lo, hi = _inside(take, onset_s, offset_s)
        if (hi - lo) * HOP_S < SHORTEST_SWING_S:
            continue
        wave = level_wave(take.contours.level_db[lo:hi], HOP_S)
        if wave is None or wave.depth < LEAST_SWING_DB:
            continue
        found.append(
            LevelSwing(
                start_s=onset_s, end_s=offset_s,
                together_db=float(np.round(_together_db(take, lo, hi, wave.rate_hz), 2)),
            )
        )  # fmt: skip
    return tuple(found)


def _together_db(take: Take, lo: int, hi: int, rate_hz: float) -> float:
    """The swing that three quarters of the partials reach in step with the whole."""
    levels = partial_levels_db(
        take.x, take.rate_hz, take.hop_samples, take.contours.f0_hz, lo, hi
    )  # fmt: skip
    if levels is None:
        return 0.0
    usual = np.median(levels, axis=1)
    strong = levels[usual > usual.max() - _WORTH_DB]
    whole = wave_at(take.contours.level_db[lo:hi], HOP_S, rate_hz)
    turn = np.conj(whole) / max(abs(whole), 1e-9)
    in_step = [2.0 * float((wave_at(one, HOP_S, rate_hz) * turn).real) for one in strong]
    return max(0.0, float(np.quantile(in_step, _TOGETHER_SHARE)))


def _smooth(values: Floats) -> Floats:
    if len(values) < 5:
        return values
    padded = np.pad(values, 2, mode="edge")
    return np.asarray(np.median(np.lib.stride_tricks.sliding_window_view(padded, 5), axis=1))
