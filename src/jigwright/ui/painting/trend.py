"""A trend: one dot a take, the running middle, the change if there is one."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jigwright.core.judge.trend import ChangePoint, running_middle
from jigwright.ui.theme import Palette, sans


def paint_trend(
    painter: QPainter,
    rect: QRectF,
    values: Sequence[float],
    days: Sequence[str],
    cuts: Sequence[bool],
    change: ChangePoint | None,
    palette: Palette,
    *,
    zero: bool,
) -> None:
    """Draw takes left to right; a dashed line where another input or instrument begins."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if not values:
        return
    area = rect.adjusted(58, 14, -18, -34)
    low = min(0.0, min(values)) if zero else min(values)
    high = max(values)
    reach = max(high - low, 1.0)
    low, high = low - 0.04 * reach, high + 0.08 * reach

    def x_of(i: int) -> float:
        return area.left() + (i + 0.5) * area.width() / len(values)

    def y_of(v: float) -> float:
        return area.bottom() - (v - low) / (high - low) * area.height()

    painter.setFont(sans(12))
    step = next(s for s in (1, 2, 5, 10, 20, 25, 50, 100, 1000) if (high - low) / s <= 6)
    tick = step * round(low / step)
    while tick <= high:
        if tick >= low:
            painter.setPen(QPen(palette.color("line"), 1))
            painter.drawLine(QPointF(area.left(), y_of(tick)), QPointF(area.right(), y_of(tick)))
            painter.setPen(palette.color("ink2"))
            text = f"{tick:.0f}".replace("-", "−")
            painter.drawText(QRectF(rect.left(), y_of(tick) - 9, 48, 18),
                             Qt.AlignmentFlag.AlignRight, text)  # fmt: skip
        tick += step
    if change is not None:
        shade = QRectF(x_of(change.at) - 0.5 * area.width() / len(values), area.top(), 0, 0)
        shade.setRight(area.right())
        shade.setBottom(area.bottom())
        painter.fillRect(shade, palette.color("band"))
        painter.setPen(QPen(palette.color("ink2"), 1.4))
        for value, a, b in ((change.before, area.left(), shade.left()),
                            (change.after, shade.left(), area.right())):  # fmt: skip
            painter.drawLine(QPointF(a, y_of(value)), QPointF(b, y_of(value)))
    last = ""
    taken = -100.0
    for i, day in enumerate(days):
        if cuts[i]:
            painter.setPen(QPen(palette.color("ink2"), 1, Qt.PenStyle.DashLine))
            x = x_of(i) - 0.5 * area.width() / len(values)
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
        if day != last and x_of(i) - taken > 74:
            taken = x_of(i)
            painter.setPen(palette.color("ink2"))
            painter.drawText(QRectF(x_of(i) - 36, area.bottom() + 8, 72, 16),
                             Qt.AlignmentFlag.AlignHCenter, day[5:])  # fmt: skip
        last = day
    painter.setPen(QPen(palette.color("ink2"), 2))
    middle = running_middle(values)
    painter.drawPolyline(QPolygonF([QPointF(x_of(i), y_of(v)) for i, v in enumerate(middle)]))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("ink"))
    for i, value in enumerate(values):
        painter.drawEllipse(QPointF(x_of(i), y_of(value)), 3.4, 3.4)


def paint_ladder(painter: QPainter, rect: QRectF, n_rungs: int, at: int, palette: Palette) -> None:
    """Draw a small ladder, climbed from below: full rungs are passed, the next one is marked."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    step = rect.height() / (n_rungs + 1)
    painter.setPen(QPen(palette.color("ink2"), 2))
    for x in (rect.left() + 4, rect.right() - 4):
        painter.drawLine(QPointF(x, rect.top()), QPointF(x, rect.bottom()))
    for i in range(n_rungs):
        y = rect.bottom() - (i + 1) * step
        passed = i < at
        name = "ink" if passed else "accent" if i == at else "line"
        painter.setPen(QPen(palette.color(name), 4 if i <= at else 2))
        painter.drawLine(QPointF(rect.left() + 5, y), QPointF(rect.right() - 5, y))
