"""The header: the five places, and what every number depends on."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QToolButton, QWidget

from jigwright.ui.theme import Palette, sans


class PlaceButton(QToolButton):
    """A place; the chosen one is underlined."""

    def __init__(self, text: str, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self.setText(text)
        self.setFont(sans(17))
        self.setCheckable(True)
        self.setAccessibleName(text)
        self.setMinimumHeight(48)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.toggled.connect(lambda on: self.setFont(sans(17, bold=on)))

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw the word and its underline."""
        painter = QPainter(self)
        p = self._palette
        if self.underMouse():
            painter.fillRect(self.rect(), p.color("hover"))
        painter.setFont(self.font())
        painter.setPen(p.color("ink" if self.isChecked() or self.hasFocus() else "ink2"))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.text())
        if self.isChecked():
            painter.fillRect(QRectF(6, self.height() - 4, self.width() - 12, 4), p.color("accent"))
        if self.hasFocus():
            painter.setPen(p.color("accent"))
            painter.drawRect(self.rect().adjusted(2, 4, -3, -6))
        painter.end()


class Header(QWidget):
    """Places at left, context at right.

    Signals
    -------
    place_chosen : str
    """

    place_chosen = pyqtSignal(str)

    def __init__(self, places: tuple[tuple[str, str], ...], palette: Palette) -> None:
        super().__init__()
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(10, 0, 14, 0)
        self._row.setSpacing(2)
        self._places: dict[str, PlaceButton] = {}
        for name, text in places:
            button = PlaceButton(text, palette)
            button.clicked.connect(lambda _=False, n=name: self.place_chosen.emit(n))
            self._row.addWidget(button)
            self._places[name] = button
        self._row.addStretch(1)
        self._chips: dict[str, QToolButton] = {}
        self.setFixedHeight(50)

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        for button in self._places.values():
            button.set_palette(palette)

    def show_place(self, name: str) -> None:
        """Underline a place."""
        for other, button in self._places.items():
            button.setChecked(other == name)

    def add_chip(self, name: str, title: str, fill_menu: Callable[[QMenu], None]) -> None:
        """Add a context word whose menu is filled when it opens.

        Parameters
        ----------
        name : str
            Key for :meth:`set_chip`.
        title : str
            Accessible name.
        fill_menu : callable
        """
        chip = QToolButton()
        chip.setFont(sans(13))
        chip.setAccessibleName(title)
        chip.setToolTip(title)
        chip.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        chip.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(chip)

        def fill() -> None:
            menu.clear()
            fill_menu(menu)

        menu.aboutToShow.connect(fill)
        chip.setMenu(menu)
        self._row.addWidget(chip)
        self._chips[name] = chip

    def set_chip(self, name: str, text: str) -> None:
        """Write a context word."""
        self._chips[name].setText(text)

    def chip(self, name: str) -> QToolButton:
        """The button of a context word."""
        return self._chips[name]
