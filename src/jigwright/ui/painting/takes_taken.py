"""The takes of an exercise as dots: which met their aims, and how many are still wanted."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from jigwright.ui.theme import Palette

_STEP_PX = 38.0
_R_PX, _WANTED_R_PX = 11.0, 4.0
_MOST = 12


def paint_takes(
    painter: QPainter, middle: QPointF, met: Sequence[bool | None], goal: int, palette: Palette
) -> None:
    """Draw a dot a take: full where its aims were met, half where that cannot be told.

    Parameters
    ----------
    painter : QPainter
    middle : QPointF
    met : sequence of bool or None
        The newest last; the last twelve are drawn.
    goal : int
        Good takes wanted; a small dot for each that is still to come.
    palette : Palette
    """
    shown = list(met)[-_MOST:]
    wanted = min(max(0, goal - sum(m is True for m in met)), _MOST - len(shown))
    n = len(shown) + wanted
    ink = palette.color("ink")
    for k in range(n):
        place = QPointF(middle.x() + (k - 0.5 * (n - 1)) * _STEP_PX, middle.y())
        if k >= len(shown):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(palette.color("ink2"))
            painter.drawEllipse(place, _WANTED_R_PX, _WANTED_R_PX)
            continue
        painter.setPen(QPen(ink, 2))
        painter.setBrush(ink if shown[k] else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(place, _R_PX, _R_PX)
        if shown[k] is None:
            painter.setBrush(ink)
            box = QRectF(place.x() - _R_PX, place.y() - _R_PX, 2 * _R_PX, 2 * _R_PX)
            painter.drawPie(box, 180 * 16, 180 * 16)  # the lower half
