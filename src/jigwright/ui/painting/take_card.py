"""A take as a card: its print, a word below it, and whether it is new or sounds."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jigwright.ui.painting.takeprint import paint_take_print
from jigwright.ui.theme import Palette, sans

Print = Sequence[tuple[float | None, str]]
Mark = Literal["", "new", "sounds"]


def paint_take_card(
    painter: QPainter,
    card: QRectF,
    notes: Print,
    palette: Palette,
    *,
    foot: str,
    mark: Mark = "",
    chosen: bool = False,
    focused: bool = False,
) -> None:
    """Draw a card.

    Parameters
    ----------
    card : QRectF
    notes : sequence of (cents or None, standing)
    palette : Palette
    foot : str
        When it was, or what.
    mark : "", "new" or "sounds"
        A dot where it was not heard yet, an arrow and a tint where it sounds.
    chosen, focused : bool
        Whether it is chosen, and whether keys come here.
    """
    width = 2.5 if chosen and focused else 1.6 if chosen else 1.0
    painter.setPen(QPen(palette.color("accent" if chosen else "line"), width))
    painter.setBrush(palette.color("band" if mark == "sounds" else "paper"))
    painter.drawRoundedRect(card, 4, 4)
    paint_take_print(painter, card.adjusted(8, 7, -8, -24), notes, palette)
    below = QRectF(card.left() + 8, card.bottom() - 20, card.width() - 16, 16)
    painter.setFont(sans(12, bold=mark == "new"))
    painter.setPen(palette.color("ink" if mark == "new" or chosen else "ink2"))
    room = below.width() - (16 if mark else 0)
    said = painter.fontMetrics().elidedText(foot, Qt.TextElideMode.ElideRight, round(room))
    painter.drawText(below, Qt.AlignmentFlag.AlignLeft, said)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("accent"))
    y = below.center().y() + 1
    if mark == "sounds":
        x = below.right() - 9
        painter.drawPolygon(
            QPolygonF([QPointF(x, y - 5), QPointF(x + 9, y), QPointF(x, y + 5)])
        )  # fmt: skip
    elif mark == "new":
        painter.drawEllipse(QPointF(below.right() - 4, y), 4.0, 4.0)
    painter.setBrush(Qt.BrushStyle.NoBrush)
