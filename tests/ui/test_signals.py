"""Signals that are plucked at the Stand: asked for, learnt, and doing what the pedals do."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from jigwright.core.sound.pluck_signals import FEWEST, MOST
from jigwright.services.recording import EarSays
from jigwright.ui.main_window import MainWindow
from jigwright.ui.viewmodels.stand.signals import BACK, GO_ON, PluckedSignals
from jigwright.wording.catalogue import use_language

WORD = EarSays(frames=(), notes=(), i_event=None, take=None)


@pytest.fixture
def signals(window: MainWindow) -> PluckedSignals:
    window.go("stand")
    return window.stand_model.signals


def learn(signals: PluckedSignals) -> None:
    signals.heard(GO_ON)
    signals.heard(BACK)


def test_off_until_asked_for_then_each_is_tried_once(
    window: MainWindow, signals: PluckedSignals
) -> None:
    given: list[int] = []
    signals.given.connect(given.append)
    assert not signals.on
    signals.heard(GO_ON)
    window.stand._plucks.click()
    assert signals.on
    assert window.stand._plucks.isChecked()
    assert window.stand_model.sitting.signals
    assert window.stand.words()[0] == "Pluck the G string twice"
    signals.heard(BACK)
    assert signals.asks == GO_ON, "three are not two"
    signals.heard(GO_ON)
    assert window.stand.words()[0] == "Now three times"
    signals.heard(GO_ON)
    assert signals.asks == BACK
    signals.heard(BACK)
    assert signals.asks is None
    assert given == []
    signals.heard(GO_ON)
    signals.heard(0)
    assert given == [GO_ON]
    window.stand._plucks.click()
    assert not signals.on
    assert not window.stand_model.sitting.signals
    signals.heard(GO_ON)
    assert given == [GO_ON]


def test_two_and_three_are_what_the_ear_tells() -> None:
    assert (GO_ON, BACK) == (2, 3)
    assert {GO_ON, BACK} == {FEWEST, MOST}


def test_they_are_remembered_and_not_learnt_again(
    window: MainWindow, signals: PluckedSignals
) -> None:
    signals.toggle()
    learn(signals)
    again = PluckedSignals(window.studio, lambda: window.session.now.strings)
    assert again.on
    assert again.asks is None


def test_to_learn_them_the_stand_listens_and_escape_leaves(
    qtbot: QtBot, window: MainWindow, signals: PluckedSignals
) -> None:
    signals.toggle()
    stand = window.stand_model
    assert stand.listening or stand.state == "preparing"
    assert window.stand.key(Qt.Key.Key_Escape)
    assert signals.asks is None
    assert signals.on
    assert not signals.learnt()
    stand.stop()


@pytest.mark.parametrize(
    ("plucks", "key"), [(GO_ON, Qt.Key.Key_PageDown), (BACK, Qt.Key.Key_PageUp)]
)
def test_a_signal_does_what_its_pedal_does(
    window: MainWindow, signals: PluckedSignals, monkeypatch: pytest.MonkeyPatch, plucks: int,
    key: Qt.Key,
) -> None:  # fmt: skip
    signals.toggle()
    learn(signals)
    pressed: list[Qt.Key] = []
    monkeypatch.setattr(window.stand, "key", lambda k, **_: pressed.append(k))
    window.stand_model._heed(replace(WORD, signal=plucks))
    assert pressed == [key]
    window.stand_model._heed(WORD)
    assert len(pressed) == 1


def test_nothing_becomes_a_take_while_they_are_learnt(
    window: MainWindow, signals: PluckedSignals, monkeypatch: pytest.MonkeyPatch
) -> None:
    ended: list[object] = []
    monkeypatch.setattr(window.stand_model, "_take_ended", lambda *a: ended.append(a))
    signals.toggle()
    window.stand_model._heed(replace(WORD, take=(0.0, 1.0)))
    assert ended == []


def test_the_string_is_the_players_own_and_german(
    window: MainWindow, signals: PluckedSignals
) -> None:
    use_language("de")
    try:
        signals.toggle()
        word, line = signals.words()
        assert word == "Die G-Saite zweimal zupfen"
        assert "rechte Pedal" in line
        signals.heard(GO_ON)
        assert signals.words()[0] == "Jetzt dreimal"
    finally:
        use_language("en")
