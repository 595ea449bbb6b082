"""A widget that shows one picture painted by a function."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget


class Painted(QWidget):
    """Calls ``paint(painter, rect)`` whenever it must show itself.

    Parameters
    ----------
    paint : callable
    height : int
        Fixed height in pixels.
    """

    def __init__(
        self, paint: Callable[[QPainter, QRectF], None], height: int, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._paint = paint
        self.setFixedHeight(height)

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw the picture."""
        painter = QPainter(self)
        self._paint(painter, QRectF(self.rect()))
        painter.end()
