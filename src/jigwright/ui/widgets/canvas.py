"""A scrolled picture: what QAbstractScrollArea may return as None is asserted once, here."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QAbstractScrollArea, QScrollBar, QWidget


class Canvas(QAbstractScrollArea):
    """A picture that scrolls sideways and takes the keyboard."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    @property
    def page(self) -> QWidget:
        """The visible part."""
        page = self.viewport()
        assert page is not None
        return page

    @property
    def across(self) -> QScrollBar:
        """The bar that scrolls sideways."""
        bar = self.horizontalScrollBar()
        assert bar is not None
        return bar
