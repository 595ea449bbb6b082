"""Strokes that hold a change nobody heard."""

from __future__ import annotations

from dataclasses import replace

import pytest

from aim_builders import all_in, event, jig_of, level, note, only, stroke
from jigwright.core.jig.aims import Aim
from jigwright.core.judge.hidden import (
    with_hidden_change,
    without_changes_noise,
    written_beats,
)

BEATS = {0: 4.0, 1: 4.0, 2: 2.0}


def strokes(*seconds: float):
    return tuple(stroke(i, seconds=s) for i, s in enumerate(seconds))


@pytest.mark.parametrize(("seconds", "hidden"), [(2.6, 0), (2.8, 1)])
def test_a_third_longer_than_is_written_holds_another(seconds: float, hidden: int) -> None:
    found = with_hidden_change(strokes(2.0, seconds, 1.0), BEATS)
    assert len(found) == hidden
    if hidden:
        assert found[0].rows == (1,)


def test_what_is_written_twice_as_long_may_last_twice_as_long() -> None:
    assert not with_hidden_change(strokes(2.0, 2.0, 1.0), BEATS)
    assert with_hidden_change(strokes(2.0, 2.0, 2.0), BEATS), "a half note as long as a whole one"


def test_two_strokes_and_unwritten_ones_tell_nothing() -> None:
    assert not with_hidden_change(strokes(2.0, 6.0), BEATS)
    assert not with_hidden_change(strokes(2.0, 2.0, 9.0), {0: 4.0, 1: 4.0})


def test_a_short_written_length_counts_too() -> None:
    eighths = {0: 0.5, 1: 0.5, 2: 0.5}
    assert len(with_hidden_change(strokes(0.25, 0.25, 0.5), eighths)) == 1


def test_only_what_may_be_a_changes_noise_goes() -> None:
    hidden = (stroke(1, seconds=3.0),)  # from 4 to 7 s
    events = [
        event("scratch", 1), event("bounce", 1), event("shake", 1), event("whistle", 1),
        event("scratch", 2), event("scratch", 0),
    ]  # fmt: skip
    kept = without_changes_noise(events, hidden)
    assert [(e.kind, e.row) for e in kept] == [
        ("shake", 1), ("whistle", 1), ("scratch", 2), ("scratch", 0)
    ]  # fmt: skip


def test_written_lengths_by_row() -> None:
    jig = jig_of("D4:4 E4:2")
    rows = [note(jig, 1).measured.lined, note(jig, 0).measured.lined]
    extra = replace(rows[0], i_event=None)
    assert written_beats([*rows, extra], jig) == {0: 2.0, 1: 4.0}


# what was not told from other waves -----------------------------------------------------------


@pytest.mark.parametrize(
    ("tremor_db", "state"), [(2.9, "met"), (3.3, "cannot_tell"), (9.0, "cannot_tell")]
)
def test_a_wave_that_was_not_told_from_others_is_no_shaking_nor_none(
    tremor_db: float, state: str
) -> None:
    jig = jig_of("D4 E4 F#4 G4", Aim(kind="soft"))
    notes = [note(jig, i, level=level(tremor_db=tremor_db if i == 2 else 0.5)) for i in range(4)]
    found = only(jig, notes)
    assert (found.state, found.figure, found.row) == (state, tremor_db, 2)
    assert only(jig, notes, events=(event("shake", 1),)).state == "not_met"
    assert only(jig, all_in(jig)).reason == "too_short"
