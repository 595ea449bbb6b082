"""A recording cut into what was played, tuned and said."""

from dataclasses import replace

import pytest

from builders import heard, segment
from jigwright.core.follow.stretches import stretches, to_cut
from jigwright.core.sound.heard import Speech
from pair_builders import pair

OPEN = (196.0, 293.66, 440.0, 659.26)


def notes(start_s, n=4, *, f_hz=247.0, step=0.6, seconds=0.5):
    return [segment(f_hz * 2 ** (k / 12), start_s + step * k, seconds=seconds) for k in range(n)]


def lesson(segments, *talks, pairs=(), seconds=60.0):
    return replace(
        heard(segments), talks=tuple(Speech(start_s=a, end_s=b) for a, b in talks),
        pairs=tuple(pairs), open_hz=OPEN, duration_s=seconds,
    )  # fmt: skip


def cut(take):
    return [(s.kind, round(s.start_s, 2), round(s.end_s, 2)) for s in stretches(take)]


def test_playing_talk_and_playing_are_three() -> None:
    take = lesson([*notes(1.0), *notes(8.0)], (4.0, 7.0))
    assert cut(take) == [("played", 1.0, 3.3), ("said", 4.0, 7.0), ("played", 8.0, 10.3)]


def test_nothing_heard_is_cut_into_nothing() -> None:
    assert stretches(lesson([])) == ()
    assert to_cut(lesson([])) == ()
    assert cut(replace(lesson(notes(1.0)), talks=None)) == [("played", 1.0, 3.3)]


@pytest.mark.parametrize(("second_s", "n"), [(6.25, 1), (6.35, 2)])
def test_three_seconds_of_silence_part(second_s, n) -> None:
    assert len(stretches(lesson([*notes(1.0), *notes(second_s)]))) == n


@pytest.mark.parametrize(
    ("talk", "n"),
    [((3.9, 4.4), 2), ((2.85, 4.4), 2), ((2.75, 4.4), 1), ((3.9, 5.45), 2), ((3.9, 5.55), 1)],
)
def test_talk_parts_where_it_lies_between(talk, n) -> None:
    take = lesson([*notes(1.0), *notes(5.0)], talk)
    assert sum(s.kind == "played" for s in stretches(take)) == n


def test_sounds_of_talk_are_no_playing() -> None:
    spoken = [replace(s, in_talk=True) for s in notes(4.2)]
    assert [k for k, *_ in cut(lesson([*notes(1.0), *spoken], (4.0, 7.0)))] == ["played", "said"]


@pytest.mark.parametrize(
    ("n", "seconds", "found"),
    [(1, 0.49, 0), (1, 0.51, 1), (2, 0.29, 0), (2, 0.31, 1), (3, 0.29, 1)],
)
def test_a_thud_is_no_stretch(n, seconds, found) -> None:
    rows = notes(1.0, n, step=0.35, seconds=seconds)
    assert len(stretches(lesson(rows))) == found


def fifth(at_s, i_pair=0, lower_hz=293.0, upper_hz=441.0):
    row = replace(segment(lower_hz, at_s, seconds=2.0), i_pair=i_pair)
    both = pair([0.0] * 4, lower_hz=lower_hz, ratio=upper_hz / lower_hz)
    return row, replace(both, onset_s=at_s, offset_s=at_s + 2.0)


def test_open_strings_and_a_fifth_are_tuning() -> None:
    row, both = fifth(3.0)
    rows = [segment(440.0, 1.0, seconds=1.5), row]
    assert cut(lesson(rows, pairs=[both])) == [("tuned", 1.0, 5.0)]
    assert to_cut(lesson(rows, pairs=[both])) == ()


@pytest.mark.parametrize(("cents", "kind"), [(69.0, "tuned"), (71.0, "played")])
def test_how_far_out_a_string_may_be(cents, kind) -> None:
    row, both = fifth(3.0)
    rows = [segment(440.0 * 2 ** (cents / 1200), 1.0, seconds=1.5), row]
    assert cut(lesson(rows, pairs=[both]))[0][0] == kind


def test_open_strings_alone_or_with_a_stopped_note_are_played() -> None:
    alone = [segment(440.0, 1.0, seconds=1.5), segment(293.7, 3.0, seconds=1.5)]
    assert cut(lesson(alone))[0][0] == "played"
    row, both = fifth(3.0, upper_hz=493.9)
    assert cut(lesson([alone[0], row], pairs=[both]))[0][0] == "played"
    row, both = fifth(3.0)
    stopped = [segment(330.0, 1.0, seconds=0.31), row]
    assert cut(lesson(stopped, pairs=[both]))[0][0] == "played"
    scrap = [segment(330.0, 1.0, seconds=0.29), row]
    assert cut(lesson(scrap, pairs=[both]))[0][0] == "tuned"
    unknown = replace(lesson([alone[0], row], pairs=[both]), open_hz=())
    assert cut(unknown)[0][0] == "played"


def test_a_cut_has_a_little_around_it_and_nothing_of_its_neighbours() -> None:
    take = lesson([*notes(1.0), *notes(8.0)], (3.5, 7.8), seconds=10.9)
    assert to_cut(take) == (
        (pytest.approx(0.55), pytest.approx(3.5)),
        (pytest.approx(7.8), pytest.approx(10.9)),
    )
    apart = lesson([*notes(1.0), *notes(12.0)], (6.0, 8.0))
    assert to_cut(apart) == (
        (pytest.approx(0.55), pytest.approx(4.2)),
        (pytest.approx(11.55), pytest.approx(15.2)),
    )
    rings = lesson([*notes(0.2), *notes(5.0)], (2.2, 4.0))
    assert to_cut(rings)[0] == (0.0, pytest.approx(2.5)), "a note is never cut short"
