"""What a doubtful beginning costs a follower."""

from __future__ import annotations

from dataclasses import replace

import pytest

from builders import segment
from jigwright.core.follow.doubt_cost import doubt_cost

ONE = replace(segment(440.0, 1.0, seconds=0.5), doubtful=True)


@pytest.mark.parametrize("timed", [True, False])
def test_a_sure_note_costs_nothing_and_one_never_weighed_a_tenth(timed: bool) -> None:
    assert doubt_cost(replace(ONE, doubtful=False, odds=-9.0), says_lengths=timed) == 0.0
    assert doubt_cost(ONE, says_lengths=timed) == pytest.approx(0.1)


@pytest.mark.parametrize(
    ("odds", "timed", "cost"),
    [(-2.0, True, 0.22), (-2.0, False, 0.4), (1.0, True, 0.04), (0.5, False, 0.025)],
)
def test_odds_count_for_more_where_no_lengths_are_written(
    odds: float, timed: bool, cost: float
) -> None:
    assert doubt_cost(replace(ONE, odds=odds), says_lengths=timed) == pytest.approx(cost)


def test_it_is_never_free_and_never_as_dear_as_a_missing_note() -> None:
    assert doubt_cost(replace(ONE, odds=50.0), says_lengths=True) == pytest.approx(0.01)
    assert doubt_cost(replace(ONE, odds=-50.0), says_lengths=False) == pytest.approx(0.9)
