"""The bow plan as ribbons: each note's share of the bow from frog to tip."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jigwright.core.jig.bow_plan import PlannedNote, PlannedStroke
from jigwright.ui.theme import Palette, sans
from jigwright.wording.catalogue import tr

_THICK = {
    "ppp": 2.0, "pp": 3.0, "p": 5.0, "mp": 7.0, "mf": 9.0, "f": 11.0, "ff": 13.0, "fff": 15.0,
}  # fmt: skip
ROW_PX = 17.0
_SIDE_PX = 52.0


def plan_height(strokes: Sequence[PlannedStroke]) -> float:
    """Pixels that the picture wants."""
    return 26.0 + ROW_PX * len(strokes) + 8.0


def paint_bow_plan(
    painter: QPainter, rect: QRectF, strokes: Sequence[PlannedStroke], palette: Palette
) -> None:
    """Draw one row for each stroke, in playing order.

    Down strokes run from the frog (left), up strokes from the tip; thickness is the marked
    loudness. A stroke in trouble is drawn in the colour of high notes.
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    left, right = rect.left() + _SIDE_PX, rect.right() - _SIDE_PX
    width = max(60.0, right - left)
    painter.setFont(sans(12, bold=True))
    painter.setPen(palette.color("ink2"))
    top = rect.top() + 18.0
    painter.drawText(QRectF(rect.left(), top - 16, _SIDE_PX - 8, 18), Qt.AlignmentFlag.AlignRight,
                     tr("frog"))  # fmt: skip
    painter.drawText(QRectF(right + 8, top - 16, _SIDE_PX, 18), Qt.AlignmentFlag.AlignLeft,
                     tr("tip"))  # fmt: skip
    painter.setPen(QPen(palette.color("line"), 1))
    for share in (0.0, 0.25, 0.5, 0.75, 1.0):
        x = left + share * width
        painter.drawLine(QPointF(x, top + 2), QPointF(x, top + 4 + ROW_PX * len(strokes)))
    for k, stroke in enumerate(strokes):
        y = top + 6 + ROW_PX * (k + 0.5)
        if y > rect.bottom():
            break
        for note in stroke.notes:
            _ribbon(painter, note, y, left, width, palette, trouble=stroke.trouble is not None)
        painter.setPen(palette.color("ink2"))
        painter.setFont(sans(11))
        sign = "→" if stroke.direction == "down" else "←"
        painter.drawText(
            QRectF(rect.left(), y - 8, _SIDE_PX - 12, 16),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{k + 1} {sign}",
        )  # fmt: skip


def _ribbon(
    painter: QPainter, note: PlannedNote, y: float, left: float, width: float, palette: Palette,
    *, trouble: bool,
) -> None:  # fmt: skip
    half = 0.5 * _THICK[note.dynamic]
    a, b = left + note.start * width, left + note.end * width
    step = 1.0 if b >= a else -1.0
    inset = min(1.5, 0.2 * abs(b - a)) * step
    shape = QPolygonF(
        [
            QPointF(a + inset, y - half), QPointF(b - 3 * inset, y - half), QPointF(b - inset, y),
            QPointF(b - 3 * inset, y + half), QPointF(a + inset, y + half),
        ]
    )  # fmt: skip
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("high" if trouble else "ink2"))
    painter.drawPolygon(shape)
