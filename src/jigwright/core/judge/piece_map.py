"""The map of a piece: for every bar how its notes went in the last takes that touched it.

Takes of the piece, of its earlier revisions and of what was made out of it (spots, steps, slower
ones) count alike: notes are found again by the ids of their events.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from jigwright.core.jig.model import Jig
from jigwright.core.jig.spot_path import MOST_BARS, WeakPlace, events_of
from jigwright.core.judge.aims import AimResult
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.marking import is_excused

NoteState = Literal["met", "not_met", "unknown"]
FEWEST_OFF = 2
"""Notes that make a place weak in one take: one is chance."""
MOST_THREADS = 6
"""Takes that are shown of a bar, the last ones."""
_MET: dict[str, NoteState] = {
    "in": "met", "low": "not_met", "high": "not_met", "wrong": "not_met", "missed": "not_met",
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """A remark somebody left at a note of a take.

    Parameters
    ----------
    day, who, words : str
    """

    day: str
    who: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Played:
    """What a take says of the events of its jig.

    Parameters
    ----------
    take_id, day : str
        The day as it was where it was played, ISO 8601.
    states : mapping of str to NoteState
        By event id.
    said : tuple of (str, Said)
        Remarks left in it, each with the id of its event.
    """

    take_id: str
    day: str
    states: Mapping[str, NoteState]
    said: tuple[tuple[str, Said], ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Thread:
    """One take in one bar.

    Parameters
    ----------
    take_id, day : str
    n_met, n_not_met, n_unknown : int
        Events of the bar that the take played.
    """

    take_id: str
    day: str
    n_met: int
    n_not_met: int
    n_unknown: int

    @property
    def share(self) -> float | None:
        """Share of the events that were met, of those that can be told; None if of none."""
        told = self.n_met + self.n_not_met
        return self.n_met / told if told else None


@dataclass(frozen=True, slots=True, kw_only=True)
class BarCell:
    """One bar of the map.

    Parameters
    ----------
    i_bar, number : int
    span : (int, int) or None
        First and last event that begin in it; None for a bar of rest.
    threads : tuple of Thread
        The oldest first.
    said : tuple of Said
        Remarks left at its notes, the oldest first.
    """

    i_bar: int
    number: int
    span: tuple[int, int] | None
    threads: tuple[Thread, ...] = ()
    said: tuple[Said, ...] = ()


def states_of(
    notes: Sequence[JudgedNote], jig: Jig, aims: Sequence[AimResult] = ()
) -> dict[str, NoteState]:
    """State of every event that a take played or left out.

    A repeated attempt counts by its last; an aim that was not met counts against the event of the
    note that decided it.

    Parameters
    ----------
    notes : sequence of JudgedNote
    jig : Jig
        The one that was played.
    aims : sequence of AimResult
    """
    states: dict[str, NoteState] = {}
    event_of_row: dict[int, str] = {}
    for row, note in enumerate(notes):
        i = note.measured.lined.i_event
        if i is not None:
            state = _MET.get(note.standing, "unknown")
            if note.standing in ("low", "high") and is_excused(note, jig):
                state = "met"  # nobody marks it: an open string, within its vibrato, a free place
            states[jig.events[i].id] = state
            event_of_row[row] = jig.events[i].id
    for result in aims:
        if result.state == "not_met" and result.row in event_of_row:
            states[event_of_row[result.row]] = "not_met"
    return states


def weak_place(states: Mapping[str, NoteState], jig: Jig) -> WeakPlace | None:
    """The place of a piece that went worst in one take; None where fewer than two notes did.

    The bar with most notes that went wrong, with the bars beside it that had some too, four at
    most; of several alike the first.
    """
    bars = jig.bars()
    starts = [b.start_beats for b in bars]
    off: list[list[int]] = [[] for _ in bars]
    told = [0] * len(bars)
    for i, event in enumerate(jig.events):
        k = bisect_right(starts, event.onset_beats) - 1
        state = states.get(event.id, "unknown")
        told[k] += state != "unknown"
        if state == "not_met":
            off[k].append(i)
    if not any(off):
        return None
    first = last = max(range(len(bars)), key=lambda k: len(off[k]))
    while last - first + 1 < MOST_BARS:
        before = len(off[first - 1]) if first else 0
        after = len(off[last + 1]) if last + 1 < len(bars) else 0
        if not before and not after:
            break
        first, last = (first, last + 1) if after >= before else (first - 1, last)
    n_off = sum(len(off[k]) for k in range(first, last + 1))
    if n_off < FEWEST_OFF:
        return None
    worst = off[max(range(first, last + 1), key=lambda k: len(off[k]))][0]
    return WeakPlace(
        first_bar=first, last_bar=last, worst=worst, n_off=n_off,
        n_told=sum(told[first : last + 1]),
    )  # fmt: skip


def went_in(states: Mapping[str, NoteState], jig: Jig, place: WeakPlace) -> tuple[int, int]:
    """Notes of a place that went wrong, and those that could be told, in one take."""
    first, last = events_of(jig, place.first_bar, place.last_bar)
    found = [states.get(e.id, "unknown") for e in jig.events[first : last + 1]]
    return found.count("not_met"), len(found) - found.count("unknown")


def event_at(notes: Sequence[JudgedNote], jig: Jig, note_id: str | None, at_s: float) -> str | None:
    """Id of the event that a moment of a take belongs to: by its note, else the last one begun."""
    if note_id is not None:
        for event in jig.events:
            if any(h.id == note_id for h in event.heads):
                return event.id
    begun = [
        (n.measured.segment.onset_s, n.measured.lined.i_event)
        for n in notes
        if n.measured.segment is not None and n.measured.lined.i_event is not None
    ]
    earlier = [(onset, i) for onset, i in begun if onset <= at_s]
    i = max(earlier)[1] if earlier else min(begun)[1] if begun else None
    return None if i is None else jig.events[i].id


def map_piece(
    jig: Jig, played: Iterable[Played], *, most: int = MOST_THREADS
) -> tuple[BarCell, ...]:
    """Weave the takes into the bars of a piece.

    Parameters
    ----------
    jig : Jig
    played : iterable of Played
        In order of time.
    most : int
        Takes kept of each bar, the last ones.
    """
    bars = jig.bars()
    starts = [b.start_beats for b in bars]
    inside: list[list[int]] = [[] for _ in bars]
    bar_of: dict[str, int] = {}
    for i, event in enumerate(jig.events):
        k = bisect_right(starts, event.onset_beats) - 1
        inside[k].append(i)
        bar_of[event.id] = k
    threads: list[list[Thread]] = [[] for _ in bars]
    said: list[list[Said]] = [[] for _ in bars]
    for take in played:
        for event_id, remark in take.said:
            if event_id in bar_of:
                said[bar_of[event_id]].append(remark)
        counts: dict[int, dict[NoteState, int]] = {}
        for event_id, state in take.states.items():
            at = bar_of.get(event_id)
            if at is not None:
                there = counts.setdefault(at, {"met": 0, "not_met": 0, "unknown": 0})
                there[state] += 1
        for k, n in counts.items():
            threads[k].append(
                Thread(
                    take_id=take.take_id, day=take.day, n_met=n["met"], n_not_met=n["not_met"],
                    n_unknown=n["unknown"],
                )
            )  # fmt: skip
    return tuple(
        BarCell(
            i_bar=k, number=bar.number, span=(inside[k][0], inside[k][-1]) if inside[k] else None,
            threads=tuple(threads[k][-most:]), said=tuple(said[k]),
        )
        for k, bar in enumerate(bars)
    )  # fmt: skip


def weakest(cells: Sequence[BarCell]) -> BarCell | None:
    """The bar that went worst in the takes it has: twice and more, and more often than not.

    Once is chance; of several alike the first.
    """
    worst: tuple[float, int] | None = None
    for k, cell in enumerate(cells):
        shares = [t.share for t in cell.threads if t.share is not None]
        bad = sum(s < 1.0 for s in shares)
        if bad >= 2 and 2 * bad > len(shares):
            mean = sum(shares) / len(shares)
            if worst is None or mean < worst[0]:
                worst = (mean, k)
    return None if worst is None else cells[worst[1]]
