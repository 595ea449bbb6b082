"""The record of days: what was played and what was written; and all of it to take along."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Protocol

from jigwright.core.judge.summary import TakeSummary
from jigwright.services.dayexport import studio_json
from jigwright.services.records import DayNote, Player, TakeRecord
from jigwright.services.studio_port import JigStore, PeopleStore, PracticeStore, TakeStore


class RecordStore(PeopleStore, JigStore, TakeStore, PracticeStore, Protocol):
    """What the record needs of a studio."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Day:
    """A day in the record.

    Parameters
    ----------
    day : str
    n_takes : int
    seconds : float
        Of sound recorded.
    jigs : tuple of str
        Titles.
    note : DayNote
    """

    day: str
    n_takes: int
    seconds: float
    jigs: tuple[str, ...]
    note: DayNote


def days_of(
    player: Player,
    takes: Sequence[TakeRecord],
    notes: Sequence[DayNote],
    titles: Mapping[str, str],
    today: date,
) -> list[Day]:
    """Days with takes or notes, and today, newest first."""
    by_day: dict[str, list[TakeRecord]] = {}
    for take in takes:
        by_day.setdefault(take.day.isoformat(), []).append(take)
    written = {n.day: n for n in notes}
    return [
        Day(
            day=day, n_takes=len(by_day.get(day, ())),
            seconds=sum(t.duration_s for t in by_day.get(day, ())),
            jigs=tuple(
                dict.fromkeys(titles.get(t.jig_id or "", "") for t in by_day.get(day, ()))
            ),
            note=written.get(day, DayNote(player_id=player.id, day=day)),
        )
        for day in sorted({*written, *by_day, today.isoformat()}, reverse=True)
    ]  # fmt: skip


def everything(studio: RecordStore, summary_of: Callable[[TakeRecord], TakeSummary | None]) -> str:
    """All that the studio knows as JSON, sound and curves left out."""
    takes = [*studio.takes(), *studio.takes(binned=True)]
    rows = [(t, summary_of(t), studio.remarks(t.id)) for t in takes]
    players = studio.players()
    return studio_json(
        players, studio.instruments(), studio.jigs(), rows, studio.works(),
        [note for p in players for note in studio.day_notes(p.id)],
    )  # fmt: skip
