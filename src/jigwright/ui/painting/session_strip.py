"""A session as a strip of time: as long as each item lasts, gaps where it rests (L1)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QFontMetricsF, QPainter, QPen

from jigwright.core.judge.plan import WORKED, PlanItem
from jigwright.core.judge.session_run import Leg
from jigwright.ui.theme import Palette, sans
from jigwright.wording.daybook import part_name
from jigwright.wording.session_run import item_name

_GAP = 3.0
_LEAST = 10.0
_NAMED_FROM = 44.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Block:
    """An item on the strip.

    Parameters
    ----------
    i : int
    rect : QRectF
    leg : Leg
    """

    i: int
    rect: QRectF
    leg: Leg


def blocks(legs: Sequence[Leg], rect: QRectF) -> list[Block]:
    """Where items lie: their widths are their minutes, none too narrow to be hit."""
    total = sum(g.item.minutes for g in legs)
    if not legs or total <= 0:
        return []
    free = rect.width() - _GAP * (len(legs) - 1) - _LEAST * len(legs)
    x, found = rect.left(), []
    for i, leg in enumerate(legs):
        width = _LEAST + max(0.0, free) * leg.item.minutes / total
        found.append(Block(i=i, rect=QRectF(x, rect.top(), width, rect.height()), leg=leg))
        x += width + _GAP
    return found


def block_at(found: Sequence[Block], place: QPointF) -> int | None:
    """The item under a point."""
    return next((b.i for b in found if b.rect.contains(place)), None)


def paint_session_strip(
    painter: QPainter, rect: QRectF, legs: Sequence[Leg], palette: Palette, *,
    at: int | None = None, chosen: int | None = None, named: bool = True,
) -> list[Block]:  # fmt: skip
    """Draw a session.

    Parameters
    ----------
    painter : QPainter
    rect : QRectF
    legs : sequence of Leg
        Filled by the time spent at them; dots are takes, full ones met their aims.
    palette : Palette
    at : int or None
        The one in hand.
    chosen : int or None
        Drawn with a frame.
    named : bool
        With names under the blocks, as far as they have room.

    Returns
    -------
    list of Block
        Where the items lie.
    """
    bar = QRectF(rect.left(), rect.top(), rect.width(), rect.height() - (34 if named else 0))
    found = blocks(legs, bar)
    for block in found:
        now = block.i == at
        _paint_block(painter, block, palette, now=now, chosen=block.i == chosen)
        if named:
            under = QRectF(block.rect.left(), bar.bottom() + 3, block.rect.width(), 32)
            _paint_name(painter, under, block.leg.item, palette, bold=now or block.i == chosen)
    return found


def _paint_block(
    painter: QPainter, block: Block, palette: Palette, *, now: bool, chosen: bool
) -> None:
    leg, rect = block.leg, block.rect
    share = min(1.0, leg.spent_s / leg.seconds) if leg.seconds else 0.0
    behind = QRectF(rect.left(), rect.top(), share * rect.width(), rect.height())
    spent = palette.color("accent", 90) if now else palette.color("ink2", 90)
    painter.setPen(Qt.PenStyle.NoPen)
    if leg.item.part not in (*WORKED, "warm_up"):  # a gap: a thin line of time
        thin = 0.5 * (rect.height() - 4.0)
        painter.fillRect(rect.adjusted(0, thin, 0, -thin), palette.color("line"))
        painter.fillRect(behind.adjusted(0, thin, 0, -thin), spent)
    else:
        painter.setBrush(palette.color("band"))
        painter.drawRoundedRect(rect, 4, 4)
        if leg.item.heavy:
            painter.setBrush(QBrush(palette.color("ink2", 80), Qt.BrushStyle.BDiagPattern))
            painter.drawRoundedRect(rect, 4, 4)
        if share > 0.0:
            painter.setBrush(spent)
            painter.drawRoundedRect(behind, 4, 4)
        _paint_takes(painter, rect, leg, palette)
    if now or chosen:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(palette.color("accent" if now else "ink2"), 2))
        painter.drawRoundedRect(rect.adjusted(1, 1, -1, -1), 4, 4)


def _paint_takes(painter: QPainter, rect: QRectF, leg: Leg, palette: Palette) -> None:
    """A dot for each take, full where it met its aims."""
    step = min(11.0, (rect.width() - 8.0) / max(1, leg.takes))
    if leg.takes == 0 or step < 2.0:
        return
    r = min(3.6, 0.4 * step)
    for k in range(leg.takes):
        place = QPointF(rect.left() + 6.0 + (k + 0.5) * step, rect.center().y())
        painter.setPen(QPen(palette.color("ink"), 1.2))
        painter.setBrush(palette.color("ink") if k < leg.met else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(place, r, r)


def _paint_name(
    painter: QPainter, rect: QRectF, item: PlanItem, palette: Palette, *, bold: bool
) -> None:
    painter.setFont(sans(13, bold=bold))
    painter.setPen(palette.color("ink" if bold else "ink2"))
    metrics = QFontMetricsF(painter.font())
    minutes = str(item.minutes)
    painter.drawText(rect.adjusted(0, 14, 0, 0), Qt.AlignmentFlag.AlignLeft, minutes)
    for name in (item_name(item), part_name(item.part)):
        if metrics.horizontalAdvance(name) <= rect.width():
            painter.drawText(rect, Qt.AlignmentFlag.AlignLeft, name)
            return
    if rect.width() >= _NAMED_FROM:
        text = metrics.elidedText(part_name(item.part), Qt.TextElideMode.ElideRight, rect.width())
        painter.drawText(rect, Qt.AlignmentFlag.AlignLeft, text)
