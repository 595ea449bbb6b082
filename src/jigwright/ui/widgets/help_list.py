"""All keys, laid over the window."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QApplication, QFrame, QGridLayout, QWidget

from jigwright.ui.actions import Command
from jigwright.ui.widgets.labels import clear, label, push_button
from jigwright.wording.catalogue import tr, trn

_SHOWN_LINES, _MOST_SHOWN = 3, 110


class HelpList(QFrame):
    """A panel with every command and its key, and what failed inside; any key closes it.

    Parameters
    ----------
    parent : QWidget
    failures : callable
        The newest lines of the studio's log.
    """

    def __init__(self, parent: QWidget, failures: Callable[[], str] = str) -> None:
        super().__init__(parent)
        self._failures = failures
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
        self._show_failures(half + 2)
        self.adjustSize()
        parent = self.parentWidget()
        if parent is not None:
            self.move((parent.width() - self.width()) // 2, (parent.height() - self.height()) // 2)
        self.show()
        self.raise_()
        self.setFocus()

    def _show_failures(self, row: int) -> None:
        """The log: its newest lines, and one press that copies all of them."""
        text = self._failures()
        lines = text.splitlines()
        if not lines:
            said = label(tr("Nothing has failed inside the program."), px=13, second=True)
            self._grid.addWidget(said, row, 0, 1, 4)
            return
        title = trn(
            "One part failed and was left out:", "{n} times a part failed and was left out:",
            len(lines),
        ).format(n=len(lines))  # fmt: skip
        self._grid.addWidget(label(title, px=13, bold=True), row, 0, 1, 3)
        self.copy = push_button(tr("Copy the log"), lambda: self._copy(text))
        self._grid.addWidget(self.copy, row, 3)
        for i, line in enumerate(lines[-_SHOWN_LINES:]):
            short = line if len(line) < _MOST_SHOWN else line[: _MOST_SHOWN - 1] + "…"
            self._grid.addWidget(label(short, px=12, second=True, wrap=False), row + 1 + i, 0, 1, 4)

    def _copy(self, text: str) -> None:
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(text)
            self.copy.setText(tr("Copied"))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802, ARG002
        """Any key closes the list."""
        self.hide()
