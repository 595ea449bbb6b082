"""The shelf: every take of the jig as a fingerprint, side by side."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from jigwright.ui.painting.takeprint import paint_take_print
from jigwright.ui.theme import Palette, sans
from jigwright.ui.viewmodels.desk.desk_model import DeskModel
from jigwright.ui.widgets.canvas import Canvas
from jigwright.wording.catalogue import tr

CARD_PX, GAP_PX, HEIGHT_PX = 108, 9, 104


class Shelf(Canvas):
    """Cards of takes; scrolls sideways; arrow keys choose.

    Signals
    -------
    menu_requested : QPoint
        Global place for the menu of the shown take.
    """

    menu_requested = pyqtSignal(QPoint)

    def __init__(self, model: DeskModel, palette: Palette, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self._palette = palette
        self.setFixedHeight(HEIGHT_PX + 12)
        self.setAccessibleName(tr("Shelf of takes"))
        model.takes_changed.connect(self._rebuild)
        model.take_changed.connect(self._reveal)

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.page.update()

    def _rebuild(self) -> None:
        width = len(self._model.prints) * (CARD_PX + GAP_PX) + GAP_PX
        bar = self.across
        bar.setRange(0, max(0, width - self.page.width()))
        bar.setPageStep(self.page.width())
        bar.setSingleStep(CARD_PX)
        self.page.update()

    def _reveal(self) -> None:
        number = self._model.take_number()
        self._rebuild()
        if number is not None:
            x = (number - 1) * (CARD_PX + GAP_PX)
            bar = self.across
            if x < bar.value():
                bar.setValue(x)
            elif x + CARD_PX + 2 * GAP_PX > bar.value() + self.page.width():
                bar.setValue(x + CARD_PX + 2 * GAP_PX - self.page.width())

    def card_rect(self, i: int) -> QRectF:
        """Where a card stands in the viewport."""
        x = GAP_PX + i * (CARD_PX + GAP_PX) - self.across.value()
        return QRectF(x, 6, CARD_PX, HEIGHT_PX - 14)

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw the visible cards."""
        painter = QPainter(self.page)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        p = self._palette
        painter.fillRect(self.page.rect(), p.color("panel"))
        shown = self._model.take.id if self._model.take else ""
        for i, print_ in enumerate(self._model.prints):
            card = self.card_rect(i)
            if card.right() < 0 or card.left() > self.page.width():
                continue
            chosen = print_.take.id == shown
            width = 2.5 if chosen and self.hasFocus() else 1.6 if chosen else 1
            painter.setPen(QPen(p.color("accent" if chosen else "line"), width))
            painter.setBrush(p.color("paper"))
            painter.drawRoundedRect(card, 4, 4)
            paint_take_print(
                painter,
                card.adjusted(9, 10, -9, -28),
                self._model.print_notes(print_.take),
                p,
            )
            painter.setFont(sans(12))
            painter.setPen(p.color("ink" if chosen else "ink2"))
            foot = QRectF(card.left() + 9, card.bottom() - 23, card.width() - 18, 18)
            painter.drawText(
                foot, Qt.AlignmentFlag.AlignLeft, tr("take {n}").format(n=print_.number)
            )
            if print_.take.mark:
                painter.setFont(sans(12, italic=True))
                painter.setPen(p.color("accent"))
                text = {"liked": tr("liked"), "kept": tr("reference")}[print_.take.mark]
                painter.drawText(foot, Qt.AlignmentFlag.AlignRight, text)
        painter.end()

    def _card_at(self, x: float) -> int | None:
        for i in range(len(self._model.prints)):
            card = self.card_rect(i)
            if card.left() <= x <= card.right():
                return i
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """Show the take under the pointer."""
        if event is None:
            return
        i = self._card_at(event.position().x())
        if i is not None:
            self._model.show_take(self._model.prints[i].take.id)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:  # noqa: N802
        """Offer what can be done with a take."""
        if event is not None and self._model.take is not None:
            self.menu_requested.emit(event.globalPos())

    def wheelEvent(self, event: QWheelEvent | None) -> None:  # noqa: N802
        """Scroll sideways."""
        if event is not None:
            bar = self.across
            bar.setValue(bar.value() - (event.angleDelta().y() or event.angleDelta().x()))
            event.accept()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Arrow keys choose a take; the menu key opens its menu."""
        if event is None:
            return
        match event.key():
            case Qt.Key.Key_Left:
                self._model.step_take(-1)
            case Qt.Key.Key_Right:
                self._model.step_take(1)
            case Qt.Key.Key_Menu:
                self.menu_requested.emit(self.mapToGlobal(QPoint(40, 40)))
            case _:
                event.ignore()
