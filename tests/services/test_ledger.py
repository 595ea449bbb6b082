"""What of a recording is owed: pure arithmetic of stretches, and the rule that nothing is lost."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.services.ledger import Ledger, joined, left_of, parts_of

_MOMENT = st.integers(0, 400).map(lambda n: n / 4)
_SPANS = st.lists(
    st.tuples(_MOMENT, _MOMENT).map(lambda p: (min(p), max(p))), max_size=8
)  # fmt: skip


def _inside(spans: list[tuple[float, float]], at: float) -> bool:
    return any(a <= at < b for a, b in spans)


@given(_SPANS, _SPANS, _MOMENT)
def test_what_is_left_is_what_is_in_the_first_and_not_in_the_second(
    spans: list[tuple[float, float]], taken: list[tuple[float, float]], at: float
) -> None:
    rest = left_of(spans, taken)
    assert _inside(rest, at) == (_inside(spans, at) and not _inside(taken, at))


@given(_SPANS)
def test_joined_stretches_are_in_order_and_apart(spans: list[tuple[float, float]]) -> None:
    found = joined(spans)
    assert all(a < b for a, b in found)
    assert all(one[1] < two[0] for one, two in zip(found, found[1:], strict=False))


@pytest.mark.parametrize(("rest_s", "n"), [(0.24, 0), (0.26, 1)])
def test_rests_shorter_than_asked_are_dropped(rest_s: float, n: int) -> None:
    assert len(left_of([(0.0, 1.0)], [(0.0, 1.0 - rest_s)], least_s=0.25)) == n


@given(st.floats(0.0, 1e4), st.floats(0.01, 1.2e4), st.floats(1.0, 900.0))
def test_parts_cover_a_stretch_and_none_is_too_long(
    start: float, length: float, most: float
) -> None:
    parts = parts_of((start, start + length), most)
    assert parts[0][0] == start
    assert parts[-1][1] == pytest.approx(start + length)
    assert all(b - a <= most * (1 + 1e-9) for a, b in parts)
    assert all(one[1] == two[0] for one, two in zip(parts, parts[1:], strict=False))
    assert len(parts) <= length / most + 1


def test_a_lesson_of_twenty_five_minutes_becomes_three_parts() -> None:
    assert parts_of((0.0, 1500.0)) == [(0.0, 500.0), (500.0, 1000.0), (1000.0, 1500.0)]


def test_what_was_played_is_owed_until_it_is_kept() -> None:
    played = Ledger().was_heard(30.0).was_played((3.0, 9.0)).was_played((12.0, 20.0))
    assert played.owed(30.0) == [(3.0, 9.0), (12.0, 20.0)]
    half = played.is_kept((3.0, 9.0))
    assert half.owed(30.0) == [(12.0, 20.0)]
    assert not half.may_go(30.0)
    assert half.is_kept((12.0, 20.0)).may_go(30.0)


@pytest.mark.parametrize(("heard_s", "owed"), [(29.1, False), (28.9, True)])
def test_what_nobody_has_heard_counts_as_played(heard_s: float, owed: bool) -> None:
    ledger = Ledger().was_heard(heard_s)
    assert bool(ledger.owed(30.0)) is owed
    assert ledger.may_go(30.0) is not owed


def test_a_take_that_is_being_played_is_owed_to_the_end_of_the_recording() -> None:
    ledger = Ledger().was_heard(30.0, playing_s=26.0)
    assert ledger.owed(30.5) == [(26.0, 30.5)]
    assert ledger.was_heard(30.2).may_go(30.5)  # it ended without being a take


def test_the_ear_never_unhears() -> None:
    assert Ledger().was_heard(9.0).was_heard(4.0).heard_s == 9.0


def test_all_of_a_lesson_is_owed_and_nothing_of_a_string_check() -> None:
    lesson = Ledger(keeps="whole").was_heard(60.0)
    assert lesson.owed(60.0) == [(0.0, 60.0)]
    assert lesson.is_kept((0.0, 25.0)).owed(60.0) == [(25.0, 60.0)]
    assert lesson.unheard(90.0) == []
    assert Ledger(keeps="whole").owed(0.9) == []
    assert Ledger(keeps="whole").owed(1.0) == [(0.0, 1.0)]
    check = Ledger(keeps="nothing").was_played((1.0, 9.0))
    assert check.may_go(60.0)


@given(_SPANS, _SPANS, st.floats(0.0, 100.0), st.floats(0.0, 100.0))
def test_a_recording_never_goes_while_playing_in_it_is_no_take(
    played: list[tuple[float, float]],
    kept: list[tuple[float, float]],
    heard_s: float,
    seconds: float,
) -> None:
    ledger = Ledger().was_heard(heard_s)
    for span in played:
        ledger = ledger.was_played(span)
    for span in kept:
        ledger = ledger.is_kept(span)
    if ledger.may_go(seconds):
        lost = left_of([(a, min(b, seconds)) for a, b in played], kept, least_s=0.25)
        assert lost == []
        assert left_of([(heard_s, seconds)], kept, least_s=1.001) == []
