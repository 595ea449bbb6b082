"""What a file is made of: numbers that do not clash, order, divisions, small elements."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from xml.etree import ElementTree as ET
from xml.etree.ElementTree import Element

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig, Notehead
from jigwright.core.jig.signs import NOTE_VALUES, SIGN_KINDS, TEXTS, Sign
from jigwright.core.jig.written import Written
from jigwright.services.exchange.midi import write_midi
from jigwright.services.exchange.musicxml_in import read_musicxml
from jigwright.services.exchange.musicxml_out import write_musicxml
from jigwright.services.exchange.score_elements import (
    MOST_DIVISIONS,
    divisions_for,
    ornament_element,
    own_marks,
    put_clef,
    put_ending,
    put_type,
)
from jigwright.services.exchange.score_signs import (
    WaitingSigns,
    is_direction,
    signs_by_time,
    timed_signs,
)
from jigwright.services.mei import jig_to_mei

F = Fraction


def jig(text: str = "D4 E4 F#4 G4", *signs: Sign) -> Jig:
    made = jig_from_line(text, jig_id="j", instrument_id="violin", title="t")
    return replace(made, signs=signs)


def hairpin(a: int, b: int) -> Sign:
    return Sign(kind="hairpin", at_beats=F(a), end_beats=F(b), text="crescendo")


def test_ends_come_before_beginnings_and_lines_that_meet_have_other_numbers() -> None:
    rows = [
        (t.at, t.ends, t.number) for t in timed_signs(jig("D4 E4", hairpin(0, 1), hairpin(1, 2)))
    ]
    assert rows == [(0, False, 1), (1, True, 1), (1, False, 2), (2, True, 2)]
    nothing = [(t.at, t.ends) for t in timed_signs(jig("D4", hairpin(1, 1)))]
    assert nothing == [(1, False), (1, True)]  # it must begin before it ends
    third = [t.number for t in timed_signs(jig("D4", hairpin(0, 1), hairpin(0, 2), hairpin(3, 4)))]
    assert sorted(third) == [1, 1, 1, 1, 2, 2]


def test_loudness_of_notes_and_plucking_stand_among_the_directions() -> None:
    made = jig("D4 E4")
    made = replace(made, events=(replace(made.events[0], dynamic="p"),
                                 replace(made.events[1], pluck=True, bow=None)))  # fmt: skip
    assert [(t.at, t.sign.kind, t.sign.text) for t in timed_signs(made)] == [
        (0, "dynamic", "p"), (1, "words", "pizz.")
    ]  # fmt: skip


def test_signs_wait_for_their_note_and_are_handed_out_once() -> None:
    signs = [Sign(kind="kept", at_beats=F(at), text="x") for at in (0, 1, 1, 2)]
    waiting = WaitingSigns(signs)
    piece = Written(start=F(1), end=F(2), value=F(1))
    assert len(waiting.take(piece)) == 2
    assert waiting.take(piece) == []
    assert len(waiting.take(Written(start=F(0), end=F(3), value=F(3)))) == 2
    assert sorted(signs_by_time(signs)) == [0, 1, 2]


@pytest.mark.parametrize(
    ("text", "beside"),
    [("<direction-type><x/></direction-type>", True), ("<harmony />", True),
     ("<figured-bass />", True), ("<lyric />", False), ("<ornaments />", False)],
)  # fmt: skip
def test_what_is_kept_beside_the_notes_and_at_them(text, beside) -> None:
    assert is_direction(Sign(kind="kept", at_beats=F(0), text=text)) is beside


def test_divisions_hold_every_moment_and_no_more_than_they_may() -> None:
    assert divisions_for(jig()) == 32
    assert divisions_for(jig("D4:1/3 E4:2/3")) == 96
    assert divisions_for(jig("D4", Sign(kind="words", at_beats=F(1, 5)))) == 160
    odd = jig("D4", Sign(kind="words", at_beats=F(1, 999_983)))
    assert divisions_for(odd) <= MOST_DIVISIONS


@pytest.mark.parametrize(
    ("ornament", "marks", "name"),
    [
        ("trill", (), "trill-mark"),
        ("mordent", (), "mordent"),
        ("mordent", ("inverted",), "inverted-mordent"),
        ("turn", ("delayed",), "delayed-turn"),
        ("turn", ("inverted", "delayed"), "delayed-inverted-turn"),
        ("trill", ("inverted",), "trill-mark"),
    ],
)
def test_names_of_ornaments(ornament, marks, name) -> None:
    event = replace(jig().events[0], ornament=ornament, marks=marks)
    assert ornament_element(event) == name


@pytest.mark.parametrize(
    ("text", "sign", "line", "octave"),
    [("C4", "C", "4", None), ("G2-1", "G", "2", "-1"), ("percussion", "percussion", None, None),
     ("F4", "F", "4", None), ("", "G", None, None)],
)  # fmt: skip
def test_clefs(text, sign, line, octave) -> None:
    into = Element("attributes")
    put_clef(into, text)
    assert into.findtext("clef/sign") == sign
    assert into.findtext("clef/line") == line
    assert into.findtext("clef/clef-octave-change") == octave


@pytest.mark.parametrize(
    ("value", "tuplet", "name", "dots"),
    [(F(1), None, "quarter", 0), (F(3, 2), None, "quarter", 1), (F(1, 2), (3, 2), "eighth", 0),
     (F(4), None, "whole", 0), (F(5, 7), None, None, 0)],
)  # fmt: skip
def test_printed_values(value, tuplet, name, dots) -> None:
    note = Element("note")
    put_type(note, Written(start=F(0), end=value, value=value, tuplet=tuplet))
    assert note.findtext("type") == name
    assert len(note.findall("dot")) == dots
    assert note.findtext("time-modification/actual-notes") == (str(tuplet[0]) if tuplet else None)


def test_endings_begin_on_the_left_and_stop_on_the_right() -> None:
    sign = Sign(kind="ending", at_beats=F(4), end_beats=F(8), text="1", value=1.0)

    def made(at: int, *, left: bool, of: Sign = sign) -> str | None:
        into = Element("barline")
        put_ending(into, of, F(at), left=left)
        ending = into.find("ending")
        return None if ending is None else ending.get("type")

    assert made(4, left=True) == "start"
    assert made(4, left=False) is None
    assert made(8, left=False) == "stop"
    assert made(8, left=True) is None
    assert made(8, left=False, of=replace(sign, value=None)) == "discontinue"


def test_own_marks_say_what_no_element_says() -> None:
    event = replace(jig().events[0], free=True, vibrato=False, shape="swell")
    assert own_marks(event) == ["free", "vibrato=no", "shape=swell"]
    planned = replace(jig().events[0], bow_share=0.25, bow_place=0.0)
    assert own_marks(planned) == ["bow_share=0.25", "bow_place=0"]
    assert own_marks(jig().events[0]) == []


def texts_of(kind: str) -> st.SearchStrategy[str]:
    if kind == "tempo":
        return st.sampled_from(("", *NOTE_VALUES))
    if kind == "cue":
        notes = st.lists(st.integers(0, 127), min_size=1, max_size=4)
        return notes.map(lambda row: " ".join(map(str, row)))
    if kind in TEXTS:
        return st.sampled_from(TEXTS[kind])
    return st.text(st.characters(codec="ascii", categories=("L", "N", "P", "S", "Zs")), max_size=12)


BEATS = st.fractions(0, 9, max_denominator=8)
SIGNS = st.sampled_from(SIGN_KINDS).flatmap(
    lambda kind: st.builds(
        Sign, kind=st.just(kind), at_beats=BEATS,
        end_beats=BEATS.map(lambda b: b + 9) | (st.nothing() if kind == "cue" else st.none()),
        text=texts_of(kind), value=st.none() | st.floats(0, 10_000),
        above=st.none() | st.booleans(),
    )
)  # fmt: skip


@given(
    st.lists(SIGNS, max_size=8),
    st.lists(st.tuples(st.booleans(), st.integers(1, 4), st.none() | BEATS.map(lambda b: b + 1)),
             min_size=4, max_size=4),
)  # fmt: skip
def test_whatever_a_jig_file_holds_is_drawn_and_written(signs, heads) -> None:
    made = jig("D4 E4:2 F#4 G4:3", *signs)
    events = tuple(
        replace(e, heads=(*e.heads, Notehead(id=f"h{k}", pitch=e.heads[0].pitch, held=held,
                                              voice=voice, length_beats=length)))
        for k, (e, (held, voice, length)) in enumerate(zip(made.events, heads, strict=True))
    )  # fmt: skip
    kept = jig_from_json(jig_to_json(replace(made, events=events)))
    jig_to_mei(kept)
    write_midi(kept)
    written = write_musicxml(kept)
    again = read_musicxml(written, jig_id="j", title="t", instrument_id="violin")
    assert again.broken_at is None


def test_a_bass_part_says_all_of_how_it_transposes() -> None:
    """A reader of another program adds the octave to the diatonic steps without asking for them."""
    bass = jig_from_line("E1 F#1 G1", jig_id="b", instrument_id="bass", title="b")
    transpose = ET.fromstring(write_musicxml(bass)).find("part/measure/attributes/transpose")
    assert [(e.tag, e.text) for e in transpose] == [
        ("diatonic", "0"), ("chromatic", "0"), ("octave-change", "-1")
    ]  # fmt: skip
    again = read_musicxml(write_musicxml(bass), jig_id="b", title="b").jig
    assert [e.heads[0].pitch for e in again.events] == [e.heads[0].pitch for e in bass.events]
