"""Evenness as a picture: a column for each note; loudness, lateness, length, vibrato."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from jigwright.ui.theme import Palette, sans
from jigwright.wording.catalogue import tr, with_comma


@dataclass(frozen=True, slots=True, kw_only=True)
class NoteColumn:
    """One note.

    Parameters
    ----------
    name : str
    level_db : float or None
        Re the middle of the take.
    late_ms : float or None
        Against the pulse of the take, + late.
    held : float or None
        Sounding share of the written length.
    vibrato_cents, vibrato_hz : float or None
    weak : bool
    lifted : bool
        A gap after it is wanted.
    """

    name: str
    level_db: float | None
    late_ms: float | None
    held: float | None
    vibrato_cents: float | None
    vibrato_hz: float | None
    weak: bool
    lifted: bool


def paint_shape_time(
    painter: QPainter,
    rect: QRectF,
    columns: Sequence[NoteColumn],
    palette: Palette,
    *,
    selected: int | None = None,
) -> None:
    """Draw four lanes over the notes of a take."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if not columns:
        return
    left = rect.left() + 150.0
    wide = min(64.0, (rect.right() - left - 12.0) / len(columns))
    lanes: tuple[tuple[str, str, float | None, Callable[[NoteColumn], float | None]], ...] = (
        (tr("loudness"), tr("dB re the middle"), 12.0, lambda c: c.level_db),
        (tr("late or early"), tr("ms, up is late"), 120.0, lambda c: c.late_ms),
        (tr("held"), tr("share of the written length"), None, lambda c: c.held),
        (tr("vibrato"), tr("width in cents"), None, lambda c: c.vibrato_cents),
    )
    height = (rect.height() - 34.0) / len(lanes)
    if selected is not None and selected < len(columns):
        painter.fillRect(
            QRectF(left + selected * wide, rect.top(), wide, rect.height() - 8),
            palette.color("band"),
        )
    for k, (name, unit, reach, value) in enumerate(lanes):
        area = QRectF(left, rect.top() + k * height, wide * len(columns), height - 14)
        _lane(painter, area, name, unit, reach, [value(c) for c in columns], columns, palette,
              rect.left(), wide)  # fmt: skip
    painter.setFont(sans(12))
    painter.setPen(palette.color("ink2"))
    for i, column in enumerate(columns):
        if wide > 24 or i % 2 == 0:
            painter.drawText(QRectF(left + i * wide, rect.bottom() - 26, wide, 16),
                             Qt.AlignmentFlag.AlignHCenter, column.name)  # fmt: skip


def _lane(
    painter: QPainter,
    area: QRectF,
    name: str,
    unit: str,
    reach: float | None,
    values: Sequence[float | None],
    columns: Sequence[NoteColumn],
    palette: Palette,
    at: float,
    wide: float,
) -> None:
    painter.setFont(sans(14, bold=True))
    painter.setPen(palette.color("ink"))
    painter.drawText(QRectF(at, area.top() + 6, 140, 20), Qt.AlignmentFlag.AlignLeft, name)
    painter.setFont(sans(12))
    painter.setPen(palette.color("ink2"))
    painter.drawText(QRectF(at, area.top() + 26, 142, 34),
                     Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap, unit)  # fmt: skip
    known = [v for v in values if v is not None]
    both = reach is not None
    limit = reach or 1.0
    top = reach or max([1.2 * v for v in known], default=1.0) or 1.0
    if both and known:
        top = max(0.25 * limit, min(limit, 1.15 * max(abs(v) for v in known)))
    base = area.center().y() if both else area.bottom()
    scale = (0.5 if both else 1.0) * area.height() / top
    painter.setPen(QPen(palette.color("line"), 1))
    painter.drawLine(QPointF(area.left(), base), QPointF(area.right(), base))
    if name == tr("held"):
        painter.setPen(QPen(palette.color("line"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(area.left(), base - scale), QPointF(area.right(), base - scale))
    for i, v in enumerate(values):
        x = area.left() + (i + 0.5) * wide
        if v is None:
            painter.setPen(QPen(palette.color("line"), 1.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(x, base), 2.5, 2.5)
            continue
        clipped = max(-top, min(top, v))
        stands_out = columns[i].weak and both and name == tr("loudness")
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette.color("accent" if stands_out else "ink2"))
        bar = QRectF(x - min(9.0, 0.32 * wide), base - max(clipped, 0.0) * scale,
                     min(18.0, 0.64 * wide), max(1.5, abs(clipped) * scale))  # fmt: skip
        painter.drawRect(bar)
    painter.setFont(sans(11))
    painter.setPen(palette.color("ink2"))
    painter.drawText(QRectF(area.left() - 46, area.top() - 2, 40, 14), Qt.AlignmentFlag.AlignRight,
                     f"{top:.0f}" if top >= 3 else with_comma(f"{top:.1f}"))  # fmt: skip
