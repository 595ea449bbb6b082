"""When an exercise comes again: tomorrow while it is not met, later and later once it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aim_builders import jig_of
from jigwright.core.judge.plan import Candidate, lay_out, urgency
from jigwright.core.judge.returning import STEPS_DAYS, PlayedDay, comes_again


def due(*days: tuple[int, bool | None]) -> int | None:
    return comes_again([PlayedDay(day=day, met=met) for day, met in days])


def test_what_was_never_played_is_never_due() -> None:
    assert due() is None


@pytest.mark.parametrize(("met", "after"), [(True, 1), (False, 1), (None, 1)])
def test_after_the_first_day_it_comes_the_next(met: bool | None, after: int) -> None:
    assert due((100, met)) == 100 + after


def test_met_at_its_time_it_goes_further_each_time() -> None:
    days, day = [], 100
    for step in (*STEPS_DAYS, STEPS_DAYS[-1]):
        days.append((day, True))
        assert due(*days) == day + step
        day += step


def test_the_distances_are_those_of_the_method() -> None:
    assert due((100, True), (101, True), (104, True), (111, True)) == 125
    assert due((100, True), (101, True), (104, True), (111, True), (125, True)) == 153


def test_played_every_day_it_goes_no_further() -> None:
    assert due((100, True), (101, True), (102, True)) == 102 + 3
    assert due((100, True), (101, True), (102, True), (103, True)) == 103 + 3
    assert due((100, True), (101, True), (104, True)) == 104 + 7


def test_late_it_counts_as_met() -> None:
    assert due((100, True), (140, True)) == 143


def test_not_met_it_begins_anew() -> None:
    assert due((100, True), (101, True), (104, True), (111, False)) == 112
    assert due((100, True), (101, True), (104, True), (111, False), (112, True)) == 113
    assert due((100, False), (101, False)) == 102


def test_a_day_of_which_nothing_is_known_goes_neither_way() -> None:
    assert due((100, True), (101, True), (104, None)) == 107
    assert due((100, None), (105, None)) == 106


@given(st.lists(st.tuples(st.integers(1, 40), st.sampled_from([True, False, None])), min_size=1))
def test_it_is_always_due_after_it_was_played_and_not_for_ever(
    steps: Sequence[tuple[int, bool | None]],
) -> None:
    day, days = 0, []
    for gap, met in steps:
        day += gap
        days.append((day, met))
    found = due(*days)
    assert found is not None
    assert day < found <= day + STEPS_DAYS[-1]


# in a plan -----------------------------------------------------------------------------------


def candidate(name: str, **more) -> Candidate:
    jig = replace(jig_of("D4 E4 F#4 G4 A4 G4 F#4 E4 D4"), id=name, title=name)
    return Candidate(jig=jig, **more)


def test_what_is_due_again_comes_before_what_is_new_or_takes_its_turn() -> None:
    again = candidate("again", last_day=92, inside=0.95, again=2)
    new = candidate("new", last_day=None, inside=None)
    turn = candidate("turn", last_day=None, inside=None, offered=True, turn=1.0)
    assert urgency(again, 100) > urgency(new, 100) > urgency(turn, 100)
    (item,) = [i for i in lay_out(20, [new, turn, again], school="foundation", today=100)
               if i.jig_id is not None][:1]  # fmt: skip
    assert (item.jig_id, item.why) == ("again", "again")


def test_the_longer_it_waits_the_sooner_it_comes_to_a_point() -> None:
    waits = [urgency(candidate("c", last_day=99, inside=1.0, again=n), 100) for n in (0, 3, 7, 20)]
    assert waits[0] < waits[1] < waits[2] == waits[3]
    without = urgency(candidate("c", last_day=99, inside=1.0), 100)
    assert waits[0] - without == pytest.approx(1.4)


def test_set_work_and_the_theme_come_first() -> None:
    again = candidate("again", last_day=97, inside=1.0, again=30)
    for more in ({"due": True}, {"theme": True}):
        other = candidate("other", last_day=97, inside=1.0, **more)
        assert urgency(other, 100) > urgency(again, 100)
