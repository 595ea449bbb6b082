"""All keys, laid over the window."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QFrame, QGridLayout, QWidget

from jigwright.ui.actions import Command
from jigwright.ui.widgets.labels import clear, label
from jigwright.wording.catalogue import tr


class HelpList(QFrame):
    """A panel with every command and its key; any key closes it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFrameShape(QFrame.Shape.Box)
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(28, 20, 28, 20)
        self._grid.setHorizontalSpacing(24)
        self._grid.setVerticalSpacing(5)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.hide()

    def toggle(self, commands: Mapping[str, Command]) -> None:
        """Show or hide the list."""
        if self.isVisible():
            self.hide()
            return
        clear(self._grid)
        self._grid.addWidget(label(tr("All keys"), px=24, old_style=True), 0, 0, 1, 4)
        with_keys = [c for c in commands.values() if c.shortcut]
        half = (len(with_keys) + 1) // 2
        for i, c in enumerate(with_keys):
            column, row = (0, i + 1) if i < half else (2, i - half + 1)
            key = QKeySequence(c.shortcut).toString(QKeySequence.SequenceFormat.NativeText)
            self._grid.addWidget(label(key, px=14, bold=True, wrap=False), row, column)
            self._grid.addWidget(label(c.text, px=14, second=True, wrap=False), row, column + 1)
        walk = tr("In the score and on the shelf the arrow keys walk; Shift makes a span.")
        self._grid.addWidget(label(walk, px=14, second=True), half + 1, 0, 1, 4)
        self.adjustSize()
        parent = self.parentWidget()
        if parent is not None:
            self.move((parent.width() - self.width()) // 2, (parent.height() - self.height()) // 2)
        self.show()
        self.raise_()
        self.setFocus()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802, ARG002
        """Any key closes the list."""
        self.hide()
