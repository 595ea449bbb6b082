"""Parallel places of a piece (S5): bars that move alike, at any height, and where they differ."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass
from fractions import Fraction

from jigwright.core.jig.model import Event, Jig

FEWEST_NOTES = 5  # fewer move alike by chance
FEWEST_NOTES_OF_ONE_BAR = 8  # a single bar of fewer is a figure, not a place
_MOST_GAP_BARS = 1  # bars in a row that may differ inside a place
_LEAST_ALIKE = 0.6  # share of the bars of a place that are alike
_MOST_BARS = 1200

_Shape = tuple[tuple[Fraction, Fraction, tuple[int, ...]], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Parallel:
    """Two places that move alike.

    Parameters
    ----------
    first, second : int
        Indices of their first bars.
    n_bars : int
    steps : int
        Letters that the second lies higher.
    semitones : int
        The same in semitones at its first note.
    n_notes : int
        Notes in bars that are alike.
    differ : tuple of int
        Bars, counted from 0 inside the place, that are not alike.
    """

    first: int
    second: int
    n_bars: int
    steps: int
    semitones: int
    n_notes: int
    differ: tuple[int, ...] = ()


def parallels(jig: Jig) -> tuple[Parallel, ...]:
    """All pairs of places that move alike, the longest first; none lies inside another.

    Bars are alike when the same lengths come at the same beats and every note moves by the same
    number of letters from the first bar of the place. One bar in between may differ.
    """
    bars = jig.bars()[:_MOST_BARS]
    onsets = [e.onset_beats for e in jig.events]
    inside = [
        jig.events[
            bisect_left(onsets, b.start_beats) : bisect_left(onsets, b.start_beats + b.length_beats)
        ]
        for b in bars
    ]
    shapes = [_shape(events, b.start_beats) for events, b in zip(inside, bars, strict=True)]
    found: list[Parallel] = []
    for lag in range(1, len(bars)):
        found += _along(lag, shapes, inside)
    found.sort(key=lambda p: (-p.n_notes, p.first, p.second))
    kept: list[Parallel] = []
    for one in found:
        if not any(_covers(big, one) for big in kept):
            kept.append(one)
    return tuple(kept)


def _shape(events: tuple[Event, ...], start: Fraction) -> _Shape:
    """Where notes lie and how high, in letters."""
    return tuple(
        (
            e.onset_beats - start,
            e.length_beats,
            tuple((h.stopped or h.pitch).diatonic for h in e.heads),
        )
        for e in events
    )


def _moved(a: _Shape, b: _Shape) -> int | None:
    """By how many letters a bar lies higher; None if it does not move alike."""
    if len(a) != len(b) or not a:
        return None
    steps = None
    for (at, length, heads), (to, long, others) in zip(a, b, strict=True):
        if at != to or length != long or len(heads) != len(others):
            return None
        for x, y in zip(heads, others, strict=True):
            if steps is None:
                steps = y - x
            elif y - x != steps:
                return None
    return steps


def _along(lag: int, shapes: list[_Shape], inside: list[tuple[Event, ...]]) -> list[Parallel]:
    """Places whose second lies so many bars behind the first."""
    found: list[Parallel] = []
    i = 0
    while i + lag < len(shapes):
        steps = _moved(shapes[i], shapes[i + lag])
        if steps is None:
            i += 1
            continue
        alike, k = [0], 1
        while k < lag and i + lag + k < len(shapes) and k - alike[-1] <= _MOST_GAP_BARS + 1:
            a, b = shapes[i + k], shapes[i + lag + k]
            if _moved(a, b) == steps or (not a and not b):
                alike.append(k)
            k += 1
        n = alike[-1] + 1
        n_notes = sum(len(shapes[i + m]) for m in alike)
        least = FEWEST_NOTES if len(alike) > 1 else FEWEST_NOTES_OF_ONE_BAR
        if n_notes >= least and len(alike) >= _LEAST_ALIKE * n:
            low, high = inside[i][0].heads[0].pitch, inside[i + lag][0].heads[0].pitch
            found.append(
                Parallel(
                    first=i, second=i + lag, n_bars=n, steps=steps, n_notes=n_notes,
                    semitones=high.midi - low.midi,
                    differ=tuple(m for m in range(n) if m not in alike),
                )
            )  # fmt: skip
        i += n
    return found


def _covers(big: Parallel, small: Parallel) -> bool:
    """Whether a pair of places lies inside another pair."""
    return all(
        x <= y and y + small.n_bars <= x + big.n_bars
        for x, y in ((big.first, small.first), (big.second, small.second))
    )
