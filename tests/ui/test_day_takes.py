"""The takes of a day as cards: where they lie, what keys and the mouse do, what a day shows."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QListWidget
from pytestqt.qtbot import QtBot

from jigwright.services.moments import local_time
from jigwright.ui.main_window import MainWindow
from jigwright.ui.painting.take_card import paint_take_card
from jigwright.ui.theme import DARK, LIGHT, Palette
from jigwright.ui.widgets.day_takes import DayTake, DayTakes

PRINT = ((4.0, "in"), (-18.0, "low"), (None, "missed"))


@pytest.mark.parametrize(
    ("utc", "offset", "said"),
    [
        ("2026-11-02T18:20:59Z", 60, "19:20"), ("2026-11-02T23:30:00Z", 60, "00:30"),
        ("2026-11-02T03:05:00Z", -300, "22:05"), ("2026-11-02T03:05:00Z", 0, "03:05"),
    ],
)  # fmt: skip
def test_the_time_of_day_is_that_of_the_place(utc: str, offset: int, said: str) -> None:
    assert local_time(utc, offset) == said


# a card --------------------------------------------------------------------------------------


def card(palette: Palette, **more: object) -> QImage:
    image = QImage(120, 70, QImage.Format.Format_RGB32)
    image.fill(palette.color("panel"))
    painter = QPainter(image)
    usual = {"foot": "3 Nov"}
    paint_take_card(
        painter, QRectF(4, 4, 110, 60), PRINT, palette, **{**usual, **more}  # type: ignore[arg-type]
    )  # fmt: skip
    painter.end()
    return image


@pytest.mark.parametrize("palette", [LIGHT, DARK])
def test_every_state_of_a_card_is_seen(qapp: object, palette: Palette) -> None:
    states = [
        card(palette), card(palette, mark="new"), card(palette, mark="sounds"),
        card(palette, chosen=True), card(palette, chosen=True, focused=True),
        card(palette, foot="4 Nov"),
    ]  # fmt: skip
    for i, one in enumerate(states):
        assert all(one != other for other in states[:i])
    assert card(palette, focused=True) == states[0]  # only the chosen one shows where keys go


# a day ---------------------------------------------------------------------------------------


def takes(n: int) -> list[DayTake]:
    return [
        DayTake(take_id=f"t{k}", title=f"Quay {k}", when=f"1{k}:00", notes=PRINT) for k in range(n)
    ]


@pytest.fixture
def day(qtbot: QtBot) -> DayTakes:
    made = DayTakes()
    qtbot.addWidget(made)
    made.resize(360, 66)
    made.show_takes(takes(5))
    made.opened_ids = []  # type: ignore[attr-defined]
    made.opened.connect(made.opened_ids.append)  # type: ignore[attr-defined]
    return made


def test_a_day_without_takes_shows_none(day: DayTakes) -> None:
    assert day.isVisible()
    day.show_takes([])
    assert not day.isVisible()
    QTest.keyClick(day, Qt.Key.Key_Right)
    QTest.keyClick(day, Qt.Key.Key_Return)
    assert day.opened_ids == []


def test_arrows_go_from_take_to_take_and_bring_them_into_sight(day: DayTakes) -> None:
    assert day.n_shown == 3
    QTest.keyClick(day, Qt.Key.Key_Return)  # none is chosen
    for _ in range(4):
        QTest.keyClick(day, Qt.Key.Key_Right)
    assert day.at == 3
    assert QRectF(day.rect()).contains(day.card(3))
    assert not QRectF(day.rect()).intersects(day.card(0))
    assert QRectF(day.rect()).contains(day.card(1))  # no further than it must
    assert day.accessibleDescription() == "13:00, Quay 3"
    QTest.keyClick(day, Qt.Key.Key_Return)
    for _ in range(9):
        QTest.keyClick(day, Qt.Key.Key_Left)
    assert day.at == 0
    assert day.card(0).left() >= 0
    QTest.keyClick(day, Qt.Key.Key_Enter)
    assert day.opened_ids == ["t3", "t0"]


def test_a_press_opens_and_another_day_begins_anew(day: DayTakes) -> None:
    place = day.card(2).center().toPoint()
    QTest.mouseClick(day, Qt.MouseButton.LeftButton, pos=place)
    assert day.opened_ids == ["t2"]
    day.show_takes(takes(2))
    assert day.at is None
    QTest.mouseClick(day, Qt.MouseButton.LeftButton, pos=day.card(2).center().toPoint())
    assert day.opened_ids == ["t2"]


def test_the_record_shows_what_was_played_on_a_day_and_opens_it(window: MainWindow) -> None:
    window.go("daybook")
    window.daybook.turn("record")
    page = window.daybook.record
    days = next(w for w in page.findChildren(QListWidget) if w.accessibleName() == "Days")
    shown: set[str] = set()
    for row in range(days.count()):
        days.setCurrentRow(row)
        day = days.item(row).data(Qt.ItemDataRole.UserRole)
        played = [t for t in window.studio.takes() if t.day.isoformat() == day.day]
        assert [t.take_id for t in page.takes.takes] == [t.id for t in played]
        assert [t.when for t in page.takes.takes] == [t.time_of_day for t in played]
        assert all(len(t.notes) > 10 for t in page.takes.takes)
        shown |= {t.id for t in played}
    assert shown == {t.id for t in window.studio.takes()}
    row = next(k for k in range(days.count()) if days.item(k).data(256).n_takes)
    days.setCurrentRow(row)
    wanted = page.takes.takes[0].take_id
    page.takes.choose(0, show=True)
    assert window.model.take is not None
    assert window.model.take.id == wanted
