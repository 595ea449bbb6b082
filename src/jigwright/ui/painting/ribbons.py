"""Bow ribbons: down strokes above the axis, up strokes mirrored below."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jigwright.core.judge.ribbons import Ribbon
from jigwright.core.judge.strokes import Band, own_course
from jigwright.core.values import Floats
from jigwright.ui.theme import Palette, sans
from jigwright.wording.catalogue import tr

_SIDE = 64.0
_BEST_PX = 58.0
_BANDS_PX = 150.0
_BAND_DB = 9.0


def paint_ribbons(
    painter: QPainter,
    rect: QRectF,
    ribbons: Sequence[Ribbon],
    palette: Palette,
    *,
    selected: int | None = None,
    best: tuple[str, Ribbon] | None = None,
    bands: Sequence[Band] = (),
    n_takes: int = 0,
) -> None:
    """Draw every stroke; thickness is loudness, a rough edge is noise, a bite is contact lost.

    ``best``, a name and a stroke, lies above for comparison; ``bands`` are the strokes of
    ``n_takes`` takes over each other, below.
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if bands:
        low = QRectF(rect.left(), rect.bottom() - _BANDS_PX, rect.width(), _BANDS_PX)
        _bands(painter, low, ribbons, bands, n_takes, palette)
        rect = rect.adjusted(0, 0, 0, -_BANDS_PX)
    if best is not None:
        row = QRectF(rect.left(), rect.top(), rect.width(), _BEST_PX)
        painter.setFont(sans(13))
        painter.setPen(palette.color("ink2"))
        painter.drawText(QPointF(row.left() + _SIDE, row.top() + 14), best[0])
        _ribbon(painter, best[1], row.left() + _SIDE, row.right() - _SIDE, row.top() + 32, 26.0,
                palette, False)  # fmt: skip
        rect = rect.adjusted(0, _BEST_PX, 0, 0)
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


def _bands(
    painter: QPainter,
    rect: QRectF,
    ribbons: Sequence[Ribbon],
    bands: Sequence[Band],
    n_takes: int,
    palette: Palette,
) -> None:
    """Half of all strokes in each band, their middle, and this take's own middle."""
    names = {"down": tr("down"), "up": tr("up"), "unknown": tr("direction not written")}
    wide = (rect.width() - 24.0 * (len(bands) - 1)) / len(bands)
    for k, band in enumerate(bands):
        left = rect.left() + k * (wide + 24.0)
        area = QRectF(left, rect.top() + 30, wide, rect.height() - 52)
        painter.setFont(sans(13, bold=True))
        painter.setPen(palette.color("ink"))
        painter.drawText(QPointF(left, rect.top() + 18), names[band.direction])
        painter.setFont(sans(13))
        painter.setPen(palette.color("ink2"))
        said = tr("{n} strokes, {takes} takes").format(n=band.n_strokes, takes=n_takes)
        past = painter.fontMetrics().horizontalAdvance(names[band.direction]) + 16
        room = round(wide - past)
        said = painter.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QPointF(left + past, rect.top() + 18), said)
        x = np.linspace(area.left(), area.right(), len(band.middle))
        if band.direction == "up":  # the frog stays on the left
            x = x[::-1]

        def points(level: Floats, area: QRectF = area, x: Floats = x) -> list[QPointF]:
            y = area.center().y() - np.clip(level, -_BAND_DB, _BAND_DB) / _BAND_DB * (
                0.5 * area.height()
            )
            return [QPointF(float(a), float(b)) for a, b in zip(x, y, strict=True)]

        painter.setPen(QPen(palette.color("line"), 1))
        painter.drawLine(
            QPointF(area.left(), area.center().y()), QPointF(area.right(), area.center().y())
        )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette.color("band"))
        painter.drawPolygon(QPolygonF(points(band.high) + points(band.low)[::-1]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(palette.color("ink2"), 1.5))
        painter.drawPolyline(QPolygonF(points(band.middle)))
        own = own_course(ribbons, band.direction)
        if own is not None:
            painter.setPen(QPen(palette.color("accent"), 2))
            painter.drawPolyline(QPolygonF(points(own)))
        painter.setPen(palette.color("ink2"))
        ends = QRectF(area.left(), area.bottom() + 2, area.width(), 18)
        painter.drawText(ends, Qt.AlignmentFlag.AlignLeft, tr("frog"))
        painter.drawText(ends, Qt.AlignmentFlag.AlignRight, tr("tip"))
        painter.setPen(palette.color("accent"))
        painter.drawText(ends, Qt.AlignmentFlag.AlignHCenter, tr("this take"))


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
