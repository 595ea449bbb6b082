"""What a finger's landings woke over takes, and where the string answers most."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from jigwright.core.gauge.values import Ring, StringRing
from jigwright.core.judge.most_ring import MostRing, RingLanding, most_ring
from jigwright.core.judge.sounding import fits
from jigwright.core.music.pitch import Pitch
from jigwright.core.values import median
from jigwright.services.records import TakeRecord
from jigwright.services.take_reader import AS_PLAYED, TakeReader, View

_Place = tuple[Pitch, int | None, int | None]
TUNED_BY = ("violin", "viola")
"""Where the ring lies within a few cents; lower instruments confirm a place, they do not tune."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WokenRow:
    """A landing and one string it could wake.

    Parameters
    ----------
    pitch : Pitch
    finger, on_string : int or None
        What it was played with.
    cents : float
        From the target.
    one : StringRing
    """

    pitch: Pitch
    finger: int | None
    on_string: int | None
    cents: float
    one: StringRing


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """Where a string answers a finger most.

    Parameters
    ----------
    string : int
        0 = lowest.
    place : MostRing
    n_takes : int
    """

    string: int
    place: MostRing
    n_takes: int


def woken(reader: TakeReader, take: TakeRecord, view: View = AS_PLAYED) -> tuple[WokenRow, ...]:
    """Every landing of a take with every string of which it can be told."""
    rows = []
    for note, ring in zip(reader.landings(take, view), reader.rings(take), strict=False):
        if note.cents is None or not isinstance(ring, Ring):
            continue
        rows += [
            WokenRow(
                pitch=note.pitch, finger=note.finger, on_string=note.string, cents=note.cents,
                one=one,
            )
            for one in ring.strings
            if one.state != "unknown"
        ]  # fmt: skip
    return tuple(rows)


@dataclass(frozen=True, slots=True, kw_only=True)
class OverTakes:
    """How often a string rang after one note, over takes: a note with itself.

    Parameters
    ----------
    string : int
        0 = lowest.
    n_rang, n_told : int
        Landings after which it rang, of those of which it can be told.
    n_takes : int
    """

    string: int
    n_rang: int
    n_told: int
    n_takes: int


def over_takes(
    takes: Iterable[tuple[WokenRow, ...]], pitch: Pitch, finger: int | None, on_string: int | None
) -> tuple[OverTakes, ...]:
    """Each string a note could wake, over takes, the one most often told first."""
    told: dict[int, list[tuple[int, bool]]] = {}
    for n, rows in enumerate(takes):
        for r in rows:
            if (r.pitch, r.finger, r.on_string) == (pitch, finger, on_string):
                rang = r.one.state == "rang"
                if rang or fits(r.one, r.cents):
                    told.setdefault(r.one.meeting.string, []).append((n, rang))
    found = [
        OverTakes(
            string=string, n_rang=sum(rang for _, rang in rows), n_told=len(rows),
            n_takes=len({n for n, _ in rows}),
        )
        for string, rows in told.items()
    ]  # fmt: skip
    return tuple(sorted(found, key=lambda o: (-o.n_told, -o.n_rang, o.string)))


@dataclass(frozen=True, slots=True, kw_only=True)
class RingTableRow:
    """One note and one string it can wake, take by take: a note with itself.

    Parameters
    ----------
    pitch : Pitch
    finger, on_string : int or None
        What it is played with.
    string : int
        0 = lowest.
    cells : tuple of (bool, float) or None
        For each take: whether it rang, and how loud (dB re the note; NaN where it did not);
        ``None`` where it cannot be told.
    """

    pitch: Pitch
    finger: int | None
    on_string: int | None
    string: int
    cells: tuple[tuple[bool, float] | None, ...]

    @property
    def n_rang(self) -> int:
        """Takes in which it rang."""
        return sum(c is not None and c[0] for c in self.cells)

    @property
    def n_told(self) -> int:
        """Takes in which it can be told."""
        return sum(c is not None for c in self.cells)


def ring_table(takes: Sequence[tuple[WokenRow, ...]]) -> tuple[RingTableRow, ...]:
    """Every note that could wake a string in two takes or more, low to high.

    Of several landings in one take the loudest counts; one that did not fit the string is not held
    against it.
    """
    found: dict[tuple[int, int, _Place], dict[int, tuple[bool, float]]] = {}
    for n, rows in enumerate(takes):
        for r in rows:
            rang = r.one.state == "rang"
            if not rang and not fits(r.one, r.cents):
                continue
            key = (r.pitch.midi, r.one.meeting.string, (r.pitch, r.finger, r.on_string))
            level_db = r.one.level_db if rang and r.one.level_db is not None else float("nan")
            cell, before = (rang, level_db), found.setdefault(key, {}).get(n)
            if before is None or (rang and not (before[0] and before[1] >= level_db)):
                found[key][n] = cell
    return tuple(
        RingTableRow(
            pitch=place[0], finger=place[1], on_string=place[2], string=string,
            cells=tuple(cells.get(n) for n in range(len(takes))),
        )
        for (_, string, place), cells in sorted(found.items(), key=lambda item: item[0][:2])
        if len(cells) > 1
    )  # fmt: skip


def answer_to(
    takes: Iterable[tuple[WokenRow, ...]], pitch: Pitch, finger: int | None, on_string: int | None
) -> Answer | None:
    """Where a string answers a finger most over takes; ``None`` where the landings do not say.

    Parameters
    ----------
    takes : iterable of tuple of WokenRow
        Of each take.
    pitch, finger, on_string
        The note and what it is played with.
    """
    found: dict[int, list[WokenRow]] = {}
    used: dict[int, int] = {}
    for rows in takes:
        mine = [r for r in rows if (r.pitch, r.finger, r.on_string) == (pitch, finger, on_string)]
        for string in {r.one.meeting.string for r in mine}:
            used[string] = used.get(string, 0) + 1
            found.setdefault(string, []).extend(r for r in mine if r.one.meeting.string == string)
    answers = [
        Answer(string=string, place=place, n_takes=used[string])
        for string, rows in found.items()
        if (place := _place(rows)) is not None
    ]
    return min(answers, key=lambda a: a.place.uncertainty_cents, default=None)


def _place(rows: list[WokenRow]) -> MostRing | None:
    landings = [
        RingLanding(
            cents=r.cents, level_db=r.one.level_db if r.one.state == "rang" else None,
            limit_db=r.one.limit_db,
        )
        for r in rows
    ]  # fmt: skip
    return most_ring(landings, median([r.one.meeting.half_width_cents for r in rows]))
