"""The notes of the strings on the drawn neck: pointed at, gone along by keys, told and heard."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from pytestqt.qtbot import QtBot

from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.core.music.references import pure_strings
from jigwright.core.music.tables import distance_table
from jigwright.ui.main_window import MainWindow
from jigwright.ui.painting.harmonic_string import Neck
from jigwright.ui.painting.neck_notes import note_at, paint_neck
from jigwright.ui.theme import DARK, LIGHT
from jigwright.ui.widgets.neck_finder import NeckFinder
from jigwright.wording.neck import place_sentence

VIOLIN = instrument("violin")
STRINGS = pure_strings(VIOLIN.strings, 440.0)


@pytest.fixture
def finder(qtbot: QtBot) -> NeckFinder:
    made = NeckFinder(LIGHT)
    qtbot.addWidget(made)
    made.set_strings(STRINGS, length_mm=328.0, fifths=0, string=2)
    made.resize(900, 240)
    made.show()
    return made


def test_a_place_is_told_with_its_step_and_what_a_slip_costs() -> None:
    (row,) = [r for r in distance_table(Pitch.parse("A4"), string_length_mm=328.0)
              if str(r.pitch) == "E5"]  # fmt: skip
    assert place_sentence(Pitch.parse("A4"), row) == (
        "A string, E5: 109 mm from the nut, 13.0 mm above the half step below. "
        "A millimetre is 7.9 c."
    )


def test_the_first_note_of_the_string_is_told(finder: NeckFinder) -> None:
    assert finder.chosen == (2, 0)
    assert finder.said.text().startswith("A string, ")
    assert "18 mm from the nut" in finder.said.text()
    assert finder.picture.accessibleDescription() == finder.said.text()


def test_keys_go_along_and_across(qtbot: QtBot, finder: NeckFinder) -> None:
    asked: list[int] = []
    finder.asked.connect(asked.append)
    for key, place in (
        (Qt.Key.Key_Left, (2, 0)), (Qt.Key.Key_Right, (2, 1)), (Qt.Key.Key_Up, (3, 1)),
        (Qt.Key.Key_Up, (3, 1)), (Qt.Key.Key_Down, (2, 1)), (Qt.Key.Key_Left, (2, 0)),
    ):  # fmt: skip
        qtbot.keyClick(finder.picture, key)
        assert finder.chosen == place
    assert asked == [3, 2]
    for _ in range(40):
        qtbot.keyClick(finder.picture, Qt.Key.Key_Right)
    assert finder.chosen == (2, len(finder.rows[2]) - 1)


def test_return_sounds_what_is_told(qtbot: QtBot, finder: NeckFinder) -> None:
    heard: list[tuple[float, str]] = []
    finder.heard.connect(lambda hz, what: heard.append((hz, what)))
    finder.choose(1, 6)
    qtbot.keyClick(finder.picture, Qt.Key.Key_Return)
    ((hz, what),) = heard
    assert what == "A4"
    assert hz == pytest.approx(STRINGS[Pitch.parse("D4")] * 2 ** (7 / 12))
    qtbot.keyClick(finder.picture, Qt.Key.Key_A)
    assert len(heard) == 1


def test_a_note_is_pointed_at(qtbot: QtBot, finder: NeckFinder) -> None:
    heard: list[str] = []
    finder.heard.connect(lambda _, what: heard.append(what))
    row = finder.rows[0][4]
    place = finder.picture.neck().point(0, row.from_nut_mm).toPoint()
    qtbot.mouseClick(finder.picture, Qt.MouseButton.LeftButton, pos=place)
    assert finder.chosen == (0, 4)
    assert heard == ["C4"]
    qtbot.mouseClick(finder.picture, Qt.MouseButton.LeftButton, pos=QPoint(3, 3))
    assert finder.chosen == (0, 4)
    assert heard == ["C4"]


def test_another_instrument_keeps_the_place_on_the_string(finder: NeckFinder) -> None:
    finder.choose(2, 4)
    cello = instrument("cello")
    finder.set_strings(pure_strings(cello.strings, 440.0), length_mm=690.0, fifths=0, string=1)
    assert finder.chosen == (1, 4)
    assert finder.said.text().startswith("G string, C3: ")


@pytest.mark.parametrize("place", [(-1, 0), (4, 0), (0, -1), (0, 99)])
def test_there_is_no_note_off_the_strings(finder: NeckFinder, place: tuple[int, int]) -> None:
    finder.choose(*place)
    assert finder.chosen == (2, 0)


def test_before_there_are_strings_nothing_is_told(qtbot: QtBot) -> None:
    made = NeckFinder(LIGHT)
    qtbot.addWidget(made)
    made.hear()
    made.choose(0, 0)
    assert made.chosen is None
    made.show()
    qtbot.keyClick(made.picture, Qt.Key.Key_Right)
    assert made.chosen is None


NECK = Neck(rect=QRectF(0, 0, 900, 190), n_strings=4, length_mm=328.0)
ROWS = tuple(distance_table(s, string_length_mm=328.0) for s in STRINGS)


@pytest.mark.parametrize(("by", "found"), [(0.0, True), (15.9, True), (16.1, False)])
def test_a_note_is_as_wide_as_a_finger_tip(by: float, found: bool) -> None:
    at = NECK.point(3, ROWS[3][0].from_nut_mm)
    assert (note_at(NECK, ROWS, QPointF(at.x() - by, at.y())) == (3, 0)) is found
    assert (note_at(NECK, ROWS, QPointF(at.x(), at.y() - by)) == (3, 0)) is found


def test_of_two_the_nearer_is_meant() -> None:
    a, b = (NECK.point(0, ROWS[0][k].from_nut_mm) for k in (20, 21))
    assert note_at(NECK, ROWS, QPointF(0.6 * a.x() + 0.4 * b.x(), a.y())) == (0, 20)
    assert note_at(NECK, ROWS, QPointF(0.4 * a.x() + 0.6 * b.x(), a.y())) == (0, 21)


def picture(chosen: tuple[int, int] | None = None, palette=LIGHT, neck=NECK) -> QImage:
    image = QImage(round(neck.rect.width()), 190, QImage.Format.Format_RGB32)
    image.fill(palette.color("paper"))
    painter = QPainter(image)
    paint_neck(painter, neck, tuple(STRINGS), ROWS, chosen, palette)
    painter.end()
    return image


def test_letters_stand_where_there_is_room_and_the_chosen_one_always(qapp) -> None:
    plain = picture()
    ring = NECK.point(0, ROWS[0][1].from_nut_mm)  # A on the G string

    def edge(image: QImage, at: QPointF) -> str:
        return image.pixelColor(round(at.x()), round(at.y()) - 10).name()

    paper = LIGHT.color("paper").name()
    assert edge(plain, ring) != paper
    sharp = NECK.point(0, ROWS[0][0].from_nut_mm)
    assert edge(plain, sharp) == paper
    assert edge(picture((0, 0)), sharp) != paper
    naturals = [k for k, row in enumerate(ROWS[0]) if row.pitch.alter == 0]
    wide = Neck(rect=QRectF(0, 0, 1600, 190), n_strings=4, length_mm=328.0)
    for neck, every in ((wide, True), (NECK, False)):
        image = picture(neck=neck)
        named = [k for k in naturals if edge(image, neck.point(0, ROWS[0][k].from_nut_mm)) != paper]
        assert (named == naturals) is every
        places = [neck.point(0, ROWS[0][k].from_nut_mm).x() for k in named]
        assert all(b - a >= 20 for a, b in zip(places, places[1:], strict=False))
    assert plain != picture(palette=DARK)


def test_the_table_follows_the_string_that_is_pointed_at(window: MainWindow) -> None:
    window.go("tables")
    tables = window.tables
    assert tables.neck.isHidden()
    tables.turn(1)
    assert not tables.neck.isHidden()
    assert tables.finder.isHidden()
    tables.neck.choose(0, 0)
    assert tables.table.item(0, 0).text() == "G♯3"
    assert tables.neck.chosen == (0, 0)
    tables.neck.choose(3, 2)
    assert tables.table.item(2, 0).text() == "G5"
    assert tables.neck.chosen == (3, 2)
