"""Sentences in other languages and other names of notes."""

from __future__ import annotations

import ast
import gettext
import re
from collections.abc import Iterator
from importlib import resources
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

import jigwright
from jigwright.core.errors import PitchNameError
from jigwright.core.judge.findings import Finding
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.wording.catalogue import LANGUAGES, tr, use_language, with_comma
from jigwright.wording.daybook import day_name
from jigwright.wording.findings import finding_sentence
from jigwright.wording.makers import key_name
from jigwright.wording.notes import (
    NOTE_NAMES,
    class_name,
    note_names_name,
    pitch_name,
    read_pitch,
    string_name,
    typed_name,
    use_note_names,
    use_tonic,
)
from jigwright.wording.verdicts import strings_against

_FIELD = re.compile(r"\{\w*\}")


@pytest.fixture(autouse=True)
def plain_words() -> Iterator[None]:
    yield
    use_language("en")
    use_note_names("letters")
    use_tonic(None)


def sentences() -> set[tuple[str, ...]]:
    """Everything the program may say: literals of ``tr`` and ``trn``."""
    found = set()
    for path in Path(jigwright.__file__).parent.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
                n = {"tr": 1, "trn": 2}.get(node.func.id, 0)
                texts = [a.value for a in node.args[:n] if isinstance(a, ast.Constant)]
                if n and len(texts) == n:
                    found.add(tuple(texts))
    return found


@pytest.mark.parametrize("language", [code for code, _ in LANGUAGES if code != "en"])
def test_every_sentence_has_its_translation_with_the_same_fields(language: str) -> None:
    folder = resources.files("jigwright.wording").joinpath("catalogues")
    catalogue = gettext.translation("jigwright", str(folder), [language])
    missing, wrong = [], []
    for texts in sentences():
        if len(texts) == 2:
            said = [catalogue.ngettext(*texts, n) for n in (1, 2)]
            fields = [set(_FIELD.findall("".join(texts)))] * 2
            if said == list(texts) and texts[0] != texts[1]:
                missing.append(texts)
            wrong += [s for s, f in zip(said, fields, strict=True) if set(_FIELD.findall(s)) - f]
        else:
            said = [catalogue.gettext(texts[0])]
            if texts[0] not in catalogue._catalog:
                missing.append(texts)
            if set(_FIELD.findall(said[0])) != set(_FIELD.findall(texts[0])):
                wrong.append(said[0])
    assert missing == []
    assert wrong == []


def test_another_language_speaks_and_an_unknown_one_falls_back() -> None:
    use_language("de")
    assert tr("Play when ready") == "Spielen, wenn Sie so weit sind"
    assert day_name("2026-11-26") == "Donnerstag, 26. November"
    said = tr("Your own A in this take: {hz} Hz").format(hz="442.1")
    assert said == "Ihr eigenes A in dieser Aufnahme: 442,1 Hz"
    assert tr("Saved as {name}.").format(name="a.wav").startswith("Als a.wav")
    use_language("xx")
    assert tr("Play when ready") == "Play when ready"


@pytest.mark.parametrize(
    ("plain", "name"),
    [
        ("C4", "c¹"), ("B3", "h"), ("C3", "c"), ("B2", "H"), ("C2", "C"), ("E1", "E₁"),
        ("B0", "H₂"), ("Bb4", "b¹"), ("F#5", "fis²"), ("Eb6", "es³"), ("A7", "a⁴"),
    ],
)  # fmt: skip
def test_german_octaves_have_strokes_and_are_read_again(plain: str, name: str) -> None:
    use_note_names("german")
    pitch = Pitch.parse(plain)
    assert pitch_name(pitch) == typed_name(pitch) == name
    assert read_pitch(name) == pitch
    assert read_pitch(f" {plain} ") == pitch
    use_note_names("letters")
    assert typed_name(pitch) == pitch_name(pitch)
    assert read_pitch(typed_name(pitch)) == pitch
    use_note_names("fixed_do")
    assert read_pitch(typed_name(pitch)) == pitch


@pytest.mark.parametrize(
    ("typed", "plain"),
    [("a''", "A5"), ("fis'", "F#4"), ("E,", "E1"), ("heses", "Bbb3"), ("As", "Ab2")],
)
def test_strokes_can_be_typed(typed: str, plain: str) -> None:
    use_note_names("german")
    assert read_pitch(typed) == Pitch.parse(plain)
    use_note_names("letters")
    with pytest.raises(PitchNameError):
        read_pitch(typed)


@pytest.mark.parametrize("text", ["", "x'", "hes'", "a'h", "eis is"])
def test_what_is_no_note_is_refused(text: str) -> None:
    use_note_names("german")
    with pytest.raises(PitchNameError):
        read_pitch(text)


def test_german_keys_are_joined_and_minor_is_small() -> None:
    keys = [Key(PitchClass(*t), mode) for t, mode in (
        (("D", 0), "major"), (("F", 1), "natural_minor"), (("A", 0), "harmonic_minor"),
        (("B", -1), "major"), (("D", 0), "dorian"),
    )]  # fmt: skip
    assert [key_name(k) for k in keys][:2] == ["D major", "F♯ natural minor"]
    use_language("de")
    use_note_names("german")
    assert [key_name(k) for k in keys] == [
        "D-Dur", "fis-Moll", "a-Moll harmonisch", "B-Dur", "D dorisch",
    ]  # fmt: skip
    use_note_names("letters")
    assert key_name(keys[1]) == "F♯-Moll"


def test_figures_outside_sentences_have_the_comma_too() -> None:
    assert with_comma("18.4 mm") == "18.4 mm"
    use_language("de")
    assert with_comma("18.4 mm, 0:01.5 ...") == "18,4 mm, 0:01,5 ..."
    assert with_comma("a.b 3. x.1") == "a.b 3. x.1"


def test_notes_have_the_names_that_are_chosen() -> None:
    notes = [Pitch.parse(n) for n in ("Bb3", "B3", "F#4", "Eb4", "Ab4", "E#5", "Cb4")]
    use_note_names("german")
    assert [class_name(n) for n in notes] == ["B", "H", "Fis", "Es", "As", "Eis", "Ces"]
    assert pitch_name(notes[1]) == "h"
    assert string_name(Pitch.parse("B0")).startswith("H")
    use_note_names("fixed_do")
    assert [class_name(n) for n in notes[:3]] == ["si♭", "si", "fa♯"]
    use_note_names("degrees")
    use_tonic(PitchClass("D"))
    scale = [Pitch.parse(n) for n in ("D4", "E4", "F#4", "G4", "A4", "B4", "C#5", "F4", "G#4")]
    assert [class_name(n) for n in scale] == ["1", "2", "3", "4", "5", "6", "7", "♭3", "♯4"]
    use_note_names("movable_do")
    assert [class_name(n) for n in scale] == ["do", "re", "mi", "fa", "so", "la", "ti", "me", "fi"]
    assert string_name(Pitch.parse("D4")) == "D string"
    assert len({note_names_name(n) for n in NOTE_NAMES}) == len(NOTE_NAMES)


@given(st.sampled_from("CDEFGAB"), st.integers(-2, 2), st.integers(-7, 7))
def test_no_two_spellings_share_a_name(step: str, alter: int, fifths: int) -> None:
    tonic = PitchClass.from_fifths(fifths)
    use_tonic(tonic)
    for names in NOTE_NAMES:
        use_note_names(names)
        here = class_name(PitchClass(step, alter))
        assert here
        assert class_name(PitchClass(step, alter + 1 if alter < 2 else alter - 1)) != here


BOW = ("bow_bounce", "bow_shake", "bow_scratch", "bow_neighbour_string", "bow_whistle", "bow_fold")


@pytest.mark.parametrize("n", [1, 3])
@pytest.mark.parametrize("language", ["en", "de"])
@pytest.mark.parametrize(
    "kind",
    ["note_habit", "finger_habit", "note_off", "wrong_note", "missed_notes", "slides", "hunting",
     "weak_note", *BOW],
)  # fmt: skip
def test_a_sentence_of_a_finding_stands_alone(kind: str, language: str, n: int) -> None:
    values = {
        "n": float(n), "cents": -130.0, "half_range": 4.0, "n_off": 3.0, "n_takes": 4.0,
        "n_notes": 5.0, "finger": 2.0, "string": 1.0, "uncertainty": 2.0, "first_cents": -31.0,
        "settle_s": 0.27, "db": 14.0, "strength": 9.0, "rate_hz": 6.5, "mm": 3.0,
    }  # fmt: skip
    finding = Finding(id=kind, severity=1.0, notes=(0,), pitch=Pitch.parse("E5"), values=values)
    use_language(language)
    try:
        said = finding_sentence(finding)
    finally:
        use_language("en")
    assert said[0] == said[0].upper()
    assert said.endswith(".")
    assert "{" not in said
    assert "The first is" not in said
    if kind != "finger_habit":
        assert re.search(r"\bE5?\b", said)  # which note it is
    if n > 1 and kind in ("missed_notes", "slides", "hunting", *BOW[:5]):
        assert "3" in said


def test_what_strings_are_held_against_is_said() -> None:
    def said(text: str) -> str:
        return strings_against([Pitch.parse(t) for t in text.split()], 442.0)

    assert said("G3 D4 A4 E5") == "held against pure fifths from A 442"
    assert said("E1 A1 D2 G2") == "held against pure fourths from A 442"
    assert said("A3 D4 A4 E5") == "held against pure intervals from A 442"
    assert strings_against([Pitch.parse("G3"), Pitch.parse("D4")], 441.5).endswith("A 441.5")
