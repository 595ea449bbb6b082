"""The bow plan is worked on in its picture: mouse, keys, advice, and back again."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import QEvent, QPoint, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QPainter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from jigwright.core.jig.bow_advice import advise
from jigwright.core.jig.bow_edit import set_place, set_share, toggle_hook, toggle_lift
from jigwright.core.jig.bow_plan import plan_bow
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.ui.painting.bow_plan import (
    ROW_PX,
    Grip,
    PlanGeometry,
    PlanRow,
    paint_bow_plan,
    paint_ends,
    plan_height,
)
from jigwright.ui.theme import DARK, LIGHT
from jigwright.ui.widgets.bow_plan_view import BowPlanView
from jigwright.wording.bow_plan import (
    advice_sentence,
    begin_name,
    note_sentence,
    part_name,
    plan_sentence,
    stroke_notes,
)

LEFT, RIGHT = Qt.Key.Key_Left, Qt.Key.Key_Right
UP, DOWN = Qt.Key.Key_Up, Qt.Key.Key_Down
SHIFT = Qt.KeyboardModifier.ShiftModifier


def line(text: str, *, loud: str | None = None) -> Jig:
    jig = jig_from_line(text, jig_id="l", instrument_id="violin", title="line")
    first = replace(jig.events[0], dynamic=loud)
    return replace(jig, events=(first, *jig.events[1:]))


TUNE = line("D4:1 (E4:1 F#4:1) G4:1 A4:2 B4:2")


class Bench:
    """A view whose edits come back into it, as the place does it."""

    def __init__(self, qtbot: QtBot, jig: Jig) -> None:
        self.view = BowPlanView(LIGHT)
        qtbot.addWidget(self.view)
        self.jig = jig
        self.n_edits = 0
        self.view.edited.connect(self.take)
        self.view.show_jigs(jig)
        self.view.resize(900, 400)
        self.view.show()
        QApplication.processEvents()

    def take(self, jig: Jig) -> None:
        self.jig = jig
        self.n_edits += 1
        self.view.show_jigs(jig)

    def press(self, key: Qt.Key, modifier=Qt.KeyboardModifier.NoModifier) -> None:
        QTest.keyClick(self.view.picture, key, modifier)

    def drag(self, i_event: int, to: float, *, start: bool = False) -> None:
        picture = self.view.picture
        x, y = picture.point_of(i_event, start=start)
        geometry = PlanGeometry.within(QRectF(picture.rect()))
        there = QPoint(round(geometry.x(to)), round(y))
        QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(y)))
        QTest.mouseMove(picture, there)
        QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=there)

    def tools(self) -> list[str]:
        return [name for name, button in self.view.tools.items() if not button.isHidden()]


@pytest.fixture
def bench(qtbot: QtBot) -> Bench:
    return Bench(qtbot, TUNE)


# geometry ---------------------------------------------------------------------------------------


def rows_of(jig: Jig) -> list[PlanRow]:
    return [PlanRow(stroke=s, bar="", names="") for s in plan_bow(jig)]


def test_ends_starts_and_notes_are_found_under_the_pointer() -> None:
    rows = rows_of(line("D4:2 (E4:1 F#4:1) G4:2"))
    geometry = PlanGeometry.within(QRectF(0, 0, 900, 200))
    first, slur = rows[0].stroke.notes, rows[1].stroke.notes
    y = [geometry.y(k) for k in range(3)]
    assert geometry.grip(rows, geometry.x(first[0].end) - 7, y[0]) == Grip(
        row=0, note=0, part="end"
    )
    assert geometry.grip(rows, geometry.x(first[0].start) + 7, y[0]).part == "start"
    assert geometry.grip(rows, geometry.x(0.5), y[0]) == Grip(row=0, note=0, part="note")
    assert geometry.grip(rows, geometry.x(slur[0].end), y[1]) == Grip(row=1, note=0, part="end")
    inside = geometry.x(0.5 * (slur[1].start + slur[1].end))
    assert geometry.grip(rows, inside, y[1]) == Grip(row=1, note=1, part="note")
    assert geometry.grip(rows, 30.0, y[1]) == Grip(row=1, note=1, part="note")  # among the names
    assert geometry.grip(rows, 300.0, -1.0) is None
    assert geometry.grip(rows, 300.0, y[2] + ROW_PX) is None


def test_places_and_pixels_are_each_others_inverse_and_stay_on_the_bow() -> None:
    geometry = PlanGeometry.within(QRectF(0, 0, 900, 200))
    for place in (0.0, 0.25, 1.0):
        assert geometry.place(geometry.x(place)) == pytest.approx(place)
    assert geometry.place(-50.0) == 0.0
    assert geometry.place(5000.0) == 1.0
    narrow = PlanGeometry.within(QRectF(0, 0, 459, 200))
    wide = PlanGeometry.within(QRectF(0, 0, 460, 200))
    assert narrow.left < wide.left  # names give way
    assert plan_height(0) == 0.0
    assert plan_height(3) - plan_height(2) == ROW_PX


# mouse ------------------------------------------------------------------------------------------


def test_dragging_the_end_of_a_ribbon_sets_its_share(bench: Bench) -> None:
    bench.drag(0, 0.9)
    start = plan_bow(TUNE)[0].notes[0].start
    assert bench.jig.events[0].bow_share == pytest.approx(0.9 - start, abs=0.01)
    assert [e.bow_share for e in bench.jig.events[1:]] == [None] * 5
    assert plan_bow(bench.jig)[0].spent == pytest.approx(0.9 - start, abs=0.02)


def test_dragging_the_start_sets_where_the_stroke_begins(bench: Bench) -> None:
    bench.drag(1, 0.8, start=True)
    assert bench.jig.events[1].bow_place == pytest.approx(0.8, abs=0.01)
    assert plan_bow(bench.jig)[1].notes[0].start == pytest.approx(0.8, abs=0.01)


def test_a_press_chooses_and_changes_nothing(bench: Bench) -> None:
    x, y = bench.view.picture.point_of(4)
    middle = QPoint(round(x - 60), round(y))
    QTest.mouseClick(bench.view.picture, Qt.MouseButton.LeftButton, pos=middle)
    assert bench.view.picture.event_chosen == 4
    end = QPoint(round(x), round(y))
    QTest.mouseClick(bench.view.picture, Qt.MouseButton.LeftButton, pos=end)
    QTest.mouseClick(bench.view.picture, Qt.MouseButton.RightButton, pos=end)
    assert bench.n_edits == 0


def test_a_plan_that_is_only_looked_at_is_not_dragged(qtbot: QtBot) -> None:
    bench = Bench(qtbot, TUNE)
    bench.view.show_jigs(TUNE, editable=False)
    bench.drag(0, 0.9)
    bench.view.picture.choose(0)
    bench.press(RIGHT)
    assert bench.n_edits == 0
    assert bench.tools() == []


# keys -------------------------------------------------------------------------------------------


def test_arrows_go_from_note_to_note_and_stay_in_the_plan(bench: Bench) -> None:
    seen = []
    for key in (DOWN, DOWN, DOWN, UP, *[DOWN] * 9, *[UP] * 9):
        bench.press(key)
        seen.append(bench.view.picture.event_chosen)
    assert seen == [0, 1, 2, 1, 2, 3, 4, 5, 5, 5, 5, 5, 5, 4, 3, 2, 1, 0, 0, 0, 0, 0]


def test_left_and_right_move_the_end_of_the_ribbon(bench: Bench) -> None:
    bench.view.picture.choose(0)
    before = plan_bow(TUNE)[0].spent
    bench.press(RIGHT)
    more = bench.jig.events[0].bow_share
    assert before < more <= before + 0.08
    bench.press(LEFT)
    assert bench.jig.events[0].bow_share == pytest.approx(more - 0.05, abs=0.011)
    bench.view.picture.choose(4)  # a down bow again
    up = next(s for s in plan_bow(bench.jig) if s.direction == "up").notes[0].i_event
    bench.view.picture.choose(up)
    was = abs(
        next(n.end - n.start for s in plan_bow(bench.jig) for n in s.notes if n.i_event == up)
    )
    bench.press(LEFT)  # of an up bow the left end is its far one
    assert bench.jig.events[up].bow_share > was


def test_with_shift_they_move_where_the_stroke_begins(bench: Bench) -> None:
    bench.view.picture.choose(3)
    start = plan_bow(TUNE)[2].notes[0].start
    bench.press(RIGHT, SHIFT)
    assert bench.jig.events[3].bow_place == pytest.approx(min(1.0, start + 0.05), abs=0.002)


def test_h_hooks_l_lifts_and_delete_leaves_it_to_the_plan(bench: Bench) -> None:
    bench.view.picture.choose(3)
    bench.press(Qt.Key.Key_H)
    assert bench.jig == toggle_hook(TUNE, 3)
    bench.press(Qt.Key.Key_H)
    bench.press(Qt.Key.Key_L)
    assert bench.jig == toggle_lift(TUNE, 3)
    bench.press(Qt.Key.Key_L)
    bench.press(RIGHT)
    bench.press(RIGHT, SHIFT)
    bench.press(Qt.Key.Key_Delete)
    assert [(e.bow_share, e.bow_place) for e in bench.jig.events] == [(None, None)] * 6


def test_its_keys_are_not_the_windows_but_others_are(bench: Bench) -> None:
    def claimed(key: Qt.Key, modifier=Qt.KeyboardModifier.NoModifier) -> bool:
        asked = QKeyEvent(QEvent.Type.ShortcutOverride, key, modifier)
        asked.ignore()
        QApplication.sendEvent(bench.view.picture, asked)
        return asked.isAccepted()

    assert claimed(Qt.Key.Key_Delete)
    assert claimed(LEFT)
    assert claimed(Qt.Key.Key_H)
    assert not claimed(Qt.Key.Key_D)
    assert not claimed(Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier)
    bench.view.picture.editable = False
    assert not claimed(Qt.Key.Key_Delete)


# tools, words, back -----------------------------------------------------------------------------


def test_the_tools_are_those_of_the_chosen_note(bench: Bench) -> None:
    assert bench.tools() == []
    choose = bench.view.picture.choose
    choose(0)
    assert bench.tools() == []  # nothing lies before the first
    choose(1)
    assert bench.tools() == ["hook", "lift"]
    choose(2)
    assert bench.tools() == ["change"]
    bench.view.tools["change"].click()
    assert [len(s.notes) for s in plan_bow(bench.jig)][:3] == [1, 1, 1]
    choose(3)
    bench.view.tools["lift"].click()
    assert bench.jig.events[2].lifted
    assert bench.view.tools["lift"].text() == "Do not lift"
    bench.press(RIGHT)
    assert bench.tools() == ["hook", "lift", "leave", "back"]


def test_every_change_is_taken_back_step_by_step(bench: Bench) -> None:
    bench.view.picture.choose(1)
    bench.press(Qt.Key.Key_H)
    bench.press(RIGHT)
    bench.press(LEFT, SHIFT)
    for _ in range(3):
        bench.view.undo()
    assert bench.jig == TUNE
    assert "back" not in bench.tools()
    bench.view.undo()
    assert bench.jig == TUNE


def test_all_is_left_to_the_plan_when_no_note_is_chosen(qtbot: QtBot) -> None:
    bench = Bench(qtbot, set_place(set_share(TUNE, 0, 0.3), 4, 0.5))
    assert bench.tools() == ["leave_all"]
    bench.view.tools["leave_all"].click()
    assert bench.jig == TUNE
    bench.view.undo()
    assert bench.jig == set_place(set_share(TUNE, 0, 0.3), 4, 0.5)


def test_back_ends_with_the_jig(bench: Bench) -> None:
    bench.view.picture.choose(1)
    bench.press(RIGHT)
    bench.view.show_jigs(replace(TUNE, id="other"))
    assert "back" not in bench.tools()


def test_advice_is_shown_and_followed_with_one_press(qtbot: QtBot) -> None:
    bench = Bench(qtbot, line("D4:2 E4:1 F#4:2 G4:1 A4:2 B4:1"))
    ((said, _),) = bench.view.advice_rows()
    assert said.startswith("Bar 1: E gives back")
    buttons = {b.text(): b for b in bench.view.findChildren(type(bench.view.tools["back"]))
               if b.isVisible()}  # fmt: skip
    buttons["Show"].click()
    assert bench.view.picture.event_chosen == 1
    buttons["Hook it"].click()
    assert bench.jig.events[1].bow == "down"
    assert not any(said.startswith("Bar 1: E") for said, _ in bench.view.advice_rows())


def test_a_long_slur_is_changed_where_it_is_said(qtbot: QtBot) -> None:
    bench = Bench(qtbot, line("(D4:4 E4:4 F#4:4 G4:4)"))
    ((said, _),) = bench.view.advice_rows()
    assert said == "Bar 3: a slur of 16 seconds in mf. Change the bow on this F♯."
    bench.view.change(2)
    assert [len(s.notes) for s in plan_bow(bench.jig)] == [2, 2]


def test_one_note_of_sixteen_seconds_has_nothing_to_press_but_show(qtbot: QtBot) -> None:
    bench = Bench(qtbot, line("D4:16", loud="ff"))
    ((said, button),) = bench.view.advice_rows()
    assert said == "Bar 1: 16 seconds of ff on one D. Change the bow in it, unheard."
    assert button.text() == "Show"


def test_plans_side_by_side_are_named_and_not_worked_on(bench: Bench) -> None:
    bench.view.show_jigs(TUNE, (("two in a bow", TUNE),))
    assert bench.view.words.count("\n") == 1
    assert bench.view.picture.n_plans == 2
    bench.view.picture.choose(1)
    assert bench.tools() == []


def test_a_plucked_jig_shows_no_picture(bench: Bench) -> None:
    plucked = replace(TUNE, events=tuple(replace(e, pluck=True, bow=None) for e in TUNE.events))
    bench.view.show_jigs(plucked)
    assert bench.view.words == ""
    assert bench.view.picture.height() == 0


# words ------------------------------------------------------------------------------------------


def test_what_is_said_of_one_note() -> None:
    jig = set_place(TUNE, 1, 0.9)
    plan = plan_bow(jig)
    said = note_sentence(jig, plan[1], plan[1].notes[0])
    assert said.startswith("Bar 1, E: ")
    assert said.endswith("put down anew (set by you)")
    assert "set by you" not in note_sentence(jig, plan[0], plan[0].notes[0])


@pytest.mark.parametrize(
    ("place", "name"),
    [(0.19, "at the frog"), (0.2, "in the lower half"), (0.41, "in the lower half"),
     (0.42, "in the middle"), (0.58, "in the middle"), (0.59, "in the upper half"),
     (0.8, "in the upper half"), (0.81, "at the tip")],
)  # fmt: skip
def test_parts_of_the_bow_have_names(place: float, name: str) -> None:
    assert part_name(place) == name


def test_strokes_are_named_by_their_notes() -> None:
    jig = line("(D4 E4 F#4 G4) (D4 E4 F#4 G4 A4) D4+A4")
    plan = plan_bow(jig)
    assert [stroke_notes(jig, s) for s in plan] == ["D E F♯ G", "D E … A", "D+A"]
    assert {begin_name(b) for b in ("first", "turned", "hooked", "again", "lifted")} == {
        "the first stroke", "turned", "hooked", "taken back", "put down anew"
    }  # fmt: skip


def test_advice_names_the_loudness_that_decided() -> None:
    slur = line("(D4:4 E4:4)", loud="ppp")
    slur = replace(slur, events=(slur.events[0], replace(slur.events[1], dynamic="f")))
    (advice,) = advise(slur, plan_bow(slur))
    assert "8 seconds in f." in advice_sentence(slur, plan_bow(slur)[0], advice)


def test_sentences_of_plan_and_advice() -> None:
    assert plan_sentence((), ()) == ""
    even = line("D4:2 E4:2")
    assert plan_sentence(plan_bow(even), ()).startswith("Bow plan: all 2 strokes have room")
    one = line("D4:16", loud="ff")
    advice = advise(one, plan_bow(one))
    assert plan_sentence(plan_bow(one), advice).endswith("strokes, one place to think about.")
    slur = set_share(set_share(line("(D4:1 E4:1)"), 0, 0.8), 1, 0.8)
    (much,) = advise(slur, plan_bow(slur))
    assert "more than the bow has" in advice_sentence(slur, plan_bow(slur)[0], much)


# the picture ------------------------------------------------------------------------------------


@pytest.mark.parametrize("palette", [LIGHT, DARK])
def test_set_shares_are_drawn_in_full_proposals_lighter_advice_in_the_accent(qapp, palette) -> None:
    rows = [
        PlanRow(stroke=s, bar=str(k + 1), names="D", marked=k == 2)
        for k, s in enumerate(plan_bow(set_share(line("D4:2 E4:2 F#4:2"), 0, 0.9)))
    ]
    image = QImage(900, round(plan_height(3)), QImage.Format.Format_RGB32)
    image.fill(palette.color("panel"))
    painter = QPainter(image)
    paint_bow_plan(painter, QRectF(image.rect()), rows, palette)
    painter.end()
    geometry = PlanGeometry.within(QRectF(image.rect()))

    def ink(k: int) -> QColor:
        return QColor(image.pixel(round(geometry.x(0.4)), round(geometry.y(k))))

    assert [ink(k).name() for k in range(3)] == [
        palette.color(n).name() for n in ("ink2", "faint", "accent")
    ]


def test_frog_middle_and_tip_stand_over_their_places(qapp) -> None:
    image = QImage(900, 18, QImage.Format.Format_RGB32)
    image.fill(LIGHT.color("panel"))
    painter = QPainter(image)
    paint_ends(painter, QRectF(image.rect()), LIGHT)
    painter.end()
    paper = LIGHT.color("panel").name()
    geometry = PlanGeometry.within(QRectF(image.rect()))

    def inked(place: float) -> bool:
        x = round(geometry.x(place))
        return any(
            QColor(image.pixel(x + dx, y)).name() != paper
            for dx in range(-12, 12)
            for y in range(18)
        )

    assert inked(0.0)
    assert inked(0.5)
    assert inked(1.0)
    assert not inked(0.25)
