"""The map of a piece in its widget: bars pressed, takes read one by one, words, picture."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter
from pytestqt.qtbot import QtBot

from aim_builders import jig_of
from jigwright.core.jig.model import Jig
from jigwright.core.jig.parallels import Parallel
from jigwright.core.jig.spot_path import FEWEST_BARS
from jigwright.core.judge.piece_map import BarCell, Played, Said, Thread
from jigwright.services.records import TakeRecord
from jigwright.ui.painting.piece_map import (
    CELL_PX,
    ROW_PX,
    MapData,
    bar_at,
    bars_in_row,
    lettered,
    map_height,
    paint_piece_map,
)
from jigwright.ui.theme import DARK, LIGHT
from jigwright.ui.widgets.below_notes import BelowNotes
from jigwright.ui.widgets.piece_map_view import PieceMapView
from jigwright.wording.piece_map import bar_sentence, map_sentence
from signals import take_record

PIECE = jig_of("D4 E4 F#4 G4 " * 6)  # six bars of four


def thread(take: str, met: int, not_met: int = 0, *, day: str = "2026-11-30") -> Thread:
    return Thread(take_id=take, day=day, n_met=met, n_not_met=not_met, n_unknown=0)


def cell(*threads: Thread, i: int = 0, rest: bool = False) -> BarCell:
    return BarCell(
        i_bar=i, number=i + 1, span=None if rest else (4 * i, 4 * i + 3), threads=threads
    )


# places in the picture -------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("x", "y", "bar"),
    [
        (0.0, 0.0, 0), (CELL_PX - 0.1, ROW_PX - 0.1, 0), (CELL_PX, 0.0, 1), (0.0, ROW_PX, 3),
        (2.5 * CELL_PX, ROW_PX, 5), (3.0 * CELL_PX, 0.0, None), (0.0, 2 * ROW_PX, None),
        (-1.0, 0.0, None), (0.0, -1.0, None),
    ],
)  # fmt: skip
def test_the_bar_under_a_point(x, y, bar) -> None:
    assert bar_at(x, y, 6, 3.4 * CELL_PX) == bar


def test_rows_and_height_follow_the_width() -> None:
    assert bars_in_row(3.9 * CELL_PX) == 3
    assert bars_in_row(1.0) == 1
    assert map_height(7, 3.4 * CELL_PX) == 3 * ROW_PX + 4


def pair(first: int, second: int, n: int, differ: tuple[int, ...] = ()) -> Parallel:
    return Parallel(first=first, second=second, n_bars=n, steps=0, semitones=0, n_notes=9,
                    differ=differ)  # fmt: skip


def test_parallel_places_share_a_letter_and_say_where_they_differ() -> None:
    letters = lettered([pair(0, 4, 2, (1,)), pair(8, 10, 1)])
    assert letters == {0: ("a", False), 1: ("a", True), 4: ("a", False), 5: ("a", True),
                       8: ("b", False), 10: ("b", False)}  # fmt: skip
    three = lettered([pair(0, 2, 1), pair(2, 4, 1)])
    assert {k: v[0] for k, v in three.items()} == {0: "a", 2: "a", 4: "a"}
    assert (
        len({v[0] for v in lettered([pair(4 * k, 4 * k + 2, 1) for k in range(30)]).values()}) == 26
    )


def picture(data: MapData, palette=LIGHT) -> QImage:
    image = QImage(int(4 * CELL_PX), int(2 * ROW_PX), QImage.Format.Format_RGB32)
    image.fill(QColor(palette.panel))
    painter = QPainter(image)
    paint_piece_map(painter, QRectF(image.rect()), data, palette)
    painter.end()
    return image


def seen(image: QImage, colour: str, box: QRectF) -> int:
    """Pixels near a colour inside a box."""
    want = QColor(colour)
    return sum(
        abs(c.red() - want.red()) + abs(c.green() - want.green()) + abs(c.blue() - want.blue()) < 40
        for x in range(int(box.left()), int(box.right()))
        for y in range(int(box.top()), int(box.bottom()))
        if (c := image.pixelColor(x, y)) is not None
    )


@pytest.mark.usefixtures("qapp")
@pytest.mark.parametrize("palette", [LIGHT, DARK])
def test_a_thread_is_filled_by_the_share_that_was_met(palette) -> None:
    box = QRectF(0, 0, CELL_PX, ROW_PX)
    full, half, none = (
        seen(picture(MapData(cells=(cell(thread("a", met, 4 - met)),)), palette), palette.low, box)
        for met in (4, 2, 0)
    )
    assert full > 100
    assert 0.4 * full < half < 0.6 * full
    assert none == 0


@pytest.mark.usefixtures("qapp")
def test_the_newest_thread_stands_at_the_right_and_is_darkest() -> None:
    image = picture(MapData(cells=(cell(*(thread(str(k), 4) for k in range(6))),)))
    left, right = QRectF(0, 0, CELL_PX / 2, ROW_PX), QRectF(CELL_PX / 2, 0, CELL_PX / 2, ROW_PX)
    assert seen(image, LIGHT.low, right) > 2 * seen(image, LIGHT.low, left)


@pytest.mark.usefixtures("qapp")
def test_a_chosen_bar_lies_on_a_band_and_letters_stand_under_their_bars() -> None:
    plain = MapData(cells=tuple(cell(i=k) for k in range(4)))
    box = QRectF(CELL_PX, 0, CELL_PX, ROW_PX)
    assert seen(picture(plain), LIGHT.band, box) < seen(
        picture(replace(plain, chosen=(1, 1))), LIGHT.band, box
    )
    assert seen(picture(plain), LIGHT.accent, box) == 0
    assert seen(picture(replace(plain, pairs=(pair(1, 3, 1),))), LIGHT.accent, box) > 20


# the widget ------------------------------------------------------------------------------------


def take(name: str) -> TakeRecord:
    return take_record(name, PIECE)


def reads(states: dict[str, dict[int, str]]):
    """What takes say, by event number."""

    def read(t: TakeRecord) -> Played | None:
        rows = states.get(t.id)
        if rows is None:
            return None
        named = {PIECE.events[i].id: s for i, s in rows.items()}
        return Played(take_id=t.id, day="2026-11-30", states=named)  # type: ignore[arg-type]

    return read


@pytest.fixture
def view(qtbot: QtBot) -> PieceMapView:
    made = PieceMapView(
        LIGHT, lambda jig: [take("t1"), take("broken"), take("t2")] if jig is PIECE else [],
        reads({"t1": {0: "met", 4: "not_met"}, "t2": {4: "not_met", 5: "met"}}),
    )  # fmt: skip
    qtbot.addWidget(made)
    made.resize(int(4.4 * CELL_PX), 300)
    made.show()
    return made


def test_takes_are_read_one_after_the_other_and_words_follow(qtbot: QtBot, view) -> None:
    view.show_jig(PIECE)
    assert view.words.text() == "Reading the takes …"
    qtbot.waitUntil(lambda: not view.reading, timeout=5_000)
    cells = view.data.cells
    assert [t.take_id for t in cells[1].threads] == ["t1", "t2"]  # in order of time
    assert view.words.text() == "2 takes, 2 of 6 bars. Bar 2 went worst."
    view.show_jig(jig_of("A4 " * 16))
    assert view.words.text().startswith("Nobody has played this yet")


def test_bars_are_chosen_by_mouse_and_keys_and_their_notes_with_them(qtbot: QtBot, view) -> None:
    view.show_jig(PIECE)
    qtbot.waitUntil(lambda: not view.reading, timeout=5_000)
    sheet = view._sheet
    with qtbot.waitSignal(view.chosen) as got:
        qtbot.mouseClick(sheet, Qt.MouseButton.LeftButton,
                         pos=QPointF(1.5 * CELL_PX, 20).toPoint())  # fmt: skip
    assert got.args == [4, 7]
    assert view.words.text().startswith("Bar 2: every note was right in 0 of the last 2 takes")
    assert view.make.isVisible()
    with qtbot.waitSignal(view.chosen) as got:
        qtbot.keyClick(sheet, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert got.args == [4, 11]
    with qtbot.waitSignal(view.wanted) as got:
        qtbot.keyClick(sheet, Qt.Key.Key_Return)
    assert got.args == [1, 2]
    qtbot.keyClick(sheet, Qt.Key.Key_Left)
    assert view.data.chosen == (1, 1)
    row = bars_in_row(sheet.width())
    qtbot.keyClick(sheet, Qt.Key.Key_Down)
    assert view.data.chosen == (min(5, 1 + row),) * 2
    view.press(None, extend=False)
    assert view.data.chosen is None
    assert not view.make.isVisible()


def test_a_double_click_makes_the_bar_the_exercise(qtbot: QtBot, view) -> None:
    view.show_jig(PIECE)
    with qtbot.waitSignal(view.wanted) as got:
        qtbot.mouseDClick(view._sheet, Qt.MouseButton.LeftButton,
                          pos=QPointF(2.5 * CELL_PX, 20).toPoint())  # fmt: skip
    assert got.args == [2, 2]


def test_a_jig_of_few_bars_has_no_map(qtbot: QtBot) -> None:
    below = BelowNotes(LIGHT, lambda _: [], lambda _: None)
    qtbot.addWidget(below)
    below.show()
    below.show_jig(PIECE)
    below.turn_to_map.click()
    assert below.map.isVisible()
    assert not below.plan.isVisible()
    short = jig_of("D4 " * 4 * (FEWEST_BARS - 1))
    below.show_jig(short)
    assert below.plan.isVisible()
    assert not below.turn_to_map.isVisible()
    below.show_jig(jig_of("D4 " * 4 * FEWEST_BARS))
    assert below.map.isVisible()  # the side that was seen before
    below.show_jig(None)
    assert below.plan.isVisible()


# words -----------------------------------------------------------------------------------------


def test_words_of_the_map() -> None:
    played, silent, rest = cell(thread("a", 4)), cell(i=1), cell(i=2, rest=True)
    assert map_sentence([silent], None, reading=True) == "Reading the takes …"
    assert map_sentence([played, silent, rest], None, reading=False) == "One take, 1 of 2 bars."
    assert map_sentence([played, rest], None, reading=False).endswith(
        "No bar went wrong more often than not."
    )


@pytest.mark.parametrize(
    ("cells", "said"),
    [
        ([cell()], "Bar 1: nobody has played it yet."),
        ([cell(thread("a", 4))],
         "Bar 1: every note was right in 1 of the last 1 take, on 2026-11-30."),
        ([cell(thread("a", 4, 1), thread("b", 5)), cell(thread("b", 3, 1), i=1)],
         "Bars 1 to 2: every note was right in 0 of the last 2 takes, on 2026-11-30."),
        ([cell(thread("a", 4, day="2026-11-01"), thread("b", 4))],
         "Bar 1: every note was right in 2 of the last 2 takes, 2026-11-01 to 2026-11-30."),
    ],
)  # fmt: skip
def test_words_of_bars(cells, said) -> None:
    assert bar_sentence(cells) == said


def said(n: int) -> Said:
    return Said(day=f"2026-11-0{n}", who="Odo Weir", words=f"words {n}")


def test_what_was_said_in_a_bar_is_said_with_it_the_last_two() -> None:
    told = replace(cell(thread("a", 4)), said=(said(1), said(2), said(3)))
    text = bar_sentence([told])
    assert text.endswith("Odo Weir, 2026-11-02: “words 2” Odo Weir, 2026-11-03: “words 3”")
    assert "words 1" not in text
    unplayed = replace(cell(), said=(said(1),))
    assert bar_sentence([unplayed]).endswith("“words 1”")


def test_a_bar_with_words_has_a_turned_corner(qapp) -> None:
    def corner(one: BarCell) -> str:
        image = QImage(200, 80, QImage.Format.Format_RGB32)
        image.fill(LIGHT.color("panel"))
        painter = QPainter(image)
        paint_piece_map(painter, QRectF(image.rect()), MapData(cells=(one,)), LIGHT)
        painter.end()
        return QColor(image.pixel(round(CELL_PX) - 4, 17)).name()

    accent = LIGHT.color("accent").name()
    assert corner(replace(cell(thread("a", 4)), said=(said(1),))) == accent
    assert corner(cell(thread("a", 4))) != accent


def test_a_take_of_which_a_note_cannot_be_told_is_not_called_right() -> None:
    doubtful = Thread(take_id="b", day="2026-11-30", n_met=3, n_not_met=0, n_unknown=1)
    assert bar_sentence([cell(thread("a", 4), doubtful)]).startswith(
        "Bar 1: every note was right in 1 of the last 2 takes"
    )


def test_a_bar_of_the_map_becomes_an_exercise_in_the_window(qtbot: QtBot, window) -> None:
    window.go("jigs")
    place = window.jigs
    place.keep([replace(PIECE, id="piece", title="Harbour tune")], "")
    place.below.turn_to_map.click()
    n = len(window.studio.jigs())
    place.map.choose(1, 2)
    assert place.score.span == (4, 11)
    with qtbot.waitSignal(place.chosen):
        place.map.make.click()
    made: Jig = window.session.now.jig
    assert len(window.studio.jigs()) == n + 1
    assert [e.id for e in made.events] == [e.id for e in PIECE.events[4:12]]
    assert [b.number for b in made.bars()] == [2, 3]
