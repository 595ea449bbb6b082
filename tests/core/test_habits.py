"""A habit over takes: claimed of those who have it, hardly ever of those who have none."""

from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.judge.habits import find_habits, student_limit

Take = dict[str, float]


def takes_of(table: np.ndarray) -> list[Take]:
    return [{f"n{i:02}": float(c) for i, c in enumerate(row)} for row in table]


def drawn(
    rng: np.random.Generator, *, n_takes: int = 12, take_effect: float = 0.0, habit: float = 0.0
) -> list[Take]:
    """Fifteen notes spread by 8 cents; one of them off by so much more."""
    table = rng.normal(0, 8, (n_takes, 15)) + rng.normal(0, take_effect, (n_takes, 1))
    table[:, 3] += habit
    return takes_of(table)


@pytest.mark.parametrize("take_effect", [0.0, 5.0, 10.0])
def test_players_without_a_habit_are_hardly_ever_told_that_they_have_one(
    take_effect: float,
) -> None:
    rng = np.random.default_rng(8)
    false = sum(
        bool(find_habits(drawn(rng, take_effect=take_effect), tolerance_cents=10.0))
        for _ in range(300)
    )
    assert false <= 8  # 3 of 300 on the long run; more than 8 has a chance of 1 in 300


def test_a_habit_of_ten_cents_is_mostly_found_in_twelve_takes() -> None:
    rng = np.random.default_rng(9)
    found = [find_habits(drawn(rng, habit=-10.0), tolerance_cents=10.0) for _ in range(100)]
    assert sum("n03" in {h.note_id for h in one} for one in found) >= 68


def steady(n_takes: int = 6, cents: float = -15.0, **notes: float) -> list[Take]:
    """Eight notes within a cent, one of them off."""
    return [
        {f"n{i}": float((i + k) % 3 - 1) for i in range(8)} | {"off": cents + (k % 3 - 1)} | notes
        for k in range(n_takes)
    ]


def test_mean_range_and_counts_are_told() -> None:
    (habit,) = find_habits(steady(), tolerance_cents=10.0)
    assert (habit.note_id, habit.n_takes, habit.n_off) == ("off", 6, 6)
    assert habit.cents == pytest.approx(-15.0)
    assert 0.3 < habit.half_range < 1.5
    (mixed,) = find_habits(steady(cents=-10.0), tolerance_cents=10.0)
    assert mixed.n_off == 2  # those over the tolerance


@pytest.mark.parametrize(("n_takes", "n"), [(3, 0), (4, 1)])
def test_a_few_takes_are_not_enough(n_takes: int, n: int) -> None:
    assert len(find_habits(steady(n_takes), tolerance_cents=10.0)) == n


@pytest.mark.parametrize(("cents", "n"), [(-4.9, 0), (-5.1, 1), (5.1, 1)])
def test_less_than_half_the_tolerance_is_not_worth_a_word(cents: float, n: int) -> None:
    assert len(find_habits(steady(12, cents), tolerance_cents=10.0)) == n


def test_a_take_that_was_high_as_a_whole_says_nothing_of_a_note() -> None:
    high = [{note: cents + 20.0 for note, cents in take.items()} for take in steady(6, 0.0)]
    assert find_habits(high, tolerance_cents=10.0) == ()


def test_other_notes_are_left_out_and_the_oldest_takes_too() -> None:
    wrong = steady(6, 0.0)
    for take in wrong:
        take["off"] = 100.0
    assert find_habits(wrong, tolerance_cents=10.0) == ()
    assert find_habits(steady(10, -15.0) + steady(20, 0.0), tolerance_cents=10.0) == ()
    kept = find_habits(steady(20, 0.0) + steady(20, -15.0), tolerance_cents=10.0)
    assert [h.n_takes for h in kept] == [20]


def test_notes_missing_in_some_takes_count_where_they_are() -> None:
    takes = steady(8)
    for take in takes[:3]:
        del take["off"]
    (habit,) = find_habits(takes, tolerance_cents=10.0)
    assert habit.n_takes == 5
    assert find_habits([{"one": -20.0}] * 9, tolerance_cents=10.0) == ()  # nothing beside it
    assert find_habits([], tolerance_cents=10.0) == ()


@pytest.mark.parametrize(
    ("chance", "freedom", "t"),
    [(0.05, 8, 2.306), (0.05, 30, 2.042), (0.01, 12, 3.055), (0.001, 150, 3.357)],
)
def test_students_t(chance: float, freedom: int, t: float) -> None:
    assert student_limit(chance, freedom) == pytest.approx(t, rel=0.005)
