"""A sentence spoken after a take: off until asked for, never into the playing."""

from __future__ import annotations

from pathlib import Path
from types import SimpleNamespace

import pytest
from pytestqt.qtbot import QtBot

from builders import KeptSettings
from jigwright.services.recording import EarSays
from jigwright.services.take_flow import TakeFlow
from jigwright.ui.main_window import MainWindow
from jigwright.ui.viewmodels.stand.speaking import Speaking
from jigwright.wording.catalogue import use_language
from jigwright.wording.speaking import spoken


class Voice:
    """A voice that says what the test lets it say."""

    def __init__(self, state: str = "Ready") -> None:
        self.lines: list[str] = []
        self.languages: list[str] = []
        self.stopped = 0
        self.state_name = state

    def setLocale(self, locale) -> None:  # noqa: N802
        self.languages.append(locale.name()[:2])

    def say(self, text: str) -> None:
        self.lines.append(text)

    def stop(self) -> None:
        self.stopped += 1

    def state(self) -> object:
        from PyQt6.QtTextToSpeech import QTextToSpeech

        return QTextToSpeech.State[self.state_name]


@pytest.fixture
def speaking(qapp) -> Speaking:
    made = Speaking(KeptSettings())  # type: ignore[arg-type]
    made._voice = Voice()  # type: ignore[assignment]
    return made


def done(speaking: Speaking, name: str = "Ready") -> None:
    speaking._state(SimpleNamespace(name=name))  # type: ignore[arg-type]


# sentences ----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("said", "aloud"),
    [
        (("Listen to the F♯", "coming from G"), "Listen to the F sharp. coming from G."),
        (("Nothing to mend", "15 notes, all inside."), "Nothing to mend. 15 notes, all inside."),
        (("B♭4", ""), "B flat4."), (("", " "), ""),
        (("19 c low", "±1 c"), "19 cents low. plus or minus 1 cents."),
        (("in tune · every note",), "in tune, every note."), (("−3",), "minus 3."),
        (("G3–D4",), "G3 D4."), (("E♮",), "E."),
    ],
)  # fmt: skip
def test_signs_are_said_in_words(said: tuple[str, ...], aloud: str) -> None:
    assert spoken(*said) == aloud


def test_other_languages_have_their_own_words() -> None:
    use_language("de")
    try:
        assert "Cent" in spoken("19 c zu tief")
    finally:
        use_language("en")


# the voice ----------------------------------------------------------------------------------------


def test_it_is_silent_until_asked_for_and_remembers(speaking: Speaking) -> None:
    assert not speaking.on
    assert not speaking.say("Nothing to mend")
    speaking.toggle()
    assert speaking.on
    assert speaking.say("Nothing to mend", "all inside")
    assert speaking.busy
    assert speaking._voice.lines == ["Nothing to mend. all inside."]  # type: ignore[union-attr]
    assert speaking._voice.languages == ["en"]  # type: ignore[union-attr]
    again = Speaking(speaking._studio)
    assert again.on
    speaking.toggle()
    assert not speaking.on
    assert not speaking.busy
    assert not speaking.say("Nothing to mend")


def test_it_says_when_it_is_over_once(speaking: Speaking) -> None:
    ends: list[int] = []
    speaking.over.connect(lambda: ends.append(1))
    speaking.toggle()
    speaking.say("One")
    done(speaking, "Speaking")
    assert ends == []
    done(speaking)
    done(speaking)
    assert ends == [1]
    speaking.say("Two")
    done(speaking, "Error")
    assert ends == [1, 1]
    speaking.say("Three")
    speaking.stop()
    assert ends == [1, 1, 1]
    assert speaking._voice.stopped == 1  # type: ignore[union-attr]
    speaking.stop()
    assert ends == [1, 1, 1]
    assert not speaking.say("", " ")


def test_a_voice_that_never_ends_is_not_waited_for(qtbot: QtBot, speaking: Speaking) -> None:
    speaking.toggle()
    speaking._late.setInterval(5)
    speaking.say("One")
    with qtbot.waitSignal(speaking.over, timeout=5000):
        pass
    assert not speaking.busy


def test_without_a_voice_it_says_so_and_stays_silent(qapp, monkeypatch) -> None:
    from PyQt6.QtTextToSpeech import QTextToSpeech

    monkeypatch.setattr(QTextToSpeech, "availableEngines", lambda: ["mock"])
    made = Speaking(KeptSettings())  # type: ignore[arg-type]
    said: list[str] = []
    made.message.connect(said.append)
    made.toggle()
    assert not made.on
    assert "no voice" in said[0]
    broken = Speaking(KeptSettings())  # type: ignore[arg-type]
    broken._voice = Voice("Error")  # type: ignore[assignment]
    broken.toggle()
    assert not broken.on


# in the flow --------------------------------------------------------------------------------------


def test_nothing_that_sounds_while_it_speaks_is_playing() -> None:
    flow = TakeFlow()
    flow.state = "waiting"
    assert flow.begin_before("speaking")
    assert flow.is_before
    playing = EarSays(frames=(), notes=(), i_event=None, take=(1.0, 2.0), since_s=1.0)
    assert flow.hear(playing) == (False, None)
    assert flow.hand_over() == "speaking"
    assert flow.state == "waiting"
    flow.state = "playing"
    assert not flow.begin_before("speaking"), "never while somebody plays"


def test_the_stand_speaks_what_stands_there(window: MainWindow, tmp_path: Path) -> None:
    stand = window.stand_model
    stand.speaking._voice = Voice()  # type: ignore[assignment]
    window.go("stand")
    stand._speak()
    assert stand.speaking._voice.lines == []  # type: ignore[union-attr]
    window.stand._speak.click()
    assert stand.speaking.on
    assert window.stand._speak.isChecked()
    stand._speak()
    assert stand.speaking._voice.lines == [], "nothing was said yet"  # type: ignore[union-attr]
    stand.what_stands = lambda: ("Listen to the F♯", "coming from G")
    stand.flow.state = "waiting"
    stand._speak()
    assert stand.speaking._voice.lines == ["Listen to the F sharp. coming from G."]  # type: ignore[union-attr]
    assert stand.state == "speaking"
    done(stand.speaking)
    assert stand.state == "waiting"
    stand.flow.state = "asking"
    stand._speak()
    assert len(stand.speaking._voice.lines) == 1, "the ear is asked first"  # type: ignore[union-attr]
    stand.flow.state = "off"
    stand.stop()
