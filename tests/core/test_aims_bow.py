"""Aims about the bow by value: whose stroke, which way, which event, and each instrument's ear."""

from __future__ import annotations

import pytest

from aim_builders import (
    NO,
    all_in,
    event,
    jig_of,
    level,
    only,
    playing,
    stroke,
    timing,
    vibrato_of,
)
from jigwright.core.jig.aims import Aim
from jigwright.core.judge.aims import Evidence
from jigwright.core.judge.aims.bow import ONSET_MS, STILL_CONTACT_TAIL_S, evenness, left_over

FOUR = "D4 E4 F#4 G4"
EIGHT = "D4 E4 F#4 G4 A4 B4 C#5 D5"


def four(kind: str, **aim):
    return jig_of(FOUR, Aim(kind=kind, **aim))


def test_of_two_events_of_a_kind_the_stronger_one_is_told() -> None:
    jig = four("even_bow")
    found = only(
        jig, all_in(jig), strokes=tuple(stroke(i) for i in range(4)),
        events=(event("bounce", 0, strength=7.0), event("bounce", 2, strength=15.0),
                event("shake", 3, strength=30.0)),
    )  # fmt: skip
    assert (found.state, found.detail, found.row, found.figure) == ("not_met", "bounce", 2, 15.0)
    assert (found.part, found.direction) == ("middle", "down")


@pytest.mark.parametrize(("share", "part"), [(0.1, "beginning"), (0.5, "middle"), (0.9, "end")])
def test_where_in_the_stroke_it_was(share: float, part: str) -> None:
    jig = four("even_bow")
    found = only(
        jig, all_in(jig), strokes=tuple(stroke(i, "up") for i in range(4)),
        events=(event("scratch", 1, share=share),),
    )  # fmt: skip
    assert (found.part, found.direction, found.detail) == (part, "up", "scratch")


def test_the_room_may_be_longer_where_every_note_is_known_to_be_still() -> None:
    jig, strokes = four("even_bow"), tuple(stroke(i) for i in range(4))
    still = all_in(jig, {i: {"vibrato": vibrato_of(present=False)} for i in range(4)})
    tail_s = STILL_CONTACT_TAIL_S - 0.01
    assert only(jig, still, strokes=strokes, tail_s=tail_s).state == "met"
    assert only(jig, still, strokes=strokes, tail_s=STILL_CONTACT_TAIL_S + 0.01).reason == (
        "room_rings"
    )
    one = all_in(jig, {i: {"vibrato": vibrato_of(present=i == 2)} for i in range(4)})
    assert only(jig, one, strokes=strokes, tail_s=tail_s).reason == "room_rings"
    tried = [*still, *all_in(jig, {1: {"attempt": 2, "state": "retry", "vibrato": NO}})[1:2]]
    assert only(jig, tried, strokes=strokes, tail_s=tail_s).reason == "room_rings"


@pytest.mark.parametrize("way", ["down", "up"])
def test_the_way_that_swells_at_its_end_is_told(way: str) -> None:
    jig = four("left_over")
    other = "up" if way == "down" else "down"
    strokes = [stroke(i, way if i % 2 else other) for i in range(4)]
    strokes = [stroke(i, s.direction, end_hurry_db=6.0 if s.direction == way else 0.0)
               for i, s in enumerate(strokes)]  # fmt: skip
    found = only(jig, all_in(jig), strokes=tuple(strokes))
    assert (found.state, found.direction, found.part) == ("not_met", way, "end")
    assert found.figure == pytest.approx(6.0)
    even = left_over(
        Evidence(notes=all_in(jig), playing=playing(strokes=tuple(stroke(i) for i in range(4))),
                 jig=jig, tolerance_cents=10.0),
        jig.aims[0],
    )  # fmt: skip
    assert (even.state, even.figure) == ("met", 0.0)


def test_a_crossing_needs_both_levels() -> None:
    jig = jig_of(EIGHT, Aim(kind="crossing"))
    string = {i: {"string": i % 2, "level": level(-20.0)} for i in range(8)}
    assert only(jig, all_in(jig, string)).state == "met"
    for gone in (0, 1):  # the first or the second note of each pair
        some = {i: {**v, "level": NO if i % 2 == gone else level(-20.0)}
                for i, v in string.items()}  # fmt: skip
        assert only(jig, all_in(jig, some)).reason == "too_few_strokes"


@pytest.mark.parametrize(
    ("instrument_id", "dry", "in_room"),
    [("violin", 4.0, 20.0), ("viola", 5.0, 25.0), ("cello", 7.0, 37.0), ("bass", 10.0, 55.0)],
)
def test_what_the_ear_scatters_is_taken_off_the_spacing(
    instrument_id: str, dry: float, in_room: float
) -> None:
    line = {"violin": EIGHT, "viola": EIGHT, "cello": "D3 E3 F#3 G3 A3 G3 F#3 E3",
            "bass": "G1 A1 B1 C2 D2 C2 B1 A1"}[instrument_id]  # fmt: skip
    jig = jig_of(line, Aim(kind="even_run"), instrument_id=instrument_id)

    def measured(tail_s: float):
        return evenness(
            Evidence(
                notes=all_in(jig), jig=jig, tolerance_cents=10.0,
                playing=playing(timing=timing([1.0] * 8, uneven=12.0), tail_s=tail_s),
            ),
            jig.aims[0],
        )  # fmt: skip

    assert ONSET_MS[instrument_id] == dry
    for tail_s, onset_ms in ((0.0, dry), (1.0, in_room)):
        heard = 100.0 * onset_ms / 500.0  # of half a second
        found = measured(tail_s)
        assert found.figure == pytest.approx(max(144.0 - heard**2, 0.0) ** 0.5)
        assert found.uncertainty == pytest.approx(1.96 * 12.0 / 14.0**0.5 + 0.5 * heard, abs=1e-6)


def test_the_note_furthest_from_its_place_is_named() -> None:
    jig = jig_of(EIGHT, Aim(kind="even_run"))
    errors = [1.0, -2.0, 3.0, -30.0, 5.0, 0.0, 9.0, 1.0]
    found = only(jig, all_in(jig), timing=timing(errors, uneven=20.0))
    assert found.row == 3
    fewer = timing(errors[:5], uneven=20.0)
    assert only(jig, all_in(jig), timing=fewer).reason in ("too_few", "notes_missing")
