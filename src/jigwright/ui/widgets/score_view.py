"""A jig's notation on as many lines as it needs; notes can be chosen from … to."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QByteArray, QEvent, QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import QScrollArea, QWidget

from jigwright.core.jig.model import Jig
from jigwright.services.engraving import engrave_request
from jigwright.services.notation import INK, Engraved, HeadBox
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import Palette
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence

_MARGIN = 14
_SCALE = 44
_LEAST_PX = 150
_RESIZE_MS = 40
_FARTHEST_STEPS = 18


class _Page(QWidget):
    """The sheet inside the scroll area."""

    def __init__(self, owner: ScoreView) -> None:
        super().__init__()
        self._owner = owner

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw the notation and what is chosen."""
        painter = QPainter(self)
        self._owner.paint(painter, QRectF(self.rect()))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """Choose the note under the pointer; with Shift up to it."""
        if event is not None:
            extend = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._owner.press(event.position(), extend=extend)


class ScoreView(QScrollArea):
    """Shows one jig.

    Signals
    -------
    chosen
        The chosen span changed.
    message : str
    """

    chosen = pyqtSignal()
    message = pyqtSignal(str)
    # Qt sends events while the widget is being made
    _edit_key: Callable[[QKeyEvent], bool] | None = None
    _edit_place: Callable[[int, int], None] | None = None

    def __init__(self, jobs: JobRunner, palette: Palette) -> None:
        super().__init__()
        self._jobs, self._palette = jobs, palette
        self._jig: Jig | None = None
        self._engraved: Engraved | None = None
        self._svg: QSvgRenderer | None = None
        self._i_event: dict[str, int] = {}
        self._span: tuple[int, int] | None = None
        self._engraved_width = 0
        self._page = _Page(self)
        self.setWidget(self._page)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Score of the jig"))
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self._engrave)

    @property
    def span(self) -> tuple[int, int] | None:
        """First and last chosen event."""
        return self._span

    @property
    def engraved(self) -> Engraved | None:
        """What is shown, for tests and printing."""
        return self._engraved

    def let_edit(
        self,
        key: Callable[[QKeyEvent], bool] | None,
        place: Callable[[int, int], None] | None = None,
    ) -> None:
        """Hand keys, and presses on empty places of the staff, to an editor; ``None`` ends it.

        ``key`` says whether it took a key; ``place`` is given the event before the place (-1 for
        none) and the line or space as a diatonic number.
        """
        self._edit_key, self._edit_place = key, place

    def show_jig(self, jig: Jig | None, span: tuple[int, int] | None = None) -> None:
        """Show another jig, with a span of it chosen."""
        self._jig = jig
        self._span = span
        self._i_event = {h.id: i for i, e in enumerate(jig.events) for h in e.heads} if jig else {}
        if jig is not None and self.viewport_width() == self._engraved_width:
            self._engrave()  # the worker begins while the rest of the window is brought up to date
        else:
            self._soon.start(0)
        self.chosen.emit()

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self._load()

    def close_down(self) -> None:
        """Stop waiting work."""
        self._soon.stop()

    def choose(self, first: int, last: int) -> None:
        """Choose a span of events."""
        self._span = (min(first, last), max(first, last))
        self.chosen.emit()
        self._page.update()

    def press(self, at: QPointF, *, extend: bool) -> None:
        """A press on the sheet."""
        self.setFocus()
        head = self._head_at(at, exact=self._edit_place is not None)
        if head is None and self._edit_place is not None:
            wanted = self._place_at(at)
            if wanted is not None:
                self._edit_place(*wanted)
            return
        if head is None:
            self._span = None
            self.chosen.emit()
            self._page.update()
            return
        i = self._i_event[head.note_id]
        if extend and self._span is not None:
            self.choose(min(i, self._span[0]), max(i, self._span[1]))
        else:
            self.choose(i, i)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Arrows move what is chosen; with Shift they stretch it. An editor is asked first."""
        if event is None or self._jig is None:
            return
        if self._edit_key is not None and self._edit_key(event):
            return
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        last = len(self._jig.events) - 1
        first, stop = self._span or (-1 if step > 0 else last + 1,) * 2
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and self._span is not None:
            self.choose(first, min(last, max(first, stop + step)))
        else:
            at = min(last, max(0, (stop if step > 0 else first) + step))
            self.choose(at, at)

    def event(self, event: QEvent | None) -> bool:
        """While editing, plain keys and taking back belong to the notes, not to the window."""
        if (
            self._edit_key is not None
            and isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
        ):
            plain = not event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier
            if (plain and event.text().strip()) or event.matches(QKeySequence.StandardKey.Undo):
                event.accept()
                return True
        return super().event(event)

    def paint(self, painter: QPainter, rect: QRectF) -> None:
        """Draw the sheet."""
        painter.fillRect(rect, self._palette.color("paper"))
        if self._engraved is None or self._svg is None:
            return
        scale = self._factor()
        if self._span is not None:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._palette.color("accent", 46))
            for head in self._engraved.heads:
                if self._span[0] <= self._i_event.get(head.note_id, -1) <= self._span[1]:
                    x, y = _MARGIN + head.x * scale, _MARGIN + head.y * scale
                    painter.drawRoundedRect(
                        QRectF(x - 7, y - 24, head.width * scale + 14, 48), 5, 5
                    )
        size = (self._engraved.width * scale, self._engraved.height * scale)
        self._svg.render(painter, QRectF(_MARGIN, _MARGIN, *size))

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802
        """Break lines anew for the width."""
        super().resizeEvent(event)
        if self.viewport_width() != self._engraved_width:
            self._soon.start(_RESIZE_MS)

    def sizeHint(self) -> QSize:  # noqa: N802
        """A few lines."""
        return QSize(600, 240)

    def _factor(self) -> float:
        assert self._engraved is not None
        return min(1.0, (self._page.width() - 2 * _MARGIN) / max(self._engraved.width, 1.0))

    def _head_at(self, at: QPointF, *, exact: bool = False) -> HeadBox | None:
        """The head under a point; ``exact`` leaves the staff above and below it free."""
        if self._engraved is None:
            return None
        scale = self._factor()
        x, y = (at.x() - _MARGIN) / scale, (at.y() - _MARGIN) / scale
        wide, high = (10.0, 5.0) if exact else (16.0, 44.0)
        near = [
            (abs(h.x + 0.5 * h.width - x) + 0.4 * abs(h.y - y), k)
            for k, h in enumerate(self._engraved.heads)
            if abs(h.x + 0.5 * h.width - x) < wide and abs(h.y - y) < high
        ]
        return self._engraved.heads[min(near)[1]] if near else None

    def _place_at(self, at: QPointF) -> tuple[int, int] | None:
        """The event before a point and the line or space there, read off the nearest head."""
        if self._engraved is None or self._jig is None or not self._engraved.heads:
            return None
        scale = self._factor()
        x, y = (at.x() - _MARGIN) / scale, (at.y() - _MARGIN) / scale
        heads = self._engraved.heads
        row_y = min(heads, key=lambda h: abs(h.y - y)).y
        reach = 1.6 * (self._engraved.staff_bottom - self._engraved.staff_top)
        row = [h for h in heads if abs(h.y - row_y) < reach]
        nearest = min(row, key=lambda h: abs(h.x - x))
        i = self._i_event[nearest.note_id]
        pitch = next(h.pitch for h in self._jig.events[i].heads if h.id == nearest.note_id)
        half_space = (self._engraved.staff_bottom - self._engraved.staff_top) / 8.0
        steps = round((nearest.y - y) / half_space)
        if abs(steps) > _FARTHEST_STEPS:
            return None
        left = [self._i_event[h.note_id] for h in row if h.x + 0.5 * h.width < x]
        first = min(self._i_event[h.note_id] for h in row)
        return (max(left) if left else first - 1), pitch.diatonic + steps

    def _engrave(self) -> None:
        if self._jig is None:
            self._engraved = self._svg = None
            self._page.update()
            return
        self._engraved_width = self.viewport_width()
        width = float(max(300, self._engraved_width - 2 * _MARGIN))
        request = engrave_request(self._jig, scale=_SCALE, target_width=width, wrap=True)
        self._jobs.run(
            "engrave", request, done=self._done,
            failed=lambda e: self.message.emit(error_sentence(e)), key=f"score-{id(self)}",
        )  # fmt: skip

    def viewport_width(self) -> int:
        """Pixels that the sheet may take."""
        viewport = self.viewport()
        return viewport.width() if viewport is not None else self.width()

    def _done(self, engraved: Engraved) -> None:
        self._engraved = engraved
        self._load()
        height = round(engraved.height * self._factor()) + 2 * _MARGIN
        self._page.setMinimumHeight(height)
        self.setMinimumHeight(min(_LEAST_PX, height))
        self.setMaximumHeight(max(120, height))

    def _load(self) -> None:
        if self._engraved is not None:
            svg = self._engraved.svg.replace(INK, self._palette.ink)
            self._svg = QSvgRenderer(QByteArray(svg.encode()))
        self._page.update()
