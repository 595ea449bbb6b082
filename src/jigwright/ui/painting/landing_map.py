"""The landing map: the fingerboard in true millimetres, targets and landings."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from jigwright.core.judge.landings import Landing, Spot
from jigwright.core.music.pitch import Pitch
from jigwright.ui.theme import Palette, sans
from jigwright.wording.notes import class_name, finger_name, letter_name


@dataclass(frozen=True, slots=True, kw_only=True)
class LandingPicture:
    """What the map shows.

    Parameters
    ----------
    strings : tuple of Pitch
        Low to high.
    landings : tuple of Landing
    spots : tuple of Spot
    selected : int or None
        Key number of the selected note, drawn in full ink.
    """

    strings: tuple[Pitch, ...]
    landings: tuple[Landing, ...]
    spots: tuple[Spot, ...]
    selected: int | None = None


def paint_landing_map(
    painter: QPainter, rect: QRectF, data: LandingPicture, palette: Palette
) -> None:
    """Draw the map, the nut at left; the scale is one for all strings."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if not data.strings:
        return
    reach = max((s.target_mm for s in data.spots), default=120.0) * 1.12 + 12.0
    left, right = rect.left() + 56.0, rect.right() - 26.0
    top, bottom = rect.top() + 30.0, rect.bottom() - 56.0
    px_per_mm = (right - left) / reach
    n = len(data.strings)
    step = (bottom - top) / n

    def y_of(string: int) -> float:
        return top + (n - 1 - string + 0.5) * step

    board = QPolygonF(
        [QPointF(left, top + 8), QPointF(right, top - 2), QPointF(right, bottom + 2),
         QPointF(left, bottom - 8)]
    )  # fmt: skip
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("band"))
    painter.drawPolygon(board)
    painter.setPen(QPen(palette.color("ink"), 4))
    painter.drawLine(QPointF(left, top + 2), QPointF(left, bottom - 2))
    for i, string in enumerate(data.strings):
        y = y_of(i)
        painter.setPen(QPen(palette.color("ink2"), 2.6 - 1.6 * i / max(1, n - 1)))
        painter.drawLine(QPointF(left, y), QPointF(right, y))
        painter.setFont(sans(15, bold=True))
        painter.setPen(palette.color("ink"))
        painter.drawText(QRectF(rect.left(), y - 12, 42, 24),
                         Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                         letter_name(string))  # fmt: skip
    _dots(painter, data, palette, left, px_per_mm, y_of)
    for spot in data.spots:
        _spot(painter, spot, data, palette, left, px_per_mm, y_of, step)
    _scale(painter, data, palette, left, px_per_mm, bottom)


def _ink(spot: Spot, palette: Palette) -> QColor:
    if not spot.claimed:
        return palette.color("ink2")
    return palette.color("low" if spot.bias_mm < 0 else "high")


def _dots(
    painter: QPainter,
    data: LandingPicture,
    palette: Palette,
    left: float,
    px_per_mm: float,
    y_of: Callable[[int], float],
) -> None:
    claimed = {(s.string, s.finger, s.pitch.midi): s for s in data.spots}
    painter.setPen(Qt.PenStyle.NoPen)
    for one in data.landings:
        spot = claimed[(one.string, one.finger, one.pitch.midi)]
        color = _ink(spot, palette)
        color.setAlpha(120)
        painter.setBrush(color)
        x = left + (one.target_mm + one.off_mm) * px_per_mm
        # takes lie a little beside each other so that none hides another
        y = y_of(one.string) + ((one.take * 7) % 11 - 5) * 1.3
        painter.drawEllipse(QPointF(x, y), 3.2, 3.2)


def _spot(
    painter: QPainter,
    spot: Spot,
    data: LandingPicture,
    palette: Palette,
    left: float,
    px_per_mm: float,
    y_of: Callable[[int], float],
    step: float,
) -> None:
    x, y = left + spot.target_mm * px_per_mm, y_of(spot.string)
    half = min(22.0, 0.32 * step)
    chosen = data.selected == spot.pitch.midi
    painter.setPen(QPen(palette.color("accent" if chosen else "ink"), 2.4 if chosen else 1.4))
    painter.drawLine(QPointF(x, y - half), QPointF(x, y + half))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(_ink(spot, palette))
    a, b = left + (spot.target_mm + spot.low_mm) * px_per_mm, (spot.high_mm - spot.low_mm)
    painter.drawRect(QRectF(a, y + half - 1, max(3.0, b * px_per_mm), 4.0))
    painter.setFont(sans(12))
    painter.setPen(palette.color("ink2"))
    painter.drawText(QRectF(x - 30, y - half - 18, 60, 16), Qt.AlignmentFlag.AlignHCenter,
                     class_name(spot.pitch))  # fmt: skip


def _scale(
    painter: QPainter,
    data: LandingPicture,
    palette: Palette,
    left: float,
    px_per_mm: float,
    bottom: float,
) -> None:
    """Millimetres and fingers under the board, where there is room."""
    taken: list[float] = []
    painter.setFont(sans(12))
    seen: Sequence[Spot] = sorted(data.spots, key=lambda s: -s.n)
    for spot in seen:
        x = left + spot.target_mm * px_per_mm
        if any(abs(x - t) < 74 for t in taken):
            continue
        taken.append(x)
        painter.setPen(palette.color("ink2"))
        painter.drawText(QRectF(x - 50, bottom + 8, 100, 16), Qt.AlignmentFlag.AlignHCenter,
                         f"{spot.target_mm:.0f} mm")  # fmt: skip
        painter.setPen(palette.color("ink"))
        painter.drawText(QRectF(x - 50, bottom + 25, 100, 16), Qt.AlignmentFlag.AlignHCenter,
                         finger_name(spot.finger))  # fmt: skip
