"""Stops that fell to pieces: two strings of which one wavers, heard as one note and the other.

Where a finger vibrates on one of two strings, windows long enough to part two notes explain it
badly, and the ear for single notes hears now the one, now the other, as often as the vibrato
swings. Notes that take turns do so as well; but then each is silent while the other sounds. The
partials that stand alone say which: filtered out of the stretch, those of both strings last through
all of it in a stop, and come and go in notes that take turns.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.sound.heard import Pair, Segment
from jigwright.core.sound.pair_lines import lone_levels_db
from jigwright.core.sound.pair_measure import PairParams, Sound, measure_stretch
from jigwright.core.values import Floats, median

_SAME_CENTS = 65.0
_NEAR_S = 0.13
_BETWEEN_S = 1.5
_SHORT_S = 0.4  # a piece of one of the two; notes in turn may be as short
_FEWEST_PIECES = 4
_LEAST_APART_CENTS = 250.0  # nearer, and without a stop beside them, notes in turn are a trill
_LEAST_S = 0.3
_EDGE_S = 0.07
_MOST_FALL_DB = 12.0
_FAINTEST_DB = 24.0
_LOW = 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class _Stretch:
    start_s: float
    stop_s: float
    lower_hz: float
    upper_hz: float
    known: tuple[float, float] | None = None


def bridged(
    pairs: Sequence[Pair], segments: Sequence[Segment], sound: Sound, params: PairParams
) -> tuple[Pair, ...]:
    """Pairs with what lies between and beside them of the same two strings taken in.

    Parameters
    ----------
    pairs : sequence of Pair
        In time order.
    segments : sequence of Segment
        What was heard as single notes, in time order.
    sound : Sound
    params : PairParams
    """
    pieces = sorted(segments, key=lambda s: s.onset_s)
    found: list[Pair] = []
    waiting = list(pairs)
    while waiting:
        pair = waiting.pop(0)
        wide = _grown(pair, pieces, waiting)
        whole = _confirmed(wide, sound, params) if wide is not None else None
        if whole is not None:
            waiting = [p for p in waiting if p.onset_s >= whole.offset_s - _NEAR_S]
            pair = whole
        found.append(pair)
    for one in _in_turn(pieces, found):
        whole = _confirmed(one, sound, params)
        if whole is not None:
            found.append(whole)
    return tuple(sorted(found, key=lambda p: p.onset_s))


def _near(f_hz: float, other_hz: float) -> bool:
    return bool(abs(1200.0 * np.log2(f_hz / other_hz)) < _SAME_CENTS)


def _belongs(f_hz: float, two: tuple[float, float]) -> bool:
    """Whether a short piece may be what one ear makes of two notes: either, or an octave off."""
    return any(_near(k * f_hz, f) for f in two for k in (0.5, 1.0, 2.0))


def _grown(pair: Pair, pieces: Sequence[Segment], later: Sequence[Pair]) -> _Stretch | None:
    """The stretch a stop lies in, as far as pieces of its strings and like stops reach."""
    two = pair.lower_hz, pair.upper_hz
    start_s, stop_s = pair.onset_s, pair.offset_s
    mine = [s for s in pieces if s.offset_s - s.onset_s < _SHORT_S and _belongs(s.f0_hz, two)]
    for s in reversed(mine):
        if s.onset_s < start_s and start_s - s.offset_s < _NEAR_S:
            start_s = s.onset_s
    alike = [p for p in later if _near(p.lower_hz, two[0]) and _near(p.upper_hz, two[1])]
    for a, b in sorted([(s.onset_s, s.offset_s) for s in mine]):
        if b > stop_s and a - stop_s < _NEAR_S:
            stop_s = b
    for p in alike:  # whatever short pieces lie between two stops that are alike
        between = [s for s in pieces if stop_s - 0.02 < s.onset_s < p.onset_s]
        if p.onset_s - stop_s < _BETWEEN_S and all(
            s.offset_s - s.onset_s < _SHORT_S for s in between
        ):
            stop_s = max(stop_s, p.offset_s)
    if pair.onset_s - start_s < 0.05 and stop_s - pair.offset_s < 0.05:
        return None
    return _Stretch(
        start_s=start_s, stop_s=stop_s, lower_hz=two[0], upper_hz=two[1],
        known=(pair.onset_s, pair.offset_s),
    )  # fmt: skip


def _in_turn(pieces: Sequence[Segment], pairs: Sequence[Pair]) -> list[_Stretch]:
    """Stretches in which short pieces of two pitches follow each other where no stop was found."""
    free = [
        s for s in pieces
        if not any(p.onset_s - 0.02 < s.onset_s < p.offset_s for p in pairs)
    ]  # fmt: skip
    found: list[_Stretch] = []
    i = 0
    while i < len(free):
        run = [free[i]]
        for s in free[i + 1 :]:
            pitches = _two_of([*run, s])
            if s.onset_s - run[-1].offset_s > _NEAR_S or pitches is None:
                break
            run.append(s)
        two = _two_of(run)
        short = [s for s in run if s.offset_s - s.onset_s < _SHORT_S]
        if len(short) >= _FEWEST_PIECES and len(short) >= len(run) - 1 and two and two[0] != two[1]:
            found.append(
                _Stretch(
                    start_s=run[0].onset_s, stop_s=run[-1].offset_s, lower_hz=two[0],
                    upper_hz=two[1],
                )
            )  # fmt: skip
            i += len(run)
        else:
            i += 1
    return found


def _two_of(run: Sequence[Segment]) -> tuple[float, float] | None:
    """The two pitches of some pieces, the same twice when they are one; ``None``: more than two."""
    low = min(s.f0_hz for s in run)
    lower = [s.f0_hz for s in run if _near(s.f0_hz, low)]
    rest = [s.f0_hz for s in run if not _near(s.f0_hz, low)]
    if not rest:
        return median(lower), median(lower)
    high = max(rest)
    if any(not _near(f, high) for f in rest):
        return None
    apart = 1200.0 * np.log2(median(rest) / median(lower))
    return (median(lower), median(rest)) if apart > _LEAST_APART_CENTS else None


def _confirmed(one: _Stretch, sound: Sound, params: PairParams) -> Pair | None:
    """The stop of a stretch, if both strings sound through all of it."""
    if one.stop_s - one.start_s < _LEAST_S:
        return None
    a, b = round(one.start_s * sound.rate_hz), round(one.stop_s * sound.rate_hz)
    two = (one.lower_hz, one.upper_hz)
    levels = lone_levels_db(sound.x[a:b], sound.rate_hz, two)
    if levels is None or not _both_last(levels, one):
        return None
    return measure_stretch(sound, one.start_s, one.stop_s, two, params)


def _both_last(levels: tuple[Floats, Floats], one: _Stretch) -> bool:
    """Whether neither string is silent for long, nor far below the other.

    What was known to be the stop says how loud both are; all that is added to it must be so.
    """
    length_s = one.stop_s - one.start_s
    middles = []
    for db in levels:
        at_s = one.start_s + length_s * (np.arange(len(db)) + 0.5) / len(db)
        inner = (at_s > one.start_s + _EDGE_S) & (at_s < one.stop_s - _EDGE_S)
        known = inner
        if one.known is not None:
            known = inner & (at_s > one.known[0]) & (at_s < one.known[1])
        if not known.any():
            return False
        middle = median(db[known])
        added = inner & ~known if one.known is not None else inner
        for part in (added & (at_s < at_s[known][0]), added & (at_s > at_s[known][-1]), inner):
            if part.any() and middle - float(np.quantile(db[part], _LOW)) > _MOST_FALL_DB:
                return False
        middles.append(middle)
    return abs(middles[0] - middles[1]) < _FAINTEST_DB
