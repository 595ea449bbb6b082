"""Where somebody speaks: hatched over the lanes, a dotted line where a page has no time for it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen

from jigwright.core.sound.heard import Speech
from jigwright.ui.painting.xmap import XMap
from jigwright.ui.theme import Palette, sans
from jigwright.wording.catalogue import tr

_NARROW_PX, _HATCH_ALPHA = 12.0, 90
_WORD_TOP_PX = 20.0  # below the seconds


def paint_talks(
    painter: QPainter,
    area: QRectF,
    talks: Sequence[Speech],
    xmap: XMap,
    palette: Palette,
    *,
    clip: QRectF,
) -> None:
    """Draw every stretch of talk over the lanes.

    Parameters
    ----------
    painter : QPainter
    area : QRectF
        The lanes, as wide as the page.
    talks : sequence of Speech
    xmap : XMap
    palette : Palette
    clip : QRectF
        The part of the page that is seen.
    """
    for talk in talks:
        left, right = xmap.x_at(talk.start_s), xmap.x_at(talk.end_s)
        if right < clip.left() or left > clip.right():
            continue
        middle = 0.5 * (left + right)
        if right - left < _NARROW_PX:
            painter.setPen(QPen(palette.color("ink2"), 1.5, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(middle, area.top()), QPointF(middle, area.bottom()))
        else:
            brush = QBrush(palette.color("ink2", _HATCH_ALPHA), Qt.BrushStyle.BDiagPattern)
            painter.fillRect(QRectF(left, area.top(), right - left, area.height()), brush)
        word = tr("speech")
        painter.setFont(sans(12, italic=True))
        wide = painter.fontMetrics().horizontalAdvance(word) + 8
        # on paper of its own: it may lie over a note's line
        label = QRectF(middle - wide / 2, area.top() + _WORD_TOP_PX, wide, 17)
        painter.fillRect(label, palette.color("panel"))
        painter.setPen(palette.color("ink2"))
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, word)
