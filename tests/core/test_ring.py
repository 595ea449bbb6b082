"""Which string rang after a note: both sides of every limit, on lines made of numbers."""

from __future__ import annotations

from typing import Any

import pytest

from jigwright.core.gauge.ring import measure_ring, meetings, room_as_heard, strings_as_rang
from jigwright.core.gauge.ring_place import Hold, holds_of
from jigwright.core.gauge.values import Ring, StringRing
from jigwright.core.sound.heard import RingLine
from jigwright.core.values import Unmeasured
from ring_builders import VIOLIN_HZ, line, place, ring, room, string_ring

D5 = 586.6667


def of_d(
    lines: list[RingLine],
    *,
    on_strings: tuple[int, ...] | None = (2,),
    f0_hz: float = D5,
    seconds: float = 0.9,
    **about: Any,
) -> StringRing:
    """What the D string did after a D5 that ended at 1 s."""
    found = measure_ring(
        place([*lines, *about.pop("room", room())], **about), i_segment=0, f0_hz=f0_hz,
        onset_s=1.0 - seconds, offset_s=1.0, on_strings=on_strings,
    )  # fmt: skip
    if isinstance(found, Unmeasured):
        return string_ring(1, reason=found.reason)
    return next(s for s in found.strings if s.meeting.string == 1)


def test_a_clear_line_at_the_strings_own_partial_is_a_ring() -> None:
    found = of_d([line(1, 2, level_db=-31.0, decay_s=1.4)])
    assert found.state == "rang"
    assert found.level_db == pytest.approx(-31.0, abs=0.1)
    assert found.decay_s == pytest.approx(1.4)
    assert found.decay_uncertainty_s == pytest.approx(2 * 1.4 * 3.0 / (60 / 1.4), rel=0.01)
    assert found.meeting.note_partial == 1
    assert found.meeting.string_partial == 2


def test_partials_of_one_string_add_up_and_doubtful_ones_do_not() -> None:
    both = of_d([line(1, 2, level_db=-30.0), line(1, 4, level_db=-30.0, above_db=13.0)])
    assert both.level_db == pytest.approx(-27.0, abs=0.1)
    faint = of_d([line(1, 2, level_db=-30.0), line(1, 4, level_db=-30.0, above_db=11.0)])
    assert faint.level_db == pytest.approx(-30.0, abs=0.1)


@pytest.mark.parametrize(
    ("limits", "state"),
    [
        ({"above_db": 16.5}, "rang"), ({"above_db": 15.5}, "silent"),
        ({"decay_s": 0.49}, "unknown"), ({"decay_s": 0.55}, "rang"),
        ({"decay_s": 8.5, "slope_sd": 1.0}, "rang"), ({"decay_s": 9.5, "slope_sd": 1.0}, "unknown"),
        ({"level_db": -51.0}, "rang"), ({"level_db": -53.0}, "unknown"),
        ({"level_db": -7.0}, "unknown"), ({"level_db": -9.0}, "rang"),
        ({"left_db": -36.0}, "rang"), ({"left_db": -34.0}, "unknown"),
        ({"slope_sd": 41.0}, "unknown"), ({"slope_sd": 39.0}, "rang"),
        ({"slope_sd": float("inf")}, "unknown"),
        ({"offset_cents": 5.0}, "rang"), ({"offset_cents": 6.5}, "silent"),
        ({"offset_cents": -6.5}, "silent"),
    ],
)  # fmt: skip
def test_each_limit_holds_on_both_sides(limits: dict[str, float], state: str) -> None:
    assert of_d([line(1, 2, **limits)]).state == state  # type: ignore[arg-type]


def test_what_still_rang_from_before_is_taken_off() -> None:
    found = of_d([line(1, 2, level_db=-30.0, left_db=-36.0)])
    assert found.level_db == pytest.approx(-31.26, abs=0.05)
    assert of_d([line(1, 2, level_db=-30.0, left_db=-28.0)]).reason == "rang_before"


def test_the_room_is_held_against_the_line() -> None:
    strong = [line(1, 2, level_db=-31.0, decay_s=1.4)]
    assert of_d(strong, room=room(falls_db=38.0)).state == "rang"
    assert of_d(strong, room=room(falls_db=22.0)).reason == "room"
    assert of_d(strong, room=()).reason == "room"
    assert of_d(strong, room=(), tail_s=0.1).state == "rang"
    assert of_d(strong, room=(), tail_s=0.6).reason == "room"
    assert of_d(strong, room_s=0.9).state == "rang"
    assert of_d(strong, room_s=1.0).reason == "room"


def test_what_is_seen_of_the_rooms_tail_is_held_against_the_line_too() -> None:
    def tail(level_db: float) -> tuple[RingLine, ...]:
        return tuple(
            line(-1, 3 + k, f_hz=1500.0 + 300 * k, level_db=level_db, decay_s=1.3, above_db=20.0)
            for k in range(3)
        )

    rang = [line(1, 2, level_db=-31.0, decay_s=1.4)]
    assert of_d(rang, room=tail(-55.0)).state == "rang"
    assert of_d(rang, room=tail(-31.0)).reason == "room"
    assert of_d(rang, room=tail(-55.0)).above_room_db > 20.0


def test_a_string_dies_no_sooner_than_such_strings_do() -> None:
    """A bass string that is gone in half a second is the room."""
    short = [line(1, 2, level_db=-31.0, decay_s=0.7)]
    assert of_d(short).state == "rang"
    assert of_d(short, t60_s=3.5).reason == "room"


def test_no_line_is_silence_only_where_a_ring_would_have_been_seen() -> None:
    nothing = [line(1, 2, above_db=5.0, floor_db=-70.0)]
    assert of_d(nothing).state == "silent"
    assert of_d(nothing).limit_db == pytest.approx(-54.0)
    assert of_d([line(1, 2, above_db=5.0, floor_db=-53.0)]).reason == "faint"
    high = [line(1, 4, above_db=5.0, floor_db=-70.0)]
    assert of_d(high).reason == "faint"  # where it would ring most, nothing was seen
    assert of_d([]).reason == "covered"


def test_a_string_nobody_heard_elsewhere_wants_a_clearer_line() -> None:
    assert of_d([line(1, 2, above_db=19.0)], string_cents={}).reason == "faint"
    assert of_d([line(1, 2, above_db=21.0)], string_cents={}).state == "rang"
    assert of_d([line(1, 2, offset_cents=8.0)], string_cents={}).state == "rang"
    assert of_d([line(1, 2, offset_cents=10.0)], string_cents={}).state == "silent"


def test_where_the_string_is_out_it_rings_at_its_own_place() -> None:
    assert of_d([line(1, 2, offset_cents=-14.0)], string_cents={1: -13.0}).state == "rang"
    assert of_d([line(1, 2, offset_cents=0.0)], string_cents={1: -13.0}).state == "silent"


def test_a_tail_at_the_notes_own_place_is_no_ring() -> None:
    """A third lies 14 cents off the string: what sounds nearer to it than to the string is its."""
    f0_hz = 2 * VIOLIN_HZ[1] * 2 ** (20 / 1200)
    at_string = of_d([line(1, 2, offset_cents=5.0)], f0_hz=f0_hz)
    beside = of_d([line(1, 2, offset_cents=8.0)], f0_hz=f0_hz, string_cents={})
    assert at_string.state == "rang"
    assert at_string.meeting.apart_cents == pytest.approx(20.0)
    assert beside.state == "silent"


def test_a_note_on_the_string_itself_cannot_wake_it() -> None:
    on_d = measure_ring(
        place([line(1, 2), *room()]), i_segment=0, f0_hz=D5, onset_s=0.1, offset_s=1.0,
        on_strings=(1,),
    )  # fmt: skip
    strings = [] if isinstance(on_d, Unmeasured) else [s.meeting.string for s in on_d.strings]
    assert 1 not in strings


def test_a_string_in_use_after_the_note_cannot_be_told() -> None:
    def used(at_s: float, **strings: tuple[int, ...]) -> Hold:
        return Hold(from_s=at_s, to_s=at_s + 1.0, **strings)

    rang, nothing = [line(1, 2)], [line(1, 2, above_db=5.0)]
    assert of_d(rang, holds=[used(1.0, surely=(1,))]).reason == "in_use"
    assert of_d(rang, holds=[used(1.0, surely=(2,))]).state == "rang"
    assert of_d(rang, holds=[used(1.4, surely=(1,))]).state == "rang"
    assert of_d(nothing, holds=[used(1.0, perhaps=(2, 1))]).reason == "in_use"
    assert of_d(nothing, holds=[used(1.0, perhaps=(3, 2, 1))]).state == "silent"
    assert of_d(rang, holds=[used(1.0, perhaps=(2, 1))]).state == "rang"


def test_a_unison_is_a_fourth_finger_only_where_the_fingering_says_so() -> None:
    unison = [line(1, 1)]
    stopped = of_d(unison, f0_hz=VIOLIN_HZ[1], on_strings=(0,))
    assert stopped.state == "rang"
    assert (stopped.meeting.note_partial, stopped.meeting.string_partial) == (1, 1)
    assert of_d(unison, f0_hz=VIOLIN_HZ[1], on_strings=None).reason == "open_string"


def after_open_d(holds: list[Hold]) -> Ring | Unmeasured:
    """A bowed open D: its third partial is the A string's second."""
    return measure_ring(
        place([line(2, 2), *room()], holds=holds, string_cents={2: 0.0}), i_segment=0,
        f0_hz=VIOLIN_HZ[1], onset_s=0.1, offset_s=1.0, on_strings=(1,),
    )  # fmt: skip


def test_after_a_bowed_open_string_its_own_partials_sound_on() -> None:
    assert after_open_d([]) == Unmeasured("open_string")
    stopped = after_open_d([Hold(from_s=1.0, to_s=2.0, surely=(1,))])
    assert isinstance(stopped, Ring)
    assert stopped.rang == (2,)


def test_a_partial_two_strings_have_is_the_nearer_ones() -> None:
    """The twelfth on the G string is the octave's on the D string as well."""
    found = measure_ring(
        place([line(0, 3), line(1, 2), *room()], string_cents={0: 0.0, 1: 0.0}), i_segment=0,
        f0_hz=D5, onset_s=0.1, offset_s=1.0, on_strings=(2,),
    )  # fmt: skip
    assert isinstance(found, Ring)
    states = {s.meeting.string: (s.state, s.reason) for s in found.strings}
    assert states[1] == ("rang", "")
    assert states[0] == ("unknown", "other_string")
    assert found.rang == (1,)


def test_a_take_is_refused_by_the_reason_of_the_likeliest_string() -> None:
    nothing = measure_ring(
        place([]), i_segment=0, f0_hz=D5, onset_s=0.1, offset_s=1.0, on_strings=(2,)
    )
    assert nothing == Unmeasured("covered")
    alone = measure_ring(
        place([]), i_segment=0, f0_hz=D5 * 2 ** (50 / 1200), onset_s=0.1, offset_s=1.0,
        on_strings=(2,),
    )  # fmt: skip
    assert alone == Unmeasured("nothing_shared")


def test_partials_the_note_has_not_got_tell_of_another_hand() -> None:
    """A D string that D5 woke sounds at its even partials only."""
    nan = float("nan")

    def odd(level_db: float, left_db: float, above_db: float = 30.0) -> RingLine:
        return line(1, 1, note_db=nan, level_db=level_db, left_db=left_db, above_db=above_db)

    rang = line(1, 2, level_db=-30.0)
    assert of_d([rang, odd(-41.0, -60.0)]).reason == "played"
    assert of_d([rang, odd(-43.0, -60.0)]).state == "rang"
    assert of_d([rang, odd(-35.0, -38.0)]).state == "rang"  # it rang there before
    assert of_d([rang, odd(-35.0, -42.0)]).reason == "played"
    assert of_d([rang, odd(-35.0, nan)]).reason == "played"
    assert of_d([rang, odd(-35.0, -60.0, above_db=11.0)]).state == "rang"


def test_a_short_note_wakes_nothing_that_could_be_told() -> None:
    assert of_d([line(1, 2)], seconds=0.26).state == "rang"
    assert of_d([line(1, 2)], seconds=0.24).reason == "too_short"


def test_meetings_come_with_the_strongest_first_and_say_how_far() -> None:
    found = meetings(D5, VIOLIN_HZ, 1.5)
    assert [m.string for m in found[:2]] == [1, 0]
    assert found[0].apart_cents == pytest.approx(0.0, abs=0.01)
    assert found[0].share_db == pytest.approx(0.0, abs=0.01)
    third = next(m for m in meetings(493.88, VIOLIN_HZ, 1.5) if m.string == 0)
    assert (third.note_partial, third.string_partial) == (2, 5)
    assert 14.0 < abs(third.apart_cents) < 22.0
    assert third.share_db < -10.0


def test_meetings_so_high_that_nothing_sounds_are_left_out() -> None:
    assert all(m.note_partial * m.string_partial <= 20 for m in meetings(523.25, VIOLIN_HZ, 1.5))
    assert not [m for m in meetings(VIOLIN_HZ[2] * 6 / 5, VIOLIN_HZ, 1.5) if m.string == 2]
    assert [m for m in meetings(VIOLIN_HZ[2] * 5 / 4, VIOLIN_HZ, 1.5) if m.string == 2]


def test_where_a_string_sounds_is_taken_from_several_lines() -> None:
    lines = [line(1, 2, offset_cents=c) for c in (-6.0, -5.0, -7.0)]
    found = strings_as_rang(lines)
    assert found[1][0] == pytest.approx(-6.0)
    assert 1.0 <= found[1][1] < 3.0
    assert strings_as_rang(lines[:1]) == {}
    assert strings_as_rang([line(1, 2, offset_cents=c) for c in (-9.0, 0.0, 9.0)]) == {}
    assert strings_as_rang([line(1, 2, above_db=15.0)] * 3) == {}


def test_the_rooms_own_decay_needs_three_partials_that_were_seen_to_fall() -> None:
    own = [line(-1, 3, f_hz=1500.0, decay_s=d) for d in (0.4, 0.5, 0.9)]
    assert room_as_heard(own) == pytest.approx(0.5)
    assert room_as_heard(own[:2]) != room_as_heard(own[:2])  # NaN
    assert room_as_heard([*own[:2], line(1, 2, decay_s=0.6)]) != pytest.approx(0.5)


def test_a_ring_names_its_strongest_string() -> None:
    found = ring(string_ring(0, level_db=-40.0, decay_s=2.0), string_ring(2, level_db=-30.0))
    assert found.rang == (0, 2)
    assert found.ring_db == -30.0
    assert found.decay_s == 1.4
    assert found.above_room_db == 18.0
    silent = ring(string_ring(level_db=None))
    assert silent.rang == ()
    assert silent.ring_db != silent.ring_db  # NaN


def test_which_string_a_note_may_be_on_begins_with_the_highest() -> None:
    assert holds_of([VIOLIN_HZ[1] * 1.1], VIOLIN_HZ) == (1, 0)
    assert holds_of([200.0, 450.0], VIOLIN_HZ) == (0, 2, 1)
    assert holds_of([150.0], VIOLIN_HZ) == ()
