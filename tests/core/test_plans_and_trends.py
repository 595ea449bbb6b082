"""Plans fit the minutes, ladders follow the takes, trends claim only what the numbers support."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.errors import JigError, JigwrightError
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.judge.ladder import READY_MADE, ladder_by_id, rung_jig, standing
from jigwright.core.judge.plan import Candidate, lay_out, part_of
from jigwright.core.judge.trend import find_change, running_middle

TODAY = 739_000
IDS = ("long_bows", "scale", "double_scale", "off_string", "even_run", "drone_scale", "echo")


def jig(maker_id: str):
    return maker(maker_id).make(Setting(instrument_id="violin", jig_id=maker_id, title=maker_id))


CANDIDATES = [
    Candidate(jig=jig(m), last_day=TODAY - 3 * i if i else None, inside=0.9)
    for i, m in enumerate(IDS)
]


def test_exercises_find_their_part_of_a_session() -> None:
    wanted = {"long_bows": "bow", "scale": "pitch", "double_scale": "two_strings",
              "off_string": "stroke", "echo": "passage"}  # fmt: skip
    assert {m: part_of(jig(m)) for m in wanted} == wanted


@given(
    st.integers(5, 200), st.sampled_from(("foundation", "rotating")),
    st.lists(st.sampled_from(CANDIDATES), unique=True),
)  # fmt: skip
def test_a_plan_takes_the_minutes_there_are(minutes, school, candidates) -> None:
    items = lay_out(minutes, candidates, school=school, today=TODAY)
    if candidates:
        assert abs(sum(i.minutes for i in items) - minutes) <= 3
    assert items[0].part == "settle"
    assert items[-1].part == "close"
    assert all(i.minutes >= 1 for i in items)
    known = {c.jig.id for c in candidates}
    assert {i.jig_id for i in items if i.jig_id} <= known
    since = 0
    for item in items:
        since = 0 if item.part == "break" else since + item.minutes
    assert since <= 200


def test_an_hour_has_a_break_and_both_schools_differ() -> None:
    plans = {s: lay_out(60, CANDIDATES, school=s, today=TODAY) for s in ("foundation", "rotating")}
    assert all(any(i.part == "break" for i in plan) for plan in plans.values())
    spent = {
        s: sum(i.minutes for i in plan if i.part in ("bow", "pitch")) for s, plan in plans.items()
    }
    assert spent["foundation"] > spent["rotating"]


def test_what_is_weak_or_stale_comes_first_and_says_why() -> None:
    fresh = Candidate(jig=jig("scale"), last_day=TODAY, inside=1.0)
    stale = Candidate(jig=jig("drone_scale"), last_day=TODAY - 30, inside=1.0)
    weak = Candidate(jig=jig("scale"), last_day=TODAY, inside=0.3)
    item = next(i for i in lay_out(20, [fresh, stale], school="foundation", today=TODAY)
                if i.part == "pitch")  # fmt: skip
    assert (item.jig_id, item.why) == ("drone_scale", "stale")
    item = next(
        i for i in lay_out(20, [weak], school="foundation", today=TODAY) if i.part == "pitch"
    )
    assert item.why == "weak"


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
    values = np.concatenate([rng.normal(0, 1, 12), rng.normal(1.9, 1, 12)])
    assert find_change(values, days(24)) is not None
    assert find_change(values, days(24), looked_at=400) is None


def test_the_running_middle_ignores_one_bad_day() -> None:
    values = [10.0] * 6 + [60.0] + [10.0] * 6
    assert running_middle(values) == [10.0] * 13
