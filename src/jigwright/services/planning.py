"""Today's plan: what is due, what was long ago, what no jig of the studio trains."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Protocol

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.makers.repertoire import (
    LEVELS,
    REPERTOIRE,
    Level,
    Offered,
    key_of_day,
    turn_of,
)
from jigwright.core.jig.model import Jig
from jigwright.core.judge.plan import Candidate, PlanItem, School, lay_out
from jigwright.core.judge.returning import PlayedDay, comes_again
from jigwright.core.judge.session_run import SessionRun, summed_up
from jigwright.core.judge.summary import TakeSummary
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.services.library import ShelfStore, on_the_shelf
from jigwright.services.records import TakeRecord
from jigwright.services.session import Session
from jigwright.services.studio_port import PracticeStore, SettingStore
from jigwright.wording.catalogue import language_now
from jigwright.wording.makers import jig_title

USUAL_MINUTES = 45
_READY = "plan-"
_LONGEST_DUE_DAYS = 28  # what was on offer and waits longer takes its turn with the others
_MADE: dict[tuple[object, ...], Jig | None] = {}  # as many as levels, kinds and keys have
_MOST_MINUTES = 24 * 60
_MOST_THEME = 200


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
    level : Level
        Of the player: what exercises are on offer.
    """

    minutes: int = USUAL_MINUTES
    school: School = "foundation"
    theme: str = ""
    level: Level = "settled"


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
    level = studio.setting("plan_level")
    known = minutes.isdecimal() and 1 <= int(minutes) <= _MOST_MINUTES
    return PlanWish(
        minutes=int(minutes) if known else USUAL_MINUTES,
        school="rotating" if studio.setting("plan_school") == "rotating" else "foundation",
        theme=studio.setting("plan_theme")[:_MOST_THEME],
        level=next((one for one in LEVELS if one == level), "settled"),
    )


def keep_wish(studio: SettingStore, wish: PlanWish) -> None:
    """Remember what was wished."""
    studio.set_setting("plan_minutes", str(wish.minutes))
    studio.set_setting("plan_school", wish.school)
    studio.set_setting("plan_theme", wish.theme)
    studio.set_setting("plan_level", wish.level)


def plan_session(
    studio: PlanStore,
    session: Session,
    takes: Sequence[TakeRecord],
    summary_of: Callable[[TakeRecord], TakeSummary | None],
    wish: PlanWish,
    today: date,
    *,
    warm_up: PlanItem | None = None,
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
    warm_up : PlanItem, optional
        Comes first, as one thing.
    """
    last = {t.jig_id: t for t in takes if t.jig_id is not None}
    wanted = is_of_theme(wish.theme)
    me = session.player.id if session.player is not None else ""
    due = {w.jig_id for w in studio.works() if w.player_id == me and not w.closed}
    shelf = {j.id for j in on_the_shelf(studio)}
    day = today.toordinal()
    due_again = {
        jig_id: day - at
        for jig_id, days in played_days(takes, summary_of).items()
        if (at := comes_again(days)) is not None and at <= day
    }

    def candidate(jig: Jig, *, offered: bool = False, turn: float = 0.0) -> Candidate:
        played = last.get(jig.id)
        summary = summary_of(played) if played is not None else None
        return Candidate(
            jig=jig, last_day=played.day.toordinal() if played is not None else None,
            inside=summary.inside if summary is not None else None,
            theme=wanted(jig.title), due=jig.id in due, offered=offered, turn=turn,
            again=due_again.get(jig.id),
        )  # fmt: skip

    own, kept, returns = [], set(), []
    for jig in studio.jigs():
        if jig.instrument_id != session.kind:
            continue
        if jig.id.startswith(_READY):  # what was on offer once takes its turn with the others
            if due_again.get(jig.id, _LONGEST_DUE_DAYS) < _LONGEST_DUE_DAYS:
                returns.append(jig)
            continue
        kept.add(jig.id)
        if jig.id in shelf or jig.id in due:  # what a teacher set stays due, also put away
            own.append(candidate(jig))
    ready = offered_exercises(session, wish.level, day)
    offered = [
        candidate(jig, offered=True, turn=turn_of(i, len(ready), day))
        for i, jig in enumerate(ready)
    ]
    shown = {j.id for j in ready}
    own += [candidate(jig) for jig in returns if jig.id not in shown]
    items = lay_out(wish.minutes, [*own, *offered], school=wish.school, today=day, warm_up=warm_up)
    return Plan(items=tuple(items), ready={j.id: j for j in ready})


def played_days(
    takes: Sequence[TakeRecord], summary_of: Callable[[TakeRecord], TakeSummary | None]
) -> dict[str, tuple[PlayedDay, ...]]:
    """On which days each jig was played, and whether it was met at the end of them.

    Parameters
    ----------
    takes : sequence of TakeRecord
        Oldest first.
    summary_of : callable
    """
    met: dict[str, dict[int, bool | None]] = {}
    for take in takes:
        if take.jig_id is None:
            continue
        summary, days = summary_of(take), met.setdefault(take.jig_id, {})
        told = summary.aims_met if summary is not None else None
        day = take.day.toordinal()
        days[day] = days.get(day) if told is None else told
    return {
        jig_id: tuple(PlayedDay(day=day, met=days[day]) for day in sorted(days))
        for jig_id, days in met.items()
    }


def coming_again(
    run: SessionRun,
    takes: Sequence[TakeRecord],
    summary_of: Callable[[TakeRecord], TakeSummary | None],
    today: date,
) -> tuple[tuple[PlanItem, date], ...]:
    """When what was played in a session comes again, the earliest first.

    By the same takes as the next plan; where none of today is judged yet, by what the session saw.

    Parameters
    ----------
    run : SessionRun
    takes : sequence of TakeRecord
        The player's, oldest first.
    summary_of : callable
    today : date
    """
    played, number = played_days(takes, summary_of), today.toordinal()
    met = set(summed_up(run).met)
    found = []
    for leg in run.legs:
        if leg.item.jig_id is None or not leg.takes:
            continue
        days = played.get(leg.item.jig_id, ())
        if not any(d.day == number and d.met is not None for d in days):
            seen = PlayedDay(day=number, met=leg.item in met)
            days = (*(d for d in days if d.day < number), seen)
        day = comes_again(days)
        assert day is not None
        found.append((leg.item, date.fromordinal(day)))
    return tuple(sorted(found, key=lambda row: row[1]))


def is_of_theme(theme: str) -> Callable[[str], bool]:
    """Whether a title holds one of the longer words of a theme."""
    words = [w for w in theme.lower().split() if len(w) > 2]
    return lambda title: any(w in title.lower() for w in words)


def theme_week(
    theme: str, played: Sequence[tuple[date, str]], today: date
) -> tuple[bool | None, ...]:
    """On which days of this week a theme was worked on.

    Parameters
    ----------
    theme : str
    played : sequence of (date, str)
        Days of takes and titles of their jigs.
    today : date

    Returns
    -------
    tuple of (bool or None)
        Monday to Sunday; ``None`` for days to come. Empty without a theme.
    """
    if not theme.strip():
        return ()
    wanted = is_of_theme(theme)
    monday = today - timedelta(days=today.weekday())
    done = {day for day, title in played if wanted(title)}
    week = [monday + timedelta(days=k) for k in range(7)]
    return tuple(day in done if day <= today else None for day in week)


def offered_exercises(session: Session, level: Level, day: int) -> list[Jig]:
    """Ready exercises for a level in the key of the day, in the order of their turns.

    What the instrument cannot play is left out.
    """
    tonic = key_of_day(level, session.kind, day)
    return [
        jig for one in REPERTOIRE[level] if (jig := ready_exercise(one, session, tonic)) is not None
    ]


def ready_exercise(one: Offered, session: Session, tonic: str) -> Jig | None:
    """A ready exercise for the instrument in hand; None if it cannot play it."""
    kind, length_mm = session.kind, session.string_length_mm
    key = (one.slug, one.tempo_bpm, kind, tonic, length_mm, language_now())
    if key not in _MADE:
        made = maker(one.maker_id)
        setting = Setting(
            instrument_id=kind, key=Key(PitchClass.parse(tonic)), tempo_bpm=one.tempo_bpm,
            values=one.values, string_length_mm=length_mm,
            jig_id=f"{_READY}{one.slug}-{kind}-{tonic if made.uses_key else ''}",
        )  # fmt: skip
        try:
            _MADE[key] = made.make(replace(setting, title=jig_title(made, setting)))
        except JigwrightError:
            _MADE[key] = None
    return _MADE[key]


def tonic_of(session: Session) -> str:
    """The tonic exercises stand on: that of the present jig."""
    return str(session.jig.key.tonic) if session.jig is not None else "D"
