"""What every number depends on, chosen in the header's menus by a real window."""

from __future__ import annotations

from pathlib import Path
from types import SimpleNamespace

import pytest
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMenu
from pytestqt.qtbot import QtBot

from jigwright.core.music.pitch import Pitch
from jigwright.services.recording import InputDevice
from jigwright.ui.main_window import MainWindow


@pytest.fixture
def menus(window: MainWindow):
    return window._context


def opened(fill) -> QMenu:
    menu = QMenu(fill.__self__._window)  # which keeps it alive
    fill(menu)
    return menu


def entry(menu: QMenu, part: str) -> QAction:
    found = [a for a in menu.actions() if part in a.text()]
    assert found, [a.text() for a in menu.actions()]
    return found[0]


def chosen(menu: QMenu) -> list[str]:
    return [a.text() for a in menu.actions() if a.isChecked()]


def test_another_a_moves_every_figure_by_as_much_and_back(window, menus) -> None:
    model = window.model
    model.select(3)
    before = model.selected_note().cents
    was = model.context().a4_hz
    menu = opened(menus._a_menu)
    assert chosen(menu) == [f"A {was:g} Hz"]
    entry(menu, "A 430 Hz").trigger()
    assert model.context().a4_hz == 430.0
    assert model.selected_note().cents > before + 20
    assert "430" in window.header.chip("a4").text()
    assert window.header.chip("a4").font().italic()
    entry(opened(menus._a_menu), "As it was played").trigger()
    assert model.selected_note().cents == pytest.approx(before)
    assert not window.header.chip("a4").font().italic()


def test_reference_and_tolerance_are_changed_apart(window, menus) -> None:
    model = window.model
    tolerance = model.context().tolerance_cents
    entry(opened(menus._reference_menu), "Pythagorean").trigger()
    assert model.context().reference.name == "pythagorean"
    assert model.context().tolerance_cents == tolerance
    other = next(c for c in (5.0, 20.0) if c != tolerance)
    entry(opened(menus._reference_menu), f"±{other:g} cents").trigger()
    assert model.context().reference.name == "pythagorean"
    assert model.context().tolerance_cents == other
    assert len(chosen(opened(menus._reference_menu))) == 2


def test_a_scale_file_becomes_the_reference_or_is_refused_with_a_sentence(
    window, menus, tmp_path: Path, monkeypatch
) -> None:
    scale = tmp_path / "twelve.scl"
    steps = "\n".join(f"{100.0 * k:.1f}" for k in range(1, 13))
    scale.write_text(f"! twelve.scl\nTwelve equal steps\n 12\n{steps}\n")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a, **_k: (str(scale), ""))
    entry(opened(menus._reference_menu), "Scale file").trigger()
    assert "twelve" in window.model.context().reference.name
    now = window.session.now.view
    scale.write_text("no scale at all")
    entry(opened(menus._reference_menu), "Scale file").trigger()
    assert window.session.now.view == now
    assert window.strip.message.text()


def test_players_and_instruments_are_added_and_chosen(window, menus, monkeypatch) -> None:
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("  Ino Vell ", True))
    lengths = iter([(1045.0, True), (0.0, False)])
    monkeypatch.setattr(QInputDialog, "getDouble", lambda *_a, **_k: next(lengths))
    entry(opened(menus._player_menu), "Add a player").trigger()
    assert window.session.now.player.name == "Ino Vell"
    assert chosen(opened(menus._player_menu)) == ["Ino Vell"]
    words = iter([("C1 G1 D2 A2 E3", True), ("Heron", True)])
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_a, **_k: ("double bass", True))
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: next(words))
    entry(opened(menus._instrument_menu), "Add an instrument").trigger()
    assert window.session.now.instrument.kind == "bass"
    assert window.session.now.instrument.strings[0] == Pitch.parse("C1")
    assert window.session.now.string_length_mm == 1045.0
    assert window.header.chip("instrument").text() == "double bass Heron"
    n = len(window.studio.instruments())
    words = iter([("high low", True), ("", True)])
    entry(opened(menus._instrument_menu), "Add an instrument").trigger()
    assert len(window.studio.instruments()) == n
    assert window.strip.message.text()


def test_the_string_length_is_asked_once_and_used_for_every_millimetre(
    window, menus, monkeypatch
) -> None:
    note = next(n for n in window.model.judged.notes if n.off_mm is not None)
    i, before = window.model.judged.notes.index(note), note.off_mm
    window.go("tables")
    window.tables.turn(1)
    assert "328 mm" in window.tables._says.text()
    assert "usual" in window.tables._says.text()
    asked = []
    monkeypatch.setattr(
        QInputDialog, "getDouble", lambda *a, **_k: (asked.append(a[3]), (656.0, True))[1]
    )
    entry(opened(menus._instrument_menu), "String length: 328 mm as usual").trigger()
    assert asked == [328.0]
    assert window.studio.instruments()[0].string_length_mm == 656.0
    assert window.session.now.string_length_mm == 656.0
    assert window.model.judged.notes[i].off_mm == pytest.approx(2 * before)
    assert window.model.context().length_mm == window.session.context().length_mm == 656.0
    assert "656 mm" in window.tables._says.text()
    assert "usual" not in window.tables._says.text()
    assert entry(opened(menus._instrument_menu), "String length: 656 mm").isEnabled()
    monkeypatch.setattr(QInputDialog, "getDouble", lambda *_a, **_k: (1.0, False))
    entry(opened(menus._instrument_menu), "String length: 656 mm").trigger()
    assert window.session.now.string_length_mm == 656.0
    window.run_command("undo")
    assert window.session.now.string_length_mm == 328.0
    assert window.model.judged.notes[i].off_mm == pytest.approx(before)


def test_language_is_kept_for_the_next_start(window, menus) -> None:
    languages = entry(opened(menus._player_menu), "Language").menu()
    entry(languages, "Deutsch").trigger()
    assert window.studio.setting("language") == "de"
    assert "next start" in window.strip.message.text()


def test_inputs_are_listed_and_the_simulated_player_is_always_there(
    qtbot: QtBot, window, menus
) -> None:
    menu = opened(menus._input_menu)
    assert chosen(menu) == [window.stand_model.device.name]
    entry(menu, "simulated player").trigger()
    assert window.stand_model.device.name == entry(menu, "simulated player").text()
    menus._inputs = ()
    off = entry(opened(menus._input_menu), "No microphone was found")
    assert not off.isEnabled()


def test_a_microphone_plugged_in_while_the_menu_is_open_is_there(
    window, menus, monkeypatch
) -> None:
    answers = []
    monkeypatch.setattr(menus._jobs, "run", lambda *_, done, **__: answers.append(done))
    chip = window.header.chip("input")
    menu = chip.menu()
    menu.popup(chip.mapToGlobal(chip.rect().bottomLeft()))
    names = [a.text() for a in menu.actions()]
    assert "Field recorder" not in names
    answers[0]((InputDevice(id="field", name="Field recorder"),))
    listed = [a.text() for a in menu.actions() if a.text()]
    assert listed.count("Field recorder") == 1
    assert "No microphone was found" not in listed
    assert len(answers) == 1, "it is not asked again for that"
    before = menu.actions()
    answers[0]((InputDevice(id="field", name="Field recorder"),))
    assert menu.actions() == before, "nothing moves under the pointer without news"
    menu.hide()
    answers[0](())
    assert [a.text() for a in menu.actions()] == [a.text() for a in before]


# a microphone that is plugged in later -----------------------------------------------------------

ROOM = InputDevice(id="room", name="Room")


def finds(window: MainWindow, monkeypatch: pytest.MonkeyPatch, *found: InputDevice) -> None:
    """The worker's answer from now on."""

    def run(job: str, _request: object, *, done, **_more: object) -> int:  # type: ignore[no-untyped-def]
        assert job == "list_inputs"
        done(tuple(found))
        return 0

    monkeypatch.setattr(window._context, "_jobs", SimpleNamespace(run=run))


def test_a_microphone_that_is_plugged_in_later_is_said(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    said: list[str] = []
    monkeypatch.setattr(window._context, "_say", said.append)
    window.session.use_input(ROOM)
    finds(window, monkeypatch)
    window._context.look_for_inputs()
    assert said == []
    finds(window, monkeypatch, ROOM)
    window._context.look_for_inputs()
    assert said == ["Room is there now."]
    window._context.look_for_inputs()
    assert len(said) == 1, "it was there before"


def test_what_is_there_at_the_first_look_is_no_news(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    said: list[str] = []
    monkeypatch.setattr(window._context, "_say", said.append)
    window.session.use_input(ROOM)
    window._context._looked = False
    finds(window, monkeypatch, ROOM)
    window._context.look_for_inputs()
    assert said == []


def test_it_is_looked_for_while_the_stand_waits(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    context = window._context
    looked: list[int] = []
    monkeypatch.setattr(context, "look_for_inputs", lambda: looked.append(1))
    window.go("stand")
    n = len(looked)
    assert context._watch.isActive()
    context._watch.timeout.emit()
    assert len(looked) == n + 1
    monkeypatch.setattr(type(window.stand_model), "listening", property(lambda _: True))
    context._watch.timeout.emit()
    assert len(looked) == n + 1, "who listens has a microphone"
    monkeypatch.undo()
    window.go("desk")
    assert not context._watch.isActive()
