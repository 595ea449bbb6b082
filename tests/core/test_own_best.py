"""A player's own best as the limit of an aim."""

from __future__ import annotations

from dataclasses import replace

import pytest

from aim_builders import all_in, change, jig_of, playing, stroke
from jigwright.core.jig.aims import OWN_BEST, Aim
from jigwright.core.judge.aims import Evidence, judge_aims
from jigwright.core.judge.own_best import NO_BEST, OwnBest, PastBow, own_best

FOUR = "D4:4 E4:4 F#4:4 G4:4"


def past(strokes=(), changes=(), tail_s: float = 0.02) -> PastBow:
    return PastBow(strokes=strokes, changes=changes, tail_s=tail_s)


def test_nine_tenths_of_the_longest_stroke_each_way() -> None:
    found = own_best([
        past([stroke(0, seconds=10.0), stroke(1, "up", seconds=6.0)]),
        past([stroke(0, seconds=8.0), stroke(1, "up", seconds=7.0)]),
    ])  # fmt: skip
    assert found.stroke_s == {"down": pytest.approx(9.0), "up": pytest.approx(6.3)}


@pytest.mark.parametrize(("seconds", "counts"), [(1.9, False), (2.1, True)])
def test_false_starts_are_no_best(seconds: float, counts: bool) -> None:
    assert bool(own_best([past([stroke(0, seconds=seconds)])]).stroke_s) is counts


def gaps(*ms: float, came: str = "down", tail_s: float = 0.02) -> PastBow:
    return past(changes=[change(i + 1, came, gap_ms=g) for i, g in enumerate(ms)], tail_s=tail_s)


def test_the_smallest_usual_hole_and_its_spread() -> None:
    found = own_best([gaps(50.0, 50.0, 50.0, 50.0), gaps(20.0, 20.0, 40.0, 40.0)])
    # median 30, half the middle half 10, and 5 that are no difference
    assert found.gap_ms == {"tip": pytest.approx(45.0)}


def test_few_changes_or_a_room_make_no_best() -> None:
    assert own_best([gaps(20.0, 20.0, 20.0)]).gap_ms == {}
    assert own_best([gaps(20.0, 20.0, 20.0, 20.0, tail_s=0.07)]).gap_ms == {}
    assert own_best([gaps(20.0, 20.0, 20.0, 20.0, tail_s=float("nan"))]).gap_ms == {}
    assert set(own_best([gaps(20.0, 20.0, 20.0, 20.0, tail_s=0.06)]).gap_ms) == {"tip"}
    assert set(own_best([gaps(20.0, 20.0, 20.0, 20.0, came="up")]).gap_ms) == {"frog"}
    assert own_best([]) == NO_BEST


def held(aim: Aim, best: OwnBest, **played):
    jig = jig_of(FOUR, aim)
    evidence = Evidence(
        notes=all_in(jig), playing=playing(**played), jig=jig, tolerance_cents=10.0, best=best
    )
    return judge_aims(evidence)[0]


def test_long_strokes_are_held_against_it_each_way() -> None:
    strokes = [stroke(0, seconds=9.5), stroke(1, "up", seconds=6.0)]
    aim = Aim(kind="duration", way=OWN_BEST)
    best = OwnBest(stroke_s={"down": 9.0, "up": 6.5})
    short = held(aim, best, strokes=strokes)
    assert (short.state, short.direction, short.limit) == ("not_met", "up", 6.5)
    reached = held(aim, replace(best, stroke_s={"down": 9.0, "up": 5.5}), strokes=strokes)
    assert reached.state == "met"
    # what was never measured is held against the written length: 1.9 s at 120
    assert held(aim, NO_BEST, strokes=strokes).limit == pytest.approx(1.9)
    assert held(Aim(kind="duration"), best, strokes=strokes).limit == pytest.approx(1.9)


def test_the_shorter_way_decides_though_it_is_longer_in_seconds() -> None:
    strokes = [stroke(0, seconds=8.0), stroke(1, "up", seconds=6.0)]
    best = OwnBest(stroke_s={"down": 9.0, "up": 5.0})
    found = held(Aim(kind="duration", way=OWN_BEST), best, strokes=strokes)
    assert (found.state, found.direction) == ("not_met", "down")


def test_holes_are_held_against_it_at_their_place() -> None:
    changes = [change(i, "down", gap_ms=40.0) for i in (1, 2, 3)]
    aim = Aim(kind="bow_change", way=OWN_BEST)
    worse = held(aim, OwnBest(gap_ms={"tip": 30.0}), changes=changes)
    assert (worse.state, worse.limit, worse.part) == ("not_met", 30.0, "tip")
    assert held(aim, OwnBest(gap_ms={"frog": 30.0}), changes=changes).limit == 60.0
    assert held(aim, OwnBest(gap_ms={"tip": 46.0}), changes=changes).state == "met"
