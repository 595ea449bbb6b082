"""Changing a jig note by note."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jigwright.core.errors import JigError
from jigwright.core.jig import edit
from jigwright.core.jig.line import jig_from_line, jig_to_line
from jigwright.core.jig.model import Jig
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass


def line(text: str, key: str = "D") -> Jig:
    return jig_from_line(
        text, jig_id="j", instrument_id="violin", title="t", key=Key(PitchClass(key))
    )


def names(jig: Jig) -> list[str]:
    return ["+".join(str(h.pitch) for h in e.heads) for e in jig.events]


def bows(jig: Jig) -> str:
    return "".join({"down": "d", "up": "u", None: "-"}[e.bow] for e in jig.events)


def test_a_note_put_in_moves_the_rest_and_turns_their_bows() -> None:
    jig = edit.insert_note(line("D4 E4 F#4"), 0, Pitch.parse("A4"), Fraction(2))
    assert names(jig) == ["D4", "A4", "E4", "F#4"]
    assert [e.onset_beats for e in jig.events] == [0, 1, 3, 4]
    assert bows(jig) == "dudu"


def test_taking_out_closes_the_gap_and_hands_the_bow_on() -> None:
    jig = edit.remove(line("D4 (E4 F#4 G4) A4"), 1, 1)
    assert names(jig) == ["D4", "F#4", "G4", "A4"]
    assert bows(jig) == "du-d"
    assert [e.onset_beats for e in jig.events] == [0, 1, 2, 3]
    with pytest.raises(JigError, match="at least one"):
        edit.remove(jig, 0, 3)


def test_notes_move_along_the_key_and_name_what_they_replace() -> None:
    before = line("D4 E4 F#4")
    up = edit.move_pitch(before, 1, 2, steps=1)
    assert names(up) == ["D4", "F#4", "G4"]
    assert [e.heads[0].replaces for e in up.events] == [None, "j.n1", "j.n2"]
    assert names(edit.move_pitch(up, 1, 2, steps=-1)) == names(before)
    assert names(edit.move_pitch(before, 2, 2, semitones=-1)) == ["D4", "E4", "F4"]


def test_bows_are_joined_parted_and_turned() -> None:
    jig = edit.one_bow(line("D4 E4 F#4 G4 A4"), 1, 3)
    assert bows(jig) == "du--d"
    assert bows(edit.apart(jig, 2, 2)) == "dudud"
    turned = edit.turn_bow(jig, 0)
    assert bows(turned) == "ud--u"
    retake = edit.turn_bow(line("D4 E4 F#4"), 1)
    assert bows(retake) == "ddu"
    assert bows(edit.insert_note(retake, 2, Pitch.parse("G4"))) == "ddud"


def test_groups_end_at_rests_and_repeated_notes() -> None:
    jig = edit.grouped(line("D4 E4 F#4 r G4 A4 A4"), 3, title="x")
    assert bows(jig) == "d--u-d"


def test_lengths_rests_and_chords() -> None:
    jig = edit.lengthen(line("D4 E4 F#4"), 0, 1, Fraction(1, 2))
    assert jig_to_line(jig).startswith("D4:1/2 E4 F#4:1")
    jig = edit.rest_after(jig, 0, Fraction(1))
    assert jig.events[1].onset_beats == Fraction(3, 2)
    assert edit.rest_after(jig, 0, Fraction(-64)).events[1].onset_beats == Fraction(1, 2)
    chord = edit.add_head(jig, 0, Pitch.parse("B4"))
    assert names(chord)[0] == "D4+B4"
    assert names(edit.add_head(chord, 0, Pitch.parse("B4")))[0] == "D4"
    with pytest.raises(JigError, match="lasts"):
        edit.lengthen(jig, 0, 0, Fraction(100))


def test_a_written_finger_takes_its_string_along() -> None:
    jig = edit.set_finger(line("A4"), 0, 0, 4)
    assert (jig.events[0].heads[0].finger, jig.events[0].heads[0].string) == (4, 1)
    lower = edit.next_string(line("B4"), 0, 0)
    strings = {lower.events[0].heads[0].string}
    for _ in range(3):
        lower = edit.next_string(lower, 0, 0)
        strings.add(lower.events[0].heads[0].string)
    assert len(strings) > 1


def test_a_line_typed_anew_keeps_ids_and_marks_of_what_stayed() -> None:
    old = edit.mark(line("D4 E4 F#4 G4"), 2, 2, dynamic="p", free=True)
    new = edit.rewritten(old, line("D4 E4 E4 F#4 G4:2"))
    by_name = {str(e.heads[0].pitch): e for e in new.events}
    assert by_name["F#4"].id == old.events[2].id
    assert by_name["F#4"].dynamic == "p"
    assert by_name["F#4"].onset_beats == 3
    assert by_name["G4"].id not in {e.id for e in old.events}
    assert new.id == old.id


_OPS = st.sampled_from(["insert", "remove", "up", "flat", "bow", "apart", "turn", "rest", "pluck"])


@settings(max_examples=80, deadline=None)
@given(st.lists(st.tuples(_OPS, st.integers(0, 30), st.integers(0, 4)), max_size=25))
def test_any_run_of_changes_leaves_a_sound_jig(steps: list[tuple[str, int, int]]) -> None:
    jig = line("D4 (E4 F#4) G4 r A4")
    for op, at, more in steps:
        first = at % len(jig.events)
        last = min(len(jig.events) - 1, first + more)
        match op:
            case "insert":
                jig = edit.insert_note(jig, first - 1, Pitch.parse("C5"))
            case "remove" if last - first + 1 < len(jig.events):
                jig = edit.remove(jig, first, last)
            case "up":
                jig = edit.move_pitch(jig, first, last, steps=1)
            case "flat":
                jig = edit.move_pitch(jig, first, last, semitones=-1)
            case "bow":
                jig = edit.one_bow(jig, first, last)
            case "apart":
                jig = edit.apart(jig, first, last)
            case "turn":
                jig = edit.turn_bow(jig, first)
            case "rest":
                jig = edit.rest_after(jig, first, Fraction(1))
            case "pluck":
                jig = edit.mark(jig, first, last, pluck=not jig.events[first].pluck)
        assert jig.events[0].bow is not None or jig.events[0].pluck
        assert all(e.bow is None for e in jig.events if e.pluck)
        for a, b in zip(jig.events, jig.events[1:], strict=False):
            assert b.onset_beats >= a.end_beats
            assert not (a.pluck and not b.pluck and b.bow is None)
