"""The warm-up in the window: put together, changed, begun with one key."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from jigwright.ui.main_window import MainWindow
from jigwright.ui.widgets.warm_up import WarmUpDialog


@pytest.fixture
def dialog(qtbot: QtBot, window: MainWindow) -> WarmUpDialog:
    window.go("daybook")
    qtbot.waitUntil(lambda: not window.daybook_model.busy, timeout=20_000)
    window.daybook.today.edit_warm_up()
    made = window.daybook.today.dialog
    assert made is not None
    return made


def titles(dialog: WarmUpDialog) -> list[str]:
    return [dialog.steps.item(k).text() for k in range(dialog.steps.count())]


def test_it_begins_empty_and_says_what_to_do(dialog: WarmUpDialog) -> None:
    assert dialog.steps.count() == 0
    assert "add jigs" in dialog.about.text()
    assert not dialog.times.isEnabled()
    assert dialog.found.count() >= 1
    dialog._begin()
    assert dialog.isVisible(), "nothing to begin with"


def test_the_usual_one_is_taken_changed_and_comes_into_the_plan(
    qtbot: QtBot, window: MainWindow, dialog: WarmUpDialog
) -> None:
    model = window.daybook_model
    dialog._usual()
    n = dialog.steps.count()
    assert n >= 5
    assert f"{n} exercises" in dialog.about.text()
    assert [i.part for i in model.items[:3]] == ["settle", "strings", "warm_up"]
    first, second = titles(dialog)[:2]
    dialog.steps.setCurrentRow(0)
    dialog._move(1)
    assert titles(dialog)[:2] == [second, first]
    assert dialog.steps.currentRow() == 1
    dialog.times.setValue(3)
    assert titles(dialog)[1] == f"{first} × 3"
    assert model.routine().steps[1].times == 3
    qtbot.keyClick(dialog.steps, Qt.Key.Key_Delete)
    assert dialog.steps.count() == n - 1
    assert first not in " ".join(titles(dialog))
    dialog.planned.setChecked(False)
    assert all(i.part != "warm_up" for i in model.items)
    dialog.search.setText("zzz")
    assert dialog.found.count() == 0
    dialog._add(dialog.found.currentItem())
    dialog.search.setText("")
    dialog._add(dialog.found.currentItem())
    assert dialog.steps.count() == n


def test_one_key_begins_it_and_it_goes_from_step_to_step(
    qtbot: QtBot, window: MainWindow, dialog: WarmUpDialog
) -> None:
    dialog._usual()
    dialog.accept()
    window.run_command("warm_up")
    walk = window.stand_model.walk
    assert window._places.currentWidget() is window.stand
    assert walk.leg is not None
    first = walk.leg.item
    assert first.by_times
    assert window.session.now.jig.id == first.jig_id
    window.stand_model.stop()
    walk.heard(window.session.now.jig, False)
    assert walk.asks
    assert walk.line.startswith("Played.")
    walk.leave()
    dialog.begun.emit()
    assert walk.run is not None
    window.stand_model.stop()


def test_without_a_warm_up_the_key_opens_its_making(window: MainWindow) -> None:
    window.run_command("warm_up")
    assert window._places.currentWidget() is window.daybook
    assert window.daybook.today.dialog is not None
    assert window.daybook.today.dialog.isVisible()
