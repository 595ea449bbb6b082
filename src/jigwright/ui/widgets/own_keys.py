"""Keys that belong to a widget while somebody stands in it, and not to the window's commands."""

from __future__ import annotations

from collections.abc import Container

from PyQt6.QtCore import QEvent
from PyQt6.QtGui import QKeyEvent


def claims(event: QEvent | None, keys: Container[int]) -> bool:
    """Accept the question whose key it is, if it is one of ``keys``; says whether it was.

    Before a key becomes a command of the window, Qt asks the widget that has the focus with an
    event of the kind ``ShortcutOverride``; accepted, the key comes to the widget.
    """
    if (
        isinstance(event, QKeyEvent)
        and event.type() == QEvent.Type.ShortcutOverride
        and event.key() in keys
    ):
        event.accept()
        return True
    return False
