"""Words go on in the next line where a column is narrow, and nothing is cut off."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from jigwright.ui.main_window import MainWindow
from jigwright.ui.widgets.flow import FlowLayout


def box(width: int, n: int = 4) -> tuple[QWidget, list[QLabel]]:
    parent = QWidget()
    flow = FlowLayout(parent, across=10, down=5)
    labels = []
    for _ in range(n):
        label = QLabel(parent)
        label.setFixedSize(50, 20)
        flow.addWidget(label)
        labels.append(label)
    parent.resize(width, 100)
    flow.setGeometry(parent.rect())
    return parent, labels


@pytest.mark.parametrize(
    ("width", "places"),
    [
        (230, [(0, 0), (60, 0), (120, 0), (180, 0)]),  # 4 × 50 and 3 × 10
        (229, [(0, 0), (60, 0), (120, 0), (0, 25)]),
        (110, [(0, 0), (60, 0), (0, 25), (60, 25)]),
        (30, [(0, 0), (0, 25), (0, 50), (0, 75)]),  # each has a line, even too wide a one
    ],
)
def test_a_line_is_filled_before_the_next(
    qtbot: QtBot, width: int, places: list[tuple[int, int]]
) -> None:
    parent, labels = box(width)
    qtbot.addWidget(parent)
    assert [(w.x(), w.y()) for w in labels] == places
    flow = parent.layout()
    assert isinstance(flow, FlowLayout)
    assert flow.heightForWidth(width) == places[-1][1] + 20


def test_it_asks_for_one_line_and_can_do_with_its_widest(qtbot: QtBot) -> None:
    parent, _ = box(300)
    qtbot.addWidget(parent)
    flow = parent.layout()
    assert isinstance(flow, FlowLayout)
    assert flow.sizeHint() == QSize(230, 20)
    assert flow.minimumSize() == QSize(50, 20)
    flow.setContentsMargins(3, 4, 5, 6)
    assert flow.minimumSize() == QSize(58, 30)
    assert flow.heightForWidth(238) == 30
    assert flow.heightForWidth(237) == 55
    assert flow.hasHeightForWidth()


def test_items_are_given_and_taken(qtbot: QtBot) -> None:
    parent, labels = box(300, 2)
    qtbot.addWidget(parent)
    flow = parent.layout()
    assert isinstance(flow, FlowLayout)
    assert flow.count() == 2
    assert flow.itemAt(2) is None
    assert flow.itemAt(-1) is None
    taken = flow.takeAt(0)
    assert taken is not None
    assert taken.widget() is labels[0]
    assert flow.takeAt(5) is None
    assert flow.count() == 1
    empty = FlowLayout()
    assert empty.sizeHint() == QSize(0, 0)


def test_no_page_name_is_cut_off_in_a_small_window(qtbot: QtBot, window: MainWindow) -> None:
    window.resize(1024, 700)
    window.go("desk")
    QApplication.processEvents()
    buttons = [b for b in window.desk.findChildren(QPushButton) if b.property("kind") == "turn"]
    assert len(buttons) >= 7
    for button in buttons:
        button.setText(2 * button.text())  # another language's words are longer
    QApplication.processEvents()
    window.desk.layout().activate()
    qtbot.waitUntil(
        lambda: all(b.width() >= b.sizeHint().width() for b in buttons if b.isVisible()),
        timeout=5_000,
    )
    column = window.desk.findings
    inner = column.widget()
    assert inner is not None
    assert inner.minimumSizeHint().width() <= column.viewport().width()
