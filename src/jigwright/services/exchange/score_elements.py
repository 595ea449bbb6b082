"""Small elements of a MusicXML file: clefs, note values, endings, names of ornaments."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise
from math import lcm
from xml.etree.ElementTree import Element, SubElement

from jigwright.core.jig.model import Event, Jig
from jigwright.core.jig.signs import Sign
from jigwright.core.jig.written import Written

_TYPES = {
    Fraction(8): "breve", Fraction(4): "whole", Fraction(2): "half", Fraction(1): "quarter",
    Fraction(1, 2): "eighth", Fraction(1, 4): "16th", Fraction(1, 8): "32nd",
    Fraction(1, 16): "64th", Fraction(1, 32): "128th",
}  # fmt: skip
_ORNAMENTS = {
    ("trill", False, False): "trill-mark", ("mordent", False, False): "mordent",
    ("mordent", True, False): "inverted-mordent", ("turn", False, False): "turn",
    ("turn", True, False): "inverted-turn", ("turn", False, True): "delayed-turn",
    ("turn", True, True): "delayed-inverted-turn",
}  # fmt: skip
MOST_DIVISIONS = 2**20 * 315  # of a quarter note; odder lengths are rounded to these


def ornament_element(event: Event) -> str:
    """Name of an event's ornament in the file."""
    key = (event.ornament or "", "inverted" in event.marks, "delayed" in event.marks)
    return _ORNAMENTS.get(key, "trill-mark")


def glides_of(jig: Jig) -> set[str]:
    """Events from which a glide leads on."""
    return {a.id for a, b in pairwise(jig.events) if b.glide}


def own_marks(event: Event) -> list[str]:
    """What has no element of its own."""
    own = []
    if event.free:
        own.append("free")
    if event.vibrato is not None:
        own.append(f"vibrato={'yes' if event.vibrato else 'no'}")
    if event.shape:
        own.append(f"shape={event.shape}")
    if event.bow_share is not None:
        own.append(f"bow_share={event.bow_share:g}")
    if event.bow_place is not None:
        own.append(f"bow_place={event.bow_place:g}")
    return own


def divisions_for(jig: Jig) -> int:
    """Parts of a quarter note that every moment of a jig is a multiple of."""
    times = [e.onset_beats for e in jig.events] + [e.end_beats for e in jig.events]
    times += [e.onset_beats + h.length_beats for e in jig.events for h in e.heads if h.length_beats]
    times += [s.at_beats for s in jig.signs]
    times += [s.end_beats for s in jig.signs if s.end_beats is not None]
    times += [b.length_beats for b in jig.bars()]
    return min(lcm(32, *{t.denominator for t in times}), MOST_DIVISIONS)


def put_clef(attributes: Element, text: str) -> None:
    """Write a clef such as ``C4``."""
    sign = text.rstrip("-0123456789")
    numbers = text[len(sign) :]
    clef = SubElement(attributes, "clef")
    SubElement(clef, "sign").text = sign or "G"
    if numbers[:1].isdigit():
        SubElement(clef, "line").text = numbers[0]
        numbers = numbers[1:]
    if numbers:
        SubElement(clef, "clef-octave-change").text = numbers


def put_type(note: Element, piece: Written) -> None:
    """Write the printed value of a note, its dot and its tuplet."""
    value = piece.value
    base = next((v for v in _TYPES if v == value or v * Fraction(3, 2) == value), None)
    if base is not None:
        SubElement(note, "type").text = _TYPES[base]
        if base != value:
            SubElement(note, "dot")
    if piece.tuplet is not None:
        ratio = SubElement(note, "time-modification")
        SubElement(ratio, "actual-notes").text = str(piece.tuplet[0])
        SubElement(ratio, "normal-notes").text = str(piece.tuplet[1])


def put_ending(made: Element, sign: Sign, at: Fraction, *, left: bool) -> None:
    """Write an ending at the bar line where it begins or stops."""
    if left and sign.at_beats == at:
        SubElement(made, "ending", number=sign.text, type="start")
    elif not left and sign.end_beats == at and sign.at_beats < at:
        kind = "stop" if sign.value is not None else "discontinue"
        SubElement(made, "ending", number=sign.text, type=kind)
