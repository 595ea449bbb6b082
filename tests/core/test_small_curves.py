"""Slices, medians and runs of curves; events by time; which notes a fault touches."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.jig.places import EventPlaces
from jigwright.core.player.chosen import Chosen
from jigwright.core.sound.curves import frames_between, middle, roughness_db, runs_of
from jigwright.core.sound.heard import HOP_S, Contours


def contours(n: int) -> Contours:
    flat = np.zeros(n)
    return Contours(
        f0_hz=flat, level_db=flat, clarity=flat, centroid_hz=flat, loudness_db=flat
    )  # fmt: skip


@pytest.mark.parametrize(
    ("start", "stop", "frames"),
    [(0.0, 5.0, (0, 5)), (2.4, 3.6, (2, 4)), (-9.0, 3.0, (0, 3)), (8.0, 99.0, (8, 10)),
     (12.0, 14.0, (10, 10)), (6.0, 2.0, (6, 6))],
)  # fmt: skip
def test_frames_of_a_stretch_lie_inside_the_take(start: float, stop: float, frames) -> None:
    found = frames_between(contours(10), start * HOP_S, stop * HOP_S)
    assert (found.start, found.stop) == frames


def test_the_middle_leaves_out_what_is_unknown() -> None:
    assert middle(np.array([5.0, np.nan, 1.0, np.inf, 3.0])) == 3.0
    assert np.isnan(middle(np.array([np.nan])))
    assert np.isnan(middle(np.zeros(0)))


@pytest.mark.parametrize(("clarity", "db"), [(0.0, 0.0), (0.9, -10.0), (0.99, -20.0), (1.0, -50.0)])
def test_roughness_is_the_share_that_does_not_repeat(clarity: float, db: float) -> None:
    assert roughness_db(np.array([clarity]))[0] == pytest.approx(db, abs=0.01)


@given(st.lists(st.booleans(), max_size=30))
def test_runs_are_the_stretches_of_true(values: list[bool]) -> None:
    mask = np.array(values, dtype=bool)
    runs = runs_of(mask)
    again = np.zeros(len(mask), dtype=bool)
    for start, stop in runs:
        assert start < stop
        again[start:stop] = True
    assert np.array_equal(again, mask)
    assert all(b < c for (_, b), (c, _) in zip(runs, runs[1:], strict=False))  # apart


def jig(words: str) -> Jig:
    return jig_from_line(words, jig_id="j", instrument_id="violin", title="j")


@given(st.fractions(0, 8, max_denominator=8), st.fractions(0, 8, max_denominator=8))
def test_events_between_two_moments_are_those_that_sound_there(a: Fraction, b: Fraction) -> None:
    one = jig("D4 E4:1/2 F#4:3/2 r:1 G4:2 A4:1/4 B4:3/4")
    start, end = min(a, b), max(a, b)
    wanted = [e for e in one.events if e.onset_beats < end and e.end_beats > start]
    assert EventPlaces(one).between(start, end) == wanted


def test_events_are_found_by_their_id() -> None:
    one = jig("D4 E4 F#4")
    places = EventPlaces(one)
    assert [places.index[e.id] for e in one.events] == [0, 1, 2]
    assert places.between(Fraction(3), Fraction(9)) == []


def test_a_choice_touches_what_meets_all_of_it() -> None:
    event = jig("D4").events[0]
    event = replace(event, heads=(replace(event.heads[0], finger=2, string=1),))
    assert Chosen().touches(5, event)
    assert Chosen(notes=(3, 5)).touches(5, event)
    assert not Chosen(notes=(3, 4)).touches(5, event)
    assert Chosen(finger=2, string=1).touches(0, event)
    assert not Chosen(finger=2, string=0).touches(0, event)
    assert not Chosen(finger=3).touches(0, event)
    assert not Chosen(notes=(1,), finger=2, string=1).touches(0, event)
