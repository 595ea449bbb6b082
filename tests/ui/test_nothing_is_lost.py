"""Recordings survive a dead ear, worker and recorder, and come back as takes: once, and all."""

from __future__ import annotations

import os
import signal
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel
from pytestqt.qtbot import QtBot

from jigwright.audio.files import SndFiles
from jigwright.audio.wav_stream import WavWriter
from jigwright.core.errors import StoreError
from jigwright.services.recording import SIMULATED, InputDevice
from jigwright.services.recordings import RecordingNote, cut_name, write_note
from jigwright.services.take_reader import View
from jigwright.store.opening import open_studio
from jigwright.ui.main_window import MainWindow
from signals import perform, scale

_WAIT = 60_000
pytestmark = pytest.mark.fails_on_purpose


@pytest.fixture
def stand(qtbot: QtBot, window: MainWindow):
    window.go("stand")
    model = window.stand_model
    model.choose_device(InputDevice(id=SIMULATED, name="simulated player"))
    model.speed = 5.0
    return model


def _kill(stream) -> None:
    os.kill(stream.pid, signal.SIGKILL)


def _takes(window: MainWindow):
    return window.studio.takes()


def test_another_ear_takes_over_and_nothing_of_the_take_is_missing(
    qtbot: QtBot, window: MainWindow, stand
) -> None:
    n = len(_takes(window))
    stand.toggle()
    qtbot.waitUntil(lambda: (stand.live.i_event or 0) >= 4, timeout=_WAIT)
    begun = stand.growing.ledger.playing_s
    _kill(stand._streams._open[1])
    qtbot.waitUntil(lambda: "begun again" in window.strip.message.text(), timeout=1000)
    qtbot.waitUntil(lambda: len(_takes(window)) > n, timeout=_WAIT)
    stand.stop()
    first = _takes(window)[n]
    heard = window.studio.heard(first.id)
    assert len(heard.segments) == 15  # from the first note on, though two ears heard it
    assert 0.1 < heard.segments[0].onset_s <= 2.05  # what sounded before it is kept too
    assert begun is not None


def test_without_any_ear_all_is_recorded_and_heard_afterwards(
    qtbot: QtBot, window: MainWindow, stand
) -> None:
    n = len(_takes(window))
    stand.toggle()
    qtbot.waitUntil(lambda: stand.live.level.seconds > 0.2, timeout=_WAIT)
    for _ in range(3):
        assert stand.sitting.hearing.died()
    _kill(stand._streams._open[1])
    qtbot.waitUntil(lambda: stand.sitting.hearing.given_up, timeout=1000)
    assert "recorded" in window.strip.message.text()
    assert stand.listening
    qtbot.waitUntil(lambda: stand.live.level.seconds > 14.0, timeout=_WAIT)
    path = stand.growing.path
    stand.stop()
    qtbot.waitUntil(lambda: len(_takes(window)) > n, timeout=_WAIT)
    qtbot.waitUntil(lambda: not path.exists(), timeout=_WAIT)
    assert _takes(window)[n].jig_id == window.session.now.jig.id


def test_a_worker_that_dies_while_cutting_is_tried_again(
    qtbot: QtBot, window: MainWindow, stand
) -> None:
    n = len(_takes(window))
    stand.toggle()
    qtbot.waitUntil(lambda: (stand.live.i_event or 0) >= 4, timeout=_WAIT)
    stand.toggle()
    assert stand.state == "judging"
    os.kill(window.jobs._worker._process.pid, signal.SIGKILL)
    qtbot.waitUntil(lambda: len(_takes(window)) == n + 1, timeout=_WAIT)
    qtbot.waitUntil(lambda: not list(_folder(window).glob("*")), timeout=_WAIT)


def _folder(window: MainWindow) -> Path:
    return window.studio.folder / "recording"


def test_a_recorder_that_dies_keeps_what_was_played(
    qtbot: QtBot, window: MainWindow, stand
) -> None:
    n = len(_takes(window))
    stand.toggle()
    qtbot.waitUntil(lambda: (stand.live.i_event or 0) >= 4, timeout=_WAIT)
    recorded = stand.live.level.seconds
    _kill(stand._streams._open[0])
    qtbot.waitUntil(lambda: not stand.listening, timeout=1000)
    text = window.strip.message.text()
    assert "recorder stopped" in text
    assert "becomes a take" in text
    qtbot.waitUntil(lambda: len(_takes(window)) == n + 1, timeout=_WAIT)
    assert _takes(window)[-1].duration_s > recorded - 2.5
    qtbot.waitUntil(lambda: not list(_folder(window).glob("*")), timeout=_WAIT)


def test_a_recorder_that_dies_in_a_lesson_keeps_the_lesson(
    qtbot: QtBot, window: MainWindow, stand
) -> None:
    stand.set_mode("lesson")
    stand.toggle()
    qtbot.waitUntil(lambda: stand.live.level.seconds > 6.0, timeout=_WAIT)
    _kill(stand._streams._open[0])
    free = lambda: [t for t in _takes(window) if t.jig_id is None]  # noqa: E731
    qtbot.waitUntil(lambda: len(free()) == 1, timeout=_WAIT)
    assert free()[0].duration_s > 5.0
    qtbot.waitUntil(lambda: not list(_folder(window).glob("*")), timeout=_WAIT)


def test_what_cannot_be_kept_stays_and_is_offered_under_its_own_player(
    qtbot: QtBot, window: MainWindow, stand, monkeypatch: pytest.MonkeyPatch
) -> None:
    n, real = len(_takes(window)), window.studio.add_take

    def full(*_: object, **__: object) -> None:
        raise StoreError("full", "no space")

    monkeypatch.setattr(window.studio, "add_take", full)
    stand.toggle()
    qtbot.waitUntil(lambda: (stand.live.i_event or 0) >= 4, timeout=_WAIT)
    path = stand.growing.path
    stand.toggle()
    qtbot.waitUntil(lambda: window.leftovers.waiting != (), timeout=_WAIT)
    assert path.exists()
    assert path.name in window.strip.message.text()
    assert "disk is full" in window.strip.message.text()
    assert window.leftovers.offered is None  # not at once again: the disk is still full
    monkeypatch.setattr(window.studio, "add_take", real)
    window.leftovers._later.clear()
    window.leftovers.look()
    assert window.leftover_bar.isVisible()
    assert "Nell Harbour" in window.leftover_bar.about.text()
    qtbot.mouseClick(window.leftover_bar.keep, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(_takes(window)) == n + 1, timeout=_WAIT)
    qtbot.waitUntil(lambda: not path.exists(), timeout=_WAIT)
    qtbot.waitUntil(lambda: not window.leftover_bar.isVisible(), timeout=_WAIT)


def test_closing_while_judging_loses_nothing(
    qtbot: QtBot, open_window: Callable[..., MainWindow], studio_copy: Path
) -> None:
    window = open_window(studio_copy)
    n = len(_takes(window))
    window.go("stand")
    model = window.stand_model
    model.choose_device(InputDevice(id=SIMULATED, name="simulated player"))
    model.speed = 5.0
    model.toggle()
    qtbot.waitUntil(lambda: (model.live.i_event or 0) >= 4, timeout=_WAIT)
    path = model.growing.path
    model.stop()
    assert model.state == "judging"
    window.close()
    assert path.exists()
    window.studio.close()
    again = open_window(studio_copy)
    assert again.leftover_bar.isVisible()
    qtbot.mouseClick(again.leftover_bar.keep, Qt.MouseButton.LeftButton)
    assert "being listened to" in again.leftover_bar.about.text()
    qtbot.waitUntil(lambda: len(_takes(again)) == n + 1, timeout=_WAIT)
    qtbot.waitUntil(lambda: not path.exists(), timeout=_WAIT)
    assert _takes(again)[-1].player_id == "p"


# left behind ---------------------------------------------------------------------------------


def _leave(folder: Path, name: str, samples: np.ndarray, note: RecordingNote | None) -> Path:
    """A recording as a killed process leaves it: no length in its header."""
    folder.mkdir(exist_ok=True)
    path = folder / f"{name}.wav"
    writer = WavWriter(path, 48_000)
    writer.write(samples.astype(np.float32))
    writer._file.close()
    if note is not None:
        write_note(path, replace(note, id=name))
    return path


def _note(window_or_studio, **more: object) -> RecordingNote:
    jig = scale()
    usual = RecordingNote(
        id="x", started_utc="2026-11-05T18:20:00Z", utc_offset_min=60, player_id="q",
        player="Oda Quay", instrument_id="i", kind="violin",
        strings=tuple(window_or_studio.instruments()[0].strings), jig_id=jig.id,
        jig_revision=jig.revision, title=jig.title, a4_hz=442.0, reference="equal",
        tolerance_cents=10.0, input_name="microphone", source="Stand", keeps="takes",
    )  # fmt: skip
    return replace(usual, **more)


@pytest.fixture
def two_takes() -> np.ndarray:
    one = perform(scale(tempo=240.0), "").sound.samples
    gap = 1e-4 * np.random.default_rng(0).standard_normal(7 * 24_000)
    return np.concatenate([gap[:48_000], one, gap, one, gap])


def test_left_behind_is_offered_at_start_and_cut_into_its_takes_once(
    qtbot: QtBot, open_window: Callable[..., MainWindow], studio_copy: Path, two_takes: np.ndarray
) -> None:
    studio = open_studio(studio_copy)
    note = _note(studio)
    studio.close()
    folder = studio_copy / "recording"
    broken = _leave(folder, "a-broken", two_takes[:100], None)
    broken.write_bytes(b"not a recording" * 20_000)
    path = _leave(folder, "b-two", two_takes, note)
    window = open_window(studio_copy)
    bar, n = window.leftover_bar, len(_takes(window))
    assert bar.isVisible()  # at start, wherever one is
    assert [one.path for one in window.leftovers.waiting] == [broken, path]
    assert "not written down" in bar.about.text()
    qtbot.mouseClick(bar.later, Qt.MouseButton.LeftButton)
    assert "19:20" in bar.title.text()
    assert "Oda Quay" in bar.about.text()
    assert "A 442" in bar.about.text()
    qtbot.mouseClick(bar.keep, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not path.exists(), timeout=_WAIT)
    new = _takes(window)[n:] + _takes(window)[:n]
    mine = [t for t in new if t.player_id == "q"]
    assert len(mine) == 2
    assert [t.jig_id for t in mine] == [scale().id] * 2
    assert [t.a4_hz for t in mine] == [442.0] * 2
    assert mine[0].recorded_utc < mine[1].recorded_utc
    assert mine[0].recorded_utc.startswith("2026-11-05T18:20:0")
    assert [len(window.studio.heard(t.id).segments) for t in mine] == [15, 15]
    assert window.strip.message.text() == "2 takes were made of it: Oda Quay."
    assert broken.exists()


def test_what_was_kept_before_the_crash_is_not_made_twice(
    qtbot: QtBot, open_window: Callable[..., MainWindow], studio_copy: Path, two_takes: np.ndarray
) -> None:
    studio = open_studio(studio_copy)
    note = _note(studio, player_id="p")
    studio._db.execute("INSERT INTO cut VALUES ('t0', 'b-two', 0.5, ?)", (len(two_takes) / 96_000,))
    studio.close()
    path = _leave(studio_copy / "recording", "b-two", two_takes, note)
    window = open_window(studio_copy)
    n = len(_takes(window))
    window.leftovers.keep()
    qtbot.waitUntil(lambda: not path.exists(), timeout=_WAIT)
    assert len(_takes(window)) == n + 1


def test_one_without_playing_is_asked_about_and_can_be_kept_whole_or_discarded(
    qtbot: QtBot, open_window: Callable[..., MainWindow], studio_copy: Path
) -> None:
    noise = 1e-3 * np.random.default_rng(1).standard_normal(4 * 48_000)
    studio = open_studio(studio_copy)
    note = _note(studio, player_id="p")
    studio.close()
    folder = studio_copy / "recording"
    one, two = _leave(folder, "a", noise, note), _leave(folder, "b", noise, note)
    window = open_window(studio_copy)
    bar, n = window.leftover_bar, len(_takes(window))
    qtbot.mouseClick(bar.keep, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "kept whole" in bar.about.text(), timeout=_WAIT)
    assert one.exists()
    qtbot.mouseClick(bar.keep, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not one.exists(), timeout=_WAIT)
    assert len(_takes(window)) == n + 1
    qtbot.waitUntil(lambda: window.leftovers.offered is not None, timeout=_WAIT)
    qtbot.mouseClick(bar.drop, Qt.MouseButton.LeftButton)
    assert not two.exists()
    assert (folder / "discarded" / "b.wav").exists()
    assert bar.isVisible()
    qtbot.mouseClick(bar.back, Qt.MouseButton.LeftButton)
    assert two.exists()


def test_a_cut_take_that_was_never_kept_is_offered(
    qtbot: QtBot, open_window: Callable[..., MainWindow], studio_copy: Path, tmp_path: Path
) -> None:
    folder = studio_copy / "recording"
    folder.mkdir()
    sound = perform(scale(), "").sound
    path = folder / cut_name("gone", (1.0, 9.0))
    SndFiles().write_wav(path, sound.samples, sound.rate_hz)
    window = open_window(studio_copy)
    n = len(_takes(window))
    window.leftovers.keep()
    qtbot.waitUntil(lambda: len(_takes(window)) == n + 1, timeout=_WAIT)
    assert not path.exists()


def test_a_window_that_only_looks_offers_nothing(
    open_window: Callable[..., MainWindow], studio_copy: Path
) -> None:
    _leave(studio_copy / "recording", "a", np.zeros(96_000), None)
    first = open_window(studio_copy)
    second = open_window(studio_copy)
    assert first.leftovers.waiting
    assert second.studio.read_only
    assert second.leftovers.waiting == ()
    assert not second.leftover_bar.isVisible()
    QTest.qWait(0)


# a take that cannot be judged -------------------------------------------------------------------


def test_a_newest_take_that_breaks_judging_never_keeps_the_window_shut(
    qtbot: QtBot,
    open_window: Callable[..., MainWindow],
    studio_copy: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    from jigwright.services import take_reader

    def broken(*_: object, **__: object) -> None:
        raise ZeroDivisionError("two camps")

    monkeypatch.setattr(take_reader, "judge_take", broken)
    window = open_window(studio_copy)
    assert window.isVisible()
    assert window.model.take is not None
    assert window.model.judged is None
    assert window.model.failed
    for place in ("stand", "jigs", "daybook", "tables", "desk"):
        window.go(place)
    texts = [w.text() for w in window.desk.findChildren(QLabel)]
    assert any("judging this take failed" in t for t in texts)
    monkeypatch.undo()
    window.session.set_view(View(a4_hz=441.0))  # other inputs: it is tried again
    assert window.model.judged is not None
    assert not window.model.failed


def test_a_page_that_fails_says_so_and_the_others_go_on(
    qtbot: QtBot, window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    from jigwright.ui.widgets import pages

    monkeypatch.setattr(pages, "paint_ring_map", lambda *_, **__: 1 / 0)
    monkeypatch.setattr(pages.PagesModel, "ring_counts", lambda _: 1 / 0)
    window.desk.turn("ring")
    assert "this page failed" in window.desk.close_look._words.text()
    assert not window.desk.close_look.image().isNull()
    window.desk.turn("shape")
    assert "failed" not in window.desk.close_look._words.text()


def test_a_verdict_that_fails_never_holds_the_stand_up(
    qtbot: QtBot, window: MainWindow, stand, monkeypatch: pytest.MonkeyPatch
) -> None:
    n = len(_takes(window))
    monkeypatch.setattr(stand.told, "judge", lambda *_: 1 / 0)
    stand.toggle()
    qtbot.waitUntil(lambda: (stand.live.i_event or 0) >= 4, timeout=_WAIT)
    stand.toggle()
    qtbot.waitUntil(lambda: len(_takes(window)) == n + 1, timeout=_WAIT)
    assert stand.state == "off"
    assert "nothing can be said" in window.strip.message.text()


def test_the_log_is_shown_under_help_and_copied_with_one_press(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.run_command("help")
    assert not hasattr(window.help, "copy")
    window.run_command("help")
    (window.studio.folder / "failures.log").write_text("first\nsecond · ring\n")
    window.run_command("help")
    qtbot.mouseClick(window.help.copy, Qt.MouseButton.LeftButton)
    assert QApplication.clipboard().text() == "first\nsecond · ring"
    assert window.help.copy.text() == "Copied"


# a take that is sent ----------------------------------------------------------------------------


def test_a_sent_take_that_lies_in_the_bin_is_asked_about(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    path = tmp_path / "sent.take.zip"
    window.imports.give_away(window.model.take, window.model.take_jig(), path)
    qtbot.waitUntil(path.exists, timeout=_WAIT)
    take, bar = window.model.take, window.question_bar
    window.model.bin_take()
    n = len(_takes(window))
    window.files.take([path])
    qtbot.waitUntil(bar.isVisible, timeout=_WAIT)
    assert [b.text() for b in bar.buttons] == ["Bring it back", "Keep both", "Leave it there"]
    qtbot.mouseClick(bar.buttons[2], Qt.MouseButton.LeftButton)
    assert len(_takes(window)) == n
    window.files.take([path])
    qtbot.waitUntil(bar.isVisible, timeout=_WAIT)
    qtbot.mouseClick(bar.buttons[0], Qt.MouseButton.LeftButton)
    assert take.id in [t.id for t in _takes(window)]
    assert window.studio.audio_path(take).exists()
    window.files.take([path])
    qtbot.waitUntil(bar.isVisible, timeout=_WAIT)
    assert bar.words.text() == "This take is here already."
    qtbot.mouseClick(bar.buttons[1], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(_takes(window)) == n + 2, timeout=_WAIT)
