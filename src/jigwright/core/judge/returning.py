"""When an exercise comes again: the next day while it is not met, then at growing distances.

What is repeated after a while keeps better than what is repeated at once, and the while may grow
with each time it was met (Cepeda et al. 2006, *Distributed practice in verbal recall tasks*; for
movements Shea et al. 2000).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

STEPS_DAYS = (1, 3, 7, 14, 28)
"""Days until it comes again after it was met once, twice … at its time; the last goes on."""
NOT_MET_DAYS = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class PlayedDay:
    """A day on which an exercise was played.

    Parameters
    ----------
    day : int
        Number of the day.
    met : bool or None
        Whether its last take that day met its aims; ``None``: that cannot be told.
    """

    day: int
    met: bool | None


def comes_again(days: Sequence[PlayedDay]) -> int | None:
    """The day an exercise is due again; ``None`` where it was never played.

    Parameters
    ----------
    days : sequence of PlayedDay
        In order of time, one a day. Met before its time it stays at its distance; a day of which
        nothing can be told neither goes forward nor back.
    """
    if not days:
        return None
    level, due = 0, days[0].day
    for one in days:
        if one.met is False:
            level = 0
            due = one.day + NOT_MET_DAYS
            continue
        if one.met and one.day >= due:
            level = min(level + 1, len(STEPS_DAYS))
        due = one.day + STEPS_DAYS[max(level, 1) - 1]
    return due
