"""A take's fingerprint: deviation of every note as a bar above or below a line."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from jigwright.ui.theme import Palette

SPAN_CENTS = 30.0


def paint_take_print(
    painter: QPainter,
    rect: QRectF,
    notes: Sequence[tuple[float | None, str]],
    palette: Palette,
) -> None:
    """Draw a fingerprint.

    Parameters
    ----------
    notes : sequence of (cents or None, standing)
    """
    middle = rect.center().y()
    painter.setPen(QPen(palette.color("line"), 1))
    painter.drawLine(QPointF(rect.left(), middle), QPointF(rect.right(), middle))
    if not notes:
        return
    step = rect.width() / len(notes)
    width = max(1.0, min(4.0, 0.55 * step))
    for i, (cents, standing) in enumerate(notes):
        x = rect.left() + (i + 0.5) * step
        if cents is None:
            painter.setPen(QPen(palette.color("ink2"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(x, middle), 2.0, 2.0)
            continue
        height = min(abs(cents), SPAN_CENTS) / SPAN_CENTS * 0.5 * rect.height()
        height = max(height, 1.5)
        top = middle - height if cents > 0 else middle
        name = {"low": "low", "high": "high"}.get(standing, "ink")
        painter.fillRect(QRectF(x - 0.5 * width, top, width, height), palette.color(name))
