"""A warm-up of several exercises, made once and begun with one key (L1)."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from jigwright.core.jig.makers.repertoire import WARM_UPS, Level, key_of_day
from jigwright.core.jig.model import Jig
from jigwright.core.judge.plan import PlanItem, is_heavy, once_minutes, part_of
from jigwright.services.day_record import Day
from jigwright.services.planning import ready_exercise
from jigwright.services.records import TakeRecord
from jigwright.services.session import Session
from jigwright.services.studio_port import SettingStore
from jigwright.wording.catalogue import tr

_SETTING = "warm-up"
MOST_STEPS, MOST_TIMES = 12, 9


@dataclass(frozen=True, slots=True, kw_only=True)
class RoutineStep:
    """One exercise of a warm-up and how often it is played."""

    jig_id: str
    times: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Routine:
    """A warm-up.

    Parameters
    ----------
    steps : tuple of RoutineStep
    planned : bool
        Whether it belongs to every plan.
    """

    steps: tuple[RoutineStep, ...] = ()
    planned: bool = True


def kept_routine(studio: SettingStore, player_id: str, kind: str) -> Routine:
    """The warm-up of a player on an instrument; an empty one where none was made."""
    try:
        body = json.loads(studio.setting(f"{_SETTING}:{player_id}:{kind}") or "null")
        if body is None:
            return Routine()
        steps = tuple(
            RoutineStep(jig_id=str(jig_id), times=min(MOST_TIMES, max(1, int(times))))
            for jig_id, times in body["steps"]
        )
        return Routine(steps=steps[:MOST_STEPS], planned=bool(body["planned"]))
    except (ValueError, KeyError, TypeError):
        return Routine()


def keep_routine(studio: SettingStore, player_id: str, kind: str, routine: Routine) -> None:
    """Remember a warm-up."""
    body = {"steps": [[s.jig_id, s.times] for s in routine.steps], "planned": routine.planned}
    studio.set_setting(f"{_SETTING}:{player_id}:{kind}", json.dumps(body))


def usual_warm_up(session: Session, level: Level, day: int) -> list[Jig]:
    """The exercises a teacher would begin with; what the instrument cannot play is left out."""
    tonic = key_of_day(level, session.kind, day)
    made = [ready_exercise(one, session, tonic) for one in WARM_UPS[level]]
    return [jig for jig in made if jig is not None]


def routine_items(routine: Routine, jig_of: Callable[[str], Jig | None]) -> tuple[PlanItem, ...]:
    """The steps as items of a session: each is over when it was played so often."""
    return tuple(
        PlanItem(
            part=part_of(jig), minutes=max(1, round(step.times * once_minutes(jig))),
            jig_id=jig.id, title=jig.title, repetitions=step.times, heavy=is_heavy(jig),
            aim=jig.aims[0].kind if jig.aims else None, by_times=True,
        )
        for step in routine.steps
        if (jig := jig_of(step.jig_id)) is not None
    )  # fmt: skip


def as_one(items: Sequence[PlanItem]) -> PlanItem | None:
    """A warm-up as one thing in the plan; None when there is nothing in it."""
    if not items:
        return None
    return PlanItem(
        part="warm_up", minutes=sum(i.minutes for i in items), title=tr("Warm-up"),
        heavy=any(i.heavy for i in items),
    )  # fmt: skip


def unfolded(items: Sequence[PlanItem], warm_up: Sequence[PlanItem]) -> tuple[PlanItem, ...]:
    """A plan with its warm-up step by step, as it is played."""
    return tuple(one for item in items for one in (warm_up if item.part == "warm_up" else (item,)))


def with_warm_up(
    days: Sequence[Day], routine: Routine, takes: Sequence[TakeRecord], titles: Mapping[str, str]
) -> list[Day]:
    """Days of the record with the warm-up as one thing, where half of it and more was played.

    Parameters
    ----------
    days : sequence of Day
    routine : Routine
    takes : sequence of TakeRecord
    titles : mapping of str to str
        Of jigs, by id.
    """
    wanted = {s.jig_id for s in routine.steps}
    names = {titles.get(i, "") for i in wanted}
    played: dict[str, set[str]] = {}
    for take in takes:
        if take.jig_id is not None:
            played.setdefault(take.day.isoformat(), set()).add(take.jig_id)
    return [
        replace(day, jigs=(tr("Warm-up"), *(j for j in day.jigs if j not in names)))
        if wanted and 2 * len(wanted & played.get(day.day, set())) >= len(wanted)
        else day
        for day in days
    ]


def edited(routine: Routine, steps: Sequence[RoutineStep]) -> Routine:
    """The same with other steps."""
    return replace(routine, steps=tuple(steps)[:MOST_STEPS])
