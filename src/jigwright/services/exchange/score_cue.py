"""Another part of a score, read as an accompaniment: only what sounds, and when."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from xml.etree.ElementTree import Element

from jigwright.core.errors import ScoreError
from jigwright.core.jig.cue import CueNote, with_cue
from jigwright.core.jig.imported import Imported
from jigwright.core.jig.model import Bar
from jigwright.services.exchange.score_file import parsed, unpacked

_STEPS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}


def with_cue_part(data: bytes, got: Imported, i_part: int) -> Imported:
    """What was read of a score, with another of its parts as accompaniment.

    Parameters
    ----------
    data : bytes
        The same file.
    got : Imported
    i_part : int

    Raises
    ------
    ScoreError
        ``no_part`` if there is no such part.
    """
    parts = parsed(unpacked(data)).findall("part")
    if not 0 <= i_part < len(parts):
        raise ScoreError("no_part", f"part {i_part + 1} of {len(parts)}")
    return replace(got, jig=with_cue(got.jig, _tied(_notes(parts[i_part], got.jig.bars()))))


def _notes(part: Element, bars: tuple[Bar, ...]) -> Iterator[tuple[CueNote, bool]]:
    """Notes by bar, and whether one only goes on from a tie; bars lie as they do in the jig."""
    divisions, chromatic = Fraction(1), 0
    for bar, measure in zip(bars, part.iterfind("measure"), strict=False):
        at = last = Fraction(0)
        for element in measure:
            if element.tag == "attributes":
                divisions = _number(element.findtext("divisions")) or divisions
                chromatic = _transposed(element, chromatic)
            length = _number(element.findtext("duration")) / divisions
            if element.tag == "backup":
                at = max(Fraction(0), at - length)
            elif element.tag == "forward":
                at += length
            elif element.tag == "note" and element.find("grace") is None:
                start = last if element.find("chord") is not None else at
                if element.find("chord") is None:
                    last, at = at, at + length
                midi = _midi(element)
                if midi is not None and 0 <= midi + chromatic < 128:
                    onset = bar.start_beats + start
                    end = min(onset + length, bar.start_beats + bar.length_beats)
                    tied = any(t.get("type") == "stop" for t in element.iterfind("tie"))
                    yield CueNote(onset_beats=onset, end_beats=end, midi=midi + chromatic), tied


def _tied(rows: Iterator[tuple[CueNote, bool]]) -> list[CueNote]:
    """Notes that a tie goes on with are one."""
    found: list[CueNote] = []
    open_at: dict[tuple[Fraction, int], int] = {}
    for note, goes_on in rows:
        k = open_at.pop((note.onset_beats, note.midi), None) if goes_on else None
        if k is None:
            k = len(found)
            found.append(note)
        else:
            found[k] = replace(found[k], end_beats=note.end_beats)
        open_at[note.end_beats, note.midi] = k
    return found


def _transposed(attributes: Element, before: int) -> int:
    text = attributes.findtext("transpose/chromatic")
    if text is None:
        return before
    octaves = _number(attributes.findtext("transpose/octave-change"))
    return int(_number(text) + 12 * octaves)


def _midi(note: Element) -> int | None:
    step, octave = note.findtext("pitch/step"), note.findtext("pitch/octave")
    if step is None or octave is None or step.strip() not in _STEPS:
        return None
    alter = _number(note.findtext("pitch/alter"))
    return int(12 * (_number(octave) + 1) + _STEPS[step.strip()] + round(alter))


def _number(text: str | None) -> Fraction:
    try:
        value = Fraction((text or "0").strip())
    except (ValueError, ZeroDivisionError):
        return Fraction(0)
    return value if abs(value) < 10**6 else Fraction(0)
