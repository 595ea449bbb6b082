"""The pitch and loudness lanes: pure value-to-pixel painting."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jigwright.core.values import Floats
from jigwright.ui.painting.rows import HOP_S, LaneRow
from jigwright.ui.painting.xmap import XMap
from jigwright.ui.theme import Palette, sans
from jigwright.wording.notes import cents_text


@dataclass(frozen=True, slots=True, kw_only=True)
class PitchScale:
    """Cents to pixels; ``span`` cents above and below the line."""

    top: float
    bottom: float
    span: float

    def y(self, cents: float) -> float:
        """Pixel of a deviation, clipped to the lane."""
        middle = 0.5 * (self.top + self.bottom)
        half = 0.5 * (self.bottom - self.top)
        return middle - min(max(cents / self.span, -1.0), 1.0) * half


def pitch_span(rows: Sequence[LaneRow], tolerance: float) -> float:
    """Cents shown each way: what the notes need, at least 2½ tolerances, at most 60."""
    out = [abs(r.cents) for r in rows if r.cents is not None and r.standing != "wrong"]
    need = max([2.5 * tolerance, *(v + 8 for v in out)])
    return float(min(60.0, max(20.0, 5 * np.ceil(need / 5))))


def tick_steps(span: float) -> tuple[float, ...]:
    """Labelled deviations of the pitch lane."""
    step = 10.0 if span <= 25 else 20.0 if span <= 45 else 40.0
    return (step, -step)


def standing_color(standing: str) -> str:
    """Name of the colour of a standing: quiet ink inside the tolerance."""
    return {"low": "low", "high": "high"}.get(standing, "ink")


def paint_pitch_lane(
    painter: QPainter,
    rect: QRectF,
    rows: Sequence[LaneRow],
    xmap: XMap,
    palette: Palette,
    *,
    tolerance: float,
    span: float,
    clip: QRectF,
) -> None:
    """Draw the tolerance band, the traces and the centres."""
    scale = PitchScale(top=rect.top() + 4, bottom=rect.bottom() - 4, span=span)
    painter.save()
    painter.setClipRect(clip.intersected(rect))
    band = QRectF(
        rect.left(), scale.y(tolerance), rect.width(), scale.y(-tolerance) - scale.y(tolerance)
    )
    painter.fillRect(band, palette.color("band"))
    painter.setPen(QPen(palette.color("ink2", 150), 1))
    painter.drawLine(QPointF(rect.left(), scale.y(0)), QPointF(rect.right(), scale.y(0)))
    for i, row in enumerate(rows):
        column = xmap.columns[i]
        if column.x1 < clip.left() or column.x0 > clip.right():
            continue
        _paint_row(painter, row, i, xmap, scale, palette)
    painter.restore()


def _paint_row(
    painter: QPainter, row: LaneRow, i: int, xmap: XMap, scale: PitchScale, palette: Palette
) -> None:
    column = xmap.columns[i]
    if row.cents is None:
        hollow = QRectF(
            column.x0 + 3, scale.y(6), column.x1 - column.x0 - 6, scale.y(-6) - scale.y(6)
        )
        painter.setPen(QPen(palette.color("ink2"), 1, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(hollow)
        return
    faint = 90 if not row.last_attempt else 255
    color = palette.color(standing_color(row.standing), faint)
    if row.standing == "wrong":
        _paint_wrong(painter, row, column.x0, column.x1, scale, palette)
        return
    inset = min(4.0, 0.12 * (column.x1 - column.x0)) if not xmap.by_time else 0.0
    y = scale.y(row.cents)
    painter.setPen(QPen(palette.color("ink2", min(faint, 170)), 1, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(column.x0 + inset, y), QPointF(column.x1 - inset, y))
    painter.setPen(QPen(color, 1.6 if column.x1 - column.x0 > 6 else 1))
    for part in trace_polygons(row, i, xmap, scale, inset):
        painter.drawPolyline(part)


def trace_polygons(
    row: LaneRow, i: int, xmap: XMap, scale: PitchScale, inset: float
) -> list[QPolygonF]:
    """The trace as polylines, thinned to two points a pixel, broken where there is no pitch."""
    cents = row.trace_cents
    if not len(cents):
        return []
    column = xmap.columns[i]
    start_s = row.first_frame * HOP_S
    times = start_s + np.arange(len(cents)) * HOP_S
    if xmap.by_time:
        x = xmap.left + times * xmap.px_per_s
    else:
        assert row.onset_s is not None
        assert row.offset_s is not None
        share = (times - row.onset_s) / max(row.offset_s - row.onset_s, 1e-6)
        x = column.x0 + inset + np.clip(share, 0, 1) * (column.x1 - column.x0 - 2 * inset)
    step = max(1, int(len(cents) / max(2.0, 2.0 * (x[-1] - x[0]))))
    x, cents = x[::step], cents[::step]
    middle, half = 0.5 * (scale.top + scale.bottom), 0.5 * (scale.bottom - scale.top)
    y = middle - np.clip(cents / scale.span, -1.0, 1.0) * half
    return _broken_polylines(x, y, np.isfinite(cents))


def _broken_polylines(x: Floats, y: Floats, good: NDArray[np.bool_]) -> list[QPolygonF]:
    edges = np.flatnonzero(np.diff(np.concatenate([[0], good.astype(np.int8), [0]])))
    return [
        QPolygonF([QPointF(float(u), float(v)) for u, v in zip(x[a:b], y[a:b], strict=True)])
        for a, b in zip(edges[::2], edges[1::2], strict=True)
        if b - a >= 2
    ]


def _paint_wrong(
    painter: QPainter, row: LaneRow, x0: float, x1: float, scale: PitchScale, palette: Palette
) -> None:
    """A note far outside: an arrow at the edge with its distance."""
    assert row.cents is not None
    up = row.cents > 0
    y = scale.top + 5 if up else scale.bottom - 5
    middle = 0.5 * (x0 + x1)
    tip = -4 if up else 4
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("high" if up else "low"))
    painter.drawPolygon(
        QPolygonF([QPointF(middle, y + tip), QPointF(middle - 5, y), QPointF(middle + 5, y)])
    )
    painter.setPen(palette.color("ink"))
    painter.setFont(sans(12))
    below = QRectF(middle - 40, y + 2 if up else y - 18, 80, 16)
    painter.drawText(below, Qt.AlignmentFlag.AlignCenter, cents_text(row.cents))


def paint_level_lane(
    painter: QPainter,
    rect: QRectF,
    rows: Sequence[LaneRow],
    level_db: Floats,
    xmap: XMap,
    palette: Palette,
    *,
    clip: QRectF,
) -> tuple[float, float]:
    """Draw the loudness outline; returns the range of dB shown."""
    low, high = level_range(level_db, rows)
    painter.save()
    painter.setClipRect(clip.intersected(rect))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    if xmap.by_time:
        first = max(0, int(xmap.time_at(clip.left()) / HOP_S) - 1)
        last = min(len(level_db), int(xmap.time_at(clip.right()) / HOP_S) + 2)
        _outline(painter, rect, _pixels(level_db[first:last], low, high, rect),
                 xmap.left + np.arange(first, last) * HOP_S * xmap.px_per_s, palette)  # fmt: skip
    else:
        for i, row in enumerate(rows):
            column = xmap.columns[i]
            if row.onset_s is None or row.offset_s is None or not row.last_attempt:
                continue
            if column.x1 < clip.left() or column.x0 > clip.right():
                continue
            a, b = round(row.onset_s / HOP_S), max(round(row.offset_s / HOP_S), 0)
            part = level_db[a : b + 1]
            if len(part) > 1:
                x = np.linspace(column.x0, column.x1, len(part))
                _outline(painter, rect, _pixels(part, low, high, rect), x, palette)
    painter.restore()
    return low, high


def level_range(level_db: Floats, rows: Sequence[LaneRow]) -> tuple[float, float]:
    """The dB shown: the loudest note at the top, 36 dB below it at the bottom."""
    parts = [
        level_db[round(r.onset_s / HOP_S) : round(r.offset_s / HOP_S)]
        for r in rows
        if r.onset_s is not None and r.offset_s is not None
    ]
    parts = [q for q in parts if len(q)]
    high = float(np.percentile(np.concatenate(parts), 99)) if parts else -20.0
    high = 3.0 * float(np.ceil((high + 1.0) / 3.0))
    return high - 30.0, high


def _pixels(level_db: Floats, low: float, high: float, rect: QRectF) -> Floats:
    share = np.clip((level_db - low) / (high - low), 0.0, 1.0)
    return np.asarray(rect.bottom() - 2 - share * (rect.height() - 6))


def _outline(painter: QPainter, rect: QRectF, y: Floats, x: Floats, palette: Palette) -> None:
    if len(x) < 2:
        return
    per_px = max(1, int(len(x) / max(2.0, 2.0 * (x[-1] - x[0]))))
    if per_px > 1:
        n = len(x) // per_px
        y = y[: n * per_px].reshape(n, per_px).min(axis=1)
        x = x[: n * per_px : per_px]
        if n < 2:
            return
    points = [QPointF(float(u), float(v)) for u, v in zip(x, y, strict=True)]
    floor = rect.bottom() - 2
    closed = [QPointF(points[0].x(), floor), *points, QPointF(points[-1].x(), floor)]
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("band"))
    painter.drawPolygon(QPolygonF(closed))
    painter.setPen(QPen(palette.color("ink2"), 1))
    painter.drawPolyline(QPolygonF(points))
