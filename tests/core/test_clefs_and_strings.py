"""Clefs and string names where a player expects them; whose part it is."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from jigwright.core.jig.clefs import clef_changes
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.jig.signs import Sign
from jigwright.core.jig.strings_said import strings_said
from jigwright.core.music.guessing import guess_instrument
from jigwright.core.music.instruments import INSTRUMENTS, instrument
from jigwright.core.music.pitch import Pitch


def line(text: str, instrument_id: str) -> Jig:
    return jig_from_line(text, jig_id="j", instrument_id=instrument_id, title="t")


def bars(instrument_id: str, *pitches: str) -> Jig:
    """Four quarter notes of one pitch in each bar."""
    return line(" ".join(f"{p} {p} {p} {p}" for p in pitches), instrument_id)


@pytest.mark.parametrize(
    ("instrument_id", "pitches", "expected"),
    [
        ("cello", ("G2", "D3", "C4"), []),
        ("cello", ("G2", "G4", "G4", "G2", "G2"), [(4, "C4"), (12, "F4")]),
        ("cello", ("G2", "G4", "G2"), []),  # one high bar among low ones
        ("cello", ("G2", "E5", "E5"), [(4, "G2")]),
        ("cello", ("D#4", "D#4"), []), ("cello", ("E4", "E4"), [(0, "C4")]),
        ("cello", ("G#4", "G#4"), [(0, "C4")]), ("cello", ("A4", "A4"), [(0, "G2")]),
        ("viola", ("D5", "D5"), []), ("viola", ("E5", "E5"), [(0, "G2")]),
        ("bass", ("E2", "E2"), []), ("bass", ("F3", "F3"), [(0, "C4")]),
        ("violin", ("E6", "E7"), []),
        ("cello", ("G2", "G4", "E5", "E5", "G4", "G2", "G2"), [(4, "C4"), (8, "G2"), (16, "C4"),
                                                              (20, "F4")]),
    ],
)  # fmt: skip
def test_clefs_go_up_for_two_high_bars_and_come_down_again(
    instrument_id, pitches, expected
) -> None:
    assert clef_changes(bars(instrument_id, *pitches)) == tuple(
        (Fraction(at), text) for at, text in expected
    )


def test_no_clef_puts_a_note_far_below_its_staff() -> None:
    low = line("E5 E5 E5 C2 E5 E5 E5 E5", "cello")
    assert (Fraction(0), "G2") not in clef_changes(low)


def test_a_score_with_clefs_keeps_them() -> None:
    jig = replace(
        bars("cello", "E5", "E5"),
        signs=(Sign(kind="clef", at_beats=Fraction(2), text="C4"),),
    )
    assert clef_changes(jig) == ((Fraction(2), "C4"),)


def on(jig: Jig, strings: tuple[int | None, ...], fingers: tuple[int | None, ...] = ()) -> Jig:
    events = tuple(
        replace(
            e,
            heads=(
                replace(
                    e.heads[0], string=strings[i], finger=fingers[i] if i < len(fingers) else None
                ),
            ),
        )
        for i, e in enumerate(jig.events)
    )
    return replace(jig, events=events)


def test_a_string_is_said_where_nobody_would_take_it_unasked() -> None:
    jig = line("A4 B4 C5 D5", "violin")
    assert strings_said(on(jig, (2, 2, 2, 2))) == {}
    said = strings_said(on(jig, (1, 1, 1, 2)))
    assert said == {jig.events[0].id: "III"}
    assert strings_said(on(jig, (None, None, 0, None))) == {jig.events[2].id: "IV"}


def test_a_fourth_finger_says_its_string_itself() -> None:
    jig = line("A4 A4", "violin")
    assert strings_said(on(jig, (1, 1), (4, 4))) == {}
    assert strings_said(on(jig, (1, 1), (0, 0))) == {jig.events[0].id: "III"}
    high = line("E5 E5", "violin")  # a ninth above the D string: no fourth finger of the first hand
    assert strings_said(on(high, (1, 1), (4, 4))) == {high.events[0].id: "III"}


def test_a_harmonic_says_its_string() -> None:
    jig = line("A5", "violin")
    head = replace(jig.events[0].heads[0], string=2, partial=2)
    jig = replace(jig, events=(replace(jig.events[0], heads=(head,)),))
    assert strings_said(jig) == {jig.events[0].id: "II"}


@pytest.mark.parametrize(
    ("name", "kind"),
    [
        ("Violin I", "violin"), ("1st Violin", "violin"), ("Violino II.", "violin"),
        ("Soprano Oboe 1 Violin1", "violin"), ("Vln. 2", "violin"), ("Geige", "violin"),
        ("Viola", "viola"), ("Vla.", "viola"), ("Bratsche", "viola"), ("Tenor Viola", "viola"),
        ("Violoncello", "cello"), ("Vc.", "cello"), ("Celli", "cello"),
        ("Contrabass", "bass"), ("Double Bass", "bass"), ("Kontrabaß", "bass"), ("Violone", "bass"),
        ("Bassoon", None), ("Bass Clarinet", None), ("Bass", None), ("Alto", None),
        ("Alto Sax", None), ("Viola da gamba", None), ("Bass Trombone", None), ("", None),
        ("Strings", None), ("Flute", None),
    ],
)  # fmt: skip
def test_names_of_parts(name, kind) -> None:
    assert guess_instrument(name) == kind


@pytest.mark.parametrize(
    ("span", "kind"),
    [
        (("G3", "E6"), "violin"), (("F#3", "E5"), "viola"), (("B2", "E4"), "cello"),
        (("B1", "E3"), "bass"), (("D1", "E3"), None), (("G3", "C#8"), None),
    ],
)  # fmt: skip
def test_where_the_name_says_nothing_the_range_does(span, kind) -> None:
    low, high = (Pitch.parse(p).midi for p in span)
    assert guess_instrument("Bassoon", (low, high)) == kind
    assert guess_instrument("Viola", (low, high)) == "viola"


def test_every_instrument_has_the_sign_of_its_clef() -> None:
    assert {k: instrument(k).clef_sign for k in INSTRUMENTS} == {
        "violin": "G2", "viola": "C3", "cello": "F4", "bass": "F4"
    }  # fmt: skip
