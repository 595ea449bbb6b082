"""Whether the last note can have been played yet."""

from __future__ import annotations

import pytest

from aim_builders import jig_of
from jigwright.services.ear import comes_too_soon, rests_s

# five long strokes of 4 beats with 2 beats between them, at 120: every three seconds
STROKES = jig_of(" r:2 ".join(["A4:4"] * 5))
RESTS_S = rests_s(STROKES)


def at(*events: int, step_s: float = 3.0, late_s: float = 0.0) -> list[tuple[int, float]]:
    """Events heard one after the other; the last one later by ``late_s``."""
    found = [(event, 2.0 + step_s * k) for k, event in enumerate(events)]
    return [*found[:-1], (found[-1][0], found[-1][1] + late_s)]


def test_the_rests_of_the_strokes() -> None:
    assert RESTS_S == (1.0, 1.0, 1.0, 1.0)


def test_a_stroke_counted_twice_lets_the_last_one_come_too_soon() -> None:
    assert comes_too_soon(at(0, 1, 3, 4), STROKES, RESTS_S), "four strokes were played"
    assert not comes_too_soon(at(0, 1, 2, 3, 4), STROKES, RESTS_S)


@pytest.mark.parametrize(("late_s", "soon"), [(-0.49, False), (-0.51, True), (4.0, False)])
def test_half_a_rest_is_enough(late_s: float, soon: bool) -> None:
    onsets = at(0, 1, 2, 3, 4, late_s=late_s)
    assert comes_too_soon(onsets, STROKES, RESTS_S) is soon


def test_the_pace_is_the_players() -> None:
    assert not comes_too_soon(at(0, 1, 2, 3, 4, step_s=2.2), STROKES, RESTS_S)
    assert comes_too_soon(at(0, 1, 2, 4, step_s=5.0), STROKES, RESTS_S)


def test_where_it_cannot_be_told() -> None:
    assert not comes_too_soon(at(0, 2, 4), STROKES, RESTS_S), "three notes have no pace"
    joined = jig_of("A4:4 A4:4 A4:4 A4:4 A4:4")
    assert not comes_too_soon(at(0, 1, 3, 4, step_s=2.0), joined, rests_s(joined)), "no rest"
    assert not comes_too_soon([], STROKES, RESTS_S)
    assert not comes_too_soon(at(3, 2, 1, 0), STROKES, RESTS_S), "nobody went on"


def test_only_rests_near_the_end_count() -> None:
    early = jig_of("A4:4 r:2 A4:4 A4:4 A4:4 A4:4 A4:4")
    heard = [(0, 2.0), (1, 5.0), (2, 7.0), (3, 9.0), (5, 11.0)]
    assert not comes_too_soon(heard, early, rests_s(early))
