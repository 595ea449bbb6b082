"""Which beginnings are the notes of a run: by their distances, at the pace that suits them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.follow.run_times import agree, in_time
from jigwright.core.jig.aims import Aim
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import note_list
from jigwright.core.jig.pace import says_lengths


def chosen(
    at: Sequence[float],
    due: Sequence[float],
    *,
    doubtful: Sequence[int] = (),
    usual: float | None = 1.0,
    ends: tuple[float, float] | None = None,
) -> list[tuple[int, int]]:
    """Notes and beginnings; the end is where the next would be due."""
    stop, end = ends or (at[-1] + 0.2, due[-1] + 0.2)
    maybe = np.isin(np.arange(len(at)), list(doubtful))
    return in_time(np.array([*at, stop]), 0.1 * maybe, np.array([*due, end]), usual)


EIGHT = [0.2 * k for k in range(8)]


def but(*left: int) -> list[float]:
    return [t for k, t in enumerate(EIGHT) if k not in left]


def test_all_that_is_written_is_found() -> None:
    assert chosen(EIGHT, EIGHT) == [(k, k) for k in range(8)]


@pytest.mark.parametrize("left", range(1, 7))
def test_the_note_that_is_missing_is_the_one_whose_time_is_empty(left: int) -> None:
    found = chosen(but(left), EIGHT)
    assert [note for note, _ in found] == [k for k in range(8) if k != left]
    assert [c for _, c in found] == list(range(7))


def test_who_plays_fewer_left_out_the_later_ones() -> None:
    assert chosen(but(7), EIGHT, ends=(1.6, 1.6)) == [(k, k) for k in range(7)]
    assert chosen([0.0], [0.0, 3.0], ends=(3.0, 6.0)) == [(0, 0)]
    assert chosen([0.0], [0.0, 3.0], ends=(6.0, 6.0)) == [(0, 0)]


def test_unless_the_time_says_otherwise() -> None:
    due = [0.0, 0.2, 0.8, 1.0, 1.6, 1.8]
    at = [0.0, 0.6, 0.8, 1.4, 1.6]
    assert [n for n, _ in chosen(at, due, ends=(1.8, 2.0))] == [1, 2, 3, 4, 5]


def test_a_rest_inside_is_time_that_is_written() -> None:
    due = [0.0, 0.2, 0.4, 0.6, 2.0, 2.2, 2.4, 2.6]
    at = [0.0, 0.2, 0.6, 2.0, 2.2, 2.4]
    assert [n for n, _ in chosen(at, due, ends=(2.6, 2.8))] == [0, 1, 3, 4, 5, 6]


def test_a_doubtful_beginning_is_a_note_where_one_is_due_and_else_none() -> None:
    at = sorted([*but(3), 0.6, 0.5, 0.9])
    found = chosen(at, EIGHT, doubtful=[at.index(t) for t in (0.6, 0.5, 0.9)])
    assert [at[c] for _, c in found] == pytest.approx(EIGHT)


@pytest.mark.parametrize(("cost", "is_note"), [(0.35, True), (0.95, True), (1.05, False)])
def test_a_doubt_that_costs_more_than_a_miss_is_none(cost: float, is_note: bool) -> None:
    costs = np.where(np.arange(8) == 3, cost, 0.0)
    found = in_time(np.array([*EIGHT, 1.6]), costs, np.array([*EIGHT, 1.6]), 1.0)
    assert ((3, 3) in found) is is_note
    assert len(found) == 7 + is_note


def test_of_two_doubts_about_a_place_the_likelier_one_is_the_note() -> None:
    at = [0.0, 0.19, 0.21, 0.4, 0.6]
    due = np.array([0.0, 0.2, 0.4, 0.6, 0.8])
    for costs in ([0, 0.05, 0.3, 0, 0], [0, 0.3, 0.05, 0, 0]):
        found = in_time(np.array([*at, 0.8]), np.array(costs, dtype=float), due, 1.0)
        assert dict(found)[1] == (1 if costs[1] < costs[2] else 2)


@pytest.mark.parametrize(("away", "is_note"), [(0.048, True), (0.053, False)])
def test_how_far_from_its_place_a_doubtful_one_may_lie(away: float, is_note: bool) -> None:
    for way in (away, -away):
        at = sorted([*but(4), 0.8 + way])
        k = at.index(0.8 + way)
        assert ((4, k) in chosen(at, EIGHT, doubtful=[k])) is is_note


def test_a_sure_beginning_is_passed_over_only_for_more_than_it_costs() -> None:
    at = sorted([*EIGHT, 0.65])  # two in one place: one is no note
    found = chosen(at, EIGHT)
    assert len(found) == 8
    assert 0.65 not in [at[c] for _, c in found]


@pytest.mark.parametrize("pace", [0.6, 0.8, 1.0, 1.3, 1.67])
@pytest.mark.parametrize("usual", [1.0, None])
def test_the_pace_is_sought(pace: float, usual: float | None) -> None:
    at = [pace * t for t in but(2, 5)]
    found = chosen(at, EIGHT, usual=usual, ends=(1.6 * pace, 1.6))
    assert [n for n, _ in found] == [0, 1, 3, 4, 6, 7]


def test_a_wrong_pace_from_elsewhere_gives_way_to_that_of_the_run() -> None:
    found = chosen(but(3), EIGHT, usual=3.0, ends=(1.6, 1.6))
    assert [n for n, _ in found] == [0, 1, 2, 4, 5, 6, 7]


def test_of_two_in_one_place_the_sure_one_is_taken() -> None:
    for doubt, sure in ((0.79, 0.805), (0.805, 0.79)):
        at = sorted([*but(4), doubt, sure])
        found = chosen(at, EIGHT, doubtful=[at.index(doubt)])
        assert [at[c] for n, c in found if n == 4] == [sure]


def test_a_doubtful_one_before_the_first_sure_one_may_be_the_first() -> None:
    at = [0.0, *but(0)]
    assert chosen(at, EIGHT, doubtful=[0]) == [(k, k) for k in range(8)]


def test_a_rest_is_not_counted_out_freely() -> None:
    due = [0.0, 0.2, 0.4, 0.6, 2.6, 2.8, 3.0, 3.2]
    at = [0.0, 0.2, 0.4, 2.6, 2.8, 3.0, 3.2]  # the fourth is missing, not the first
    assert [n for n, _ in chosen(at, due, ends=(3.4, 3.4))] == [0, 1, 2, 4, 5, 6, 7]
    at = [0.0, 0.2, 0.4, 0.6, 2.8, 3.0, 3.2]  # the fifth, not the rest
    assert [n for n, _ in chosen(at, due, ends=(3.4, 3.4))] == [0, 1, 2, 3, 5, 6, 7]


def test_no_more_than_four_in_a_row_are_missed_between_two() -> None:
    due = [0.2 * k for k in range(12)]
    for n_missing, whole in ((4, True), (5, False)):
        at = [t for k, t in enumerate(due) if not 3 <= k < 3 + n_missing]
        notes = [n for n, _ in chosen(at, due, ends=(2.4, 2.4))]
        kept = [k for k in range(12) if not 3 <= k < 3 + n_missing]
        assert (notes == kept) is whole


@given(
    st.lists(st.booleans(), min_size=2, max_size=14),
    st.lists(st.floats(-0.01, 0.01), min_size=14, max_size=14),
)
def test_notes_and_beginnings_go_up_together(keep: list[bool], off: list[float]) -> None:
    due = [0.2 * k for k in range(len(keep))]
    at = [t + o for t, k, o in zip(due, keep, off, strict=False) if k]
    if not at:
        return
    found = chosen(at, due, ends=(due[-1] + 0.2, due[-1] + 0.2))
    notes, beginnings = [n for n, _ in found], [c for _, c in found]
    assert notes == sorted(set(notes))
    assert beginnings == sorted(set(beginnings))
    assert set(notes) <= set(range(len(due)))
    assert set(beginnings) <= set(range(len(at)))


@given(st.floats(-5.0, 5.0))
def test_where_the_clock_began_does_not_matter(shift: float) -> None:
    at = but(3)
    moved, later = [t + shift for t in at], [t + shift for t in EIGHT]
    for usual in (1.0, None):
        here = chosen(at, EIGHT, usual=usual)
        assert chosen(moved, EIGHT, usual=usual) == here
        assert chosen(at, later, usual=usual) == here


# whether lengths are said ------------------------------------------------------------------


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("D4 E4 F#4", False), ("D4:1 E4:1", False), ("D4:1/2 E4:1/2", True), ("D4 E4:2", True),
        ("D4 r:1 E4", True), ("D4", False),
    ],
)  # fmt: skip
def test_a_bare_list_says_no_lengths(line: str, said: bool) -> None:
    jig = jig_from_line(line, jig_id="j", instrument_id="violin", title="j", tempo_bpm=60)
    assert says_lengths(jig) is said


def test_who_says_what_it_is_for_says_its_lengths() -> None:
    bare = note_list("D4 D4 D4", instrument_id="violin")
    assert not says_lengths(bare)
    assert says_lengths(replace(bare, aims=(Aim(kind="even_run"),)))


# a short look first -------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("off", "agrees"), [(0.0, True), (0.078, True), (-0.078, True), (0.084, False), (-0.084, False)]
)
def test_beginnings_agree_when_each_distance_is_within_a_third(off: float, agrees: bool) -> None:
    due = np.array([0.0, 0.2, 0.4, 0.6])
    at = np.array([0.0, 0.2, 0.4 + off, 0.6 + off])
    assert agree(at, due) is agrees
    assert agree(at + 3.0, due) is agrees
    assert agree(at[:1], due[:1])


def test_what_was_asked_before_is_answered_alike() -> None:
    first = chosen(but(3), EIGHT)
    first.clear()
    assert [n for n, _ in chosen(but(3), EIGHT)] == [0, 1, 2, 4, 5, 6, 7]
    assert chosen(but(3), EIGHT, doubtful=[2]) == chosen(but(3), EIGHT, doubtful=[2])
    assert [n for n, _ in chosen(but(4), EIGHT)] == [0, 1, 2, 3, 5, 6, 7]
