"""Aims where a player meets them: the Desk's list, and the command line."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QLabel, QMenu, QPushButton
from pytestqt.qtbot import QtBot

from aim_builders import all_in, jig_of, results
from jigwright.cli import main
from jigwright.core.jig.aims import Aim, aims, aims_of
from jigwright.core.jig.exchange import jig_to_json
from jigwright.core.jig.model import Jig
from jigwright.ui.main_window import MainWindow
from jigwright.ui.theme import LIGHT
from jigwright.ui.widgets.aims_list import AimsList
from jigwright.ui.widgets.aims_menu import AimsMenu


def test_the_desk_lists_every_aim_and_leads_to_its_place(qtbot: QtBot) -> None:
    jig = jig_of("D4 E4 F#4 G4", *aims("every_note", "pitch", "mirror", "lanes"))
    notes = all_in(jig, {2: {"cents": -21.0, "standing": "low"}})
    shown: list[int] = []
    column = AimsList(LIGHT, shown.append)
    qtbot.addWidget(column)
    column.show_results(results(jig, notes), notes, jig)
    texts = [w.text() for w in column.findChildren(QLabel)]
    assert texts == [
        "What it is for", "Every note heard", "Not everything was in tune",
        "bar 1, 21 ± 1 cents (limit 10)", "Down like up",
        "cannot tell: there were too few strokes", "Lanes beside each other",
        "shown, not judged",
    ]  # fmt: skip
    (button,) = column.findChildren(QPushButton)
    button.click()
    assert shown == [2]
    column.grab()  # the marks paint


def test_the_command_line_says_what_a_jig_is_for(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    jig = jig_of("D4 E4", Aim(kind="dotted", way="sharp", limit=4.0), Aim(kind="lanes"))
    file = tmp_path / "j.json"
    file.write_text(jig_to_json(jig))
    assert main(["jig", "aims", str(file)]) == 0
    assert capsys.readouterr().out.splitlines() == [
        "dotted  dotted notes in their character  at least 4 ratio  sharp",
        "lanes  lanes beside each other",
    ]


# changing them -----------------------------------------------------------------------------


def names(menu: QMenu) -> list[str]:
    return [a.text() for a in menu.actions() if not a.isSeparator()]


def press(menu: QMenu, *path: str) -> None:
    """Choose an entry, opening the menus on the way."""
    for text in path[:-1]:
        action = next(a for a in menu.actions() if a.text().startswith(text))
        below = action.menu()
        assert below is not None
        menu = below
    next(a for a in menu.actions() if a.text() == path[-1]).trigger()


def test_the_menu_holds_what_is_asked_and_what_could_be(qtbot: QtBot) -> None:
    jig = jig_of("D4 E4", *aims("even_bow", "mirror", "pitch", "every_note"))
    made: list[Jig] = []
    said: list[str] = []

    def menu() -> AimsMenu:
        found = AimsMenu(made[-1] if made else jig, made.append, said.append, host)
        qtbot.addWidget(found)
        return found

    host = QLabel()
    qtbot.addWidget(host)
    assert names(menu()) == [
        "an even bow, contact kept – at most 2 dB", "down like up – at most 3 dB",
        "in tune – at most 10 cents", "measured too", "every note heard",
        "Listen for something else", "Only what is marked in the notes",
    ]  # fmt: skip
    press(menu(), "down like up", "Listen for it first")
    assert [a.kind for a in made[-1].aims][:2] == ["mirror", "even_bow"]
    press(menu(), "down like up", "at most 4.5 dB")
    assert made[-1].aims[0].limit == 4.5
    press(menu(), "an even bow", "Do not ask for it")
    press(menu(), "Listen for something else", "bow used up at the end")
    assert [a.kind for a in made[-1].aims] == ["mirror", "pitch", "every_note", "left_over"]
    press(menu(), "Only what is marked in the notes")
    assert [a.kind for a in aims_of(made[-1])] == ["every_note", "pitch"]
    assert "Only what is marked in the notes" not in names(menu())
    assert said == []


def test_an_aim_is_asked_for_in_some_places(qtbot: QtBot) -> None:
    jig = jig_of("D4 E4 F#4 G4 A4 B4 C#5 D5", *aims("pitch", "mirror"))
    ids = [e.id for e in jig.events]
    made: list[Jig] = []
    said: list[str] = []
    answers = ["2", "9", None]

    def menu(chosen=()) -> AimsMenu:
        now = made[-1] if made else jig
        found = AimsMenu(now, made.append, said.append, host, chosen, lambda *_: answers.pop(0))
        qtbot.addWidget(found)
        return found

    host = QLabel()
    qtbot.addWidget(host)
    below = menu().actions()[0].menu()
    assert below is not None
    assert "Only in the selected notes" not in names(below)
    press(menu(ids[1:3]), "in tune", "Only in the selected notes")
    assert [a.places for a in made[-1].aims] == [(ids[1], ids[2]), ()]
    assert names(menu())[0] == "in tune · bar 1 – at most 10 cents"
    press(menu(), "down like up", "Only in some bars…")
    assert made[-1].aims[1].places == tuple(ids[4:])
    press(menu(), "down like up", "Only in some bars…")
    press(menu(), "down like up", "Only in some bars…")
    assert (len(made), said) == (2, ["nothing begins in bars 9"]), "nobody answered the last time"
    press(menu(), "down like up", "Everywhere")
    assert made[-1].aims[1].places == ()


def test_the_last_aim_cannot_be_taken_away(qtbot: QtBot) -> None:
    host = QLabel()
    qtbot.addWidget(host)
    menu = AimsMenu(jig_of("D4 E4", Aim(kind="pitch")), print, print, host)
    below = menu.actions()[0].menu()
    assert below is not None
    assert "Do not ask for it" not in names(below)


def test_at_the_desk_the_next_takes_are_asked_for_more_and_it_is_taken_back(
    window: MainWindow,
) -> None:
    window.go("desk")
    jig = window.session.now.jig
    assert jig is not None
    menu = window.desk.aims_menu()
    assert menu is not None
    press(menu, "Listen for something else", "bow used up at the end")
    now = window.session.now.jig
    assert now is not None
    assert (now.id, now.revision) == (jig.id, jig.revision + 1)
    assert aims_of(now)[-1].kind == "left_over"
    assert window.studio.jig(jig.id, jig.revision) == jig, "takes before keep what they were for"
    window.run_command("undo")
    assert window.session.now.jig == jig


def test_what_is_selected_on_the_desk_are_the_events_of_the_take(window: MainWindow) -> None:
    window.go("desk")
    model = window.model
    model.select(1)
    assert model.span_events() == (), "one note alone is looked at, not chosen"
    model.select(3, extend=True)
    jig = window.session.now.jig
    assert jig is not None
    assert model.span_events() == tuple(e.id for e in jig.events[1:4])
    menu = window.desk.aims_menu()
    assert menu is not None
    press(menu, "in tune", "Only in the selected notes")
    assert model.judged is not None
    asked = next(r for r in model.judged.aims if r.aim.kind == "pitch")
    assert asked.aim.places == tuple(e.id for e in jig.events[1:4])


def test_the_shown_take_is_held_against_what_is_asked_now_and_counts_as_before(
    window: MainWindow,
) -> None:
    window.go("desk")
    model = window.model
    first = model.prints[0].take
    model.show_take(first.id)
    menu = window.desk.aims_menu()
    assert menu is not None
    assert model.judged is not None
    before = [r.aim.kind for r in model.judged.aims]
    press(menu, "Listen for something else", "bow used up at the end")
    assert model.take == first, "the take that was shown stays"
    assert model.judged is not None
    assert [r.aim.kind for r in model.judged.aims] == [*before, "left_over"]
    model.show_take(model.prints[-1].take.id)
    model.show_take(first.id)
    assert model.judged is not None
    assert [r.aim.kind for r in model.judged.aims] == before, "it was not asked for this"


def test_in_jigs_the_line_says_it_and_the_shown_jig_is_changed(window: MainWindow) -> None:
    made = jig_of("D4 E4", *aims("every_note", "pitch"))
    other = replace(made, id="other", title="Other")
    window.studio.add_jig(other, utc="2026-11-01T10:00:00Z")
    window.go("jigs")
    window.jigs.refresh()
    chosen = window.session.now.jig
    rows = [window.jigs._list.item(i) for i in range(window.jigs._list.count())]
    row = next(i for i, r in enumerate(rows) if r is not None and r.text() == other.title)
    window.jigs._list.setCurrentRow(row)
    assert window.jigs.jig == other
    menu = window.jigs.aims_menu()
    assert menu is not None
    press(menu, "in tune", "Listen for it first")
    shown = window.jigs.jig
    assert shown is not None
    assert (shown.id, aims_of(shown)[0].kind) == ("other", "pitch")
    assert window.session.now.jig == chosen
    assert "Listening for" in window.jigs._aims.text()


def test_an_exercise_that_is_being_made_is_changed_before_it_is_kept(window: MainWindow) -> None:
    window.go("jigs")
    window.jigs.make("scale")
    n = len(window.studio.jigs())
    menu = window.jigs.aims_menu()
    assert menu is not None
    press(menu, "Listen for something else", "bow used up at the end")
    assert window.jigs.jig is not None
    assert aims_of(window.jigs.jig)[-1].kind == "left_over"
    assert len(window.studio.jigs()) == n


def test_at_the_stand_the_line_is_pressed_and_nothing_else(
    qtbot: QtBot, window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.go("stand")
    stand = window.stand
    qtbot.waitUntil(lambda: stand._words_rect.height() > 0, timeout=10_000)
    opened: list[int] = []
    monkeypatch.setattr(AimsMenu, "exec", lambda *_: opened.append(1))
    middle = stand._words_rect.center()
    assert stand.aims_at(middle)
    assert not stand.aims_at(QPointF(2, 2))
    qtbot.mouseClick(stand.sheet, Qt.MouseButton.LeftButton, pos=middle.toPoint())
    window.run_command("aims")
    assert opened == [1, 1]
    window.go("daybook")
    window.run_command("aims")
    assert opened == [1, 1]
