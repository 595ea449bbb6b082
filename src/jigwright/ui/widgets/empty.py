"""A place with nothing in it yet: what belongs there, and the first step."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from jigwright.ui.theme import sans
from jigwright.ui.widgets.labels import label


class EmptyPlace(QWidget):
    """A title, a sentence and up to two steps.

    Parameters
    ----------
    title, text : str
    steps : tuple of (str, callable)
    """

    def __init__(
        self, title: str, text: str, steps: tuple[tuple[str, Callable[[], object]], ...] = ()
    ) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(40, 20, 40, 40)
        column.addStretch(2)
        heading = label(title, px=34, old_style=True)
        heading.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        column.addWidget(heading)
        body = label(text, px=16, second=True)
        body.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        body.setMaximumWidth(560)
        line = QHBoxLayout()
        line.addStretch(1)
        line.addWidget(body, 6)
        line.addStretch(1)
        column.addLayout(line)
        column.addSpacing(18)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        for i, (words, run) in enumerate(steps):
            button = QPushButton(words)
            button.setProperty("kind", "first" if i == 0 else "second")
            button.setFont(sans(15, bold=i == 0))
            button.clicked.connect(lambda _=False, r=run: r())
            buttons.addWidget(button)
        buttons.addStretch(1)
        column.addLayout(buttons)
        column.addStretch(3)
