"""All pupils at a glance, and one key through the takes to hear."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from jigwright.services.hearing_round import LatestTake, PupilView, next_to_hear
from jigwright.services.records import TakeRecord
from jigwright.ui.painting.pupil_board import ROW_PX, BoardGrid, paint_pupil_board
from jigwright.ui.painting.take_card import Print
from jigwright.ui.theme import LIGHT, Palette
from jigwright.ui.widgets.own_keys import claims
from jigwright.wording.catalogue import tr
from jigwright.wording.daybook import due_text, pupil_line, short_day

_KEYS = (
    Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return,
    Qt.Key.Key_Enter, Qt.Key.Key_Space,
)  # fmt: skip


class PupilBoard(QWidget):
    """Rows of pupils; arrows go about, Space hears what is new, Return opens a take.

    Parameters
    ----------
    print_of : callable
        Cents and standing of every note of a take.

    Signals
    -------
    chosen : Player
    hear : LatestTake
        A take is to be played.
    opened : LatestTake
        A take is to be shown at the Desk.
    moved : str
        Another take is chosen, in words; empty where none is.
    nothing_new
        All was heard.
    """

    chosen = pyqtSignal(object)
    hear = pyqtSignal(object)
    opened = pyqtSignal(object)
    moved = pyqtSignal(str)
    nothing_new = pyqtSignal()

    def __init__(self, print_of: Callable[[TakeRecord], Print]) -> None:
        super().__init__()
        self._palette, self._print_of = LIGHT, print_of
        self._prints: dict[str, Print] = {}
        self.views: tuple[PupilView, ...] = ()
        self.at: tuple[int, int | None] = (0, None)
        self._playing: str | None = None
        self._last: str | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Pupils and their latest takes"))

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.update()

    def show_pupils(self, views: Sequence[PupilView], player_id: str | None) -> None:
        """Show pupils; the chosen one keeps the take that was chosen."""
        before = self.take
        self.views = tuple(views)
        self._prints = {
            one.take.id: self._print_of(one.take) for view in self.views for one in view.takes
        }
        i = next((k for k, v in enumerate(self.views) if v.row.player.id == player_id), 0)
        takes = self.views[i].takes if self.views else ()
        same = next(
            (k for k, t in enumerate(takes) if before and t.take.id == before.take.id), None
        )
        self._go(i, same)
        self.setFixedHeight(max(1, len(self.views)) * ROW_PX + 2)

    def set_playing(self, take_id: str | None) -> None:
        """Mark the take that sounds."""
        if take_id != self._playing:
            self._playing = take_id
            self.update()

    @property
    def take(self) -> LatestTake | None:
        """The chosen take."""
        i, k = self.at
        return None if k is None or i >= len(self.views) else self.views[i].takes[k]

    def grid(self) -> BoardGrid:
        """Where rows and cards lie."""
        return BoardGrid(rect=QRectF(self.rect()), n_rows=len(self.views))

    def said(self) -> str:
        """What is chosen, in words."""
        if not self.views:
            return ""
        view = self.views[self.at[0]]
        row = view.row
        parts = [row.player.name, pupil_line(row.days_ago, row.n_takes, view.n_new)]
        parts += [f"{title}, {due_text(p.days_left)}" for _, p, title in view.works]
        if self.take is not None:
            parts.append(self._take_said(self.take))
        return ". ".join(parts)

    @staticmethod
    def _take_said(one: LatestTake) -> str:
        said = f"{one.title or tr('without a jig')}, {short_day(one.take.day)}"
        return said + (", " + tr("not heard yet") if one.is_new else "")

    # going about --------------------------------------------------------------------------------

    def _go(self, i: int, k: int | None) -> None:
        self.at = (i, k)
        self.setAccessibleDescription(self.said())
        self.moved.emit(self._take_said(self.take) if self.take is not None else "")
        self.update()

    def choose(self, i: int, k: int | None = None) -> None:
        """Go to a pupil, and to one of the takes."""
        if not 0 <= i < len(self.views):
            return
        other = i != self.at[0]
        self._go(i, k)
        if other:
            self.chosen.emit(self.views[i].row.player)

    def hear_next(self) -> None:
        """Play the next take that was not heard; where none is left, the chosen one again."""
        if not self.views:
            return
        found = next_to_hear(self.views, self.at[0], self._last)
        if found is not None:
            self.choose(*found)
        elif self.take is None or self._playing is not None:
            self.nothing_new.emit()
            return
        self._hear()

    def _hear(self) -> None:
        one = self.take
        if one is not None:
            self._last = one.take.id
            self.hear.emit(one)

    def _step(self, by: int) -> None:
        i, k = self.at
        n = len(self.views[i].takes) if self.views else 0
        if n:
            self._go(i, max(0, min(n - 1, n - 1 if k is None else k + by)))

    # events -------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw it."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_pupil_board(
            painter, self.grid(), self.views, self._prints, self._palette, at=self.at,
            playing=self._playing, focused=self.hasFocus(),
        )  # fmt: skip
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """A row is chosen; a take in it is heard."""
        found = self._under(event.position()) if event is not None else None
        if found is not None:
            self.choose(*found)
            if found[1] is not None:
                self._hear()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """A take is opened at the Desk."""
        found = self._under(event.position()) if event is not None else None
        if found is not None and found[1] is not None:
            self.choose(*found)
            self.opened.emit(self.take)

    def _under(self, place: QPointF) -> tuple[int, int | None] | None:
        return self.grid().at(place, self.views, self.at)

    def event(self, event: QEvent | None) -> bool:
        """What a take is, in a tip; its own keys come here, not to the window's commands."""
        if isinstance(event, QHelpEvent):
            found = self._under(event.pos().toPointF())
            if found is not None and found[1] is not None:
                one = self.views[found[0]].takes[found[1]]
                QToolTip.showText(event.globalPos(), self._take_said(one), self)
            return True
        return claims(event, _KEYS) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Arrows go about, Space hears, Return opens."""
        if event is None or event.key() not in _KEYS:
            super().keyPressEvent(event)
            return
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Space:
            self.hear_next()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if self.take is not None:
                self.opened.emit(self.take)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.choose(self.at[0] + (1 if key == Qt.Key.Key_Down else -1))
        else:
            self._step(1 if key == Qt.Key.Key_Right else -1)
