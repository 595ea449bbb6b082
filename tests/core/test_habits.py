"""A habit over takes: claimed of those who have it, hardly ever of those who have none."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats

from jigwright.core.judge.habits import find_habits

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
    assert sum("n03" in {n for h in one for n in h.note_ids} for one in found) >= 68


def steady(n_takes: int = 6, cents: float = -15.0, **notes: float) -> list[Take]:
    """Eight notes within a cent, one of them off."""
    return [
        {f"n{i}": float((i + k) % 3 - 1) for i in range(8)} | {"off": cents + (k % 3 - 1)} | notes
        for k in range(n_takes)
    ]


def test_mean_range_and_counts_are_told() -> None:
    (habit,) = find_habits(steady(), tolerance_cents=10.0)
    assert (habit.note_ids, habit.n_takes, habit.n_off) == (("off",), 6, 6)
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


def even(n_takes: int, cents: float) -> list[Take]:
    """Forty notes that are 4 cents high and low in turn, and one that is so much higher."""
    ways = [(-1.0) ** k for k in range(n_takes)]
    return [
        {f"n{i:02}": 4.0 * w * (-1.0) ** i for i in range(40)} | {"off": cents + 4.0 * w}
        for w in ways
    ]


def smallest_claimed(n_takes: int) -> float:
    """Where a habit begins, by halving."""
    low, high = 0.0, 40.0
    for _ in range(20):
        middle = 0.5 * (low + high)
        found = find_habits(even(n_takes, middle), tolerance_cents=1.0)
        low, high = (low, middle) if found else (middle, high)
    return high


@pytest.mark.parametrize(
    ("n_takes", "chance"), [(4, 0.00125), (10, 0.00125), (12, 0.01), (20, 0.01)]
)
def test_one_in_a_hundred_over_all_notes_and_all_looks(n_takes: int, chance: float) -> None:
    freedom = 40 * (n_takes - 1)
    limit = float(stats.t.isf(0.5 * chance / 41, freedom))
    error = 4.0 * np.sqrt(41 * n_takes / freedom / n_takes)
    assert smallest_claimed(n_takes) == pytest.approx(limit * error, rel=0.02)


# places: the same pitch on the same string, up and down


def up_and_down(
    rng: np.random.Generator, *, alike: float, habit: float = 0.0, missing: float = 0.0
) -> tuple[list[Take], dict[str, int]]:
    """Twelve takes of fourteen places passed twice and one passed once, each spread by 8 cents."""
    notes = [(place, k) for place in range(15) for k in range(2 if place < 14 else 1)]
    shared = rng.normal(0, 8 * np.sqrt(alike), (12, 15))
    takes = []
    for row in shared:
        own = rng.normal(0, 8 * np.sqrt(1 - alike), len(notes))
        takes.append(
            {
                f"n{p:02}.{k}": float(row[p] + c + habit * (p == 3))
                for (p, k), c in zip(notes, own, strict=True)
                if rng.random() >= missing
            }
        )
    return takes, {f"n{p:02}.{k}": p for p, k in notes}


@pytest.mark.parametrize("missing", [0.0, 0.1])
@pytest.mark.parametrize("alike", [0.0, 0.5, 0.95])
def test_nobody_is_told_of_a_place_that_is_none(alike: float, missing: float) -> None:
    rng = np.random.default_rng(11)
    false = 0
    for _ in range(200):
        takes, places = up_and_down(rng, alike=alike, missing=missing)
        false += bool(find_habits(takes, tolerance_cents=10.0, places=places))
    assert false <= 6  # 2 of 200 on the long run


@pytest.mark.parametrize(("alike", "least"), [(0.0, 95), (0.5, 80)])
def test_a_place_passed_twice_is_known_sooner(alike: float, least: int) -> None:
    rng = np.random.default_rng(12)
    found = 0
    for _ in range(100):
        takes, places = up_and_down(rng, alike=alike, habit=10.0)
        habits = find_habits(takes, tolerance_cents=10.0, places=places)
        found += ("n03.0", "n03.1") in [h.note_ids for h in habits]
    assert found >= least


def passed_twice(n_takes: int, *, up: float, down: float) -> list[Take]:
    """Six places within a cent; one of them so far off going up and down."""
    takes = []
    for k in range(n_takes):
        take = {
            f"n{i}{w}": float((i + k + j) % 3 - 1) for i in range(6) for j, w in enumerate("ud")
        }
        takes.append(take | {"off.u": up + (k % 3 - 1), "off.d": down + (k % 3 - 1)})
    return takes


PLACES = {f"n{i}{w}": i for i in range(6) for w in "ud"} | {"off.u": 9, "off.d": 9}


def test_a_place_is_told_once_with_all_its_notes() -> None:
    (habit,) = find_habits(
        passed_twice(12, up=14.0, down=16.0), tolerance_cents=10.0, places=PLACES
    )
    assert habit.note_ids == ("off.d", "off.u")
    assert habit.cents == pytest.approx(15.0)
    assert (habit.n_takes, habit.n_off) == (12, 12)


def test_high_only_on_the_way_down_is_a_habit_of_that_note() -> None:
    takes = passed_twice(12, up=-12.0, down=12.0)
    habits = find_habits(takes, tolerance_cents=10.0, places=PLACES)
    assert {h.note_ids: round(h.cents) for h in habits} == {("off.u",): -12, ("off.d",): 12}


def test_notes_without_a_place_are_places_of_their_own() -> None:
    takes = passed_twice(12, up=15.0, down=15.0)
    apart = find_habits(takes, tolerance_cents=10.0)
    assert {h.note_ids for h in apart} == {("off.u",), ("off.d",)}
    # a place that happens to be named like a note is none of that note's
    named = find_habits(takes, tolerance_cents=10.0, places={"off.u": "off.d"})
    assert {h.note_ids for h in named} == {("off.u",), ("off.d",)}


def test_landings_that_are_always_alike_make_nobody_more_certain() -> None:
    """Twice the same figure in a take is one figure."""
    rng = np.random.default_rng(13)
    once = [{f"n{i}": float(c) for i, c in enumerate(rng.normal(0, 4, 9))} for _ in range(12)]
    for take in once:
        take["n3"] += 20.0
    twice = [t | {f"{n}again": c for n, c in t.items()} for t in once]
    places = {n: n.removesuffix("again") for n in twice[0]}
    (single,) = find_habits(once, tolerance_cents=10.0)
    (double,) = find_habits(twice, tolerance_cents=10.0, places=places)
    assert double.cents == pytest.approx(single.cents)
    assert double.half_range == pytest.approx(single.half_range, rel=0.08)


def test_landings_that_are_not_alike_narrow_the_range() -> None:
    rng = np.random.default_rng(14)
    takes, places = up_and_down(rng, alike=0.0, habit=20.0)
    (place,) = find_habits(takes, tolerance_cents=10.0, places=places)
    singles = find_habits(takes, tolerance_cents=10.0)
    assert {h.note_ids for h in singles} >= {("n03.0",), ("n03.1",)}
    single = min(h.half_range for h in singles)
    assert place.half_range == pytest.approx(single / np.sqrt(2.0), rel=0.12)


def test_a_take_with_one_of_the_notes_counts_less() -> None:
    rng = np.random.default_rng(15)
    takes, places = up_and_down(rng, alike=0.0, habit=20.0)
    (whole,) = find_habits(takes, tolerance_cents=10.0, places=places)
    for take in takes[:6]:
        del take["n03.0"]
    (half,) = find_habits(takes, tolerance_cents=10.0, places=places)
    assert half.n_takes == 12
    assert half.half_range == pytest.approx(whole.half_range * np.sqrt(1.5), rel=0.08)
    for take in takes[:6]:
        del take["n03.1"]
    (later,) = find_habits(takes, tolerance_cents=10.0, places=places)
    assert later.n_takes == 6
    assert later.half_range == pytest.approx(whole.half_range * np.sqrt(2.0), rel=0.08)


def test_few_places_scatter_as_single_notes_do() -> None:
    """Two places in four takes say nothing of how far landings of one take are alike."""
    takes = [
        {"a.u": 30.0 + k, "a.d": 30.0 - k, "b.u": -1.0 + k, "b.d": 1.0 - k} for k in (-2, -1, 1, 2)
    ]  # the mean of both never moves
    (place, *_) = find_habits(
        [*takes, *takes], tolerance_cents=10.0, places={"a.u": 0, "a.d": 0, "b.u": 1, "b.d": 1}
    )
    assert place.half_range > 0.5


def test_too_little_to_know_the_scatter_of_says_nothing() -> None:
    """Three notes in five takes leave eight degrees of freedom, one landing less leaves seven."""
    takes = [{"a": 0.2 * k, "b": -0.2 * k, "off": 40.0 + 0.1 * k} for k in (-2, -1, 0, 1, 2)]
    assert {h.note_ids for h in find_habits(takes, tolerance_cents=10.0)} >= {("off",)}
    del takes[2]["a"]
    assert find_habits(takes, tolerance_cents=10.0) == ()


def test_thirty_degrees_of_freedom_make_a_scatter_of_its_own() -> None:
    """Four places in eleven takes have them; with one landing less they scatter as single notes."""
    rng = np.random.default_rng(16)
    takes = [
        {f"{p}{w}": float(rng.normal(0, 4)) for p in "abc" for w in "ud"}
        | {f"off{w}": 30.0 + float(rng.normal(0, 4)) for w in "ud"}
        for _ in range(11)
    ]
    places = {note: note[:-1] for note in takes[0]}
    (own, *_) = find_habits(takes, tolerance_cents=10.0, places=places)
    assert own.note_ids == ("offd", "offu")
    del takes[5]["au"]
    (single, *_) = find_habits(takes, tolerance_cents=10.0, places=places)
    assert single.half_range > 1.2 * own.half_range


def test_what_a_take_has_in_common_goes_however_far_the_notes_lie_apart() -> None:
    """Takes 6 cents high and low in turn, notes that keep their offsets within half a cent."""
    takes = [
        {f"n{i}": 2.0 * (i - 4) + 6.0 * (-1) ** k + 0.5 * ((i + k) % 3 - 1) for i in range(9)}
        for k in range(12)
    ]
    highest = find_habits(takes, tolerance_cents=2.0)[0]
    assert abs(highest.cents) == pytest.approx(8.0, abs=0.2)
    assert highest.half_range < 0.5
