"""The ring map: which notes could wake which open string, and how much of it each won."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import isfinite

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jigwright.core.gauge.values import RingState
from jigwright.ui.theme import Palette, sans

_TAIL_PX_PER_S = 12.0
_LEAST_SHARE = 0.45  # the smallest circle: next to nothing was to be had
_FAINT_DB, _LOUD_DB = -52.0, -18.0


@dataclass(frozen=True, slots=True, kw_only=True)
class RingString:
    """One string under one note.

    Parameters
    ----------
    string : int
        0 = lowest.
    state : RingState
    share_db : float
        What the note's place left of the full ring.
    level_db, decay_s : float or None
        Where it rang.
    to_be_had : bool
        Whether the note wakes it where it belongs.
    """

    string: int
    state: RingState
    share_db: float = 0.0
    level_db: float | None = None
    decay_s: float | None = None
    to_be_had: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class RingNote:
    """One note of the take.

    Parameters
    ----------
    name : str
    strings : tuple of RingString
        Those it could wake.
    offset_s : float or None
        Where it ended; ``None``: it was not heard.
    """

    name: str
    strings: tuple[RingString, ...]
    offset_s: float | None = None


def fullness(level_db: float | None) -> float:
    """How much of a picture a ring fills, 0 … 1."""
    if level_db is None or not isfinite(level_db):
        return 0.0
    return min(1.0, max(0.08, (level_db - _FAINT_DB) / (_LOUD_DB - _FAINT_DB)))


def size(share_db: float) -> float:
    """Size of a circle, of the largest: what was to be had from where the note lay."""
    return _LEAST_SHARE + (1.0 - _LEAST_SHARE) * min(1.0, max(0.0, 1.0 + share_db / 20.0))


def tail(left: float, right: float, y: float, half: float) -> QPolygonF:
    """A ring that dies away: thick where it begins, pointed where it ends."""
    return QPolygonF([QPointF(left, y - half), QPointF(right, y), QPointF(left, y + half)])


def paint_ring_map(
    painter: QPainter,
    rect: QRectF,
    strings: Sequence[str],
    notes: Sequence[RingNote],
    palette: Palette,
    *,
    selected: int | None = None,
) -> None:
    """Draw strings as rows and notes as columns.

    A circle is as large as the ring that was to be had and as full as the one that was won; its
    tail is as long as that rang. A hatched one cannot be told.
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
        for one in note.strings:
            y = rect.top() + 20 + (len(strings) - 1 - one.string + 0.5) * step
            _circle(painter, QPointF(x, y), radius * size(one.share_db), one, palette)
        bottom = rect.top() + 24 + len(strings) * step
        _names(painter, note, QRectF(x - 0.5 * wide, bottom, wide, 18), palette)


def _circle(
    painter: QPainter, at: QPointF, radius: float, one: RingString, palette: Palette
) -> None:
    box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
    painter.setPen(QPen(palette.color("ink2"), 1.5))
    painter.setBrush(palette.color("panel"))
    painter.drawEllipse(box)
    if one.state == "unknown":
        painter.setBrush(Qt.BrushStyle.BDiagPattern)
        painter.drawEllipse(box)
        return
    if one.state == "silent":
        return
    painter.save()
    painter.setClipRect(box.adjusted(-2, (1.0 - fullness(one.level_db)) * 2 * radius, 2, 2))
    painter.setBrush(palette.color("ink"))
    painter.drawEllipse(box)
    painter.restore()
    if one.decay_s is not None:
        painter.setPen(QPen(palette.color("ink"), 2.0))
        end = at.x() + radius + _TAIL_PX_PER_S * one.decay_s
        painter.drawLine(QPointF(at.x() + radius, at.y()), QPointF(end, at.y()))


def _names(painter: QPainter, note: RingNote, box: QRectF, palette: Palette) -> None:
    painter.setPen(palette.color("ink"))
    painter.setFont(sans(13))
    painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, note.name)
    rang = [s.level_db for s in note.strings if s.level_db is not None]
    if rang and box.width() > 34:
        painter.setFont(sans(11))
        painter.setPen(palette.color("ink2"))
        painter.drawText(box.translated(0, 18), Qt.AlignmentFlag.AlignHCenter,
                         f"{max(rang):.0f} dB")  # fmt: skip
