"""Bow ribbons: down strokes above the axis, up strokes mirrored below."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jigwright.core.judge.ribbons import Ribbon
from jigwright.ui.theme import Palette, sans
from jigwright.wording.catalogue import tr

_SIDE = 64.0


def paint_ribbons(
    painter: QPainter,
    rect: QRectF,
    ribbons: Sequence[Ribbon],
    palette: Palette,
    *,
    selected: int | None = None,
) -> None:
    """Draw every stroke; thickness is loudness, a rough edge is noise, a bite is contact lost."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    down = [r for r in ribbons if r.direction != "up"]
    up = [r for r in ribbons if r.direction == "up"]
    rows = len(down) + len(up) + 1
    step = min(26.0, (rect.height() - 44.0) / max(2, rows))
    left, right = rect.left() + _SIDE, rect.right() - _SIDE
    y = rect.top() + 24.0
    painter.setFont(sans(13))
    painter.setPen(palette.color("ink2"))
    named = any(r.direction == "down" for r in down)
    title = tr("down strokes, left to right") if named else tr("strokes, direction not written")
    painter.drawText(QPointF(left, y - 8), title)
    for ribbon in down:
        _ribbon(
            painter, ribbon, left, right, y + 0.5 * step, step, palette, ribbon.i_stroke == selected
        )
        y += step
    axis = y + 0.5 * step
    painter.setPen(QPen(palette.color("ink"), 1.2))
    painter.drawLine(QPointF(left, axis), QPointF(right, axis))
    painter.setFont(sans(14, bold=True))
    painter.drawText(QRectF(rect.left(), axis - 12, _SIDE - 10, 24),
                     Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                     tr("frog"))  # fmt: skip
    painter.drawText(QRectF(right + 10, axis - 12, _SIDE, 24),
                     Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
                     tr("tip"))  # fmt: skip
    y += step
    for ribbon in up:
        _ribbon(
            painter, ribbon, left, right, y + 0.5 * step, step, palette, ribbon.i_stroke == selected
        )
        y += step
    if up:
        painter.setFont(sans(13))
        painter.setPen(palette.color("ink2"))
        painter.drawText(QPointF(left, y + 14), tr("up strokes, right to left"))


def _ribbon(
    painter: QPainter,
    ribbon: Ribbon,
    left: float,
    right: float,
    y: float,
    step: float,
    palette: Palette,
    chosen: bool,
) -> None:
    n = len(ribbon.level_db)
    half = 0.33 * step * np.clip(1.0 + ribbon.level_db / 24.0, 0.06, 1.15)
    for place in ribbon.breaks:
        near = np.abs(np.linspace(0, 1, n) - place) < 0.02
        half[near] *= 0.25
    ragged = 0.14 * step * ribbon.rough * np.where(np.arange(n) % 2 == 0, 1.0, -0.4)
    x = np.linspace(left, right, n)
    if ribbon.direction == "up":
        half, ragged = half[::-1], ragged[::-1]
    top = [QPointF(float(a), float(y - h - r)) for a, h, r in zip(x, half, ragged, strict=True)]
    low = [QPointF(float(a), float(y + h + r)) for a, h, r in zip(x, half, ragged, strict=True)]
    painter.setPen(QPen(palette.color("ink"), 1.5) if chosen else Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("accent" if ribbon.breaks else "ink2"))
    painter.drawPolygon(QPolygonF(top + low[::-1]))
