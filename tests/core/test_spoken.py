"""What was heard in talk is no note, unless the jig misses it."""

from dataclasses import replace

import pytest

from builders import heard, heard_of, segment
from jigwright.core.follow.doubts import decided
from jigwright.core.follow.spoken import without_talk
from jigwright.core.jig.line import jig_from_line
from jigwright.core.sound.heard import RingLine

JIG = jig_from_line(
    "D4 E4 F#4 G4 A4 B4 C#5 D5", jig_id="l", instrument_id="violin", title="l"
)  # fmt: skip
N = len(JIG.events)
PLAYED = heard_of(JIG, [0.0] * N).segments


def spoken(at_s, f0_hz=233.0):
    return replace(segment(f0_hz, at_s, seconds=0.12), in_talk=True)


def left(segments, jig=JIG):
    return without_talk(segments, jig, a4_hz=440.0)


def test_talk_beside_what_was_played_is_left_out_and_places_are_kept() -> None:
    rows = (spoken(0.1), *PLAYED[:3], spoken(1.95, 290.0), *PLAYED[3:], spoken(9.0))
    kept, at = left(rows)
    assert kept == PLAYED
    assert at == {1: 0, 2: 1, 3: 2, 5: 3, 6: 4, 7: 5, 8: 6, 9: 7}


def test_without_a_jig_nothing_said_is_a_note() -> None:
    rows = (spoken(0.1), *PLAYED, spoken(9.0))
    assert left(rows, None)[0] == PLAYED
    assert left((), None) == ((), {})
    assert left((spoken(0.1),), None) == ((), {})


def test_notes_that_would_be_missing_stay_notes() -> None:
    marked = tuple(replace(s, in_talk=k in (2, 3)) for k, s in enumerate(PLAYED))
    assert left(marked)[0] == marked


def test_more_than_half_of_a_stretch_must_be_missing() -> None:
    two = (*PLAYED[:2], replace(PLAYED[2], in_talk=True), spoken(1.9, 251.0), *PLAYED[3:])
    assert left(two)[0] == (*PLAYED[:2], *PLAYED[3:])
    three = (
        *PLAYED[:2], replace(PLAYED[2], in_talk=True), replace(PLAYED[3], in_talk=True),
        spoken(2.35, 251.0), *PLAYED[4:],
    )  # fmt: skip
    assert len(left(three)[0]) == N + 1


def again(n):
    """The jig, and its first notes once more while it was taken for talk."""
    return tuple(
        replace(s, onset_s=s.onset_s + 6.0, offset_s=s.offset_s + 6.0, in_talk=True)
        for s in PLAYED[:n]
    )


@pytest.mark.parametrize(("n", "kept"), [(5, 5), (4, 0)])
def test_an_attempt_that_goes_as_written_is_no_talk(n, kept) -> None:
    assert len(left((*PLAYED, *again(n)))[0]) == N + kept


def test_an_attempt_out_of_tune_or_out_of_turn_is_not_kept() -> None:
    off = tuple(replace(s, f0_hz=s.f0_hz * 2 ** (0.8 / 12)) for s in again(6))
    assert left((*PLAYED, *off))[0] == PLAYED


def test_what_is_decided_of_a_take_has_no_talk_and_its_rings_follow() -> None:
    take = heard((spoken(0.1), *PLAYED, spoken(9.0)))
    line = RingLine(
        i_segment=1, i_string=0, partial=2, f_hz=392.0, level_db=-20.0, note_db=0.0, decay_s=1.0,
        slope_db_per_s=-60.0, slope_sd=2.0, above_db=20.0, floor_db=-60.0, offset_cents=0.0,
        left_db=-60.0, from_s=1.0, to_s=1.4,
    )  # fmt: skip
    take = replace(take, ring_lines=(line, replace(line, i_segment=0)))
    for jig in (JIG, None):
        found = decided(take, jig, a4_hz=440.0)
        assert found.segments == PLAYED
        assert [q.i_segment for q in found.ring_lines] == [0]
    quiet = heard(PLAYED)
    assert decided(quiet, None, a4_hz=440.0) is quiet


def test_a_take_of_talk_alone_has_no_notes() -> None:
    take = heard((spoken(0.1), spoken(0.5, 301.0)))
    assert decided(take, JIG, a4_hz=440.0).segments == ()
