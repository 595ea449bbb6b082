"""Lines that are to be compared have one size, at which each of them fits."""

from __future__ import annotations

import pytest
from PyQt6.QtGui import QFontMetricsF

from jigwright.ui.painting.live import fitted_px
from jigwright.ui.theme import sans

SHORT, LONG = "4 dB softer", "4 dB softer, brightness 2.0 × the note, 39 dB above its noise"


def wide(text: str, px: float) -> float:
    return QFontMetricsF(sans(px)).horizontalAdvance(text)


@pytest.mark.usefixtures("qapp")
def test_what_fits_keeps_its_size_and_the_longest_decides_for_all() -> None:
    width = wide(LONG, 30.0)
    assert fitted_px((SHORT, LONG), width + 1, 30.0) == 30.0
    px = fitted_px((SHORT, LONG), 0.9 * width, 30.0)
    assert 24.0 < px < 30.0
    assert wide(LONG, px) <= 0.9 * width
    assert fitted_px((LONG, SHORT), 0.9 * width, 30.0) == px
    assert fitted_px((), width, 30.0) == 30.0


@pytest.mark.usefixtures("qapp")
def test_no_line_is_too_small_to_be_read_from_a_stand() -> None:
    assert 18.0 < fitted_px((LONG * 9,), 200.0, 30.0) <= 20.0
    assert fitted_px((LONG * 9,), 200.0, 12.0) == 12.0
