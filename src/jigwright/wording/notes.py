"""Names of notes, fingers, strings and references."""

from __future__ import annotations

import re
from typing import Literal

from jigwright.core.errors import PitchNameError
from jigwright.core.follow.values import HeardOrnament
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.wording.catalogue import tr

_SIGN = {-2: "♭♭", -1: "♭", 0: "", 1: "♯", 2: "♯♯", 3: "♯♯♯", -3: "♭♭♭"}


NoteNames = Literal["letters", "german", "fixed_do", "movable_do", "degrees"]
NOTE_NAMES: tuple[NoteNames, ...] = ("letters", "german", "fixed_do", "movable_do", "degrees")
_STEPS = "CDEFGAB"
_FIXED = dict(zip(_STEPS, ("do", "re", "mi", "fa", "sol", "la", "si"), strict=True))
_MOVABLE = (
    ("de", "do", "di"), ("ra", "re", "ri"), ("me", "mi", "mis"), ("fe", "fa", "fi"),
    ("se", "so", "si"), ("le", "la", "li"), ("te", "ti", "tis"),
)  # fmt: skip
_SUPER, _SUB = " ¹²³⁴⁵⁶", " ₁₂₃"
_STROKES = re.compile(
    r"([A-Ha-h])((?:is|es|s){0,2})([¹²³⁴⁵⁶]|'{1,6})?([₁₂₃]|,{1,3})?", re.IGNORECASE
)
_names: NoteNames = "letters"
_tonic: PitchClass | None = None


def use_note_names(names: NoteNames) -> None:
    """Choose how notes are called from now on."""
    global _names
    _names = names


def names_are_german() -> bool:
    """Whether notes are called by their German letters."""
    return _names == "german"


def use_tonic(tonic: PitchClass | None) -> None:
    """Tell which note do and the first degree are."""
    global _tonic
    _tonic = tonic


def note_names_name(names: NoteNames) -> str:
    """What a way to call notes is called."""
    return {
        "letters": tr("letters (C D E, B♭ B)"), "german": tr("German letters (C D E, B H)"),
        "fixed_do": tr("do is always C"), "movable_do": tr("do is the tonic"),
        "degrees": tr("degrees of the scale"),
    }[names]  # fmt: skip


def class_name(pitch: Pitch | PitchClass) -> str:
    """A note without its octave in the chosen way, for instance F♯, Fis, fa♯, mi or 3."""
    match _names:
        case "fixed_do":
            return f"{_FIXED[pitch.step]}{_SIGN[pitch.alter]}"
        case "movable_do" if _tonic is not None:
            degree, alter = _degree(pitch, _tonic)
            syllables = _MOVABLE[degree]
            if -1 <= alter <= 1:
                return syllables[alter + 1]
            return f"{syllables[1]}{_SIGN[alter]}"
        case "degrees" if _tonic is not None:
            degree, alter = _degree(pitch, _tonic)
            return f"{_SIGN[alter]}{degree + 1}"
    return letter_name(pitch)


def letter_name(pitch: Pitch | PitchClass) -> str:
    """A note by its letter, German where that is chosen: strings and keys have no other name."""
    if _names == "german":
        return _german(pitch)
    return f"{pitch.step}{_SIGN[pitch.alter]}"


def pitch_name(pitch: Pitch) -> str:
    """A note with its octave, for instance F♯4 or fis¹; syllables and degrees stand alone."""
    if _names == "german":
        return _with_strokes(pitch)
    if _names == "letters" or (_tonic is None and _names != "fixed_do"):
        return f"{letter_name(pitch)}{pitch.octave}"
    return class_name(pitch)


def read_pitch(text: str) -> Pitch:
    """A note with its octave as a player writes it: F#4, or fis¹ and fis' where names are German.

    Raises
    ------
    PitchNameError
        If it is neither.
    """
    found = _STROKES.fullmatch(text.strip()) if _names == "german" else None
    if found is None:
        return Pitch.parse(text)
    letter, signs, high, low = (part or "" for part in found.groups())
    octave = 3 if letter.islower() else 2
    octave += len(high) if "'" in high else max(0, _SUPER.find(high or " "))
    octave -= len(low) if "," in low else max(0, _SUB.find(low or " "))
    name = letter.upper() + signs.lower()
    for step in _STEPS:
        for alter in (0, 1, -1, 2, -2):
            if _german(PitchClass(step, alter)) == name:
                return Pitch(step, alter, octave)
    raise PitchNameError(text)


def typed_name(pitch: Pitch) -> str:
    """A note with its octave as `read_pitch` reads it, whatever notes are called."""
    return _with_strokes(pitch) if _names == "german" else f"{letter_name(pitch)}{pitch.octave}"


def _with_strokes(pitch: Pitch) -> str:
    """The octave as German readers know it: C₁ C c c¹ c² (Helmholtz)."""
    name = _german(pitch)
    if pitch.octave >= 3:
        return name.lower() + _SUPER[pitch.octave - 3 : pitch.octave - 2].strip()
    return name + _SUB[2 - pitch.octave : 3 - pitch.octave].strip()


def _german(pitch: Pitch | PitchClass) -> str:
    if pitch.step == "B":
        return {0: "H", -1: "B", -2: "Heses"}.get(pitch.alter, "H" + "is" * max(0, pitch.alter))
    if pitch.alter >= 0:
        return pitch.step + "is" * pitch.alter
    flat = "s" if pitch.step in "AE" else "es"
    return pitch.step + flat + "es" * (-pitch.alter - 1)


def _degree(pitch: Pitch | PitchClass, tonic: PitchClass) -> tuple[int, int]:
    """Step above the tonic (0 … 6) and how far it is altered against the tonic's major scale."""
    degree = (_STEPS.index(pitch.step) - _STEPS.index(tonic.step)) % 7
    expected = tonic.fifths + (0, 2, 4, -1, 1, 3, 5)[degree]
    here = PitchClass(pitch.step, pitch.alter).fifths
    return degree, (here - expected) // 7


def finger_name(finger: int) -> str:
    """Name of a finger."""
    names = (tr("open string"), tr("1st finger"), tr("2nd finger"), tr("3rd finger"),
             tr("4th finger"), tr("thumb"))  # fmt: skip
    return names[finger] if 0 <= finger < len(names) else str(finger)


def finger_name_start(finger: int) -> str:
    """Name of a finger at the start of a sentence."""
    names = (tr("Open string"), tr("First finger"), tr("Second finger"), tr("Third finger"),
             tr("Fourth finger"), tr("Thumb"))  # fmt: skip
    return names[finger] if 0 <= finger < len(names) else str(finger)


def string_name(string: Pitch) -> str:
    """Name of a string, for instance D string."""
    return tr("{letter} string").format(letter=letter_name(string))


def ornament_name(ornament: HeardOrnament) -> str:
    """What is written over a note, or was heard."""
    return {
        "trill": tr("Trill"), "mordent": tr("Mordent"), "turn": tr("Turn"),
        "tremolo": tr("Tremolo"), "grace": tr("Grace note"),
    }[ornament]  # fmt: skip


def reference_name(name: str) -> str:
    """Display name of a reference such as ``just:D``."""
    head, _, tail = name.partition(":")
    plain = {
        "equal": tr("equal"),
        "pythagorean": tr("Pythagorean"),
        "ring": tr("ring"),
        "meantone": tr("meantone"),
    }
    if head == "just" and tail:
        return tr("pure over {tonic}").format(tonic=letter_name(PitchClass.parse(tail)))
    return plain.get(head, name)


def cents_text(cents: float) -> str:
    """Signed whole cents with a true minus, for instance −14."""
    whole = round(cents)
    if whole == 0:
        return "0"
    return f"+{whole}" if whole > 0 else f"−{-whole}"


def low_high(cents: float) -> str:
    """``14 low``, ``6 high`` or ``in tune`` when it rounds to nothing."""
    whole = round(abs(cents))
    if whole == 0:
        return tr("0 off")
    return tr("{n} low").format(n=whole) if cents < 0 else tr("{n} high").format(n=whole)
