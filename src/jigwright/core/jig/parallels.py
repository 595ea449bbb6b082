"""Parallel places of a piece (S5): bars that move alike, at any height, and where they differ."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass

from jigwright.core.jig.model import Bar, Event, Jig

FEWEST_NOTES = 5  # fewer move alike by chance
FEWEST_NOTES_OF_ONE_BAR = 8  # a single bar of fewer is a figure, not a place
_MOST_GAP_BARS = 1  # bars in a row that may differ inside a place
_LEAST_ALIKE = 0.6  # share of the bars of a place that are alike
_MOST_BARS = 1200


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
    figures = _figures(inside, bars)
    found: list[Parallel] = []
    for lag in range(1, len(bars)):
        found += _along(lag, figures, inside)
    found.sort(key=lambda p: (-p.n_notes, p.first, p.second))
    kept: list[Parallel] = []
    over: dict[int, list[Parallel]] = {}  # kept ones by the bars of their first place
    for one in found:
        if not any(_covers(big, one) for big in over.get(one.first, ())):
            kept.append(one)
            for bar in range(one.first, one.first + one.n_bars):
                over.setdefault(bar, []).append(one)
    return tuple(kept)


@dataclass(frozen=True, slots=True)
class _Figure:
    """A bar: which rhythm and motion it has, where it begins, in letters, and how many notes."""

    kind: int
    begins: int
    n_notes: int


def _figures(inside: list[tuple[Event, ...]], bars: Sequence[Bar]) -> list[_Figure]:
    kinds: dict[object, int] = {}
    found = []
    for events, bar in zip(inside, bars, strict=True):
        heads = [[(h.stopped or h.pitch).diatonic for h in e.heads] for e in events]
        begins = heads[0][0] if heads else 0
        shape = tuple(
            (e.onset_beats - bar.start_beats, e.length_beats, tuple(d - begins for d in row))
            for e, row in zip(events, heads, strict=True)
        )
        kind = kinds.setdefault(shape, len(kinds))
        found.append(_Figure(kind=kind, begins=begins, n_notes=len(events)))
    return found


def _moved(a: _Figure, b: _Figure) -> int | None:
    """By how many letters a bar lies higher; None if it does not move alike."""
    return b.begins - a.begins if a.kind == b.kind and a.n_notes else None


def _along(lag: int, shapes: list[_Figure], inside: list[tuple[Event, ...]]) -> list[Parallel]:
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
            if _moved(a, b) == steps or not (a.n_notes or b.n_notes):
                alike.append(k)
            k += 1
        n = alike[-1] + 1
        n_notes = sum(shapes[i + m].n_notes for m in alike)
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
