"""Where a wanted harmonic is touched: the strings from nut to bridge, its places on them."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from jigwright.core.jig.harmonic_ways import HarmonicWay
from jigwright.core.music.pitch import Pitch
from jigwright.ui.theme import Palette, sans
from jigwright.wording.catalogue import tr
from jigwright.wording.notes import pitch_name

_LEFT, _RIGHT, _TOP, _BOTTOM = 70.0, 24.0, 18.0, 26.0
_NEAR_PX = 14.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Neck:
    """Strings on a rectangle.

    Parameters
    ----------
    rect : QRectF
    n_strings : int
    length_mm : float
    """

    rect: QRectF
    n_strings: int
    length_mm: float

    def point(self, i_string: int, mm: float) -> QPointF:
        """Where a place of a string lies; the highest string is the topmost."""
        inner = self.rect.adjusted(_LEFT, _TOP, -_RIGHT, -_BOTTOM)
        step = inner.height() / max(1, self.n_strings - 1)
        y = inner.bottom() - i_string * step
        return QPointF(inner.left() + inner.width() * mm / self.length_mm, y)

    def way_at(self, ways: Sequence[HarmonicWay], place: QPointF) -> int | None:
        """The way whose touched place is under a point."""
        near = [
            (abs(p.x() - place.x()) + abs(p.y() - place.y()), k)
            for k, w in enumerate(ways)
            for p in (self.point(w.i_string, w.touched_mm),)
            if abs(p.x() - place.x()) <= _NEAR_PX and abs(p.y() - place.y()) <= _NEAR_PX
        ]
        return min(near)[1] if near else None


def paint_harmonic_strings(
    painter: QPainter, neck: Neck, strings: Sequence[Pitch], ways: Sequence[HarmonicWay],
    chosen: Collection[int], palette: Palette,
) -> None:  # fmt: skip
    """Draw the strings, a ring where a finger touches, a dot where one stops.

    Two that are chosen are joined. Rings of partials that fold easily are thin, those that hardly
    do are strong.
    """
    paint_strings(painter, neck, strings, palette)
    both = [neck.point(ways[k].i_string, ways[k].touched_mm) for k in sorted(chosen)]
    if len(both) == 2:
        painter.setPen(QPen(palette.color("accent"), 1.6))
        painter.drawLine(both[0], both[1])
    for k, way in enumerate(ways):
        _way(painter, neck, way, palette, chosen=k in chosen)


def paint_strings(
    painter: QPainter, neck: Neck, strings: Sequence[Pitch], palette: Palette
) -> None:
    """Draw the strings with their names, nut, bridge and middle."""
    for i, string in enumerate(strings):
        a, b = neck.point(i, 0.0), neck.point(i, neck.length_mm)
        painter.setPen(QPen(palette.color("ink2"), 1.0 + 0.35 * (len(strings) - i)))
        painter.drawLine(a, b)
        painter.setPen(palette.color("ink"))
        painter.setFont(sans(14, bold=True))
        name = QRectF(neck.rect.left(), a.y() - 12, _LEFT - 10, 24)
        painter.drawText(
            name, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, pitch_name(string)
        )
    _ends(painter, neck, palette)


def _ends(painter: QPainter, neck: Neck, palette: Palette) -> None:
    """Nut, bridge and the middle of the strings."""
    painter.setFont(sans(12))
    for mm, text in (
        (0.0, tr("nut")), (0.5 * neck.length_mm, tr("middle")), (neck.length_mm, tr("bridge")),
    ):  # fmt: skip
        top, foot = neck.point(neck.n_strings - 1, mm), neck.point(0, mm)
        painter.setPen(QPen(palette.color("line"), 3 if mm in (0.0, neck.length_mm) else 1))
        painter.drawLine(top, foot)
        painter.setPen(palette.color("ink2"))
        below = QRectF(foot.x() - 50, foot.y() + 10, 100, 16)
        painter.drawText(below, Qt.AlignmentFlag.AlignHCenter, text)


def _way(
    painter: QPainter, neck: Neck, way: HarmonicWay, palette: Palette, *, chosen: bool
) -> None:
    touched = neck.point(way.i_string, way.touched_mm)
    ink = palette.color("accent" if chosen else "ink")
    if way.stopped is not None:
        stopped = neck.point(way.i_string, way.stopped_mm)
        painter.setPen(QPen(ink, 1.4, Qt.PenStyle.DotLine))
        painter.drawLine(stopped, touched)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        painter.drawEllipse(stopped, 5, 5)
    width = {"hardly": 3.2, "sometimes": 2.0, "easily": 1.1}[way.folding]
    painter.setPen(QPen(ink, width))
    painter.setBrush(palette.color("paper"))
    painter.drawEllipse(touched, 8, 8)
    painter.setFont(sans(11, bold=chosen))
    painter.setPen(ink)
    painter.drawText(
        QRectF(touched.x() - 20, touched.y() - 9, 40, 18), Qt.AlignmentFlag.AlignCenter,
        str(way.partial),
    )  # fmt: skip
