"""Remarks that are spoken at a note: begun and ended by one key, kept, heard, given away."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from PyQt6.QtCore import QEvent
from PyQt6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from jigwright.services.recording import CaptureRequest, CaptureState, InputDevice
from jigwright.services.recordings import FOLDER, read_note
from jigwright.services.records import Remark
from jigwright.services.take_fields import read_remark, written_remark
from jigwright.ui.main_window import MainWindow
from jigwright.ui.viewmodels.desk import spoken as spoken_module
from jigwright.ui.viewmodels.desk.remarks import Remarks
from jigwright.ui.viewmodels.desk.spoken import LEAST_S, MOST_S, SpokenRemarks

_WAIT = 30_000


class Microphone:
    """A stand-in: a file of some seconds at once, its states as they are asked for."""

    def __init__(self, seconds: float) -> None:
        self.seconds, self.closed = seconds, False
        self.told: list[CaptureState] = [CaptureState(running=True, seconds=seconds)]
        self.ended = False

    def start(self, request: CaptureRequest) -> None:
        self.device_id = request.device_id
        t = np.arange(round(self.seconds * 48_000)) / 48_000
        soundfile.write(request.to, 0.2 * np.sin(2 * np.pi * 220 * t), 48_000, subtype="FLOAT")

    def messages(self) -> tuple[list[CaptureState], bool]:
        told, self.told = self.told, []
        return told, self.ended

    def close(self) -> None:
        self.closed = True


@pytest.fixture
def speak(window: MainWindow) -> Callable[..., tuple[SpokenRemarks, Microphone]]:
    window.session.use_input(InputDevice(id="mic", name="Room"))
    window.go("desk")

    def make(seconds: float = 2.0, *, taken: bool = False) -> tuple[SpokenRemarks, Microphone]:
        microphone = Microphone(seconds)
        spoken = SpokenRemarks(
            window.studio, window.session, Remarks(window.studio, window.session),
            window.stand_model.keeper, lambda: microphone, is_taken=lambda: taken, parent=window,
        )  # fmt: skip
        window.desk.speak_with(spoken)
        window.desk.slip.refresh()
        return spoken, microphone

    return make


def buttons(window: MainWindow) -> dict[str, QPushButton]:
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    return {b.accessibleName(): b for b in window.desk.slip.findChildren(QPushButton)}


def recordings(window: MainWindow) -> list[Path]:
    folder = window.studio.folder / FOLDER
    return sorted(folder.iterdir()) if folder.exists() else []


def test_one_key_begins_and_ends_it_and_it_is_held_to_the_note(
    qtbot: QtBot, window: MainWindow, speak: Callable[..., Any]
) -> None:
    spoken, microphone = speak()
    window.model.select(2)
    note = window.model.selected_note()
    take, note_id = window.model.take, window.model.selected_note_id()
    window.run_command("remark")
    assert spoken.speaking
    assert microphone.device_id == "mic"
    qtbot.waitUntil(lambda: spoken.seconds == 2.0, timeout=_WAIT)
    assert "Speaking, 2 s – end it (W)" in buttons(window)
    window.run_command("remark")
    assert not spoken.speaking
    assert microphone.closed
    qtbot.waitUntil(lambda: bool(window.studio.remarks(take.id)), timeout=_WAIT)
    (remark,) = window.studio.remarks(take.id)
    assert (remark.note_id, remark.words) == (note_id, "Spoken remark, 2 s")
    assert remark.at_s == note.measured.segment.onset_s
    kept = window.studio.take(remark.spoken)
    assert kept.jig_id is None
    assert kept.duration_s == pytest.approx(2.0, abs=0.01)
    assert not recordings(window)
    played: list[str] = []
    window.sound.play_span = lambda take_id, *_a, **_k: played.append(take_id)
    buttons(window)["Hear the remark"].click()
    assert played == [kept.id]
    window.studio.change("bin_take", kept.id, {"binned": 1})
    window.desk.slip.refresh()
    assert "Hear the remark" not in buttons(window)
    assert "Take the remark away" in buttons(window)


def test_without_a_note_it_is_about_the_take(
    qtbot: QtBot, window: MainWindow, speak: Callable[..., Any]
) -> None:
    spoken, _ = speak()
    window.model.select(None)
    assert "Speak a remark (W)" in buttons(window)
    window.desk.slip.speak()
    qtbot.waitUntil(lambda: spoken.seconds > 0, timeout=_WAIT)
    window.desk.slip.speak()
    take = window.model.take
    qtbot.waitUntil(lambda: bool(window.studio.remarks(take.id)), timeout=_WAIT)
    (remark,) = window.studio.remarks(take.id)
    assert (remark.note_id, remark.at_s) == (None, 0.0)
    assert "Hear the remark" in buttons(window)


@pytest.mark.parametrize(("seconds", "kept"), [(LEAST_S - 0.05, False), (LEAST_S + 0.05, True)])
def test_a_touch_of_the_key_keeps_nothing_and_says_so(
    qtbot: QtBot, window: MainWindow, speak: Callable[..., Any], seconds: float, kept: bool
) -> None:
    spoken, _ = speak(seconds)
    said: list[str] = []
    spoken.message.connect(said.append)
    take = window.model.take
    spoken.begin(take.id, 1.0, None)
    spoken.end()
    assert said == (
        [] if kept else ["Too short: nothing was kept. Press once, speak, press again."]
    )
    if kept:
        qtbot.waitUntil(lambda: bool(window.studio.remarks(take.id)), timeout=_WAIT)


def test_it_ends_by_itself_after_a_minute_and_where_the_microphone_goes(
    qtbot: QtBot, window: MainWindow, speak: Callable[..., Any]
) -> None:
    spoken, microphone = speak(3.0)
    take = window.model.take
    said: list[str] = []
    spoken.message.connect(said.append)
    spoken.begin(take.id, 1.0, None)
    microphone.told = [
        CaptureState(running=False, seconds=3.0, trouble="lost_device", detail="Room")
    ]
    qtbot.waitUntil(lambda: len(window.studio.remarks(take.id)) == 1, timeout=_WAIT)
    assert not spoken.speaking
    assert len(said) == 1
    spoken.begin(take.id, 1.0, None)
    microphone.told = [CaptureState(running=True, seconds=MOST_S)]
    qtbot.waitUntil(lambda: not spoken.speaking, timeout=_WAIT)


def test_it_is_offered_only_where_a_free_microphone_is(
    window: MainWindow, speak: Callable[..., Any]
) -> None:
    taken, _ = speak(taken=True)
    assert not taken.can_speak
    assert "Speak a remark (W)" not in buttons(window)
    taken.begin(window.model.take.id, 0.0, None)
    assert not taken.speaking
    spoken, _ = speak()
    assert spoken.can_speak
    window.session.use_input(InputDevice(id="simulated", name="The simulated player"))
    assert not spoken.can_speak


def test_who_leaves_the_desk_has_said_it(
    qtbot: QtBot, window: MainWindow, speak: Callable[..., Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    spoken, microphone = speak()
    monkeypatch.setattr(window, "spoken", spoken)
    take = window.model.take
    spoken.begin(take.id, 0.0, None)
    window.go("tables")
    assert microphone.closed
    assert not spoken.speaking
    qtbot.waitUntil(lambda: bool(window.studio.remarks(take.id)), timeout=_WAIT)


def test_an_interruption_loses_nothing_that_was_said(
    qtbot: QtBot, window: MainWindow, speak: Callable[..., Any]
) -> None:
    spoken, microphone = speak()
    take, said = window.model.take, []
    spoken.begin(take.id, 1.25, "n2")
    wav = next(p for p in recordings(window) if p.suffix == ".wav")
    note = read_note(wav)
    assert note is not None
    assert note.player_id == take.player_id
    assert (note.about.take_id, note.about.at_s, note.about.note_id) == (take.id, 1.25, "n2")
    window.leftovers.look()  # it is being spoken: nobody touches it
    assert not window.studio.remarks(take.id)
    spoken.let_be()  # as when the window is closed, or was killed
    assert microphone.closed
    assert not spoken.speaking
    assert wav.exists()
    spoken.let_be()  # once more changes nothing
    assert wav.exists()
    window.leftovers.message.connect(said.append)
    window.leftovers.look()  # the next start
    window.leftovers.look()  # twice: it is kept once
    assert window.leftovers.offered is None
    qtbot.waitUntil(lambda: bool(window.studio.remarks(take.id)), timeout=_WAIT)
    qtbot.waitUntil(lambda: not recordings(window), timeout=_WAIT)
    (remark,) = window.studio.remarks(take.id)
    assert (remark.note_id, remark.at_s, remark.who) == ("n2", 1.25, note.player)
    assert remark.words == "Spoken remark, 2 s"
    assert window.studio.take(remark.spoken).player_id == note.player_id
    assert not said


def test_what_was_said_of_a_take_that_has_gone_stays_a_take(
    qtbot: QtBot, window: MainWindow, speak: Callable[..., Any]
) -> None:
    spoken, _ = speak()
    before = {t.id for t in window.studio.takes()}
    spoken.begin("take-gone", 0.0, None)
    spoken.end()
    qtbot.waitUntil(lambda: len(window.studio.takes()) > len(before), timeout=_WAIT)
    (kept,) = [t for t in window.studio.takes() if t.id not in before]
    assert kept.source_name == "Spoken remark"
    assert not window.studio.remarks("take-gone")


def test_a_folder_that_cannot_be_written_is_said_and_no_microphone_is_opened(
    window: MainWindow, speak: Callable[..., Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    spoken, _ = speak()
    said: list[str] = []
    spoken.message.connect(said.append)

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(spoken_module, "write_note", full)
    spoken.begin(window.model.take.id, 0.0, None)
    assert not spoken.speaking
    assert len(said) == 1


def test_a_remark_that_is_given_away_leaves_its_sound_here() -> None:
    remark = Remark(
        id="remark-1", take_id="t", note_id=None, at_s=1.5, who="Odo", words="lighter",
        utc="2026-11-05T10:00:00Z", spoken="t9",
    )  # fmt: skip
    row = written_remark(remark)
    assert "spoken" not in row
    assert set(row) == set(asdict(remark)) - {"spoken"}
    assert read_remark(row, "r", "t") == replace(remark, spoken=None)
