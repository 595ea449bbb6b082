"""The bow under the notes: every stroke a band, every change a notch where the next note begins.

The notch is as deep as the level falls and as wide as the hole lasts; a bump stands out of the band
after it. Under a change within one pitch an angle says that the bow was heard to turn, a dash that
it went on the same way. What happened inside a stroke is a bite (contact lost), a saw (scratch) or
a wave (shake).
"""

from __future__ import annotations

from math import isfinite

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jigwright.core.gauge.values import BowChange, BowEvent, Stroke
from jigwright.core.judge.playing import Playing
from jigwright.ui.painting.xmap import XMap
from jigwright.ui.theme import Palette, sans

_BAND_PX = 14.0
_DEEPEST_DB = 24.0  # a notch through the whole band
_NARROWEST_PX, _WIDEST_PX, _PX_PER_MS = 3.0, 16.0, 0.1
_BUMP_PX_PER_DB, _HIGHEST_BUMP_PX = 1.0, 8.0
_SHADE = 110
_SPOILED = ("bounce", "scratch", "shake", "whistle", "neighbour_string")
_ANGLE_PX = 3.5
_ARROW_PX = 26.0  # a band shorter than this has no room for its direction


def notch(change: BowChange) -> tuple[float, float, float]:
    """Depth, width and height of the bump of a change, in pixels."""
    depth = _BAND_PX * min(1.0, max(0.0, change.dip_db) / _DEEPEST_DB)
    width = min(_WIDEST_PX, _NARROWEST_PX + _PX_PER_MS * change.gap_ms)
    bump = change.bump_db if isfinite(change.bump_db) else 0.0
    return depth, width, min(_HIGHEST_BUMP_PX, _BUMP_PX_PER_DB * bump)


def paint_bow_lane(
    painter: QPainter,
    rect: QRectF,
    playing: Playing,
    xmap: XMap,
    palette: Palette,
    *,
    clip: QRectF,
    selected: int | None = None,
) -> None:
    """Draw strokes, changes and what happened inside them.

    ``selected`` is the row whose change is drawn in the accent colour.
    """
    painter.save()
    painter.setClipRect(clip.intersected(rect))
    top = rect.center().y() - 0.5 * _BAND_PX + 3.0
    for stroke in playing.strokes:
        _stroke(painter, stroke, top, xmap, palette, clip)
    for event in playing.events:
        if event.kind in _SPOILED:
            _event(painter, event, top, xmap, palette)
    for change in playing.changes:
        _change(painter, change, top, xmap, palette, chosen=change.rows[1] == selected)
    painter.restore()


def _stroke(
    painter: QPainter, stroke: Stroke, top: float, xmap: XMap, palette: Palette, clip: QRectF
) -> None:
    if not stroke.rows:
        return
    left = xmap.x_in(stroke.rows[0], stroke.start_s)
    right = xmap.x_in(stroke.rows[-1], stroke.end_s)
    if right < clip.left() or left > clip.right():
        return
    band = QRectF(left + 1, top, max(2.0, right - left - 2), _BAND_PX)
    painter.fillRect(band, palette.color("ink2", _SHADE))
    sign = {"down": "→", "up": "←"}.get(stroke.direction)
    if sign is not None and band.width() >= _ARROW_PX:
        painter.setFont(sans(11))
        painter.setPen(palette.color("ink"))
        box = QRectF(band.left() + 8, top - 2, 14, _BAND_PX + 3)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, sign)


def _change(
    painter: QPainter, change: BowChange, top: float, xmap: XMap, palette: Palette, *, chosen: bool
) -> None:
    if change.rows[1] >= len(xmap.columns):
        return
    x = xmap.x_in(change.rows[1], change.time_s)
    depth, width, bump = notch(change)
    half = 0.5 * width
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("paper"))
    hole = [
        QPointF(x - half, top - 1), QPointF(x - 0.4 * half, top + depth),
        QPointF(x + 0.4 * half, top + depth), QPointF(x + half, top - 1),
    ]  # fmt: skip
    if chosen:
        painter.setBrush(palette.color("accent"))
    painter.drawPolygon(QPolygonF(hole))
    if bump >= 1.0:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette.color("ink2", _SHADE))
        painter.drawRect(QRectF(x + half, top - bump, 6.0, bump))
    _heard_way(painter, change, QPointF(x, top + _BAND_PX + 1.5), palette)


def _heard_way(painter: QPainter, change: BowChange, at: QPointF, palette: Palette) -> None:
    if change.heard_way == "unknown":
        return
    painter.setPen(QPen(palette.color("ink2"), 1.4))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    tip = _ANGLE_PX if change.heard_way == "turned" else 0.0
    left, right = QPointF(-_ANGLE_PX, 0.0), QPointF(_ANGLE_PX, 0.0)
    painter.drawPolyline(QPolygonF([at + left, at + QPointF(0.0, tip), at + right]))


def _event(painter: QPainter, event: BowEvent, top: float, xmap: XMap, palette: Palette) -> None:
    if event.row >= len(xmap.columns):
        return
    left, right = xmap.x_in(event.row, event.start_s), xmap.x_in(event.row, event.end_s)
    right = max(right, left + 4.0)
    painter.setPen(QPen(palette.color("accent"), 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    base = top + _BAND_PX + 2.0
    if event.kind == "bounce":
        middle = 0.5 * (left + right)
        painter.setBrush(palette.color("paper"))
        painter.drawEllipse(QPointF(middle, top + 0.5 * _BAND_PX), 3.5, 3.5)
        return
    step = 3.0 if event.kind == "scratch" else 6.0
    n = max(2, min(60, int((right - left) / step)))
    points = [
        QPointF(left + (right - left) * i / n, base + (3.0 if i % 2 else 0.0)) for i in range(n + 1)
    ]
    painter.drawPolyline(QPolygonF(points))
