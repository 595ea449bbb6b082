"""Parts of the Stand's picture: text that fits, the live trace, the string check, the foot."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF

from jigwright.core.judge.long_bow import LongBow
from jigwright.core.judge.open_strings import StringFound
from jigwright.core.music.pitch import A4_MIDI, Pitch
from jigwright.core.sound.heard import Now, RingNow
from jigwright.services.recording import CaptureState
from jigwright.ui.painting.ring_map import fullness, tail
from jigwright.ui.painting.rows import TurnBar
from jigwright.ui.theme import Palette, sans, serif
from jigwright.wording.catalogue import tr
from jigwright.wording.notes import class_name, letter_name, string_name
from jigwright.wording.verdicts import PairFigures, string_line

_QUIET, _LOUD = 0.004, 0.98
_REACH_CENTS = 60.0
_TURN_CENTS = 40.0
_TRACE_S = 4.0
_RING_FALL, _RING_PX, _RING_UP_PX = 1.0 / 3.0, 9.0, 14.0
_ROOM_AFTER_S = 1.0
_STILL_HZ, _FULL_BEATS_HZ, _MOST_BEATS = 0.5, 3.0, 16.0


def fitted_text(
    painter: QPainter, rect: QRectF, text: str, palette: Palette, *, px: float,
    old_style: bool = False, ink: str = "ink",
    align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft, bold: bool = False,
) -> None:  # fmt: skip
    """Write one line, smaller when it would not fit, never below 20 px."""
    px = fitted_px((text,), rect.width(), px, old_style=old_style, bold=bold)
    painter.setFont(serif(px) if old_style else sans(px, bold=bold))
    painter.setPen(palette.color(ink))
    painter.drawText(rect, align | Qt.AlignmentFlag.AlignVCenter, text)


def fitted_px(
    texts: Iterable[str], width: float, px: float, *, old_style: bool = False, bold: bool = False
) -> float:
    """The size at which each of the lines fits: ``px`` or smaller, but hardly below 20."""
    texts = tuple(texts)
    while px > 20:
        metrics = QFontMetricsF(serif(px) if old_style else sans(px, bold=bold))
        if all(metrics.horizontalAdvance(text) <= width for text in texts):
            break
        px *= 0.92
    return px


def paint_live_trace(
    painter: QPainter, rect: QRectF, trace: Iterable[Now], now_s: float, a4_hz: float, fifths: int,
    palette: Palette,
) -> None:  # fmt: skip
    """The newest seconds of pitch about the note they are nearest to, and its name."""
    frames = [f for f in trace if math.isfinite(f.f0_hz)]
    if len(frames) < 2:
        return
    centre = round(A4_MIDI + 12 * math.log2(frames[-1].f0_hz / a4_hz))
    middle = rect.center().y()
    painter.setPen(QPen(palette.color("line"), 1))
    painter.drawLine(QPointF(rect.left(), middle), QPointF(rect.right(), middle))
    painter.setPen(QPen(palette.color("ink2"), 3))
    points: list[QPointF] = []
    for frame in frames:
        cents = 100 * (A4_MIDI + 12 * math.log2(frame.f0_hz / a4_hz) - centre)
        if abs(cents) > _REACH_CENTS:
            if len(points) > 1:
                painter.drawPolyline(QPolygonF(points))
            points = []
            continue
        x = rect.right() - (now_s - frame.time_s) / _TRACE_S * rect.width()
        points.append(QPointF(x, middle - cents / _REACH_CENTS * 0.5 * rect.height()))
    if len(points) > 1:
        painter.drawPolyline(QPolygonF(points))
    name = class_name(Pitch.from_midi(centre, fifths=fifths))
    fitted_text(painter, QRectF(rect.right() + 16, middle - 40, 120, 80), name, palette, px=64,
                ink="ink2")  # fmt: skip


def paint_live_ring(
    painter: QPainter, rect: QRectF, ring: RingNow, now_s: float, strings: Sequence[Pitch],
    palette: Palette,
) -> None:  # fmt: skip
    """The tail of the string that was woken, under the trace from where its note ended."""
    if not 0 <= ring.string < len(strings):
        return
    left = rect.right() - (now_s - ring.since_s) / _TRACE_S * rect.width()
    fall_s = _RING_FALL * ring.decay_s
    right = min(rect.right(), left + fall_s / _TRACE_S * rect.width())
    if right <= rect.left():
        return
    y = rect.bottom() - _RING_UP_PX
    half = max(2.0, _RING_PX * fullness(ring.level_db))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("accent"))
    painter.drawPolygon(tail(max(left, rect.left()), right, y, half))
    name = string_name(strings[ring.string])
    box = QRectF(rect.right() + 16, y - 18, 0.16 * rect.width(), 36)
    fitted_text(painter, box, name, palette, px=24, ink="ink2")


def paint_live_pair(
    painter: QPainter, rect: QRectF, figures: PairFigures, palette: Palette
) -> None:
    """Two strings while they sound: names, balance as two ribbons, beats as a row of waves."""
    centre = Qt.AlignmentFlag.AlignHCenter
    top = QRectF(rect.left(), rect.top(), rect.width(), 0.42 * rect.height())
    fitted_text(painter, top, figures.names, palette, px=54, old_style=True, align=centre)
    words = QRectF(rect.left(), rect.bottom() - 40, rect.width(), 40)
    fitted_text(painter, words, figures.line, palette, px=26, ink="ink2", align=centre)
    middle = 0.5 * (top.bottom() + words.top())
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("ink2"))
    tilt = 0.0 if figures.balance_db is None else max(-12.0, min(12.0, figures.balance_db)) / 12.0
    for sign in (-1.0, 1.0):
        thick = 6.0 + 5.0 * sign * tilt
        y = middle - 9.0 * sign
        left = rect.center().x() - 0.3 * rect.width()
        painter.drawRect(QRectF(left, y - 0.5 * thick, 0.6 * rect.width(), thick))
    if figures.beats_hz >= _STILL_HZ:
        _beats(painter, QRectF(left, middle - 30.0, 0.6 * rect.width(), 60.0), figures, palette)


def _beats(painter: QPainter, rect: QRectF, figures: PairFigures, palette: Palette) -> None:
    """A wave for every beat of a second, over both strings; flatter as they come together."""
    high = min(1.0, figures.beats_hz / _FULL_BEATS_HZ) * 0.5 * rect.height()
    turns = min(_MOST_BEATS, figures.beats_hz)
    n = 240
    points = [
        QPointF(
            rect.left() + rect.width() * k / n,
            rect.center().y() - high * math.sin(2 * math.pi * turns * k / n),
        )
        for k in range(n + 1)
    ]
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(palette.color("accent"), 2.2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(QPolygonF(points))


def paint_strings(
    painter: QPainter, inner: QRectF, strings: Sequence[Pitch], heard: Sequence[StringFound],
    word: str, line_text: str, palette: Palette,
) -> None:  # fmt: skip
    """Every string with where it stands, the word and the line below."""
    title = QRectF(inner.left(), inner.top(), inner.width(), 36)
    fitted_text(painter, title, tr("Strings first"), palette, px=28, old_style=True)
    found = {f.string: f for f in heard}
    step = (0.46 * inner.height()) / max(1, len(strings))
    top = inner.top() + 56
    for k, string in enumerate(reversed(strings)):
        y = top + k * step
        line = QRectF(inner.left() + 150, y, inner.width() - 640, step)
        middle = line.center().y()
        painter.setPen(QPen(palette.color("line"), 2 + 2 * k / len(strings)))
        painter.drawLine(QPointF(line.left(), middle), QPointF(line.right(), middle))
        fitted_text(painter, QRectF(inner.left(), y, 140, step), letter_name(string), palette,
                    px=40, old_style=True)  # fmt: skip
        one = found.get(string)
        if one is None:
            continue
        x = line.center().x() + max(-50.0, min(50.0, one.cents)) / 50.0 * 0.5 * line.width()
        inside = abs(one.cents) <= 2.0 + one.uncertainty_cents
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette.color("ink" if inside else "low" if one.cents < 0 else "high"))
        lift = 0.0 if inside else 8.0 if one.cents < 0 else -8.0
        painter.drawEllipse(QPointF(x, middle + lift), 9, 9)
        fitted_text(painter, QRectF(line.right() + 24, y, 440, step), string_line(one), palette,
                    px=26, ink="ink2")  # fmt: skip
    words = QRectF(inner.left(), top + 0.48 * inner.height(), inner.width(), 110)
    centre = Qt.AlignmentFlag.AlignHCenter
    fitted_text(painter, words, word, palette, px=64, old_style=True, align=centre)
    below = QRectF(inner.left(), words.bottom(), inner.width(), 40)
    fitted_text(painter, below, line_text, palette, px=28, ink="ink2", align=centre)


def paint_long_bow(painter: QPainter, rect: QRectF, bow: LongBow, palette: Palette) -> None:
    """The running stroke, or the last one, against the best; wavers are gaps in the ribbon."""
    best = bow.best
    last = bow.strokes[-1] if bow.strokes else None
    seconds = bow.seconds if bow.running else last.seconds if last else 0.0
    wavers = bow.wavers_s if bow.running else last.wavers_s if last else ()
    full = max(20.0, seconds * 1.05, best.seconds * 1.05 if best else 0.0)
    per_s = rect.width() / full
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("band"))
    painter.drawRoundedRect(rect, 6, 6)
    painter.setBrush(palette.color("ink2"))
    edges = [0.0, *wavers, seconds]
    for a, b in zip(edges, edges[1:], strict=False):
        if b - a > 0.1:
            left = rect.left() + (a + (0.05 if a else 0.0)) * per_s
            wide = (b - a - 0.1) * per_s
            painter.drawRect(QRectF(left, rect.top() + 5, wide, rect.height() - 10))
    if best is not None:
        x = rect.left() + best.seconds * per_s
        painter.setPen(QPen(palette.color("accent"), 3))
        painter.drawLine(QPointF(x, rect.top() - 8), QPointF(x, rect.bottom() + 8))
    painter.setPen(palette.color("ink2"))
    for at in range(0, int(full) + 1, 5):
        place = QRectF(rect.left() + at * per_s - 30, rect.bottom() + 12, 60, 30)
        fitted_text(painter, place, f"{at}", palette, px=22, ink="ink2",
                    align=Qt.AlignmentFlag.AlignHCenter)  # fmt: skip


def paint_turns(
    painter: QPainter,
    rect: QRectF,
    rows: tuple[Sequence[TurnBar], Sequence[TurnBar]],
    palette: Palette,
) -> None:
    """Model and player, one above the other: when each note sounded and where it lay."""
    step = 0.5 * rect.height()
    line = QRectF(rect.left() + 120, rect.top(), rect.width() - 120, rect.height())
    for k, (name, bars) in enumerate(zip((tr("model"), tr("you")), rows, strict=True)):
        middle = rect.top() + (k + 0.5) * step
        fitted_text(painter, QRectF(rect.left(), middle - 18, 110, 36), name, palette, px=24,
                    ink="ink2")  # fmt: skip
        painter.setPen(QPen(palette.color("line"), 1))
        painter.drawLine(QPointF(line.left(), middle), QPointF(line.right(), middle))
        painter.setPen(Qt.PenStyle.NoPen)
        for bar in bars:
            if bar.cents is None:
                continue
            off = max(-_TURN_CENTS, min(_TURN_CENTS, bar.cents))
            ink = "ink" if abs(off) <= 10.0 else "low" if off < 0 else "high"
            painter.setBrush(palette.color(ink))
            left = line.left() + bar.start * line.width()
            wide = max(3.0, (bar.stop - bar.start) * line.width() - 3.0)
            y = middle - off / _TURN_CENTS * 0.36 * step
            painter.drawRect(QRectF(left, y - 4, wide, 8))


def paint_foot(
    painter: QPainter,
    rect: QRectF,
    level: CaptureState | None,
    playing: bool,
    words: str,
    palette: Palette,
    *,
    keys: str,
) -> None:
    """Whether one is heard, and the keys; ``level`` is ``None`` while nothing is recorded."""
    painter.setPen(QPen(palette.color("line"), 1))
    painter.drawLine(rect.topLeft(), rect.topRight())
    state = tr("Not listening")
    if level is not None:
        state = tr("Playing") if playing else tr("Listening")
    fitted_text(painter, QRectF(rect.left(), rect.top() + 6, 420, 34), state, palette, px=28,
                bold=True)  # fmt: skip
    bar = QRectF(rect.left(), rect.top() + 46, 420, 10)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("band"))
    painter.drawRoundedRect(bar, 5, 5)
    if level is not None:
        if level.peak > 0:
            share = min(1.0, max(0.0, 1.0 + 20 * math.log10(max(level.peak, 1e-5)) / 60.0))
            painter.setBrush(palette.color("high" if level.peak >= _LOUD else "ink2"))
            filled = QRectF(bar.left(), bar.top(), bar.width() * share, bar.height())
            painter.drawRoundedRect(filled, 5, 5)
        beside = QRectF(bar.right() + 18, bar.top() - 14, rect.right() - bar.right() - 18, 34)
        fitted_text(painter, beside, words, palette, px=24, ink="ink2")
    fitted_text(painter, QRectF(rect.right() - 700, rect.top() + 6, 700, 34), keys, palette, px=23,
                ink="ink2", align=Qt.AlignmentFlag.AlignRight)  # fmt: skip
