"""How two strings came together: from both sides of every limit."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest

from builders import segment
from jigwright.core.gauge.stop_arrival import (
    StopArrivalParams,
    beats_track_hz,
    measure_stop_arrival,
)
from jigwright.core.gauge.two_strings import measure_double
from jigwright.core.gauge.values import NOT_FOLLOWED, StopArrival
from jigwright.core.values import Unmeasured
from jigwright.wording.measures import double_texts, stop_arrival_text
from pair_builders import STEP_S, pair

FIFTH = (3, 2)
STILL = [0.0] * 12


def reached(wide: list[float], **made: object) -> StopArrival | Unmeasured:
    tail_s = made.pop("tail_s", float("nan"))
    partials = made.pop("partials", FIFTH)
    return measure_stop_arrival(
        pair(wide, **made), partials, StopArrivalParams(), tail_s=tail_s,  # type: ignore[arg-type]
    )  # fmt: skip


def told(wide: list[float], **made: object) -> StopArrival:
    found = reached(wide, **made)
    assert isinstance(found, StopArrival), found
    return found


def test_a_stop_that_is_there_at_once_landed() -> None:
    found = told([0.0] * 16)
    assert (found.kind, found.swings_cents, found.mover, found.settle_s) == ("landed", (), "", 0.0)
    assert found.still_s == 0.0


@pytest.mark.parametrize(("first", "kind"), [(6.9, "landed"), (7.1, "corrected")])
def test_what_is_near_enough_landed(first: float, kind: str) -> None:
    assert told([first, first, *STILL]).kind == kind
    assert told([-first, -first, *STILL]).kind == kind


def test_overshoot_and_return_is_a_search_and_says_where_it_settled() -> None:
    found = told([18.0] * 3 + [-14.0] * 4 + [2.0] * 13)
    assert found.kind == "hunted"
    assert found.swings_cents == pytest.approx((16.0, -16.0), abs=0.01)
    assert found.settle_s == pytest.approx(8 * STEP_S)
    assert found.mover == "upper"


def test_one_side_is_a_correction_whatever_lies_between() -> None:
    found = told([20.0, 12.0, 0.0, 15.0, 9.0, *STILL])
    assert (found.kind, found.swings_cents) == ("corrected", pytest.approx((20.0,)))
    assert told([-40.0, -20.0, *STILL]).swings_cents == pytest.approx((-40.0,))


def test_the_voice_that_was_elsewhere_is_the_one_that_moved() -> None:
    wide = [20.0] * 3 + [0.0] * 12
    assert told(wide).mover == "upper"
    assert told(wide, lower_cents=[-20.0] * 3 + [0.0] * 12).mover == "lower"
    assert told(wide, lower_cents=[-10.0] * 3 + [0.0] * 12).mover == "both"
    # a vibrato of both is no way of either
    swing = [9.0 * (-1) ** k for k in range(15)]
    assert told(wide, lower_cents=swing).mover == "upper"


@pytest.mark.parametrize(("swing", "told_"), [(1.9, True), (2.1, False)])
def test_what_never_rests_is_not_told(swing: float, told_: bool) -> None:
    wide = [swing / 1.48 * v for v in 7 * (1.0, 0.0, -1.0)]
    found = reached(wide)
    assert isinstance(found, StopArrival) is told_
    if not told_:
        assert found == Unmeasured("moving")


def test_a_single_window_is_no_stay() -> None:
    assert told([20.0, 0.0, 0.0, *STILL]).kind == "landed"
    assert told([20.0, 0.0, 20.0, 0.0, 20.0, *STILL]).kind == "landed"
    assert told([20.0, -20.0, 20.0, -20.0, *STILL]).kind == "landed"  # a vibrato, strobed
    assert told([20.0, 20.0, 0.0, *STILL]).kind == "corrected"
    assert told([*STILL[:3], 20.0, 20.0, -20.0, -20.0, *STILL]).kind == "hunted"


def test_a_restless_later_part_hides_small_ways() -> None:
    calm = [7.5, 7.5] + 5 * [0.5, 0.0, -0.5]
    loose = [7.5, 7.5] + 5 * [1.3, 0.0, -1.3]
    assert told(calm).kind == "corrected"
    assert told(loose).kind == "landed"  # 4 × 1.48 × 1.3 = 7.7


def test_what_moves_to_the_end_did_not_settle() -> None:
    late, in_time = [0.0] * 15, [0.0] * 15
    late[10:12] = in_time[9:11] = [20.0, 20.0]
    assert reached(late) == Unmeasured("moving")
    assert told(in_time).kind == "corrected"


def test_short_stops_octaves_and_tails_are_refused() -> None:
    assert reached([0.0] * 7) == Unmeasured("too_short")
    assert told([0.0] * 8).kind == "landed"
    assert reached([0.0] * 12, ratio=2.0) == Unmeasured("fused")
    assert reached([0.0] * 12, ratio=2.0 * 2 ** (59 / 1200)) == Unmeasured("fused")
    assert told([0.0] * 12, ratio=2.0 * 2 ** (61 / 1200)).kind == "landed"
    assert reached([0.0] * 12, ratio=1.0) == Unmeasured("fused")
    wide = [20.0, 20.0, *STILL]
    settles = told(wide).settle_s
    assert reached(wide, tail_s=settles + 0.01) == Unmeasured("room_tail")
    assert told(wide, tail_s=settles - 0.01).kind == "corrected"
    assert told(STILL, tail_s=9.0).kind == "landed"


def test_beats_slow_to_nothing_at_a_moment() -> None:
    found = told([20.0] * 4 + [0.0] * 12)
    assert found.still_s == pytest.approx(5 * STEP_S)
    assert math.isnan(told([3.0] * 16).still_s)  # 1.5 a second, to the end
    assert told([1.0] * 16).still_s == 0.0  # half a beat is none
    assert math.isnan(told(STILL, partials=(0, 0)).still_s)
    beats = beats_track_hz(pair([0.0, 10.0]), FIFTH)
    assert beats[0] == pytest.approx(0.0, abs=1e-6)
    assert beats[1] == pytest.approx(3 * 294.0 * (2 ** (10 / 1200) - 1), rel=1e-3)


def test_the_gauge_of_stops_hands_it_on_with_the_room() -> None:
    stop = pair([20.0, 20.0, *STILL])
    note = segment(294.0, 1.0, seconds=1.2)
    double = measure_double(stop, note, 700.0)
    assert not isinstance(double, Unmeasured)
    assert isinstance(double.reached, StopArrival)
    roomy = measure_double(stop, note, 700.0, tail_s=2.0)
    assert not isinstance(roomy, Unmeasured)
    assert roomy.reached == Unmeasured("room_tail")


@pytest.mark.parametrize(
    ("ratio", "written", "reason"),
    [(1.0, 1200.0, "fused"), (2.0, 0.0, "fused"), (2.0, 1200.0, ""), (1.0, 0.0, ""),
     (1.5, 1200.0, ""), (1.0, 700.0, "")],
)  # fmt: skip
def test_an_octave_is_never_judged_as_another_one(
    ratio: float, written: float, reason: str
) -> None:
    double = measure_double(pair(STILL, ratio=ratio), segment(294.0, 1.0), written)
    assert (double.reason if isinstance(double, Unmeasured) else "") == reason


def test_how_it_came_together_in_words() -> None:
    found = told([18.0] * 3 + [-14.0] * 4 + [2.0] * 13)
    text, known = stop_arrival_text(replace(found, still_s=1.0))
    assert text == (
        "searched for: 16 wide, 16 narrow cents, settled after 0.7 s, the upper note moved, "
        "beats until 1.0 s"
    )
    assert known
    assert stop_arrival_text(told(STILL))[0] == "at once"
    text = stop_arrival_text(replace(told([-20.0, -20.0, *STILL]), still_s=float("nan")))[0]
    assert text == "20 narrow cents at first, settled after 0.3 s, the upper note moved"
    assert stop_arrival_text(Unmeasured("moving")) == (
        "cannot tell: the two never came to rest", False,
    )  # fmt: skip
    double = measure_double(pair(STILL), segment(294.0, 1.0), None)
    assert not isinstance(double, Unmeasured)
    assert "Together" in dict(t[:2] for t in double_texts(double, None))
    bare = replace(double, reached=NOT_FOLLOWED)
    assert "Together" not in dict(t[:2] for t in double_texts(bare, None))
