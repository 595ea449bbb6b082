"""The weeks of a player as a picture one goes about in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, timedelta

from PyQt6.QtCore import QEvent, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from jigwright.core.judge.season import DAYS, MOST_ROWS, WEEKS, SeasonRow
from jigwright.ui.painting.season import HEAD_PX, ROW_PX, SeasonGrid, paint_season
from jigwright.ui.theme import LIGHT, Palette
from jigwright.ui.widgets.own_keys import claims
from jigwright.wording.catalogue import tr
from jigwright.wording.daybook import season_sentence

_KEYS = (
    Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return,
    Qt.Key.Key_Enter,
)  # fmt: skip


class SeasonView(QWidget):
    """Shows weeks; a press or Return opens the newest take of a cell.

    Signals
    -------
    chosen : str
        Id of a take.
    week : date
        The Monday of the week that was pressed.
    """

    chosen = pyqtSignal(str)
    week = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._palette = LIGHT
        self._rows: tuple[SeasonRow, ...] = ()
        self._titles: Mapping[str, str] = {}
        self._first = date(2000, 1, 3)
        self._at: tuple[int, int] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Weeks and what was worked on"))
        self.hide()

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.update()

    def show_season(
        self, rows: Sequence[SeasonRow], titles: Mapping[str, str], first: date
    ) -> None:
        """Show weeks; hidden where nothing was played in them."""
        self._rows, self._titles, self._first = tuple(rows), dict(titles), first
        self._at = None
        self.setFixedHeight(HEAD_PX + ROW_PX * min(MOST_ROWS, len(self._rows)) + 2)
        self.setVisible(bool(self._rows))
        self.update()

    def grid(self) -> SeasonGrid:
        """Where the cells lie."""
        return SeasonGrid(rect=QRectF(self.rect()), n_weeks=WEEKS)

    def said(self, row: int, week: int) -> str:
        """A cell in words."""
        found = self._rows[row]
        monday = self._first + timedelta(days=DAYS * week)
        title = self._titles.get(found.jig_id, found.jig_id)
        return season_sentence(title, found.cells[week], monday)

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw it."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_season(
            painter, self.grid(), self._rows, self._titles, self._first, self._at, self._palette
        )
        painter.end()

    def choose(self, row: int, week: int, *, show: bool = False) -> None:
        """Go to a cell; with ``show`` its newest take is asked for."""
        if not (0 <= row < len(self._rows) and 0 <= week < WEEKS):
            return
        self._at = (row, week)
        self.setAccessibleDescription(self.said(row, week))
        self.update()
        if show:
            self.week.emit(self._first + timedelta(days=DAYS * week))
            if ids := self._rows[row].cells[week].take_ids:
                self.chosen.emit(ids[-1])

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """A cell is opened."""
        found = self.grid().at(event.position(), len(self._rows)) if event is not None else None
        if found is not None:
            self.choose(*found, show=True)

    def event(self, event: QEvent | None) -> bool:
        """What a cell is, in a tip; its own keys come here, not to the window's commands."""
        if isinstance(event, QHelpEvent):
            found = self.grid().at(event.pos().toPointF(), len(self._rows))
            if found is not None:
                QToolTip.showText(event.globalPos(), self.said(*found), self)
            return True
        return claims(event, _KEYS) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Arrows go from cell to cell, Return opens."""
        if event is None or event.key() not in _KEYS:
            super().keyPressEvent(event)
            return
        row, week = self._at or (0, WEEKS - 1)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.choose(row, week, show=True)
        elif self._at is None:
            self.choose(row, week)
        else:
            down = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()), 0)
            right = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
            self.choose(row + down, week + right)
