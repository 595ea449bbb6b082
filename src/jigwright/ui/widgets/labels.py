"""Labels and word buttons in the two faces."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QLabel, QLayout, QPushButton, QSizePolicy

from jigwright.ui.theme import Palette, sans, serif

_MARK_PX = 2  # the dots of Ä, Ö and Ü stand above what the face gives as its height


def label(
    text: str = "", *, px: float = 14, bold: bool = False, italic: bool = False,
    second: bool = False, old_style: bool = False, wrap: bool = True,
) -> QLabel:  # fmt: skip
    """A label; ``second`` is second ink, ``old_style`` the serif."""
    made = QLabel(text)
    made.setFont(serif(px) if old_style else sans(px, bold=bold, italic=italic))
    made.setWordWrap(wrap)
    made.setContentsMargins(0, _MARK_PX, 0, 0)
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setProperty("second", second)
    policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
    policy.setHeightForWidth(wrap)
    made.setSizePolicy(policy)
    return made


def word_button(text: str, run: Callable[[], object], *, name: str = "") -> QPushButton:
    """A word that can be pressed."""
    button = QPushButton(text)
    button.setProperty("kind", "word")
    button.setFont(sans(13, bold=True))
    button.setCursor(Qt.CursorShape.PointingHandCursor)
    button.setAccessibleName(name or text)
    button.clicked.connect(lambda: run())
    return button


def push_button(text: str, run: Callable[[], object], *, first: bool = False) -> QPushButton:
    """A framed button; ``first`` is the one that matters most."""
    button = QPushButton(text)
    button.setProperty("kind", "first" if first else "second")
    button.setFont(sans(14, bold=first))
    button.clicked.connect(lambda: run())
    return button


def rule() -> QFrame:
    """A thin horizontal line."""
    line = QFrame()
    line.setProperty("rule", True)
    line.setFixedHeight(1)
    return line


def clear(layout: QLayout) -> None:
    """Remove everything from a layout."""
    while layout.count():
        item = layout.takeAt(0)
        if item is None:
            continue
        if (inner := item.layout()) is not None:
            clear(inner)
        if (widget := item.widget()) is not None:
            widget.hide()
            widget.deleteLater()


def tint(palette: Palette) -> str:
    """Style of second-ink labels and rules."""
    return (
        f'QLabel[second="true"] {{ color: {palette.ink2}; background: transparent; }}'
        f"QLabel {{ background: transparent; }}"
        f'QFrame[rule="true"] {{ background: {palette.line}; }}'
    )
