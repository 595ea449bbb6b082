"""Pictures of what rang: tails as long as the strings sound, a map filled by what was won."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QImage, QPainter

from aim_builders import jig_of, note
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.judging import Context
from jigwright.core.judge.tuning import NO_TUNING
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import EQUAL
from jigwright.core.sound.heard import RingNow
from jigwright.core.values import Unmeasured
from jigwright.ui.painting.live import paint_live_ring
from jigwright.ui.painting.ring_lane import paint_ring_lane
from jigwright.ui.painting.ring_map import (
    RingNote,
    RingString,
    fullness,
    paint_ring_map,
    size,
)
from jigwright.ui.painting.xmap import by_time
from jigwright.ui.theme import LIGHT
from jigwright.ui.viewmodels.desk.ringing import ring_notes
from ring_builders import ring, string_ring

WIDE, HIGH = 400, 120
BLANK = QColor("white")


def painted(draw: Any) -> np.ndarray:
    """Where a picture is darker than its ground."""
    image = QImage(WIDE, HIGH, QImage.Format.Format_Grayscale8)
    image.fill(BLANK)
    painter = QPainter(image)
    draw(painter)
    painter.end()
    bits = image.constBits()
    assert bits is not None
    grey = np.frombuffer(bits.asarray(image.sizeInBytes()), dtype=np.uint8)
    return grey.reshape(HIGH, image.bytesPerLine())[:, :WIDE] < 60


def rung(string: int = 0, **about: Any) -> RingString:
    usual = {"state": "rang", "level_db": -30.0, "decay_s": 1.5}
    return RingString(string=string, **(usual | about))


def lane(*strings: RingString) -> np.ndarray:
    notes = [RingNote(name="D", strings=strings, offset_s=1.0)]
    xmap = by_time([(0.0, 1.0)], 4.0, 100.0)
    area = QRectF(0, 0, WIDE, HIGH)
    return painted(lambda p: paint_ring_lane(p, area, notes, 4, xmap, LIGHT, clip=area))


def ring_map(*strings: RingString) -> np.ndarray:
    notes = [RingNote(name="", strings=strings)]
    area = QRectF(0, 0, WIDE, HIGH)
    return painted(lambda p: paint_ring_map(p, area, [""], notes, LIGHT))


def reach(dark: np.ndarray) -> int:
    columns = np.flatnonzero(dark.any(axis=0))
    return int(columns[-1] - columns[0]) if len(columns) else 0


def test_a_tail_is_as_long_as_a_third_of_the_decay(qapp) -> None:
    short, long = lane(rung(decay_s=0.9)), lane(rung(decay_s=2.7))
    assert reach(long) == pytest.approx(90, abs=8)
    assert reach(short) == pytest.approx(30, abs=8)


def test_a_tail_is_as_thick_as_the_ring_is_strong_and_lies_on_its_string(qapp) -> None:
    strong, weak = lane(rung(level_db=-20.0)), lane(rung(level_db=-45.0))
    assert strong.sum() > 2 * weak.sum()
    top = lane(rung(3))
    assert np.flatnonzero(top.any(axis=1)).max() < HIGH / 4
    assert np.flatnonzero(lane(rung(0)).any(axis=1)).min() > 3 * HIGH / 4


def test_a_silent_string_has_no_tail_and_a_third_no_dot(qapp) -> None:
    silent = RingString(string=0, state="silent")
    far = RingString(string=0, state="silent", to_be_had=False)
    unknown = RingString(string=0, state="unknown")

    def marks(one: RingString) -> int:
        notes = [RingNote(name="D", strings=(one,), offset_s=1.0)]
        xmap = by_time([(0.0, 1.0)], 4.0, 100.0)
        area = QRectF(0, 0, WIDE, HIGH)
        plain = QRectF(90, 0, 20, HIGH)
        image = QImage(WIDE, HIGH, QImage.Format.Format_Grayscale8)
        image.fill(BLANK)
        painter = QPainter(image)
        paint_ring_lane(painter, area, notes, 4, xmap, LIGHT, clip=plain)
        painter.end()
        return sum(image.pixelColor(x, 105).black() for x in range(90, 110))

    assert marks(silent) != marks(unknown)
    assert marks(far) == marks(unknown)


def test_a_circle_is_as_full_as_what_was_won(qapp) -> None:
    full, half = ring_map(rung(level_db=-18.0)), ring_map(rung(level_db=-35.0))
    empty = ring_map(RingString(string=0, state="silent"))
    assert full.sum() > half.sum() > empty.sum()
    assert fullness(-18.0) == 1.0
    assert fullness(-35.0) == pytest.approx(0.5)
    assert fullness(-60.0) == pytest.approx(0.08)
    assert fullness(None) == fullness(float("nan")) == 0.0


def test_a_circle_is_as_large_as_what_was_to_be_had() -> None:
    assert size(0.0) == 1.0
    assert size(-10.0) == pytest.approx(0.725)
    assert size(-20.0) == size(-40.0) == pytest.approx(0.45)


def test_the_live_tail_is_there_while_the_string_rings_and_no_longer(qapp) -> None:
    strings = instrument("violin").strings

    def shown(now_s: float, string: int = 1, decay_s: float = 3.0) -> int:
        one = RingNow(string=string, level_db=-28.0, decay_s=decay_s, since_s=1.0)
        image = QImage(WIDE, HIGH, QImage.Format.Format_RGB32)
        image.fill(BLANK)
        painter = QPainter(image)
        paint_live_ring(painter, QRectF(0, 0, 200, HIGH), one, now_s, strings, LIGHT)
        painter.end()
        return sum(
            image.pixelColor(x, y) != BLANK for x in range(200) for y in range(90, HIGH)
        )  # fmt: skip

    assert shown(2.0) > 50
    assert shown(4.0, decay_s=6.0) > shown(4.0)
    assert shown(30.0) == 0
    assert shown(2.0, string=7) == 0  # a string the instrument has not got


def context(**changes: Any) -> Context:
    usual = {
        "instrument_id": "violin", "strings": instrument("violin").strings, "a4_hz": 440.0,
        "reference": EQUAL, "tolerance_cents": 10.0,
    }  # fmt: skip
    return Context(**(usual | changes))


def test_what_the_pictures_are_given(qapp) -> None:
    jig = jig_of("D5 B4 D5")
    told = ring(string_ring(1), string_ring(0, level_db=None, apart_cents=21.0))
    notes = (
        note(jig, 0, ring=told), note(jig, 1, ring=Unmeasured("covered")),
        note(jig, 2, cents=None),
    )  # fmt: skip
    judged = Judged(notes=notes, playing=None, tuning=NO_TUNING, findings=())
    first, second, third = ring_notes(judged, context())
    assert [(s.string, s.state, s.to_be_had) for s in first.strings] == [
        (1, "rang", True), (0, "silent", False),
    ]  # fmt: skip
    assert first.strings[0].level_db == -31.0
    assert first.strings[1].level_db is None
    assert all(s.state == "unknown" for s in second.strings)
    assert third.offset_s is None
