"""Tones that are not played: a drone from a loudspeaker, mains hum, a fan's whine.

Nobody's string holds one phase: a wander of one cent turns a partial of 200 Hz by a tenth of a turn
a second. A tone from a machine keeps its level within tenths of a decibel and its phase over the
whole take, while notes come and go over it and when nobody plays. Such lines are found by what is
always there (a low quantile over time of each bin of the spectrum, against the floor about it),
tested for level and phase (the frequency at which all windows add up, the maximum of a periodogram,
Rife & Boorstyn 1974) and taken out as our own drone is (:mod:`core.sound.drone`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log2, log10

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from jigwright.core.sound.drone import remove_drone
from jigwright.core.sound.heard import STEADY_TONE
from jigwright.core.values import Floats

_WINDOW_S = 0.5
_LEAST_WINDOWS = 12
_LOWEST_HZ, _HIGHEST_HZ = 25.0, 5000.0
_ALWAYS = 0.08  # quantile over time: what is there in nearly every window
_AROUND_BINS = 40
_LEAST_OVER_DB = 20.0
_MOST_SPREAD_DB = 2.0
_QUIET_DB = 10.0  # below the loud windows: nobody plays
_STAYS_DB = 2.0
_LEAST_COHERENCE = 0.8
_MOST_SHARE = 0.8  # of the loud windows' power: more is what is played
_BLIND_SPREAD_DB = 0.5  # where somebody plays all the time a bow must be told by its level
_MOST_S, _AT_ONCE_S = 120.0, 60.0
_FOLLOW_S = 40.0  # it stands where it stands
_NEAR_HZ = 8.0  # side lobes of a stronger line
_FOUND_DB = -45.0  # re the loud windows: less disturbs nothing
_MOST_LINES, _MOST_MULTIPLES = 24, 16
_OF_ONE_CENTS = 12.0
_ALONE_DB = -25.0
_INEXACT_HZ = 0.15


@dataclass(frozen=True, slots=True, kw_only=True)
class SteadyTone:
    """A tone that sounded all along.

    Parameters
    ----------
    f_hz : float
        The fundamental that fits all its lines best.
    level_db : float
        All its lines together, dB re the loud parts of the take.
    """

    f_hz: float
    level_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SteadyLine:
    """One line of the spectrum that is always there.

    Parameters
    ----------
    f_hz, level_db : float
        Exact frequency; level re the loud parts of the take.
    """

    f_hz: float
    level_db: float


def steady_lines(x: Floats, rate_hz: int) -> tuple[SteadyLine, ...]:
    """Find the lines of tones that nobody plays.

    Parameters
    ----------
    x : ndarray, shape (n,)
        At its native rate.
    rate_hz : int

    Returns
    -------
    tuple of SteadyLine
        Strongest first; none in less than three seconds of sound, or where they are most of what
        sounds: that is somebody's note. Of a long recording the middle two minutes are looked at.
    """
    n = round(_WINDOW_S * rate_hz)
    hop = n // 2
    most = round(_MOST_S * rate_hz)
    if len(x) > most:
        first = (len(x) - most) // 2
        x = x[first : first + most]
    starts = np.arange(0, len(x) - n + 1, hop)
    if len(starts) < _LEAST_WINDOWS:
        return ()
    taper = np.hanning(n + 2)[1:-1]
    taper /= taper.sum()
    f_hz = np.fft.rfftfreq(2 * n, 1.0 / rate_hz)
    keep = (f_hz > _LOWEST_HZ) & (f_hz < min(_HIGHEST_HZ, 0.45 * rate_hz))
    f_hz = f_hz[keep]
    spectra = np.empty((len(starts), len(f_hz)), dtype=np.complex64)
    power = np.empty(len(starts))
    for i, start in enumerate(starts):
        part = np.asarray(x[start : start + n], dtype=np.float64)
        spectra[i] = 2.0 * np.fft.rfft(part * taper, 2 * n)[keep]
        power[i] = np.mean(part**2)
    level_db = 10.0 * np.log10(power + 1e-14)
    loud_db = float(np.percentile(level_db, 75))
    quiet = level_db < loud_db - _QUIET_DB
    size_db = 20.0 * np.log10(np.abs(spectra) + 1e-9)
    found = []
    for i in _always_there(size_db):
        line = _line(spectra[:, i], size_db[:, i], quiet, float(f_hz[i]), hop / rate_hz)
        if line is not None and line.level_db - loud_db > _FOUND_DB:
            found.append(SteadyLine(f_hz=line.f_hz, level_db=line.level_db - loud_db))
    found = _without_side_lobes(sorted(found, key=lambda one: -one.level_db))[:_MOST_LINES]
    if sum(10.0 ** (one.level_db / 10.0) for one in found) > _MOST_SHARE:
        return ()
    return tuple(found)


def _without_side_lobes(lines: Sequence[SteadyLine]) -> list[SteadyLine]:
    """Only lines that no stronger one stands beside; the strongest come first."""
    kept: list[SteadyLine] = []
    for one in lines:
        if all(abs(one.f_hz - other.f_hz) > _NEAR_HZ for other in kept):
            kept.append(one)
    return kept


def _always_there(size_db: Floats) -> list[int]:
    """Bins at which a line stands in nearly every window."""
    always = np.quantile(size_db, _ALWAYS, axis=0)
    padded = np.pad(always, _AROUND_BINS, mode="reflect")
    floor = np.median(sliding_window_view(padded, 2 * _AROUND_BINS + 1), axis=1)
    is_peak = (always[1:-1] > always[:-2]) & (always[1:-1] >= always[2:])
    over = always[1:-1] - floor[1:-1] > _LEAST_OVER_DB
    return [int(i) + 1 for i in np.flatnonzero(is_peak & over)]


def _line(
    z: NDArray[np.complex64], size_db: Floats, quiet: NDArray[np.bool_], f_hz: float, hop_s: float
) -> SteadyLine | None:
    """The line of one bin, where it keeps its level and its phase."""
    usual = float(np.median(size_db))
    low, quarter = np.quantile(size_db, [_ALWAYS, 0.25])
    if quarter - low > (_MOST_SPREAD_DB if quiet.any() else _BLIND_SPREAD_DB):
        return None
    if quiet.any() and abs(float(np.median(size_db[quiet])) - usual) > _STAYS_DB:
        return None
    turn = np.exp(-2j * np.pi * f_hz * hop_s * np.arange(len(z)))
    unit = z * turn / (np.abs(z) + 1e-12)
    # from window to window, then over all of them
    step = float(np.angle(np.sum(unit[1:] * np.conj(unit[:-1]))))
    at = np.arange(len(z)) - 0.5 * (len(z) - 1)
    steps = step + np.linspace(-0.25, 0.25, 201)
    sums = np.abs(np.exp(-1j * np.outer(steps, at)) @ unit) / len(z)
    best = int(np.argmax(sums))
    if sums[best] < _LEAST_COHERENCE:
        return None
    exact = f_hz + steps[best] / (2.0 * np.pi * hop_s)
    return SteadyLine(f_hz=float(exact), level_db=usual - 3.01)


def tones_of(lines: Sequence[SteadyLine]) -> tuple[SteadyTone, ...]:
    """Lines gathered under their fundamentals, the strongest tone first.

    A tone is named by the lowest line of which it has others as multiples. A line by itself is one
    only where it is strong: a string that sounded all along leaves one, too.
    """
    left = sorted(lines, key=lambda one: one.f_hz)
    tones = []
    while left:
        base = left[0]
        mine = [one for one in left if _is_multiple(one.f_hz, base.f_hz)]
        level_db = 10.0 * log10(sum(10.0 ** (one.level_db / 10.0) for one in mine))
        if len(mine) > 1 or level_db > _ALONE_DB:
            tones.append(SteadyTone(f_hz=_fundamental_hz(mine, base.f_hz), level_db=level_db))
        left = [one for one in left if one not in mine]
    return tuple(sorted(tones, key=lambda tone: -tone.level_db))


def tone_code(tone: SteadyTone) -> str:
    """Identifier that is kept with what was heard."""
    return f"{STEADY_TONE}:{tone.f_hz:.2f}:{tone.level_db:.0f}"


def _fundamental_hz(lines: Sequence[SteadyLine], base_hz: float) -> float:
    """The one fundamental that fits all lines best, each as exact as it is strong."""
    number = np.array([round(one.f_hz / base_hz) for one in lines], dtype=float)
    f_hz = np.array([one.f_hz for one in lines])
    weight = 10.0 ** (np.array([one.level_db for one in lines]) / 10.0)
    return float(np.sum(weight * number * f_hz) / np.sum(weight * number**2))


def _beside_hz(line: SteadyLine, tone: SteadyTone) -> float:
    return line.f_hz - tone.f_hz * round(line.f_hz / tone.f_hz)


def _is_multiple(f_hz: float, base_hz: float) -> bool:
    ratio = f_hz / base_hz
    return abs(1200.0 * log2(ratio / max(1, round(ratio)))) < _OF_ONE_CENTS


def partials_of(lines: Sequence[SteadyLine]) -> tuple[float, ...]:
    """Frequencies to take out: the lines that were found, and partials that notes covered.

    Parameters
    ----------
    lines : sequence of SteadyLine
        Those that belong to no tone (:func:`tones_of`) are left in.
    """
    f_hz: list[float] = []
    for tone in tones_of(lines):
        mine = [one for one in lines if _is_multiple(one.f_hz, tone.f_hz)]
        n = min(_MOST_MULTIPLES, int(_HIGHEST_HZ / tone.f_hz))
        numbers = {round(one.f_hz / tone.f_hz) for one in mine}
        # a machine that holds no exact multiples keeps its own
        wanted = [one.f_hz for one in mine if abs(_beside_hz(one, tone)) > _INEXACT_HZ]
        wanted += [k * tone.f_hz for k in sorted(numbers.union(range(1, n + 1)))]
        f_hz += [f for f in wanted if all(abs(f - g) > _NEAR_HZ for g in f_hz)]
    return tuple(f_hz)


def without_tones(x: Floats, rate_hz: int) -> tuple[Floats, tuple[SteadyTone, ...]]:
    """Take out what nobody plays.

    Parameters
    ----------
    x : ndarray, shape (n,)
    rate_hz : int

    Returns
    -------
    (ndarray, tuple of SteadyTone)
        The same sound where there are none.
    """
    lines = steady_lines(x, rate_hz)
    tones = tones_of(lines)
    if not tones:
        return x, ()
    partials_hz = partials_of(lines)
    left = np.empty(len(x), dtype=np.float32)
    step = round(_AT_ONCE_S * rate_hz)  # hours must not stand in memory several times
    starts = list(range(0, max(1, len(x) - step // 2), step))
    for start, stop in zip(starts, [*starts[1:], len(x)], strict=True):
        part = x[start:stop]
        left[start:stop] = remove_drone(part, rate_hz, partials_hz, follow_s=_FOLLOW_S)
    return left, tones
