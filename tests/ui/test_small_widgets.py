"""Bars, pictures and columns by themselves; inputs and the ear's record without a window."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from jigwright.services.recording import SIMULATED, InputDevice
from jigwright.store.opening import open_studio
from jigwright.ui.theme import DARK, LIGHT
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.input_choice import InputChoice
from jigwright.ui.widgets.canvas import Canvas
from jigwright.ui.widgets.column import ScrollColumn
from jigwright.ui.widgets.empty import EmptyPlace
from jigwright.ui.widgets.painted import Painted
from jigwright.ui.widgets.question_bar import QuestionBar

DESK, HALL = InputDevice(id="desk", name="Desk"), InputDevice(id="hall", name="Hall")


def test_questions_wait_their_turn_and_the_answer_is_run_once(qtbot: QtBot) -> None:
    bar = QuestionBar()
    qtbot.addWidget(bar)
    said: list[str] = []
    assert bar.isHidden()
    bar.ask("First?", [("Yes", lambda: said.append("yes")), ("No", lambda: said.append("no"))])
    bar.ask("Second?", [("Well", lambda: said.append("well"))])
    assert (bar.words.text(), [b.text() for b in bar.buttons]) == ("First?", ["Yes", "No"])
    assert bar.buttons[0].property("kind") == "first"
    qtbot.mouseClick(bar.buttons[1], Qt.MouseButton.LeftButton)
    assert said == ["no"]
    assert (bar.words.text(), [b.text() for b in bar.buttons]) == ("Second?", ["Well"])
    assert not bar.isHidden()
    qtbot.mouseClick(bar.buttons[0], Qt.MouseButton.LeftButton)
    assert said == ["no", "well"]
    assert bar.isHidden()


def test_an_answer_may_ask_again(qtbot: QtBot) -> None:
    bar = QuestionBar()
    qtbot.addWidget(bar)
    bar.ask("Sure?", [("Yes", lambda: bar.ask("Really?", [("Yes", lambda: None)]))])
    qtbot.mouseClick(bar.buttons[0], Qt.MouseButton.LeftButton)
    assert (bar.words.text(), bar.isHidden()) == ("Really?", False)


def test_a_picture_is_painted_over_its_whole_place(qtbot: QtBot) -> None:
    def fill(painter: QPainter, rect: QRectF) -> None:
        painter.fillRect(rect, QColor("#123456"))

    one = Painted(fill, 30)
    qtbot.addWidget(one)
    one.resize(80, 30)
    image = one.grab().toImage()
    corners = {image.pixelColor(x, y).name() for x in (0, image.width() - 1)
               for y in (0, image.height() - 1)}  # fmt: skip
    assert corners == {"#123456"}
    assert one.height() == 30


def test_a_canvas_has_its_page_its_bar_and_the_keyboard(qtbot: QtBot) -> None:
    canvas = Canvas()
    qtbot.addWidget(canvas)
    assert canvas.page is canvas.viewport()
    assert canvas.across is canvas.horizontalScrollBar()
    assert canvas.focusPolicy() == Qt.FocusPolicy.StrongFocus
    assert canvas.verticalScrollBarPolicy() == Qt.ScrollBarPolicy.ScrollBarAlwaysOff


def test_a_column_is_written_anew_in_another_theme(qtbot: QtBot) -> None:
    class Words(ScrollColumn):
        n = 0

        def refresh(self) -> None:
            self.n += 1

    column = Words(LIGHT, "Words", narrowest=120, widest=340)
    qtbot.addWidget(column)
    assert (column.minimumWidth(), column.maximumWidth()) == (120, 340)
    assert column.accessibleName() == "Words"
    column.set_palette(DARK)
    assert column.n == 1
    with pytest.raises(NotImplementedError):
        ScrollColumn(LIGHT, "", narrowest=1, widest=2).refresh()


def test_an_empty_place_offers_its_steps_the_first_one_foremost(qtbot: QtBot) -> None:
    done: list[str] = []
    place = EmptyPlace(
        "Nothing yet", "What belongs here.",
        (("Begin", lambda: done.append("a")), ("Import", lambda: done.append("b"))),
    )  # fmt: skip
    qtbot.addWidget(place)
    buttons = place.findChildren(QPushButton)
    assert [(b.text(), b.property("kind")) for b in buttons] == [
        ("Begin", "first"), ("Import", "second"),
    ]  # fmt: skip
    for button in buttons:
        qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert done == ["a", "b"]


@contextmanager
def chosen(folder: Path) -> Iterator[tuple[InputChoice, SessionModel]]:
    studio = open_studio(folder)
    session = SessionModel(studio)
    session.load()
    yield InputChoice(studio, session), session
    studio.close()


def test_the_first_real_input_is_taken_until_somebody_chose(qapp, studio_copy: Path) -> None:
    with chosen(studio_copy) as (choice, session):
        assert choice.device.id == SIMULATED
        assert not choice.offer(())
        assert choice.offer((DESK, HALL))
        assert session.now.input == DESK
        choice.choose(HALL)
        assert not choice.offer((DESK,))
        assert choice.device == HALL


def test_the_input_is_remembered_with_the_instrument(qapp, studio_copy: Path) -> None:
    with chosen(studio_copy) as (choice, _):
        choice.choose(HALL)
    with chosen(studio_copy) as (again, session):
        assert session.now.input.id == SIMULATED
        again.load()
        assert session.now.input == HALL
