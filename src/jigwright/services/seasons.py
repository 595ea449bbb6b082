"""The weeks of a player, from the takes of a studio."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date, timedelta

from jigwright.core.judge.season import SeasonRow, SeasonTake, first_day, season
from jigwright.core.judge.summary import TakeSummary
from jigwright.services.records import TakeRecord


def season_of(
    takes: Sequence[TakeRecord], summary_of: Callable[[TakeRecord], TakeSummary | None],
    today: date,
) -> tuple[date, tuple[SeasonRow, ...]]:  # fmt: skip
    """The last weeks of a player.

    Parameters
    ----------
    takes : sequence of TakeRecord
        Oldest first.
    summary_of : callable
        Figures of a take as far as they are made.
    today : date

    Returns
    -------
    (date, tuple of SeasonRow)
        The Monday it begins with, and a row for each jig.
    """
    monday = (today - timedelta(days=today.weekday())).toordinal()
    rows = [
        SeasonTake(
            take_id=t.id, jig_id=t.jig_id, day=t.day.toordinal(),
            met=summary.aims_met if summary is not None else None,
            inside=summary.inside if summary is not None else None, kept=t.mark == "kept",
        )
        for t in takes
        if t.jig_id is not None
        for summary in (summary_of(t),)
    ]  # fmt: skip
    return date.fromordinal(first_day(monday)), season(rows, monday)
