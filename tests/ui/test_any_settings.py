"""Whatever stands in a studio's settings, the window opens and every place can be looked at."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtTest import QTest

from jigwright.core.jig.ways import OF_A_JIG, WAYS_KINDS
from jigwright.ui.main_window import MainWindow

NAMES = (
    "player", "instrument", "jig", "theme", "language", "note_names", "plan", "ladders",
    "ear_score", "exchange_folder", "exchange_seen", "demo", "input:i", "slowest:i", "contact:i:D4",
    "strings:i", "strings:i:2026-11-05", "pins:t3", "clicks:t3", "drone:t3", "blind:t3",
    "loop:", "shots",
)  # fmt: skip
GARBAGE = (
    "{", "[]", "3", "null", "true", '{"a": 1}', "[[1]]", '"x"', "[[null, 1], 2]", "1e999",
    "é\u202e",
    '{"minutes": "many", "school": 3, "theme": []}', '{"day": 5, "hz": {"Z": "x"}, "seconds": "x"}',
    '{"first_s": "x", "bpm": 0}', "[" * 2000, '{"hz": [1]}', '[{"id": 1, "rungs": 5}]',
)  # fmt: skip
pytestmark = pytest.mark.fails_on_purpose

OPEN_WAYS = [kind for kind in WAYS_KINDS if kind not in OF_A_JIG]


@pytest.mark.parametrize("garbage", GARBAGE)
def test_no_setting_keeps_the_window_shut(
    open_window: Callable[..., MainWindow], studio_copy: Path, garbage: str
) -> None:
    db = sqlite3.connect(studio_copy / "studio.db")
    db.executemany(
        "INSERT OR REPLACE INTO setting VALUES (?, ?)", [(name, garbage) for name in NAMES]
    )
    db.commit()
    db.close()
    window = open_window(studio_copy)
    assert window.isVisible()
    for place in ("stand", "jigs", "daybook", "tables", "desk"):
        window.go(place)
        QTest.qWait(5)
    for page in ("landings", "bow", "two_strings", "ring", "shape", "compare", "take"):
        window.desk.turn(page)
    window.go("daybook")
    for page in ("ladders", "trends", "record", "pupils", "today"):
        window.daybook.turn(page)
    window.go("stand")
    for mode in (
        "strings",
        "slowest",
        "echo",
        "lanes",
        "lanes_all",
        "bows",
        "two_ways",
        "touch",
        "lesson",
        "jig",
    ):
        window.stand_model.set_mode(mode)
    assert window.model.take is not None
