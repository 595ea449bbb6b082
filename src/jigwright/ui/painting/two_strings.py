"""The two-string ladder: rails, rungs at pure, Pythagorean and equal, the played note a bead."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import isfinite, pi, sin

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jigwright.ui.theme import Palette, sans
from jigwright.wording.catalogue import tr

_REACH_CENTS = 35.0
_FINE = 12  # points from window to window
_RIPPLE_PX, _FULL_RIPPLE_HZ = 4.0, 1.5


@dataclass(frozen=True, slots=True, kw_only=True)
class IntervalLadder:
    """One double stop.

    Parameters
    ----------
    lower, upper : str
    interval_cents : float
        Wide (+) or narrow (−) of pure.
    uncertainty_cents : float
    rungs : tuple of (str, float)
        Names and places of equal and Pythagorean re pure.
    beats_hz, balance_db : float
        NaN when unknown.
    mover : str
    way : tuple of (float, float)
        Seconds from the onset, and how wide of pure it was then.
    beats : tuple of float
        Beats a second at the same moments; empty where no partials meet.
    """

    lower: str
    upper: str
    interval_cents: float
    uncertainty_cents: float
    rungs: tuple[tuple[str, float], ...]
    beats_hz: float
    balance_db: float
    mover: str
    way: tuple[tuple[float, float], ...] = ()
    beats: tuple[float, ...] = ()


def ladder_at(rect: QRectF, ladders: Sequence[IntervalLadder | None], place: QPointF) -> int | None:
    """Which stop lies at a place of the picture; ``None``: none does."""
    shown = [i for i, x in enumerate(ladders) if x is not None]
    if not shown or not rect.contains(place):
        return None
    left, wide = _columns(rect, len(shown))
    k = int((place.x() - left) // wide)
    return shown[k] if 0 <= k < len(shown) else None


def _columns(rect: QRectF, n: int) -> tuple[float, float]:
    left = rect.left() + 120.0
    return left, min(120.0, (rect.right() - left - 10) / n)


def paint_ladders(
    painter: QPainter,
    rect: QRectF,
    ladders: Sequence[IntervalLadder | None],
    palette: Palette,
    *,
    selected: int | None = None,
) -> None:
    """Draw one ladder for every double stop, left to right; height is width of the interval."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    shown = [(i, x) for i, x in enumerate(ladders) if x is not None]
    if not shown:
        return
    left, wide = _columns(rect, len(shown))
    middle = rect.top() + 0.45 * rect.height()
    scale = 0.36 * rect.height() / _REACH_CENTS
    painter.setFont(sans(12))
    for cents in (-20, -10, 0, 10, 20):
        y = middle - cents * scale
        painter.setPen(QPen(palette.color("ink2" if cents == 0 else "line"), 1))
        painter.drawLine(QPointF(left, y), QPointF(left + wide * len(shown), y))
        painter.setPen(palette.color("ink2"))
        text = tr("pure") if cents == 0 else f"{'+' if cents > 0 else '−'}{abs(cents)} c"
        painter.drawText(QRectF(rect.left(), y - 10, 108, 20),
                         Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                         text)  # fmt: skip
    for k, (i, ladder) in enumerate(shown):
        cell = QRectF(left + k * wide, rect.top(), wide, rect.height())
        if i == selected:
            painter.fillRect(cell.adjusted(2, 4, -2, -4), palette.color("band"))
        _ladder(painter, cell, ladder, middle, scale, palette)


def _ladder(
    painter: QPainter,
    cell: QRectF,
    ladder: IntervalLadder,
    middle: float,
    scale: float,
    palette: Palette,
) -> None:
    x0, x1 = cell.left() + 0.22 * cell.width(), cell.right() - 0.22 * cell.width()
    top, bottom = cell.top() + 26, cell.bottom() - 96
    heavy = ladder.balance_db if isfinite(ladder.balance_db) else 0.0
    painter.setPen(QPen(palette.color("ink2"), max(1.0, min(7.0, 3.0 - 0.35 * heavy))))
    painter.drawLine(QPointF(x0, top), QPointF(x0, bottom))
    painter.setPen(QPen(palette.color("ink2"), max(1.0, min(7.0, 3.0 + 0.35 * heavy))))
    painter.drawLine(QPointF(x1, top), QPointF(x1, bottom))
    painter.setFont(sans(11))
    for name, place in ladder.rungs:
        y = middle - max(-_REACH_CENTS, min(_REACH_CENTS, place)) * scale
        painter.setPen(QPen(palette.color("ink2"), 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(x0, y), QPointF(x1, y))
        if painter.fontMetrics().horizontalAdvance(name) < x1 - x0 - 4:
            painter.drawText(QRectF(x0 + 4, y - 14, x1 - x0 - 8, 13),
                             Qt.AlignmentFlag.AlignHCenter, name)  # fmt: skip
    cents = max(-_REACH_CENTS, min(_REACH_CENTS, ladder.interval_cents))
    y = middle - cents * scale
    _way(painter, (x0, x1), ladder, middle, scale, palette)
    whisker = ladder.uncertainty_cents * scale
    painter.setPen(QPen(palette.color("ink"), 1.2))
    painter.drawLine(QPointF(x1, y - whisker), QPointF(x1, y + whisker))
    out = abs(ladder.interval_cents) > 3.0 + ladder.uncertainty_cents
    painter.setPen(Qt.PenStyle.NoPen)
    name = ("high" if ladder.interval_cents > 0 else "low") if out else "ink"
    painter.setBrush(palette.color(name))
    painter.drawEllipse(QPointF(x1, y), 7, 7)
    painter.setPen(palette.color("ink"))
    painter.setFont(sans(13, bold=True))
    painter.drawText(QRectF(cell.left(), bottom + 6, cell.width(), 18),
                     Qt.AlignmentFlag.AlignHCenter, f"{ladder.lower} {ladder.upper}")  # fmt: skip
    painter.setFont(sans(12))
    painter.setPen(palette.color("ink2"))
    whole = round(ladder.interval_cents)
    lines = [f"{'+' if whole > 0 else '−' if whole < 0 else ''}{abs(whole)} c"]
    if isfinite(ladder.beats_hz):
        lines.append(tr("{n} beats").format(n=f"{ladder.beats_hz:.1f}"))
    if isfinite(ladder.balance_db):
        db = round(ladder.balance_db)
        lines.append(f"{'+' if db > 0 else '−' if db < 0 else ''}{abs(db)} dB")
    for k, text in enumerate(lines):
        painter.drawText(QRectF(cell.left(), bottom + 26 + 17 * k, cell.width(), 16),
                         Qt.AlignmentFlag.AlignHCenter, text)  # fmt: skip


def _way(
    painter: QPainter,
    rails: tuple[float, float],
    ladder: IntervalLadder,
    middle: float,
    scale: float,
    palette: Palette,
) -> None:
    """How the two came together, left to right: a line that ripples as often as they beat."""
    x0, x1 = rails
    if len(ladder.way) < 2:
        return
    first, last = ladder.way[0][0], ladder.way[-1][0]
    points: list[QPointF] = []
    turns = 0.0
    beats = ladder.beats or (0.0,) * len(ladder.way)
    for (a, b), (f, g) in zip(pairwise(ladder.way), pairwise(beats), strict=True):
        for j in range(_FINE):
            u = j / _FINE
            now = f + (g - f) * u
            turns += now * (b[0] - a[0]) / _FINE
            at_s, cents = a[0] + (b[0] - a[0]) * u, a[1] + (b[1] - a[1]) * u
            cents = max(-_REACH_CENTS, min(_REACH_CENTS, cents))
            ripple = _RIPPLE_PX * min(1.0, now / _FULL_RIPPLE_HZ) * sin(2 * pi * turns)
            x = x0 + (x1 - x0) * (at_s - first) / (last - first)
            points.append(QPointF(x, middle - cents * scale + ripple))
    painter.setPen(QPen(palette.color("ink2"), 1.2))
    painter.drawPolyline(QPolygonF(points))
