"""Notes on paper with what was heard of each, and which bars a page shows."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter

from aim_builders import jig_of, note
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.findings import Finding
from jigwright.services.notation import Engraved, HeadBox
from jigwright.services.reporting import MOST_BARS, NewestTake, bars_of_interest
from jigwright.ui.painting.marked_notes import Mark, marked_height, paint_marked_notes
from jigwright.ui.theme import LIGHT
from signals import take_record

NO_TUNING: Any = None
pytestmark = pytest.mark.usefixtures("qapp")
SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="200" height="80" viewBox="0 0 200 80"/>'
HEADS = (
    HeadBox(note_id="a", x=45.0, y=40.0, width=10.0, height=8.0),
    HeadBox(note_id="b", x=145.0, y=40.0, width=10.0, height=8.0),
)
NOTES = Engraved(svg=SVG, width=200.0, height=80.0, staff_top=20, staff_bottom=60, heads=HEADS)


def painted(marks: dict[str, Mark], *, width: float = 200.0) -> QImage:
    image = QImage(200, 80, QImage.Format.Format_RGB32)
    image.fill(LIGHT.color("paper"))
    painter = QPainter(image)
    paint_marked_notes(painter, QRectF(0, 0, width, 80), NOTES, marks, LIGHT)
    painter.end()
    return image


def inked(image: QImage, x: int, colour: str) -> list[int]:
    want = LIGHT.color(colour).rgb()
    return [y for y in range(image.height()) if image.pixel(x, y) == want]


@pytest.mark.parametrize(
    ("cents", "standing", "span"),
    [
        (15.0, "high", (24, 30)),  # half of 30 cents: half of 14 px, above the head
        (-15.0, "low", (49, 55)),
        (60.0, "high", (17, 30)),  # no longer than the whole
        (1.0, "high", (28, 30)),  # never too short to be seen
    ],
)
def test_a_bar_above_is_high_and_one_below_low(
    cents: float, standing: str, span: tuple[int, int]
) -> None:
    found = inked(painted({"a": (cents, standing)}), 50, standing)
    assert (min(found), max(found)) == pytest.approx(span, abs=1)
    assert not inked(painted({"a": (cents, standing)}), 150, standing)


def test_a_missed_note_has_a_ring_and_one_in_tune_nothing() -> None:
    ring = painted({"b": (None, "missed")})
    assert any(ring.pixel(x, 40) != ring.pixel(0, 0) for x in range(136, 144))
    assert ring.pixel(150, 40) == ring.pixel(0, 0)
    assert painted({"b": (-98.0, "wrong")}) == ring, "another note was played for it"
    blank = painted({})
    assert painted({"a": (2.0, "in"), "b": (None, "low"), "z": (20.0, "high")}) == blank


def test_notes_shrink_to_the_page_and_never_grow() -> None:
    assert marked_height(NOTES, 100.0) == 40.0
    assert marked_height(NOTES, 400.0) == 80.0
    found = inked(painted({"a": (30.0, "high")}, width=100.0), 25, "high")
    assert max(found) == pytest.approx(15, abs=1)


# which bars


def newest(n_bars: int, *named: int) -> NewestTake:
    jig = jig_of(" ".join(["D4"] * 4 * n_bars))
    judged = [note(jig, i) for i in range(len(jig.events))]
    found = tuple(Finding(id="note_off", severity=1.0, notes=(row,)) for row in named)
    return NewestTake(
        take=take_record("t", jig), title="t", strings=(), jig=jig,
        judged=Judged(notes=tuple(judged), playing=None, tuning=NO_TUNING, findings=found),
    )  # fmt: skip


@pytest.mark.parametrize(
    ("n_bars", "row", "bars"),
    [
        (MOST_BARS, 30, (0, 8)),
        (MOST_BARS + 1, 0, (0, 8)),
        (MOST_BARS + 1, 8, (1, 9)),
        (20, 39, (8, 16)),
        (20, 79, (12, 20)),
    ],
)
def test_the_page_shows_the_bars_of_the_first_finding(
    n_bars: int, row: int, bars: tuple[int, int]
) -> None:
    assert bars_of_interest(newest(n_bars, row, 0)) == bars


def test_without_findings_it_begins_at_the_beginning_and_without_notes_nowhere() -> None:
    assert bars_of_interest(newest(20)) == (0, MOST_BARS)
    assert bars_of_interest(replace(newest(2), jig=None)) is None
    empty = newest(2)
    assert empty.jig is not None
    assert bars_of_interest(replace(empty, jig=replace(empty.jig, events=()))) is None
