"""A column of words beside the score: scrolls down, is written anew when something changes."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from jigwright.ui.theme import Palette


class ScrollColumn(QScrollArea):
    """Base of the columns at the left and right of the Desk.

    Parameters
    ----------
    palette : Palette
    name : str
        Accessible name.
    narrowest, widest : int
        Pixels.
    """

    def __init__(self, palette: Palette, name: str, *, narrowest: int, widest: int) -> None:
        super().__init__()
        self._palette = palette
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMinimumWidth(narrowest)
        self.setMaximumWidth(widest)
        self.setAccessibleName(name)
        inner = QWidget()
        self._layout = QVBoxLayout(inner)
        self._layout.setContentsMargins(18, 10, 15, 12)
        self._layout.setSpacing(5)
        self.setWidget(inner)

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.refresh()

    def refresh(self) -> None:
        """Write the column anew."""
        raise NotImplementedError
