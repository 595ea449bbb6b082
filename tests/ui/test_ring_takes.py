"""The table of what rang over takes, as it is painted and on its page."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QImage, QPainter

from jigwright.ui.main_window import MainWindow
from jigwright.ui.painting.ring_takes import (
    HEAD_PX,
    ROW_PX,
    RingTakesRow,
    height_px,
    paint_ring_takes,
)
from jigwright.ui.theme import LIGHT

WIDE, HIGH = 420, 100
NAMES = [str(k + 4) for k in range(60)]
_NAMES_PX, _STEP_PX = 92, 44


def painted(rows, *, shown: int | None = None, high: int = HIGH) -> QImage:
    image = QImage(WIDE, high, QImage.Format.Format_RGB32)
    image.fill(QColor(LIGHT.panel))
    painter = QPainter(image)
    paint_ring_takes(painter, QRectF(0, 0, WIDE, high), rows, LIGHT, takes=NAMES, shown=shown)
    painter.end()
    return image


def row(*cells, selected: bool = False) -> RingTakesRow:
    return RingTakesRow(note="D5", string="D", cells=cells, counted="1 of 2", selected=selected)


def inked(image: QImage, k: int, i: int = 0) -> int:
    """Pixels of the cell of take ``k`` in row ``i`` that are not the ground."""
    ground = QColor(LIGHT.panel).rgb()
    left, top = _NAMES_PX + k * _STEP_PX, round(HEAD_PX + i * ROW_PX)
    return sum(
        image.pixel(x, y) != ground
        for x in range(left, left + _STEP_PX)
        for y in range(top, min(image.height(), top + round(ROW_PX)))
    )


def test_the_louder_it_rang_the_larger_and_silence_is_a_ring(qapp) -> None:
    image = painted([row((True, -20.0), (True, -48.0), (False, float("nan")), None)])
    loud, faint, silent, untold = (inked(image, k) for k in range(4))
    assert loud > 2 * faint > 0
    assert silent > 0
    assert 0 < untold < silent
    middle = (round(_NAMES_PX + 2.5 * _STEP_PX), round(HEAD_PX + 0.5 * ROW_PX))
    assert image.pixelColor(*middle) == QColor(LIGHT.panel), "a ring is empty"


def test_the_shown_take_is_lifted(qapp) -> None:
    rows = [row(None, None)]
    plain, shown = painted(rows), painted(rows, shown=1)
    corner = (_NAMES_PX + _STEP_PX + 2, round(HEAD_PX) + 3)
    assert plain.pixelColor(*corner) != shown.pixelColor(*corner)
    assert shown.pixelColor(_NAMES_PX + 2, round(HEAD_PX) + 3) == plain.pixelColor(
        _NAMES_PX + 2, round(HEAD_PX) + 3
    )


def test_the_takes_are_called_as_on_the_shelf(qapp) -> None:
    def headed(name: str) -> QImage:
        image = QImage(WIDE, HIGH, QImage.Format.Format_RGB32)
        image.fill(QColor(LIGHT.panel))
        painter = QPainter(image)
        rect = QRectF(0, 0, WIDE, HIGH)
        paint_ring_takes(painter, rect, [row(None)], LIGHT, takes=[name], shown=None)
        painter.end()
        return image

    assert headed("7") != headed("12")
    assert headed("7") == headed("7")


def test_rows_that_do_not_fit_are_left_out_and_nothing_is_painted_of_nothing(qapp) -> None:
    two = [row((True, -20.0)), row((True, -20.0))]
    fits = painted(two, high=round(height_px(2, 1, 200)))
    assert inked(fits, 0, 1) > 0
    short = painted(two, high=round(height_px(2, 1, 200)) - 4)
    assert inked(short, 0, 1) == 0
    empty = painted([])
    data = np.frombuffer(empty.constBits().asarray(empty.sizeInBytes()), dtype=np.uint8)
    assert len(np.unique(data)) <= 4


@pytest.mark.parametrize(
    ("n_rows", "wide", "rows_high"),
    [(5, 250, 5), (5, 516, 3), (1, 900, 1), (6, 516, 3), (5, 515, 5)],
)
def test_where_there_is_room_rows_stand_beside_each_other(
    n_rows: int, wide: int, rows_high: int
) -> None:
    # one column of two takes: 92 + 2 * 44 + 64, and 28 between two of them
    assert height_px(n_rows, 2, wide) == HEAD_PX + rows_high * ROW_PX


def test_the_second_column_goes_on_where_the_first_ends(qapp) -> None:
    rows = [row((True, -20.0)), row((False, float("nan")))]
    image = painted(rows, high=80)  # 200 wide each, 28 apart: both fit 428 but not 420
    assert inked(image, 0, 1) > 0, "one column"
    wide = QImage(440, 80, QImage.Format.Format_RGB32)
    wide.fill(QColor(LIGHT.panel))
    painter = QPainter(wide)
    paint_ring_takes(painter, QRectF(0, 0, 440, 80), rows, LIGHT, takes=NAMES, shown=None)
    painter.end()
    assert inked(wide, 0, 0) > 0
    assert inked(wide, 0, 1) == 0


@pytest.mark.parametrize("n_takes", [1, 20, 60])
def test_many_takes_share_the_width(qapp, n_takes: int) -> None:
    image = painted([row(*[(True, -20.0)] * n_takes)], shown=0)
    right = WIDE - 60
    ground = QColor(LIGHT.panel).rgb()
    assert all(image.pixel(right + 58, y) == ground for y in range(HIGH))


def test_the_ring_page_reads_the_takes_of_the_shelf(window: MainWindow, qtbot) -> None:
    window.go("desk")
    window.desk.turn("ring")
    page = window.desk.close_look
    take = window.model.take
    assert take is not None
    with qtbot.waitSignal(page.answers.changed, timeout=20_000, raising=False):
        page.answers.table(take)
    rows, ids = page.answers.table(take)
    assert all(len(r.cells) == len(ids) for r in rows)
    assert all(r.n_told > 1 for r in rows)
    page.grab()
