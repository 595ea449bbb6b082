"""Names of notes, fingers, strings and references."""

from __future__ import annotations

from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.wording.catalogue import tr

_SIGN = {-2: "♭♭", -1: "♭", 0: "", 1: "♯", 2: "♯♯", 3: "♯♯♯", -3: "♭♭♭"}


def class_name(pitch: Pitch | PitchClass) -> str:
    """Letter with sign, for instance F♯."""
    return f"{pitch.step}{_SIGN[pitch.alter]}"


def pitch_name(pitch: Pitch) -> str:
    """Letter, sign and octave, for instance F♯4."""
    return f"{class_name(pitch)}{pitch.octave}"


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
    return tr("{letter} string").format(letter=class_name(string))


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
        return tr("pure over {tonic}").format(tonic=class_name(PitchClass.parse(tail)))
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
