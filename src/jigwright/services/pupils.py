"""Many players in one studio: who played when, and what is set for whom (L5)."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Protocol

from jigwright.core.jig.model import Jig
from jigwright.core.judge.summary import TakeSummary, is_good
from jigwright.core.judge.work import Progress, SetWork, progress_of
from jigwright.services.exchange.workfile import WorkFile
from jigwright.services.records import Player, TakeRecord
from jigwright.services.session import Session
from jigwright.services.studio_port import JigStore, PeopleStore, PracticeStore, TakeStore

WEEK_DAYS = 7
_FAR_DAYS = 10_000
WorkRow = tuple[SetWork, Progress, str]
"""Work, how far it is, and the title of its jig."""


class PupilStore(PeopleStore, JigStore, TakeStore, PracticeStore, Protocol):
    """What the page of pupils needs of a studio."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PupilRow:
    """One player at a glance.

    Parameters
    ----------
    player : Player
    days_ago : int or None
        Since the last take.
    minutes : float
        Sound of the last seven days.
    n_takes : int
        In the last seven days.
    n_open : int
        Work that is not done.
    next_days_left : int or None
        To the nearest day something is due.
    """

    player: Player
    days_ago: int | None
    minutes: float
    n_takes: int
    n_open: int
    next_days_left: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Taken:
    """What became of work that was brought in.

    Parameters
    ----------
    outcome : "here", "nobody" or "set"
        It was here already; there is no player; it is set.
    player : str
        Name of the player it is set for.
    """

    outcome: str
    player: str = ""


def progress_on(
    studio: TakeStore,
    work: SetWork,
    today: date,
    summary_of: Callable[[TakeRecord], TakeSummary | None],
    jig_of: Callable[[TakeRecord], Jig | None],
) -> Progress:
    """How far set work is: takes since it was set count."""
    takes = []
    for take in studio.takes(jig_id=work.jig_id, player_id=work.player_id):
        if take.recorded_utc < work.set_utc or not take.is_own:
            continue
        summary = summary_of(take)
        takes.append((take.recorded_utc, summary is not None and is_good(summary, jig_of(take))))
    return progress_of(work, takes, (date.fromisoformat(work.due) - today).days)


def pupil_rows(
    studio: PupilStore, today: date, progress: Callable[[SetWork], Progress]
) -> tuple[PupilRow, ...]:
    """All players, those with something due first."""
    activity = studio.activity((today - timedelta(days=WEEK_DAYS - 1)).isoformat())
    works: dict[str, list[SetWork]] = {}
    for work in studio.works():
        if not work.closed:
            works.setdefault(work.player_id, []).append(work)
    rows = []
    for player in studio.players():
        last_day, n_takes, seconds = activity.get(player.id, ("", 0, 0.0))
        still = [p for w in works.get(player.id, []) if (p := progress(w)).state != "done"]
        last = date.fromisoformat(last_day) if last_day else None
        rows.append(
            PupilRow(
                player=player, days_ago=None if last is None else max(0, (today - last).days),
                minutes=seconds / 60.0, n_takes=n_takes, n_open=len(still),
                next_days_left=min((p.days_left for p in still), default=None),
            )
        )  # fmt: skip
    return tuple(
        sorted(rows, key=lambda r: _FAR_DAYS if r.next_days_left is None else r.next_days_left)
    )


def work_rows(
    studio: PupilStore, player_id: str, progress: Callable[[SetWork], Progress]
) -> tuple[WorkRow, ...]:
    """Set work of a player with its progress and the jig's title."""
    titles = {j.id: j.title for j in studio.jigs()}
    return tuple(
        (w, progress(w), titles.get(w.jig_id, w.jig_id))
        for w in studio.works()
        if w.player_id == player_id
    )


def still_open(rows: Sequence[WorkRow]) -> tuple[WorkRow, ...]:
    """What is not done."""
    return tuple(row for row in rows if row[1].state != "done")


def said_of(works: Sequence[SetWork], player_id: str | None, jig: Jig | None) -> SetWork | None:
    """What was set of a jig to a player and has words: the newest that is open.

    A spot or a slower step of a piece goes by what was said of the piece.
    """
    if player_id is None or jig is None:
        return None
    ids = {jig.id, jig.derived_from[0] if jig.derived_from is not None else jig.id}
    mine = [
        w for w in works
        if w.player_id == player_id and w.jig_id in ids and not w.closed and w.words.strip()
    ]  # fmt: skip
    return max(mine, key=lambda w: w.set_utc, default=None)


def set_work(
    studio: PracticeStore, player_id: str, jig: Jig, *, due: date, good_takes: int, words: str,
    who: str, utc: str,
) -> SetWork:  # fmt: skip
    """Set a jig until a day.

    Raises
    ------
    JigwrightError
        If it cannot be kept.
    """
    work = SetWork(
        id=f"work-{uuid.uuid4().hex[:12]}", player_id=player_id, jig_id=jig.id,
        jig_revision=jig.revision, words=words.strip()[:500], due=due.isoformat(),
        good_takes=good_takes, who=who.strip()[:80], set_utc=utc,
    )  # fmt: skip
    studio.set_work(work)
    return work


def take_work_in(studio: PupilStore, found: WorkFile, session: Session) -> Taken:
    """Keep work that a teacher gave, for the player it names, else for the present one.

    Raises
    ------
    JigwrightError
    """
    if any(w.id == found.work.id for w in studio.works()):
        return Taken(outcome="here")
    players = {p.id: p for p in studio.players()}
    player = players.get(found.work.player_id) or session.player
    if player is None:
        return Taken(outcome="nobody")
    there = [j for j in studio.jigs() if j.id == found.jig.id]
    if not any(j.revision >= found.jig.revision for j in there):
        studio.add_jig(found.jig, utc=session.clock())
    studio.set_work(replace(found.work, player_id=player.id))
    return Taken(outcome="set", player=player.name)
