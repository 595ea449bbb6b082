"""Two takes side by side: where each note lay, how much louder and brighter the second is."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from jigwright.core.judge.compare import NotePair
from jigwright.ui.theme import Palette, sans
from jigwright.wording.catalogue import tr
from jigwright.wording.notes import class_name

_REACH_CENTS, _REACH_DB, _REACH_SHARE = 35.0, 12.0, 0.5
_LEFT_PX = 150.0


def paint_compare(
    painter: QPainter, rect: QRectF, pairs: Sequence[NotePair], palette: Palette, tolerance: float
) -> None:
    """Draw a column for each note: hollow the first take, full the second; bars below."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if not pairs:
        return
    left = rect.left() + _LEFT_PX
    wide = min(64.0, (rect.right() - left - 12.0) / len(pairs))
    toned = any(p.louder_db is not None or p.brighter is not None for p in pairs)
    share = 0.5 if toned else 0.8
    pitch = QRectF(left, rect.top() + 10, wide * len(pairs), share * rect.height())
    loud = QRectF(left, pitch.bottom() + 34, pitch.width(), 0.16 * rect.height())
    bright = QRectF(left, loud.bottom() + 12, pitch.width(), 0.16 * rect.height())
    _lane(painter, rect, pitch, tr("pitch"), tr("hollow: first, full: second"), palette)
    if toned:
        _lane(painter, rect, loud, tr("louder"), tr("second over first, dB"), palette)
        _lane(painter, rect, bright, tr("brighter"), tr("second over first"), palette)
    half = tolerance / _REACH_CENTS * 0.5 * pitch.height()
    painter.fillRect(
        QRectF(pitch.left(), pitch.center().y() - half, pitch.width(), 2 * half),
        palette.color("band"),
    )
    for k, pair in enumerate(pairs):
        x = left + (k + 0.5) * wide
        _pitches(painter, pitch, x, pair, palette)
        _bar(painter, loud, x, 0.4 * wide, pair.louder_db, _REACH_DB, palette)
        more = None if pair.brighter is None else pair.brighter - 1.0
        _bar(painter, bright, x, 0.4 * wide, more, _REACH_SHARE, palette)
        if wide >= 15 or k % 2 == 0:
            painter.setPen(palette.color("ink2"))
            painter.setFont(sans(12))
            painter.drawText(
                QRectF(x - 24, pitch.bottom() + 6, 48, 18), Qt.AlignmentFlag.AlignHCenter,
                class_name(pair.pitch),
            )  # fmt: skip


def _lane(
    painter: QPainter, rect: QRectF, lane: QRectF, name: str, below: str, palette: Palette
) -> None:
    painter.setPen(palette.color("ink"))
    painter.setFont(sans(13, bold=True))
    words = QRectF(rect.left() + 12, lane.center().y() - 20, _LEFT_PX - 20, 20)
    painter.drawText(words, Qt.AlignmentFlag.AlignLeft, name)
    painter.setPen(palette.color("ink2"))
    painter.setFont(sans(11))
    painter.drawText(words.translated(0, 19), Qt.AlignmentFlag.AlignLeft, below)
    painter.setPen(QPen(palette.color("line"), 1))
    middle = lane.center().y()
    painter.drawLine(QPointF(lane.left(), middle), QPointF(lane.right(), middle))


def _pitches(painter: QPainter, lane: QRectF, x: float, pair: NotePair, palette: Palette) -> None:
    at = [
        None if c is None
        else lane.center().y()
        - max(-_REACH_CENTS, min(_REACH_CENTS, c)) / _REACH_CENTS * 0.5 * lane.height()
        for c in (pair.one_cents, pair.two_cents)
    ]  # fmt: skip
    ink = palette.color("ink")
    painter.setPen(QPen(palette.color("ink2"), 1.4))
    if at[0] is not None and at[1] is not None:
        painter.drawLine(QPointF(x, at[0]), QPointF(x, at[1]))
    if at[0] is not None:
        painter.setPen(QPen(ink, 1.6))
        painter.setBrush(palette.color("panel"))
        painter.drawEllipse(QPointF(x, at[0]), 5.0, 5.0)
    if at[1] is not None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        painter.drawEllipse(QPointF(x, at[1]), 5.0, 5.0)


def _bar(
    painter: QPainter, lane: QRectF, x: float, wide: float, value: float | None, reach: float,
    palette: Palette,
) -> None:  # fmt: skip
    if value is None:
        return
    high = max(-1.0, min(1.0, value / reach)) * 0.5 * lane.height()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("ink2"))
    painter.drawRect(QRectF(x - 0.5 * wide, lane.center().y() - high, wide, high))
