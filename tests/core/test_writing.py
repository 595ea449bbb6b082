"""Writing a piece: its head, marks, hairpins, words, repeats, ties, tuplets, copies."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from jigwright.core.errors import JigError
from jigwright.core.jig import edit, writing
from jigwright.core.jig.aims import Aim
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.jig.signs import Sign
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass

F = Fraction
D = Key(PitchClass("D"))


def line(text: str = "D4 E4 F#4 G4 A4 B4 C#5 D5") -> Jig:
    return jig_from_line(text, jig_id="j", instrument_id="violin", title="t")


def signs_of(jig: Jig, kind: str) -> list[tuple[Fraction, Fraction | None, str]]:
    return [(s.at_beats, s.end_beats, s.text) for s in jig.signs if s.kind == kind]


def test_a_new_piece_is_four_bars_of_rest_with_its_head() -> None:
    made = writing.new_piece(
        jig_id="n", title="Harbour tune", instrument_id="cello", key=D, metre=(6, 8),
        tempo_bpm=72.0, pickup_beats=F(1, 2),
    )  # fmt: skip
    assert made.events == ()
    assert [(b.number, b.length_beats) for b in made.bars()] == [
        (0, F(1, 2)), (1, 3), (2, 3), (3, 3), (4, 3)
    ]  # fmt: skip
    assert (made.title, made.instrument_id, made.key, made.tempo_bpm) == (
        "Harbour tune", "cello", D, 72.0
    )  # fmt: skip


def test_notes_written_into_it_take_the_place_of_the_rests() -> None:
    made = writing.new_piece(jig_id="n", title="t", instrument_id="violin", key=D)
    one = edit.insert_note(made, -1, Pitch("D", 0, 4), F(2))
    assert (one.length_beats, one.silence_beats, len(one.bars())) == (2, 14, 4)
    two = edit.insert_note(one, 0, Pitch("E", 0, 4))
    assert [(e.onset_beats, e.length_beats) for e in two.events] == [(0, 2), (2, 2)]
    assert two.silence_beats == 12
    between = edit.insert_note(two, 0, Pitch("F", 1, 4))
    assert between.silence_beats == 12
    long = edit.insert_note(replace(two, silence_beats=F(1)), 1, Pitch("G", 0, 4), F(4))
    assert long.silence_beats == 0


def test_the_head_changes_and_the_notes_stay() -> None:
    jig = line()
    made = writing.with_head(jig, title="other", key=D, metre=(3, 4), tempo_bpm=99.0,
                             pickup_beats=F(1))  # fmt: skip
    assert made.events == jig.events
    assert (made.title, made.key, made.tempo_bpm) == ("other", D, 99.0)
    assert [b.length_beats for b in made.bars()] == [1, 3, 3, 3]


def test_a_pick_up_is_shorter_than_a_bar() -> None:
    assert writing.with_head(line(), pickup_beats=F(7, 2)).pickup_beats == F(7, 2)
    with pytest.raises(JigError, match="shorter than a bar"):
        writing.with_head(line(), pickup_beats=F(4))
    upbeat = writing.with_head(line(), pickup_beats=F(3))
    assert writing.with_head(upbeat, metre=(2, 4)).pickup_beats == 0
    with pytest.raises(JigError):
        writing.with_head(line(), tempo_bpm=9.0)


def test_a_mark_goes_over_all_chosen_notes_and_off_again() -> None:
    jig = writing.toggle_mark(line(), 1, 2, "fermata")
    assert [e.marks for e in jig.events[:4]] == [(), ("fermata",), ("fermata",), ()]
    more = writing.toggle_mark(jig, 2, 3, "accent")
    assert [e.marks for e in more.events[:4]] == [
        (), ("fermata",), ("accent", "fermata"), ("accent",)
    ]  # fmt: skip
    off = writing.toggle_mark(more, 2, 3, "accent")
    assert [e.marks for e in off.events[:4]] == [(), ("fermata",), ("fermata",), ()]


def test_hairpins_lie_over_what_is_chosen_and_replace_each_other() -> None:
    grow = writing.hairpin(line(), 1, 3, "crescendo")
    assert signs_of(grow, "hairpin") == [(1, 4, "crescendo")]
    beside = writing.hairpin(grow, 4, 5, "diminuendo")
    assert len(signs_of(beside, "hairpin")) == 2
    over = writing.hairpin(beside, 3, 4, "diminuendo")
    assert signs_of(over, "hairpin") == [(3, 5, "diminuendo")]
    assert signs_of(writing.hairpin(grow, 1, 3, "crescendo"), "hairpin") == []
    with pytest.raises(JigError):
        writing.hairpin(grow, 0, 1, "louder")


def test_words_stand_at_a_note_and_replace_each_other() -> None:
    jig = writing.write_words(line(), 2, "  sul\n D ")
    assert signs_of(jig, "words") == [(2, None, "sul D")]
    assert writing.words_at(jig, 2) == "sul D"
    assert writing.words_at(jig, 3) == ""
    other = writing.write_words(writing.write_words(jig, 3, "x"), 2, "dolce", above=False)
    assert [(s.at_beats, s.text, s.above) for s in other.signs] == [
        (2, "dolce", False), (3, "x", True)
    ]  # fmt: skip
    assert signs_of(writing.write_words(other, 2, " "), "words") == [(3, None, "x")]


def test_repeats_go_around_whole_bars_and_off_again() -> None:
    jig = writing.repeated(line(), 1, 2)
    assert signs_of(jig, "repeat") == [(0, None, "forward"), (4, None, "backward")]
    both = writing.repeated(line(), 3, 4)
    assert signs_of(both, "repeat") == [(0, None, "forward"), (8, None, "backward")]
    assert signs_of(writing.repeated(jig, 0, 0), "repeat") == []


def test_a_tie_makes_one_note_of_several() -> None:
    jig = line("D4 E4 E4 E4 G4")
    jig = replace(jig, aims=(Aim(kind="pitch", places=(jig.events[2].id, jig.events[4].id)),))
    made = writing.tied(jig, 1, 3)
    assert [(e.onset_beats, e.length_beats) for e in made.events] == [(0, 1), (1, 3), (4, 1)]
    assert made.aims[0].places == (jig.events[4].id,)
    only = replace(jig, aims=(Aim(kind="pitch", places=(jig.events[2].id,)),))
    assert writing.tied(only, 1, 3).aims == ()


@pytest.mark.parametrize("span", [(0, 1), (1, 1)])
def test_a_tie_needs_two_notes_of_one_pitch(span) -> None:
    with pytest.raises(JigError):
        writing.tied(line("D4 E4 E4"), *span)


def test_a_tie_needs_notes_that_follow_each_other() -> None:
    with pytest.raises(JigError):
        writing.tied(line("D4 r:1 D4"), 0, 1)


@pytest.mark.parametrize(("size", "factor"), [(3, F(2, 3)), (5, F(4, 5)), (7, F(4, 7))])
def test_tuplets_shorten_notes_together_and_pull_the_rest_along(size, factor) -> None:
    jig = replace(line(), signs=(Sign(kind="words", at_beats=F(7), text="x"),))
    made = writing.as_tuplet(jig, 0, size - 1, size)
    assert [e.length_beats for e in made.events] == [factor] * size + [F(1)] * (8 - size)
    assert made.events[size].onset_beats == size * factor
    assert made.signs[0].at_beats == 7 - size * (1 - factor)
    assert all(a.end_beats == b.onset_beats for a, b in zip(made.events, made.events[1:],
                                                            strict=False))  # fmt: skip


def test_no_tuplet_of_four_and_none_too_short() -> None:
    with pytest.raises(JigError, match="no tuplet"):
        writing.as_tuplet(line(), 0, 3, 4)
    with pytest.raises(JigError, match="at least"):
        writing.as_tuplet(_tiny(line()), 0, 2, 3)


def _tiny(jig: Jig) -> Jig:
    """The first three notes as short as the model allows, and shorter than the writer does."""
    events = tuple(
        replace(e, onset_beats=F(k, 32), length_beats=F(1, 32)) if k < 3 else e
        for k, e in enumerate(jig.events)
    )
    return replace(jig, events=events)


def test_copied_bars_bring_their_marks_and_get_names_of_their_own() -> None:
    jig = writing.hairpin(writing.toggle_mark(line(), 1, 1, "accent"), 1, 2, "crescendo")
    piece = writing.copied(jig, 1, 2)
    assert [e.onset_beats for e in piece.events] == [0, 1]
    made = writing.pasted(jig, 7, piece)
    assert [str(e.heads[0].pitch) for e in made.events[-2:]] == ["E4", "F#4"]
    assert made.events[-2].marks == ("accent",)
    assert signs_of(made, "hairpin") == [(1, 3, "crescendo"), (8, 10, "crescendo")]
    ids = [e.id for e in made.events] + [h.id for e in made.events for h in e.heads]
    assert len(set(ids)) == len(ids)


def test_pasting_in_the_middle_moves_what_follows() -> None:
    jig = replace(line(), signs=(Sign(kind="words", at_beats=F(4), text="x"),))
    made = writing.pasted(jig, 3, writing.copied(jig, 0, 1))
    assert [float(e.onset_beats) for e in made.events] == [float(k) for k in range(10)]
    assert [str(e.heads[0].pitch) for e in made.events[3:7]] == ["G4", "D4", "E4", "A4"]
    assert signs_of(made, "words") == [(6, None, "x")]
    first = writing.pasted(jig, -1, writing.copied(jig, 7, 7))
    assert str(first.events[0].heads[0].pitch) == "D5"


def test_pasting_into_rests_takes_their_place() -> None:
    empty = writing.new_piece(jig_id="n", title="t", instrument_id="violin", key=D)
    made = writing.pasted(empty, -1, writing.copied(line(), 0, 3))
    assert (len(made.events), made.silence_beats) == (4, 12)


def test_another_instrument_keeps_no_fingers() -> None:
    jig = edit.set_finger(line(), 0, 0, 0)
    other = replace(line(), instrument_id="viola")
    assert writing.pasted(other, 0, writing.copied(jig, 0, 0)).events[1].heads[0].finger is None
    assert writing.pasted(line(), 0, writing.copied(jig, 0, 0)).events[1].heads[0].finger == 0


def test_a_full_jig_takes_nothing_more() -> None:
    long = jig_from_line("D4 " * 4000, jig_id="j", instrument_id="violin", title="t")
    with pytest.raises(JigError, match="at most"):
        writing.pasted(long, 0, writing.copied(line(), 0, 0))
