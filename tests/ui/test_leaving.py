"""Every state of the Stand is left without the mouse, and nothing leaks into the next exercise."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from aim_builders import jig_of
from jigwright.core.jig.aims import aims
from jigwright.core.judge.verdict import Verdict
from jigwright.services.recording import SIMULATED, InputDevice
from jigwright.ui.main_window import MainWindow


@pytest.fixture
def stand(window: MainWindow):
    window.go("stand")
    model = window.stand_model
    model.choose_device(InputDevice(id=SIMULATED, name="simulated player"))
    return model


def escape(qtbot: QtBot, window: MainWindow) -> None:
    qtbot.keyClick(window.stand.sheet, Qt.Key.Key_Escape)


def hold(window: MainWindow, key: Qt.Key, times: int) -> None:
    """A pedal that stays down: one press, then its repeats."""
    sheet = window.stand.sheet
    for i in range(times):
        kind = QEvent.Type.KeyPress
        event = QKeyEvent(kind, key, Qt.KeyboardModifier.NoModifier, "", i > 0)
        QApplication.sendEvent(sheet, event)


@pytest.mark.parametrize(
    "mode", ["slowest", "lanes", "bowing", "echo", "touch", "strings", "lesson"]
)
def test_escape_leaves_every_mode(qtbot: QtBot, window: MainWindow, stand, mode: str) -> None:
    stand.set_mode(mode)
    assert stand.mode == mode
    escape(qtbot, window)
    assert stand.mode == "jig"
    assert not stand.listening
    assert (stand.guided, stand.lesson) == (None, None)


def test_escape_goes_from_inside_outwards(qtbot: QtBot, window: MainWindow, stand) -> None:
    stand.companions.cycle_drone()
    stand.companions.toggle_click()
    stand.set_turns(True)
    stand.set_ear_first(True)
    stand.told.verdict = Verdict(kind="clean", row=None)
    stand.begin()
    assert stand.listening or stand.state == "preparing"
    escape(qtbot, window)
    assert not stand.listening
    assert stand.state == "off"
    assert stand.companions.sounding
    escape(qtbot, window)
    assert not stand.companions.sounding
    assert stand.turns.on
    escape(qtbot, window)
    assert not stand.turns.on
    assert stand.ear.on
    escape(qtbot, window)
    assert not stand.ear.on
    stand.told.verdict = Verdict(kind="clean", row=None)
    escape(qtbot, window)
    assert stand.told.verdict is None
    assert not stand.leave(), "there is nothing more to leave"


def test_a_held_left_pedal_leaves_once_and_a_right_one_does_nothing_more(
    window: MainWindow, stand
) -> None:
    stand.set_ear_first(True)
    stand.set_mode("strings")
    hold(window, Qt.Key.Key_PageUp, 1)
    assert stand.mode == "strings", "a short press is no leaving"
    hold(window, Qt.Key.Key_PageUp, 6)
    assert stand.mode == "jig"
    assert stand.ear.on, "one step, however long it is held"
    hold(window, Qt.Key.Key_PageUp, 3)
    assert not stand.ear.on, "pressed anew it goes on"
    stand.told.verdict = Verdict(kind="clean", row=None)
    stand.set_mode("strings")
    hold(window, Qt.Key.Key_PageDown, 6)
    assert stand.mode == "strings"


def test_pedals_reach_the_sheet_and_not_the_shelf(qtbot: QtBot, window: MainWindow, stand) -> None:
    """The window's own page keys turn takes at the Desk."""
    window.stand.sheet.setFocus()
    stand.told.show_direction = False
    qtbot.keyClick(window.stand.sheet, Qt.Key.Key_PageUp)
    assert stand.told.show_direction
    override = QKeyEvent(
        QEvent.Type.ShortcutOverride, Qt.Key.Key_PageUp, Qt.KeyboardModifier.NoModifier
    )
    override.ignore()
    QApplication.sendEvent(window.stand.sheet, override)
    assert override.isAccepted()
    other = QKeyEvent(QEvent.Type.ShortcutOverride, Qt.Key.Key_G, Qt.KeyboardModifier.NoModifier)
    other.ignore()
    QApplication.sendEvent(window.stand.sheet, other)
    assert not other.isAccepted()


def test_another_exercise_begins_in_silence_and_a_changed_one_goes_on(
    window: MainWindow, stand
) -> None:
    jig = window.session.now.jig
    assert jig is not None
    stand.companions.cycle_drone()
    stand.companions.set_pulse(subdivisions=3, silent_bars=1)
    window.session.revise_jig(replace(jig, aims=aims("every_note")))
    assert stand.companions.sounding, "its aims only are others"
    other = replace(jig_of("D4 E4"), id="other")
    window.studio.add_jig(other, utc="2026-11-01T10:00:00Z")
    window.session.set_jig(other)
    assert not stand.companions.sounding
    assert (stand.companions.subdivisions, stand.companions.silent_bars) == (1, 0)


def test_simulated_takes_say_where_they_come_from(stand) -> None:
    assert stand.source == "simulated"
    stand.choose_device(InputDevice(id="hw", name="microphone"))
    assert stand.source == "Stand"
