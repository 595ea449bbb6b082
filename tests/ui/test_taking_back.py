"""The bin and undo in the real window."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from jigwright.audio.output import RecordingOutput
from jigwright.core.judge.work import SetWork
from jigwright.services.records import DayNote, Player
from jigwright.store.opening import open_studio
from jigwright.ui.main_window import MainWindow
from jigwright.ui.viewmodels.desk.remarks import Remarks

UTC = "2026-11-20T10:00:00Z"


def _said(window: MainWindow) -> str:
    return window.strip.message.text()


def test_what_is_binned_is_seen_heard_and_brought_back(
    qtbot: QtBot, window: MainWindow, output: RecordingOutput
) -> None:
    take_id = window.model.take.id
    n = len(window.model.prints)
    page = window.show_bin()
    assert page.title.text() == "The bin is empty"
    assert page.button_texts() == ()
    window.run_command("bin")
    assert page.title.text() == "One take in the bin"
    assert "Nell" in page.list.item(0).text() or "·" in page.list.item(0).text()
    assert page.button_texts() == ("Bring it back", "Hear it", "Delete all of them for good …")
    page.play.click()
    qtbot.waitUntil(lambda: len(output.played) == 1, timeout=20_000)
    page.back.click()
    assert page.rows == ()
    assert len(window.model.prints) == n
    assert window.model.take.id == take_id
    assert "back" in _said(window)
    window.run_command("undo")
    assert [r.take.id for r in page.rows] == [take_id]
    assert "bringing a take back" in _said(window)


def test_deleting_asks_once_more(window: MainWindow, studio_copy: Path) -> None:
    sound = window.studio.audio_path(window.model.take)
    window.run_command("bin")
    window.run_command("bin")
    window.run_command("look_into_bin")
    page = window.bin
    page.empty.click()
    assert page.button_texts() == ("Keep them", "Delete for good")
    assert "2 takes" in page.about.text()
    assert page.keep.isDefault() or page.focusWidget() is page.keep
    page.keep.click()
    assert len(page.rows) == 2
    assert sound.is_file()
    page.empty.click()
    page.sure.click()
    assert page.rows == ()
    assert not sound.exists()
    assert _said(window) == "2 takes were deleted."
    assert page.button_texts() == ()
    window.run_command("undo")
    assert "nothing to take back" in _said(window)


def test_a_window_that_only_reads_looks_and_deletes_nothing(
    window: MainWindow, studio_copy: Path, qtbot: QtBot
) -> None:
    from jigwright.ui.widgets.bin_page import BinPage

    window.run_command("bin")
    second = open_studio(studio_copy)
    page = BinPage(second, print, window)
    assert len(page.rows) == 1
    assert page.button_texts() == ("Hear it",)
    page.close()
    second.close()


def test_whatever_was_done_last_is_taken_back(window: MainWindow) -> None:
    studio = window.studio
    player = window.session.now.player
    model = window.model
    Remarks(studio, window.session).add(model.take.id, model.selected_note(), "Lean into it.")
    window.model.correct(None)
    studio.set_day_note(DayNote(player_id=player.id, day="2026-11-20", word="dry"))
    jig = window.session.now.jig
    studio.set_work(
        SetWork(
            id="w", player_id=player.id, jig_id=jig.id, jig_revision=1, words="Slowly",
            due="2026-12-01", good_takes=3, who="Ines", set_utc=UTC,
        )
    )  # fmt: skip
    take_id = window.model.take.id
    assert window.model.corrected
    said = []
    for _ in range(5):
        window.run_command("undo")
        said.append(_said(window))
    assert said == [
        "Taken back: set work.", "Taken back: the words of a day.",
        "Taken back: which note was which.", "Taken back: a remark.",
        "There is nothing to take back.",
    ]  # fmt: skip
    assert not window.model.corrected
    assert window.model.take.id == take_id
    assert studio.works() == ()
    assert studio.remarks(take_id) == ()
    for _ in range(5):
        window.run_command("redo")
    assert _said(window) == "There is nothing to do again."
    assert window.model.corrected
    assert len(studio.remarks(take_id)) == 1


def test_what_is_taken_back_is_no_longer_shown(window: MainWindow, qtbot: QtBot) -> None:
    window.go("daybook")
    daybook = window.daybook_model
    jig = window.session.now.jig
    from jigwright.core.judge.ladder import PassRule

    made = daybook.make_ladder(
        jig, from_bpm=60, to_bpm=90, n_rungs=2, tolerance_cents=(12.0, 8.0), rule=PassRule()
    )
    assert made in daybook.ladders()
    with qtbot.waitSignal(daybook.changed, timeout=5_000):
        window.run_command("undo")
    assert made not in daybook.ladders()
    window.run_command("redo")
    assert made in daybook.ladders()
    window.studio.add_player(Player(id="n", name="Zora New"))
    window.run_command("undo")
    assert all(p.id != "n" for p in window.studio.players())


def test_a_binned_take_whose_sound_leads_elsewhere_is_refused_with_a_sentence(
    window: MainWindow,
) -> None:
    window.studio._db.execute("UPDATE take SET audio = '../../secret'")
    window.model.refresh_takes()
    window.run_command("bin")
    page = window.show_bin()
    before = _said(window)
    page.play.click()
    assert _said(window) != before


def test_figures_are_judged_again_only_where_a_check_of_the_strings_concerns_them(
    window: MainWindow,
) -> None:
    told: list[int] = []
    window.model.judged_changed.connect(lambda: told.append(1))
    owned, day = window.session.now.instrument, window.model.take.day.isoformat()
    hz = dict.fromkeys(owned.strings[-1:], 440.0)
    window.studio.set_string_check(owned.id, "2001-01-01", hz)
    assert told == []
    window.studio.set_string_check(owned.id, day, hz)
    assert told == [1]
    assert window.model.context().checked_hz == hz


@pytest.mark.parametrize("key", [Qt.Key.Key_Delete])
def test_the_key_of_the_bin(qtbot: QtBot, window: MainWindow, key: Qt.Key) -> None:
    qtbot.keyClick(window.desk.view, key, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: window.bin is not None and window.bin.isVisible(), timeout=5_000)
    assert len(window.model.prints) == 4
