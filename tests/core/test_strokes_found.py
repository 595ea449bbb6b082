"""Where strokes begin: as written, as heard, and when."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.gauge.bow import BowedNote, measure_bow
from jigwright.core.sound.heard import HOP_S, BowTurn, Contours, Segment

SECONDS = 4.0


def contours(*dips: tuple[float, float]) -> Contours:
    """A level sound with dips (moment, dB) of 20 ms."""
    n = round(SECONDS / HOP_S)
    level = np.full(n, -20.0)
    for at_s, db in dips:
        i = round(at_s / HOP_S)
        level[i - 2 : i + 3] -= db
    still = np.full(n, 1000.0)
    return Contours(
        f0_hz=np.full(n, 440.0), clarity=np.full(n, 0.99), level_db=level, centroid_hz=still,
        loudness_db=level,
    )  # fmt: skip


def part(at_s: float, stop_s: float, *, attack_db: float = 10.0, slurred: bool = False) -> Segment:
    made = segment(440.0, at_s, seconds=stop_s - at_s)
    return replace(made, attack_db=attack_db, slurred=slurred)


def note(row: int, *parts: Segment, new: bool | None = None, turning: bool = False) -> BowedNote:
    return BowedNote(row=row, parts=parts, direction="down", new_stroke=new, turning=turning)


def n_strokes(*notes: BowedNote) -> int:
    return len(measure_bow(contours(), notes)[0])


@pytest.mark.parametrize(("attack_db", "strokes"), [(1.9, 1), (2.1, 2)])
def test_where_nothing_is_written_a_stroke_begins_with_a_fall(
    attack_db: float, strokes: int
) -> None:
    before, after = part(0.5, 1.5), part(1.52, 2.5, attack_db=attack_db)
    assert n_strokes(note(0, before), note(1, after)) == strokes
    assert n_strokes(note(0, before), note(1, replace(after, slurred=True))) == 1


@pytest.mark.parametrize(("attack_db", "strokes"), [(8.9, 1), (9.1, 2)])
def test_under_a_written_slur_it_takes_a_deep_one(attack_db: float, strokes: int) -> None:
    before, after = part(0.5, 1.5), part(1.52, 2.5, attack_db=attack_db)
    assert n_strokes(note(0, before, new=True), note(1, after, new=False)) == strokes


def test_a_written_stroke_begins_without_any() -> None:
    before, after = part(0.5, 1.5), part(1.5, 2.5, attack_db=0.0, slurred=True)
    assert n_strokes(note(0, before, new=True), note(1, after, new=True)) == 2
    broken = part(2.5, 3.0, attack_db=20.0)
    assert n_strokes(note(0, before, new=True), note(1, after, broken, new=True)) == 2


def test_a_trill_is_one_stroke_however_its_turns_fall() -> None:
    turns = [part(1.0 + 0.1 * k, 1.1 + 0.1 * k, attack_db=12.0) for k in range(5)]
    assert n_strokes(note(0, part(0.5, 1.0)), note(1, *turns)) == 6
    assert n_strokes(note(0, part(0.5, 1.0)), note(1, *turns, turning=True)) == 2


def test_after_a_stop_another_stroke_begins() -> None:
    after = part(1.76, 2.5, attack_db=0.0, slurred=True)
    assert n_strokes(note(0, part(0.5, 1.5), new=True), note(1, after, new=False)) == 2


@pytest.mark.parametrize(("dip_s", "time_s"), [(1.95, 1.95), (1.99, 1.99), (2.04, 1.995)])
def test_the_hole_lies_before_what_sounds_again(dip_s: float, time_s: float) -> None:
    notes = note(0, part(0.5, 1.9)), note(1, part(2.0, 3.0))
    ((change,),) = (measure_bow(contours((dip_s, 12.0)), notes)[1],)
    assert abs(change.time_s - time_s) <= 0.0151


TURNED, SAME = (BowTurn(time_s=1.5, lean=lean, fits=0.9) for lean in (0.5, -0.5))


@pytest.mark.parametrize("new", [None, False])
def test_a_bow_that_was_heard_to_turn_begins_a_stroke_whatever_the_level_does(
    new: bool | None,
) -> None:
    notes = note(0, part(0.5, 1.5), new=new), note(1, part(1.5, 2.5, attack_db=0.0), new=new)
    assert len(measure_bow(contours(), notes)[0]) == 1
    assert len(measure_bow(contours(), notes, [SAME])[0]) == 1
    assert len(measure_bow(contours(), notes, [TURNED])[0]) == 2
    assert len(measure_bow(contours(), notes, [replace(TURNED, fits=0.5)])[0]) == 1
    assert len(measure_bow(contours(), notes, [replace(TURNED, lean=0.41)])[0]) == 2
    assert len(measure_bow(contours(), notes, [replace(TURNED, lean=0.39)])[0]) == 1


def test_it_turns_inside_a_written_note_too_but_not_inside_a_trill() -> None:
    parts = part(0.5, 1.5), part(1.5, 2.5, attack_db=0.0)
    assert len(measure_bow(contours(), [note(0, *parts, new=True)], [TURNED])[0]) == 2
    assert len(measure_bow(contours(), [note(0, *parts, turning=True)], [TURNED])[0]) == 1


@pytest.mark.parametrize(("turn", "way"), [(TURNED, "turned"), (SAME, "same")])
def test_a_change_says_which_way_it_was_heard(turn: BowTurn, way: str) -> None:
    notes = note(0, part(0.5, 1.5)), note(1, part(1.5, 2.5))
    (change,) = measure_bow(contours((1.48, 12.0)), notes, [turn])[1]
    assert change.heard_way == way
    elsewhere = replace(turn, time_s=1.6)
    (change,) = measure_bow(contours((1.48, 12.0)), notes, [elsewhere])[1]
    assert change.heard_way == "unknown"
