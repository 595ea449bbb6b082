"""Notes that lasted too long and hid a repeat: two where one began there, one where none did."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import pytest

from builders import segment
from jigwright.core.follow.align import line_up
from jigwright.core.follow.equal_runs import with_repeats
from jigwright.core.follow.moves import FollowParams
from jigwright.core.jig.line import jig_from_line
from jigwright.core.sound.heard import Segment

A4, D4, E4 = 440.0, 293.66, 329.63
STEP_S = 0.2
EIGHT = " ".join(["D4:1/2"] * 8)


def short(f0_hz: float, onset_s: float, seconds: float = STEP_S, **more: object) -> Segment:
    one = segment(f0_hz, onset_s, seconds=seconds)
    middle_s = onset_s + 0.5 * seconds
    one = replace(one, core_start_s=middle_s - 0.02, core_end_s=middle_s + 0.02)
    return replace(one, **more)  # type: ignore[arg-type]


def doubt(onset_s: float, f0_hz: float = D4) -> Segment:
    return short(f0_hz, onset_s, doubtful=True, attack_db=3.0)


def repeated(n: int, *, hidden: Sequence[int] = (), from_s: float = 0.4) -> list[Segment]:
    """Strokes on one pitch; those in ``hidden`` are part of the one before."""
    found: list[Segment] = []
    for k in range(n):
        if k in hidden:
            found[-1] = replace(found[-1], offset_s=found[-1].offset_s + STEP_S)
        else:
            found.append(short(D4, from_s + k * STEP_S))
    return found


def onsets(words: str, sure: list[Segment], doubts: list[Segment], bpm: float = 150) -> list[float]:
    jig = jig_from_line(words, jig_id="j", instrument_id="violin", title="j", tempo_bpm=bpm)
    found, at = with_repeats(sure, doubts, jig, a4_hz=A4)
    assert [found[at[i]].onset_s for i in range(len(sure))] == [s.onset_s for s in sure]
    lined = line_up(found, jig, a4_hz=A4, params=FollowParams())
    assert len(lined.notes) >= len(found)
    return [s.onset_s for s in found]


def expected(n: int, from_s: float = 0.4) -> list[float]:
    return [pytest.approx(from_s + k * STEP_S) for k in range(n)]


def test_a_repeat_taken_for_one_long_note_is_found_where_it_was_doubtful() -> None:
    sure = repeated(8, hidden=[4])
    assert onsets(EIGHT, sure, [doubt(1.2)]) == expected(8)


def test_the_first_ends_where_the_second_begins() -> None:
    jig = jig_from_line(EIGHT, jig_id="j", instrument_id="violin", title="j", tempo_bpm=150)
    found, _ = with_repeats(repeated(8, hidden=[4]), [doubt(1.2)], jig, a4_hz=A4)
    first, second = found[3], found[4]
    assert (first.offset_s, second.onset_s) == (1.2, 1.2)
    assert second.offset_s == pytest.approx(1.4)
    assert second.doubtful
    assert not first.doubtful


def test_two_in_one_note_are_found_both() -> None:
    sure = repeated(8, hidden=[3, 4])
    assert onsets(EIGHT, sure, [doubt(1.0), doubt(1.2)]) == expected(8)


def test_and_in_two_notes() -> None:
    sure = repeated(8, hidden=[2, 6])
    assert onsets(EIGHT, sure, [doubt(0.8), doubt(1.6)]) == expected(8)


def test_the_pace_is_that_of_the_playing() -> None:
    sure = repeated(8, hidden=[4])
    assert onsets(EIGHT, sure, [doubt(1.2)], bpm=75) == expected(8)


@pytest.mark.parametrize(("away_s", "n"), [(0.045, 8), (-0.045, 8), (0.058, 7), (-0.058, 7)])
def test_it_must_stand_about_where_one_is_due(away_s: float, n: int) -> None:
    sure = repeated(8, hidden=[4])
    assert len(onsets(EIGHT, sure, [doubt(1.2 + away_s)])) == n


def test_the_nearest_of_two_is_taken() -> None:
    sure = repeated(8, hidden=[4])
    assert onsets(EIGHT, sure, [doubt(1.15), doubt(1.21)])[4] == 1.21


@pytest.mark.parametrize(("cents", "n"), [(44.0, 8), (-44.0, 8), (46.0, 7), (-46.0, 7)])
def test_it_must_be_of_the_same_pitch(cents: float, n: int) -> None:
    sure = repeated(8, hidden=[4])
    assert len(onsets(EIGHT, sure, [doubt(1.2, D4 * 2 ** (cents / 1200))])) == n


@pytest.mark.parametrize(("longer_s", "n"), [(0.2, 8), (0.06, 7)])
def test_a_note_that_is_hardly_longer_hides_none(longer_s: float, n: int) -> None:
    sure = repeated(7)
    sure[3] = replace(sure[3], offset_s=sure[3].offset_s + longer_s)
    sure[4:] = [replace(s, onset_s=s.onset_s + longer_s, offset_s=s.offset_s + longer_s,
                        core_start_s=s.core_start_s + longer_s,
                        core_end_s=s.core_end_s + longer_s) for s in sure[4:]]  # fmt: skip
    assert len(onsets(EIGHT, sure, [doubt(1.2)])) == n


def test_where_nothing_is_missing_nothing_is_sought() -> None:
    sure = repeated(7, hidden=[4])
    assert len(onsets(" ".join(["D4:1/2"] * 6), sure, [doubt(1.2)])) == 6


def test_without_a_doubtful_beginning_a_long_note_stays_one() -> None:
    sure = repeated(8, hidden=[4])
    assert len(onsets(EIGHT, sure, [])) == 7
    assert len(onsets(EIGHT, sure, [doubt(0.7)])) == 7


def test_a_long_note_that_is_written_long_hides_none() -> None:
    words = "D4:1/2 D4:1/2 D4:1/2 D4:1 D4:1/2 D4:1/2 D4:1/2 D4:1/2 E4:1/2"
    sure = repeated(8, hidden=[4])  # the last, E4, was not played
    assert len(onsets(words, sure, [doubt(1.2)])) == 7


def test_one_segment_for_all_of_a_run_is_parted_where_time_says() -> None:
    sure = repeated(8, hidden=range(1, 8))
    doubts = [doubt(0.4 + STEP_S * k) for k in range(1, 8)]
    more = [doubt(0.4 + STEP_S * k + 0.1) for k in (1, 4)]  # and two that are none
    assert onsets(EIGHT, sure, sorted([*doubts, *more], key=lambda d: d.onset_s)) == expected(8)


def test_a_rest_inside_a_run_is_no_missing_note() -> None:
    words = " ".join([*["D4:1/2"] * 4, "r:3", *["D4:1/2"] * 4])
    sure = [*repeated(4, hidden=[2]), *repeated(4, hidden=[1], from_s=2.4)]
    found = onsets(words, sure, [doubt(0.8), doubt(2.6)])
    assert found == [*expected(4), *expected(4, from_s=2.4)]


def test_a_run_that_was_repeated_is_left_to_who_follows_repeats() -> None:
    sure = [*repeated(4, hidden=[2]), *repeated(4, from_s=1.4)]
    words = " ".join(["D4:1/2"] * 4)
    assert len(onsets(words, sure, [doubt(0.8)])) == 7


def test_it_is_no_gain_when_what_is_written_is_not_found_by_it() -> None:
    words = "D4:1/2 D4:1/2 D4:1/2 D4:1/2 D4:1/2 D4:1/2 D4:1/2 E4:1/2"
    sure = repeated(8, hidden=[4])  # seven D were played, the fourth too long; E was not
    assert len(onsets(words, sure, [doubt(1.2)])) == 7


# within a melody ---------------------------------------------------------------------------

F4 = 349.23
TUNE = " ".join(["E4:1/2", *["D4:1/2"] * 5, "E4:1/2", *["F4:1/2"] * 5, "E4:1/2"])
PITCHES = [E4, *[D4] * 5, E4, *[F4] * 5, E4]


def tune(*, hidden: Sequence[int] = (), left_out: Sequence[int] = ()) -> list[Segment]:
    """The tune as it was heard; what is left out took no time."""
    found: list[Segment] = []
    at_s = 0.4
    for k, f0_hz in enumerate(PITCHES):
        if k in left_out:
            continue
        if k in hidden:
            found[-1] = replace(found[-1], offset_s=found[-1].offset_s + STEP_S)
        else:
            found.append(short(f0_hz, at_s))
        at_s += STEP_S
    return found


def test_two_runs_of_a_melody_are_looked_at_one_by_one() -> None:
    sure = tune(hidden=[3, 9])
    assert onsets(TUNE, sure, [doubt(1.0), doubt(2.2, F4)]) == expected(13)


def test_a_doubt_of_one_run_is_none_of_another() -> None:
    sure = tune(hidden=[3])
    assert len(onsets(TUNE, sure, [doubt(1.0, F4), doubt(2.3, F4)])) == 12


def test_a_note_left_out_took_no_time_and_none_is_made_of_it() -> None:
    sure = tune(left_out=[3])
    assert len(onsets(TUNE, sure, [doubt(0.7), doubt(0.9), doubt(1.1)])) == 12


def test_nothing_else_is_moved_for_it() -> None:
    words = TUNE + " " + TUNE
    later = [
        replace(
            s, onset_s=s.onset_s + 2.6, offset_s=s.offset_s + 2.6,
            core_start_s=s.core_start_s + 2.6, core_end_s=s.core_end_s + 2.6,
        )
        for s in tune()
    ]  # fmt: skip
    sure = [*tune(hidden=[3]), *later]
    jig = jig_from_line(words, jig_id="j", instrument_id="violin", title="j", tempo_bpm=150)
    before = line_up(sure, jig, a4_hz=A4, params=FollowParams())
    found, _ = with_repeats(sure, [doubt(1.0)], jig, a4_hz=A4)
    after = line_up(found, jig, a4_hz=A4, params=FollowParams())
    assert len(found) == len(sure) + 1

    def placed(lined, segments) -> list[tuple[int | None, float]]:
        return [(r.i_event, segments[r.segments[0]].onset_s) for r in lined.notes if r.segments
                and (r.i_event is None or not 1 <= r.i_event <= 5)]  # fmt: skip

    assert placed(after, found) == placed(before, sure)
