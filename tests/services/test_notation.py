"""Notation as elements: what stands where, and how."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from xml.etree import ElementTree as ET

import pytest

from jigwright.core.jig import edit, writing
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Change, Jig, Notehead
from jigwright.core.jig.signs import Sign, in_order
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.services.mei import jig_to_mei
from jigwright.services.mei_controls import event_element_id, faint_colour, head_element_id
from jigwright.services.notation import FAINT, INK, coloured

M = "{http://www.music-encoding.org/ns/mei}"
F = Fraction


def jig(text: str = "D4 E4 F#4 G4 A4 B4 C#5 D5", *signs: Sign, kind: str = "violin") -> Jig:
    made = jig_from_line(text, jig_id="j", instrument_id=kind, title="t")
    return replace(made, signs=in_order(signs))


def mei(of: Jig, **more: object) -> ET.Element:
    return ET.fromstring(jig_to_mei(of, **more))  # type: ignore[arg-type]


def all_of(root: ET.Element, tag: str) -> list[ET.Element]:
    return list(root.iter(M + tag))


def one(root: ET.Element, tag: str) -> ET.Element:
    (found,) = all_of(root, tag)
    return found


def sign(kind: str, at: float, end: float | None = None, text: str = "", **more: object) -> Sign:
    return Sign(
        kind=kind, at_beats=F(at), end_beats=None if end is None else F(end), text=text, **more
    )  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("mark", "artic"),
    [("accent", "acc"), ("marcato", "marc"), ("tenuto", "ten"), ("staccatissimo", "stacciss"),
     ("spiccato", "spicc"), ("snap", "snap")],
)  # fmt: skip
def test_marks_are_articulations_of_their_note(mark, artic) -> None:
    root = mei(writing.toggle_mark(jig(), 1, 1, mark))
    assert artic in [a.get("artic") for a in all_of(root, "note")[1].iter(M + "artic")]
    assert artic not in [a.get("artic") for a in all_of(root, "note")[0].iter(M + "artic")]


def test_proposed_bows_and_fingers_are_lighter() -> None:
    made = jig()
    first = replace(made.events[0], proposed_bow=True)
    finger = replace(made.events[1], heads=(replace(made.events[1].heads[0], finger=1, string=1,
                                                    proposed=True),))  # fmt: skip
    root = mei(replace(made, events=(first, finger, *made.events[2:])))
    bows = [a for a in all_of(root, "artic") if a.get("artic") in ("upbow", "dnbow")]
    assert [b.get("color") for b in bows] == [FAINT] + [None] * 7
    assert one(root, "fing").get("color") == FAINT
    assert faint_colour(False) == ""


def test_colours_of_a_theme_take_the_place_of_the_placeholders() -> None:
    assert coloured(f"{INK} {FAINT} {INK}", ink="#111111", faint="#777777") == (
        "#111111 #777777 #111111"
    )


def test_ornaments_say_which_way() -> None:
    def drawn(ornament: str, *marks: str) -> ET.Element:
        made = edit.mark(jig(), 0, 0, ornament=ornament, marks=tuple(marks))
        return one(mei(made), ornament)

    assert drawn("mordent").get("form") == "lower"
    assert drawn("mordent", "inverted").get("form") == "upper"
    assert drawn("turn", "delayed").get("delayed") == "true"
    assert drawn("trill").get("startid") == f"#{event_element_id(jig().events[0])}"
    tremolo = all_of(mei(edit.mark(jig(), 0, 0, ornament="tremolo", marks=("slash1",))), "note")[0]
    assert tremolo.get("stem.mod") == "1slash"


def test_hairpins_over_a_bar_line_end_in_the_next_bar() -> None:
    pin = one(mei(jig("D4 " * 8, sign("hairpin", 2, 7, "diminuendo", above=True))), "hairpin")
    assert (pin.get("form"), pin.get("tstamp"), pin.get("place")) == ("dim", "3", "above")
    assert str(pin.get("tstamp2")).startswith("1m+3.9")
    inside = one(mei(jig("D4 " * 8, sign("hairpin", 2, 4, "crescendo"))), "hairpin")
    assert str(inside.get("tstamp2")).startswith("0m+4.9")  # up to the bar line, not over it


def test_words_tempo_letters_and_jumps_stand_at_their_moments() -> None:
    root = mei(jig(
        "D4 " * 8, sign("words", 1, text="a & b", above=False), sign("rehearsal", 4, text="B"),
        sign("jump", 6, text="segno"), sign("tempo", 4, text="3/2", value=90.0),
        sign("dynamic", 5, text="sfz"),
    ))  # fmt: skip
    words = one(root, "dir")
    assert ("".join(words.itertext()), words.get("tstamp"), words.get("place")) == (
        "a & b", "2", "below"
    )  # fmt: skip
    assert one(root, "reh").text == "B"
    assert one(root, "repeatMark").get("func") == "segno"
    tempo = one(root, "tempo")
    assert (tempo.get("mm"), tempo.get("mm.unit"), tempo.get("mm.dots")) == ("60", "4", "1")
    assert one(root, "dynam").text == "sfz"


def test_the_first_printed_tempo_is_the_jigs_own() -> None:
    made = replace(jig("D4 E4", sign("tempo", 0, text="1", value=80.0)), tempo_bpm=100.0)
    assert one(mei(made), "tempo").get("mm") == "100"
    assert all_of(mei(jig("D4", sign("tempo", 0, value=80.0))), "tempo") == []


def test_repeats_endings_and_bar_lines() -> None:
    root = mei(jig(
        "D4:4 E4 F#4 G4", sign("repeat", 0, text="forward"), sign("ending", 4, 8, "1"),
        sign("repeat", 8, text="backward"), sign("ending", 8, 12, "2"),
        sign("barline", 12, text="light-light"),
    ))  # fmt: skip
    bars = all_of(root, "measure")
    assert [(b.get("left"), b.get("right")) for b in bars] == [
        ("rptstart", None), (None, "rptend"), (None, "dbl"), (None, "end")
    ]  # fmt: skip
    assert [(e.get("n"), len(all_of(e, "measure"))) for e in all_of(root, "ending")] == [
        ("1", 1), ("2", 1)
    ]  # fmt: skip


def test_holds_stand_over_notes_and_over_rests() -> None:
    made = jig("D4 E4 r:2 G4:4", sign("fermata", 2, text="rest"))
    root = mei(writing.toggle_mark(made, 1, 1, "fermata"))
    ids = {e.get("{http://www.w3.org/XML/1998/namespace}id") for e in root.iter()}
    holds = [str(h.get("startid")).removeprefix("#") for h in all_of(root, "fermata")]
    assert len(holds) == 2
    assert set(holds) <= ids


def test_voices_are_layers_and_a_held_note_is_one() -> None:
    made = jig("B4:2 C5")
    low = Notehead(id="g", pitch=Pitch("G", 0, 3), voice=2)
    events = (
        replace(made.events[0], heads=(low, *made.events[0].heads)),
        replace(made.events[1], heads=(replace(low, id="g2", held=True), *made.events[1].heads),
                bow=None),
    )  # fmt: skip
    root = mei(replace(made, events=events))
    layers = all_of(root, "layer")
    assert [[n.get("pname") for n in all_of(layer, "note")] for layer in layers] == [
        ["b", "c"], ["g"]
    ]  # fmt: skip
    assert all_of(layers[1], "note")[0].get("dur") == "1"
    assert head_element_id("g2") not in jig_to_mei(replace(made, events=events))


@pytest.mark.parametrize(("n", "base"), [(3, 2), (5, 4), (7, 4)])
def test_tuplets_of_any_kind(n, base) -> None:
    made = writing.as_tuplet(jig("D4:1/2 " * n + "E4:1"), 0, n - 1, n)
    group = one(mei(made), "tuplet")
    assert (group.get("num"), group.get("numbase")) == (str(n), str(base))
    assert len(all_of(group, "note")) == n


def test_no_accidental_stands_again_on_a_tie() -> None:
    root = mei(jig("r:3 G#4:3 G#4:1 G4:1"))
    notes = all_of(root, "note")
    assert [n.get("accid") for n in notes] == ["s", None, "s", "n"]
    assert [n.get("tie") for n in notes] == ["i", "t", None, None]


def test_clefs_change_inside_a_bar_and_the_part_begins_with_its_own() -> None:
    made = jig("D4 " * 8, sign("clef", 2, text="C4"), sign("clef", 4, text="G2-1"), kind="cello")
    root = mei(made)
    staff = one(root, "staffDef")
    assert (staff.get("clef.shape"), staff.get("clef.line")) == ("F", "4")
    clefs = [(c.get("shape"), c.get("line"), c.get("dis")) for c in all_of(root, "clef")]
    assert clefs == [("C", "4", None), ("G", "2", "8")]
    later = mei(made, bars=(1, 2))
    assert one(later, "staffDef").get("clef.shape") in ("C", "G")


def test_slurs_of_phrases_and_strings_that_must_be_said() -> None:
    made = jig("(D4 E4) (F#4 G4)", sign("slur", 0, 3), sign("slur", 0, 1), sign("slur", 2, 3))
    assert len(all_of(mei(made), "slur")) == 3
    head = replace(made.events[0].heads[0], string=0, finger=4)
    low = replace(made, events=(replace(made.events[0], heads=(head,)), *made.events[1:]))
    other = replace(low.events[0], heads=(replace(head, finger=0),))
    said = mei(replace(low, events=(other, *low.events[1:])))
    assert [d.text for d in all_of(said, "dir")] == ["IV"]


def test_glides_octave_lines_breaths_and_rolled_chords() -> None:
    made = edit.mark(jig("D4 E4 G3+B4 D5", sign("octave_line", 0, 2, "down 8")), 1, 1, glide=True)
    made = writing.toggle_mark(writing.toggle_mark(made, 0, 0, "breath"), 2, 2, "rolled")
    root = mei(made)
    assert one(root, "gliss").get("endid") == f"#{event_element_id(made.events[1])}"
    assert (one(root, "octave").get("dis"), one(root, "octave").get("dis.place")) == ("8", "above")
    assert len(all_of(root, "breath")) == len(all_of(root, "arpeg")) == 1


def test_bars_that_are_not_full_say_so_and_keep_their_numbers() -> None:
    made = replace(jig("D4 " * 8), changes=(Change(at_beats=F(4), bar_beats=F(3), number=9),))
    bars = all_of(mei(made), "measure")
    assert [(b.get("n"), b.get("metcon")) for b in bars] == [
        ("1", None), ("9", "false"), ("10", None)
    ]  # fmt: skip


def test_an_empty_piece_is_bars_of_rest() -> None:
    made = writing.new_piece(jig_id="n", title="t", instrument_id="viola", key=Key(PitchClass("G")))
    root = mei(made)
    assert len(all_of(root, "mRest")) == 4
    assert one(root, "staffDef").get("clef.shape") == "C"


def test_fingers_can_be_left_out() -> None:
    made = edit.set_finger(jig(), 0, 0, 1)
    assert len(all_of(mei(made), "fing")) == 1
    assert all_of(mei(made, fingerings=False), "fing") == []


# harmonics --------------------------------------------------------------------------------------


def harmonic_jig(partial: int, *, string: int | None = 0, stopped: str = "") -> Jig:
    """One note of the violin, a harmonic."""
    made = jig("D5:4")
    pitch = Pitch.parse("D5")
    head = replace(
        made.events[0].heads[0], partial=partial, string=string,
        stopped=Pitch.parse(stopped) if stopped else None, pitch=pitch,
    )  # fmt: skip
    return replace(made, events=(replace(made.events[0], heads=(head,)),))


def diamonds(of: Jig) -> list[str]:
    return [
        f"{n.get('pname')}{n.get('oct')}" for n in all_of(mei(of), "note") if n.get("head.shape")
    ]


@pytest.mark.parametrize(("partial", "place"), [(3, "d4"), (4, "c4"), (5, "b3"), (6, "b3")])
def test_a_natural_harmonic_has_the_place_to_touch_below_the_note_that_sounds(
    partial: int, place: str
) -> None:
    made = harmonic_jig(partial)  # on the G string
    assert diamonds(made) == [place]
    (note, *_) = [n for n in all_of(mei(made), "note") if not n.get("head.shape")]
    assert (note.get("pname"), note.get("oct")) == ("d", "5")
    assert next(a.get("artic") for a in all_of(mei(made), "artic")) == "harm"


@pytest.mark.parametrize(("partial", "string"), [(2, 0), (1, 0), (3, None), (9, 0)])
def test_where_the_place_is_the_note_or_unknown_there_is_none(partial, string) -> None:
    assert diamonds(harmonic_jig(partial, string=string)) == []


def test_an_artificial_harmonic_says_what_sounds() -> None:
    made = harmonic_jig(4, stopped="D3")
    assert diamonds(made) == ["g3"]
    said = ["".join(d.itertext()) for d in all_of(mei(made), "dir")]
    assert "→ D5" in said
    assert not [d for d in all_of(mei(harmonic_jig(3)), "dir") if "→" in "".join(d.itertext())]


def test_a_hold_keeps_clear_of_the_bow_sign() -> None:
    held = mei(writing.toggle_mark(jig(), 1, 1, "fermata"))
    assert one(held, "fermata").get("vo") == "2"
