"""Keys a widget keeps from the window's commands."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QKeyEvent

from jigwright.ui.widgets.own_keys import claims

OWN = frozenset({int(Qt.Key.Key_Left), int(Qt.Key.Key_Return)})
OVERRIDE = QEvent.Type.ShortcutOverride


@pytest.mark.parametrize(
    ("kind", "key", "is_own"),
    [
        (OVERRIDE, Qt.Key.Key_Left, True), (OVERRIDE, Qt.Key.Key_Right, False),
        (QEvent.Type.KeyPress, Qt.Key.Key_Left, False),
    ],
)  # fmt: skip
def test_only_the_question_for_an_own_key_is_accepted(kind, key, is_own) -> None:
    event = QKeyEvent(kind, key, Qt.KeyboardModifier.NoModifier)
    event.ignore()
    assert claims(event, OWN) == is_own
    assert event.isAccepted() == is_own


@pytest.mark.parametrize("event", [None, QEvent(QEvent.Type.Enter)])
def test_whatever_else_happens_is_not_claimed(event) -> None:
    assert not claims(event, OWN)
