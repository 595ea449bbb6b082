"""A session at the Stand: with hands full, from item to item; its strip; the page of today."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import timedelta
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from pytestqt.qtbot import QtBot

from aim_builders import jig_of
from builders import new_studio
from jigwright.core.jig.model import Jig
from jigwright.core.judge.plan import PlanItem
from jigwright.core.judge.session_run import Leg, begin, heard, on, passed
from jigwright.services.moments import today
from jigwright.services.records import Player
from jigwright.services.session_runs import keep_run, kept_run
from jigwright.ui.main_window import MainWindow
from jigwright.ui.painting.session_strip import block_at, blocks, paint_session_strip
from jigwright.ui.theme import DARK, LIGHT
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.session_walk import SessionWalk
from jigwright.ui.widgets.session_strip import SessionStrip
from jigwright.wording.daybook import day_name

SCALE, PIECE = jig_of("D4 E4 F#4", title="s"), jig_of("A4 B4", title="p")
SCALE, PIECE = replace(SCALE, id="s"), replace(PIECE, id="p")
ITEMS = (
    PlanItem(part="settle", minutes=1), PlanItem(part="strings", minutes=1),
    PlanItem(part="pitch", minutes=4, jig_id="s", title="Scale", repetitions=3),
    PlanItem(part="break", minutes=2),
    PlanItem(part="passage", minutes=5, jig_id="p", title="Quay Song", repetitions=3, heavy=True),
    PlanItem(part="close", minutes=1),
)  # fmt: skip
BREATH_S = 6.0


class World:
    """A Stand as a session sees it, and a clock."""

    def __init__(self, folder: Path) -> None:
        self.studio = new_studio(folder)
        self.session = SessionModel(self.studio)
        self.session.load()
        self.session.set_player(self.studio.players()[0])
        self.now_s = 0.0
        self.playing, self.here, self.agree = False, True, False
        self.asked: list[str] = []
        self.ends = 0
        self.walk = SessionWalk(self.studio, self.session, self, clock=lambda: self.now_s)
        self.walk.ended.connect(self._over)

    def _over(self) -> None:
        self.ends += 1

    def take_up(self, jig: Jig) -> None:
        self.asked.append(jig.id)

    def check_strings(self) -> None:
        self.asked.append("strings")

    def rest(self) -> None:
        self.asked.append("rest")

    def is_playing(self) -> bool:
        return self.playing

    def is_here(self) -> bool:
        return self.here

    def strings_agree(self) -> bool:
        return self.agree

    def wait(self, seconds: float, step: float = 1.0) -> World:
        """Time goes by in ticks."""
        for _ in range(round(seconds / step)):
            self.now_s += step
            self.walk.tick()
        return self

    @property
    def at(self) -> int | None:
        return None if self.walk.run is None else self.walk.run.at


@pytest.fixture
def world(tmp_path: Path, qapp) -> Iterator[World]:
    made = World(tmp_path)
    yield made
    made.walk.close_down()
    made.studio.close()


def of_jig(item: PlanItem) -> Jig | None:
    return {"s": SCALE, "p": PIECE}.get(item.jig_id or "")


@pytest.fixture
def begun(world: World) -> World:
    world.walk.start(ITEMS, of_jig)
    return world


# walking -----------------------------------------------------------------------------------------


def test_another_player_leaves_the_session_to_the_one_whose_it_is(world: World) -> None:
    owner = world.session.now.player
    other = Player(id="other", name="Lotte Quill")
    world.studio.add_player(other)
    world.walk.start(ITEMS, lambda _: SCALE, 2)
    world.wait(20)
    world.session.set_jig(SCALE)  # the same player
    assert world.at == 2
    world.session.set_player(other)
    assert world.walk.run is None
    world.wait(20)
    assert kept_run(world.studio, other.id) is None
    assert world.walk.resumable() is None
    world.session.set_player(owner)
    waits = world.walk.resumable()
    assert waits is not None
    assert (waits.at, waits.leg.spent_s) == (2, pytest.approx(20, abs=1.5))


def test_a_session_goes_on_by_itself_from_settling_to_its_end(begun: World) -> None:
    assert (begun.at, begun.asked) == (0, ["rest"])
    assert begun.walk.rests
    begun.wait(60)
    assert (begun.at, begun.asked[-1]) == (1, "strings"), "nobody is asked whether settling is over"
    assert not begun.walk.rests
    begun.wait(60)
    assert begun.walk.asks
    begun.wait(BREATH_S)
    assert (begun.at, begun.asked[-1]) == (2, "s")
    begun.wait(240 + BREATH_S)
    assert (begun.at, begun.asked[-1]) == (3, "rest"), "a break is a break"
    begun.wait(120)
    assert (begun.at, begun.asked[-1]) == (4, "p")
    begun.wait(300 + BREATH_S)
    assert begun.ends == 0
    begun.wait(60)
    assert begun.ends == 1
    assert begun.walk.run is not None
    assert begun.walk.run.is_over
    assert begun.walk.line == ""


def test_aims_met_often_enough_lead_on_after_a_breath(begun: World) -> None:
    walk = begun.walk
    walk.go()
    walk.go()
    for _ in range(2):
        walk.heard(SCALE, True)
    walk.heard(PIECE, True)
    walk.heard(SCALE, None)
    assert not walk.asks
    walk.heard(SCALE, True)
    assert walk.asks
    assert walk.line == "Met often enough. Next: Break. Left stays."
    begun.wait(BREATH_S - 1.0)
    assert begun.at == 2
    begun.wait(1.0)
    assert begun.at == 3


def test_strings_that_agree_are_enough(begun: World) -> None:
    begun.agree = True
    begun.wait(1)
    assert begun.at == 0, "they are asked for in their turn"
    begun.agree = False
    begun.walk.go()
    begun.wait(5)
    assert not begun.walk.asks
    begun.agree = True
    begun.wait(1)
    assert begun.walk.asks
    assert begun.walk.line == "The strings agree. Next: Scale. Left stays."
    begun.walk.back()
    begun.wait(5)
    assert not begun.walk.asks, "who stays is not asked at once again"
    begun.wait(90)
    assert begun.at == 2


def test_left_stays_and_then_goes_back(begun: World) -> None:
    walk = begun.walk
    walk.go()
    walk.go()
    begun.wait(240)
    assert walk.asks
    assert walk.back()
    assert (begun.at, walk.asks) == (2, False)
    begun.wait(110)
    assert not walk.asks, "half of four minutes more"
    begun.wait(10)
    assert walk.asks
    walk.go()
    assert begun.at == 3
    assert walk.back()
    assert (begun.at, begun.asked[-1]) == (2, "s")
    walk.back()
    walk.back()
    assert begun.at == 0
    assert not walk.back()


def test_nobody_is_asked_while_playing_nor_led_away(begun: World) -> None:
    begun.walk.go()
    begun.walk.go()
    begun.playing = True
    begun.wait(300)
    assert not begun.walk.asks
    begun.playing = False
    begun.wait(1)
    assert begun.walk.asks
    begun.playing = True
    begun.wait(60)
    assert begun.at == 2, "the next sound was one more of the same"
    begun.playing = False
    begun.wait(BREATH_S - 1)
    assert begun.at == 2
    begun.wait(1)
    assert begun.at == 3


def test_time_stands_still_away_from_the_stand_and_while_the_computer_sleeps(begun: World) -> None:
    begun.here = False
    begun.wait(600)
    assert begun.at == 0
    begun.here = True
    begun.now_s += 3600.0
    begun.walk.tick()
    assert begun.at == 0, "five seconds at most"
    begun.wait(54)
    assert begun.at == 0
    begun.wait(1)
    assert begun.at == 1


def test_a_session_is_left_and_goes_on_where_it_was(begun: World) -> None:
    walk = begun.walk
    walk.go()
    walk.go()
    walk.heard(SCALE, True)
    begun.wait(30)
    assert walk.leave()
    assert not walk.leave()
    assert not walk.go()
    assert not walk.back()
    assert (walk.run, walk.line, walk.rests) == (None, "", False)
    kept = walk.resumable()
    assert kept is not None
    assert (kept.at, kept.legs[2].takes) == (2, 1)
    assert kept.legs[2].spent_s == pytest.approx(30.0, abs=1.0)
    walk.resume(kept, of_jig)
    assert (begun.at, begun.asked[-1]) == (2, "s")


def test_what_cannot_be_found_any_more_is_rested(begun: World) -> None:
    begun.walk.start(ITEMS, lambda _: None, 2)
    assert begun.asked[-1] == "rest"
    begun.walk.heard(SCALE, True)
    assert begun.walk.leg is not None
    assert begun.walk.leg.takes == 1


# the picture --------------------------------------------------------------------------------------


def strip_of(width: float = 600.0) -> list[QRectF]:
    return [b.rect for b in blocks(begin(ITEMS).legs, QRectF(0, 0, width, 40))]


def test_blocks_are_as_long_as_their_minutes_and_fill_the_strip() -> None:
    rects = strip_of()
    assert rects[0].left() == 0.0
    assert rects[-1].right() == pytest.approx(600.0)
    gaps = [b.left() - a.right() for a, b in zip(rects, rects[1:], strict=False)]
    assert gaps == [pytest.approx(3.0)] * 5
    more = [r.width() - rects[0].width() for r in rects]
    assert more[2] / more[4] == pytest.approx(3 / 4)  # four and five minutes over one
    assert min(r.width() for r in strip_of(90.0)) >= 10.0, "never too narrow to be hit"
    assert blocks((), QRectF(0, 0, 100, 10)) == []
    found = blocks(begin(ITEMS).legs, QRectF(0, 0, 600, 40))
    assert block_at(found, found[2].rect.center()) == 2
    assert block_at(found, QPointF(-5, 5)) is None


def painted(palette=LIGHT, at: int | None = 2, chosen: int | None = None, legs=None) -> QImage:
    image = QImage(600, 90, QImage.Format.Format_RGB32)
    image.fill(palette.color("paper"))
    painter = QPainter(image)
    run = legs or begin(ITEMS).legs
    paint_session_strip(painter, QRectF(0, 0, 600, 90), run, palette, at=at, chosen=chosen)
    painter.end()
    return image


def differ(a: QImage, b: QImage) -> bool:
    return a != b


def test_the_strip_shows_what_is_done_in_hand_chosen_and_heavy(qapp) -> None:
    plain = painted()
    assert differ(plain, painted(at=None))
    assert differ(plain, painted(chosen=4))
    spent = passed(begin(ITEMS, 2), 100.0)
    assert differ(plain, painted(legs=spent.legs))
    played = heard(spent, "s", True)
    assert differ(painted(legs=spent.legs), painted(legs=played.legs))
    missed = heard(spent, "s", False)
    assert differ(painted(legs=played.legs), painted(legs=missed.legs))
    light = tuple(replace(g, item=replace(g.item, heavy=False)) for g in begin(ITEMS).legs)
    assert differ(plain, painted(legs=light))
    paused = passed(begin(ITEMS, 3), 60.0)
    assert differ(painted(at=3), painted(at=3, legs=paused.legs))
    assert differ(painted(DARK), plain)


# editing on it ------------------------------------------------------------------------------------


@pytest.fixture
def strip(qtbot: QtBot) -> SessionStrip:
    made = SessionStrip(LIGHT)
    qtbot.addWidget(made)
    made.resize(700, 92)
    made.show_session(begin(ITEMS).legs, None)
    made.show()
    made.grab()
    return made


def signals(strip: SessionStrip) -> list[tuple]:
    said: list[tuple] = []
    strip.chosen.connect(lambda i: said.append(("chosen", i)))
    strip.begun.connect(lambda i: said.append(("begun", i)))
    strip.stretched.connect(lambda i, by: said.append(("stretched", i, by)))
    strip.moved.connect(lambda i, by: said.append(("moved", i, by)))
    strip.removed.connect(lambda i: said.append(("removed", i)))
    return said


def middle(strip: SessionStrip, i: int) -> QPoint:
    rect = blocks(begin(ITEMS).legs, QRectF(strip.rect()).adjusted(1, 4, -1, -36))[i].rect
    return rect.center().toPoint()


def test_keys_choose_stretch_move_drop_and_begin(qtbot: QtBot, strip: SessionStrip) -> None:
    said = signals(strip)
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Plus, Qt.Key.Key_Minus,
                Qt.Key.Key_Delete, Qt.Key.Key_Return, Qt.Key.Key_Left):  # fmt: skip
        qtbot.keyClick(strip, key)
    assert said == [
        ("chosen", 1), ("chosen", 2), ("stretched", 2, 1), ("stretched", 2, -1), ("removed", 2),
        ("begun", 2), ("chosen", 1),
    ]  # fmt: skip
    said.clear()
    qtbot.keyClick(strip, Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
    assert said == [("moved", 1, 1)]
    assert strip.current == 2
    strip.choose(2)
    strip.choose(4)
    assert strip.accessibleDescription() == "Quay Song, 5 minutes"


def test_ends_are_dragged_items_moved_and_dragged_out(qtbot: QtBot, strip: SessionStrip) -> None:
    said = signals(strip)
    left = Qt.MouseButton.LeftButton
    end = blocks(begin(ITEMS).legs, QRectF(strip.rect()).adjusted(1, 4, -1, -36))[2].rect
    edge = QPoint(round(end.right()) - 1, round(end.center().y()))
    qtbot.mousePress(strip, left, pos=edge)
    qtbot.mouseRelease(strip, left, pos=edge + QPoint(100, 0))
    assert said == [("chosen", 2), ("stretched", 2, 2)]
    said.clear()
    qtbot.mousePress(strip, left, pos=middle(strip, 2))
    qtbot.mouseRelease(strip, left, pos=middle(strip, 4))
    assert said == [("moved", 2, 2)]
    said.clear()
    qtbot.mousePress(strip, left, pos=middle(strip, 1))
    qtbot.mouseRelease(strip, left, pos=middle(strip, 1) + QPoint(0, 400))
    assert said[-1] == ("removed", 1)
    said.clear()
    qtbot.mouseDClick(strip, left, pos=middle(strip, 4))
    assert said[-1] == ("begun", 4)
    strip.show_session((), None)
    qtbot.mouseClick(strip, left, pos=QPoint(5, 10))
    assert strip.current == 0


# the page of today, and the window ----------------------------------------------------------------


@pytest.fixture
def page(qtbot: QtBot, window: MainWindow):
    window.go("daybook")
    qtbot.waitUntil(lambda: not window.daybook_model.busy, timeout=20_000)
    return window.daybook.today


def test_a_plan_is_edited_on_its_strip(qtbot: QtBot, window: MainWindow, page) -> None:
    model = page.model
    page.strip.setFocus()
    first = model.items[1]
    page.strip.choose(1)
    qtbot.keyClick(page.strip, Qt.Key.Key_Plus)
    assert model.items[1].minutes == first.minutes + 1
    assert "minutes in all" in page.said.text()
    qtbot.keyClick(page.strip, Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
    assert model.items[2].title == first.title
    assert model.items[2].part == first.part
    n = len(model.items)
    qtbot.keyClick(page.strip, Qt.Key.Key_Delete)
    assert len(model.items) == n - 1


def test_the_evening_from_the_page_to_the_stand_and_back(
    qtbot: QtBot, window: MainWindow, page
) -> None:
    model, walk = page.model, window.stand_model.walk
    model.items = [ITEMS[2], ITEMS[5]]
    scale = next(j for j in window.studio.jigs() if j.instrument_id == window.session.now.kind)
    model.items[0] = replace(model.items[0], jig_id=scale.id)
    page.refresh()
    assert page.go.text() == "Start the session"
    page.go.click()
    assert window._places.currentWidget() is window.stand
    assert window.session.now.jig.id == scale.id
    assert "minutes left" in walk.line
    window.stand_model.stop()
    walk.heard(scale, True)
    window.go("daybook")
    assert page.go.text() == "Go on with the session"
    assert page.strip._at == 0
    assert any("1 of 1 met it" in w for w in rows_of(page))
    page.go.click()
    assert walk.leg is not None
    assert walk.leg.takes == 1
    sheet = window.stand.sheet
    window.stand_model.stop()
    qtbot.keyClick(sheet, Qt.Key.Key_PageDown)
    assert walk.rests, "the right pedal goes on where nothing is said"
    assert window.stand.words()[0] == "To end with"
    sheet.grab()
    qtbot.keyClick(sheet, Qt.Key.Key_PageDown)
    assert window._places.currentWidget() is window.daybook
    assert page.end.isVisible()
    assert "1 of 1 exercise played" in page.end.words.text()
    tomorrow = day_name((today() + timedelta(days=1)).isoformat())
    assert f"Comes again {tomorrow}: " in page.end.words.text()
    page.end.word.setText("round")
    page.end.word.editingFinished.emit()
    page.end.likings[4].click()
    note = window.studio.day_notes(window.session.now.player.id)[-1]
    assert (note.word, note.liking, note.day) == ("round", 4, today().isoformat())
    assert page.go.text() == "Another session"
    page.go.click()
    assert walk.run is not None
    assert walk.run.at == 0
    window.stand_model.stop()


def test_the_right_pedal_begins_the_session_at_the_page_of_today(
    window: MainWindow, page, monkeypatch: pytest.MonkeyPatch
) -> None:
    walk, stepped = window.stand_model.walk, []
    monkeypatch.setattr(window.model, "step_take", stepped.append)
    scale = next(j for j in window.studio.jigs() if j.instrument_id == window.session.now.kind)
    page.model.items = [replace(ITEMS[2], jig_id=scale.id)]
    window.run_command("previous_take")
    assert walk.run is None
    window.daybook.turn("record")
    window.run_command("next_take")
    assert walk.run is None
    window.daybook.turn("today")
    window.run_command("next_take")
    assert window._places.currentWidget() is window.stand
    assert walk.run is not None
    assert walk.run.at == 0
    assert not stepped
    window.stand_model.stop()
    window.go("desk")
    window.run_command("next_take")
    assert stepped == [1]


def rows_of(page) -> list[str]:
    grid = page._rows
    return [grid.itemAt(i).widget().text() for i in range(grid.count()) if grid.itemAt(i).widget()]


def test_pedals_stay_and_escape_leaves_the_session(qtbot: QtBot, window: MainWindow, page) -> None:
    walk, sheet = window.stand_model.walk, window.stand.sheet
    window.go("stand")
    walk.start(ITEMS, lambda _: None, 0)
    qtbot.keyClick(sheet, Qt.Key.Key_Right)
    assert walk.run is not None
    assert walk.run.at == 1
    assert window.stand_model.mode == "strings"
    window.stand_model.stop()
    walk.run = passed(walk.run, 61.0)
    walk._ask_when_over()
    assert walk.asks
    sheet.grab()
    qtbot.keyClick(sheet, Qt.Key.Key_PageUp)
    assert (walk.run.at, walk.asks) == (1, False)
    rows = [text for text, _ in window.stand._session_rows()]
    assert len(rows) == 3
    for _ in range(6):
        if walk.run is not None:
            qtbot.keyClick(sheet, Qt.Key.Key_Escape)
    assert walk.run is None
    assert window.stand._session_rows() == []


def test_what_was_not_met_yesterday_is_remembered(window: MainWindow, page) -> None:
    player = window.session.now.player
    yesterday = today().fromordinal(today().toordinal() - 1)
    run = on(heard(begin(ITEMS, 2), "s", False))
    keep_run(window.studio, player.id, yesterday, run)
    page.refresh()
    assert "not yet Scale; Quay Song" in page.said.text()
    assert page.go.text() == "Start the session"
    page.minutes.setValue(30)
    assert kept_run(window.studio, player.id) is None, "a new plan forgets the old session"
    assert sum(i.minutes for i in page.model.items) == 30


def test_levels_and_schools_are_chosen_on_the_page(window: MainWindow, page) -> None:
    before = [i.jig_id for i in page.model.items]
    page.level.setCurrentIndex(page.level.findData("early"))
    page.level.activated.emit(page.level.currentIndex())
    assert page.model.wish.level == "early"
    assert [i.jig_id for i in page.model.items] != before
    page.school.setCurrentIndex(page.school.findData("rotating"))
    page.school.activated.emit(page.school.currentIndex())
    assert page.model.wish.school == "rotating"
    assert isinstance(page.model.legs()[0], Leg)


def test_the_theme_fills_its_week(window: MainWindow, page) -> None:
    assert not page.week.isVisible()
    page.theme.setText("major")
    page.theme.editingFinished.emit()
    page.refresh()
    assert page.week.isVisible()
    assert "major: on" in page.week.accessibleName()
    before = page.week.grab().toImage()
    page.week.show_week((True, True, None, None, None, None, None), "major")
    assert page.week.accessibleName() == "major: on 2 days this week"
    assert page.week.grab().toImage() != before


def test_ready_in_a_break_is_going_on(window: MainWindow) -> None:
    stand = window.stand_model
    window.go("stand")
    stand.walk.start(ITEMS, lambda _: None, 3)
    assert stand.walk.rests
    stand.toggle()
    assert stand.walk.run is not None
    assert stand.walk.run.at == 4
    stand.stop()
