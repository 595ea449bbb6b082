"""What is said of a note over takes: its rows, its place, and what is left to the strings."""

from __future__ import annotations

from dataclasses import replace

import pytest

from aim_builders import jig_of, note
from jigwright.core.jig.model import Jig
from jigwright.core.judge.findings import Finding, PastLanding, find
from jigwright.core.judge.judging import JudgedNote

UP_AND_DOWN = jig_of("D4 E4 F#4 G4 A4 G4 F#4 E4 D4")
FINGERS = (0, 1, 2, 3, 0, 3, 2, 1, 0)
STRINGS = (1, 1, 1, 1, 2, 1, 1, 1, 1)


def rows(jig: Jig, *cents: float | None, attempt: int = 1) -> list[JudgedNote]:
    return [
        note(
            jig, i, cents=c, finger=FINGERS[i], string=STRINGS[i], attempt=attempt,
            state="missed" if c is None else "played",
        )
        for i, c in enumerate(cents)
    ]  # fmt: skip


def landings(jig: Jig, *cents: float, n_takes: int = 11) -> list[PastLanding]:
    """The same nine landings in earlier takes, all within a cent of these."""
    return [
        PastLanding(
            take_id=f"t{k}", note_id=e.heads[0].id, cents=c + (i + k) % 3 - 1,
            uncertainty_cents=0.5,
        )
        for k in range(n_takes)
        for i, (e, c) in enumerate(zip(jig.events, cents, strict=True))
    ]  # fmt: skip


def habits(notes: list[JudgedNote], past: list[PastLanding]) -> list[Finding]:
    found = find(notes, tolerance_cents=10.0, past=past, jig=UP_AND_DOWN, in_room=False, most=9)
    return [f for f in found if f.id == "note_habit"]


def test_a_place_is_one_habit_with_all_its_rows() -> None:
    cents = (0.0, 0.0, -14.0, 0.0, 0.0, 0.0, -16.0, 0.0, 0.0)
    (habit,) = habits(rows(UP_AND_DOWN, *cents), landings(UP_AND_DOWN, *cents))
    assert habit.notes == (2, 6)
    assert habit.values["cents"] == pytest.approx(-15.0, abs=0.2)
    assert (habit.values["n_off"], habit.values["n_takes"]) == (12, 12)
    assert (habit.values["string"], habit.values["finger"]) == (1, 2)
    assert habit.severity == pytest.approx(1.6 * 15.0 / 10.0, rel=0.02)


def test_the_row_that_was_heard_today_stands_for_the_place() -> None:
    cents = (0.0, 0.0, -14.0, 0.0, 0.0, 0.0, -16.0, 0.0, 0.0)
    today = rows(UP_AND_DOWN, *cents[:2], None, *cents[3:])
    (habit,) = habits(today, landings(UP_AND_DOWN, *cents))
    assert habit.notes == (6,)
    assert habit.values["n_takes"] == 12
    unheard = rows(UP_AND_DOWN, *cents[:2], None, *cents[3:6], None, *cents[7:])
    assert habits(unheard, landings(UP_AND_DOWN, *cents)) == []


def test_an_open_string_is_as_it_was_tuned() -> None:
    cents = (-15.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, -15.0)
    assert habits(rows(UP_AND_DOWN, *cents), landings(UP_AND_DOWN, *cents)) == []
    # the fourth finger of the string below is another place: what it does is the player's
    stopped = [
        replace(n, finger=4, string=0) if i == 8 else n
        for i, n in enumerate(rows(UP_AND_DOWN, *cents))
    ]
    (habit,) = habits(stopped, landings(UP_AND_DOWN, *cents))
    assert habit.notes == (8,)


def test_another_string_is_another_place() -> None:
    cents = (0.0, 0.0, -14.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0)
    moved = [replace(n, string=0) if i == 6 else n for i, n in enumerate(rows(UP_AND_DOWN, *cents))]
    (habit,) = habits(moved, landings(UP_AND_DOWN, *cents))
    assert habit.notes == (2,)


def test_a_further_attempt_is_no_landing() -> None:
    cents = (0.0, 0.0, -14.0, 0.0, 0.0, 0.0, -16.0, 0.0, 0.0)
    assert habits(rows(UP_AND_DOWN, *cents, attempt=2), []) == []
    past = landings(UP_AND_DOWN, *cents)
    both = [*rows(UP_AND_DOWN, *cents), *rows(UP_AND_DOWN, *([30.0] * 9), attempt=2)]
    (habit,) = habits(both, past)
    assert habit.notes == (2, 6)
    assert habit.values["cents"] == pytest.approx(-15.0, abs=0.2)
