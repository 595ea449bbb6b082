"""What was played on a day, take by take: each is opened where it stands."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from jigwright.ui.painting.take_card import Print, paint_take_card
from jigwright.ui.theme import LIGHT, Palette
from jigwright.ui.widgets.own_keys import claims
from jigwright.wording.catalogue import tr

HEIGHT_PX = 66
_CARD_PX, _GAP_PX = 112.0, 8.0
_KEYS = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Return, Qt.Key.Key_Enter)


@dataclass(frozen=True, slots=True, kw_only=True)
class DayTake:
    """A take of a day.

    Parameters
    ----------
    take_id : str
    title : str
        Of its jig, or what was played freely.
    when : str
        Time of day.
    notes : sequence of (cents or None, standing)
    """

    take_id: str
    title: str
    when: str
    notes: Print


class DayTakes(QWidget):
    """Cards in order of time; a press or Return opens one.

    Signals
    -------
    opened : str
        Id of the take.
    """

    opened = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._palette = LIGHT
        self.takes: tuple[DayTake, ...] = ()
        self.at: int | None = None
        self._first = 0
        self.setFixedHeight(HEIGHT_PX)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Takes of the day"))
        self.hide()

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.update()

    def show_takes(self, takes: Sequence[DayTake]) -> None:
        """Show a day; hidden where nothing was played."""
        self.takes, self.at, self._first = tuple(takes), None, 0
        self.setVisible(bool(self.takes))
        self.update()

    @property
    def n_shown(self) -> int:
        """How many cards fit."""
        return max(1, int((self.width() + _GAP_PX) // (_CARD_PX + _GAP_PX)))

    def card(self, k: int) -> QRectF:
        """Where a take's card stands; outside the widget while it is not shown."""
        x = (k - self._first) * (_CARD_PX + _GAP_PX)
        return QRectF(x + 1, 1, _CARD_PX, HEIGHT_PX - 2)

    def said(self, k: int) -> str:
        """A take in words."""
        return f"{self.takes[k].when}, {self.takes[k].title}"

    def choose(self, k: int, *, show: bool = False) -> None:
        """Go to a take; with ``show`` it is opened."""
        if not 0 <= k < len(self.takes):
            return
        self.at = k
        self._first = max(min(self._first, k), k - self.n_shown + 1)
        self.setAccessibleDescription(self.said(k))
        self.update()
        if show:
            self.opened.emit(self.takes[k].take_id)

    def _under(self, place: QPointF) -> int | None:
        return next((k for k in range(len(self.takes)) if self.card(k).contains(place)), None)

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw them."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for k, one in enumerate(self.takes):
            paint_take_card(
                painter, self.card(k), one.notes, self._palette, foot=one.title,
                chosen=k == self.at, focused=self.hasFocus(),
            )  # fmt: skip
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """A take is opened."""
        found = self._under(event.position()) if event is not None else None
        if found is not None:
            self.choose(found, show=True)

    def event(self, event: QEvent | None) -> bool:
        """What a take is, in a tip; its own keys come here, not to the window's commands."""
        if isinstance(event, QHelpEvent):
            found = self._under(event.pos().toPointF())
            if found is not None:
                QToolTip.showText(event.globalPos(), self.said(found), self)
            return True
        return claims(event, _KEYS) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Arrows go from take to take, Return opens."""
        if event is None or event.key() not in _KEYS:
            super().keyPressEvent(event)
            return
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            by = 1 if event.key() == Qt.Key.Key_Right else -1
            self.choose(0 if self.at is None else self.at + by)
        elif self.at is not None:
            self.choose(self.at, show=True)
