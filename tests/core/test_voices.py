"""Voices as one row of events, strokes and the slurs they tell."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.jig.model import Event, Notehead
from jigwright.core.jig.voices import (
    drawn_slurs,
    slices,
    strokes,
    told_slurs,
    untold_slurs,
)
from jigwright.core.music.pitch import Pitch


@dataclass(frozen=True)
class Tone:
    onset: Fraction
    end: Fraction


def tone(onset: float, end: float) -> Tone:
    return Tone(Fraction(onset), Fraction(end))


def cut(*tones: Tone) -> list[tuple[float, float, int, int]]:
    return [(float(s.onset), float(s.end), len(s.new), len(s.held)) for s in slices(tones)]


def test_one_voice_is_cut_nowhere_and_rests_stay() -> None:
    assert cut(tone(0, 1), tone(2, 3)) == [(0, 1, 1, 0), (2, 3, 1, 0)]


def test_a_long_note_is_held_under_the_next_beginning() -> None:
    assert cut(tone(0, 4), tone(0, 2), tone(2, 4)) == [(0, 2, 2, 0), (2, 4, 1, 1)]


def test_an_end_alone_cuts_nothing_and_touching_notes_are_not_held() -> None:
    assert cut(tone(0, 4), tone(0, 1)) == [(0, 4, 2, 0)]
    assert cut(tone(0, 2), tone(2, 4)) == [(0, 2, 1, 0), (2, 4, 1, 0)]
    assert cut(tone(0, 3), tone(1, 2), tone(5, 6)) == [(0, 1, 1, 0), (1, 3, 1, 1), (5, 6, 1, 0)]


@given(st.lists(st.tuples(st.integers(0, 20), st.integers(1, 8)), min_size=1, max_size=30))
def test_slices_are_in_order_and_hold_every_note_once(rows) -> None:
    tones = [tone(a, a + n) for a, n in rows]
    got = list(slices(tones))
    assert sum(len(s.new) for s in got) == len(tones)
    assert all(a.end <= b.onset for a, b in zip(got, got[1:], strict=False))
    for piece in got:
        assert all(t.onset == piece.onset for t in piece.new)
        assert all(t.onset < piece.onset < t.end for t in piece.held)
        assert piece.end <= max(t.end for t in (*piece.new, *piece.held))


def event(i: int, bow: str | None = None, *, at: int | None = None, pluck: bool = False,
          held: bool = False) -> Event:  # fmt: skip
    heads = [Notehead(id=f"n{i}", pitch=Pitch("D", 0, 4))]
    if held:
        heads.append(Notehead(id=f"m{i}", pitch=Pitch("A", 0, 4), held=True))
    return Event(
        id=f"e{i}", onset_beats=Fraction(i if at is None else at), length_beats=Fraction(1),
        heads=tuple(heads), bow=bow, pluck=pluck,  # type: ignore[arg-type]
    )  # fmt: skip


def test_strokes_end_at_directions_rests_and_plucked_notes() -> None:
    assert strokes([event(0, "down"), event(1), event(2, "up")]) == [(0, 1), (2, 2)]
    assert strokes([event(0, "down"), event(1, at=2)]) == [(0, 0), (1, 1)]
    assert strokes([event(0, "down"), event(1, pluck=True), event(2)]) == [(0, 0), (1, 1), (2, 2)]


def test_a_stroke_that_only_a_held_note_carries_on_tells_no_slur() -> None:
    row = [event(0, "down"), event(1, held=True), event(2, held=True)]
    assert strokes(row) == [(0, 2)]
    assert told_slurs(row) == []
    assert told_slurs([*row, event(3)]) == [(0, 3)]


ROW = [event(0, "down"), event(1), event(2, "up"), event(3), event(4, "down")]


@pytest.mark.parametrize(
    ("written", "expected"),
    [
        ([], [(0, 1), (2, 3)]),
        ([(0, 3)], [(0, 3)]),  # over both strokes
        ([(1, 2)], [(1, 2), (2, 3)]),  # begins inside the first
        ([(1, 4)], [(1, 4)]),  # begins inside the first, goes over the second
        ([(4, 4)], [(0, 1), (2, 3), (4, 4)]),
    ],
)
def test_written_slurs_take_the_place_of_those_the_strokes_tell(written, expected) -> None:
    got = drawn_slurs(ROW, [(Fraction(a), Fraction(b)) for a, b in written])
    assert got == [(Fraction(a), Fraction(b)) for a, b in expected]


def test_a_slur_from_graces_takes_the_place_of_the_strokes_own_only_if_it_lasts() -> None:
    assert drawn_slurs(ROW, [], [(Fraction(0), Fraction(1))]) == [(2, 3)]
    assert drawn_slurs(ROW, [], [(Fraction(0), Fraction(0))]) == [(0, 1), (2, 3)]
    assert untold_slurs(ROW, [(Fraction(0), Fraction(1))], [(Fraction(0), Fraction(1))]) == [(0, 1)]


@given(
    st.lists(
        st.tuples(st.integers(0, 4), st.integers(0, 4)).filter(lambda s: s[0] < s[1]), max_size=5
    )
)
def test_what_is_not_told_is_enough_to_draw_all_that_was_written(pairs) -> None:
    """Strokes follow the slurs, as they do when a score is read."""
    reach = [any(a < i <= b for a, b in pairs) for i in range(5)]
    row = [event(i, None if reach[i] else "down") for i in range(5)]
    written = sorted((Fraction(a), Fraction(b)) for a, b in pairs)
    assert drawn_slurs(row, untold_slurs(row, written)) == written


ANY_SLURS = st.lists(
    st.tuples(st.integers(0, 5), st.integers(0, 5)).map(lambda p: (min(p), max(p))), max_size=9
)


@given(ANY_SLURS, ANY_SLURS)
def test_slurs_are_hidden_as_the_words_say(written, graces) -> None:
    slurs = [(Fraction(a), Fraction(b)) for a, b in written]
    others = slurs + [(Fraction(a), Fraction(b)) for a, b in graces if a < b]
    told = [(Fraction(0), Fraction(1)), (Fraction(2), Fraction(3))]

    def over(stroke, among) -> bool:
        first, last = stroke
        return any(first <= a <= last or (a <= first and b >= last) for a, b in among)

    own = [s for s in told if not over(s, others)]
    assert drawn_slurs(ROW, slurs, [(Fraction(a), Fraction(b)) for a, b in graces]) == sorted(
        [*own, *slurs]
    )

    def alone(slur) -> bool:
        rest = list(others)
        rest.remove(slur)
        return slur in told and not over(slur, rest)

    kept = [s for s in slurs if not alone(s)]
    assert untold_slurs(ROW, slurs, [(Fraction(a), Fraction(b)) for a, b in graces]) == kept
