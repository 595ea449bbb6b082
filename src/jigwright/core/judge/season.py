"""Weeks at a glance: what was worked on in each, and how far it was met (L4).

One row for each jig, one cell for each week. A cell is filled by the mean of its takes: one that
met its aims counts whole, one that did not by the share of its notes inside the tolerance. What
cannot be told counts for nothing, neither way. It is a picture of work done, not a claim that
anything became better: for that there is the trend with its uncertainty.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

DAYS = 7
WEEKS, MOST_ROWS = 12, 8


@dataclass(frozen=True, slots=True, kw_only=True)
class SeasonTake:
    """As much of a take as the picture needs.

    Parameters
    ----------
    take_id, jig_id : str
    day : int
        Number of the day.
    met : bool or None
        Whether its aims were met; ``None``: it has none, or it cannot be told.
    inside : float or None
        Share of its notes inside the tolerance; ``None``: not known.
    kept : bool
        A reference take.
    """

    take_id: str
    jig_id: str
    day: int
    met: bool | None
    inside: float | None
    kept: bool = False

    @property
    def share(self) -> float | None:
        """How far it was met."""
        return 1.0 if self.met else self.inside


@dataclass(frozen=True, slots=True, kw_only=True)
class SeasonCell:
    """A jig in a week.

    Parameters
    ----------
    take_ids : tuple of str
        Oldest first.
    share : float or None
        Mean of what could be told.
    n_met : int
    kept : bool
    """

    take_ids: tuple[str, ...] = ()
    share: float | None = None
    n_met: int = 0
    kept: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class SeasonRow:
    """A jig over the weeks."""

    jig_id: str
    cells: tuple[SeasonCell, ...]

    @property
    def n_takes(self) -> int:
        """Takes in all weeks shown."""
        return sum(len(c.take_ids) for c in self.cells)


def first_day(last_monday: int, weeks: int = WEEKS) -> int:
    """The Monday the picture begins with."""
    return last_monday - DAYS * (weeks - 1)


def season(
    takes: Sequence[SeasonTake], last_monday: int, *, weeks: int = WEEKS, rows: int = MOST_ROWS
) -> tuple[SeasonRow, ...]:
    """Jigs by week: what was played last comes first.

    Parameters
    ----------
    takes : sequence of SeasonTake
        Oldest first.
    last_monday : int
        Number of the day the last week begins with.
    weeks, rows : int
    """
    begins = first_day(last_monday, weeks)
    inside = [t for t in takes if begins <= t.day < last_monday + DAYS]
    by_jig: dict[str, list[SeasonTake]] = {}
    for take in inside:
        by_jig.setdefault(take.jig_id, []).append(take)
    newest = sorted(by_jig, key=lambda j: (by_jig[j][-1].day, len(by_jig[j])), reverse=True)
    return tuple(
        SeasonRow(
            jig_id=jig_id,
            cells=tuple(
                _cell([t for t in by_jig[jig_id] if (t.day - begins) // DAYS == k])
                for k in range(weeks)
            ),
        )
        for jig_id in newest[:rows]
    )


def _cell(takes: Sequence[SeasonTake]) -> SeasonCell:
    shares = [t.share for t in takes if t.share is not None]
    return SeasonCell(
        take_ids=tuple(t.take_id for t in takes),
        share=sum(shares) / len(shares) if shares else None,
        n_met=sum(bool(t.met) for t in takes), kept=any(t.kept for t in takes),
    )  # fmt: skip
