"""Stops that are written, looked for where what was heard explains the sound badly.

A blind search takes what explains most: two notes with a common root are at times taken for that
root and one of them, and a finger that vibrates leaves windows in which no pair is clear. What is
written is a hypothesis like any other: held against the windows that no clear pair or note
explains, it counts where it leaves little unexplained, less than its better voice alone, and about
as little as whatever else was made of it. Another stop than the written ones stays what it is.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from jigwright.core.sound.heard import HOP_S, Contours, Pair, Segment
from jigwright.core.sound.pair_fit import fit_notes
from jigwright.core.sound.pair_lines import lone_levels_db
from jigwright.core.sound.pair_measure import PairParams, Sound, all_meet, is_stop, measure_stretch
from jigwright.core.values import Floats

Stop = tuple[float, float]

_SAME_CENTS = 65.0
MOST_STOPS = 40
_CLEAR = 0.96  # a long note as clear as this is one note
_LONG_S = 0.3
_MOST_LEFT = 0.35
_GAIN_DB = 3.0
PRIOR = 1.4  # what is written may leave so many times as much as what was heard
SLACK = 0.02
_LEAST_S = 0.24
_ROOT_CENTS, _HIGHEST_ORDER = 40.0, 9
_FAINTEST_DB = 22.0
_FEWEST = 2
_MOST_UNCLEAR = 6  # windows that waver, between clear ones of the same stop


@dataclass(frozen=True, slots=True, kw_only=True)
class _Region:
    start_s: float
    stop_s: float


def with_written(
    pairs: Sequence[Pair],
    segments: Sequence[Segment],
    stops_hz: Sequence[Stop],
    sound: Sound,
    contours: Contours,
    params: PairParams,
    *,
    floor_db: float,
) -> tuple[Pair, ...]:
    """Pairs, with written ones in place of what they explain as well.

    Parameters
    ----------
    pairs, segments
        What was heard as two notes and as one.
    stops_hz : sequence of (float, float)
        Both fundamentals of every written stop but octaves and unisons, about where they are
        played.
    sound : Sound
    contours : Contours
    params : PairParams
    floor_db : float
        Level below which nothing is looked for.
    """
    stops = [s for s in dict.fromkeys(stops_hz) if not all_meet(s)][:MOST_STOPS]
    if not stops:
        return tuple(pairs)
    kept = [p for p in pairs if all_meet(_two(p)) or any(is_stop(_two(p), s) for s in stops)]
    doubtful = [p for p in pairs if not any(p is q for q in kept)]
    found: list[Pair] = []
    single = [s for s in segments if not any(_is_root(s.f0_hz, stop) for stop in stops)]
    for region in _regions(kept, single, contours, floor_db, params.window_s):
        near = _near_to(region, stops, segments, doubtful)
        if near:
            found += _in_region(region, near, doubtful, sound, params)
    left = [p for p in doubtful if not any(_overlap_s(p, f) > 0.3 * _length(p) for f in found)]
    return tuple(sorted([*kept, *found, *left], key=lambda p: p.onset_s))


def _two(pair: Pair) -> Stop:
    return pair.lower_hz, pair.upper_hz


def _is_root(f_hz: float, stop: Stop) -> bool:
    """Whether both notes of a stop are partials of a note: one ear may hear that alone."""
    orders = [max(1.0, round(f / f_hz)) for f in stop]
    off = [abs(1200.0 * np.log2(f / (k * f_hz))) for f, k in zip(stop, orders, strict=True)]
    return bool(orders[0] > 1 and orders[1] <= _HIGHEST_ORDER and max(off) < _ROOT_CENTS)


def _length(pair: Pair) -> float:
    return pair.offset_s - pair.onset_s


def _overlap_s(a: Pair, b: Pair) -> float:
    return min(a.offset_s, b.offset_s) - max(a.onset_s, b.onset_s)


def _regions(
    kept: Sequence[Pair],
    segments: Sequence[Segment],
    contours: Contours,
    floor_db: float,
    window_s: float,
) -> list[_Region]:
    """Loud stretches that neither a written stop nor a long clear note explains."""
    open_ = contours.level_db > floor_db
    spans = [(p.onset_s, p.offset_s) for p in kept]
    spans += [
        (s.onset_s, s.offset_s) for s in segments
        if s.clarity > _CLEAR and s.offset_s - s.onset_s > _LONG_S
    ]  # fmt: skip
    for a, b in spans:
        open_[max(0, round(a / HOP_S)) : round(b / HOP_S)] = False
    edges = np.flatnonzero(np.diff(np.concatenate([[False], open_, [False]]).astype(int)))
    return [
        _Region(start_s=float(a * HOP_S), stop_s=float(b * HOP_S))
        for a, b in edges.reshape(-1, 2)
        if (b - a) * HOP_S > max(_LEAST_S, 1.2 * window_s)
    ]


def _near_to(
    region: _Region, stops: Sequence[Stop], segments: Sequence[Segment], doubtful: Sequence[Pair]
) -> list[Stop]:
    """Stops that what was heard in a stretch may be a part of; all where nothing was."""
    inside = [s for s in segments if s.onset_s < region.stop_s and s.offset_s > region.start_s]
    both = [p for p in doubtful if p.onset_s < region.stop_s and p.offset_s > region.start_s]
    heard = [s.f0_hz for s in inside] + [f for p in both for f in _two(p)]
    if not heard:
        return list(stops)
    return [s for s in stops if any(_may_be_of(f, s) for f in heard)]


def _may_be_of(f_hz: float, stop: Stop) -> bool:
    """Whether a pitch is either note of a stop, an octave from it, or a root of both."""
    return _is_root(f_hz, stop) or any(
        abs(1200.0 * np.log2(k * f_hz / f)) < _SAME_CENTS for f in stop for k in (0.5, 1.0, 2.0)
    )


def _in_region(
    region: _Region,
    stops: Sequence[Stop],
    doubtful: Sequence[Pair],
    sound: Sound,
    params: PairParams,
) -> list[Pair]:
    starts = np.arange(region.start_s, region.stop_s - 0.8 * params.window_s, 0.5 * params.window_s)
    if len(starts) < _FEWEST:
        return []
    which = _best(starts, stops, doubtful, sound, params)
    found: list[Pair] = []
    at = 0
    while at < len(starts):
        end = at
        while end + 1 < len(starts) and which[end + 1] == which[at]:
            end += 1
        if which[at] >= 0 and end - at + 1 >= _FEWEST:
            first_s = region.start_s if at == 0 else float(starts[at])
            last_s = float(starts[end]) + params.window_s
            if end == len(starts) - 1:
                last_s = region.stop_s
            pair = _measured(first_s, last_s, stops[which[at]], sound, params)
            if pair is not None:
                found.append(pair)
        at = end + 1
    return _parted(found)


def _best(
    starts: Floats,
    stops: Sequence[Stop],
    doubtful: Sequence[Pair],
    sound: Sound,
    params: PairParams,
) -> list[int]:
    """The written stop that explains each window, -1 for none; a window alone goes with both sides.

    The stops are tried with all windows at once; most leave nearly everything.
    """
    windows = sound.windows(starts)
    left = np.ones((len(stops), len(starts)))
    for i, stop in enumerate(stops):
        fits = fit_notes(windows, stop, whole=True)
        left[i] = [f.left_ratio if f is not None else 1.0 for f in fits]
    best = np.argmin(left, axis=0)
    least = left[best, np.arange(len(starts))]
    which = np.where(least < _MOST_LEFT, best, -1)
    for i in {int(k) for k in which if k >= 0}:
        mine = np.flatnonzero(which == i)
        some = sound.windows(starts[mine])
        alone = np.min(
            [
                [f.left_ratio if f is not None else 1.0 for f in fit_notes(some, (v,), whole=True)]
                for v in stops[i]
            ],
            axis=0,
        )
        which[mine[alone < least[mine] * 10 ** (_GAIN_DB / 10)]] = -1
    for p in doubtful:
        centre = starts + 0.5 * params.window_s
        mine = np.flatnonzero((centre > p.onset_s) & (centre < p.offset_s) & (which >= 0))
        if len(mine):
            fits = fit_notes(sound.windows(starts[mine]), (p.lower_hz, p.upper_hz), whole=True)
            heard = np.array([f.left_ratio if f is not None else 1.0 for f in fits])
            which[mine[least[mine] > PRIOR * heard + SLACK]] = -1
    return _filled([int(k) for k in which])


def _filled(which: list[int]) -> list[int]:
    """Windows that nothing explains, between two of one stop, are of that stop."""
    out = list(which)
    last = -1
    for k, one in enumerate(which):
        if one < 0:
            continue
        if last >= 0 and which[last] == one and k - last - 1 <= _MOST_UNCLEAR:
            out[last + 1 : k] = [one] * (k - last - 1)
        last = k
    return out


def _measured(
    start_s: float, stop_s: float, stop: Stop, sound: Sound, params: PairParams
) -> Pair | None:
    a, b = round(start_s * sound.rate_hz), round(stop_s * sound.rate_hz)
    levels = lone_levels_db(sound.x[a:b], sound.rate_hz, stop)
    if levels is None or abs(np.median(levels[0]) - np.median(levels[1])) > _FAINTEST_DB:
        return None
    pair = measure_stretch(sound, start_s, stop_s, stop, params)
    return pair if pair is not None and is_stop(_two(pair), stop) else None


def _parted(found: list[Pair]) -> list[Pair]:
    """Neighbours that share windows give way to each other half-way."""
    out: list[Pair] = []
    for pair in found:
        if out and out[-1].offset_s > pair.onset_s:
            middle_s = 0.5 * (out[-1].offset_s + pair.onset_s)
            out[-1] = replace(out[-1], offset_s=middle_s)
            pair = replace(pair, onset_s=middle_s)
        out.append(pair)
    return out
