"""Takes of pupils one after the other: which their teacher has not heard, which is next (L5).

How far a teacher has heard is kept for each player as the moment of the newest take up to which
all was heard: one that is heard while older ones wait stays new with them. Where nothing was heard
yet, the takes of the pupil's last seven days count as new. Where there is one player only nobody
hears him but himself, and nothing counts as new.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Protocol

from jigwright.core.judge.work import Progress, SetWork
from jigwright.services.pupils import WEEK_DAYS, PupilRow
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import (
    JigStore,
    PeopleStore,
    PracticeStore,
    SettingStore,
    TakeStore,
)

MOST_SHOWN = 6
_HEARD = "heard_until:{}"


class HearingStore(TakeStore, PeopleStore, JigStore, PracticeStore, SettingStore, Protocol):
    """What hearing takes needs of a studio."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LatestTake:
    """One of the latest takes of a pupil.

    Parameters
    ----------
    take : TakeRecord
    title : str
        Of its jig; empty for free playing.
    is_new : bool
        It was not heard yet.
    """

    take: TakeRecord
    title: str
    is_new: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PupilView:
    """A pupil with what lies before the teacher.

    Parameters
    ----------
    row : PupilRow
    takes : tuple of LatestTake
        In order of time.
    n_new : int
        All that were not heard, also those not among ``takes``.
    works : tuple of (SetWork, Progress, str)
        Set work that is not done, what is due first before the rest.
    """

    row: PupilRow
    takes: tuple[LatestTake, ...]
    n_new: int
    works: tuple[tuple[SetWork, Progress, str], ...]


def latest_takes(
    studio: HearingStore, player_id: str, *, most: int = MOST_SHOWN
) -> tuple[tuple[LatestTake, ...], int]:
    """The takes to be shown of a pupil, in order of time, and how many are new.

    The newest; where more are new than can be shown, the first of these after the one that was
    heard last, since they are heard in order.
    """
    titles = {j.id: j.title for j in studio.jigs()}
    alone = len(studio.players()) < 2
    remarks = studio.spoken_takes()
    mine = sorted(
        (t for t in studio.takes(player_id=player_id) if t.is_own and t.id not in remarks),
        key=_moment,
    )
    until = studio.setting(_HEARD.format(player_id))
    week = mine[-1].day - timedelta(days=WEEK_DAYS - 1) if mine and not until else date.min
    found = [
        LatestTake(
            take=t, title=titles.get(t.jig_id or "", ""),
            is_new=not alone and _moment(t) > until and t.day >= week,
        )
        for t in mine
    ]  # fmt: skip
    n_new = sum(t.is_new for t in found)
    if n_new >= most:
        first = max(0, len(found) - n_new - 1)
        return tuple(found[first : first + most]), n_new
    return tuple(found[-most:]), n_new


def pupil_view(
    studio: HearingStore, row: PupilRow, works: Sequence[tuple[SetWork, Progress, str]]
) -> PupilView:
    """What lies before the teacher of one pupil."""
    takes, n_new = latest_takes(studio, row.player.id)
    by_day = tuple(sorted(works, key=lambda w: w[1].days_left))
    return PupilView(row=row, takes=takes, n_new=n_new, works=by_day)


def mark_heard(studio: HearingStore, take: TakeRecord) -> bool:
    """Remember that a take was heard, unless older ones are still to hear.

    Says whether that is news.
    """
    name, moment = _HEARD.format(take.player_id), _moment(take)
    shown, _ = latest_takes(studio, take.player_id)  # the oldest of the new ones among them
    waits = any(t.is_new and _moment(t.take) < moment for t in shown)
    if waits or moment <= studio.setting(name):
        return False
    studio.set_setting(name, moment)
    return True


def _moment(take: TakeRecord) -> str:
    """When it was recorded; what was recorded at once is told apart."""
    return f"{take.recorded_utc} {take.id}"


def next_to_hear(
    pupils: Sequence[PupilView], i_pupil: int, take_id: str | None
) -> tuple[int, int] | None:
    """Which take comes after one: the next new one of the same pupil, then of the pupils below.

    At the end come those before it that were passed over.

    Parameters
    ----------
    pupils : sequence of PupilView
    i_pupil : int
        The pupil who is heard.
    take_id : str or None
        The take that was heard last; ``None``: none of this pupil yet.

    Returns
    -------
    (int, int) or None
        Index of the pupil and of the take; ``None`` where nothing new is left.
    """
    if not pupils:
        return None
    takes = pupils[i_pupil].takes
    at = next((k for k, t in enumerate(takes) if t.take.id == take_id), -1)
    for k in range(at + 1, len(takes)):
        if takes[k].is_new:
            return i_pupil, k
    for step in range(1, len(pupils)):
        i = (i_pupil + step) % len(pupils)
        for k, one in enumerate(pupils[i].takes):
            if one.is_new:
                return i, k
    return next(((i_pupil, k) for k in range(at) if takes[k].is_new), None)
