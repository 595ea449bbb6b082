"""Bow changes gathered at frog and tip: their courses, their middle, the best of other takes."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.gauge.values import BowChange
from jigwright.core.judge.changes import (
    AROUND_S,
    N_POINTS,
    ChangeCourse,
    Gathered,
    best_of,
    courses_of,
    gather,
    place_of,
    rougher,
)
from jigwright.core.judge.summary import TakeSummary, with_changes
from jigwright.core.sound.heard import HOP_S, Contours
from jigwright.wording.changes import change_text, changes_sentence, gathered_text

N = 800


def change(
    time_s: float = 1.0, ways: tuple[str, str] = ("down", "up"), **figures: object
) -> BowChange:
    plain = {
        "dip_db": 12.0, "gap_ms": 40.0, "bump_db": 0.5, "noise_db": 2.0, "pitch_jolt_cents": 3.0,
    }  # fmt: skip
    return BowChange(
        time_s=time_s, from_direction=ways[0], to_direction=ways[1], rows=(0, 1),
        **(plain | figures),  # type: ignore[arg-type]
    )  # fmt: skip


def contours(level: np.ndarray) -> Contours:
    flat = np.full(len(level), 440.0)
    return Contours(
        f0_hz=flat, level_db=level, clarity=flat / 440.0, centroid_hz=flat, loudness_db=level
    )


@pytest.mark.parametrize(
    ("ways", "place"),
    [
        (("down", "up"), "tip"), (("up", "down"), "frog"), (("down", "down"), "unknown"),
        (("up", "up"), "unknown"), (("unknown", "down"), "unknown"),
    ],
)  # fmt: skip
def test_the_written_bowing_says_where_a_change_is(ways: tuple[str, str], place: str) -> None:
    assert place_of(change(ways=ways)) == place


@given(st.lists(st.floats(0.4, 3.5), min_size=1, max_size=6), st.floats(-20, 20))
def test_a_course_is_lowest_at_its_change_and_forgets_gain(
    times_s: list[float], gain_db: float
) -> None:
    at = np.arange(N) * HOP_S
    alone = [t for i, t in enumerate(times_s) if all(abs(t - o) > 0.7 for o in times_s[:i])]
    level = np.full(N, -20.0)
    for t in alone:
        level -= 15.0 * np.exp(-0.5 * ((at - t) / 0.03) ** 2)
    changes = [change(t) for t in alone]
    courses = courses_of(contours(level), changes)
    louder = courses_of(contours(level + gain_db), changes)
    assert [c.change for c in courses] == changes
    for one, two in zip(courses, louder, strict=True):
        assert one.level_db.shape == (N_POINTS,)
        assert np.allclose(one.level_db, two.level_db)
        offset_s = (int(np.argmin(one.level_db)) - N_POINTS // 2) * HOP_S
        assert abs(offset_s) <= 0.006
        assert one.level_db.min() == pytest.approx(-15.0, abs=0.5)
        assert abs(one.level_db[0]) < 0.5, "its shoulders are the zero"


def test_at_the_ends_of_a_take_there_are_no_shoulders() -> None:
    level = np.full(N, -20.0)
    near = AROUND_S - HOP_S
    last = N * HOP_S - AROUND_S
    assert courses_of(contours(level), [change(near), change(last)]) == ()
    assert len(courses_of(contours(level), [change(AROUND_S), change(last - HOP_S)])) == 2


def course(place: str, level_db: float = 0.0, **figures: float) -> ChangeCourse:
    ways = {"tip": ("down", "up"), "frog": ("up", "down"), "unknown": ("unknown", "unknown")}
    return ChangeCourse(
        change=change(ways=ways[place], **figures), place=place,  # type: ignore[arg-type]
        level_db=np.full(N_POINTS, level_db),
    )  # fmt: skip


def test_they_are_gathered_by_place_frog_first_and_one_is_not_enough() -> None:
    many = [course("tip"), course("unknown"), course("frog"), course("tip"), course("frog")]
    assert [(g.place, g.n) for g in gather(many)] == [("frog", 2), ("tip", 2)]
    assert gather([course("tip")]) == ()


def test_the_middle_and_the_quartiles_are_those_of_the_changes() -> None:
    gaps = [10.0, 20.0, 30.0, 40.0, 90.0]
    found = gather(
        [course("tip", -g, gap_ms=g, dip_db=g / 5, bump_db=g / 10, pitch_jolt_cents=-g)
         for g in gaps]
    )[0]  # fmt: skip
    assert (found.gap_ms, found.gap_spread_ms) == (30.0, 10.0)
    assert (found.dip_db, found.bump_db, found.jolt_cents) == (6.0, 3.0, 30.0)
    assert (found.low[0], found.middle[0], found.high[0]) == (-40.0, -30.0, -20.0)


def test_what_no_change_has_cannot_be_told() -> None:
    nan = float("nan")
    found = gather([course("tip", bump_db=nan, pitch_jolt_cents=nan) for _ in range(2)])[0]
    assert np.isnan(found.bump_db)
    assert np.isnan(found.jolt_cents)
    some = gather([course("tip", bump_db=nan), course("tip", bump_db=4.0)])[0]
    assert some.bump_db == 4.0


def gathered(
    place: str = "tip", n: int = 4, gap_ms: float = 40.0, dip_db: float = 12.0, spread: float = 5.0
) -> Gathered:
    flat = np.zeros(N_POINTS)
    return Gathered(
        place=place, n=n, low=flat, middle=flat, high=flat, dip_db=dip_db, gap_ms=gap_ms,  # type: ignore[arg-type]
        gap_spread_ms=spread, bump_db=0.0, jolt_cents=0.0,
    )  # fmt: skip


def test_the_best_has_the_smallest_hole_and_enough_changes() -> None:
    takes = [
        [gathered(gap_ms=40)], [gathered(gap_ms=20, n=3)], [gathered("frog", gap_ms=5)],
        [gathered(gap_ms=30, dip_db=9)], [gathered(gap_ms=30, dip_db=7)], [],
    ]  # fmt: skip
    found = best_of(takes, "tip")
    assert found is not None
    assert (found[0], found[1].dip_db) == (4, 7)
    assert best_of(takes, "unknown") is None
    assert best_of([], "tip") is None


@pytest.mark.parametrize(
    ("gap_ms", "dip_db", "worse"),
    [(56, 14, True), (54, 14, False), (80, 13.0, False), (80, 13.1, True), (20, 30, False)],
)
def test_rougher_is_said_only_beyond_both_spreads(
    gap_ms: float, dip_db: float, worse: bool
) -> None:
    """Both spread by 5 ms, and 5 ms more are no difference."""
    assert rougher(gathered(gap_ms=gap_ms, dip_db=dip_db), gathered()) is worse


# summaries ---------------------------------------------------------------------------------

EMPTY = TakeSummary(
    n_notes=0, n_missed=0, inside=0.0, off_cents=None, bias_cents=None, spread_cents=None
)


def test_a_summary_holds_the_holes_of_frog_and_tip_apart() -> None:
    changes = [
        *(change(ways=("down", "up"), gap_ms=g) for g in (10.0, 30.0)),
        *(change(ways=("up", "down"), gap_ms=g) for g in (50.0, 60.0, 90.0)),
        change(ways=("down", "down"), gap_ms=500.0),
    ]
    made = with_changes(EMPTY, changes, tail_s=0.03)
    assert (made.gap_tip_ms, made.gap_frog_ms) == (20.0, 60.0)
    assert with_changes(EMPTY, changes[:3], tail_s=0.03).gap_frog_ms is None
    assert with_changes(EMPTY, changes, tail_s=float("nan")).gap_tip_ms == 20.0


@pytest.mark.parametrize(("tail_s", "told"), [(0.065, True), (0.066, False)])
def test_a_room_that_rings_on_fills_holes(tail_s: float, told: bool) -> None:
    changes = [change(), change()]
    assert (with_changes(EMPTY, changes, tail_s=tail_s).gap_tip_ms is not None) is told


# words -------------------------------------------------------------------------------------


def test_a_change_says_what_is_large_enough_to_hear() -> None:
    assert change_text(change()) == "12 dB deep, 40 ms long (at the tip, by the bowing)"
    none = "4 dB deep, no hole (at the tip, by the bowing)"
    assert change_text(change(gap_ms=0.0, dip_db=4.2)) == none
    assert "(" not in change_text(change(ways=("unknown", "unknown")))
    small = change(bump_db=1.4, pitch_jolt_cents=-7.9)
    assert change_text(small) == change_text(change())
    large = change_text(change(bump_db=1.5, pitch_jolt_cents=-8.0))
    assert "a bump of 1.5 dB" in large
    assert "jolts down by 8 cents" in large
    assert "jolts up" in change_text(change(pitch_jolt_cents=9.0))
    nothing = change(bump_db=float("nan"), pitch_jolt_cents=float("nan"))
    assert change_text(nothing) == change_text(change())


@pytest.mark.parametrize(
    ("ways", "heard", "said"),
    [
        (("down", "up"), "turned", "(at the tip), the bow was heard to turn"),
        (("down", "up"), "same", "the same way, though the bowing turns it"),
        (("up", "up"), "turned", "to turn, though the bowing goes on the same way"),
        (("up", "up"), "same", "40 ms long, the bow was heard to go on the same way"),
        (("unknown", "unknown"), "turned", "40 ms long, the bow was heard to turn"),
        (("unknown", "up"), "same", "40 ms long, the bow was heard to go on the same way"),
        (("unknown", "unknown"), "unknown", "40 ms long"),
    ],
)  # fmt: skip
def test_a_change_says_whether_the_turn_was_heard_or_is_written(ways, heard, said) -> None:
    assert change_text(change(ways=ways, heard_way=heard)).endswith(said)


def test_gathered_words_name_the_bump_and_the_jolt_only_where_they_are() -> None:
    assert gathered_text(gathered()) == "4 changes: 12 dB, 40 ms"
    rough = replace(gathered(), bump_db=2.0, jolt_cents=9.0)
    assert gathered_text(rough) == "4 changes: 12 dB, 40 ms, bump 2.0 dB, jolt 9 cents"


def test_the_sentence_speaks_of_the_own_best_first() -> None:
    tip, frog = gathered(gap_ms=90, dip_db=20), gathered("frog", gap_ms=50)
    best = gathered(gap_ms=30)
    said = changes_sentence([(frog, None), (tip, best)], room=False)
    assert said == "The changes at the tip leave a hole of 90 ms; at your best it was 30 ms."
    unknown = replace(tip, place="unknown")
    said = changes_sentence([(unknown, best)], room=False)
    assert said == "The changes leave a hole of 90 ms; at your best it was 30 ms."
    assert "rings on" in changes_sentence([(tip, best)], room=True)
    assert changes_sentence([], room=True) == ""


@pytest.mark.parametrize(
    ("frog_ms", "said"),
    [(61, "The changes at the frog leave the longer hole."), (59, ""),
     (19, "The changes at the tip leave the longer hole."), (21, "")],
)  # fmt: skip
def test_frog_and_tip_differ_only_beyond_their_spreads(frog_ms: float, said: str) -> None:
    pairs = [(gathered("frog", gap_ms=frog_ms), None), (gathered(), None)]
    assert changes_sentence(pairs, room=False) == said
