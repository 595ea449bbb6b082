"""A new piece written in the real window, with keys, mouse, menu and clipboard."""

from __future__ import annotations

from fractions import Fraction

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QGuiApplication
from pytestqt.qtbot import QtBot

from jigwright.core.jig.line import jig_from_line
from jigwright.ui.widgets.piece_head import METRES, PICKUPS, TONICS
from jigwright.wording.writing import mark_name, pickup_name, tuplet_name


@pytest.fixture
def jigs(qtbot: QtBot, window):
    window.go("jigs")
    window.jigs.new_piece()
    qtbot.waitUntil(lambda: window.jigs.score.engraved is not None, timeout=20_000)
    return window.jigs


def press(qtbot: QtBot, jigs, keys: str) -> None:
    for key in keys:
        qtbot.keyClicks(jigs.score, key)


def run(jigs, name: str) -> None:
    """Choose a row of the menu of marks."""
    make = next(run for text, run in jigs.editor.marks() if text.startswith(name))
    jigs.editor.change(make)


def names(jigs) -> list[str]:
    return ["+".join(str(h.pitch) for h in e.heads) for e in jigs.jig.events]


def test_a_new_piece_is_empty_and_its_title_is_ready_to_be_typed_over(qtbot: QtBot, jigs) -> None:
    assert jigs.jig.events == ()
    assert len(jigs.jig.bars()) == 4
    assert jigs.editor.head.title.selectedText() == "New piece"
    qtbot.keyClicks(jigs.editor.head.title, "Harbour lights")
    assert jigs.jig.title == "Harbour lights"
    press(qtbot, jigs, "d")
    qtbot.keyClicks(jigs.editor.head.title, "!")
    for title in ("Harbour lights", "Harbour lights", "New piece"):
        jigs.editor.take_back()
        assert jigs.jig.title == title
    jigs.editor.head.title.clear()
    assert jigs.jig.title == "New piece"  # a piece has a name


def test_letters_write_notes_and_capitals_add_to_them(qtbot: QtBot, jigs) -> None:
    press(qtbot, jigs, "defG")
    assert names(jigs) == ["D5", "E5", "F5+G5"]
    assert jigs.jig.silence_beats == 13


def test_a_press_on_the_empty_staff_writes_the_note_of_that_line(qtbot: QtBot, jigs) -> None:
    qtbot.waitUntil(lambda: jigs.score.engraved.staff_bottom > 0, timeout=20_000)
    drawn, scale = jigs.score.engraved, jigs.score._factor()
    space = (drawn.staff_bottom - drawn.staff_top) / 4
    at = QPoint(round(14 + 300 * scale), round(14 + (drawn.staff_bottom - space) * scale))
    qtbot.mouseClick(jigs.score._page, Qt.MouseButton.LeftButton, pos=at)
    assert names(jigs) == ["G4"]
    far = QPoint(at.x(), round(14 + (drawn.staff_bottom + 9 * space) * scale))
    jigs.editor.take_back()
    qtbot.mouseClick(jigs.score._page, Qt.MouseButton.LeftButton, pos=far)
    assert names(jigs) == []


def test_the_head_sets_key_metre_pick_up_and_tempo_and_is_taken_back(qtbot: QtBot, jigs) -> None:
    head = jigs.editor.head
    for combo, value in (
        (head.tonic, "D"), (head.mode, "major"), (head.metre, (3, 4)), (head.pickup, "1"),
    ):  # fmt: skip
        at = next(i for i in range(combo.count()) if combo.itemData(i) == value)
        combo.setCurrentIndex(at)
        combo.activated.emit(at)
    head.tempo.setValue(96)
    press(qtbot, jigs, "f")
    jig = jigs.jig
    assert (str(jig.key.tonic), jig.beats_per_bar, jig.pickup_beats, jig.tempo_bpm) == (
        "D",
        3,
        1,
        96,
    )
    assert names(jigs) == ["F#4"]
    for _ in range(2):
        jigs.editor.take_back()
    assert jigs.jig.tempo_bpm == 80.0
    assert head.tempo.value() == 80


def test_a_pick_up_as_long_as_a_bar_is_refused_in_words(qtbot: QtBot, jigs) -> None:
    head = jigs.editor.head
    at = next(i for i in range(head.metre.count()) if head.metre.itemData(i) == (3, 8))
    head.metre.setCurrentIndex(at)
    head.metre.activated.emit(at)
    too_long = next(i for i in range(head.pickup.count()) if head.pickup.itemData(i) == "3/2")
    head.pickup.setCurrentIndex(too_long)
    with qtbot.waitSignal(jigs.editor.failed):
        head.pickup.activated.emit(too_long)
    assert jigs.jig.pickup_beats == 0
    assert head.pickup.currentData() == "0"


def test_every_row_of_the_menu_changes_the_notes_or_says_why_not(qtbot: QtBot, jigs) -> None:
    press(qtbot, jigs, "ddd")
    said: list[str] = []
    jigs.editor.failed.connect(said.append)
    for text, make in jigs.editor.marks():
        jigs.score.choose(0, 1)
        before = jigs.jig
        jigs.editor.change(make)
        nothing_there = text.startswith((
            "No rest", "No finger", "No loudness", "The other bow", "Lift", "Tremolo", "Ornament",
        ))  # fmt: skip
        assert jigs.jig != before or nothing_there or said, text
        while jigs.jig != before:
            jigs.editor.take_back()
    assert said == []


def test_marks_hairpins_words_and_ties_by_the_menu(qtbot: QtBot, jigs) -> None:
    press(qtbot, jigs, "dddd")
    jigs.score.choose(0, 0)
    run(jigs, mark_name("fermata"))
    jigs.score.choose(1, 2)
    run(jigs, "Growing")
    jigs.editor.write_words("dolce")
    jigs.score.choose(2, 3)
    run(jigs, "Tied")
    jig = jigs.jig
    assert jig.events[0].marks == ("fermata",)
    assert [(s.kind, s.at_beats, s.end_beats, s.text) for s in jig.signs] == [
        ("hairpin", 1, 3, "crescendo"), ("words", 1, None, "dolce")
    ]  # fmt: skip
    assert [e.length_beats for e in jig.events] == [1, 1, 2]
    jigs.score.choose(0, 2)
    run(jigs, tuplet_name(3))
    assert jigs.jig.events[0].length_beats == Fraction(2, 3)


def test_notes_are_copied_and_put_in_elsewhere_with_keys(qtbot: QtBot, jigs) -> None:
    press(qtbot, jigs, "def")
    jigs.score.choose(0, 1)
    qtbot.keyClick(jigs.score, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    jigs.score.choose(2, 2)
    qtbot.keyClick(jigs.score, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert names(jigs) == ["D5", "E5", "F5", "D5", "E5"]
    assert jigs.score.span == (3, 4)
    jigs.editor.take_back()
    assert names(jigs) == ["D5", "E5", "F5"]


def test_a_line_of_text_can_be_pasted_and_nonsense_is_refused(qtbot: QtBot, jigs) -> None:
    press(qtbot, jigs, "d")
    clipboard = QGuiApplication.clipboard()
    clipboard.setText("(A4 B4) C#5:2")
    jigs.editor.paste()
    assert names(jigs) == ["D5", "A4", "B4", "C#5"]
    for text in ("not notes at all", '{"schema": "other"}'):
        clipboard.setText(text)
        with qtbot.waitSignal(jigs.editor.failed):
            jigs.editor.paste()
    clipboard.setText("  ")
    jigs.editor.paste()
    assert len(jigs.jig.events) == 4


def test_what_was_written_is_kept_and_worked_on(qtbot: QtBot, jigs, window) -> None:
    press(qtbot, jigs, "dega")
    n = len(window.studio.jigs())
    with qtbot.waitSignal(jigs.chosen):
        jigs._work_on()
    assert len(window.studio.jigs()) == n + 1
    assert len(window.session.now.jig.events) == 4


def test_two_hundred_bars_are_edited_like_four(qtbot: QtBot, jigs) -> None:
    long = jig_from_line("D4:1/2 E4 F#4 G4 A4 B4 C#5 D5 " * 200, jig_id="long",
                         instrument_id="violin", title="t")  # fmt: skip
    jigs.editor.replace_jig(long)
    jigs.score.choose(800, 800)
    qtbot.keyClick(jigs.score, Qt.Key.Key_Up)
    assert str(jigs.jig.events[800].heads[0].pitch) == "E4"
    assert len(jigs.jig.bars()) == 200


def test_every_choice_of_the_head_has_its_words() -> None:
    assert len({pickup_name(p) for p in PICKUPS}) == len(PICKUPS)
    assert pickup_name(Fraction(0)) == "no pick-up"
    assert pickup_name(Fraction(1)) == "1 beat"
    assert pickup_name(Fraction(3, 2)) == "1½ beats"
    assert pickup_name(Fraction(1, 2)) == "½ beats"
    assert len(set(TONICS)) == 15
    assert len(set(METRES)) == len(METRES)
