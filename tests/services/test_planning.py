"""Plans as a teacher's notebook: forty players and days, a week that does not repeat itself."""

from __future__ import annotations

import os
from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path
from types import SimpleNamespace

import pytest

from aim_builders import jig_of
from builders import new_studio
from jigwright.core.jig.makers.repertoire import LEVELS, turn_of
from jigwright.core.jig.model import Jig
from jigwright.core.judge.plan import WORKED, Candidate, PlanItem, lay_out
from jigwright.core.judge.returning import PlayedDay, comes_again
from jigwright.core.judge.session_run import Leg, SessionRun
from jigwright.services.planning import (
    PlanWish,
    coming_again,
    is_of_theme,
    offered_exercises,
    plan_session,
    played_days,
    theme_week,
)
from jigwright.wording.daybook import part_name, part_text

NOTEBOOK = Path(__file__).parents[1] / "approved" / "plans.txt"
MONDAY = date(2026, 11, 30)
KINDS = ("violin", "viola", "cello", "bass")
MINUTES = (15, 30, 45, 90, 180)
PLAYERS = {"early": "Second year", "advanced": "Conservatoire"}
LOWEST = {"violin": "D4", "viola": "G3", "cello": "C3", "bass": "A1"}


def session(kind: str) -> SimpleNamespace:
    """As much of a session as a plan asks for."""
    return SimpleNamespace(kind=kind, string_length_mm=None)


def piece(kind: str, title: str, bars: int) -> Jig:
    """A tune of so many bars that moves in leaps, without aims of its own."""
    low = LOWEST[kind]
    up = {"D4": "A4", "G3": "D4", "C3": "G3", "A1": "E2"}[low]
    made = jig_of(f"{low} {up} " * (2 * bars), instrument_id=kind)
    return replace(made, id=f"own-{title}", title=title)


def candidates(level: str, kind: str, day: date, played: dict[str, date]) -> list[Candidate]:
    """What a player of a level has and is offered on a day."""
    number = day.toordinal()
    titles = {"early": ("Quay Song", 16), "advanced": ("Lighthouse Concerto, first page", 48)}
    title, bars = titles[level]
    own = [Candidate(jig=piece(kind, title, bars), last_day=number - 2, inside=0.8)]
    study = piece(kind, "Ferry Study", 24)
    own.append(Candidate(jig=study, last_day=number - 12, inside=0.7, due=level == "advanced"))
    ready = offered_exercises(session(kind), level, number)  # type: ignore[arg-type]
    return own + [
        Candidate(
            jig=jig, inside=0.9 if jig.id in played else None, offered=True,
            last_day=played[jig.id].toordinal() if jig.id in played else None,
            turn=turn_of(i, len(ready), number),
        )
        for i, jig in enumerate(ready)
    ]  # fmt: skip


def plan(level: str, kind: str, minutes: int, day: date = MONDAY, **played: date):
    school = "foundation" if level == "early" else "rotating"
    rows = candidates(level, kind, day, played)
    return lay_out(minutes, rows, school=school, today=day.toordinal())


def written(items: tuple[PlanItem, ...]) -> list[str]:
    return [f"  {i.minutes:3d} min  {part_name(i.part)}: {part_text(i)}" for i in items]


def test_the_notebook_is_as_it_was_read_and_approved() -> None:
    rows = []
    for level, player in PLAYERS.items():
        for kind in KINDS:
            for minutes in MINUTES:
                rows += ["", f"{player}, {kind}, {minutes} minutes"]
                rows += written(plan(level, kind, minutes))
    text = "\n".join(rows).strip() + "\n"
    if os.environ.get("JIGWRIGHT_APPROVE"):
        NOTEBOOK.write_text(text, encoding="utf-8")
    assert text == NOTEBOOK.read_text(encoding="utf-8"), "read it; JIGWRIGHT_APPROVE=1 writes it"


@pytest.mark.parametrize("level", sorted(PLAYERS))
@pytest.mark.parametrize("kind", KINDS)
def test_a_week_does_not_repeat_itself(level: str, kind: str) -> None:
    played: dict[str, date] = {}
    week = []
    for n in range(7):
        day = MONDAY + timedelta(days=n)
        items = plan(level, kind, 45, day, **played)
        ids = [i.jig_id for i in items if i.part in WORKED]
        week.append(tuple(ids))
        played |= {i: day for i in ids if i is not None}
    assert len(set(week)) == 7
    for today, tomorrow in zip(week, week[1:], strict=False):
        exercises = {i for i in today if i and i.startswith("plan-")}
        again = exercises & set(tomorrow)
        assert len(again) <= len(exercises) // 2, "tomorrow is another day"
    assert len({i for ids in week for i in ids}) >= 15


@pytest.mark.parametrize("kind", KINDS)
def test_heavy_work_is_a_small_share_of_a_long_day(kind: str) -> None:
    for level in PLAYERS:
        for minutes in (90, 180):
            items = plan(level, kind, minutes)
            heavy = sum(i.minutes for i in items if i.heavy)
            assert heavy <= 0.3 * minutes, (level, minutes)
            assert all(i.minutes <= 8 for i in items if i.heavy)


def test_a_theme_is_words_of_titles() -> None:
    wanted = is_of_theme("the Shifts of D")
    assert wanted("Shifts, D major, position 1 to 3")
    assert wanted("In the harbour"), "words of three letters and more"
    assert not wanted("Drone scale downwards, D major")
    assert not is_of_theme("")("Scale")
    assert not is_of_theme("of a D")("Scale of a D")


def test_the_theme_of_a_week_fills_by_days() -> None:
    wednesday = date(2026, 12, 2)
    played = [
        (MONDAY, "Shifts, D major"), (date(2026, 12, 1), "Scale"), (wednesday, "More shifts"),
        (MONDAY - timedelta(days=1), "Shifts"),
    ]  # fmt: skip
    assert theme_week("shifts", played, wednesday) == (True, False, True, None, None, None, None)
    assert theme_week("shifts", played, MONDAY + timedelta(days=6)) == (
        True, False, True, False, False, False, False,
    )  # fmt: skip
    assert theme_week("shifts", played, MONDAY - timedelta(days=1))[-1] is True
    assert theme_week(" ", played, wednesday) == ()


@pytest.mark.parametrize("level", LEVELS)
def test_what_is_offered_is_for_the_instrument_and_named(level) -> None:
    for kind in KINDS:
        ready = offered_exercises(session(kind), level, 739_000)  # type: ignore[arg-type]
        assert len(ready) >= 20
        assert {j.instrument_id for j in ready} == {kind}
        assert len({j.id for j in ready}) == len(ready)
        assert len({j.title for j in ready}) == len(ready), "told apart by their titles"
        assert all(j.title and "_" not in j.title for j in ready)


# what comes again --------------------------------------------------------------------------


def taken(jig_id: str | None, day: date, met: bool | None) -> SimpleNamespace:
    return SimpleNamespace(jig_id=jig_id, day=day, met=met)


def summary_of(take: SimpleNamespace) -> SimpleNamespace | None:
    """Figures are made later than takes are: those of "later" are not there yet."""
    return None if take.met == "later" else SimpleNamespace(aims_met=take.met, inside=1.0)


def test_a_day_is_met_by_the_last_of_its_takes_that_can_be_told() -> None:
    takes = [
        taken("a", MONDAY, False), taken("a", MONDAY, True), taken("a", MONDAY, None),
        taken("b", MONDAY, True), taken("b", MONDAY, False), taken(None, MONDAY, True),
        taken("a", MONDAY + timedelta(days=2), "later"),
    ]  # fmt: skip
    found = played_days(takes, summary_of)  # type: ignore[arg-type]
    n = MONDAY.toordinal()
    assert found == {
        "a": (PlayedDay(day=n, met=True), PlayedDay(day=n + 2, met=None)),
        "b": (PlayedDay(day=n, met=False),),
    }


def leg(jig_id: str | None, *, takes: int, met: int) -> Leg:
    item = PlanItem(part="pitch", minutes=5, jig_id=jig_id, title=jig_id or "", repetitions=3)
    return Leg(item=item, takes=takes, met=met, told=takes)


def test_at_the_end_of_a_session_it_is_known_when_its_exercises_come_again() -> None:
    yesterday = MONDAY - timedelta(days=1)
    takes = [taken("met", yesterday, True), taken("not", yesterday, True),
             taken("met", MONDAY, "later")]  # fmt: skip
    run = SessionRun(
        legs=(leg("met", takes=4, met=4), leg("not", takes=3, met=0), leg("idle", takes=0, met=0),
              leg(None, takes=2, met=2)),
        at=4,
    )  # fmt: skip
    found = coming_again(run, takes, summary_of, MONDAY)  # type: ignore[arg-type]
    assert [(item.jig_id, (day - MONDAY).days) for item, day in found] == [("not", 1), ("met", 3)]


def test_what_is_said_at_the_end_is_what_the_next_plan_goes_by() -> None:
    yesterday = MONDAY - timedelta(days=1)
    before = taken("a", yesterday, True)
    for told, seen_met in ((True, 0), (False, 4)):
        takes = [before, taken("a", MONDAY, not told), taken("a", MONDAY, told)]
        run = SessionRun(legs=(leg("a", takes=4, met=seen_met),), at=1)
        ((_, day),) = coming_again(run, takes, summary_of, MONDAY)  # type: ignore[arg-type]
        planned = comes_again(played_days(takes, summary_of)["a"])  # type: ignore[arg-type]
        assert day.toordinal() == planned
        assert (day - MONDAY).days == (3 if told else 1)


def test_what_was_on_offer_and_is_due_comes_back_though_something_else_is_offered(
    tmp_path: Path,
) -> None:
    studio = new_studio(tmp_path)
    own = session("violin")
    own.player = SimpleNamespace(id="p")
    later = 9
    then = {j.id for j in offered_exercises(own, "advanced", MONDAY.toordinal() + later)}  # type: ignore[arg-type]
    first = next(
        j for j in offered_exercises(own, "advanced", MONDAY.toordinal())  # type: ignore[arg-type]
        if j.id not in then
    )  # fmt: skip
    studio.add_jig(first, utc="2026-11-30T10:00:00Z")

    def planned(days: int) -> list[tuple[str | None, str]]:
        takes = [taken(first.id, MONDAY + timedelta(days=later - days), True)]
        made = plan_session(
            studio, own, takes, summary_of,  # type: ignore[arg-type]
            PlanWish(minutes=45, level="advanced"), MONDAY + timedelta(days=later),
        )  # fmt: skip
        return [(i.jig_id, i.why) for i in made.items]

    assert (first.id, "again") in planned(2)
    assert first.id not in {i for i, _ in planned(0)}
    assert first.id not in {i for i, _ in planned(29)}
    studio.close()
