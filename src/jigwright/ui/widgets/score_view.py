"""A jig's notation on as many lines as it needs; notes can be chosen from … to."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QScrollArea, QWidget

from jigwright.core.jig.clefs import BOTTOM_LINES
from jigwright.core.jig.model import Jig
from jigwright.core.music.instruments import instrument
from jigwright.services.engraving import bars_in_sight, engrave_request
from jigwright.services.notation import Engraved, HeadBox, Sheet, SheetRequest
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import Palette
from jigwright.ui.widgets.sheets import Sheets
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence

_MARGIN = 14
_SCALE = 44
_LEAST_PX = 150
_RESIZE_MS = 40
_SHEET_PX = 250.0
_LEDGER_STEPS = 7  # above and below an empty staff
_FARTHEST_STEPS = 18


class _Page(QWidget):
    """The sheet inside the scroll area."""

    def __init__(self, owner: ScoreView) -> None:
        super().__init__()
        self._owner = owner

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802
        """Draw the notation and what is chosen."""
        painter = QPainter(self)
        self._owner.paint(painter, QRectF(event.rect() if event is not None else self.rect()))
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
        self._sheets = Sheets(palette.ink, palette.faint)
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
        return self._sheets.whole

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
        self._sheets.set_ink(palette.ink, palette.faint)
        self._page.update()

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
        """Draw what is in sight of the sheets."""
        painter.fillRect(rect, self._palette.color("paper"))
        scale = self._factor()
        if self._span is not None:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._palette.color("accent", 46))
            for head in self._sheets.heads():
                if self._span[0] <= self._i_event.get(head.note_id, -1) <= self._span[1]:
                    x, y = _MARGIN + head.x * scale, _MARGIN + head.y * scale
                    painter.drawRoundedRect(
                        QRectF(x - 7, y - 24, head.width * scale + 14, 48), 5, 5
                    )
        self._sheets.paint(painter, _MARGIN, _MARGIN, scale, rect)

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802
        """Break lines anew for the width."""
        super().resizeEvent(event)
        if self.viewport_width() != self._engraved_width:
            self._soon.start(_RESIZE_MS)

    def sizeHint(self) -> QSize:  # noqa: N802
        """A few lines."""
        return QSize(600, 240)

    def _factor(self) -> float:
        return min(1.0, (self._page.width() - 2 * _MARGIN) / max(self._sheets.width, 1.0))

    def _head_at(self, at: QPointF, *, exact: bool = False) -> HeadBox | None:
        """The head under a point; ``exact`` leaves the staff above and below it free."""
        scale = self._factor()
        x, y = (at.x() - _MARGIN) / scale, (at.y() - _MARGIN) / scale
        heads = self._sheets.heads()
        wide, high = (10.0, 5.0) if exact else (16.0, 44.0)
        near = [
            (abs(h.x + 0.5 * h.width - x) + 0.4 * abs(h.y - y), k)
            for k, h in enumerate(heads)
            if abs(h.x + 0.5 * h.width - x) < wide and abs(h.y - y) < high
        ]
        return heads[min(near)[1]] if near else None

    def _place_at(self, at: QPointF) -> tuple[int, int] | None:
        """The event before a point and the line or space there, read off the nearest head."""
        drawn = self._sheets.whole
        if drawn is None or self._jig is None:
            return None
        scale = self._factor()
        x, y = (at.x() - _MARGIN) / scale, (at.y() - _MARGIN) / scale
        if not drawn.heads:
            return self._place_on_empty_staff(y, drawn.staff_top, drawn.staff_bottom)
        heads = drawn.heads
        row_y = min(heads, key=lambda h: abs(h.y - y)).y
        reach = 1.6 * (drawn.staff_bottom - drawn.staff_top)
        row = [h for h in heads if abs(h.y - row_y) < reach]
        nearest = min(row, key=lambda h: abs(h.x - x))
        i = self._i_event[nearest.note_id]
        pitch = next(h.pitch for h in self._jig.events[i].heads if h.id == nearest.note_id)
        half_space = (drawn.staff_bottom - drawn.staff_top) / 8.0
        steps = round((nearest.y - y) / half_space)
        if abs(steps) > _FARTHEST_STEPS:
            return None
        left = [self._i_event[h.note_id] for h in row if h.x + 0.5 * h.width < x]
        first = min(self._i_event[h.note_id] for h in row)
        return (max(left) if left else first - 1), pitch.diatonic + steps

    def _place_on_empty_staff(self, y: float, top: float, bottom: float) -> tuple[int, int] | None:
        """The line or space at a height, by the clef alone."""
        assert self._jig is not None
        inst = instrument(self._jig.instrument_id)
        steps = round((bottom - y) / ((bottom - top) / 8.0)) if bottom > top else _FARTHEST_STEPS
        if not -_LEDGER_STEPS <= steps <= 8 + _LEDGER_STEPS:
            return None
        lowest = BOTTOM_LINES[inst.clef_sign].diatonic - 7 * inst.written_octaves_up
        return -1, lowest + steps

    def _engrave(self) -> None:
        self._sheets.begin()
        if self._jig is None:
            self._sheets.clear()
            self._page.update()
            return
        self._engraved_width = self.viewport_width()
        width = float(max(300, self._engraved_width - 2 * _MARGIN))
        seen = (self._scrolled() + 0.5 * self.height() - _MARGIN) / self._factor()
        index = self._sheets.at(seen)
        jig = self._jig

        def request(bars: tuple[int, int] | None) -> SheetRequest:
            engrave = engrave_request(jig, scale=_SCALE, target_width=width, wrap=True, bars=bars)
            return SheetRequest(engrave=engrave, height=_SHEET_PX, index=0 if bars else index)

        shown = [self._i_event[n] for n in self._sheets.note_ids(index) if n in self._i_event]
        ahead = bars_in_sight(jig, (min(shown), max(shown)) if shown else None)
        if ahead is None:
            self._ask(request(None), self._put_rest)
            return

        def first(sheet: Sheet, _: SheetRequest) -> None:
            self._sheets.put_ahead(index if shown else 0, sheet.engraved)
            self._fit()
            self._ask(request(None), self._put_rest)

        self._ask(request(ahead), first)

    def _ask(self, request: SheetRequest, done: Callable[[Sheet, SheetRequest], None]) -> None:
        self._jobs.run(
            "engrave_sheet", request, done=lambda sheet: done(sheet, request),
            failed=lambda e: self.message.emit(error_sentence(e)), key=f"score-{id(self)}",
        )  # fmt: skip

    def _put_rest(self, sheet: Sheet, request: SheetRequest) -> None:
        """The sheet in sight has come; the others follow one by one."""
        self._sheets.put(sheet)
        self._fit()
        wanted = self._sheets.wanted
        if wanted is not None:
            self._ask(replace(request, index=wanted), self._put_rest)

    def _scrolled(self) -> int:
        bar = self.verticalScrollBar()
        return bar.value() if bar is not None else 0

    def viewport_width(self) -> int:
        """Pixels that the sheet may take."""
        viewport = self.viewport()
        return viewport.width() if viewport is not None else self.width()

    def _fit(self) -> None:
        height = round(self._sheets.height * self._factor()) + 2 * _MARGIN
        self._page.setMinimumHeight(height)
        self.setMinimumHeight(min(_LEAST_PX, height))
        self.setMaximumHeight(max(120, height))
        self._page.update()
