"""Work that was set: a jig until a day, and how far it has come (L5)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

WorkState = Literal["done", "overdue", "today", "open"]


@dataclass(frozen=True, slots=True, kw_only=True)
class SetWork:
    """A jig that somebody is to have ready.

    Parameters
    ----------
    id, player_id, jig_id : str
    jig_revision : int
    words : str
        What to mind.
    due : str
        ISO date.
    good_takes : int
        How many good takes are wanted.
    who : str
        Who set it.
    set_utc : str
        ISO 8601; takes before it do not count.
    closed : bool
        Put away by hand.
    """

    id: str
    player_id: str
    jig_id: str
    jig_revision: int
    words: str
    due: str
    good_takes: int
    who: str
    set_utc: str
    closed: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """How far work has come.

    Parameters
    ----------
    state : WorkState
    n_takes, n_good : int
        Since it was set.
    days_left : int
        Negative when it is overdue.
    """

    state: WorkState
    n_takes: int
    n_good: int
    days_left: int


def progress_of(work: SetWork, takes: Sequence[tuple[str, bool]], days_left: int) -> Progress:
    """Count what was played since the work was set.

    Parameters
    ----------
    work : SetWork
    takes : sequence of (str, bool)
        Moment (ISO 8601 in UTC) and whether the take was good, of the player and the jig.
    days_left : int
        To the day it is due.
    """
    since = [good for utc, good in takes if utc >= work.set_utc]
    state: WorkState = "open"
    if work.closed or sum(since) >= work.good_takes:
        state = "done"
    elif days_left < 0:
        state = "overdue"
    elif days_left == 0:
        state = "today"
    return Progress(state=state, n_takes=len(since), n_good=sum(since), days_left=days_left)
