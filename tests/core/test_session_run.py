"""A session while it runs: what counts, when to go on, what it came to."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.judge.plan import PlanItem
from jigwright.core.judge.session_run import (
    MET_ENOUGH,
    Leg,
    SessionRun,
    back,
    begin,
    heard,
    on,
    passed,
    rearranged,
    stay,
    summed_up,
)
from jigwright.wording.session_run import (
    asked_line,
    due_sentence,
    item_name,
    left_text,
    leg_line,
    next_line,
    remembered_sentence,
    rest_words,
    sum_sentences,
)

SETTLE = PlanItem(part="settle", minutes=2)
BOWS = PlanItem(part="bow", minutes=4, jig_id="b", title="Long bows", repetitions=5)
SCALE = PlanItem(part="pitch", minutes=6, jig_id="s", title="Scale", repetitions=2)
PAUSE = PlanItem(part="break", minutes=3)
PIECE = PlanItem(part="passage", minutes=8, jig_id="p", title="Quay Song", repetitions=4)
CLOSE = PlanItem(part="close", minutes=1)
ITEMS = (SETTLE, BOWS, SCALE, PAUSE, PIECE, CLOSE)


def at(i: int) -> SessionRun:
    return begin(ITEMS, i)


def takes(run: SessionRun, jig_id: str, *met: bool | None) -> SessionRun:
    for one in met:
        run = heard(run, jig_id, one)
    return run


def leg(run: SessionRun) -> Leg:
    assert run.leg is not None
    return run.leg


# one item ------------------------------------------------------------------------------------


def test_an_item_counts_when_something_was_played_in_it() -> None:
    run = passed(at(1), 200.0)
    assert not leg(run).counts, "time alone is no playing"
    assert leg(heard(run, "b", None)).counts
    assert not leg(at(0)).counts
    assert leg(passed(at(0), 1.0)).counts, "settling is being there"


def test_takes_of_another_jig_are_not_of_this_item() -> None:
    run = takes(at(1), "s", True, True)
    assert (leg(run).takes, leg(run).met) == (0, 0)
    run = takes(at(1), "b", True, False, None)
    assert (leg(run).takes, leg(run).met, leg(run).told) == (3, 1, 2)


def test_one_goes_on_when_the_aim_was_met_often_enough() -> None:
    assert leg(at(1)).needed == MET_ENOUGH == 3
    assert leg(takes(at(1), "b", True, False, True)).over == ""
    assert leg(takes(at(1), "b", True, False, True, True)).over == "met"
    assert leg(at(2)).needed == 2, "its minutes hold two"
    assert leg(takes(at(2), "s", True)).over == ""
    assert leg(takes(at(2), "s", True, True)).over == "met"
    assert leg(at(0)).needed == 0
    none = PlanItem(part="bow", minutes=4, jig_id="b")
    assert Leg(item=none).needed == 1, "a take at least"


def test_one_goes_on_when_its_minutes_are_over() -> None:
    assert leg(passed(at(1), 239.9)).over == ""
    assert leg(passed(at(1), 240.0)).over == "time"
    assert leg(passed(at(0), 119.0)).over == ""
    assert leg(passed(at(0), 120.0)).over == "time"
    both = passed(takes(at(1), "b", True, True, True), 300.0)
    assert leg(both).over == "met"
    assert leg(passed(at(1), -5.0)).spent_s == 0.0


def test_who_stays_gets_half_as_long_again_and_as_many_good_takes() -> None:
    run = stay(passed(at(1), 240.0))
    assert leg(run).over == ""
    assert leg(run).left_s == pytest.approx(120.0)
    assert leg(passed(run, 120.0)).over == "time"
    run = stay(takes(at(1), "b", True, True, True))
    assert leg(run).over == ""
    assert leg(takes(run, "b", True, True, True)).over == "met"
    assert leg(passed(at(1), 1000.0)).left_s == 0.0


# on and back ---------------------------------------------------------------------------------


def test_on_to_the_end_and_back() -> None:
    run = at(0)
    for i in range(len(ITEMS)):
        assert (run.at, run.is_over) == (i, False)
        run = on(run)
    assert run.is_over
    assert run.leg is None
    assert on(run) == run
    assert heard(run, "b", True) == run
    assert passed(run, 5.0) == run
    assert stay(run) == run
    assert leg(back(run)).item is CLOSE
    assert back(at(0)) == at(0)
    used = back(on(passed(at(1), 240.0)))
    assert leg(used).over == "", "who comes back has time"
    assert leg(back(on(passed(at(1), 60.0)))).stays == 0


def test_what_is_left_of_it_all() -> None:
    assert at(0).left_s == 60.0 * sum(i.minutes for i in ITEMS)
    assert passed(at(4), 60.0).left_s == 60.0 * (7 + 1)
    assert at(6).left_s == 0.0
    assert at(4).following is not None
    assert at(5).following is None
    assert begin(ITEMS, 99).is_over
    assert begin(ITEMS, -3).at == 0


@given(st.lists(st.sampled_from(("on", "back", "stay", "take", "time")), max_size=40))
def test_no_way_through_leads_out_of_it(steps: list[str]) -> None:
    run = at(0)
    for step in steps:
        if step == "take":
            run = heard(run, run.leg.item.jig_id or "" if run.leg else "", True)
        elif step == "time":
            run = passed(run, 100.0)
        else:
            run = {"on": on, "back": back, "stay": stay}[step](run)
        assert 0 <= run.at <= len(run.legs) == len(ITEMS)
        assert run.left_s >= 0.0
        assert all(g.met <= g.told <= g.takes for g in run.legs)


def test_a_session_that_is_edited_keeps_what_was_done() -> None:
    run = takes(passed(at(1), 30.0), "b", True)
    moved = rearranged(run, (SETTLE, SCALE, BOWS, PIECE))
    assert [g.item for g in moved.legs] == [SETTLE, SCALE, BOWS, PIECE]
    assert moved.at == 2
    assert (leg(moved).takes, leg(moved).spent_s) == (1, 30.0)
    longer = PlanItem(part="bow", minutes=9, jig_id="b", title="Long bows", repetitions=5)
    assert leg(rearranged(run, (SETTLE, longer))).seconds == 540.0
    dropped = rearranged(run, (SETTLE, SCALE))
    assert leg(dropped).item is SCALE, "what comes in its place"
    assert rearranged(run, ()).is_over


# what it came to -----------------------------------------------------------------------------


def whole() -> SessionRun:
    run = passed(on(passed(at(0), 120.0)), 240.0)
    run = on(takes(run, "b", True, True, True))
    run = on(takes(passed(run, 200.0), "s", True, False))
    return on(on(on(passed(run, 180.0))))


def test_what_a_session_came_to() -> None:
    total = summed_up(whole())
    assert (total.minutes, total.played, total.planned) == (12, 2, 3)
    assert total.met == (BOWS,)
    assert total.not_yet == (SCALE,)
    assert total.left_out == (PIECE,)
    empty = summed_up(begin(()))
    assert (empty.minutes, empty.planned, empty.met) == (0, 0, ())


def test_how_it_is_said() -> None:
    said = " ".join(sum_sentences(summed_up(whole())))
    assert said == (
        "12 minutes; 2 of 3 exercises played. Met: Long bows. Not yet often enough: Scale. "
        "Left out: Quay Song."
    )
    assert sum_sentences(summed_up(begin((BOWS,)))) == [
        "0 minutes; 0 of 1 exercise played.", "Left out: Long bows.",
    ]  # fmt: skip
    assert remembered_sentence("Sunday", summed_up(whole())) == "Sunday: not yet Scale; Quay Song."
    done = summed_up(on(takes(begin((SCALE,)), "s", True, True)))
    assert remembered_sentence("Sunday", done) == "Sunday: everything that was played was met."
    many = begin(tuple(PlanItem(part="bow", minutes=2, title=f"E{i}") for i in range(6)))
    assert sum_sentences(summed_up(many))[-1] == "Left out: E0; E1; E2; E3; 2 more."
    assert due_sentence([]) == ""
    assert due_sentence([("Scale", "Friday")]) == "Due: Scale (Friday)."


def test_what_is_said_on_the_way() -> None:
    assert left_text(91.0) == "2 minutes left"
    assert left_text(89.0) == "1 minute left"
    assert left_text(60.0) == "1 minute left"
    assert left_text(59.2) == "60 seconds left"
    assert left_text(1.0) == "1 second left"
    assert left_text(-1.0) == "0 seconds left"
    run = takes(passed(at(1), 60.0), "b", True, False)
    assert leg_line(run) == "3 minutes left · 1 of 2 met it"
    assert leg_line(at(0)) == "2 minutes left"
    assert next_line(run) == "then: Scale"
    assert next_line(at(2)) == "then: Break"
    assert next_line(at(5)) == "then it is done"
    met = takes(at(1), "b", True, True, True)
    assert asked_line(met) == "Met often enough. Next: Scale. Left stays."
    over = passed(at(4), 480.0)
    assert asked_line(over) == "Its minutes are over. Next: To end with. Left stays."
    assert asked_line(passed(at(5), 60.0)).startswith(
        "Its minutes are over. That was the last one."
    )
    assert asked_line(at(6)) == leg_line(at(6)) == ""
    assert rest_words(Leg(item=PAUSE))[0] == "Break"
    assert rest_words(Leg(item=BOWS))[1] == ""
    assert item_name(SCALE) == "Scale"
