"""What rang over takes: a row a note, a column a take; a note is compared with itself alone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from jigwright.ui.painting.ring_map import fullness
from jigwright.ui.theme import Palette, sans

ROW_PX, HEAD_PX = 22.0, 24.0
_NAMES_PX, _COUNT_PX, _APART_PX = 92.0, 64.0, 28.0
_MOST_STEP_PX, _DOT_PX = 44.0, 8.0


@dataclass(frozen=True, slots=True, kw_only=True)
class RingTakesRow:
    """One note and the string it can wake.

    Parameters
    ----------
    note, string : str
    cells : tuple of (bool, float) or None
        For each take whether it rang and how loud (dB re the note); ``None``: cannot tell.
    counted : str
        How often it rang of how often that can be told.
    selected : bool
    """

    note: str
    string: str
    cells: tuple[tuple[bool, float] | None, ...]
    counted: str
    selected: bool = False


def height_px(n_rows: int, n_takes: int, width_px: float) -> float:
    """As tall as so many rows are, in as many columns of them as there is room for."""
    side_by_side = _side_by_side(n_rows, n_takes, width_px)
    return HEAD_PX + ceil(n_rows / side_by_side) * ROW_PX


def _side_by_side(n_rows: int, n_takes: int, width_px: float) -> int:
    """Columns of rows beside each other at the full step."""
    one = _NAMES_PX + n_takes * _MOST_STEP_PX + _COUNT_PX
    return max(1, min(n_rows, int((width_px + _APART_PX) // (one + _APART_PX))))


def paint_ring_takes(
    painter: QPainter,
    rect: QRectF,
    rows: Sequence[RingTakesRow],
    palette: Palette,
    *,
    takes: Sequence[str],
    shown: int | None,
) -> None:
    """Draw the table.

    Parameters
    ----------
    painter : QPainter
    rect : QRectF
        Rows that do not fit are left out from the end.
    rows : sequence of RingTakesRow
    palette : Palette
    takes : sequence of str
        What the takes are called on the shelf.
    shown : int or None
        Column of the take that is shown.
    """
    n_takes = len(rows[0].cells) if rows else 0
    if not n_takes:
        return
    side_by_side = _side_by_side(len(rows), n_takes, rect.width())
    each = ceil(len(rows) / side_by_side)
    wide = (rect.width() + _APART_PX) / side_by_side - _APART_PX
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for k in range(side_by_side):
        part = QRectF(rect.left() + k * (wide + _APART_PX), rect.top(), wide, rect.height())
        _paint_column(painter, part, rows[k * each : (k + 1) * each], palette, takes, shown)
    painter.restore()


def _paint_column(
    painter: QPainter,
    rect: QRectF,
    rows: Sequence[RingTakesRow],
    palette: Palette,
    takes: Sequence[str],
    shown: int | None,
) -> None:
    n_takes = len(rows[0].cells) if rows else 1
    left = rect.left() + _NAMES_PX
    step = min(_MOST_STEP_PX, (rect.width() - _NAMES_PX - _COUNT_PX) / n_takes)
    if shown is not None:
        tall = min(rect.height(), HEAD_PX + len(rows) * ROW_PX)
        column = QRectF(left + shown * step, rect.top(), step, tall)
        painter.fillRect(column, palette.color("paper"))
    painter.setFont(sans(12))
    for k in range(n_takes):
        if step >= 16.0 or k in (0, n_takes - 1):
            painter.setPen(palette.color("ink" if k == shown else "ink2"))
            place = QRectF(left + k * step, rect.top(), step, HEAD_PX)
            painter.drawText(place, Qt.AlignmentFlag.AlignCenter, takes[k])
    for i, row in enumerate(rows):
        top = rect.top() + HEAD_PX + i * ROW_PX
        if top + ROW_PX > rect.bottom() + 0.5:
            break
        painter.setFont(sans(13, bold=row.selected))
        painter.setPen(palette.color("ink"))
        name = QRectF(rect.left(), top, _NAMES_PX - 10, ROW_PX)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(name, Qt.AlignmentFlag.AlignLeft | middle, row.note)
        painter.setPen(palette.color("ink2"))
        painter.drawText(name, Qt.AlignmentFlag.AlignRight | middle, row.string)
        for k, cell in enumerate(row.cells):
            _cell(painter, QPointF(left + (k + 0.5) * step, top + 0.5 * ROW_PX), cell, palette)
        painter.setFont(sans(12))
        painter.setPen(palette.color("ink2"))
        count = QRectF(left + n_takes * step + 8, top, _COUNT_PX, ROW_PX)
        painter.drawText(count, Qt.AlignmentFlag.AlignLeft | middle, row.counted)


def _cell(
    painter: QPainter, at: QPointF, cell: tuple[bool, float] | None, palette: Palette
) -> None:
    """Full by how loud it rang; a ring where it kept silent; a point where it cannot be told."""
    if cell is None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette.color("line"))
        painter.drawEllipse(at, 1.5, 1.5)
        return
    rang, level_db = cell
    painter.setPen(QPen(palette.color("accent" if rang else "ink2"), 1.4))
    if rang:
        painter.setBrush(palette.color("accent"))
        half = 2.5 + (_DOT_PX - 2.5) * fullness(level_db)
        painter.drawEllipse(at, half, half)
    else:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at, 0.55 * _DOT_PX, 0.55 * _DOT_PX)
