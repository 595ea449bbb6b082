"""The weeks as a picture: painted by what they hold, gone about in by mouse and keys."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from pytestqt.qtbot import QtBot

from jigwright.core.judge.season import WEEKS, SeasonCell, SeasonRow
from jigwright.ui.main_window import MainWindow
from jigwright.ui.painting.season import SeasonGrid, paint_season
from jigwright.ui.theme import DARK, LIGHT
from jigwright.ui.widgets.season_view import SeasonView

FIRST = date(2026, 9, 14)
PLAYED = SeasonCell(take_ids=("t1", "t2"), share=0.6, n_met=1)
EMPTY = SeasonCell()


def row(jig_id: str, **at: SeasonCell) -> SeasonRow:
    cells = [EMPTY] * WEEKS
    for name, cell in at.items():
        cells[int(name[1:])] = cell
    return SeasonRow(jig_id=jig_id, cells=tuple(cells))


ROWS = (row("a", w11=PLAYED), row("b", w3=replace(PLAYED, take_ids=("t9",))))


@pytest.fixture
def view(qtbot: QtBot) -> SeasonView:
    made = SeasonView()
    qtbot.addWidget(made)
    made.resize(900, 100)
    made.show_season(ROWS, {"a": "Scale", "b": "Song"}, FIRST)
    made.show()
    return made


def opened(view: SeasonView) -> list[object]:
    said: list[object] = []
    view.chosen.connect(said.append)
    view.week.connect(said.append)
    return said


def test_a_press_opens_the_newest_take_of_its_week(qtbot: QtBot, view: SeasonView) -> None:
    said = opened(view)
    place = view.grid().cell(0, 11).center().toPoint()
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=place)
    assert said == [date(2026, 11, 30), "t2"]
    said.clear()
    empty = view.grid().cell(0, 2).center().toPoint()
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=empty)
    assert said == [date(2026, 9, 28)], "nothing to show there"
    assert "not played" in view.accessibleDescription()
    said.clear()
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=view.grid().name(0).center().toPoint())
    assert said == []


def test_keys_go_from_cell_to_cell(qtbot: QtBot, view: SeasonView) -> None:
    said = opened(view)
    qtbot.keyClick(view, Qt.Key.Key_Down)
    assert view._at == (0, WEEKS - 1)
    for _ in range(8):
        qtbot.keyClick(view, Qt.Key.Key_Left)
    qtbot.keyClick(view, Qt.Key.Key_Down)
    assert view._at == (1, 3)
    qtbot.keyClick(view, Qt.Key.Key_Down)
    assert view._at == (1, 3), "not out of it"
    qtbot.keyClick(view, Qt.Key.Key_Return)
    assert said[-1] == "t9"
    qtbot.keyClick(view, Qt.Key.Key_Up)
    qtbot.keyClick(view, Qt.Key.Key_Right)
    assert view._at == (0, 4)


def test_without_takes_there_is_no_picture(view: SeasonView) -> None:
    assert view.isVisible()
    view.show_season((), {}, FIRST)
    assert not view.isVisible()


def picture(*rows: SeasonRow, chosen=None, palette=LIGHT) -> QImage:
    image = QImage(800, 100, QImage.Format.Format_RGB32)
    image.fill(palette.color("paper"))
    painter = QPainter(image)
    grid = SeasonGrid(rect=QRectF(0, 0, 800, 100), n_weeks=WEEKS)
    paint_season(painter, grid, rows, {"a": "Scale"}, FIRST, chosen, palette)
    painter.end()
    return image


def test_cells_show_how_many_how_far_met_and_kept(qapp) -> None:
    plain = picture(ROWS[0])
    assert plain == picture(ROWS[0])
    for change in (
        {"share": 0.9}, {"share": None}, {"n_met": 0}, {"kept": True}, {"take_ids": ("t1",)},
    ):  # fmt: skip
        other = row("a", w11=replace(PLAYED, **change))
        assert picture(other) != plain, change
    assert picture(ROWS[0], chosen=(0, 11)) != plain
    assert picture(ROWS[0], palette=DARK) != plain


def test_cells_lie_beside_each_other_and_names_left_of_them() -> None:
    grid = SeasonGrid(rect=QRectF(10, 20, 800, 100), n_weeks=WEEKS)
    first, second = grid.cell(0, 0), grid.cell(0, 1)
    assert first.right() < second.left()
    assert grid.cell(1, 0).top() > first.bottom()
    assert grid.cell(0, WEEKS - 1).right() <= 810
    assert grid.name(0).right() < first.left()
    assert grid.at(second.center(), 1) == (0, 1)
    assert grid.at(second.center(), 0) is None
    assert grid.at(QPointF(0, 0), 5) is None


def test_weeks_stand_in_the_record_and_beside_a_pupil(window: MainWindow) -> None:
    window.go("daybook")
    window.daybook.turn("record")
    rows = window.daybook_model.season()[1]
    assert window.daybook.record.season.isVisible() == bool(rows)
    window.daybook.turn("pupils")
    page = window.daybook.pupils
    assert page.chosen is not None
    take = window.studio.takes()[0]
    page.season.chosen.emit(take.id)
    assert window._places.currentWidget() is window.desk
    assert window.model.take is not None
    assert window.model.take.id == take.id
    window.set_palette(DARK)
    assert window.daybook.record.season._palette is DARK
