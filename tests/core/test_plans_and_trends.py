"""Ladders follow the takes, trends claim only what the numbers support."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.errors import JigError, JigwrightError
from jigwright.core.judge.ladder import READY_MADE, ladder_by_id, rung_jig, standing
from jigwright.core.judge.trend import find_change, running_middle


def test_a_ladder_is_climbed_by_good_takes_and_left_by_bad_ones() -> None:
    ladder = ladder_by_id("scale")
    assert standing(ladder, []).rung == 0
    climbed = standing(ladder, [(0, True), (0, False), (0, True), (0, True)])
    assert (climbed.rung, climbed.good, climbed.of) == (1, 0, 0)
    up = [(0, True)] * 3
    fallen = standing(ladder, [*up, *[(1, False)] * ladder.rule.back_after])
    assert (fallen.rung, fallen.stepped_back) == (0, True)
    top = standing(ladder, [(i, True) for i in range(len(ladder.rungs)) for _ in range(3)])
    assert top.rung == len(ladder.rungs)


@given(st.lists(st.tuples(st.integers(0, 3), st.booleans()), max_size=60))
def test_no_row_of_takes_leads_off_a_ladder(takes) -> None:
    ladder = ladder_by_id("scale")
    where = standing(ladder, takes)
    assert 0 <= where.rung <= len(ladder.rungs)
    assert 0 <= where.good <= where.of <= ladder.rule.of


@pytest.mark.parametrize("kind", ["violin", "viola", "cello", "bass"])
def test_ready_made_ladders_can_be_played(kind) -> None:
    playable = 0
    for ladder in READY_MADE:
        for i in range(len(ladder.rungs)):
            try:
                made = rung_jig(ladder, i, instrument_id=kind, tonic="D", title=ladder.id)
            except JigError:
                continue
            playable += 1
            assert made.tolerance_cents == ladder.rungs[i].tolerance_cents
    assert playable > (15 if kind == "bass" else 30)
    with pytest.raises(JigwrightError):
        ladder_by_id("pole")


def days(n: int, a_day: int = 2) -> list[str]:
    return [f"day {i // a_day:02}" for i in range(n)]


def test_a_planted_change_is_found_with_its_size() -> None:
    rng = np.random.default_rng(4)
    values = np.concatenate([rng.normal(16, 2, 12), rng.normal(10, 2, 12)])
    change = find_change(values, days(24))
    assert change is not None
    assert abs(change.at - 12) <= 2
    assert change.at % 2 == 0  # a day does not change in its middle
    assert change.by == pytest.approx(-6, abs=change.uncertainty + 0.5)


@pytest.mark.parametrize(("day_effect", "follows"), [(0.0, 0.0), (1.0, 0.0), (1.0, 0.3)])
def test_chance_is_seldom_called_a_change(day_effect: float, follows: float) -> None:
    """Series without a change, four takes a day: alike on one day, alike one after the other."""
    rng = np.random.default_rng(5)
    false = 0
    for _ in range(100):
        takes = rng.normal(0, 1, 80)
        for i in range(1, 80):
            takes[i] += follows * takes[i - 1]
        takes += np.repeat(rng.normal(0, day_effect, 20), 4)
        false += find_change(takes, days(80, 4)) is not None
    assert false <= 3


def test_days_and_not_takes_are_what_is_told_apart() -> None:
    steps = [10.0, 10.1, 9.9] * 8 + [7.0, 7.1, 6.9] * 8
    assert find_change(steps, days(48, 3)) is not None
    assert find_change(steps, days(48, 6)) is None  # eight days: too few to shuffle
    assert find_change([1.0] * 7, days(7, 1)) is None
    weak = [10.0 + 0.8 * (i % 3) + (0.9 if i >= 24 else 0.0) for i in range(48)]
    alone = find_change(weak, days(48, 3))
    assert alone is not None
    assert alone.at == 24


def test_who_looks_at_more_needs_more() -> None:
    rng = np.random.default_rng(3)
    values = np.concatenate([rng.normal(0, 1, 12), rng.normal(3.0, 1, 12)])
    assert find_change(values, days(24)) is not None
    assert find_change(values, days(24), looked_at=400) is None


def test_the_running_middle_ignores_one_bad_day() -> None:
    values = [10.0] * 6 + [60.0] + [10.0] * 6
    assert running_middle(values) == [10.0] * 13
