"""Pictures on the slip of the selected note: its trace, and the same note in earlier takes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jigwright.core.values import Floats
from jigwright.services.practising import PastNote
from jigwright.ui.painting.lanes import PitchScale, standing_color
from jigwright.ui.theme import Palette, sans
from jigwright.wording.catalogue import with_comma


def _frame(
    painter: QPainter, rect: QRectF, palette: Palette, tolerance: float, span: float
) -> PitchScale:
    scale = PitchScale(top=rect.top(), bottom=rect.bottom(), span=span)
    top, bottom = scale.y(tolerance), scale.y(-tolerance)
    painter.fillRect(QRectF(rect.left(), top, rect.width(), bottom - top), palette.color("band"))
    painter.setPen(QPen(palette.color("ink2", 150), 1))
    painter.drawLine(QPointF(rect.left(), scale.y(0)), QPointF(rect.right(), scale.y(0)))
    return scale


def paint_trace(
    painter: QPainter,
    rect: QRectF,
    trace_cents: Floats,
    palette: Palette,
    *,
    standing: str,
    tolerance: float,
    length_s: float,
) -> None:
    """Draw one note's contour against its target."""
    good = trace_cents[np.isfinite(trace_cents)]
    reach = float(np.percentile(np.abs(good), 98)) if len(good) else 0.0
    span = min(120.0, max(2.0 * tolerance, reach + 6))
    plot = rect.adjusted(0, 2, 0, -18)
    scale = _frame(painter, plot, palette, tolerance, span)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    if len(trace_cents) > 1:
        x = np.linspace(plot.left(), plot.right(), len(trace_cents))
        painter.setPen(QPen(palette.color(standing_color(standing)), 1.8))
        points: list[QPointF] = []
        for u, c in zip(x, trace_cents, strict=True):
            if np.isfinite(c) and abs(c) < 400:
                points.append(QPointF(float(u), scale.y(float(c))))
                continue
            if len(points) > 1:
                painter.drawPolyline(QPolygonF(points))
            points = []
        if len(points) > 1:
            painter.drawPolyline(QPolygonF(points))
    painter.setFont(sans(12))
    painter.setPen(palette.color("ink2"))
    below = QRectF(plot.left(), plot.bottom() + 2, plot.width(), 16)
    painter.drawText(below, Qt.AlignmentFlag.AlignRight, with_comma(f"{length_s:.1f} s"))
    painter.drawText(below, Qt.AlignmentFlag.AlignLeft, f"±{span:.0f} c")


def paint_past(
    painter: QPainter,
    rect: QRectF,
    past: Sequence[PastNote],
    shown_take: str,
    palette: Palette,
    *,
    tolerance: float,
) -> None:
    """Draw the same note over the takes: dot, whisker, the shown take larger."""
    reach = max((abs(n.cents) for n in past if n.standing != "wrong"), default=0.0)
    span = min(70.0, max(2.0 * tolerance, reach + 6))
    scale = _frame(painter, rect, palette, tolerance, span)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    step = rect.width() / max(1, len(past))
    for i, n in enumerate(past):
        x = rect.left() + (i + 0.5) * step
        color = palette.color(standing_color(n.standing))
        painter.setPen(QPen(color, 1))
        painter.drawLine(
            QPointF(x, scale.y(n.cents - n.uncertainty_cents)),
            QPointF(x, scale.y(n.cents + n.uncertainty_cents)),
        )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color)
        size = 5.0 if n.take_id == shown_take else 3.0
        painter.drawEllipse(QPointF(x, scale.y(n.cents)), size, size)
