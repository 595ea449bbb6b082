"""Bow changes laid over each other at the frog and at the tip, against the best of other takes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jigwright.core.judge.changes import AROUND_S, N_POINTS, Gathered
from jigwright.core.values import Floats
from jigwright.ui.theme import Palette, sans
from jigwright.wording.catalogue import tr
from jigwright.wording.changes import gathered_text, place_name

_LOWEST_DB, _HIGHEST_DB = -24.0, 4.0
_HEAD_PX, _FOOT_PX, _BETWEEN_PX = 22.0, 56.0, 14.0


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangesPicture:
    """What is drawn for one place.

    Parameters
    ----------
    now : Gathered
        This take.
    best : Gathered or None
        The take with the smallest holes there.
    best_day : str
    """

    now: Gathered
    best: Gathered | None = None
    best_day: str = ""


def paint_changes(
    painter: QPainter, rect: QRectF, pictures: Sequence[ChangesPicture], palette: Palette
) -> None:
    """Draw a field for every place, one below the other."""
    if not pictures:
        return
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    height = (rect.height() - _BETWEEN_PX * (len(pictures) - 1)) / len(pictures)
    for k, picture in enumerate(pictures):
        top = rect.top() + k * (height + _BETWEEN_PX)
        _field(painter, QRectF(rect.left(), top, rect.width(), height), picture, palette)


def _field(painter: QPainter, rect: QRectF, picture: ChangesPicture, palette: Palette) -> None:
    now = picture.now
    painter.setFont(sans(13, bold=True))
    painter.setPen(palette.color("ink"))
    painter.drawText(QPointF(rect.left(), rect.top() + 14), place_name(now.place))
    area = rect.adjusted(0, _HEAD_PX, 0, -_FOOT_PX)
    x = np.linspace(area.left(), area.right(), N_POINTS)
    middle = area.center().x()
    painter.setPen(QPen(palette.color("line"), 1))
    painter.drawLine(QPointF(area.left(), _y(area, 0.0)), QPointF(area.right(), _y(area, 0.0)))
    painter.drawLine(QPointF(middle, area.top()), QPointF(middle, area.bottom()))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("band"))
    painter.drawPolygon(QPolygonF([*_points(area, x, now.high), *_points(area, x, now.low)[::-1]]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if picture.best is not None:
        painter.setPen(QPen(palette.color("ink2"), 1.5, Qt.PenStyle.DashLine))
        painter.drawPolyline(QPolygonF(_points(area, x, picture.best.middle)))
    painter.setPen(QPen(palette.color("accent"), 2))
    painter.drawPolyline(QPolygonF(_points(area, x, now.middle)))
    painter.setFont(sans(12))
    painter.setPen(palette.color("ink2"))
    foot = QRectF(area.left(), area.bottom() + 2, area.width(), 16)
    around = round(1000 * AROUND_S)
    painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, f"−{around} ms")
    painter.drawText(foot, Qt.AlignmentFlag.AlignRight, f"+{around} ms")
    painter.drawText(
        QRectF(area.left(), _y(area, _LOWEST_DB) - 16, 40, 14), Qt.AlignmentFlag.AlignLeft,
        tr("{db} dB").format(db=f"−{round(-_LOWEST_DB)}"),
    )  # fmt: skip
    painter.setPen(palette.color("accent"))
    said = QRectF(rect.left(), area.bottom() + 18, rect.width(), 18)
    words = gathered_text(now)
    painter.drawText(said, Qt.AlignmentFlag.AlignLeft, words)
    if picture.best is not None:
        painter.setPen(palette.color("ink2"))
        best = tr("dashed: your best, {day}").format(day=picture.best_day)
        best = painter.fontMetrics().elidedText(
            best, Qt.TextElideMode.ElideRight, round(said.width())
        )
        painter.drawText(said.translated(0, 17), Qt.AlignmentFlag.AlignLeft, best)


def _y(area: QRectF, level_db: float) -> float:
    share = (level_db - _LOWEST_DB) / (_HIGHEST_DB - _LOWEST_DB)
    return area.bottom() - share * area.height()


def _points(area: QRectF, x: Floats, level_db: Floats) -> list[QPointF]:
    level = np.clip(level_db, _LOWEST_DB, _HIGHEST_DB)
    return [QPointF(float(a), _y(area, float(b))) for a, b in zip(x, level, strict=True)]
