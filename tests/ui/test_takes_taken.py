"""Takes as dots at the Stand: full, empty, half, and small for those still wanted."""

from __future__ import annotations

from collections.abc import Sequence
from types import SimpleNamespace

import numpy as np
import pytest
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QImage, QPainter

from aim_builders import all_in, jig_of, playing
from jigwright.core.jig.aims import Aim, AimKind
from jigwright.core.judge.aims import Evidence, judge_aims
from jigwright.ui.painting.takes_taken import paint_takes
from jigwright.ui.theme import DARK, LIGHT
from jigwright.ui.viewmodels.stand.verdicts_given import Told

WIDE, HIGH = 600, 60
FULL, EMPTY, HALF, WANTED = "full", "empty", "half", "wanted"


def dots(met: Sequence[bool | None], goal: int, palette=LIGHT) -> list[str]:
    """What stands in the row, left to right, by how much of each is filled."""
    image = QImage(WIDE, HIGH, QImage.Format.Format_RGB32)
    image.fill(palette.color("paper"))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint_takes(painter, QPointF(WIDE / 2, HIGH / 2), met, goal, palette)
    painter.end()
    bits = image.constBits()
    assert bits is not None
    bits.setsize(image.sizeInBytes())
    grey = np.frombuffer(bits, np.uint8).reshape(HIGH, WIDE, 4)[..., :3].astype(float).mean(axis=2)
    marked = np.abs(grey - grey[0, 0]) > 40
    columns = np.flatnonzero(marked.any(axis=0))
    if not len(columns):
        return []
    found = []
    for part in np.split(columns, np.flatnonzero(np.diff(columns) > 1) + 1):
        box = marked[:, part[0] : part[-1] + 1]
        middle, width = box[:, box.shape[1] // 2], box.shape[1]
        if width < 12:
            found.append(WANTED)
            continue
        upper, lower = middle[HIGH // 2 - 6], middle[HIGH // 2 + 6]
        found.append({(True, True): FULL, (False, False): EMPTY, (False, True): HALF}[upper, lower])
    return found


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=["light", "dark"])
def test_a_good_take_is_full_a_wrong_one_empty_and_an_unclear_one_half(palette) -> None:
    assert dots([True, False, None], 3, palette) == [FULL, EMPTY, HALF, WANTED, WANTED]


def test_only_good_takes_count_for_what_is_wanted() -> None:
    assert dots([], 3) == [WANTED] * 3
    assert dots([False, False], 3) == [EMPTY, EMPTY, *[WANTED] * 3]
    assert dots([True] * 3, 3) == [FULL] * 3
    assert dots([True] * 4, 3) == [FULL] * 4


def test_the_newest_twelve_are_shown() -> None:
    assert dots([False, *[True] * 12], 3) == [FULL] * 12
    assert dots([*[False] * 11], 3) == [*[EMPTY] * 11, WANTED]


# what is counted ---------------------------------------------------------------------------


def judged(*, in_tune: bool, kind: AimKind = "pitch"):
    jig = jig_of("D4 E4 F#4 G4", Aim(kind=kind))
    low = {} if in_tune else {1: {"cents": -30.0, "standing": "low"}}
    notes = all_in(jig, low)
    aims = judge_aims(Evidence(notes=notes, playing=playing(), jig=jig, tolerance_cents=10.0))
    return SimpleNamespace(notes=tuple(notes), aims=aims), jig


def test_a_take_counts_as_good_when_its_aims_were_met() -> None:
    told = Told()
    for in_tune in (False, True):
        told.kept()
        told.judge(*judged(in_tune=in_tune), 10.0)
    told.kept()  # kept, and not judged
    assert told.met == [False, True, None]
    assert told.n_takes == 3


def test_getting_ready_begins_anew() -> None:
    told = Told()
    told.kept()
    told.begin()
    assert (told.met, told.n_takes) == ([], 0)


def test_what_is_judged_without_a_take_counts_as_none() -> None:
    told = Told()
    told.judge(*judged(in_tune=True), 10.0)
    assert told.met == []


@pytest.mark.parametrize(
    ("kind", "proposed"),
    [("pitch", True), ("second_arrival", True), ("every_note", False), ("even_bow", False)],
)
def test_a_tolerance_is_proposed_only_where_one_decides(kind: AimKind, proposed: bool) -> None:
    told = Told()
    for k in range(3):
        told.kept()
        told.judge(*judged(in_tune=True, kind=kind), 10.0)
        assert told.proposed_tolerance is None or k == 2
    assert (told.proposed_tolerance is not None) is proposed
