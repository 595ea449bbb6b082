"""Short pieces that nothing was written for, and single notes taken for a double stop."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import heard, segment
from jigwright.core.follow.align import line_up
from jigwright.core.follow.doubts import decide
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.scraps import is_common_period, take_in_scraps
from jigwright.core.jig.line import jig_from_line
from jigwright.core.judge.measured import merge_segments
from jigwright.core.sound.doubles import taking_turns
from jigwright.core.sound.heard import Pair, Segment

D4, E4, A4, CIS4 = 293.66, 329.63, 440.0, 277.18


def piece(f0_hz: float, start_s: float, stop_s: float, *, attack_db: float = 3.0) -> Segment:
    one = segment(f0_hz, start_s, seconds=stop_s - start_s)
    middle_s = 0.5 * (start_s + stop_s)
    return replace(
        one, attack_db=attack_db, core_start_s=min(one.core_start_s, middle_s),
        core_end_s=max(one.core_end_s, middle_s),
    )  # fmt: skip


def cents(f0_hz: float, by: float) -> float:
    return f0_hz * 2.0 ** (by / 1200.0)


# a scrap of a note's own pitch


@pytest.mark.parametrize(("seconds", "taken"), [(0.11, True), (0.13, False)])
def test_only_what_is_short_is_a_scrap(seconds: float, taken: bool) -> None:
    found = [piece(D4, 0, 1), piece(D4, 1.0, 1.0 + seconds), piece(E4, 1.2, 2)]
    path, parts = take_in_scraps([0, -1, 1], found)
    assert path == [0, 0 if taken else -1, 1]
    assert parts == ({1} if taken else set())


@pytest.mark.parametrize(
    ("gap_s", "attack_db", "taken"),
    [(0.24, 2.9, True), (0.26, 2.9, False), (0.24, 3.1, False)],
)
def test_a_note_that_something_hid_for_a_moment_goes_on(
    gap_s: float, attack_db: float, taken: bool
) -> None:
    again = piece(D4, 1.0 + gap_s, 1.45, attack_db=attack_db)
    path, parts = take_in_scraps([0, -1, 1], [piece(D4, 0, 1), again, piece(E4, 2, 3)])
    assert path == [0, 0 if taken else -1, 1]
    assert parts == ({1} if taken else set())


def test_another_pitch_after_it_is_no_part_of_it() -> None:
    again = piece(cents(D4, 40), 1.2, 1.4, attack_db=0.0)
    assert take_in_scraps([0, -1], [piece(D4, 0, 1), again])[0] == [0, -1]
    assert take_in_scraps([-1, -1], [piece(D4, 0, 1), piece(D4, 1.2, 1.4, attack_db=0)])[0] == [
        -1, -1,
    ]  # fmt: skip


@pytest.mark.parametrize(("by", "taken"), [(28, True), (-28, True), (32, False), (-32, False)])
def test_it_has_the_pitch_of_its_note(by: float, taken: bool) -> None:
    found = [piece(D4, 0, 1), piece(cents(D4, by), 1.0, 1.08), piece(E4, 1.3, 2)]
    assert (take_in_scraps([0, -1, 1], found)[0][1] == 0) is taken


@pytest.mark.parametrize(("gap_s", "taken"), [(0.028, True), (0.035, False)])
def test_it_touches_its_note(gap_s: float, taken: bool) -> None:
    found = [piece(D4, 0, 1), piece(D4, 1 + gap_s, 1.1), piece(E4, 1.5, 2)]
    assert (take_in_scraps([0, -1, 1], found)[0][1] == 0) is taken


@pytest.mark.parametrize(("attack_db", "taken"), [(11.0, True), (12.5, False)])
def test_what_clearly_began_is_no_scrap(attack_db: float, taken: bool) -> None:
    found = [piece(D4, 0, 1), piece(D4, 1.0, 1.08, attack_db=attack_db), piece(E4, 1.5, 2)]
    assert (take_in_scraps([0, -1, 1], found)[0][1] == 0) is taken
    found = [piece(D4, 0, 0.08), piece(D4, 0.08, 1, attack_db=attack_db)]
    assert (take_in_scraps([-1, 0], found)[0][0] == 0) is taken


def test_a_string_that_takes_two_goes_begins_with_the_first() -> None:
    path, parts = take_in_scraps(
        [-1, 0, 1], [piece(D4, 0, 0.08), piece(D4, 0.08, 1), piece(E4, 1, 2)]
    )
    assert (path, parts) == ([0, 0, 1], {1})


def test_what_interrupts_a_note_joins_its_two_parts() -> None:
    whistle = piece(8.7 * D4, 0.5, 0.6)
    found = [piece(D4, 0, 0.5), whistle, piece(D4, 0.6, 1.0)]
    assert take_in_scraps([0, -1, 0], found) == ([0, 0, 0], {1, 2})
    # the next written note of the same pitch is its own
    assert take_in_scraps([0, -1, 1], found) == ([0, -1, 1], frozenset())
    again = [found[0], whistle, replace(found[2], attack_db=13.0)]
    assert take_in_scraps([0, -1, 0], again) == ([0, -1, 0], frozenset())


# the common period of two notes


@pytest.mark.parametrize(
    ("ratio", "off", "common"),
    [(2, 0, True), (3, 38, True), (4, -38, True), (3, 42, False), (5, 0, False), (1, 0, False)],
)
def test_a_common_period_is_two_to_four_of_the_notes(
    ratio: float, off: float, common: bool
) -> None:
    assert is_common_period(piece(cents(A4, off) / ratio, 0, 1), piece(A4, 1, 2)) is common


def test_the_mixture_at_a_change_belongs_to_the_note_that_comes() -> None:
    low = A4 / 3
    found = [piece(2 * low, 0, 1), piece(low, 1.0, 1.08), piece(A4, 1.08, 2)]
    assert take_in_scraps([0, -1, 1], found) == ([0, 1, 1], {2})
    longer = [found[0], piece(low, 1.0, 1.24), piece(A4, 1.24, 2)]
    assert take_in_scraps([0, -1, 1], longer) == ([0, 1, 1], {2})
    of_one_only = [piece(E4, 0, 1), *longer[1:]]
    assert take_in_scraps([0, -1, 1], of_one_only) == ([0, -1, 1], frozenset())
    too_long = [found[0], piece(low, 1.0, 1.26), piece(A4, 1.26, 2)]
    assert take_in_scraps([0, -1, 1], too_long) == ([0, -1, 1], frozenset())


def test_a_written_note_is_never_a_scrap() -> None:
    found = [piece(D4, 0, 1), piece(D4, 1.0, 1.08), piece(E4, 1.1, 2)]
    assert take_in_scraps([0, 1, 2], found) == ([0, 1, 2], frozenset())
    double = [found[0], replace(found[1], i_pair=0), found[2]]
    assert take_in_scraps([0, -1, 2], double) == ([0, -1, 2], frozenset())


def test_a_scrap_makes_no_row_and_does_not_move_its_notes_pitch() -> None:
    jig = jig_from_line("D4 A4", jig_id="j", instrument_id="violin", title="j")
    found = [piece(D4, 0, 0.5), piece(A4 / 3, 0.5, 0.58), piece(A4, 0.58, 1.0)]
    rows = line_up(found, jig, a4_hz=440.0, params=FollowParams()).notes
    assert [r.state for r in rows] == ["played", "played"]
    assert rows[1].segments == (1, 2)
    note = merge_segments([found[i] for i in rows[1].segments])
    assert note.f0_hz == pytest.approx(A4)
    assert note.onset_s == 0.5
    assert note.covered_s == pytest.approx(0.08), "its arrival begins where its own pitch does"


def test_pieces_of_one_pitch_share_it_by_length() -> None:
    long, short = piece(A4, 0, 1), piece(cents(A4, 10), 1.0, 1.4)
    note = merge_segments([long, short])
    weight = [s.core_end_s - s.core_start_s for s in (long, short)]
    assert 1200 * np.log2(note.f0_hz / A4) == pytest.approx(10 * weight[1] / sum(weight))
    assert note.covered_s == 0.0


# how long notes take


def test_the_pace_is_that_of_notes_that_follow_each_other() -> None:
    """A trill makes most pieces short; a long note that broke in two is one all the same."""
    jig = jig_from_line(
        "D4:4 E4:4 F4:4 G4:4 A4:4 B4:4", jig_id="j", instrument_id="violin", title="j", tempo_bpm=60
    )
    hz = [440.0 * 2 ** ((e.heads[0].pitch.midi - 69) / 12) for e in jig.events]
    found = [piece(f, 4.0 * i, 4.0 * i + 3.95) for i, f in enumerate(hz[:5])]
    found += [piece(hz[5] * (1.06 if k % 2 else 1), 20 + k / 10, 20.1 + k / 10) for k in range(20)]
    found[1:2] = [piece(hz[1], 4.0, 6.5), piece(hz[1], 6.5, 7.95, attack_db=8.0)]
    rows = line_up(found, jig, a4_hz=440.0, params=FollowParams()).notes
    assert next(r for r in rows if r.i_event == 1).segments == (1, 2)
    assert [r.attempt for r in rows if r.i_event == 1] == [1]


# notes that take turns


def pair(start_s: float, stop_s: float) -> Pair:
    at = np.linspace(start_s, stop_s, 5)
    return Pair(
        onset_s=start_s, offset_s=stop_s, lower_hz=CIS4, upper_hz=A4, lower_uncertainty_cents=2.0,
        upper_uncertainty_cents=2.0, balance_db=0.0, balance_uncertainty_db=1.0, level_dbfs=-20.0,
        times_s=at, lower_track_hz=np.full(5, CIS4), upper_track_hz=np.full(5, A4),
        balance_track_db=np.zeros(5),
    )  # fmt: skip


def turns(*pitches: float, each_s: float = 0.2) -> tuple[Segment, ...]:
    return tuple(piece(f, 1 + each_s * i, 1 + each_s * (i + 1)) for i, f in enumerate(pitches))


def test_three_notes_to_and_fro_may_have_been_played_in_turn() -> None:
    one = (pair(1.0, 1.8),)
    assert taking_turns(turns(CIS4, A4), one) == ()
    found = taking_turns(turns(CIS4, A4, CIS4), one)
    assert [s.f0_hz for s in found] == [CIS4, A4, CIS4]
    assert all(s.doubtful for s in found)
    assert taking_turns(turns(CIS4, A4, cents(A4, 20)), one) == (), "a broken note is no turn"
    assert taking_turns(turns(CIS4, A4, CIS4), (pair(1.5, 1.8),)) == ()


def as_double(*pitches: float) -> tuple[tuple[Segment, ...], tuple[Segment, ...], tuple[Pair, ...]]:
    """A note, a double stop that may have been these notes, and a note."""
    inside = turns(*pitches)
    stop_s = inside[-1].offset_s
    whole = replace(piece(CIS4, 1.0, stop_s), i_pair=0)
    around = (piece(D4, 0.8, 1.0), whole, piece(E4, stop_s, stop_s + 0.2))
    one = (pair(1.0, stop_s),)
    return around, taking_turns(inside, one), one


def decided(line: str, *pitches: float) -> list[float]:
    jig = jig_from_line(line, jig_id="j", instrument_id="violin", title="j", tempo_bpm=300)
    segments, doubtful, pairs = as_double(*pitches)
    found, at = decide(segments, doubtful, jig, a4_hz=440.0, pairs=pairs)
    assert at[0] == 0
    assert found[at[2]] == segments[2]
    return [round(s.f0_hz) for s in found if s.i_pair < 0][1:-1]


def test_what_was_written_says_whether_they_are_notes_or_a_double_stop() -> None:
    alternate = (CIS4, A4, CIS4, A4)
    assert decided("D4 C#4 A4 C#4 A4 E4", *alternate) == [277, 440, 277, 440]
    assert decided("D4 C#4+A4:4 E4", *alternate) == []


def test_one_note_more_is_not_enough_for_it() -> None:
    assert decided("D4 A4 E4", CIS4, A4, CIS4) == []
    assert decided("D4 C#4 A4 E4", CIS4, A4, CIS4) == [277, 440, 277]


def test_a_wrong_note_among_them_stays_what_it_is() -> None:
    found = decided("D4 C#4 A4 C#4 A4 E4", CIS4, A4, 1.1 * CIS4, A4)
    assert found == [277, 440, 305, 440]


def test_a_take_of_scraps_only_is_heard() -> None:
    jig = jig_from_line("D4 A4", jig_id="j", instrument_id="violin", title="j")
    sound = heard([piece(A4, 0.2, 0.25), piece(A4, 0.25, 0.3)])
    rows = line_up(sound.segments, jig, a4_hz=440.0, params=FollowParams()).notes
    assert sum(bool(r.segments) for r in rows) >= 1


# a finger that lands beside its note and goes to it


def corrected(
    by_cents: float = -50.0, *, seconds: float = 0.2, gap_s: float = 0.0, attack_db: float = 0.0
) -> tuple[list[int], frozenset[int]]:
    landed = piece(cents(A4, by_cents), 1.0, 1.0 + seconds, attack_db=0.0)
    note = piece(A4, 1.0 + seconds + gap_s, 2.0, attack_db=attack_db)
    return take_in_scraps([0, -1, 1], [piece(D4, 0, 1), landed, note])


@pytest.mark.parametrize(
    ("by_cents", "taken"), [(-79.0, True), (-81.0, False), (79.0, True), (81.0, False)]
)
def test_a_finger_beside_its_note_is_the_notes_arrival(by_cents: float, taken: bool) -> None:
    path, parts = corrected(by_cents)
    assert path == [0, 1 if taken else -1, 1]
    assert parts == ({2} if taken else set())


@pytest.mark.parametrize(("seconds", "taken"), [(0.24, True), (0.26, False)])
def test_what_is_held_beside_the_note_is_a_note(seconds: float, taken: bool) -> None:
    assert (corrected(seconds=seconds)[0][1] == 1) is taken


@pytest.mark.parametrize(("gap_s", "taken"), [(0.029, True), (0.031, False)])
def test_it_touches_the_note_it_leads_to(gap_s: float, taken: bool) -> None:
    assert (corrected(gap_s=gap_s)[0][1] == 1) is taken


@pytest.mark.parametrize(("attack_db", "taken"), [(2.9, True), (3.1, False)])
def test_where_the_note_begins_anew_it_was_another_one(attack_db: float, taken: bool) -> None:
    assert (corrected(attack_db=attack_db)[0][1] == 1) is taken


def test_the_end_of_the_note_before_is_no_arrival() -> None:
    """A note that sags by a quarter of a semitone before one a semitone lower."""
    sags = piece(cents(D4, -27.0), 1.0, 1.2, attack_db=0.0)
    lower = piece(cents(D4, -100.0), 1.2, 2.0, attack_db=0.0)
    path, _ = take_in_scraps([0, -1, 1], [piece(D4, 0, 1), sags, lower])
    assert path[1] != 1
    other = piece(cents(D4, -33.0), 1.0, 1.2, attack_db=0.0)
    path, _ = take_in_scraps([0, -1, 1], [piece(D4, 0, 1), other, lower])
    assert path[1] == 1


@pytest.mark.parametrize(("note_s", "taken"), [(0.21, True), (0.19, False)])
def test_a_note_is_longer_than_the_way_to_it(note_s: float, taken: bool) -> None:
    """Else it is the short one that needs explaining."""
    landed = piece(cents(A4, -50.0), 1.0, 1.2, attack_db=0.0)
    note = piece(A4, 1.2, 1.2 + note_s, attack_db=0.0)
    path, _ = take_in_scraps([0, -1, 1], [piece(D4, 0, 1), landed, note])
    assert (path[1] == 1) is taken


@pytest.mark.parametrize(
    ("by_cents", "attack_db", "share"),
    [(-50.0, 0.0, 0.0), (-31.0, 0.0, 0.0), (-29.0, 0.0, 1.0), (-50.0, 4.0, 1.0)],
)
def test_the_way_to_a_note_is_no_part_of_its_pitch(
    by_cents: float, attack_db: float, share: float
) -> None:
    """A piece of its pitch counts by its length; so does one after which the note begins anew."""
    way = piece(cents(A4, by_cents), 1.0, 1.2, attack_db=0.0)
    note = piece(A4, 1.2, 2.0, attack_db=attack_db)
    merged = merge_segments([way, note])
    lengths = [s.core_end_s - s.core_start_s for s in (way, note)]
    expected = share * by_cents * lengths[0] / sum(lengths)
    assert 1200.0 * np.log2(merged.f0_hz / A4) == pytest.approx(expected, abs=0.01)
    assert merged.onset_s == way.onset_s
    assert merged.covered_s == way.covered_s
