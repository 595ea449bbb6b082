"""The notes of the strings where they are stopped, from nut to bridge, to be asked for."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from jigwright.core.music.pitch import Pitch
from jigwright.core.music.tables import DistanceRow
from jigwright.ui.painting.harmonic_string import Neck, paint_strings
from jigwright.ui.theme import Palette, sans
from jigwright.wording.notes import letter_name

_DOT_PX, _NEAR_PX = 4.0, 16.0
_LEAST_APART_PX = 22.0  # letters nearer than that would touch


def note_at(
    neck: Neck, rows: Sequence[Sequence[DistanceRow]], place: QPointF
) -> tuple[int, int] | None:
    """String and row under a point.

    Parameters
    ----------
    neck : Neck
    rows : sequence of sequence of DistanceRow
        Of each string, low to high.
    place : QPointF
    """
    near = [
        (abs(p.x() - place.x()), i, k)
        for i, of_string in enumerate(rows)
        for k, row in enumerate(of_string)
        for p in (neck.point(i, row.from_nut_mm),)
        if abs(p.x() - place.x()) <= _NEAR_PX and abs(p.y() - place.y()) <= _NEAR_PX
    ]
    if not near:
        return None
    _, i, k = min(near)
    return i, k


def paint_neck(
    painter: QPainter, neck: Neck, strings: Sequence[Pitch],
    rows: Sequence[Sequence[DistanceRow]], chosen: tuple[int, int] | None, palette: Palette,
) -> None:  # fmt: skip
    """Draw the strings with their notes: letters where there is room, dots for the others.

    Parameters
    ----------
    painter : QPainter
    neck : Neck
    strings : sequence of Pitch
        Low to high.
    rows : sequence of sequence of DistanceRow
        Of each string.
    chosen : (int, int) or None
        String and row of the one that is told.
    palette : Palette
    """
    paint_strings(painter, neck, strings, palette)
    for i, of_string in enumerate(rows):
        last = neck.point(i, 0.0).x()
        for k, row in enumerate(of_string):
            at = neck.point(i, row.from_nut_mm)
            is_chosen = (i, k) == chosen
            plain = row.pitch.alter == 0 and at.x() - last >= _LEAST_APART_PX
            _note(painter, at, row.pitch, palette, chosen=is_chosen, named=plain or is_chosen)
            if plain:
                last = at.x()


def _note(
    painter: QPainter, at: QPointF, pitch: Pitch, palette: Palette, *, chosen: bool, named: bool
) -> None:
    ink = palette.color("accent" if chosen else "ink" if named else "ink2")
    if not named:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        painter.drawEllipse(at, _DOT_PX / 2, _DOT_PX / 2)
        return
    painter.setPen(QPen(ink, 2.4 if chosen else 1.2))
    painter.setBrush(palette.color("paper"))
    painter.drawEllipse(at, 10, 10)
    painter.setFont(sans(12, bold=chosen))
    painter.setPen(ink)
    painter.drawText(
        QRectF(at.x() - 20, at.y() - 9, 40, 18), Qt.AlignmentFlag.AlignCenter,
        letter_name(pitch.pitch_class),
    )  # fmt: skip
