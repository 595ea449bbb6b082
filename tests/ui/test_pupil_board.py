"""Pupils as rows: where cards lie, what keys and the mouse do, and what a teacher hears."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from jigwright.core.judge.work import Progress, SetWork
from jigwright.services.hearing_round import LatestTake, PupilView
from jigwright.services.pupils import PupilRow
from jigwright.services.records import Player
from jigwright.ui.main_window import MainWindow
from jigwright.ui.painting.pupil_board import ROW_PX, BoardGrid, paint_pupil_board
from jigwright.ui.theme import DARK, LIGHT, Palette
from jigwright.ui.widgets.pupil_board import PupilBoard
from signals import take_record

PRINT = ((4.0, "in"), (-18.0, "low"), (None, "missed"))


def take(name: str, *, new: bool = False) -> LatestTake:
    return LatestTake(take=take_record(name, None), title="Harbour waltz", is_new=new)


def work(days: int, n_good: int = 1) -> tuple[SetWork, Progress, str]:
    one = SetWork(
        id=f"w{days}", player_id="p", jig_id="j", jig_revision=1, words="", due="2026-12-01",
        good_takes=3, who="", set_utc="2026-11-01T00:00:00Z",
    )  # fmt: skip
    state = "overdue" if days < 0 else "open"
    return one, Progress(state=state, n_takes=2, n_good=n_good, days_left=days), "Harbour waltz"


def view(name: str, *marks: bool, works: tuple[tuple[SetWork, Progress, str], ...] = ()):
    row = PupilRow(
        player=Player(id=name, name=f"{name} Harbour"), days_ago=2, minutes=1.5, n_takes=2,
        n_open=0, next_days_left=None,
    )  # fmt: skip
    takes = tuple(take(f"{name}{k}", new=mark) for k, mark in enumerate(marks))
    return PupilView(row=row, takes=takes, n_new=sum(marks), works=works)


# where things lie ------------------------------------------------------------------------------


def grid(width: float = 1200.0) -> BoardGrid:
    return BoardGrid(rect=QRectF(0, 0, width, 4 * ROW_PX), n_rows=4)


@pytest.mark.parametrize(("width", "n"), [(1200.0, 6), (960.0, 4), (300.0, 1), (4000.0, 6)])
def test_as_many_takes_as_fit_lie_between_name_and_work(width: float, n: int) -> None:
    one = grid(width)
    assert one.n_cards == n
    cards = [one.card(1, k) for k in range(n)]
    assert one.name(1).right() < cards[0].left()
    assert cards[-1].right() <= one.work(1).left() or n == 1
    assert all(a.right() < b.left() for a, b in zip(cards, cards[1:], strict=False))
    assert one.row(1).contains(cards[0])


NEW_LATE = view("a", False, False, False, False, True, True, True, True)


@pytest.mark.parametrize(
    ("of", "chosen", "shown"),
    [
        (NEW_LATE, None, (3, 4, 5, 6)),  # the last that was heard, and what is new
        (NEW_LATE, 7, (4, 5, 6, 7)),
        (NEW_LATE, 0, (0, 1, 2, 3)),
        (NEW_LATE, 5, (3, 4, 5, 6)),
        (view("b", *[False] * 6), None, (2, 3, 4, 5)),
        (view("c", *[True] * 6), None, (0, 1, 2, 3)),
        (view("d", True, True), None, (0, 1)),
        (view("e"), None, ()),
    ],
)
def test_what_is_new_and_what_is_chosen_is_in_sight(
    of: PupilView, chosen: int | None, shown: tuple[int, ...]
) -> None:
    assert grid(960.0).shown(of, chosen) == shown


def test_what_lies_under_a_point() -> None:
    views = (view("b", False), NEW_LATE)
    one = grid(960.0)
    assert one.at(one.card(1, 2).center(), views, (0, None)) == (1, 5)
    assert one.at(one.card(1, 2).center(), views, (1, 0)) == (1, 2)
    assert one.at(one.name(0).center(), views, (0, None)) == (0, None)
    assert one.at(one.card(0, 3).center(), views, (0, None)) == (0, None)
    assert one.at(QPointF(10, 3.5 * ROW_PX), views, (0, None)) is None


def painted(palette: Palette, views: tuple[PupilView, ...], **more: object) -> QImage:
    image = QImage(1200, len(views) * ROW_PX, QImage.Format.Format_RGB32)
    image.fill(palette.color("panel"))
    prints = {t.take.id: PRINT for v in views for t in v.takes}
    painter = QPainter(image)
    at = more.pop("at", (0, None))
    board = BoardGrid(rect=QRectF(image.rect()), n_rows=len(views))
    paint_pupil_board(painter, board, views, prints, palette, at=at, **more)  # type: ignore[arg-type]
    painter.end()
    return image


@pytest.mark.parametrize("palette", [LIGHT, DARK])
def test_everything_that_changes_is_seen(qapp: object, palette: Palette) -> None:
    views = (view("a", False, True, works=(work(-2),)), view("b"))
    plain = painted(palette, views)
    for other in (
        painted(palette, views, at=(0, 1)), painted(palette, views, at=(1, None)),
        painted(palette, views, playing="a0"), painted(palette, views, focused=True),
        painted(palette, (view("a", False, False, works=(work(-2),)), view("b"))),
        painted(palette, (view("a", False, True, works=(work(2),)), view("b"))),
        painted(palette, (view("a", False, True, works=(work(-2, n_good=2),)), view("b"))),
        painted(palette, (view("a", False, True, works=(work(-2), work(1), work(3))), view("b"))),
    ):  # fmt: skip
        assert other != plain
    assert painted(palette, views) == plain
    one, two = (painted(palette, (view("a", works=w),)) for w in ((work(1),), (work(1), work(3))))
    more = painted(palette, (view("a", works=(work(1), work(3), work(4))),))
    assert len({bytes(i.constBits().asarray(i.sizeInBytes())) for i in (one, two, more)}) == 3


def test_what_is_late_stands_out_by_its_state(qapp: object) -> None:
    one, progress, title = work(-2)
    open_still = (one, replace(progress, state="open"), title)
    late = painted(LIGHT, (view("a", works=((one, progress, title),)),))
    assert painted(LIGHT, (view("a", works=(open_still,)),)) != late


# going about -------------------------------------------------------------------------------------


class Heard:
    """What a board asked for."""

    def __init__(self, board: PupilBoard) -> None:
        self.played: list[str] = []
        self.opened: list[str] = []
        self.chosen: list[str] = []
        self.n_nothing = 0
        board.hear.connect(lambda t: self.played.append(t.take.id))
        board.opened.connect(lambda t: self.opened.append(t.take.id))
        board.chosen.connect(lambda p: self.chosen.append(p.id))
        board.nothing_new.connect(self._nothing)

    def _nothing(self) -> None:
        self.n_nothing += 1


@pytest.fixture
def board(qtbot: QtBot) -> PupilBoard:
    made = PupilBoard(lambda _: PRINT)
    qtbot.addWidget(made)
    made.resize(1200, 3 * ROW_PX)
    made.show_pupils((view("a", False, True, True), view("b"), view("c", True)), "a")
    made.show()
    return made


def press(board: PupilBoard, *keys: Qt.Key) -> None:
    for key in keys:
        QTest.keyClick(board, key)


def test_one_key_goes_through_all_that_is_new(board: PupilBoard) -> None:
    heard = Heard(board)
    press(board, *[Qt.Key.Key_Space] * 3)
    assert heard.played == ["a1", "a2", "c0"]
    assert heard.chosen == ["c"]
    assert board.at == (2, 0)


def test_when_all_is_heard_the_key_says_so_or_plays_again(board: PupilBoard) -> None:
    board.show_pupils((view("a", False, False), view("b")), "a")
    heard = Heard(board)
    press(board, Qt.Key.Key_Space)
    assert (heard.played, heard.n_nothing) == ([], 1)  # no take is chosen
    press(board, Qt.Key.Key_Right, Qt.Key.Key_Space)
    assert heard.played == ["a1"]
    board.set_playing("a1")
    press(board, Qt.Key.Key_Space)
    assert (heard.played, heard.n_nothing) == (["a1"], 2)


def test_arrows_go_about_and_return_opens(board: PupilBoard) -> None:
    heard = Heard(board)
    press(board, Qt.Key.Key_Return)
    assert heard.opened == []
    press(board, Qt.Key.Key_Left)
    assert board.at == (0, 2)  # the newest first
    press(board, Qt.Key.Key_Left, Qt.Key.Key_Return)
    press(board, *[Qt.Key.Key_Left] * 4, Qt.Key.Key_Enter)
    assert heard.opened == ["a1", "a0"]
    press(board, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Right)
    assert board.at == (1, None)  # who has no take has none to go to
    press(board, *[Qt.Key.Key_Down] * 4)
    assert board.at == (2, None)
    assert heard.chosen == ["b", "c"]
    assert heard.played == []


def test_the_mouse_hears_and_opens(board: PupilBoard) -> None:
    heard = Heard(board)
    place = board.grid().card(2, 0).center().toPoint()
    QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=place)
    assert (heard.chosen, heard.played) == (["c"], ["c0"])
    QTest.mouseDClick(board, Qt.MouseButton.LeftButton, pos=place)
    assert heard.opened == ["c0"]
    QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=board.grid().name(1).center().toPoint())
    assert board.at == (1, None)


def test_what_is_chosen_is_said_and_stays(board: PupilBoard) -> None:
    board.choose(0, 1)
    said = board.accessibleDescription()
    assert said.startswith("a Harbour. played 2 days ago · 2 takes in seven days · 2 to hear")
    assert said.endswith("Harbour waltz, 2 Nov, not heard yet")
    board.show_pupils((view("c", True), view("a", False, False, True)), "a")
    assert board.at == (1, 1)
    assert board.accessibleDescription().endswith("Harbour waltz, 2 Nov")
    board.show_pupils((), None)
    assert (board.at, board.take, board.said()) == ((0, None), None, "")
    press(board, Qt.Key.Key_Space, Qt.Key.Key_Left, Qt.Key.Key_Down)


def test_a_print_is_that_of_now(qtbot: QtBot) -> None:
    now = PRINT
    made = PupilBoard(lambda _: now)
    qtbot.addWidget(made)
    made.resize(1200, ROW_PX)
    made.show_pupils((view("a", True, False),), "a")
    before = made.grab().toImage()
    now = ((-25.0, "low"),)  # corrected, or heard anew
    made.show_pupils((view("a", True, False),), "a")
    assert made.grab().toImage() != before


# in the window -----------------------------------------------------------------------------------


@pytest.fixture
def two(window: MainWindow, qtbot: QtBot) -> MainWindow:
    window.studio.add_player(Player(id="other", name="Jory Vane"))
    window.go("daybook")
    window.daybook.turn("pupils")
    qtbot.waitUntil(lambda: len(window.daybook.pupils.board.views) == 2)
    return window


def test_a_teacher_hears_take_after_take(two: MainWindow, qtbot: QtBot) -> None:
    board = two.daybook.pupils.board
    (i,) = (k for k, v in enumerate(board.views) if v.takes)
    board.choose(i)
    n_new = board.views[i].n_new
    assert n_new > 1
    press(board, Qt.Key.Key_Space)
    first = board.take
    assert first is not None
    qtbot.waitUntil(lambda: two.sound.playing, timeout=20_000)
    assert board.views[board.at[0]].n_new == n_new - 1
    press(board, Qt.Key.Key_Space)
    assert board.take is not None
    assert board.take.take.recorded_utc > first.take.recorded_utc
    two.sound.stop()


def test_a_take_is_opened_for_its_player(two: MainWindow) -> None:
    board = two.daybook.pupils.board
    (i,) = (k for k, v in enumerate(board.views) if v.takes)
    two.session.set_player(next(p for p in two.studio.players() if p.id == "other"))
    board.choose(i, 0)
    assert board.take is not None
    wanted = board.take.take
    press(board, Qt.Key.Key_Return)
    assert two.session.now.player is not None
    assert two.session.now.player.id == wanted.player_id
    assert two.model.take is not None
    assert two.model.take.id == wanted.id


def test_what_was_heard_is_known_after_a_restart(
    two: MainWindow, open_window: Callable[..., MainWindow], studio_copy: Path, qtbot: QtBot
) -> None:
    page = two.daybook.pupils
    for v in page.board.views:
        for one in v.takes:
            page.model.heard(one.take)
    two.close()
    two.studio.close()
    again = open_window(studio_copy)
    assert all(v.n_new == 0 for v in again.daybook.pupils_model.views())


def test_in_a_studio_one_only_reads_nothing_is_marked(
    two: MainWindow, open_window: Callable[..., MainWindow], studio_copy: Path
) -> None:
    beside = open_window(studio_copy)
    assert beside.studio.read_only
    model = beside.daybook.pupils_model
    before = next(v for v in model.views() if v.n_new)
    model.heard(before.takes[-1].take)
    assert next(v for v in model.views() if v.takes).n_new == before.n_new
