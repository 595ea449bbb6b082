"""Bars that move alike, at any height, and where they differ."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Change, Jig
from jigwright.core.jig.parallels import Parallel, parallels

A = "D4:1/2 E4 F#4 G4 A4 G4 F#4 E4"
OTHER = (
    "B4:2 A4",
    "G4:1 D4 G4 D4",
    "E5:3 D5:1",
    "C5:1/2 C5 C5 C5 C5 C5 C5 C5",
    "A4:4",
    "F#4:3/2 D4:5/2",
)


def piece(*bars: str) -> Jig:
    return jig_from_line(" ".join(f":1 {b}" if b.startswith(":") else _reset(b) for b in bars),
                         jig_id="j", instrument_id="violin", title="t")  # fmt: skip


def _reset(bar: str) -> str:
    """A bar whose first note says its length, so that bars do not hang together."""
    words = bar.split()
    if ":" not in words[0]:
        words[0] += ":1"
    return " ".join(words)


def rows(jig: Jig) -> list[tuple[int, int, int, int, tuple[int, ...]]]:
    return [(p.first, p.second, p.n_bars, p.steps, p.differ) for p in parallels(jig)]


def test_the_same_bars_again_are_found_with_their_bars() -> None:
    jig = piece(A, OTHER[0], OTHER[2], A, OTHER[0])
    assert rows(jig) == [(0, 3, 2, 0, ())]
    assert parallels(jig)[0].n_notes == 10


def test_a_step_higher_is_alike_and_says_how_far() -> None:
    higher = "E4:1/2 F#4 G4 A4 B4 A4 G4 F#4"
    found = parallels(piece(A, OTHER[4], higher))
    assert [(p.first, p.second, p.steps, p.semitones) for p in found] == [(0, 2, 1, 2)]


def test_one_bar_that_differs_inside_is_named_and_two_end_the_place() -> None:
    jig = piece(A, OTHER[0], A, A, OTHER[2], A)
    assert (0, 3, 3, 0, (1,)) in rows(jig)
    two = piece(A, OTHER[0], OTHER[2], A, OTHER[4], A, OTHER[1], OTHER[5], A, OTHER[3])
    assert all(not p.differ or len(p.differ) == 1 for p in parallels(two))


def test_a_place_inside_a_longer_one_is_not_said_again() -> None:
    jig = piece(A, OTHER[3], OTHER[0], A, OTHER[3], OTHER[0])
    assert rows(jig)[0] == (0, 3, 3, 0, ())
    assert len([p for p in parallels(jig) if p.first in (0, 1, 2) and p.second - p.first == 3]) == 1


def test_three_times_is_three_pairs() -> None:
    jig = piece(A, OTHER[0], A, OTHER[2], A)
    assert {(p.first, p.second) for p in parallels(jig)} == {(0, 2), (0, 4), (2, 4)}


def test_other_rhythm_other_intervals_and_too_few_notes_are_not_alike() -> None:
    assert rows(piece(A, "D4:1/2 E4 F#4 G4 A4 G4 F#4:1")) == []
    assert rows(piece(A, "D4:1/2 F#4 F#4 G4 A4 G4 F#4 E4")) == []
    seven, eight = "D4:1 E4:1/2 F#4 G4 A4 G4 F#4", A
    assert rows(piece(seven, OTHER[4], seven)) == []  # a figure, not a place
    assert rows(piece(eight, OTHER[4], eight)) != []
    two = (OTHER[1], OTHER[4])  # five notes in two bars
    assert rows(piece(*two, OTHER[0], *two)) == [(0, 3, 2, 0, ())]
    few = (OTHER[0], OTHER[2])  # four
    assert rows(piece(*few, OTHER[5], *few)) == []


def test_bars_of_rest_belong_to_a_place_but_make_none() -> None:
    jig = piece(A, "r:4", A, "B4:4", A, "r:4", A)
    assert (0, 4, 3, 0, ()) in rows(jig)
    assert rows(piece("r:4", "r:4", "D4:4")) == []


def test_a_rest_against_notes_is_a_difference_and_parts_of_places_are_not_said_twice() -> None:
    jig = piece(A, "r:4", A, OTHER[5], A, OTHER[0], A)
    assert (0, 4, 3, 0, (1,)) in rows(jig)
    twice = piece(A, OTHER[3], A, OTHER[3], A, OTHER[3])
    found = rows(twice)
    assert (0, 2, 2, 0, ()) in found
    assert (1, 3, 1, 0, ()) not in found  # inside the first


def test_an_octave_in_chords_counts_every_note() -> None:
    one = "G3+D4:1/2 A3+E4 B3+F#4 C4+G4 D4+A4 C4+G4 B3+F#4 A3+E4"
    assert rows(piece(one, OTHER[4], one)) != []
    assert rows(piece(one, OTHER[4], one.replace("C4+G4 D4", "C4+A4 D4"))) == []


def test_a_short_bar_shifts_nothing() -> None:
    jig = piece(A, "B4:2", A)
    split = replace(jig, changes=(Change(at_beats=Fraction(4), bar_beats=Fraction(2)),))
    assert rows(split) == [(0, 2, 1, 0, ())]


def test_four_hundred_bars_take_a_moment_only() -> None:
    jig = piece(*[A, *OTHER] * 57)
    assert isinstance(parallels(jig)[0], Parallel)


def test_pairs_are_said_with_bars_height_and_difference() -> None:
    from jigwright.wording.writing import parallel_sentence

    bars = piece(A, A, A, A, A, A).bars()
    one = Parallel(first=0, second=3, n_bars=3, steps=1, semitones=2, n_notes=9, differ=(1,))
    assert parallel_sentence(one, bars) == (
        "Bars 1–3 and 4–6 move alike, 1 step higher; bar 5 differs."
    )
    plain = replace(one, n_bars=1, steps=0, differ=())
    assert parallel_sentence(plain, bars) == "Bars 1 and 4 move alike."
    assert "2 steps lower" in parallel_sentence(replace(plain, steps=-2), bars)


def test_the_tools_make_a_spot_of_each_place_with_its_own_bar_numbers() -> None:
    from jigwright.ui.viewmodels.jigs import jig_tools

    jig = piece(A, OTHER[0], OTHER[2], A, OTHER[0])
    made = jig_tools.parallel(jig, None)
    assert made.said == "Bars 1–2 and 4–5 move alike."
    assert [[b.number for b in j.bars()] for j in made.jigs] == [[1, 2], [4, 5]]
    assert jig_tools.parallel(piece(A), None).jigs == ()
    assert jig_tools.bars_spot(piece("r:4", A), 0, 0).jigs == ()
    many = jig_tools.parallel(piece(*[A] * 5), None)
    assert many.said.count("move alike") == 4
    assert "more pair" in many.said
