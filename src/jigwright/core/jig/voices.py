"""Several written voices as one row of events, and the slurs that strokes already tell.

A player has one bow: what two voices ask for is one stop after the other, some of whose notes go
on. Notes that are still sounding when another begins are *held* in the event of the new one.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import accumulate
from typing import TYPE_CHECKING, Generic, Protocol, TypeVar

if TYPE_CHECKING:
    from jigwright.core.jig.model import Event


class Lasting(Protocol):
    """Anything with a beginning and an end in beats."""

    @property
    def onset(self) -> Fraction:
        """Where it begins."""

    @property
    def end(self) -> Fraction:
        """Where it ends."""


T = TypeVar("T", bound=Lasting)
Slur = tuple[Fraction, Fraction]
"""First and last moment in beats: onsets of the first and the last note."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Slice(Generic[T]):
    """What sounds from one beginning to the next.

    Parameters
    ----------
    onset, end : Fraction
        In beats; the end is that of the longest note, or the next slice's beginning.
    new, held : tuple
        Notes that begin here, and notes that go on from before.
    """

    onset: Fraction
    end: Fraction
    new: tuple[T, ...]
    held: tuple[T, ...]


def slices(notes: Iterable[T]) -> Iterator[Slice[T]]:
    """Notes of any voices, cut wherever one begins.

    Parameters
    ----------
    notes : iterable
        In any order; each has ``onset`` and ``end`` in beats.
    """
    rows = sorted(notes, key=lambda n: n.onset)
    sounding: list[T] = []
    i = 0
    while i < len(rows):
        onset = rows[i].onset
        new = []
        while i < len(rows) and rows[i].onset == onset:
            new.append(rows[i])
            i += 1
        held = [n for n in sounding if n.end > onset]
        sounding = [*held, *new]
        end = max(n.end for n in sounding)
        if i < len(rows):
            end = min(end, rows[i].onset)
        yield Slice(onset=onset, end=end, new=tuple(new), held=tuple(held))


def strokes(events: Sequence[Event]) -> list[tuple[int, int]]:
    """First and last event of every stroke; plucked notes are their own.

    A stroke goes on where an event gives no new direction and follows without a rest.
    """
    found: list[tuple[int, int]] = []
    for i, event in enumerate(events):
        before = events[i - 1] if i else None
        goes_on = (
            before is not None
            and event.bow is None
            and not event.pluck
            and not before.pluck
            and event.onset_beats == before.end_beats
        )
        if goes_on:
            found[-1] = (found[-1][0], i)
        else:
            found.append((i, i))
    return found


def told_slurs(events: Sequence[Event]) -> list[tuple[int, int]]:
    """First and last event of every stroke that a slur tells.

    A stroke that only goes on because a note of it does is told by that note.
    """
    return [
        (a, b)
        for a, b in strokes(events)
        if any(not any(h.held for h in e.heads) for e in events[a + 1 : b + 1])
    ]


def drawn_slurs(
    events: Sequence[Event], written: Sequence[Slur], from_graces: Sequence[Slur] = ()
) -> list[Slur]:
    """All slurs: those of the strokes, and the written ones instead wherever there are any.

    Parameters
    ----------
    events : sequence of Event
    written : sequence of Slur
        Slurs that the strokes do not tell. One that begins inside a stroke, or goes over all of
        it, takes the place of the stroke's own.
    from_graces : sequence of Slur
        Slurs that begin on grace notes; they are not returned, but take its place as well.
    """
    own = []
    hiding = _Hiding([*written, *(s for s in from_graces if s[0] < s[1])])
    for a, b in told_slurs(events):
        slur = events[a].onset_beats, events[b].onset_beats
        if not hiding.n_over(slur):
            own.append(slur)
    return sorted([*own, *written])


def untold_slurs(
    events: Sequence[Event], written: Sequence[Slur], from_graces: Sequence[Slur] = ()
) -> list[Slur]:
    """Those written slurs that the strokes do not tell: the inverse of :func:`drawn_slurs`."""
    told = {(events[a].onset_beats, events[b].onset_beats) for a, b in told_slurs(events)}
    hiding = _Hiding([*written, *(s for s in from_graces if s[0] < s[1])])
    return [s for s in written if s not in told or hiding.n_over(s) > 1]  # one is itself


class _Hiding:
    """Slurs that take the place of strokes' own: they begin inside one, or go over all of it."""

    def __init__(self, slurs: Sequence[Slur]) -> None:
        rows = sorted(slurs)
        self._starts = [start for start, _ in rows]
        self._ends = [end for _, end in rows]
        self._latest = list(accumulate(self._ends, max))

    def n_over(self, slur: Slur) -> int:
        """How many there are for a stroke from its first to its last onset."""
        first, last = slur
        before = bisect_left(self._starts, first)
        inside = bisect_right(self._starts, last) - before
        while before and self._latest[before - 1] >= last:
            before -= 1
            inside += self._ends[before] >= last
        return inside
