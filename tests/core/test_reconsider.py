"""Poor matches looked at again: what else was heard there, and nothing that was not."""

from __future__ import annotations

from dataclasses import replace

import pytest

from builders import segment
from jigwright.core.follow.align import line_up
from jigwright.core.follow.doubts import decide
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.reconsider import fit_of, reconsidered
from jigwright.core.follow.scraps import common_multiple
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.sound.heard import Segment

A4 = 440.0
D5, E5, F5, G5, CIS5 = 587.33, 659.26, 698.46, 783.99, 554.37


def jig_of(words: str) -> Jig:
    return jig_from_line(words, jig_id="j", instrument_id="violin", title="j", tempo_bpm=120.0)


def note(f0_hz: float, onset_s: float, seconds: float, **more: object) -> Segment:
    one = segment(f0_hz, onset_s, seconds=seconds)
    middle_s = onset_s + 0.5 * seconds
    one = replace(one, core_start_s=min(one.core_start_s, middle_s),
                  core_end_s=max(one.core_end_s, middle_s), attack_db=3.0)  # fmt: skip
    return replace(one, **more)  # type: ignore[arg-type]


def states(words: str, sure: list[Segment], doubtful: list[Segment]) -> list[tuple[str, float]]:
    """State and onset of each row, after looking again."""
    jig = jig_of(words)
    found, at = reconsidered(sure, doubtful, jig, a4_hz=A4)
    for i, k in at.items():
        assert found[k].onset_s == sure[i].onset_s
    lined = line_up(found, jig, a4_hz=A4, params=FollowParams())
    return [(r.state, found[r.segments[0]].onset_s if r.segments else -1.0) for r in lined.notes]


# what fits ----------------------------------------------------------------------------------


@pytest.mark.parametrize(("by", "fits"), [(64, True), (-64, True), (66, False), (-66, False)])
def test_a_note_fits_at_its_pitch(by: float, fits: bool) -> None:
    jig = jig_of("D5 E5 F5 G5")
    found = [note(D5, 0, 0.5), note(E5 * 2 ** (by / 1200), 0.5, 0.5), note(F5, 1, 0.5),
             note(G5, 1.5, 0.5)]  # fmt: skip
    lined = line_up(found, jig, a4_hz=A4, params=FollowParams())
    got = fit_of(replace(lined, offset_cents=0.0), found, jig, a4_hz=A4)
    assert (got.n_fit, got.poor) == ((4, ()) if fits else (3, (1,)))


@pytest.mark.parametrize(("seconds", "fits"), [(0.11, False), (0.13, True)])
def test_a_scrap_does_not_fit(seconds: float, fits: bool) -> None:
    jig = jig_of("D5 E5 F5 G5")
    found = [note(D5, 0, 0.5), note(E5, 0.5, seconds), note(F5, 1, 0.5), note(G5, 1.5, 0.5)]
    lined = line_up(found, jig, a4_hz=A4, params=FollowParams())
    assert fit_of(lined, found, jig, a4_hz=A4).n_fit == (4 if fits else 3)


def test_short_notes_are_no_scraps_where_short_ones_are_written() -> None:
    jig = jig_of("D5:1/4 E5:1/4 F5:1/4 G5:1/4")
    found = [note(f, 0.125 * i, 0.1) for i, f in enumerate((D5, E5, F5, G5))]
    lined = line_up(found, jig, a4_hz=A4, params=FollowParams())
    assert fit_of(lined, found, jig, a4_hz=A4).n_fit == 4


# a repeat that a room hides ----------------------------------------------------------------


def test_the_next_note_is_not_a_wrong_repeat() -> None:
    sure = [note(E5, 0, 0.5), note(D5, 0.5, 1.0), note(CIS5, 1.5, 0.5),
            note(CIS5, 2.0, 0.14, attack_db=13.0), note(E5, 2.14, 0.5)]  # fmt: skip
    # as long as both, one tone may hide the other D: the C sharp is itself, and played twice
    assert states("E5 D5 D5 C#5 E5", sure, [])[2:4] == [("uncertain", -1.0), ("played", 1.5)]
    maybe = [note(D5, 1.0, 0.5, doubtful=True)]
    jig = jig_of("E5 D5 D5 C#5 E5")
    found, _ = decide(sure, maybe, jig, a4_hz=A4)
    rows = line_up(found, jig, a4_hz=A4, params=FollowParams()).notes
    assert [(r.i_event, found[r.segments[0]].onset_s) for r in rows][:4] == [
        (0, 0), (1, 0.5), (2, 1.0), (3, 1.5),
    ]  # fmt: skip


def test_a_scrap_is_not_a_repeat_where_one_was_heard_to_begin() -> None:
    sure = [note(D5, 0, 0.5), note(E5, 0.5, 1.0), note(E5, 1.7, 0.05, level_dbfs=-48.0)]
    maybe = [note(E5, 1.0, 0.5, doubtful=True)]
    rows = states("D5 E5 E5", sure, maybe)
    assert rows[:3] == [("played", 0), ("played", 0.5), ("played", 1.0)]
    assert [state for state, _ in rows[3:]] == ["extra"]


def test_what_was_not_heard_to_begin_is_not_put_in() -> None:
    sure = [note(E5, 0, 0.5), note(D5, 0.5, 1.0), note(CIS5, 1.5, 0.5), note(E5, 2.0, 0.5)]
    found, at = reconsidered(sure, [], jig_of("E5 D5 D5 C#5 E5"), a4_hz=A4)
    assert found == tuple(sure)
    assert at == {0: 0, 1: 1, 2: 2, 3: 3}


def test_a_doubt_of_another_pitch_is_not_taken() -> None:
    sure = [note(E5, 0, 0.5), note(D5, 0.5, 1.0), note(CIS5, 1.5, 0.5), note(E5, 2.0, 0.5)]
    maybe = [note(G5, 1.0, 0.5, doubtful=True)]
    assert reconsidered(sure, maybe, jig_of("E5 D5 D5 C#5 E5"), a4_hz=A4)[0] == tuple(sure)


def test_a_scrap_is_not_let_go_for_nothing() -> None:
    sure = [note(D5, 0, 0.5), note(E5, 0.6, 0.1), note(F5, 1.0, 0.5), note(G5, 1.5, 0.5)]
    found, _ = reconsidered(sure, [], jig_of("D5 E5 F5 G5"), a4_hz=A4)
    assert found == tuple(sure)


def test_a_wrong_note_stays_wrong() -> None:
    sure = [note(D5, 0, 0.5), note(G5, 0.5, 0.5), note(F5, 1.0, 0.5), note(G5, 1.5, 0.5)]
    maybe = [note(D5, 0.25, 0.25, doubtful=True)]
    found, _ = reconsidered(sure, maybe, jig_of("D5 E5 F5 G5"), a4_hz=A4)
    assert found == tuple(sure)


# the note before that goes on ----------------------------------------------------------------


@pytest.mark.parametrize(
    ("by", "gap_s", "attack_db", "joined"),
    [
        (44, 0.0, 3.0, True),
        (46, 0.0, 3.0, False),
        (0, 0.045, 3.0, True),
        (0, 0.055, 3.0, False),
        (0, 0.0, 11.5, True),
        (0, 0.0, 12.5, False),
    ],
)
def test_what_goes_on_with_the_note_before_is_no_wrong_note(
    by: float, gap_s: float, attack_db: float, joined: bool
) -> None:
    again = note(F5 * 2 ** (by / 1200), 0.5 + gap_s, 0.3, attack_db=attack_db)
    sure = [note(F5, 0, 0.5), again, note(D5, 1.0, 0.5), note(E5, 1.5, 0.5), note(G5, 2.0, 0.5)]
    found, _ = reconsidered(sure, [], jig_of("F5 E5 D5 E5 G5"), a4_hz=A4)
    assert (len(found) == 4) is joined
    if joined:
        assert found[0].offset_s == pytest.approx(again.offset_s)


# the common period of two notes ---------------------------------------------------------------


def test_a_phantom_root_is_the_written_note() -> None:
    sure = [note(A4, 0, 0.5), note(A4 / 2, 0.5, 0.2, uncertainty_cents=5.0), note(D5, 1.0, 0.5),
            note(A4, 1.5, 0.5)]  # fmt: skip
    found, _ = reconsidered(sure, [], jig_of("A4 E5 D5 A4"), a4_hz=A4)
    assert found[1].f0_hz == pytest.approx(3 * A4 / 2)
    assert found[1].uncertainty_cents == pytest.approx(7.81, abs=0.01)


def test_without_the_note_that_rings_it_is_none() -> None:
    sure = [note(F5, 0, 0.5), note(A4 / 2, 0.5, 0.2), note(D5, 1.0, 0.5), note(A4, 1.5, 0.5)]
    found, _ = reconsidered(sure, [], jig_of("F5 E5 D5 A4"), a4_hz=A4)
    assert found == tuple(sure)


def test_the_root_of_a_note_and_of_the_one_written_after_it_is_no_octave() -> None:
    # C6 : F5 is 3 : 2, and their root F4 is what a mixture of both sounds like
    sure = [note(D5, 0, 0.5), note(F5 / 2, 0.5, 0.4, uncertainty_cents=3.0), note(E5, 1.0, 0.5),
            note(G5, 1.5, 0.5)]  # fmt: skip
    found, _ = reconsidered(sure, [], jig_of("D5 F5 C6 E5 G5"), a4_hz=A4)
    assert found[1].f0_hz == pytest.approx(F5)
    found, _ = reconsidered(sure, [], jig_of("D5 F5 E5 G5"), a4_hz=A4)
    assert found[1].f0_hz == pytest.approx(F5 / 2)


def test_a_mixture_before_a_note_that_is_there_is_let_go() -> None:
    # D and A over it: their root an octave below the D, then the A itself, shorter
    sure = [note(D5, 0, 0.5), note(D5 / 2 * 2 ** (20 / 1200), 0.5, 0.2),
            note(3 * D5 / 2, 0.7, 0.14), note(E5, 1.0, 0.5), note(G5, 1.5, 0.5)]  # fmt: skip
    jig = jig_of("D5 A5 E5 G5")
    found, _ = reconsidered(sure, [], jig, a4_hz=A4)
    lined = line_up(found, jig, a4_hz=A4, params=FollowParams())
    assert [r.state for r in lined.notes] == ["played"] * 4
    last = found[lined.notes[1].segments[-1]]
    assert last.f0_hz == pytest.approx(3 * D5 / 2)


@pytest.mark.parametrize(
    ("ratio", "by", "whole"),
    [(2, 0, 2), (3, 39, 3), (3, 41, None), (4, -39, 4), (5, 0, None), (1, 0, None)],
)
def test_common_multiples(ratio: int, by: float, whole: int | None) -> None:
    assert common_multiple(100.0, 100.0 * ratio * 2 ** (by / 1200)) == whole


@pytest.mark.parametrize(("stretch", "n_fit"), [(1.0, 4), (2.0, 3)])
def test_what_is_short_is_held_against_the_pace_of_the_take(stretch: float, n_fit: int) -> None:
    jig = jig_of("D5:1/2 E5:1/2 F5:1/2 G5:1/2")  # a quarter of a second each
    short = note(E5, 0.25 * stretch, 0.1)
    others = [(D5, 0), (F5, 0.5), (G5, 0.75)]
    found = [note(f, at * stretch, 0.24 * stretch) for f, at in others]
    found.insert(1, short)
    lined = line_up(found, jig, a4_hz=A4, params=FollowParams())
    assert fit_of(lined, found, jig, a4_hz=A4).n_fit == n_fit
