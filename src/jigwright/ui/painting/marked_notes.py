"""Engraved notes on paper, with what was heard of each: how far it lay above or below."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QByteArray, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtSvg import QSvgRenderer

from jigwright.core.judge.judging import Standing
from jigwright.services.notation import Engraved, HeadBox, coloured
from jigwright.ui.painting.takeprint import SPAN_CENTS
from jigwright.ui.theme import Palette

_BAR_PX, _GAP_PX, _WIDE_PX, _RING_PX = 14.0, 5.0, 4.0, 5.0

Mark = tuple[float | None, Standing]
"""Cents from the target, and where the note stands."""


def marked_height(engraved: Engraved, width: float) -> float:
    """Height of the notes in a picture that wide; they are never drawn larger than engraved."""
    return engraved.height * _scale(engraved, width)


def paint_marked_notes(
    painter: QPainter, rect: QRectF, engraved: Engraved, marks: Mapping[str, Mark], palette: Palette
) -> None:
    """Draw the notes and beside each head a bar: up where it was high, down where it was low.

    A note that was missed, or another played for it, has a ring; one that was in tune nothing.

    Parameters
    ----------
    painter : QPainter
    rect : QRectF
        The notes begin at its left upper corner.
    engraved : Engraved
    marks : mapping of str to (cents or None, standing)
        By note id.
    palette : Palette
    """
    scale = _scale(engraved, rect.width())
    painter.save()
    painter.translate(rect.topLeft())
    painter.scale(scale, scale)
    svg = coloured(engraved.svg, ink=palette.ink, faint=palette.faint)
    renderer = QSvgRenderer(QByteArray(svg.encode()))
    renderer.render(painter, QRectF(0, 0, engraved.width, engraved.height))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for head in engraved.heads:
        if head.note_id in marks:
            _mark(painter, head, marks[head.note_id], palette)
    painter.restore()


def _scale(engraved: Engraved, width: float) -> float:
    return min(1.0, width / max(engraved.width, 1.0))


def _mark(painter: QPainter, head: HeadBox, mark: Mark, palette: Palette) -> None:
    cents, standing = mark
    middle = head.x + 0.5 * head.width
    if standing in ("missed", "wrong"):
        painter.setPen(QPen(palette.color("high"), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        radius = 0.5 * head.width + _RING_PX
        painter.drawEllipse(QPointF(middle, head.y), radius, radius)
        return
    if standing not in ("low", "high") or cents is None:
        return
    length = max(0.2, min(abs(cents), SPAN_CENTS) / SPAN_CENTS) * _BAR_PX
    edge = 0.5 * head.height + _GAP_PX
    top = head.y - edge - length if standing == "high" else head.y + edge
    bar = QRectF(middle - 0.5 * _WIDE_PX, top, _WIDE_PX, length)
    painter.fillRect(bar, palette.color(standing))
