"""A bar that asks one thing and offers the answers: no dialog, nothing waits for it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from jigwright.ui.widgets.labels import label, push_button

Answer = tuple[str, Callable[[], object]]


class QuestionBar(QWidget):
    """Hidden until something is asked; gone once it is answered; the next waits its turn."""

    def __init__(self) -> None:
        super().__init__()
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(20, 8, 20, 8)
        self._row.setSpacing(10)
        self.words = label("", px=15, bold=True)
        self._row.addWidget(self.words, 1)
        self.buttons: list[QPushButton] = []
        self._waiting: list[tuple[str, tuple[Answer, ...]]] = []
        self.hide()

    def ask(self, words: str, answers: Sequence[Answer]) -> None:
        """Ask; the first answer is the usual one."""
        self._waiting.append((words, tuple(answers)))
        if len(self._waiting) == 1:
            self._show()

    def _show(self) -> None:
        words, answers = self._waiting[0]
        self.words.setText(words)
        for button in self.buttons:
            button.hide()
            button.deleteLater()
        self.buttons = []
        for i, (text, run) in enumerate(answers):
            button = push_button(text, partial(self._answer, run), first=i == 0)
            self._row.addWidget(button)
            self.buttons.append(button)
        self.show()

    def _answer(self, run: Callable[[], object]) -> None:
        self._waiting.pop(0)
        self.hide()
        run()
        if self._waiting:
            self._show()
