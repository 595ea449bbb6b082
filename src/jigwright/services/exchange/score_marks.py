"""Marks of a score: what each becomes in a jig, and which have no place there.

Whatever a jig cannot hold is named with its bar; nothing goes silently.
"""

from __future__ import annotations

from collections.abc import Iterator
from xml.etree.ElementTree import Element

from jigwright.core.jig.model import DYNAMICS, Ornament

ORNAMENT_OF: dict[str, Ornament] = {
    "trill-mark": "trill", "shake": "trill", "mordent": "mordent", "inverted-mordent": "mordent",
    "turn": "turn", "inverted-turn": "turn", "delayed-turn": "turn",
    "delayed-inverted-turn": "turn", "tremolo": "tremolo",
}  # fmt: skip
_PART_OF_ANOTHER = {"wavy-line", "accidental-mark"}
_ARTICULATION = {
    "accent": "accent", "strong-accent": "accent", "soft-accent": "accent", "stress": "accent",
    "tenuto": "tenuto", "detached-legato": "tenuto", "breath-mark": "breath", "caesura": "breath",
}  # fmt: skip
_KEPT_ARTICULATION = {"staccato", "staccatissimo", "unstress"}
_KEPT_TECHNICAL = {
    "up-bow", "down-bow", "other-technical", "fingering", "string", "harmonic", "open-string",
    "thumb-position",
}  # fmt: skip


def lost_of_note(element: Element) -> Iterator[str]:
    """What of a note's marks a jig does not hold.

    Parameters
    ----------
    element : Element
        A note.

    Yields
    ------
    str
        One of :data:`~jigwright.core.jig.imported.MARK_LOSSES`.
    """
    for notations in element.iterfind("notations"):
        if notations.find("fermata") is not None:
            yield "fermata"
        if notations.find("arpeggiate") is not None:
            yield "arpeggio"
        if notations.find("dynamics") is not None:
            yield "dynamics"
        for mark in notations.iterfind("articulations/*"):
            if mark.tag not in _KEPT_ARTICULATION:
                yield _ARTICULATION.get(mark.tag, "other_mark")
        for mark in notations.iterfind("ornaments/*"):
            if mark.tag not in ORNAMENT_OF and mark.tag not in _PART_OF_ANOTHER:
                yield "ornament"
        for mark in notations.iterfind("technical/*"):
            if mark.tag not in _KEPT_TECHNICAL:
                yield "other_mark"


def lost_of_direction(element: Element, *, has_tempo: bool) -> Iterator[str]:
    """What of a direction a jig does not hold.

    Parameters
    ----------
    element : Element
        A direction.
    has_tempo : bool
        The jig has its tempo; another one has no place.
    """
    for kind in element.iterfind("direction-type/*"):
        match kind.tag:
            case "wedge" if kind.get("type") in ("crescendo", "diminuendo"):
                yield "hairpin"
            case "words":
                text = (kind.text or "").lower()
                if text.strip() and "pizz" not in text and "arco" not in text:
                    yield "words"
            case "dynamics":
                if any(mark.tag not in DYNAMICS for mark in kind):
                    yield "dynamics"
            case "metronome" if has_tempo:
                yield "tempo"
            case "octave-shift" if kind.get("type") in ("up", "down"):
                yield "octave_line"
            case "pedal" if kind.get("type") == "start":
                yield "pedal"
            case "rehearsal" | "segno" | "coda" | "dashes" | "bracket" | "string-mute":
                if kind.get("type") not in ("stop", "continue"):
                    yield "other_mark"


def lost_of_barline(element: Element) -> Iterator[str]:
    """What of a bar line a jig does not hold."""
    if element.find("repeat") is not None:
        yield "repeat"
    ending = element.find("ending")
    if ending is not None and ending.get("type") == "start":
        yield "ending"
    if element.find("fermata") is not None:
        yield "fermata"
