"""What a room adds to the range of a pitch, and what must then not be said."""

from __future__ import annotations

from dataclasses import replace

import pytest

from aim_builders import all_in, jig_of
from builders import segment
from jigwright.core.gauge.values import Arrival, BowEvent
from jigwright.core.judge.bow_findings import find_bow
from jigwright.core.judge.findings import Finding, find
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.playing import Playing
from jigwright.core.sound.heard import Segment
from jigwright.core.sound.ranges import is_room, widened
from jigwright.core.values import Unmeasured


def notes(clarity: float, count: int = 5) -> list[Segment]:
    return [replace(segment(440.0, 0.5 * i), clarity=clarity) for i in range(count)]


@pytest.mark.parametrize(
    ("tail_s", "clarity", "count", "room"),
    [
        (0.069, 0.9, 5, False),  # notes were seen to end: that decides
        (0.071, 0.999, 5, True),
        (float("nan"), 0.9970, 5, False),
        (float("nan"), 0.9950, 5, True),
        (float("nan"), 0.9950, 2, False),  # too few to say
        (float("nan"), 0.9950, 3, True),
    ],
)
def test_a_room_is_heard_by_its_tails_else_by_its_periods(
    tail_s: float, clarity: float, count: int, room: bool
) -> None:
    assert is_room(notes(clarity, count), tail_s) is room


@pytest.mark.parametrize(("clarity", "factor"), [(0.981, 1.6), (0.979, 2.2)])
def test_ranges_are_wider_in_a_room(clarity: float, factor: float) -> None:
    plain = notes(clarity)
    wide = widened(plain, 0.2)
    assert [w.uncertainty_cents for w in wide] == pytest.approx(
        [factor * p.uncertainty_cents for p in plain]
    )
    assert [w.f0_hz for w in wide] == [p.f0_hz for p in plain]
    assert widened(plain, 0.02) == tuple(plain)


def test_a_pair_keeps_its_own_range() -> None:
    plain = [replace(n, i_pair=0) for n in notes(0.9)]
    assert widened(plain, 0.2) == tuple(plain)


# slides ------------------------------------------------------------------------------------


def slid(n_up: int, n_down: int, of: int) -> list[JudgedNote]:
    """Notes of a take; the first slid up, the next down, the others landed."""
    jig = jig_of(" ".join(["D4", "E4"] * (of // 2)))
    made: list[JudgedNote] = []
    for i, one in enumerate(all_in(jig)):
        kind = "slid_up" if i < n_up else "slid_down" if i < n_up + n_down else "landed"
        first = {"slid_up": -30.0, "slid_down": 30.0, "landed": 0.0}[kind]
        arrival = Arrival(kind=kind, first_cents=first, settle_s=0.1)  # type: ignore[arg-type]
        made.append(replace(one, measured=replace(one.measured, arrival=arrival)))
    return made


def slides(n_up: int, n_down: int, of: int, *, in_room: bool) -> list[Finding]:
    found = find(slid(n_up, n_down, of), tolerance_cents=10.0, in_room=in_room)
    return [f for f in found if f.id == "slides"]


@pytest.mark.parametrize(
    ("n", "of", "in_room", "said"),
    [
        (1, 16, False, False),  # one alone may be chance
        (2, 16, False, True),
        (2, 30, False, True),
        (2, 32, False, False),  # two of so many are found where there are none
        (2, 16, True, False),
        (3, 16, True, True),
        (3, 24, True, False),
        (4, 24, True, True),
    ],
)
def test_slides_are_said_where_they_are_more_than_chance(
    n: int, of: int, in_room: bool, said: bool
) -> None:
    assert bool(slides(n, 0, of, in_room=in_room)) is said
    assert bool(slides(0, n, of, in_room=in_room)) is said


def test_slides_from_both_sides_are_not_added_up() -> None:
    assert slides(1, 1, 8, in_room=False) == []
    (found,) = slides(2, 3, 8, in_room=False)
    assert found.notes == (2, 3, 4)
    assert found.values["first_cents"] == 30.0
    assert found.values["n"] == 3


# scraps and soft notes ---------------------------------------------------------------------


@pytest.mark.parametrize(("seconds", "said"), [(0.06, False), (0.08, True)])
def test_of_a_scrap_no_wrong_note_is_said(seconds: float, said: bool) -> None:
    made = all_in(jig_of("D4 E4 D4 E4"))
    s = made[1].measured.segment
    assert s is not None
    short = replace(s, offset_s=s.onset_s + seconds)
    made[1] = replace(
        made[1], cents=200.0, standing="wrong", measured=replace(made[1].measured, segment=short)
    )
    assert bool([f for f in find(made, tolerance_cents=10.0) if f.id == "wrong_note"]) is said


def out_by(cents: float, uncertainty: float, seconds: float, *, in_room: bool) -> bool:
    """Whether one note that is out is said."""
    made = all_in(jig_of("D4 E4 F4 G4"))
    s = made[1].measured.segment
    assert s is not None
    short = replace(s, offset_s=s.onset_s + seconds)
    made[1] = replace(
        made[1], cents=cents, standing="high" if cents > 0 else "low",
        uncertainty_cents=uncertainty, measured=replace(made[1].measured, segment=short),
    )  # fmt: skip
    return "note_off" in [f.id for f in find(made, tolerance_cents=10.0, in_room=in_room)]


@pytest.mark.parametrize("sign", [1, -1])
@pytest.mark.parametrize(
    ("cents", "seconds", "in_room", "said"),
    [
        (17.9, 0.4, True, False),  # 10 c and twice its range of 4 c
        (18.1, 0.4, True, True),
        (14.1, 0.4, False, True),
        (40.0, 0.14, True, False),
        (40.0, 0.16, True, True),
        (40.0, 0.14, False, True),
    ],
)
def test_in_a_room_a_single_note_must_be_out_by_more(
    sign: int, cents: float, seconds: float, in_room: bool, said: bool
) -> None:
    assert out_by(sign * cents, 4.0, seconds, in_room=in_room) is said


# the bow -----------------------------------------------------------------------------------


def of_bow(kind: str, rows: list[int], strength: float, tail_s: float) -> list[str]:
    made = all_in(jig_of("D4 E4 D4 E4 D4 E4"))
    events = tuple(
        BowEvent(kind=kind, row=r, start_s=0.5 * r, end_s=0.5 * r + 0.1, strength=strength)  # type: ignore[arg-type]
        for r in rows
    )
    playing = Playing(
        strokes=(), changes=(), events=events, timing=Unmeasured("no_jig"),
        sounding_ratio=(None,) * 6, tail_s=tail_s, in_room=is_room([], tail_s),
    )  # fmt: skip
    return [f.id for f in find_bow(made, playing, None)]


@pytest.mark.parametrize("kind", ["bounce", "shake"])
@pytest.mark.parametrize(
    ("rows", "tail_s", "said"),
    [([2], 0.03, True), ([2], 0.2, False), ([2, 4], 0.2, True), ([2], float("nan"), True)],
)
def test_one_wave_in_a_room_is_no_bouncing_bow(
    kind: str, rows: list[int], tail_s: float, said: bool
) -> None:
    assert bool(of_bow(kind, rows, 8.0, tail_s)) is said


@pytest.mark.parametrize(
    ("strength", "tail_s", "said"), [(9.9, 0.03, False), (10.0, 0.03, True), (10.0, 0.2, False)]
)
def test_one_loud_scratch_is_said_where_no_room_makes_it(
    strength: float, tail_s: float, said: bool
) -> None:
    assert bool(of_bow("scratch", [2], strength, tail_s)) is said
    assert of_bow("scratch", [2, 3], 6.0, tail_s) == ["bow_scratch"]


@pytest.mark.parametrize(
    ("strength", "tail_s", "said"), [(5.9, 0.2, False), (6.1, 0.2, True), (-1.0, 0.03, True)]
)
def test_a_whistle_in_a_room_must_stand_well_above_its_tone(
    strength: float, tail_s: float, said: bool
) -> None:
    assert bool(of_bow("whistle", [2], strength, tail_s)) is said
