"""Small pictures of what the figures mean: schematic curves, drawn, never recorded."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jigwright.core.values import Floats
from jigwright.ui.theme import Palette, sans
from jigwright.wording.catalogue import tr

_N = 400
_FAULT = 0.5  # where in the right half the fault lies


def _t() -> Floats:
    return np.linspace(0.0, 1.0, _N)


def _pitch_curves() -> dict[str, Callable[[Floats], tuple[Floats, Floats]]]:
    """As it should be and as it should not be, -1 … 1, over one note."""
    flat = np.zeros(_N)
    return {
        "cents": lambda _t: (flat, flat - 0.62),
        "arrival": lambda t: (flat, -0.8 * np.exp(-t / 0.12)),
        "vibrato": lambda t: (
            0.3 * np.sin(2 * np.pi * 6 * t) * np.clip(t / 0.2, 0, 1),
            0.45 * np.sin(2 * np.pi * (4 * t + 4 * t * t)) * (0.4 + 0.6 * np.sin(5 * t) ** 2),
        ),
    }


def _level_curves() -> dict[str, Callable[[Floats], tuple[Floats, Floats]]]:
    """Level 0 … 1 over one note or one change."""

    def whole(t: Floats) -> Floats:
        return np.asarray(np.clip(t / 0.04, 0, 1) * np.clip((1 - t) / 0.05, 0, 1))

    def dip(t: Floats, depth: float, width: float) -> Floats:
        return np.asarray(1.0 - depth * np.exp(-(((t - _FAULT) / width) ** 2)))

    return {
        "loudness": lambda t: (0.3 + 0.6 * t, 0.55 + 0.35 * np.sin(2 * np.pi * 1.3 * t)),
        "shake": lambda t: (0.75 * whole(t), whole(t) * (0.72 + 0.16 * np.sin(2 * np.pi * 9 * t))),
        "bounce": lambda t: (0.75 * whole(t), 0.75 * whole(t) * dip(t, 0.93, 0.012)),
        "change": lambda t: (0.75 * dip(t, 0.25, 0.02), 0.75 * dip(t, 0.9, 0.05)),
        "start": lambda t: (
            0.75 * np.clip(t / 0.05, 0, 1),
            0.75 * np.clip((t - 0.22) / 0.12, 0, 1) + 0.12 * (t < 0.26) * np.abs(np.sin(190 * t)),
        ),
        "tone": lambda t: (
            0.75 * whole(t),
            0.75 * whole(t) + 0.12 * np.sin(997 * t) * (np.abs(t - _FAULT) < 0.16),
        ),
        "ring": lambda t: (
            np.where(t < 0.4, 0.75, 0.4 * np.exp(-(t - 0.4) / 0.3)),
            np.where(t < 0.4, 0.75, 0.75 * np.exp(-(t - 0.4) / 0.03)),
        ),
        "beats": lambda t: (
            0.6 + 0.0 * t,
            0.6 * np.abs(np.cos(2 * np.pi * 3 * t)) + 0.08,
        ),
    }


def paint_topic(painter: QPainter, rect: QRectF, topic: str, palette: Palette) -> None:
    """Draw what a figure means: on the left as it should be, on the right as it should not be."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillRect(rect, palette.color("paper"))
    wide = 0.5 * (rect.width() - 18)
    pitch, level = _pitch_curves(), _level_curves()
    for k, name in enumerate((tr("as it should be"), tr("as it should not be"))):
        area = QRectF(rect.left() + k * (wide + 18), rect.top(), wide, rect.height())
        inner = area.adjusted(14, 14, -14, -34)
        if topic in pitch:
            _pitch(painter, inner, pitch[topic](_t())[k], palette, fault=k == 1)
        elif topic in level:
            _level(painter, inner, level[topic](_t())[k], palette, fault=k == 1)
        else:
            _columns(painter, inner, palette, fault=k == 1)
        painter.setFont(sans(13))
        painter.setPen(palette.color("ink2"))
        low = QRectF(area.left(), area.bottom() - 28, area.width(), 20)
        painter.drawText(low, Qt.AlignmentFlag.AlignCenter, name)


def _pitch(
    painter: QPainter, rect: QRectF, curve: Floats, palette: Palette, *, fault: bool
) -> None:
    middle, half = rect.center().y(), 0.5 * rect.height()
    band = QRectF(rect.left(), middle - 0.22 * half, rect.width(), 0.44 * half)
    painter.fillRect(band, palette.color("band"))
    painter.setPen(QPen(palette.color("line"), 1))
    painter.drawLine(QPointF(rect.left(), middle), QPointF(rect.right(), middle))
    x = np.linspace(rect.left(), rect.right(), _N)
    points = [QPointF(float(a), float(middle - half * v)) for a, v in zip(x, curve, strict=True)]
    painter.setPen(QPen(palette.color("low" if fault else "ink"), 2.2))
    painter.drawPolyline(QPolygonF(points))


def _level(
    painter: QPainter, rect: QRectF, curve: Floats, palette: Palette, *, fault: bool
) -> None:
    middle = rect.center().y()
    half = 0.5 * rect.height() * np.clip(curve, 0.0, 1.0)
    x = np.linspace(rect.left(), rect.right(), _N)
    top = [QPointF(float(a), float(middle - h)) for a, h in zip(x, half, strict=True)]
    low = [QPointF(float(a), float(middle + h)) for a, h in zip(x, half, strict=True)]
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("accent" if fault else "ink2"))
    painter.drawPolygon(QPolygonF(top + low[::-1]))


def _columns(painter: QPainter, rect: QRectF, palette: Palette, *, fault: bool) -> None:
    """Evenness: columns on a pulse; one weak and one late."""
    painter.setPen(Qt.PenStyle.NoPen)
    step = rect.width() / 8
    for i in range(8):
        late = 0.28 * step if fault and i == 5 else 0.0
        tall = (0.28 if fault and i == 2 else 0.8) * rect.height()
        painter.setBrush(palette.color("accent" if fault and i in (2, 5) else "ink2"))
        painter.drawRect(
            QRectF(rect.left() + i * step + 0.25 * step + late, rect.bottom() - tall,
                   0.5 * step, tall)
        )  # fmt: skip
