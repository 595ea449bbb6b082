"""Two strings at the Stand while they sound: beats as waves that flatten."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter

from jigwright.core.sound.heard import PairNow
from jigwright.ui.painting.live import paint_live_pair
from jigwright.ui.theme import DARK, LIGHT, Palette
from jigwright.wording.verdicts import PairFigures, pair_figures

pytestmark = pytest.mark.usefixtures("qapp")


def waves(beats_hz: float, palette: Palette = LIGHT) -> np.ndarray:
    """Rows of the picture, from the top, in which the wave's colour stands, column by column."""
    image = QImage(800, 260, QImage.Format.Format_RGB32)
    image.fill(palette.color("paper"))
    painter = QPainter(image)
    figures = PairFigures(names="D – F♯", line="", balance_db=0.0, beats_hz=beats_hz)
    paint_live_pair(painter, QRectF(0, 0, 800, 260), figures, palette)
    painter.end()
    raw = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), dtype=np.uint8)
    picture = raw.reshape(260, 800, 4)[:, :, 2::-1].astype(int)
    color = palette.color("accent")
    off = np.abs(picture - np.array([color.red(), color.green(), color.blue()])).sum(axis=2)
    return np.where((off < 60).any(axis=0), np.argmin(off, axis=0), -1)


def height(rows: np.ndarray) -> int:
    drawn = rows[rows >= 0]
    return int(np.ptp(drawn)) if len(drawn) else 0


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=lambda p: p.name)
def test_beats_flatten_as_the_strings_come_together(palette: Palette) -> None:
    fast, slow = waves(4.0, palette), waves(1.0, palette)
    assert height(fast) > 2 * height(slow) > 10
    assert not (waves(0.4, palette) >= 0).any()
    assert (waves(0.6, palette) >= 0).any()


def test_as_many_waves_as_beats_a_second() -> None:
    rows = waves(4.0)
    drawn = rows[rows >= 0]
    middle = 0.5 * (drawn.min() + drawn.max())
    above = (drawn < middle).astype(int)
    assert np.count_nonzero(np.diff(above) == 1) in (3, 4)


@pytest.mark.parametrize(("upper_hz", "beats"), [(450.0, 20.0), (441.0, 2.0), (440.0, 0.0)])
def test_beats_are_those_of_the_partials_that_meet(upper_hz: float, beats: float) -> None:
    figures = pair_figures(PairNow(lower_hz=880.0 / 3, upper_hz=upper_hz, balance_db=0.0), 440.0, 0)
    assert figures.beats_hz == pytest.approx(beats, abs=1e-6)
