"""Stretches of two notes: found, tracked and measured.

A Hann spectrum every half window is first held against the comb of the single-note contour; only
windows it does not explain are searched for two notes. Equal findings in a row make a stretch.
Octaves and unisons share all their partials, so there a second voice is looked for in the fit
itself: two voices must leave much less unexplained than one, with one steady detuning. The pitches
are robust centres of short-window fits (:mod:`pair_fit`), since players drift.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from math import sqrt

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray
from scipy import fft

from jigwright.core.isolation import isolated
from jigwright.core.sound.heard import HOP_S, Contours, Pair, Segment
from jigwright.core.sound.octaves import Octave, part_octave
from jigwright.core.sound.pair_bridges import bridged
from jigwright.core.sound.pair_fit import fit_notes
from jigwright.core.sound.pair_measure import (
    PairParams,
    Sound,
    find_beating,
    is_two,
    measure_pair,
    place_pair,
)
from jigwright.core.sound.pair_search import find_peaks, search_pair
from jigwright.core.sound.pair_strokes import are_of_one_stop, cut_in_strokes
from jigwright.core.sound.pair_written import with_written
from jigwright.core.sound.phantom_roots import find_rooted
from jigwright.core.sound.resample import BlockResampler
from jigwright.core.values import Floats, median, read_only

_OUTSIDE_DB = -17.0
_UNDER_SECOND = 0.96  # strings are out of tune and notes low
_SAME_CENTS = 65.0
_SHORTEST_S = 0.22
_BLOCK = 1 << 18
_CLEAR_NOTE = 0.95
_INSIDE_S = 0.05
_RELEASE_S = 0.12  # what begins so near the end is a string let go
_STROKE_S = 0.1
_CHUNK = 128  # windows analysed at once: bounds the memory
_STEP_CENTS = 35.0
_CLEAR_FRAME = 0.8
_SETTLED = 0.6
_CLEAR = 0.985  # one period explains a window so well that no second note is looked for
_LEAST_WAVE_DB = 0.15
_DIP_DB = 4.0
_LONG = 2.4  # windows
_LONGEST = 4.0
_TIMES = 2.2
_OCTAVE_OFF = 1e-3
_OCTAVE_BALANCE_DB = 3.0
_FEWEST_TURNS = 3


def find_pairs(
    x: Floats,
    rate_hz: int,
    contours: Contours,
    segments: tuple[Segment, ...],
    params: PairParams,
    *,
    lowest_hz: float,
    highest_hz: float,
    floor_db: float,
    second_hz: float = 0.0,
    begun_s: Sequence[float] = (),
    stops_hz: Sequence[tuple[float, float]] = (),
) -> tuple[Pair, ...]:
    """Find the stretches in which two notes sound.

    Parameters
    ----------
    x : ndarray
        The filtered sound at the internal rate.
    rate_hz : int
    contours, segments
        What was heard as single notes.
    params : PairParams
    lowest_hz, highest_hz : float
        Range of fundamentals.
    floor_db : float
        Level below which nothing is looked for.
    second_hz : float
        The second string from below. No stop but a written one lies wholly under it: both notes
        would need the lowest string.
    begun_s : sequence of float
        Moments at which a note surely begins: notes that take turns are no pair.
    stops_hz : sequence of (float, float)
        Both notes of every stop that is written.
    """
    n = round(params.window_s * rate_hz / params.divide)
    if len(x) < 2 * n * params.divide or n < 32:
        return ()
    y = _thinned(x, rate_hz, params.divide)
    rate = rate_hz / params.divide
    found = _searched(
        _suspects(y, rate, n, contours, floor_db), 2.0 * rate / n, lowest_hz, highest_hz
    )
    sound = Sound(x=y, rate_hz=rate, n=n)
    least_hz = _UNDER_SECOND * second_hz
    runs = _joined_runs(_runs(found, params.window_s), sound, contours)
    runs = [run for run in runs if run.upper_hz > least_hz]
    pairs: list[Pair] = []
    for run in runs:
        two = (run.lower_hz, run.upper_hz)
        pair = measure_pair(sound, run.start_s, run.stop_s, two, params)
        if pair is not None and is_two(sound, pair, params):
            pair = place_pair(pair, run.start_s, run.stop_s, contours, params)
            whole = _with_rest_of(_with_onset_of(pair, segments), segments, sound, params)
            strokes = cut_in_strokes(whole, contours, begun_s, window_s=params.window_s)
            again = len(strokes) > 1 and are_of_one_stop(pair, segments)
            if again or not _alternates(pair, segments, begun_s):
                pairs.extend(strokes)
    blind = tuple(sorted(pairs, key=lambda p: p.onset_s))
    asked = isolated(
        "written stops",
        lambda: with_written(
            blind, segments, stops_hz, sound, contours, params, floor_db=floor_db
        ),
        blind,
    )  # fmt: skip
    whole_stops = isolated(
        "pieces of stops", lambda: bridged(asked, segments, sound, params), asked
    )
    pairs = [
        stroke
        for p in whole_stops
        for stroke in (
            (p,)
            if any(p is q for q in pairs)
            else cut_in_strokes(p, contours, (), window_s=params.window_s)  # no beginning is sure
        )
    ]
    alone = [s for s in segments if not any(_touch(p, s) for p in pairs)]
    no_roots: list[Pair] = []
    rooted = isolated(
        "roots of stops",
        lambda: find_rooted(sound, alone, contours, params, highest_hz=highest_hz),
        no_roots,
    )
    pairs += [p for p in rooted if p.upper_hz > least_hz]
    others = tuple(pairs)
    no_octaves: list[Pair] = []
    pairs += isolated("octaves", lambda: _octaves(sound, segments, others, stops_hz), no_octaves)
    for segment in segments:
        if segment.f0_hz < least_hz or segment.offset_s - segment.onset_s < 3 * params.window_s:
            continue
        if any(_touch(p, segment) for p in pairs) or not _wavers(segment, contours, params):
            continue
        beating = find_beating(sound, segment, params, lowest_hz)
        if beating is not None:
            pairs += cut_in_strokes(beating, contours, begun_s, window_s=params.window_s)
    return tuple(sorted(pairs, key=lambda p: p.onset_s))


def _octaves(
    sound: Sound,
    segments: tuple[Segment, ...],
    pairs: Sequence[Pair],
    stops_hz: Sequence[tuple[float, float]],
) -> list[Pair]:
    """Written octaves whose two notes phase tells apart in what was heard as one."""
    lower_hz = {low for low, up in stops_hz if abs(up / low - 2.0) < _OCTAVE_OFF}
    found: list[Pair] = []
    for s in segments:
        if any(_touch(p, s) for p in pairs):
            continue
        for octave in (1.0, 2.0):  # heard as its lower note, or as its upper
            if not any(abs(1200 * np.log2(s.f0_hz / (octave * f))) < _SAME_CENTS for f in lower_hz):
                continue
            a, b = round(s.onset_s * sound.rate_hz), round(s.offset_s * sound.rate_hz)
            both = part_octave(sound.x[a:b], sound.rate_hz, s.f0_hz / octave)
            if both is not None:
                found.append(_octave_pair(both, s))
                break
    return found


def _octave_pair(both: Octave, s: Segment) -> Pair:
    unsure = both.uncertainty_cents
    return Pair(
        onset_s=s.onset_s, offset_s=s.offset_s, lower_hz=both.lower_hz, upper_hz=both.upper_hz,
        lower_uncertainty_cents=min(unsure, s.uncertainty_cents), upper_uncertainty_cents=unsure,
        balance_db=both.balance_db, balance_uncertainty_db=_OCTAVE_BALANCE_DB,
        level_dbfs=s.level_dbfs, times_s=read_only(s.onset_s + both.times_s),
        lower_track_hz=read_only(both.lower_track_hz),
        upper_track_hz=read_only(both.upper_track_hz),
        balance_track_db=read_only(np.full(len(both.times_s), both.balance_db)), parted=True,
    )  # fmt: skip


def with_pairs(segments: tuple[Segment, ...], pairs: tuple[Pair, ...]) -> tuple[Segment, ...]:
    """Put a segment in the place of every pair; what was heard there as single notes goes."""
    kept = [s for s in segments if not any(_within(s, p) for p in pairs)]
    for i, p in enumerate(pairs):
        inside = [s for s in segments if s.onset_s < p.offset_s and s.offset_s > p.onset_s]
        bowed = i > 0 and pairs[i - 1].offset_s > p.onset_s - _STROKE_S  # cut from the one before
        if bowed:
            inside = [s for s in inside if abs(s.onset_s - p.onset_s) < _INSIDE_S]
        track = 1200 * np.log2(p.lower_track_hz / p.lower_hz)
        margin_s = min(0.06, 0.2 * (p.offset_s - p.onset_s))
        kept.append(
            Segment(
                onset_s=p.onset_s, offset_s=p.offset_s, core_start_s=p.onset_s + margin_s,
                core_end_s=p.offset_s - margin_s, f0_hz=p.lower_hz,
                uncertainty_cents=p.lower_uncertainty_cents, spread_cents=float(np.std(track)),
                drift_cents_per_s=0.0, level_dbfs=p.level_dbfs,
                attack_db=inside[0].attack_db if inside else 20.0,
                clarity=max((s.clarity for s in inside), default=0.8), i_pair=i,
                slurred=bool(inside and inside[0].slurred and inside[0].onset_s >= p.onset_s),
            )
        )  # fmt: skip
    return tuple(sorted(kept, key=lambda s: s.onset_s))


def taking_turns(segments: tuple[Segment, ...], pairs: tuple[Pair, ...]) -> tuple[Segment, ...]:
    """Single notes that may have been taken for a pair because each rang on under the next.

    Notes that go to and fro between two strings and last hardly longer than their strings ring are
    two sounding pitches all along, as a double stop is. What was to be played decides.
    """
    found: list[Segment] = []
    for pair in pairs:
        inside = [s for s in segments if _within(s, pair)]
        steps = [
            abs(1200.0 * np.log2(b.f0_hz / a.f0_hz))
            for a, b in zip(inside, inside[1:], strict=False)
        ]
        if len(inside) >= _FEWEST_TURNS and min(steps) > _SAME_CENTS:
            found.extend(replace(s, doubtful=True) for s in inside)
    return tuple(found)


def _within(segment: Segment, pair: Pair) -> bool:
    shared_s = min(segment.offset_s, pair.offset_s) - max(segment.onset_s, pair.onset_s)
    return shared_s > 0.5 * (segment.offset_s - segment.onset_s)


def _touch(pair: Pair, segment: Segment) -> bool:
    return pair.onset_s < segment.offset_s - 0.1 and pair.offset_s > segment.onset_s + 0.1


def _alternates(pair: Pair, segments: tuple[Segment, ...], begun_s: Sequence[float] = ()) -> bool:
    """Whether single notes explain it, clear ones shorter than a window or such as surely begin."""
    first_s, last_s = pair.onset_s + _INSIDE_S, pair.offset_s - _RELEASE_S
    for t in begun_s:
        before = [s for s in segments if pair.onset_s - _INSIDE_S < s.onset_s < t - _INSIDE_S]
        after = [s for s in segments if abs(s.onset_s - t) < _INSIDE_S]
        if first_s < t < last_s and before and after:
            apart = 1200.0 * np.log2(after[0].f0_hz / before[-1].f0_hz)
            if abs(apart) > _SAME_CENTS:
                return True
    inside = [
        (min(s.offset_s, pair.offset_s) - max(s.onset_s, pair.onset_s), s)
        for s in segments
        if s.clarity > _CLEAR_NOTE and s.onset_s < pair.offset_s and s.offset_s > pair.onset_s
    ]
    covered_s = sum(length for length, _ in inside)
    cents = [1200 * np.log2(s.f0_hz) for _, s in inside]
    return (
        len(inside) >= 2
        and covered_s > 0.6 * (pair.offset_s - pair.onset_s)
        and max(cents) - min(cents) > 60.0
    )


def _with_onset_of(pair: Pair, segments: tuple[Segment, ...]) -> Pair:
    """Take in the beginning in which one of the two was heard alone."""
    for s in segments:
        related = any(
            abs(1200 * np.log2(k * s.f0_hz / f)) < 50 or abs(1200 * np.log2(s.f0_hz / (k * f))) < 50
            for f in (pair.lower_hz, pair.upper_hz)
            for k in (1, 2, 3)
        )
        if related and s.onset_s < pair.onset_s < s.offset_s and pair.onset_s - s.onset_s < 0.6:
            return replace(pair, onset_s=s.onset_s)
    return pair


def _with_rest_of(
    pair: Pair, segments: tuple[Segment, ...], sound: Sound, params: PairParams
) -> Pair:
    """Take in the rest of a note that is one of the two, where the other sounds there as well.

    A string far softer than the other is found in some windows only; held against the rest of the
    note with what is known now it is there or is not.
    """
    for s in segments:
        same = any(abs(1200 * np.log2(s.f0_hz / f)) < 50 for f in (pair.lower_hz, pair.upper_hz))
        if not same or s.onset_s > pair.onset_s + _INSIDE_S or s.offset_s < pair.offset_s - 0.1:
            continue
        rests = [(s.onset_s, pair.onset_s), (pair.offset_s, s.offset_s)]
        rests = [(a, b) for a, b in rests if b - a > 1.5 * params.window_s]
        two = (pair.lower_hz, pair.upper_hz)
        for a, b in rests:
            rest = measure_pair(sound, a, b, two, params)
            if rest is None or not is_two(sound, rest, params):
                break
            off = [
                abs(1200 * np.log2(one / other))
                for one, other in zip((rest.lower_hz, rest.upper_hz), two, strict=True)
            ]
            if max(off) > _STEP_CENTS:
                break
        else:
            if rests and (found := measure_pair(sound, s.onset_s, s.offset_s, two, params)):
                return replace(
                    found, onset_s=s.onset_s, offset_s=s.offset_s, level_dbfs=s.level_dbfs
                )
    return pair


def _wavers(segment: Segment, contours: Contours, params: PairParams) -> bool:
    """Whether a note's level moves as two beating voices would; a decaying or moving one is out."""
    if segment.spread_cents > 5.0:
        return False
    lo, hi = round(segment.core_start_s / HOP_S), round(segment.core_end_s / HOP_S)
    level = contours.level_db[lo + int(0.4 * (hi - lo)) : hi]  # past what the start leaves behind
    if len(level) < 20:
        return False
    at = np.linspace(-1.0, 1.0, len(level))
    bend = np.polyfit(at, level, 3)
    fall_db = abs(float(level[-1] - level[0])) / (len(level) * HOP_S) * params.window_s
    return fall_db < 3.0 and float(np.std(level - np.polyval(bend, at))) > _LEAST_WAVE_DB


def _thinned(x: Floats, rate_hz: int, divide: int) -> Floats:
    """The sound at a lower rate, made block by block in single precision."""
    resampler = BlockResampler(rate_hz, rate_hz // divide)
    parts = [
        resampler.push(x[i : i + _BLOCK].astype(np.float64)).astype(np.float32)
        for i in range(0, len(x), _BLOCK)
    ]
    return np.concatenate([*parts, resampler.finish().astype(np.float32)])


def _suspects(
    y: Floats, rate: float, n: int, contours: Contours, floor_db: float
) -> Iterator[tuple[float, Floats | None, float]]:
    """Start of every window, its spectrum where one comb does not explain it, and the bin width."""
    starts = np.arange(0, len(y) - n, n // 2)
    n_fft = 1 << int(np.ceil(np.log2(2 * n)))
    taper = np.hanning(n).astype(np.float32)
    windows = sliding_window_view(y, n)
    bins_hz = np.arange(n_fft // 2 + 1) * rate / n_fft
    for first in range(0, len(starts), _CHUNK):
        chunk = starts[first : first + _CHUNK]
        spectra = np.abs(fft.rfft(windows[chunk] * taper, n_fft, axis=1)).astype(np.float64)
        running = np.cumsum(spectra**2, axis=1)
        suspect = _are_suspect(
            spectra, running, bins_hz, 2.2 * rate / n, contours,
            (chunk / rate / HOP_S).astype(np.intp), ((chunk + n) / rate / HOP_S).astype(np.intp),
            floor_db,
        )  # fmt: skip
        for start, magnitude, doubtful in zip(chunk, spectra, suspect, strict=True):
            yield start / rate, magnitude if doubtful else None, float(bins_hz[1])


_Found = list[tuple[float, tuple[float, float] | None]]


def _searched(
    windows: Iterator[tuple[float, Floats | None, float]],
    resolution_hz: float,
    lowest_hz: float,
    highest_hz: float,
) -> _Found:
    """The two notes of every window, or ``None``.

    Windows overlap by half: one between two that agree is not searched.
    """

    def search(magnitude: Floats, bin_hz: float) -> tuple[float, float] | None:
        peaks = find_peaks(magnitude, bin_hz, resolution_hz)
        return search_pair(peaks, lowest_hz, highest_hz)

    found: _Found = []
    waiting: Floats | None = None
    for i, (start_s, magnitude, bin_hz) in enumerate(windows):
        if i % 2:
            waiting = magnitude
            found.append((start_s, None))
            continue
        two = None if magnitude is None else search(magnitude, bin_hz)
        if waiting is not None:
            before = found[-2][1]
            if before is not None and two is not None and _alike([(start_s, before)], two):
                between = (sqrt(before[0] * two[0]), sqrt(before[1] * two[1]))
                found[-1] = (found[-1][0], between)
            else:
                found[-1] = (found[-1][0], search(waiting, bin_hz))
            waiting = None
        found.append((start_s, two))
    if waiting is not None and found:
        found[-1] = (found[-1][0], search(waiting, bin_hz))
    return found


def _are_suspect(
    magnitude: Floats,
    running: Floats,
    bins_hz: Floats,
    wide_hz: float,
    contours: Contours,
    begins: NDArray[np.intp],
    ends: NDArray[np.intp],
    floor_db: float,
) -> NDArray[np.bool_]:
    """Which of some windows one comb does not explain.

    Parameters
    ----------
    magnitude, running : ndarray, shape (m, bins)
        Spectra, and their energies added up.
    bins_hz : ndarray, shape (bins,)
    wide_hz : float
        Half a main lobe.
    contours : Contours
    begins, ends : ndarray, shape (m,)
        Frames of each window.
    floor_db : float
    """
    inside = ends <= len(contours)
    length = int(np.min(ends - begins))
    rows = np.minimum(begins, max(0, len(contours) - length))[:, None] + np.arange(length)
    loud = inside & (contours.level_db[rows].mean(axis=1) >= floor_db)
    part = np.sort(contours.f0_hz[rows], axis=1)  # NaN comes last
    heard = np.count_nonzero(np.isfinite(part), axis=1)
    suspect = loud & (heard < 0.5 * length)
    loud &= ~_climbs(contours.f0_hz[rows], contours.clarity[rows])
    pitched = np.flatnonzero(loud & (heard >= 0.5 * length))
    if not len(pitched):
        return np.asarray(suspect)
    f0, n = part[pitched], heard[pitched]
    row = np.arange(len(pitched))
    f = f0[row, n // 2]
    high, low = f0[row, (0.95 * (n - 1)).astype(np.intp)], f0[row, n // 20]
    wobble = np.maximum(np.maximum(high / f - 1.0, 1.0 - low / f), 0.004)
    gaps = _gaps(running[pitched], f, wobble, float(bins_hz[1]), wide_hz)
    rough = contours.clarity[rows[pitched]].mean(axis=1) < _CLEAR
    for i, k in enumerate(pitched):
        if gaps[i] >= 2:
            suspect[k] = True
        elif rough[i]:
            order = np.maximum(np.rint(bins_hz / f[i]), 1.0)
            outside = np.abs(bins_hz - order * f[i]) > wide_hz + bins_hz * wobble[i]
            share = float(np.sum(magnitude[k][outside] ** 2)) / (float(running[k, -1]) + 1e-20)
            suspect[k] = 10 * np.log10(share + 1e-9) > _OUTSIDE_DB
    return np.asarray(suspect)


def _climbs(f0_hz: Floats, clarity: Floats) -> NDArray[np.bool_]:
    """Which windows hold two or three clear notes one after the other, shape (windows, frames)."""
    n = f0_hz.shape[1]
    width = n // 5
    cents = 1200 * np.log2(f0_hz)
    middle = (n - width) // 2
    places = [np.sort(cents[:, at : at + width]) for at in (0, middle, n - width)]  # NaN last
    notes = np.stack([place[:, width // 2] for place in places], axis=1)
    for other in (0, 2):  # one note, not two that are nearly alike
        alike = np.abs(notes[:, 1] - notes[:, other]) < _STEP_CENTS
        notes[:, 1] = np.where(alike, notes[:, other], notes[:, 1])
    off = np.abs(cents[:, None, :] - notes[:, :, None])
    off[np.isnan(off)] = np.inf
    which = np.argmin(off, axis=1)
    near = (off.min(axis=1) < _STEP_CENTS) & (clarity > _CLEAR_FRAME)
    in_order = np.maximum.accumulate(np.where(near, which, 0), axis=1) <= which
    moved = np.abs(np.diff(notes, axis=1)).max(axis=1) > 2 * _STEP_CENTS
    settled = np.count_nonzero(near, axis=1) > _SETTLED * n
    return np.asarray(moved & settled & (in_order | ~near).all(axis=1))


def _gaps(
    running: Floats, f_hz: Floats, wobble: Floats, bin_hz: float, wide_hz: float
) -> NDArray[np.intp]:
    """How many of the first five partials are missing: two notes share a lower fundamental."""
    last = running.shape[1] - 1
    row = np.arange(len(running))
    missing = np.zeros(len(running), dtype=np.intp)
    for k in range(1, 6):
        reach = np.minimum(wide_hz + k * f_hz * wobble, 0.5 * f_hz)
        lo = ((k * f_hz - reach) / bin_hz).astype(np.intp)
        hi = ((k * f_hz + reach) / bin_hz).astype(np.intp)
        around = running[row, np.minimum(hi, last)]
        around = around - running[row, np.minimum(np.maximum(0, lo - 1), last)]
        missing += around < 3e-5 * running[:, -1] + 1e-20
    return missing


@dataclass(frozen=True, slots=True, kw_only=True)
class _Run:
    start_s: float
    stop_s: float
    lower_hz: float
    upper_hz: float


def _runs(found: list[tuple[float, tuple[float, float] | None]], window_s: float) -> list[_Run]:
    """Stretches of equal pairs."""
    runs: list[list[tuple[float, tuple[float, float]]]] = []
    missed = 0
    for at_s, pair in found:
        if pair is None:
            missed += 1
            continue
        if runs and missed <= 3 and _alike(runs[-1], pair):
            runs[-1].append((at_s, pair))
        else:
            runs.append([(at_s, pair)])
        missed = 0
    result = []
    for run in runs:
        n_windows = round((run[-1][0] - run[0][0]) / (0.5 * window_s)) + 1
        if len(run) < 0.5 * n_windows:
            continue
        lower = median([p[0] for _, p in run])
        upper = median([p[1] for _, p in run])
        stop_s = run[-1][0] + window_s
        result.append(_Run(start_s=run[0][0], stop_s=stop_s, lower_hz=lower, upper_hz=upper))
    return result


def _joined_runs(runs: list[_Run], sound: Sound, contours: Contours) -> list[_Run]:
    """Join neighbours that are one double stop; leave out what is too short.

    While a low note speaks slowly one of its partials may be taken for it; and a note may be taken
    for one an octave or twelfth below. A dip of the level between them parts two strokes.
    """
    window_s = sound.n / sound.rate_hz
    joined: list[_Run] = []
    for run in runs:
        before = joined[-1] if joined else None
        near = before is not None and run.start_s - before.stop_s < window_s
        if before is not None and near and not _dips(before, run, window_s, contours):
            true = _same_stop(before, run, sound)
            if true is not None:
                joined[-1] = _Run(
                    start_s=before.start_s, stop_s=max(before.stop_s, run.stop_s),
                    lower_hz=true.lower_hz, upper_hz=true.upper_hz,
                )  # fmt: skip
                continue
        joined.append(run)
    shortest = max(_SHORTEST_S, 1.9 * window_s)
    return [r for r in joined if r.stop_s - r.start_s >= shortest]


def _dips(a: _Run, b: _Run, window_s: float, contours: Contours) -> bool:
    """Whether the level dips where one run gives way to the other."""
    middle_s = 0.5 * (a.stop_s + b.start_s)
    first_s = max(middle_s - 0.6 * window_s, a.start_s + 0.3 * window_s)
    last_s = min(middle_s + 0.6 * window_s, b.stop_s - 0.3 * window_s)
    reach = round(0.5 * window_s / HOP_S)
    lo, hi = round(first_s / HOP_S), round(last_s / HOP_S)
    level = contours.level_db
    if hi <= lo or hi > len(level):
        return False
    at = lo + int(np.argmin(level[lo:hi]))
    around = level[max(0, at - reach) : at], level[at + 1 : at + 1 + reach]
    return all(len(side) and float(side.max()) - level[at] > _DIP_DB for side in around)


def _same_stop(a: _Run, b: _Run, sound: Sound) -> _Run | None:
    """The true one of two runs that share a note and whose other notes lie in one series."""
    deep, high = (a, b) if a.lower_hz + a.upper_hz < b.lower_hz + b.upper_hz else (b, a)
    mine, theirs = (deep.lower_hz, deep.upper_hz), (high.lower_hz, high.upper_hz)
    explained = [
        any(abs(1200 * np.log2(f / (k * m))) < 40 for m in mine for k in (1, 2, 3, 4, 5))
        for f in theirs
    ]
    shared = any(abs(1200 * np.log2(f / m)) < 40 for f in theirs for m in mine)
    if not (all(explained) and shared):
        return None
    window_s = sound.n / sound.rate_hz
    shorter, longer = sorted((a, b), key=lambda r: r.stop_s - r.start_s)
    lengths_s = shorter.stop_s - shorter.start_s, longer.stop_s - longer.start_s
    if lengths_s[0] > _LONG * window_s:  # a slow start does not last that long, unless it is heard
        slow = shorter is high and lengths_s[0] < _LONGEST * window_s
        return deep if slow and _has_its_own(mine, theirs, shorter, sound) else None
    if lengths_s[0] < 1.7 * window_s and lengths_s[1] > _TIMES * lengths_s[0]:
        return longer  # one window across two notes proves nothing
    own = _has_its_own(mine, theirs, deep, sound)
    return high if own is None or not own else deep


def _has_its_own(
    mine: tuple[float, float], theirs: tuple[float, float], where: _Run, sound: Sound
) -> bool | None:
    """Whether two notes have partials there that two others cannot have; ``None``: no fit."""
    middle_s = 0.5 * (where.start_s + where.stop_s - sound.n / sound.rate_hz)
    fit = fit_notes(sound.windows([middle_s]), mine)[0]
    if fit is None:
        return None
    total = sum(float(p.sum()) for p in fit.power)
    for own, f in zip(fit.power, fit.f_hz, strict=True):
        number = np.arange(1, len(own) + 1) * f
        apart = np.ones(len(own), dtype=bool)
        for g in theirs:
            apart &= np.abs(number / g - np.rint(number / g)) * g > 10.0
        if np.any(apart) and float(own[apart].sum()) > 1e-3 * total:
            return True
    return False


def _alike(run: list[tuple[float, tuple[float, float]]], pair: tuple[float, float]) -> bool:
    lower = median([p[0] for _, p in run])
    upper = median([p[1] for _, p in run])
    off = (1200 * abs(np.log2(pair[0] / lower)), 1200 * abs(np.log2(pair[1] / upper)))
    return bool(max(off) < _SAME_CENTS)
