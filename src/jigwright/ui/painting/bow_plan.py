"""The bow plan as ribbons: each note's share of the bow from frog to tip."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from jigwright.core.jig.bow_plan import PlannedNote, PlannedStroke
from jigwright.ui.theme import Palette, sans
from jigwright.wording.catalogue import tr, with_comma

_THICK = {
    "ppp": 2.0, "pp": 3.0, "p": 5.0, "mp": 7.0, "mf": 9.0, "f": 11.0, "ff": 13.0, "fff": 15.0,
}  # fmt: skip
ROW_PX = 19.0
_TOP_PX = 3.0
_NAMES_PX, _SIDE_PX = 168.0, 74.0
_NARROW_PX = 460.0
_GRIP_PX = 7.0
Part = Literal["start", "end", "note"]


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanRow:
    """One stroke with what stands beside it.

    Parameters
    ----------
    stroke : PlannedStroke
    bar : str
        Number of its bar where it is the first of it.
    names : str
        Its notes.
    marked : bool
        Something is said about it.
    """

    stroke: PlannedStroke
    bar: str
    names: str
    marked: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Grip:
    """What a point of the picture belongs to.

    Parameters
    ----------
    row : int
    note : int
        Of the stroke.
    part : Part
        ``end`` of a note is its share, ``start`` is that of its stroke.
    """

    row: int
    note: int
    part: Part


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanGeometry:
    """Where rows and places lie in a picture of some width.

    Parameters
    ----------
    left, width : float
        Of the bow, in pixels.
    """

    left: float
    width: float

    @classmethod
    def within(cls, rect: QRectF) -> PlanGeometry:
        """For a rectangle; a narrow one leaves the names less room."""
        names = _NAMES_PX if rect.width() >= _NARROW_PX else 84.0
        width = max(60.0, rect.width() - names - _SIDE_PX)
        return cls(left=rect.left() + names, width=width)

    def x(self, place: float) -> float:
        """Pixel of a place in the bow."""
        return self.left + place * self.width

    def place(self, x: float) -> float:
        """Place in the bow of a pixel, 0 … 1."""
        return min(1.0, max(0.0, (x - self.left) / self.width))

    def y(self, row: int) -> float:
        """Middle of a row."""
        return _TOP_PX + ROW_PX * (row + 0.5)

    def grip(self, rows: Sequence[PlanRow], x: float, y: float) -> Grip | None:
        """What lies at a point: the end of a note, the start of its stroke, or a note."""
        k = int((y - _TOP_PX) // ROW_PX)
        if not 0 <= k < len(rows) or y < _TOP_PX:
            return None
        notes = rows[k].stroke.notes
        ends = [abs(x - self.x(n.end)) for n in notes]
        nearest = min(range(len(notes)), key=ends.__getitem__)
        if ends[nearest] <= _GRIP_PX:
            return Grip(row=k, note=nearest, part="end")
        if abs(x - self.x(notes[0].start)) <= _GRIP_PX:
            return Grip(row=k, note=0, part="start")
        place = (x - self.left) / self.width
        for i, note in enumerate(notes):
            if min(note.start, note.end) <= place <= max(note.start, note.end):
                return Grip(row=k, note=i, part="note")
        near = min(range(len(notes)), key=lambda i: abs(notes[i].start + notes[i].end - 2 * place))
        return Grip(row=k, note=near, part="note")


def plan_height(n_rows: int) -> float:
    """Pixels that the picture wants."""
    return _TOP_PX + ROW_PX * n_rows + 8.0 if n_rows else 0.0


def paint_ends(painter: QPainter, rect: QRectF, palette: Palette) -> None:
    """Frog and tip over a plan of the same width."""
    geometry = PlanGeometry.within(rect)
    painter.setFont(sans(12, bold=True))
    painter.setPen(palette.color("ink2"))
    for place, name in ((0.0, tr("frog")), (0.5, tr("middle")), (1.0, tr("tip"))):
        box = QRectF(geometry.x(place) - 60, rect.top(), 120, rect.height())
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)


def paint_bow_plan(
    painter: QPainter, rect: QRectF, rows: Sequence[PlanRow], palette: Palette,
    chosen: tuple[int, int] | None = None, seen: QRectF | None = None,
) -> None:  # fmt: skip
    """Draw one row for each stroke, in playing order.

    Down strokes run from the frog (left), up strokes from the tip; thickness is the marked
    loudness. Shares that were set are drawn in full, proposals lighter; a stroke about which
    something is said has the accent.

    Parameters
    ----------
    chosen : tuple of (int, int), optional
        Row and note that a frame is drawn around.
    seen : QRectF, optional
        Only rows in it are drawn; all otherwise.
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    geometry = PlanGeometry.within(rect)
    painter.setPen(QPen(palette.color("line"), 1))
    bottom = _TOP_PX + ROW_PX * len(rows) + 4
    for share in (0.0, 0.25, 0.5, 0.75, 1.0):
        painter.drawLine(QPointF(geometry.x(share), _TOP_PX - 2),
                         QPointF(geometry.x(share), bottom))  # fmt: skip
    top, low = (seen.top(), seen.bottom()) if seen is not None else (0.0, bottom)
    first = max(0, int((top - _TOP_PX) // ROW_PX) - 1)
    last = min(len(rows), int((low - _TOP_PX) // ROW_PX) + 2)
    for k in range(first, last):
        _row(painter, geometry, rows, k, palette, chosen[1] if chosen and chosen[0] == k else None)


def _row(
    painter: QPainter, geometry: PlanGeometry, rows: Sequence[PlanRow], k: int, palette: Palette,
    chosen: int | None,
) -> None:  # fmt: skip
    row, y = rows[k], geometry.y(k)
    stroke = row.stroke
    if row.bar and k:
        painter.setPen(QPen(palette.color("line"), 1))
        painter.drawLine(QPointF(geometry.left - _NAMES_PX * 0.95, y - ROW_PX / 2),
                         QPointF(geometry.x(1.0), y - ROW_PX / 2))  # fmt: skip
    _joint(painter, geometry, rows, k, palette)
    for i, note in enumerate(stroke.notes):
        colour = "accent" if row.marked else "ink2" if note.is_set or stroke.is_set else "faint"
        _ribbon(painter, geometry, note, y, palette.color(colour))
        if chosen == i:
            a, b = sorted((geometry.x(note.start), geometry.x(note.end)))
            painter.setPen(QPen(palette.color("accent"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(a - 2, y - ROW_PX / 2 + 1, b - a + 4, ROW_PX - 2), 4, 4)
    _beside(painter, geometry, row, y, palette)


def _beside(
    painter: QPainter, geometry: PlanGeometry, row: PlanRow, y: float, palette: Palette
) -> None:
    left, right = geometry.left, geometry.x(1.0)
    middle = Qt.AlignmentFlag.AlignVCenter
    painter.setPen(palette.color("ink2"))
    painter.setFont(sans(11, bold=True))
    painter.drawText(QRectF(0, y - 9, 34, 18), Qt.AlignmentFlag.AlignRight | middle, row.bar)
    painter.setFont(sans(12))
    painter.setPen(palette.color("accent" if row.marked else "ink"))
    arrow = "→" if row.stroke.direction == "down" else "←"
    names = painter.fontMetrics().elidedText(
        row.names, Qt.TextElideMode.ElideRight, round(left - 40 - 32)
    )
    painter.drawText(QRectF(40, y - 9, left - 40 - 14, 18), Qt.AlignmentFlag.AlignRight | middle,
                     f"{names} {arrow}")  # fmt: skip
    painter.setPen(palette.color("ink2"))
    painter.setFont(sans(11))
    painter.drawText(
        QRectF(right + 12, y - 9, _SIDE_PX - 14, 18), Qt.AlignmentFlag.AlignLeft | middle,
        with_comma(f"{row.stroke.seconds:.1f} s {row.stroke.notes[0].dynamic}"),
    )  # fmt: skip


def _joint(
    painter: QPainter, geometry: PlanGeometry, rows: Sequence[PlanRow], k: int, palette: Palette
) -> None:
    """How the bow gets from one stroke to the next: nothing where it goes on by itself."""
    stroke = rows[k].stroke
    if k == 0 or stroke.begins == "turned":
        return
    before = rows[k - 1].stroke
    x, was = geometry.x(stroke.notes[0].start), geometry.x(before.notes[-1].end)
    y, above = geometry.y(k), geometry.y(k - 1)
    painter.setPen(QPen(palette.color("ink2"), 1.2, Qt.PenStyle.DotLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if stroke.begins == "hooked":  # the bow stands still on the string
        painter.setPen(QPen(palette.color("ink2"), 1.6))
        painter.drawLine(QPointF(x, above + 3), QPointF(x, y - 3))
    else:  # through the air
        painter.drawLine(QPointF(was, above + 5), QPointF(x, y - 5))


def _ribbon(
    painter: QPainter, geometry: PlanGeometry, note: PlannedNote, y: float, colour: QColor
) -> None:
    half = 0.5 * _THICK[note.dynamic]
    a, b = geometry.x(note.start), geometry.x(note.end)
    step = 1.0 if b >= a else -1.0
    inset = min(1.5, 0.2 * abs(b - a)) * step
    shape = QPolygonF(
        [
            QPointF(a + inset, y - half), QPointF(b - 3 * inset, y - half), QPointF(b - inset, y),
            QPointF(b - 3 * inset, y + half), QPointF(a + inset, y + half),
        ]
    )  # fmt: skip
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawPolygon(shape)
