"""Moves between written notes: the quick way is the full sum over all pairs."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.follow.moves import FollowParams, Moves
from jigwright.core.values import Floats

P = FollowParams()


def by_all_pairs(total: Floats) -> Floats:
    """Least cost of coming to each note, every pair looked at."""
    m = len(total)
    cost = np.full((m, m), np.inf)
    for i in range(m):
        for j in range(m):
            step = j - i
            if step == 1:
                cost[i, j] = 0.0
            elif step == 0:
                cost[i, j] = P.stay
            elif step == -1:
                cost[i, j] = P.back_one
            elif step == -2:
                cost[i, j] = P.back_two
            elif step < -2:
                cost[i, j] = P.far_back + 0.03 * (-step - 3)
            else:
                cost[i, j] = P.skip + P.skip_more * (step - 2)
    return np.asarray((total[:, None] + cost).min(axis=0))


@given(st.lists(st.floats(0.0, 30.0), min_size=1, max_size=40))
def test_the_least_cost_is_that_of_all_pairs(costs: list[float]) -> None:
    total = np.array(costs)
    best, via = Moves.of(len(total), P).best(total)
    np.testing.assert_allclose(best, by_all_pairs(total), atol=1e-9)
    assert np.all((via >= 0) & (via < len(total)))


@pytest.mark.parametrize(
    ("at", "to", "cost"),
    [(5, 6, 0.0), (5, 5, P.stay), (5, 4, P.back_one), (5, 3, P.back_two), (5, 2, P.far_back),
     (5, 0, P.far_back + 0.06), (5, 7, P.skip), (5, 9, P.skip + 2 * P.skip_more)],
)  # fmt: skip
def test_each_step_has_its_price_and_its_source(at: int, to: int, cost: float) -> None:
    total = np.full(10, np.inf)
    total[at] = 1.0
    best, via = Moves.of(10, P).best(total)
    assert best[to] == pytest.approx(1.0 + cost)
    assert via[to] == at


@pytest.mark.parametrize(
    ("to", "cost"),
    [(6, 0.0), (5, P.stay), (4, 0.6 * P.back_one), (3, 0.6 * P.back_two), (2, 0.6 * P.far_back),
     (0, 0.6 * P.far_back + 0.06), (7, P.skip)],
)  # fmt: skip
def test_after_a_pause_going_back_is_cheaper_and_nothing_else_is(to: int, cost: float) -> None:
    total = np.full(10, np.inf)
    total[5] = 1.0
    best, _ = Moves.of(10, P).best(total, paused=True)
    assert best[to] == pytest.approx(1.0 + cost)


def test_of_equal_ways_the_earliest_note_is_taken() -> None:
    total = np.full(4, np.inf)
    total[0], total[1] = 1.0, 1.0 + P.skip  # two on from the first, or the next of the second
    best, via = Moves.of(4, P).best(total)
    assert best[2] == pytest.approx(1.0 + P.skip)
    assert via[2] == 0


@pytest.mark.parametrize("n", [1, 2, 3])
def test_short_jigs_have_all_their_moves(n: int) -> None:
    best, via = Moves.of(n, P).best(np.arange(n, dtype=float))
    np.testing.assert_allclose(best, by_all_pairs(np.arange(n, dtype=float)))
    assert len(via) == n
