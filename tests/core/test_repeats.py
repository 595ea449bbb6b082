"""One pitch written several times: pieces of a note that broke belong to that note."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.follow.align import line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.repeats import share_runs
from jigwright.core.jig.line import jig_from_line
from jigwright.core.sound.heard import Segment

FOUR = jig_from_line("D4:4 D4:4 D4:4 D4:4", jig_id="j", instrument_id="violin", title="j")
HZ = 293.66


def pieces(*spans: tuple[float, float], attack_db: float = 6.0) -> list[Segment]:
    return [replace(segment(HZ, a, seconds=b - a), attack_db=attack_db) for a, b in spans]


def shared(*spans: tuple[float, float], jig=FOUR, path=None, each_s: float = 4.0):
    segments = pieces(*spans)
    path = path if path is not None else [min(i, 3) for i in range(len(segments))]
    return share_runs(path, segments, jig, np.full(len(jig.events), each_s))


def test_the_pieces_of_a_long_note_are_one() -> None:
    path, parts = shared((0, 4), (4, 6), (6, 8), (8, 12), (12, 16))
    assert path == [0, 1, 1, 2, 3]
    assert parts == {2}
    path, parts = shared((0, 4), (4, 8), (8, 9), (9, 10), (10, 12), (12, 16))
    assert path == [0, 1, 2, 2, 2, 3]
    assert parts == {3, 4}


def test_pieces_do_not_make_the_take_look_hurried() -> None:
    """One stroke in seven pieces: the typical piece is short, the strokes are not."""
    cuts = [4 + 4 * k / 7 for k in range(8)]
    spans = [(0, 4), *zip(cuts, cuts[1:], strict=False), (8, 12), (12, 16)]
    path, parts = shared(*spans, each_s=2.0)
    assert path == [0, *[1] * 7, 2, 3]
    assert parts == set(range(2, 8))


def test_as_many_or_fewer_pieces_than_notes_stay_as_they_are() -> None:
    assert shared((0, 4), (4, 8), (8, 12), (12, 16)) == ([0, 1, 2, 3], set())
    assert shared((0, 8), (8, 12), path=[0, 2]) == ([0, 2], set())


def test_whole_notes_played_again_are_no_pieces() -> None:
    five = ((0, 4), (4, 8), (8, 12), (12, 16), (16, 20))
    assert shared(*five, path=[0, 0, 1, 2, 3]) == ([0, 0, 1, 2, 3], set())


@pytest.mark.parametrize(("gap_s", "n"), [(0.34, 1), (0.36, 0)])
def test_a_silence_ends_a_note(gap_s: float, n: int) -> None:
    _, parts = shared((0, 4), (4, 6), (6 + gap_s, 8), (8, 12), (12, 16))
    assert len(parts) == n


@pytest.mark.parametrize(("third_s", "n"), [(2.39, 0), (2.41, 1)])
def test_what_is_much_too_short_is_no_note(third_s: float, n: int) -> None:
    """A stroke in the middle so short that it may be one, or not."""
    _, parts = shared((0, 4), (4, 6), (6, 8), (8, 8 + third_s), (9, 13))
    assert len(parts) == n


@pytest.mark.parametrize(("cut_s", "n"), [(1.19, 0), (1.21, 1)])
def test_the_first_and_the_last_stroke_may_be_cut_off(cut_s: float, n: int) -> None:
    _, first = shared((4 - cut_s, 4), (4, 6), (6, 8), (8, 12), (12, 16))
    _, last = shared((0, 4), (4, 6), (6, 8), (8, 12), (12, 12 + cut_s))
    assert len(first) == len(last) == n
    between = jig_from_line(
        "E4 D4:4 D4:4 E4", jig_id="j", instrument_id="violin", title="j"
    )  # inside a piece a stroke begins and ends where the others do
    segments = pieces((0, 1), (1, 1 + cut_s), (4, 6), (6, 8), (8, 9))
    found = share_runs([0, 1, 2, 2, 3], segments, between, np.array([1.0, 4.0, 4.0, 1.0]))
    assert found[1] == set()


@pytest.mark.parametrize(("end_s", "n"), [(5.9, 1), (6.1, 0)])
def test_what_is_much_too_long_is_no_single_note(end_s: float, n: int) -> None:
    one = jig_from_line("D4:4 D4:4 E4", jig_id="j", instrument_id="violin", title="j")
    _, parts = shared((0, 4), (4, 7), (7, 4 + end_s), jig=one, path=[0, 1, 1])
    assert len(parts) == n


def test_a_harder_attack_is_a_likelier_beginning() -> None:
    two = jig_from_line("D4:4 D4:4", jig_id="j", instrument_id="violin", title="j")
    segments = pieces((0, 3), (3, 5), (5, 8))
    for hard, expected in ((1, [0, 1, 1]), (2, [0, 0, 1])):
        struck = [replace(s, attack_db=30.0 if i == hard else 0.0) for i, s in enumerate(segments)]
        assert share_runs([0, 1, 1], struck, two, np.full(2, 4.0))[0] == expected


@pytest.mark.parametrize(("cents", "n"), [(59.0, 2), (61.0, 0)])
def test_scraps_between_belong_to_it_where_they_have_its_pitch(cents: float, n: int) -> None:
    path = [0, 1, -1, 1, 2, 3]
    segments = pieces((0, 4), (4, 6), (6, 6.2), (6.2, 8), (8, 12), (12, 16))
    segments[2] = replace(segments[2], f0_hz=HZ * 2 ** (cents / 1200))
    shared_path, parts = share_runs(path, segments, FOUR, np.full(4, 4.0))
    assert len(parts) == n
    assert shared_path == ([0, 1, 1, 1, 2, 3] if n else path)


def test_a_take_with_a_broken_stroke_has_its_strokes() -> None:
    segments = pieces((0.5, 4.5), (4.5, 8.5), (8.5, 10.3), (10.34, 12.5), (12.5, 16.5))
    lined = line_up(segments, FOUR, a4_hz=440.0, params=FollowParams())
    assert [n.state for n in lined.notes] == ["played"] * 4
    assert lined.notes[2].segments == (2, 3)
