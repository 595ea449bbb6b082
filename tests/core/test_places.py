"""Where notes stand after some were left out, and after two such steps."""

from __future__ import annotations

from builders import segment
from jigwright.core.follow.places import but_for, then

ROWS = tuple(segment(440.0, float(k)) for k in range(4))


def test_the_rest_keeps_its_order_and_its_places_are_known() -> None:
    assert but_for(ROWS, {1}) == ((ROWS[0], ROWS[2], ROWS[3]), {0: 0, 2: 1, 3: 2})
    assert but_for(ROWS, ()) == (ROWS, {0: 0, 1: 1, 2: 2, 3: 3})
    assert but_for(ROWS, {0, 1, 2, 3}) == ((), {})


def test_two_steps_are_one() -> None:
    rest, first = but_for(ROWS, {0})
    last, after = but_for(rest, {1})
    assert last == (ROWS[1], ROWS[3])
    assert then(first, after) == {1: 0, 3: 1}
    assert then(first, {}) == {}
