"""The plan as a strip of time that is edited on itself: drag, keys, a double click begins."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from jigwright.core.judge.session_run import Leg
from jigwright.ui.painting.session_strip import Block, block_at, paint_session_strip
from jigwright.ui.theme import Palette
from jigwright.ui.widgets.own_keys import claims
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.session_run import item_name

_KEYS = (
    Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Plus, Qt.Key.Key_Minus, Qt.Key.Key_Delete,
    Qt.Key.Key_Backspace, Qt.Key.Key_Return, Qt.Key.Key_Enter,
)  # fmt: skip
_EDGE_PX = 7.0
_HEIGHT = 92


class SessionStrip(QWidget):
    """Shows a session and lets it be changed.

    Signals
    -------
    chosen : int
    begun : int
        Somebody wants to begin with this one.
    stretched : int, int
        An item and the minutes it is to have more.
    moved : int, int
        An item and by how many places.
    removed : int
    """

    chosen = pyqtSignal(int)
    begun = pyqtSignal(int)
    stretched = pyqtSignal(int, int)
    moved = pyqtSignal(int, int)
    removed = pyqtSignal(int)

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self._legs: tuple[Leg, ...] = ()
        self._at: int | None = None
        self._chosen = 0
        self._blocks: list[Block] = []
        self._held: tuple[int, float, bool] | None = None  # item, where, by its edge
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setFixedHeight(_HEIGHT)
        self.setAccessibleName(tr("The session"))

    @property
    def current(self) -> int:
        """The item that is chosen."""
        return self._chosen

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.update()

    def show_session(self, legs: Sequence[Leg], at: int | None) -> None:
        """Show a session; ``at`` is the item in hand."""
        self._legs, self._at = tuple(legs), at
        self._chosen = min(self._chosen, max(0, len(self._legs) - 1))
        self._say()
        self.update()

    def choose(self, i: int) -> None:
        """Choose an item."""
        if 0 <= i < len(self._legs) and i != self._chosen:
            self._chosen = i
            self._say()
            self.chosen.emit(i)
            self.update()

    def _say(self) -> None:
        if self._legs:
            item = self._legs[self._chosen].item
            minutes = trn("{n} minute", "{n} minutes", item.minutes).format(n=item.minutes)
            self.setAccessibleDescription(f"{item_name(item)}, {minutes}")

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw it."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._blocks = paint_session_strip(
            painter, QRectF(self.rect()).adjusted(1, 4, -1, -2), self._legs, self._palette,
            at=self._at, chosen=self._chosen if self._legs else None,
        )  # fmt: skip
        painter.end()

    # mouse --------------------------------------------------------------------------------

    def _edge(self, place: QPointF) -> int | None:
        """The item whose end is under a point."""
        near = [b for b in self._blocks if abs(b.rect.right() - place.x()) <= _EDGE_PX
                and b.rect.top() <= place.y() <= b.rect.bottom()]  # fmt: skip
        return near[0].i if near else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """Take an item, or its end."""
        if event is None:
            return
        edge = self._edge(event.position())
        i = edge if edge is not None else block_at(self._blocks, event.position())
        if i is not None:
            self.choose(i)
            self._held = (i, event.position().x(), edge is not None)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """Show that an end can be dragged."""
        if event is not None and self._held is None:
            over = self._edge(event.position()) is not None
            self.setCursor(Qt.CursorShape.SplitHCursor if over else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """An end was dragged: longer or shorter; an item: elsewhere, or out of the strip."""
        held, self._held = self._held, None
        if event is None or held is None:
            return
        i, x, by_edge = held
        if by_edge:
            total = sum(g.item.minutes for g in self._legs)
            more = round((event.position().x() - x) * total / max(1, self.width()))
            if more:
                self.stretched.emit(i, more)
            return
        if not -2 * self.height() < event.position().y() < 3 * self.height():
            self.removed.emit(i)
            return
        to = block_at(
            self._blocks, QPointF(event.position().x(), self._blocks[i].rect.center().y())
        )
        if to is not None and to != i:
            self.moved.emit(i, to - i)
            self._chosen = to

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """Begin with it."""
        if event is not None and (i := block_at(self._blocks, event.position())) is not None:
            self._held = None
            self.begun.emit(i)

    # keys ---------------------------------------------------------------------------------

    def event(self, event: QEvent | None) -> bool:
        """Its own keys come here, not to the window's commands."""
        return claims(event, _KEYS) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Arrows choose, with Ctrl they move; + and − lengthen; Delete drops; Return begins."""
        if event is None:
            return
        i, ctrl = self._chosen, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        key = event.key()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            by = -1 if key == Qt.Key.Key_Left else 1
            if ctrl and 0 <= i + by < len(self._legs):
                self.moved.emit(i, by)
                self._chosen = i + by
            else:
                self.choose(i + by)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            self.stretched.emit(i, 1 if key == Qt.Key.Key_Plus else -1)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.removed.emit(i)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.begun.emit(i)
        else:
            super().keyPressEvent(event)
