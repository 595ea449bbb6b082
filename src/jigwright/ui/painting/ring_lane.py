"""The ring under the notes: a string's line, and on it the tail of every note that woke it.

A tail begins where the note ends, is as thick as the ring is strong and as long as it takes to fall
by 20 dB. A hollow dot is a note that could have woken the string and did not.
"""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from jigwright.ui.painting.ring_map import RingNote, fullness, tail
from jigwright.ui.painting.xmap import XMap
from jigwright.ui.theme import Palette

_FALL_SHARE = 20.0 / 60.0
_THINNEST_PX, _DOT_PX = 1.5, 2.2
_SHORTEST_PX = 5.0


def paint_ring_lane(
    painter: QPainter,
    rect: QRectF,
    notes: Sequence[RingNote],
    n_strings: int,
    xmap: XMap,
    palette: Palette,
    *,
    clip: QRectF,
    selected: int | None = None,
) -> None:
    """Draw one thin row a string, the lowest at the bottom."""
    painter.save()
    painter.setClipRect(clip.intersected(rect))
    step = rect.height() / max(1, n_strings)
    painter.setPen(QPen(palette.color("line"), 1))
    for k in range(n_strings):
        y = rect.bottom() - (k + 0.5) * step
        painter.drawLine(QPointF(clip.left(), y), QPointF(clip.right(), y))
    for row, note in enumerate(notes):
        if note.offset_s is None or row >= len(xmap.columns):
            continue
        left = xmap.x_in(row, note.offset_s)
        for one in note.strings:
            y = rect.bottom() - (one.string + 0.5) * step
            color = palette.color("accent" if row == selected else "ink")
            if one.state == "rang":
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(color)
                decay_s = one.decay_s if one.decay_s is not None else 0.0
                right = xmap.x_at(note.offset_s + _FALL_SHARE * decay_s)
                right = max(left + _SHORTEST_PX, right)
                half = max(_THINNEST_PX, 0.46 * step * fullness(one.level_db))
                painter.drawPolygon(tail(left, right, y, half))
            elif one.state == "silent" and one.to_be_had:
                painter.setPen(QPen(palette.color("ink2"), 1))
                painter.setBrush(palette.color("paper"))
                painter.drawEllipse(QPointF(left, y), _DOT_PX, _DOT_PX)
    painter.restore()
