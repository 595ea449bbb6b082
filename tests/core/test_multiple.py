"""A period an octave or a twelfth too long is heard by the partials that are not there."""

from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.sound.fundamental import lower_pieces, true_multiple
from jigwright.core.sound.segments import Piece
from jigwright.core.values import Floats

RATE, HOP = 8_000, 40


def note(f_hz: float, orders: list[int], *, seconds: float = 0.6, seed: int = 0) -> Floats:
    """Partials of one strength in a little noise."""
    t = np.arange(round(seconds * RATE)) / RATE
    x = sum((np.sin(2 * np.pi * h * f_hz * t + h) for h in orders), np.zeros(len(t)))
    return np.asarray(x + 0.02 * np.random.default_rng(seed).normal(size=len(t)))


ALL = list(range(1, 25))


@pytest.mark.parametrize(
    ("orders", "multiple"),
    [
        (ALL, 1),
        ([h for h in ALL if h % 2 == 0], 2),
        ([1, *(h for h in ALL if h % 2 == 0)], 2),  # hum lies as low as a bass
        ([h for h in ALL if h % 3 == 0], 3),
        ([h for h in ALL if h % 2], 1),  # a bow at half the string
        ([*(h for h in ALL if h % 2 == 0), 3, 5, 7, 9], 1),
    ],
)
def test_partials_of_its_own_make_a_note(orders: list[int], multiple: int) -> None:
    assert true_multiple(note(46.25, orders), RATE, 46.25) == multiple


@pytest.mark.parametrize(("level", "multiple"), [(0.001, 2), (0.02, 1), (0.09, 1)])
def test_faint_partials_are_partials(level: float, multiple: int) -> None:
    even = note(98.0, list(range(2, 25, 2)))
    odd = note(98.0, list(range(3, 25, 2)))
    assert true_multiple(even + level * odd, RATE, 98.0) == multiple


@pytest.mark.parametrize(("seconds", "multiple"), [(0.25, 1), (0.28, 2)])
def test_too_short_a_sound_decides_nothing(seconds: float, multiple: int) -> None:
    x = note(46.25, [h for h in ALL if h % 2 == 0], seconds=seconds)
    assert true_multiple(x, RATE, 46.25) == multiple


def test_three_partials_decide_nothing() -> None:
    assert true_multiple(note(440.0, [2, 4, 6]), RATE, 440.0) == 1


def test_the_piece_and_its_contour_are_raised() -> None:
    x = note(46.25, [h for h in ALL if h % 2 == 0], seconds=1.0)
    f0 = np.full(len(x) // HOP, 46.25)
    piece = Piece(start=20, stop=180, cents=1200 * float(np.log2(46.25)), broken_before=True)
    (raised,), contour = lower_pieces([piece], f0, x, RATE, HOP, 30.0)
    assert raised.cents == pytest.approx(piece.cents + 1200.0)
    assert contour[100] == pytest.approx(92.5)
    assert contour[10] == contour[190] == 46.25
