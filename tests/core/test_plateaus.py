"""A plateau is claimed only where it is shown: no change seen is not yet none."""

from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.judge.trend import LEAST_PLATEAU_DAYS, stands_still


def days(n: int, per_day: int = 1) -> list[str]:
    return [f"d{i // per_day:03d}" for i in range(n * per_day)]


def test_a_steady_figure_stands_still_from_twelve_days_on() -> None:
    steady = [10.0, 10.1, 9.9] * 5
    assert not stands_still(steady[: LEAST_PLATEAU_DAYS - 1], days(LEAST_PLATEAU_DAYS - 1))
    assert stands_still(steady[:LEAST_PLATEAU_DAYS], days(LEAST_PLATEAU_DAYS))
    assert not stands_still([], [])


def test_many_takes_of_few_days_are_few() -> None:
    values = [10.0, 10.1, 9.9, 10.0] * 6
    assert not stands_still(values, days(6, 4))
    assert stands_still(values, days(24))


@pytest.mark.parametrize(("spread", "still"), [(0.5, True), (3.0, False)])
def test_what_scatters_much_hides_a_change(spread: float, still: bool) -> None:
    rng = np.random.default_rng(1)
    told = [
        stands_still(list(10.0 + spread * rng.standard_normal(16)), days(16)) for _ in range(100)
    ]
    assert (sum(told) > 90) is still
    assert (sum(told) < 5) is not still


@pytest.mark.parametrize("effect", [0.0, 1.0])
def test_who_gets_better_by_a_quarter_is_hardly_ever_told_to_stand_still(effect: float) -> None:
    rng = np.random.default_rng(5)
    told = 0
    for _ in range(300):
        course = 10.0 - np.repeat(np.linspace(0, 2.6, 16), 4)
        day = np.repeat(effect * rng.standard_normal(16), 4)
        values = course + day + rng.standard_normal(64)
        told += stands_still(list(values), days(16, 4))
    assert told <= 9


def test_only_the_newest_days_count() -> None:
    values = [*np.linspace(30.0, 10.0, 20), *([10.0, 10.2, 9.9] * 8)]
    assert stands_still(values, days(44))
    assert not stands_still(values[:30], days(30))


def test_around_nothing_there_is_no_share() -> None:
    assert not stands_still([0.1, -0.1] * 8, days(16))
