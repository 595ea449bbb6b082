"""Marks of a MusicXML score: which of them a jig knows, and the text of those it only keeps.

Nothing goes silently: what is neither known nor short enough to be kept is named with its bar.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any
from xml.etree.ElementTree import Element, ParseError, tostring

from defusedxml import ElementTree as SafeET
from defusedxml.common import DefusedXmlException

from jigwright.core.jig.model import MARKS, SHAPES, Mark, Ornament
from jigwright.core.jig.signs import JUMPS, MOST_SIGN_TEXT, Sign

OWN_MARK = "jigwright:"
ORNAMENT_OF: dict[str, Ornament] = {
    "trill-mark": "trill", "shake": "trill", "mordent": "mordent", "inverted-mordent": "mordent",
    "turn": "turn", "inverted-turn": "turn", "delayed-turn": "turn",
    "delayed-inverted-turn": "turn", "tremolo": "tremolo",
}  # fmt: skip
MARK_OF: dict[str, Mark] = {
    "accent": "accent", "strong-accent": "marcato", "tenuto": "tenuto",
    "detached-legato": "portato", "staccatissimo": "staccatissimo", "spiccato": "spiccato",
    "breath-mark": "breath", "caesura": "pause",
}  # fmt: skip
ELEMENT_OF = {mark: name for name, mark in MARK_OF.items()}
SLASHES: dict[str, Mark] = {"1": "slash1", "2": "slash2", "4": "slash4"}
DRIFT_BEATS = Fraction(1, 50)
"""Programs round lengths to their ticks; what is off by less is meant as it is printed."""
_SHORT = ("staccato", "staccatissimo", "spiccato", "detached-legato")
_LAYOUT = re.compile(r"^(default-|relative-|font-|color$|bezier-|print-|id$|enclosure$|justify$)")
_HEARD_ELSEWHERE = ("slur", "tied", "tuplet", "slide", "glissando", "fermata", "arpeggiate",
                    "dynamics", "articulations", "ornaments", "technical")  # fmt: skip
_UNITS = {
    "breve": Fraction(8), "whole": Fraction(4), "half": Fraction(2), "quarter": Fraction(1),
    "eighth": Fraction(1, 2), "16th": Fraction(1, 4), "32nd": Fraction(1, 8),
    "64th": Fraction(1, 16), "128th": Fraction(1, 32),
}  # fmt: skip


@dataclass(slots=True)
class Marked:
    """What stands over a note.

    Parameters
    ----------
    marks : set of Mark
    fields : dict
        Of :class:`~jigwright.core.jig.model.Event`.
    bow : str or None
        A written direction.
    dynamics : list of str
    kept : list of str
        Texts of what is only kept.
    lost : set of str
        Names of what cannot be kept.
    """

    marks: set[Mark] = field(default_factory=set)
    fields: dict[str, Any] = field(default_factory=dict)
    bow: Any = None
    dynamics: list[str] = field(default_factory=list)
    kept: list[str] = field(default_factory=list)
    lost: set[str] = field(default_factory=set)

    def keep(self, element: Element, *around: str) -> None:
        """Keep a mark as its own text, inside the elements it belongs into."""
        text = kept_text(element, *around)
        if text is None:
            self.lost.add("other_mark")
        else:
            self.kept.append(text)


def marks_of(note: Element, *, is_first: bool = True) -> Marked:
    """Read the marks of a note.

    Parameters
    ----------
    note : Element
    is_first : bool
        Not a note that a tie goes on to: an ornament there is only kept.
    """
    found = Marked()
    for notations in note.iterfind("notations"):
        for mark in notations:
            _notation(mark, found, is_first=is_first)
    for lyric in note.iterfind("lyric"):
        found.keep(lyric)
    return found


def _notation(mark: Element, found: Marked, *, is_first: bool) -> None:
    match mark.tag:
        case "fermata":
            found.marks.add("fermata")
        case "arpeggiate":
            found.marks.add("rolled")
        case "dynamics":
            found.dynamics += [name_of_dynamic(d) for d in mark]
        case "slide" | "glissando" if mark.get("type") == "stop":
            found.fields["glide"] = True
        case "articulations":
            for inner in mark:
                _articulation(inner, found)
        case "ornaments":
            for inner in mark:
                _ornament(inner, found, is_first=is_first)
        case "technical":
            for inner in mark:
                _technical(inner, found)
        case tag if tag not in _HEARD_ELSEWHERE:
            found.keep(mark)


def _articulation(mark: Element, found: Marked) -> None:
    if mark.tag in _SHORT:
        found.fields["lifted"] = True
    if mark.tag in MARK_OF:
        found.marks.add(MARK_OF[mark.tag])
    elif mark.tag != "staccato":
        found.keep(mark, "articulations")


def _ornament(mark: Element, found: Marked, *, is_first: bool) -> None:
    known = ORNAMENT_OF.get(mark.tag)
    slashes = (mark.text or "3").strip()
    tremolo = mark.tag == "tremolo"
    alone = mark.get("type") in (None, "single") and slashes in ("1", "2", "3", "4")
    if known is None or not is_first or "ornament" in found.fields or (tremolo and not alone):
        found.keep(mark, "ornaments")
        return
    found.fields["ornament"] = known
    if tremolo and slashes != "3":
        found.marks.add(SLASHES[slashes])
    if "inverted" in mark.tag:
        found.marks.add("inverted")
    if "delayed" in mark.tag:
        found.marks.add("delayed")


def _technical(mark: Element, found: Marked) -> None:
    text = (mark.text or "").strip()
    match mark.tag:
        case "up-bow" | "down-bow":
            if found.bow is not None:
                found.keep(mark, "technical")
            found.bow = found.bow or mark.tag.removesuffix("-bow")
        case "snap-pizzicato":
            found.marks.add("snap")
        case "other-technical" if text.startswith(OWN_MARK):
            _own(text, found)
        case "fingering" if text.isdigit() and int(text) <= 5:
            if "finger" in found.fields:
                found.keep(mark, "technical")
            found.fields.setdefault("finger", int(text))
        case "string" if text.isdigit():
            found.fields["string"] = int(text)
        case "thumb-position":
            found.fields["finger"] = 5
        case "harmonic" if (
            mark.find("base-pitch") is not None
            or mark.find("touching-pitch") is not None
            or mark.find("sounding-pitch") is not None
        ):
            pass  # read with its pitches
        case "harmonic" if mark.find("artificial") is None:
            found.fields["natural"] = True
        case _:
            found.keep(mark, "technical")


def _own(text: str, found: Marked) -> None:
    name, _, value = text.removeprefix(OWN_MARK).partition("=")
    if name == "free":
        found.fields["free"] = True
    elif name == "vibrato":
        found.fields["vibrato"] = value == "yes"
    elif name == "shape" and value in SHAPES:
        found.fields["shape"] = value
    elif name in ("bow_share", "bow_place"):
        share = _share(value)
        if share is not None:
            found.fields[name] = share


def _share(text: str) -> float | None:
    try:
        value = float(text)
    except ValueError:
        return None
    return value if 0.0 <= value <= 1.0 else None


def in_mark_order(marks: set[Mark]) -> tuple[Mark, ...]:
    """Marks in the order in which a jig holds them."""
    return tuple(m for m in MARKS if m in marks)


def name_of_dynamic(mark: Element) -> str:
    """``sfz`` and its like; words for others."""
    return " ".join((mark.text or "").split()) if mark.tag == "other-dynamics" else mark.tag


def kept_text(element: Element, *around: str) -> str | None:
    """A mark as one line of XML without its layout; None if it is too long."""
    copy = SafeET.fromstring(tostring(element, encoding="unicode"))
    for inner in copy.iter():
        for name in [n for n in inner.attrib if _LAYOUT.match(n)]:
            del inner.attrib[name]
        inner.text = " ".join((inner.text or "").split()) or None
        inner.tail = None
    text = tostring(copy, encoding="unicode")
    for tag in reversed(around):
        text = f"<{tag}>{text}</{tag}>"
    fits = len(text) <= MOST_SIGN_TEXT and text.isprintable()
    return text if fits else None


def kept_element(text: str) -> Element | None:
    """The element of a kept text; None if it is none."""
    try:
        element: Element = SafeET.fromstring(text)
    except (DefusedXmlException, ParseError, ValueError, LookupError, RecursionError):
        return None
    return element


def printed_length(note: Element, beats: Fraction) -> Fraction:
    """The length of a note as its value, dots and tuplet say, where the duration is rounded."""
    unit = _UNITS.get(note.findtext("type") or "")
    actual = note.findtext("time-modification/actual-notes") or "1"
    normal = note.findtext("time-modification/normal-notes") or "1"
    if unit is None or not (actual.isdigit() and normal.isdigit() and int(actual)):
        return beats
    dots = len(note.findall("dot"))
    printed = unit * (2 - Fraction(1, 2**dots)) * Fraction(int(normal), int(actual))
    return printed if abs(printed - beats) <= min(DRIFT_BEATS, beats / 8) else beats


# beside the notes -----------------------------------------------------------------------------


def tempo_of(metronome: Element) -> tuple[str, float] | None:
    """Note value in quarter notes, and quarter notes a minute; None if it says something else."""
    unit = _UNITS.get(metronome.findtext("beat-unit") or "")
    text = (metronome.findtext("per-minute") or "").strip().removeprefix("c. ")
    others = [m for m in metronome if m.tag not in ("beat-unit", "beat-unit-dot", "per-minute")]
    if unit is None or others or not re.fullmatch(r"\d{1,4}(\.\d{1,4})?", text):
        return None
    dots = len(metronome.findall("beat-unit-dot"))
    unit *= 2 - Fraction(1, 2**dots)
    return str(unit), float(text) * float(unit)


def printed_unit(unit: Fraction) -> tuple[str, int]:
    """Name and dots of the note value of a tempo."""
    for name, value in _UNITS.items():
        for dots in range(3):
            if value * (2 - Fraction(1, 2**dots)) == unit:
                return name, dots
    return "quarter", 0


def words_of(element: Element) -> str:
    """Printed words in one line."""
    return "".join(c for c in " ".join((element.text or "").split()) if c.isprintable())


def plucking(text: str) -> bool | None:
    """What words say about plucking; None if nothing."""
    text = text.lower()
    if "pizz" in text:
        return True
    return False if "arco" in text else None


def jumps_of(sound: Element) -> Iterator[str]:
    """Jumps that a sound element names."""
    for name in JUMPS:
        if sound.get(name) is not None:
            yield name


def above_of(direction: Element) -> bool | None:
    """Where a direction stands, if it says so."""
    return {"above": True, "below": False}.get(direction.get("placement", ""))


def barline_signs(element: Element, at: Fraction, *, left: bool) -> Iterator[Sign]:
    """Repeats and styles of a bar line; endings last and are not among them."""
    repeat = element.find("repeat")
    style = (element.findtext("bar-style") or "").strip()
    if repeat is not None and repeat.get("direction") in ("forward", "backward"):
        times = repeat.get("times", "")
        yield Sign(
            kind="repeat", at_beats=at, text=str(repeat.get("direction")),
            value=float(times) if times.isdigit() and len(times) < 3 else None,
        )  # fmt: skip
    elif style and style != "regular":
        yield Sign(kind="barline", at_beats=at, text=("left " if left else "") + style[:20])
    if element.find("fermata") is not None:
        yield Sign(kind="fermata", at_beats=at, text="barline")
    for name in ("segno", "coda"):
        if element.find(name) is not None:
            yield Sign(kind="jump", at_beats=at, text=name)
