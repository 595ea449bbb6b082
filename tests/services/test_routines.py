"""A warm-up: kept, in the plan as one thing, played step by step, one thing in the record."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import date
from types import SimpleNamespace

import pytest

from aim_builders import jig_of
from builders import KeptSettings
from jigwright.core.jig.makers.repertoire import LEVELS
from jigwright.core.judge.plan import PlanItem, lay_out
from jigwright.core.judge.session_run import Leg, begin, heard, on, stay
from jigwright.services.day_record import Day
from jigwright.services.records import DayNote
from jigwright.services.routines import (
    MOST_STEPS,
    MOST_TIMES,
    Routine,
    RoutineStep,
    as_one,
    edited,
    keep_routine,
    kept_routine,
    routine_items,
    unfolded,
    usual_warm_up,
    with_warm_up,
)

BOWS = replace(jig_of("D4:4 A4:4"), id="b", title="Bows")
SCALE = replace(jig_of("D4 E4 F#4 G4"), id="s", title="Scale")
JIGS = {"b": BOWS, "s": SCALE}
ROUTINE = Routine(
    steps=(RoutineStep(jig_id="b", times=2), RoutineStep(jig_id="gone"), RoutineStep(jig_id="s"))
)


def test_a_warm_up_is_kept_for_each_player_and_instrument() -> None:
    studio = KeptSettings()
    assert kept_routine(studio, "me", "violin") == Routine()
    keep_routine(studio, "me", "violin", ROUTINE)
    assert kept_routine(studio, "me", "violin") == ROUTINE
    assert kept_routine(studio, "me", "viola") == Routine()
    assert kept_routine(studio, "you", "violin") == Routine()
    keep_routine(studio, "me", "violin", replace(ROUTINE, planned=False))
    assert not kept_routine(studio, "me", "violin").planned


@pytest.mark.parametrize(
    "body",
    ["{", "3", "null", "{}", json.dumps({"steps": [["b"]], "planned": True}),
     json.dumps({"steps": [["b", "x"]], "planned": True}), json.dumps({"steps": 3, "planned": 1})],
)  # fmt: skip
def test_rubbish_is_no_warm_up(body: str) -> None:
    studio = KeptSettings()
    studio.kept["warm-up:me:violin"] = body
    assert kept_routine(studio, "me", "violin") == Routine()


def test_numbers_out_of_range_are_held() -> None:
    studio = KeptSettings()
    steps = [["b", 0], ["b", 99], *[["s", 1]] * 20]
    studio.kept["warm-up:me:violin"] = json.dumps({"steps": steps, "planned": True})
    found = kept_routine(studio, "me", "violin")
    assert [s.times for s in found.steps[:2]] == [1, MOST_TIMES]
    assert len(found.steps) == MOST_STEPS
    assert len(edited(found, [RoutineStep(jig_id="b")] * 50).steps) == MOST_STEPS


def test_steps_are_over_when_they_were_played_so_often() -> None:
    items = routine_items(ROUTINE, JIGS.get)
    assert [(i.title, i.repetitions, i.by_times) for i in items] == [
        ("Bows", 2, True), ("Scale", 1, True),
    ]  # fmt: skip
    run = begin(items)
    run = heard(run, "b", False)
    assert run.leg is not None
    assert (run.leg.over, run.leg.needed) == ("", 0)
    run = heard(run, "b", None)
    assert run.leg is not None
    assert run.leg.over == "played", "met or not"
    assert stay(run).leg.over == "", "twice more"  # type: ignore[union-attr]
    assert on(run).leg.over == ""  # type: ignore[union-attr]
    assert Leg(item=replace(items[0], repetitions=0), takes=1).over == "played"


def test_it_is_one_thing_in_the_plan_and_many_at_the_stand() -> None:
    items = routine_items(ROUTINE, JIGS.get)
    one = as_one(items)
    assert one is not None
    assert (one.part, one.title, one.minutes) == ("warm_up", "Warm-up", 2)
    assert as_one(()) is None
    plan = lay_out(30, [], school="foundation", today=1, warm_up=one)
    assert [i.part for i in plan] == ["settle", "strings", "warm_up", "close"]
    assert sum(i.minutes for i in plan) == 30
    assert [i.part for i in unfolded(plan, items)] == [
        "settle", "strings", "passage", "pitch", "close",
    ]  # fmt: skip
    long = PlanItem(part="warm_up", minutes=13)
    assert long in lay_out(32, [], school="foundation", today=1, warm_up=long)
    assert long not in lay_out(31, [], school="foundation", today=1, warm_up=long)


@pytest.mark.parametrize("level", LEVELS)
@pytest.mark.parametrize("kind", ["violin", "viola", "cello", "bass"])
def test_the_usual_warm_up_can_be_played(level, kind: str) -> None:
    session = SimpleNamespace(kind=kind, string_length_mm=None)
    made = usual_warm_up(session, level, 739_000)  # type: ignore[arg-type]
    assert len(made) >= 5
    assert made[0].aims[0].kind == "even_bow"
    scales = [j for j in made if j.id.startswith("plan-scale")]
    assert [j.tempo_bpm for j in scales] == sorted(j.tempo_bpm for j in scales)
    minutes = sum(i.minutes for i in routine_items(
        Routine(steps=tuple(RoutineStep(jig_id=j.id) for j in made)),
        {j.id: j for j in made}.get,
    ))  # fmt: skip
    assert 5 <= minutes <= 15


def test_it_is_one_thing_in_the_record() -> None:
    titles = {"b": "Bows", "s": "Scale", "p": "Piece"}

    def take(jig_id: str | None, day: int) -> SimpleNamespace:
        return SimpleNamespace(jig_id=jig_id, day=date(2026, 11, day))

    def day(n: int, *jigs: str) -> Day:
        name = f"2026-11-{n}"
        note = DayNote(player_id="me", day=name)
        return Day(day=name, n_takes=1, seconds=1.0, jigs=jigs, note=note)

    takes = [take("b", 20), take("s", 20), take("p", 20), take("b", 21), take("p", 22),
             take(None, 22)]  # fmt: skip
    days = [day(20, "Bows", "Scale", "Piece"), day(21, "Bows"), day(22, "Piece")]
    found = with_warm_up(days, ROUTINE, takes, titles)  # type: ignore[arg-type]
    assert [d.jigs for d in found] == [("Warm-up", "Piece"), ("Bows",), ("Piece",)]
    assert with_warm_up(days, Routine(), takes, titles) == days  # type: ignore[arg-type]
    both = Routine(steps=(RoutineStep(jig_id="b"), RoutineStep(jig_id="s")))
    assert with_warm_up(days, both, takes, titles)[1].jigs == ("Warm-up",), "half of it"  # type: ignore[arg-type]
