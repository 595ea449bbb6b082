"""The score with its lanes: one canvas, every column under its note."""

from __future__ import annotations

from PyQt6.QtCore import QByteArray, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import QSizePolicy, QWidget

from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.playing import Playing
from jigwright.services.notation import Engraved, coloured
from jigwright.ui.painting.bow_lane import paint_bow_lane
from jigwright.ui.painting.lanes import (
    PitchScale,
    level_range,
    paint_level_lane,
    paint_pitch_lane,
    pitch_span,
    tick_steps,
)
from jigwright.ui.painting.ring_lane import paint_ring_lane
from jigwright.ui.painting.ring_map import RingNote
from jigwright.ui.painting.talk import paint_talks
from jigwright.ui.painting.xmap import XMap, by_note, by_time
from jigwright.ui.theme import Palette, sans
from jigwright.ui.viewmodels.desk.desk_model import DeskModel
from jigwright.ui.viewmodels.desk.ringing import ring_notes
from jigwright.ui.widgets.canvas import Canvas
from jigwright.wording.catalogue import tr, with_comma
from jigwright.wording.notes import cents_text, class_name

GUTTER = 62.0
TILE_PX = 1024
_NAMES_PX = 22.0
_MIN_PITCH_PX, _MIN_LEVEL_PX, _BOW_PX, _RING_PX = 110.0, 60.0, 30.0, 32.0


class TakeView(Canvas):
    """Draws the shown take; scrolls sideways.

    Signals
    -------
    play_requested
        A column was double-clicked.
    zoom_changed
        Another width of the engraving is wanted (by note).
    """

    play_requested = pyqtSignal()
    zoom_changed = pyqtSignal()

    def __init__(self, model: DeskModel, palette: Palette, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self._palette = palette
        self._engraved: Engraved | None = None
        self._renderer: QSvgRenderer | None = None
        self._tiles: dict[int, QPixmap] = {}
        self._by_time = False
        self.zoom = 1.0
        self._px_per_s = 60.0
        self._playhead_s: float | None = None
        self._rung: tuple[Judged, tuple[RingNote, ...]] | None = None
        self._xmap = XMap(columns=(), width=0.0, by_time=False)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(tr("Score and lanes of the take"))
        model.judged_changed.connect(self._rebuild)
        model.selection_changed.connect(self._selection_moved)

    # state --------------------------------------------------------------------------------

    @property
    def xmap(self) -> XMap:
        """The map in use."""
        return self._xmap

    @property
    def by_time(self) -> bool:
        """Whether seconds, not notes, run along the page."""
        return self._by_time or self._engraved is None

    def set_by_time(self, on: bool) -> None:
        """Choose the form of the page."""
        self._by_time = on
        self._rebuild()

    def set_engraved(self, engraved: Engraved | None) -> None:
        """Show another engraving."""
        self._engraved = engraved
        self._rebuild()

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self._recolour()
        self.page.update()

    def set_playhead(self, time_s: float | None) -> None:
        """Show where the sound is."""
        if time_s != self._playhead_s:
            self._playhead_s = time_s
            self.page.update()

    def wanted_width(self) -> float:
        """Width an engraving should have to fill the page."""
        return max(200.0, (self.page.width() - GUTTER - 14) * self.zoom)

    def zoom_by(self, factor: float) -> None:
        """Zoom in or out about the middle of the view."""
        if self.by_time:
            middle = self._xmap.time_at(self._scroll() + 0.5 * self.page.width() - GUTTER)
            self._px_per_s = min(2000.0, max(self._fit_px_per_s(), self._px_per_s * factor))
            self._rebuild()
            x = self._xmap.x_at(middle) - 0.5 * self.page.width() + GUTTER
            self.across.setValue(round(x))
        else:
            self.zoom = min(6.0, max(1.0, self.zoom * factor))
            self.zoom_changed.emit()

    def _fit_px_per_s(self) -> float:
        duration = self._model.heard.duration_s if self._model.heard else 10.0
        return max(4.0, (self.page.width() - GUTTER - 14) / max(duration, 0.5))

    def _rebuild(self) -> None:
        model = self._model
        spans = [
            (r.onset_s, r.offset_s) if r.onset_s is not None and r.offset_s is not None else None
            for r in model.rows
        ]
        if self.by_time:
            duration = model.heard.duration_s if model.heard else 0.0
            self._px_per_s = max(self._px_per_s, self._fit_px_per_s())
            self._xmap = by_time(spans, duration, self._px_per_s)
        else:
            assert self._engraved is not None
            heads = [(h.note_id, h.x + 0.5 * h.width) for h in self._engraved.heads]
            notes = model.judged.notes if model.judged else ()
            ids = [n.measured.lined.note_id for n in notes]
            self._xmap = by_note(list(zip(ids, spans, strict=True)), heads, self._engraved.width)
        self._recolour()
        self._update_scroll()
        self.page.update()

    def _recolour(self) -> None:
        self._tiles.clear()
        if self._engraved is None:
            self._renderer = None
            return
        p = self._palette
        svg = coloured(self._engraved.svg, ink=p.ink, faint=p.faint)
        judged = self._model.judged
        for row, n in zip(self._model.rows, judged.notes if judged else (), strict=True):
            note_id = n.measured.lined.note_id
            if n.standing in ("low", "high") and note_id is not None and row.last_attempt:
                element = "h-n-" + "".join(c if c.isalnum() or c in "._-" else "_" for c in note_id)
                color = p.low if n.standing == "low" else p.high
                svg = svg.replace(f'id="{element}"', f'id="{element}" fill="{color}"', 1)
        self._renderer = QSvgRenderer(QByteArray(svg.encode()))

    def _update_scroll(self) -> None:
        page = self.page.width() - GUTTER
        bar = self.across
        bar.setRange(0, max(0, round(self._xmap.width - page)))
        bar.setPageStep(max(1, round(page)))
        bar.setSingleStep(40)

    def _scroll(self) -> float:
        return float(self.across.value())

    def _selection_moved(self) -> None:
        selected = self._model.selected
        if selected is not None and selected < len(self._xmap.columns):
            c = self._xmap.columns[selected]
            page = self.page.width() - GUTTER
            if c.x0 < self._scroll() + 10:
                self.across.setValue(round(c.x0 - 0.3 * page))
            elif c.x1 > self._scroll() + page - 10:
                self.across.setValue(round(c.x1 - 0.7 * page))
        self.page.update()

    # places -------------------------------------------------------------------------------

    def lane_rects(self) -> tuple[QRectF, QRectF, QRectF, QRectF, QRectF, QRectF]:
        """Score, names, pitch, bow, ring and loudness areas in the viewport."""
        width, height = float(self.page.width()), float(self.page.height())
        score_h = 0.0
        if not self.by_time and self._engraved is not None:
            score_h = min(self._engraved.height + 8, 0.42 * height)
        top = 8.0
        score = QRectF(0, top, width, score_h)
        names = QRectF(0, score.bottom() + 2, width, _NAMES_PX)
        bow_h = _BOW_PX if self._bowed() is not None else 0.0
        ring_h = _RING_PX if self._rings() else 0.0
        rest = height - names.bottom() - 10 - bow_h - ring_h
        level_h = max(_MIN_LEVEL_PX, min(150.0, 0.3 * rest))
        pitch = QRectF(0, names.bottom() + 6, width, max(_MIN_PITCH_PX, rest - level_h - 12))
        bow = QRectF(0, pitch.bottom() + 4, width, bow_h)
        ring = QRectF(0, bow.bottom() + 3, width, ring_h)
        level = QRectF(0, ring.bottom() + 8, width, level_h)
        return score, names, pitch, bow, ring, level

    def _rings(self) -> tuple[RingNote, ...]:
        """What rang after the notes, where of any of them it can be told."""
        judged = self._model.judged
        if judged is None:
            return ()
        if self._rung is None or self._rung[0] is not judged:
            notes = ring_notes(judged, self._model.context())
            told = any(s.state != "unknown" for n in notes for s in n.strings)
            self._rung = judged, notes if told else ()
        return self._rung[1]

    def _bowed(self) -> Playing | None:
        """What is known of the bow, where strokes were heard."""
        judged = self._model.judged
        playing = judged.playing if judged is not None else None
        return playing if playing is not None and playing.strokes else None

    # painting -----------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw what is visible."""
        painter = QPainter(self.page)
        self.paint(painter)
        painter.end()

    def paint(self, painter: QPainter, _rect: QRectF | None = None, *, drawn: bool = False) -> None:
        """Draw what is visible anywhere: the widget, an image or a vector picture.

        ``drawn`` draws the score anew instead of from the tiles that scroll.
        """
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        p = self._palette
        painter.fillRect(self.page.rect(), p.color("paper"))
        if self._model.take is None:
            return
        score, names, pitch, bow, ring, level = self.lane_rects()
        painter.save()
        painter.translate(GUTTER - self._scroll(), 0)
        view = QRectF(self._scroll(), 0, self.page.width() - GUTTER, self.page.height())
        painter.setClipRect(view)
        self._paint_selection(painter, view)
        if score.height() > 0:
            self._paint_score(painter, score, view, drawn=drawn)
        self._paint_names(painter, names, view)
        self._paint_lanes(painter, pitch, level, view)
        self._paint_bow(painter, bow, view)
        self._paint_ring(painter, ring, view)
        if self._playhead_s is not None:
            x = self._xmap.x_at(self._playhead_s)
            painter.setPen(QPen(p.color("accent"), 1.5))
            painter.drawLine(QPointF(x, score.top()), QPointF(x, level.bottom()))
        painter.restore()
        self._paint_gutter(painter, pitch, bow, ring, level)

    def _paint_selection(self, painter: QPainter, view: QRectF) -> None:
        span = self._model.span_rows()
        if span is None or not self._xmap.columns:
            return
        first, last = self._xmap.columns[span[0]], self._xmap.columns[span[1]]
        area = QRectF(first.x0, 0, last.x1 - first.x0, view.height())
        painter.fillRect(area, self._palette.color("accent", 22))
        if self.hasFocus():
            painter.setPen(QPen(self._palette.color("accent", 120), 1))
            painter.drawRect(area.adjusted(0.5, 1, -0.5, -1))

    def _paint_score(
        self, painter: QPainter, area: QRectF, view: QRectF, *, drawn: bool = False
    ) -> None:
        assert self._engraved is not None
        if drawn and self._renderer is not None:
            size = (self._engraved.width, self._engraved.height)
            self._renderer.render(painter, QRectF(0, area.top(), *size))
            view = QRectF()
        ratio = self.devicePixelRatioF()
        for i in range(int(view.left() // TILE_PX), int(view.right() // TILE_PX) + 1):
            if drawn or i < 0 or i * TILE_PX > self._engraved.width:
                continue
            if i not in self._tiles:
                self._tiles[i] = self._tile(i, ratio)
            painter.drawPixmap(QPointF(i * TILE_PX, area.top()), self._tiles[i])
        judged = self._model.judged
        if judged is None:
            return
        boxes = {h.note_id: h for h in self._engraved.heads}
        for row, n in zip(self._model.rows, judged.notes, strict=True):
            box = boxes.get(n.measured.lined.note_id or "")
            if box is None or not row.last_attempt:
                continue
            self._paint_mark(painter, box.x, area.top() + box.y, box.width, n.standing)

    def _tile(self, i: int, ratio: float) -> QPixmap:
        assert self._engraved is not None
        height = max(1, round(self._engraved.height * ratio))
        pixmap = QPixmap(round(TILE_PX * ratio), height)
        pixmap.setDevicePixelRatio(ratio)
        pixmap.fill(Qt.GlobalColor.transparent)
        if self._renderer is not None:
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
            whole = QRectF(-i * TILE_PX, 0, self._engraved.width, self._engraved.height)
            self._renderer.render(painter, whole)
            painter.end()
        return pixmap

    def _paint_mark(
        self, painter: QPainter, x: float, y: float, width: float, standing: str
    ) -> None:
        """Low below, high above the head; hollow where none was heard, ``?`` if none can tell."""
        p = self._palette
        if standing in ("low", "high"):
            top = y + 8 if standing == "low" else y - 12
            bar = QRectF(x - 2, top, width + 4, 4)
            painter.fillRect(bar.adjusted(-1.5, -1.5, 1.5, 1.5), p.color("paper"))
            painter.fillRect(bar, p.color(standing))
        elif standing == "missed":
            painter.setPen(QPen(p.color("ink2"), 1.4, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(x + 0.5 * width, y), width, width)
        elif standing == "uncertain":
            painter.setPen(p.color("ink2"))
            box = QRectF(x - 4, y - 26, width + 8, 16)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "?")
        elif standing == "wrong":
            painter.setPen(QPen(p.color("accent"), 1.8))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(x + 0.5 * width, y), width, width)

    def _paint_names(self, painter: QPainter, area: QRectF, view: QRectF) -> None:
        judged = self._model.judged
        if judged is None:
            return
        p = self._palette
        last_right = -1e9
        metrics = QFontMetricsF(sans(13))
        for i, n in enumerate(judged.notes):
            c = self._xmap.columns[i]
            if c.x1 < view.left() or c.x0 > view.right() or not self._model.rows[i].last_attempt:
                continue
            selected = i == self._model.selected
            extra = n.standing == "extra"
            text = class_name(n.pitch) if not extra else f"+{class_name(n.pitch)}"
            if n.measured.lined.lower is not None:
                text = f"{class_name(n.measured.lined.lower)} {text}"
            middle = 0.5 * (c.x0 + c.x1)
            half = 0.5 * metrics.horizontalAdvance(text) + 2
            if middle - half < last_right and not selected:
                continue
            last_right = middle + half
            painter.setFont(sans(13, bold=selected, italic=extra))
            painter.setPen(p.color("ink" if selected else "ink2"))
            box = QRectF(middle - 40, area.top(), 80, area.height())
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_lanes(self, painter: QPainter, pitch: QRectF, level: QRectF, view: QRectF) -> None:
        model, p = self._model, self._palette
        page = QRectF(0, 0, self._xmap.width, self.page.height())
        pitch = QRectF(0, pitch.top(), page.width(), pitch.height())
        level = QRectF(0, level.top(), page.width(), level.height())
        painter.setPen(QPen(p.color("line"), 1))
        for y in (pitch.top() - 3, level.top() - 6):
            painter.drawLine(QPointF(view.left(), y), QPointF(view.right(), y))
        if not self._xmap.by_time:
            painter.setPen(QPen(p.color("line", 140), 1))
            for c in self._xmap.columns:
                if view.left() <= c.x0 <= view.right():
                    painter.drawLine(QPointF(c.x0, pitch.top()), QPointF(c.x0, level.bottom()))
        tolerance = model.context().tolerance_cents
        paint_pitch_lane(
            painter, pitch, model.rows, self._xmap, p, tolerance=tolerance,
            span=pitch_span(model.rows, tolerance), clip=view,
        )  # fmt: skip
        if model.heard is not None:
            paint_level_lane(
                painter, level, model.rows, model.heard.contours.level_db, self._xmap, p, clip=view
            )
            lanes = QRectF(0, pitch.top(), page.width(), level.bottom() - pitch.top())
            paint_talks(painter, lanes, model.heard.talks or (), self._xmap, p, clip=view)

    def _paint_bow(self, painter: QPainter, area: QRectF, view: QRectF) -> None:
        playing = self._bowed()
        if playing is None:
            return
        area = QRectF(0, area.top(), self._xmap.width, area.height())
        paint_bow_lane(
            painter, area, playing, self._xmap, self._palette, clip=view,
            selected=self._model.selected,
        )  # fmt: skip

    def _paint_ring(self, painter: QPainter, area: QRectF, view: QRectF) -> None:
        if area.height() > 0:
            area = QRectF(0, area.top(), self._xmap.width, area.height())
            paint_ring_lane(
                painter, area, self._rings(), len(self._model.context().strings), self._xmap,
                self._palette, clip=view, selected=self._model.selected,
            )  # fmt: skip

    def _paint_gutter(
        self, painter: QPainter, pitch: QRectF, bow: QRectF, ring: QRectF, level: QRectF
    ) -> None:
        p, model = self._palette, self._model
        painter.fillRect(QRectF(0, 0, GUTTER, self.page.height()), p.color("paper"))
        tolerance = model.context().tolerance_cents
        span = pitch_span(model.rows, tolerance)
        scale = PitchScale(top=pitch.top() + 4, bottom=pitch.bottom() - 4, span=span)
        self._label(painter, pitch.top() - 2, tr("Pitch"), tr("cents"))
        if bow.height() > 0:
            self._label(painter, bow.top() + 2, tr("Bow"), "")
        if ring.height() > 0:
            self._label(painter, ring.top() + 2, tr("Ring"), "")
        self._label(painter, level.top() - 4, tr("Loudness"), "dB")
        painter.setFont(sans(12))
        painter.setPen(p.color("ink2"))
        for cents in tick_steps(span):
            box = QRectF(0, scale.y(cents) - 8, GUTTER - 6, 16)
            painter.drawText(
                box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, cents_text(cents)
            )
        box = QRectF(0, scale.y(0) - 8, GUTTER - 6, 16)
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "0")
        if model.heard is not None:
            self._paint_decibels(painter, level)
        if self._xmap.by_time:
            self._paint_seconds(painter, pitch)

    def _paint_decibels(self, painter: QPainter, level: QRectF) -> None:
        assert self._model.heard is not None
        low, high = level_range(self._model.heard.contours.level_db, self._model.rows)
        above = -1e9
        for db in (high, high - 15.0):
            y = level.bottom() - 2 - (db - low) / (high - low) * (level.height() - 6)
            y = max(y, level.top() + 34)
            if y < above + 14:
                continue  # a low lane has room for one figure
            above = y
            box = QRectF(0, y - 8, GUTTER - 6, 16)
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(box, right, cents_text(db))

    def _paint_seconds(self, painter: QPainter, pitch: QRectF) -> None:
        step = next(
            (
                s
                for s in (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300)
                if s * self._px_per_s > 60
            ),
            600,
        )
        first = int(self._xmap.time_at(self._scroll()) / step)
        t = first * step
        right = self._xmap.time_at(self._scroll() + self.page.width())
        painter.setPen(self._palette.color("ink2"))
        painter.setFont(sans(12))
        while t <= right:
            x = self._xmap.x_at(t) - self._scroll() + GUTTER
            if x >= GUTTER - 1:
                text = (
                    with_comma(f"{int(t // 60)}:{t % 60:04.1f}")
                    if step < 1
                    else f"{int(t // 60)}:{int(t % 60):02d}"
                )
                painter.drawText(QRectF(x + 3, pitch.top(), 60, 16), 0, text)
                painter.drawLine(QPointF(x, pitch.top()), QPointF(x, pitch.top() + 8))
            t += step

    def _label(self, painter: QPainter, y: float, title: str, unit: str) -> None:
        painter.setFont(sans(12, bold=True))
        painter.setPen(self._palette.color("ink"))
        left = Qt.AlignmentFlag.AlignLeft
        painter.drawText(QRectF(4, y, GUTTER, 18), left, title)
        painter.setFont(sans(12))
        painter.setPen(self._palette.color("ink2"))
        painter.drawText(QRectF(4, y + 15, GUTTER, 18), left, unit)

    # input --------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """Select the column under the pointer; Shift extends."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        x = event.position().x() - GUTTER + self._scroll()
        if event.position().x() >= GUTTER:
            extend = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._model.select(self._xmap.row_at(x), extend=extend)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """Dragging selects a span."""
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            x = event.position().x() - GUTTER + self._scroll()
            self._model.select(self._xmap.row_at(x), extend=True)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802, ARG002
        """Play the selected note."""
        self.play_requested.emit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:  # noqa: N802
        """Scroll sideways; with Ctrl zoom."""
        if event is None:
            return
        delta = event.angleDelta().y() or event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_by(1.2 if delta > 0 else 1 / 1.2)
        else:
            bar = self.across
            bar.setValue(bar.value() - delta)
        event.accept()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Arrow keys walk over the notes; Shift extends."""
        if event is None:
            return
        extend = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        match event.key():
            case Qt.Key.Key_Left:
                self._model.step_selection(-1, extend=extend)
            case Qt.Key.Key_Right:
                self._model.step_selection(1, extend=extend)
            case Qt.Key.Key_Home:
                self._model.select(0, extend=extend)
            case Qt.Key.Key_End:
                self._model.select(len(self._model.rows) - 1, extend=extend)
            case _:
                event.ignore()

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802
        """Fit the page again."""
        super().resizeEvent(event)
        self._rebuild()
        self.zoom_changed.emit()

    def sizeHint(self) -> QSize:  # noqa: N802
        """Room for a score and two lanes."""
        return QSize(720, 520)
