"""Where a string answers most: found from landings made to a rule, and refused where none says."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jigwright.core.judge.most_ring import RingLanding, most_ring

WIDTH = 4.0


def landings(
    cents: list[float], centre: float, *, spread_db: float = 1.0, floor_db: float = -52.0,
    seed: int = 1,
) -> list[RingLanding]:  # fmt: skip
    """Landings whose rings follow a resonator at ``centre``; under the floor they are silent."""
    rng = np.random.default_rng(seed)
    found = []
    for c in cents:
        level = -28.0 - 10 * np.log10(1 + ((c - centre) / WIDTH) ** 2) + spread_db * rng.normal()
        seen = level > floor_db
        found.append(
            RingLanding(cents=c, level_db=float(level) if seen else None, limit_db=floor_db)
        )
    return found


SPREAD = [-12.0, -9.0, -6.0, -3.0, 0.0, 3.0, 6.0, 9.0, 12.0]


@settings(max_examples=30, deadline=None)
@given(st.floats(-6, 6), st.integers(1, 1000))
def test_the_place_is_found_within_its_range(centre: float, seed: int) -> None:
    found = most_ring(landings(SPREAD, centre, seed=seed), WIDTH)
    assert found is not None
    assert abs(found.cents - centre) <= found.uncertainty_cents + 1.5
    assert found.n == len(SPREAD)


def test_the_range_holds_in_most_of_many() -> None:
    tries = [most_ring(landings(SPREAD, 2.0, spread_db=2.0, seed=k), WIDTH) for k in range(60)]
    said = [f for f in tries if f is not None]
    assert len(said) >= 48
    assert sum(abs(f.cents - 2.0) <= f.uncertainty_cents for f in said) >= 0.9 * len(said)


def test_silent_landings_say_where_it_is_not() -> None:
    far = landings(SPREAD, 5.0, floor_db=-36.0, spread_db=0.5)
    assert any(q.level_db is None for q in far)
    found = most_ring(far, WIDTH)
    assert found is not None
    assert found.cents == pytest.approx(5.0, abs=1.5)


def test_landings_in_one_place_say_nothing() -> None:
    assert most_ring(landings([0.0] * 9, 4.0), WIDTH) is None
    assert most_ring(landings(SPREAD[:4], -6.0), WIDTH) is None
    assert most_ring([], WIDTH) is None


def test_a_ring_that_does_not_care_has_no_place() -> None:
    rng = np.random.default_rng(5)
    said = 0
    for _ in range(200):
        flat = [
            RingLanding(cents=c, level_db=float(-35 + 4 * rng.normal()), limit_db=-55.0)
            for c in SPREAD
        ]
        said += most_ring(flat, WIDTH) is not None
    assert said <= 2


def test_a_place_beyond_all_landings_is_not_said() -> None:
    one_side = [RingLanding(cents=c, level_db=-30.0 + 0.4 * c, limit_db=-60.0) for c in SPREAD]
    assert most_ring(one_side, WIDTH) is None
