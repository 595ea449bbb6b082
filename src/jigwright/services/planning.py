"""Today's plan: what is due, what was long ago, what no jig of the studio trains."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Protocol

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.model import Jig
from jigwright.core.judge.plan import Candidate, PlanItem, School, lay_out, part_of
from jigwright.core.judge.summary import TakeSummary
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.services.library import ShelfStore, on_the_shelf
from jigwright.services.records import TakeRecord
from jigwright.services.session import Session
from jigwright.services.studio_port import PracticeStore, SettingStore
from jigwright.wording.makers import jig_title

USUAL_MINUTES = 45
_MOST_MINUTES = 24 * 60
_MOST_THEME = 200
_OFFERED = (
    ("bow", "long_bows"), ("pitch", "drone_scale"), ("two_strings", "over_open"),
    ("stroke", "clean_starts"), ("passage", "echo"),
)  # fmt: skip


class PlanStore(ShelfStore, PracticeStore, Protocol):
    """What a plan needs of a studio."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanWish:
    """What a plan is made from.

    Parameters
    ----------
    minutes : int
    school : School
    theme : str
        Words of titles that are wanted.
    """

    minutes: int = USUAL_MINUTES
    school: School = "foundation"
    theme: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """A session laid out.

    Parameters
    ----------
    items : tuple of PlanItem
    ready : mapping of str to Jig
        Exercises on offer that the studio does not keep yet, by id.
    """

    items: tuple[PlanItem, ...]
    ready: Mapping[str, Jig]


def kept_wish(studio: SettingStore) -> PlanWish:
    """What was wished last."""
    minutes = studio.setting("plan_minutes")
    known = minutes.isdecimal() and 1 <= int(minutes) <= _MOST_MINUTES
    return PlanWish(
        minutes=int(minutes) if known else USUAL_MINUTES,
        school="rotating" if studio.setting("plan_school") == "rotating" else "foundation",
        theme=studio.setting("plan_theme")[:_MOST_THEME],
    )


def keep_wish(studio: SettingStore, wish: PlanWish) -> None:
    """Remember what was wished."""
    studio.set_setting("plan_minutes", str(wish.minutes))
    studio.set_setting("plan_school", wish.school)
    studio.set_setting("plan_theme", wish.theme)


def plan_session(
    studio: PlanStore,
    session: Session,
    takes: Sequence[TakeRecord],
    summary_of: Callable[[TakeRecord], TakeSummary | None],
    wish: PlanWish,
    today: date,
) -> Plan:
    """Lay a session out for the present player and instrument.

    Parameters
    ----------
    studio : PlanStore
    session : Session
    takes : sequence of TakeRecord
        The player's, oldest first.
    summary_of : callable
        Figures of a take as far as they are made.
    wish : PlanWish
    today : date
    """
    last = {t.jig_id: t for t in takes if t.jig_id is not None}
    words = [w for w in wish.theme.lower().split() if len(w) > 2]
    me = session.player.id if session.player is not None else ""
    wanted = {w.jig_id for w in studio.works() if w.player_id == me and not w.closed}
    candidates = []
    shelf = {j.id for j in on_the_shelf(studio)}
    for jig in studio.jigs():
        put_away = jig.id not in shelf and jig.id not in wanted  # what a teacher set stays due
        if jig.instrument_id != session.kind or put_away:
            continue
        played = last.get(jig.id)
        summary = summary_of(played) if played is not None else None
        candidates.append(
            Candidate(
                jig=jig, last_day=played.day.toordinal() if played is not None else None,
                inside=summary.inside if summary is not None else None,
                theme=any(w in jig.title.lower() for w in words), due=jig.id in wanted,
            )
        )  # fmt: skip
    offered = _offered(candidates, session)
    items = lay_out(
        wish.minutes, [*candidates, *offered], school=wish.school, today=today.toordinal()
    )
    return Plan(items=tuple(items), ready={c.jig.id: c.jig for c in offered})


def _offered(candidates: Sequence[Candidate], session: Session) -> list[Candidate]:
    """Ready exercises for parts of a session that no jig of the studio fills."""
    there = {part_of(c.jig) for c in candidates}
    tonic = tonic_of(session)
    found = []
    for part, maker_id in _OFFERED:
        if part in there:
            continue
        one = maker(maker_id)
        setting = Setting(
            instrument_id=session.kind, key=Key(PitchClass.parse(tonic)),
            string_length_mm=session.string_length_mm,
            jig_id=f"plan-{maker_id}-{session.kind}-{tonic}",
        )  # fmt: skip
        try:
            made = one.make(replace(setting, title=jig_title(one, setting)))
        except JigwrightError:
            continue
        found.append(Candidate(jig=made, last_day=None, inside=None))
    return found


def tonic_of(session: Session) -> str:
    """The tonic exercises stand on: that of the present jig."""
    return str(session.jig.key.tonic) if session.jig is not None else "D"
