"""The map of a piece under its notes: read take by take, pressed bar by bar."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from jigwright.core.jig.model import Jig
from jigwright.core.jig.parallels import parallels
from jigwright.core.judge.piece_map import Played, map_piece, weakest
from jigwright.services.records import TakeRecord
from jigwright.ui.painting.piece_map import (
    MapData,
    bar_at,
    bars_in_row,
    map_height,
    paint_piece_map,
)
from jigwright.ui.theme import Palette
from jigwright.ui.widgets.labels import label, word_button
from jigwright.ui.widgets.own_keys import claims
from jigwright.wording.catalogue import tr
from jigwright.wording.piece_map import bar_sentence, map_sentence

_OWN_KEYS = (
    Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return,
    Qt.Key.Key_Enter,
)  # fmt: skip
_WORDS_PX, _SCROLL_BAR_PX = 60, 14


class PieceMapView(QWidget):
    """Words, a fabric of bars, and what to do with the chosen ones.

    Parameters
    ----------
    palette : Palette
    takes_of : callable
        Takes that may say something of a jig, in order of time.
    read : callable
        What one of them says; None when nothing.

    Signals
    -------
    chosen : int, int
        First and last event of the chosen bars.
    wanted : int, int
        First and last bar that are to be an exercise.
    step_by_step : int, int
        First and last bar that are to be worked on at the Stand.
    """

    chosen = pyqtSignal(int, int)
    wanted = pyqtSignal(int, int)
    step_by_step = pyqtSignal(int, int)

    def __init__(
        self, palette: Palette, takes_of: Callable[[Jig], list[TakeRecord]],
        read: Callable[[TakeRecord], Played | None],
    ) -> None:  # fmt: skip
        super().__init__()
        self._palette = palette
        self._takes_of, self._read = takes_of, read
        self._jig: Jig | None = None
        self._played: list[Played] = []
        self._waiting: list[TakeRecord] = []
        self.data = MapData(cells=())
        self.words = label("", px=14, second=True)
        self.make = word_button(tr("Make these bars the exercise"), self._make)
        self.make.hide()
        self.steps = word_button(tr("Work on them step by step"), self._steps)
        self.steps.hide()
        self._sheet = _MapSheet(self)
        scroll = QScrollArea()
        scroll.setWidget(self._sheet)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        row = QHBoxLayout()
        row.addWidget(self.words, 1)
        row.addWidget(self.make, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(self.steps, 0, Qt.AlignmentFlag.AlignTop)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(row)
        column.addWidget(scroll, 1)
        self._next = QTimer(self)
        self._next.setSingleShot(True)
        self._next.setInterval(0)
        self._next.timeout.connect(self._read_one)

    @property
    def reading(self) -> bool:
        """Whether takes are still being read."""
        return bool(self._waiting)

    @property
    def palette_now(self) -> Palette:
        """Colours to draw with."""
        return self._palette

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self._sheet.update()

    def show_jig(self, jig: Jig | None) -> None:
        """Weave the map of another jig; takes are read one after the other, the newest first."""
        self._next.stop()
        self._jig, self._played, self._waiting = jig, [], []
        pairs = () if jig is None or not jig.events else parallels(jig)
        cells = () if jig is None else map_piece(jig, ())
        self.data = MapData(cells=cells, pairs=pairs)
        if jig is not None:
            self._waiting = self._takes_of(jig)
        self._show()
        if self._waiting:
            self._next.start()

    def wanted_height(self, width: int) -> int:
        """Pixels that words and fabric want at a width."""
        fabric = map_height(len(self.data.cells), width - _SCROLL_BAR_PX)
        return round(fabric) + _WORDS_PX

    def close_down(self) -> None:
        """Read nothing more."""
        self._next.stop()
        self._waiting = []

    def _read_one(self) -> None:
        if not self._waiting or self._jig is None:
            return
        take = self._waiting.pop()
        played = self._read(take)
        if played is not None:
            self._played.insert(0, played)
            cells = map_piece(self._jig, self._played)
            self.data = MapData(cells=cells, pairs=self.data.pairs, chosen=self.data.chosen)
        self._show()
        if self._waiting:
            self._next.start()

    def _show(self) -> None:
        self._sheet.fit()
        self._sheet.update()
        chosen = self.data.chosen
        if chosen is not None:
            self.words.setText(bar_sentence(self.data.cells[chosen[0] : chosen[1] + 1]))
        else:
            self.words.setText(
                map_sentence(self.data.cells, weakest(self.data.cells), reading=self.reading)
            )
        self.make.setVisible(chosen is not None)
        self.steps.setVisible(chosen is not None)

    # choosing -----------------------------------------------------------------------------

    def choose(self, first: int, last: int) -> None:
        """Choose bars; their notes are chosen in the score."""
        a, b = min(first, last), max(first, last)
        self.data = MapData(cells=self.data.cells, pairs=self.data.pairs, chosen=(a, b))
        self._show()
        spans = [c.span for c in self.data.cells[a : b + 1] if c.span is not None]
        if spans:
            self.chosen.emit(spans[0][0], spans[-1][1])

    def press(self, bar: int | None, *, extend: bool) -> None:
        """A press on a bar, or beside all of them."""
        if bar is None:
            self.data = MapData(cells=self.data.cells, pairs=self.data.pairs)
            self._show()
        elif extend and self.data.chosen is not None:
            self.choose(self.data.chosen[0], bar)
        else:
            self.choose(bar, bar)

    def step(self, by: int, *, extend: bool) -> None:
        """Move the choice by some bars."""
        last = len(self.data.cells) - 1
        if last < 0:
            return
        now = self.data.chosen
        to = 0 if now is None else min(last, max(0, now[1] + by))
        self.press(to, extend=extend)

    def _make(self) -> None:
        if self.data.chosen is not None:
            self.wanted.emit(*self.data.chosen)

    def _steps(self) -> None:
        if self.data.chosen is not None:
            self.step_by_step.emit(*self.data.chosen)


class _MapSheet(QWidget):
    """The picture; as high as it needs."""

    def __init__(self, view: PieceMapView) -> None:
        super().__init__()
        self._view = view
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Map of the piece"))
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def fit(self) -> None:
        """Take the height that the bars need."""
        self.setMinimumHeight(round(map_height(len(self._view.data.cells), self.width())))

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802
        """Another width, other rows."""
        super().resizeEvent(event)
        self.fit()

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw the fabric."""
        painter = QPainter(self)
        paint_piece_map(painter, QRectF(self.rect()), self._view.data, self._view.palette_now)
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """Choose the bar under the mouse; with Shift up to it."""
        if event is None:
            return
        at, n = event.position(), len(self._view.data.cells)
        extend = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self._view.press(bar_at(at.x(), at.y(), n, self.width()), extend=extend)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """The bar becomes the exercise."""
        self.mousePressEvent(event)
        self._view.make.click()

    def event(self, event: QEvent | None) -> bool:
        """Arrows and Return belong to the map while somebody stands in it."""
        return claims(event, _OWN_KEYS) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Arrows move the choice, with Shift they stretch it; Return makes it the exercise."""
        if event is None:
            return
        row = bars_in_row(self.width())
        steps = {
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Up: -row,
            Qt.Key.Key_Down: row,
        }
        step = steps.get(Qt.Key(event.key()))
        if step is not None:
            extend = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._view.step(step, extend=extend)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._view.make.click()
        else:
            super().keyPressEvent(event)
