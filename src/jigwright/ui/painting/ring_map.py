"""The ring map: which notes could wake which open string, and what rang."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from jigwright.ui.theme import Palette, sans


@dataclass(frozen=True, slots=True, kw_only=True)
class RingNote:
    """One note of the take.

    Parameters
    ----------
    name : str
    could : tuple of int
        Strings (0 = lowest) that share a partial with it.
    rang : tuple of int or None
        Strings that rang; ``None``: cannot tell.
    ring_db, decay_s : float or None
    """

    name: str
    could: tuple[int, ...]
    rang: tuple[int, ...] | None
    ring_db: float | None
    decay_s: float | None


def paint_ring_map(
    painter: QPainter,
    rect: QRectF,
    strings: Sequence[str],
    notes: Sequence[RingNote],
    palette: Palette,
    *,
    selected: int | None = None,
) -> None:
    """Draw strings as rows and notes as columns; a filled circle rang, an empty one could have.

    A hatched circle could have rung, but the take cannot tell (legato, no gap, a live room).
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if not notes:
        return
    left = rect.left() + 70.0
    wide = min(70.0, (rect.right() - left - 8) / len(notes))
    step = min(90.0, (rect.height() - 60.0) / max(1, len(strings)))
    radius = min(15.0, 0.34 * wide, 0.34 * step)
    if selected is not None and selected < len(notes):
        painter.fillRect(QRectF(left + selected * wide, rect.top(), wide, rect.height() - 6),
                         palette.color("band"))  # fmt: skip
    for k, name in enumerate(reversed(strings)):
        y = rect.top() + 20 + (k + 0.5) * step
        painter.setPen(QPen(palette.color("line"), 1.5))
        painter.drawLine(QPointF(left, y), QPointF(left + wide * len(notes), y))
        painter.setPen(palette.color("ink"))
        painter.setFont(sans(16, bold=True))
        painter.drawText(QRectF(rect.left(), y - 12, 56, 24),
                         Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                         name)  # fmt: skip
    for i, note in enumerate(notes):
        x = left + (i + 0.5) * wide
        for string in note.could:
            y = rect.top() + 20 + (len(strings) - 1 - string + 0.5) * step
            painter.setPen(QPen(palette.color("ink2"), 1.5))
            if note.rang is None:
                painter.setBrush(Qt.BrushStyle.BDiagPattern)
            elif string in note.rang:
                painter.setBrush(palette.color("ink"))
            else:
                painter.setBrush(palette.color("panel"))
            painter.drawEllipse(QPointF(x, y), radius, radius)
        painter.setPen(palette.color("ink"))
        painter.setFont(sans(13))
        bottom = rect.top() + 24 + len(strings) * step
        painter.drawText(QRectF(x - 0.5 * wide, bottom, wide, 18), Qt.AlignmentFlag.AlignHCenter,
                         note.name)  # fmt: skip
        if note.ring_db is not None and wide > 34:
            painter.setFont(sans(11))
            painter.setPen(palette.color("ink2"))
            painter.drawText(QRectF(x - 0.5 * wide, bottom + 18, wide, 15),
                             Qt.AlignmentFlag.AlignHCenter, f"{note.ring_db:.0f} dB")  # fmt: skip
