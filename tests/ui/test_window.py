from __future__ import annotations

import csv
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLabel
from pytestqt.qtbot import QtBot

from jigwright.audio.files import SndFiles
from jigwright.audio.output import RecordingOutput
from jigwright.core.player.voice import speech
from jigwright.core.values import Unmeasured
from jigwright.services.take_reader import View
from jigwright.ui.app import make_refusal
from jigwright.ui.main_window import MainWindow
from jigwright.wording.catalogue import use_language
from signals import perform, scale


def texts(window: MainWindow) -> str:
    return " | ".join(w.text() for w in window.findChildren(QLabel) if w.isVisible())


def engraved(qtbot: QtBot, window: MainWindow) -> None:
    qtbot.waitUntil(lambda: not window.desk.view.by_time, timeout=20_000)


def test_the_newest_take_is_shown_with_its_habit(qtbot: QtBot, window: MainWindow) -> None:
    engraved(qtbot, window)
    assert window.model.take is not None
    assert window.model.take.id == "t3"
    shown = texts(window)
    assert "take 4 of 4" in shown
    assert "Second finger low on the D string" in shown
    assert "17 low" in shown  # the slip stands on the note of the first finding
    assert "towards the bridge" in shown


def test_every_column_stands_under_its_notehead(qtbot: QtBot, window: MainWindow) -> None:
    engraved(qtbot, window)
    view = window.desk.view
    assert view._engraved is not None
    for column, head in zip(view.xmap.columns, view._engraved.heads, strict=True):
        assert column.x0 < head.x < head.x + head.width < column.x1
    assert len(view._engraved.heads) == 15


def test_selection_is_one_everywhere(qtbot: QtBot, window: MainWindow) -> None:
    engraved(qtbot, window)
    view = window.desk.view
    window.model.select(4)
    column = view.xmap.columns[8]
    _, _, pitch, *_ = view.lane_rects()
    place = pitch.center().toPoint()
    place.setX(round(0.5 * (column.x0 + column.x1) + 62))
    qtbot.mouseClick(view.page, Qt.MouseButton.LeftButton, pos=place)
    assert window.model.selected == 8
    qtbot.keyClick(view, Qt.Key.Key_Right)
    assert window.model.selected == 9
    qtbot.keyClick(view, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert window.model.span_rows() == (9, 10)
    note_id = window.model.selected_note_id()
    qtbot.keyClick(window.desk.shelf, Qt.Key.Key_Left)
    assert window.model.take is not None
    assert window.model.take.id == "t2"
    assert window.model.selected_note_id() == note_id


def test_a_and_reference_move_every_number_at_once(qtbot: QtBot, window: MainWindow) -> None:
    engraved(qtbot, window)
    window.model.select(0)
    before = [r.cents for r in window.model.rows]
    first = window.model.prints[0].take
    prints = window.model.print_notes(first)
    window.session.set_view(View(a4_hz=442.0))
    after = [r.cents for r in window.model.rows]
    for a, b in zip(before, after, strict=True):
        assert a is not None
        assert b is not None
        assert a - b == pytest.approx(7.85, abs=0.02)
    assert window.model.print_notes(first) != prints
    assert window.header.chip("a4").text() == "A 442"
    assert window.header.chip("a4").font().italic()
    window.session.set_view(View(reference="just:D"))
    assert "pure over D" in window.header.chip("reference").text()
    window.session.set_view(View())
    assert [r.cents for r in window.model.rows] == before


def test_playing_goes_through_the_output(
    qtbot: QtBot, window: MainWindow, output: RecordingOutput
) -> None:
    engraved(qtbot, window)
    window.model.select(2)
    window.run_command("loop")
    qtbot.waitUntil(lambda: len(output.played) == 1, timeout=20_000)
    samples, rate, loop = output.played[0]
    assert loop
    assert rate == 48_000
    span = window.model.span_s()
    assert span is not None
    assert len(samples) / rate == pytest.approx(span[1] - span[0] + 0.06, abs=0.01)
    qtbot.waitUntil(lambda: window.sound.at_s is not None)
    assert window.desk.transport.button.playing
    window.run_command("play")
    assert not window.sound.playing
    window.run_command("target")
    tone, rate, _ = output.played[-1]
    spectrum = np.abs(np.fft.rfft(tone * np.hanning(len(tone))))
    note = window.model.selected_note()
    assert note is not None
    assert np.argmax(spectrum) * rate / len(tone) == pytest.approx(note.target_hz, abs=0.6)


def test_bringing_in_a_recording(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "new take.wav"
    performance = perform(scale(), "detune notes=5 cents=25", seed=9)
    SndFiles().write_wav(path, performance.sound.samples, performance.sound.rate_hz)
    with qtbot.waitSignal(window.imports.finished, timeout=30_000) as done:
        window.files.bring_in([path])
    assert "15 notes were heard" in done.args[0]
    take = window.model.take
    assert take is not None
    assert window.studio.audio_path(take).read_bytes() == path.read_bytes()
    assert len(window.model.prints) == 5
    assert window.model.rows[5].standing == "high"


def lesson_file(folder: Path) -> Path:
    """Two scales with talk between, as one recording."""
    path = folder / "lesson.wav"
    x = np.asarray(perform(scale(tempo=150.0), "").sound.samples, dtype=float)
    said = 0.5 * np.std(x) * speech(4 * 48_000, 48_000, np.random.default_rng(5))
    hush = np.zeros(24_000)
    whole = np.concatenate([x, hush, said, hush, x]).astype(np.float32)
    SndFiles().write_wav(path, whole, 48_000)
    return path


def test_a_lesson_is_cut_where_somebody_speaks(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    with qtbot.waitSignal(window.imports.finished, timeout=60_000) as done:
        window.files.bring_in([lesson_file(tmp_path)])
    assert "30 notes were heard" in done.args[0]
    bar = window.question_bar
    assert not bar.isHidden()
    assert bar.words.text() == "Somebody speaks between in lesson.wav; 2 stretches were played."
    qtbot.waitUntil(lambda: "Somebody speaks: 0:0" in texts(window))
    said: list[str] = []
    window.imports.finished.connect(said.append)
    bar.buttons[0].click()
    qtbot.waitUntil(lambda: len(said) == 2, timeout=90_000)
    assert all("15 notes were heard" in words for words in said), said
    names = [t.source_name for t in window.studio.takes()]
    assert {"lesson.wav", "lesson (1 of 2).flac", "lesson (2 of 2).flac"} <= set(names)
    whole, *parts = [t for t in window.studio.takes() if t.source_name.startswith("lesson")]
    assert {(t.jig_id, t.instrument_id) for t in parts} == {(whole.jig_id, whole.instrument_id)}
    assert bar.isHidden()
    assert not list(tmp_path.rglob("*of 2).flac")), "what was cut lies in the studio alone"


def test_a_lesson_may_stay_whole(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    with qtbot.waitSignal(window.imports.finished, timeout=60_000):
        window.files.bring_in([lesson_file(tmp_path)])
    n = len(window.studio.takes())
    window.question_bar.buttons[1].click()
    assert window.question_bar.isHidden()
    qtbot.waitUntil(lambda: not window.jobs.busy, timeout=30_000)
    assert len(window.studio.takes()) == n


def test_a_lesson_whose_cut_fails_stays_whole_and_is_said(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    with qtbot.waitSignal(window.imports.finished, timeout=60_000):
        window.files.bring_in([lesson_file(tmp_path)])
    take = window.model.take
    assert take is not None
    window.studio.audio_path(take).rename(tmp_path / "gone")
    n = len(window.studio.takes())
    with qtbot.waitSignal(window.imports.finished, timeout=30_000) as done:
        window.question_bar.buttons[0].click()
    assert done.args[0].startswith("No takes could be made of lesson.wav; it stays whole.")
    assert len(window.studio.takes()) == n


def test_bad_files_are_said_and_the_rest_goes_on(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    bad, silent = tmp_path / "bad.wav", tmp_path / "silent.wav"
    bad.write_bytes(b"nothing")
    SndFiles().write_wav(silent, np.zeros(4800, dtype=np.float32), 48_000)
    said: list[str] = []
    window.imports.finished.connect(said.append)
    window.files.bring_in([bad, silent])
    qtbot.waitUntil(lambda: len(said) == 2, timeout=30_000)
    assert "could not be brought in" in said[0]
    assert "no notes were heard" in said[1]
    qtbot.waitUntil(lambda: "No notes were heard in this take" in texts(window))


def test_an_analysis_can_be_cancelled(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    long = tmp_path / "long.wav"
    SndFiles().write_wav(long, np.zeros(48_000 * 200, dtype=np.float32), 48_000)
    with qtbot.waitSignal(window.imports.finished, timeout=30_000) as done:
        window.files.bring_in([long])
        window.imports.cancel()
    assert "was not brought in" in done.args[0]
    assert len(window.model.prints) == 4


def test_space_presses_the_focused_button_and_else_plays(
    qtbot: QtBot, window: MainWindow, output: RecordingOutput
) -> None:
    engraved(qtbot, window)
    window.desk.view.setFocus()
    window._by_key("play")
    qtbot.waitUntil(lambda: window.sound.playing, timeout=20_000)
    window._by_key("play")
    place = next(b for n, b in window.header._places.items() if n == "tables")
    place.setFocus()
    qtbot.waitUntil(place.hasFocus)
    window._by_key("play")
    assert place.isChecked()
    assert not window.sound.playing
    window.run_command("bin")  # keys of the Desk do nothing elsewhere
    assert len(window.model.prints) == 4


def test_bin_and_undo(qtbot: QtBot, window: MainWindow) -> None:
    engraved(qtbot, window)
    window.run_command("bin")
    assert [p.take.id for p in window.model.prints] == ["t0", "t1", "t2"]
    window.run_command("undo")
    assert len(window.model.prints) == 4
    window.run_command("keep")
    assert "kept" in {p.take.mark for p in window.model.prints}
    window.run_command("keep")
    assert {p.take.mark for p in window.model.prints} == {""}


def test_commands_have_different_keys_and_texts(window: MainWindow) -> None:
    keys = [QKeySequence(c.shortcut).toString() for c in window.commands.values() if c.shortcut]
    assert len(set(keys)) == len(keys)
    assert all(c.text for c in window.commands.values())
    window.run_command("help")
    assert window.help.isVisible()


def test_everything_has_a_name_and_can_be_reached(qtbot: QtBot, window: MainWindow) -> None:
    engraved(qtbot, window)
    for place in ("stand", "desk", "jigs", "daybook", "tables"):
        window.go(place)
        for button in window.findChildren(QAbstractButton):
            if button.isVisible():
                assert button.accessibleName() or button.text(), button
                assert button.focusPolicy() != Qt.FocusPolicy.NoFocus, button.text()


def test_an_empty_studio_says_what_to_do(
    qtbot: QtBot, open_window: Callable[..., MainWindow], tmp_path: Path
) -> None:
    window = open_window(tmp_path / "fresh")
    assert "Nothing played yet" in texts(window)
    window.go("jigs")
    window.jigs._work_on()
    assert window.session.now.jig is not None
    assert "No takes of this jig yet" in texts(window)
    assert len(window.studio.jigs()) == 1


def test_a_second_window_reads_only(
    qtbot: QtBot, window: MainWindow, open_window: Callable[..., MainWindow], studio_copy: Path
) -> None:
    second = open_window(studio_copy)
    assert second.studio.read_only
    assert "looked at here, not changed" in texts(second)
    second.run_command("bin")
    assert len(second.model.prints) == 4


def test_a_note_played_twice_is_drawn(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "back.wav"
    sound = perform(scale(), "back_one notes=2 first_cents=-30; detune notes=2 cents=-20").sound
    SndFiles().write_wav(path, sound.samples, sound.rate_hz)
    with qtbot.waitSignal(window.imports.finished, timeout=30_000):
        window.files.bring_in([path])
    engraved(qtbot, window)
    assert [r.attempt for r in window.model.rows[:5]] == [1, 1, 1, 2, 2]
    renderer = window.desk.view._renderer
    assert renderer is not None
    assert renderer.isValid()


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_pictures_are_the_same_twice(
    qtbot: QtBot, open_window: Callable[..., MainWindow], studio_copy: Path, theme: str
) -> None:
    window = open_window(studio_copy, theme)
    engraved(qtbot, window)
    one = window.desk.view.grab().toImage()
    window.desk.view._recolour()
    two = window.desk.view.grab().toImage()
    assert one == two
    window.run_command("form")
    assert window.desk.view.grab().toImage() != one


def test_a_refused_studio_is_said_in_a_window(qtbot: QtBot) -> None:
    window = make_refusal("The studio's database is damaged.", "light")
    qtbot.addWidget(window)
    window.show()
    shown = [w.text() for w in window.findChildren(QLabel)]
    assert "The studio's database is damaged." in shown
    assert "Open another folder" in [b.text() for b in window.findChildren(QAbstractButton)]


def test_no_text_escapes_translation(
    qtbot: QtBot, open_window: Callable[..., MainWindow], studio_copy: Path
) -> None:
    use_language("pseudo")
    try:
        window = open_window(studio_copy)
        for place in ("desk", "jigs", "stand", "daybook", "tables"):
            window.go(place)
            for widget in (*window.findChildren(QLabel), *window.findChildren(QAbstractButton)):
                text = widget.text()
                if widget.isVisible() and sum(c.isalpha() for c in text) > 2:
                    known = text in ("Nell Harbour", "D major scale", "test") or "string" in text
                    assert "⟦" in text or known, text
    finally:
        use_language("en")


def test_the_window_loads_no_heavy_library(small_studio: Path) -> None:
    code = f"""
import sys
from pathlib import Path
from PyQt6.QtWidgets import QApplication
from jigwright.audio.output import RecordingOutput
from jigwright.handlers import make_handlers
from jigwright.store.opening import open_studio
from jigwright.ui.app import Outside, make_window
from jigwright.work.process import WorkerProcess
if __name__ == "__main__":
    app = QApplication([])
    studio = open_studio(Path({str(small_studio)!r}))
    worker = WorkerProcess(make_handlers)
    window = make_window(Outside(studio=studio, worker=worker, output=RecordingOutput,
                                 cache=Path({str(small_studio)!r}) / "cache"))
    window.show()
    window.grab()
    heavy = [m for m in ("scipy", "soundfile", "sounddevice", "verovio") if m in sys.modules]
    window.close()
    studio.close()
    sys.exit(repr(heavy) if heavy else 0)
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


def test_a_wrong_line_up_is_corrected_by_hand_and_the_correction_is_kept(window) -> None:
    model = window.model
    model.select(3)
    was = [n.measured.lined.i_event for n in model.judged.notes]
    words = [text for text, _ in window.desk.slip.which_choices()]
    assert any("\u2713" in w for w in words)
    summaries, shown = window.daybook_model.summaries, model.take
    before = summaries.now(shown)
    summaries.make([shown])
    model.correct(None)
    assert summaries.known(shown) is None  # what trends kept of it is out of date
    assert summaries.now(shown) != before
    assert model.selected_note().standing == "extra"
    assert model.judged.notes[4].standing == "missed"
    take = model.take.id
    model.show_take(None)
    model.show_take(take)
    assert model.corrected
    model.select(3)
    back = dict(window.desk.slip.which_choices())
    back["As it was heard, for the whole take"]()
    assert [n.measured.lined.i_event for n in model.judged.notes] == was


def test_the_figures_of_a_take_are_a_table(window, tmp_path) -> None:
    window.run_command("copy_figures")
    copied = QApplication.clipboard().text().splitlines()
    assert len(copied) == len(window.model.judged.notes) + 1
    path = tmp_path / "take.csv"
    window.desk.save_figures(path)
    rows = list(csv.DictReader(path.read_text(encoding="utf-8").splitlines()))
    for row, note in zip(rows, window.model.judged.notes, strict=True):
        assert row["note"] == str(note.pitch)
        assert float(row["cents"]) == pytest.approx(note.cents, abs=1e-3)
        assert row["balance_db"] == ""
    window.desk.save_figures(tmp_path / "nowhere" / "take.csv")
    assert not (tmp_path / "nowhere").exists()


def test_a_long_take_shows_its_pitches_first_and_the_rest_soon_after(
    qtbot: QtBot, window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    model = window.model
    whole = model.judged
    monkeypatch.setattr("jigwright.ui.viewmodels.desk.desk_model._MOST_AT_ONCE", 5)
    monkeypatch.setattr("jigwright.ui.viewmodels.desk.reading_ahead.PORTION_WORK_MS", 0)
    model.show_take(model.take.id)
    first = model.judged
    assert [n.cents for n in first.notes] == [n.cents for n in whole.notes]
    assert first.playing is None
    assert first.notes[3].measured.level == Unmeasured("not_yet")
    qtbot.waitUntil(lambda: model.judged.playing is not None, timeout=20_000)
    assert [repr(n.measured.level) for n in model.judged.notes] == [
        repr(n.measured.level) for n in whole.notes
    ]
    assert model.judged.findings == whole.findings
