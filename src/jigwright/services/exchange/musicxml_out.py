"""Writing MusicXML 4.0: one part, one staff; what has no element of its own is an own mark."""

from __future__ import annotations

from fractions import Fraction
from math import lcm
from xml.etree.ElementTree import Element, SubElement, indent, tostring

from jigwright.core.jig.model import Bar, Event, Jig, Notehead, Ornament
from jigwright.core.jig.places import EventPlaces
from jigwright.core.music.harmonics import touched_pitch
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.services.exchange.musicxml_in import OWN_MARK
from jigwright.services.mei import split_length

_CLEFS = {"treble": ("G", "2"), "alto": ("C", "3"), "bass": ("F", "4")}
_TYPES = {
    Fraction(4): "whole", Fraction(2): "half", Fraction(1): "quarter", Fraction(1, 2): "eighth",
    Fraction(1, 4): "16th", Fraction(1, 8): "32nd", Fraction(1, 16): "64th",
    Fraction(1, 32): "128th",
}  # fmt: skip
_NAMES = {"violin": "Violin", "viola": "Viola", "cello": "Violoncello", "bass": "Contrabass"}


def write_musicxml(jig: Jig, *, program: str = "Jigwright") -> bytes:
    """Write a jig as an uncompressed MusicXML file."""
    root = Element("score-partwise", version="4.0")
    SubElement(SubElement(root, "work"), "work-title").text = jig.title
    SubElement(
        SubElement(SubElement(root, "identification"), "encoding"), "software"
    ).text = program
    score_part = SubElement(SubElement(root, "part-list"), "score-part", id="P1")
    SubElement(score_part, "part-name").text = _NAMES[jig.instrument_id]
    part = SubElement(root, "part", id="P1")
    _Writer(jig).write(part)
    indent(root, space=" ")
    return str.encode(
        '<?xml version="1.0" encoding="UTF-8"?>\n' + tostring(root, encoding="unicode") + "\n"
    )


MOST_DIVISIONS = 2**20 * 315  # of a quarter note; odder lengths are rounded to these


class _Writer:
    def __init__(self, jig: Jig) -> None:
        self._jig = jig
        self._inst = instrument(jig.instrument_id)
        ends = [e.onset_beats.denominator for e in jig.events]
        ends += [e.end_beats.denominator for e in jig.events]
        whole = lcm(32, *set(ends))
        self._divisions = min(whole, MOST_DIVISIONS)
        self._places = EventPlaces(jig)
        self._slurs = _slurs(jig)
        self._pluck = False

    def write(self, part: Element) -> None:
        before: Bar | None = None
        for bar in self._jig.bars():
            measure = SubElement(part, "measure", number=str(bar.number))
            full = Fraction(bar.metre[0] * 4, bar.metre[1])
            if bar.length_beats < full:
                measure.set("implicit", "yes")
            self._attributes(measure, before, bar)
            if before is None:
                direction = SubElement(measure, "direction")
                kind = SubElement(SubElement(direction, "direction-type"), "metronome")
                SubElement(kind, "beat-unit").text = "quarter"
                SubElement(kind, "per-minute").text = f"{self._jig.tempo_bpm:g}"
                SubElement(direction, "sound", tempo=f"{self._jig.tempo_bpm:g}")
            self._notes(measure, bar)
            before = bar

    def _attributes(self, measure: Element, before: Bar | None, bar: Bar) -> None:
        new_key = before is None or before.key != bar.key
        new_metre = before is None or before.metre != bar.metre
        if not new_key and not new_metre:
            return
        attributes = SubElement(measure, "attributes")
        if before is None:
            SubElement(attributes, "divisions").text = str(self._divisions)
        if new_key:
            key = SubElement(attributes, "key")
            SubElement(key, "fifths").text = str(max(-7, min(7, bar.key.fifths)))
            minor = bar.key.mode.endswith("minor")
            SubElement(key, "mode").text = "minor" if minor else bar.key.mode
        if new_metre:
            time = SubElement(attributes, "time")
            SubElement(time, "beats").text = str(bar.metre[0])
            SubElement(time, "beat-type").text = str(bar.metre[1])
        if before is None:
            sign, line = _CLEFS[self._inst.clef]
            clef = SubElement(attributes, "clef")
            SubElement(clef, "sign").text = sign
            SubElement(clef, "line").text = line
            if self._inst.written_octaves_up:
                transpose = SubElement(attributes, "transpose")
                SubElement(transpose, "chromatic").text = "0"
                SubElement(transpose, "octave-change").text = str(-self._inst.written_octaves_up)

    def _notes(self, measure: Element, bar: Bar) -> None:
        start, end = bar.start_beats, bar.start_beats + bar.length_beats
        at = start
        for event in self._places.between(start, end):
            if event.onset_beats > at:
                self._rest(measure, event.onset_beats - at)
            a, b = max(event.onset_beats, start), min(event.end_beats, end)
            if a == event.onset_beats:
                self._directions(measure, event)
            self._event(measure, event, a, b)
            at = b
        if at < end:
            self._rest(measure, end - at)

    def _rest(self, measure: Element, beats: Fraction) -> None:
        note = SubElement(measure, "note")
        SubElement(note, "rest")
        self._duration(note, beats)

    def _duration(self, note: Element, beats: Fraction) -> None:
        SubElement(note, "duration").text = str(round(beats * self._divisions))

    def _directions(self, measure: Element, event: Event) -> None:
        if event.dynamic:
            direction = SubElement(measure, "direction", placement="below")
            kind = SubElement(SubElement(direction, "direction-type"), "dynamics")
            SubElement(kind, event.dynamic)
        if event.pluck != self._pluck:
            self._pluck = event.pluck
            direction = SubElement(measure, "direction", placement="above")
            words = SubElement(SubElement(direction, "direction-type"), "words")
            words.text = "pizz." if event.pluck else "arco"
            SubElement(direction, "sound", pizzicato="yes" if event.pluck else "no")

    def _event(self, measure: Element, event: Event, a: Fraction, b: Fraction) -> None:
        triplet = (b - a).denominator % 3 == 0
        whole = (b - a) * Fraction(3, 2) if triplet else b - a
        pieces = list(split_length(whole))
        if sum(pieces, Fraction(0)) != whole:
            pieces = [whole]
        first = a == event.onset_beats
        if first:
            for grace in event.graces:
                note = SubElement(measure, "note")
                SubElement(note, "grace", slash="yes")
                self._pitch(note, grace.step, grace.alter, grace.octave)
        for k, written in enumerate(pieces):
            begins = first and k == 0
            ends = b == event.end_beats and k == len(pieces) - 1
            for head in event.heads:
                self._head(measure, event, head, written, begins=begins, ends=ends, triplet=triplet)

    def _head(
        self, measure: Element, event: Event, head: Notehead, written: Fraction, *,
        begins: bool, ends: bool, triplet: bool,
    ) -> None:  # fmt: skip
        note = SubElement(measure, "note")
        if head is not event.heads[0]:
            SubElement(note, "chord")
        shown = head.stopped or head.pitch
        self._pitch(note, shown.step, shown.alter, shown.octave)
        self._duration(note, written * Fraction(2, 3) if triplet else written)
        if not begins:
            SubElement(note, "tie", type="stop")
        if not ends:
            SubElement(note, "tie", type="start")
        SubElement(note, "voice").text = "1"
        base = next((v for v in _TYPES if v == written or v * Fraction(3, 2) == written), None)
        if base is not None:
            SubElement(note, "type").text = _TYPES[base]
            if base != written:
                SubElement(note, "dot")
        if triplet:
            ratio = SubElement(note, "time-modification")
            SubElement(ratio, "actual-notes").text = "3"
            SubElement(ratio, "normal-notes").text = "2"
        self._notations(note, event, head, begins=begins, ends=ends)
        if head.stopped is not None and begins:
            self._touched(measure, head.stopped, head.partial, note)

    def _touched(self, measure: Element, stopped: Pitch, partial: int, below: Element) -> None:
        """The touching note of an artificial harmonic, as a diamond in the chord."""
        touched = touched_pitch(stopped, partial)
        note = SubElement(measure, "note")
        SubElement(note, "chord")
        self._pitch(note, touched.step, touched.alter, touched.octave)
        for name in ("duration", "voice", "type", "dot", "time-modification"):
            note.extend(below.findall(name))
        SubElement(note, "notehead").text = "diamond"
        technical = SubElement(SubElement(note, "notations"), "technical")
        harmonic = SubElement(technical, "harmonic")
        SubElement(harmonic, "artificial")
        SubElement(harmonic, "touching-pitch")

    def _pitch(self, note: Element, step: str, alter: int, octave: int) -> None:
        pitch = SubElement(note, "pitch")
        SubElement(pitch, "step").text = step
        if alter:
            SubElement(pitch, "alter").text = str(alter)
        SubElement(pitch, "octave").text = str(octave + self._inst.written_octaves_up)

    def _notations(
        self, note: Element, event: Event, head: Notehead, *, begins: bool, ends: bool
    ) -> None:
        notations = Element("notations")
        if not begins:
            SubElement(notations, "tied", type="stop")
        if not ends:
            SubElement(notations, "tied", type="start")
        if head is event.heads[0]:
            starts, stops = self._slurs.get(event.id, (False, False))
            if starts and begins:
                SubElement(notations, "slur", type="start", number="1")
            if stops and ends:
                SubElement(notations, "slur", type="stop", number="1")
            if event.glide and begins:
                SubElement(notations, "slide", type="stop", number="1")
        if begins:
            if event.ornament and head is event.heads[0]:
                _ornament(SubElement(notations, "ornaments"), event.ornament)
            technical = self._technical(event, head)
            if len(technical):
                notations.append(technical)
            if event.lifted and head is event.heads[0]:
                SubElement(SubElement(notations, "articulations"), "staccato")
        if len(notations):
            note.append(notations)

    def _technical(self, event: Event, head: Notehead) -> Element:
        technical = Element("technical")
        if head is event.heads[0]:
            if event.bow:
                SubElement(technical, f"{event.bow}-bow")
            own = []
            if event.free:
                own.append("free")
            if event.vibrato is not None:
                own.append(f"vibrato={'yes' if event.vibrato else 'no'}")
            if event.shape:
                own.append(f"shape={event.shape}")
            for mark in own:
                SubElement(technical, "other-technical").text = OWN_MARK + mark
        if head.partial > 1:
            harmonic = SubElement(technical, "harmonic")
            SubElement(harmonic, "natural" if head.stopped is None else "artificial")
            if head.stopped is not None:
                SubElement(harmonic, "base-pitch")
        if head.string is not None:
            SubElement(technical, "string").text = str(len(self._inst.strings) - head.string)
        if head.finger == 5:
            SubElement(technical, "thumb-position")
        elif head.finger is not None:
            SubElement(technical, "fingering").text = str(head.finger)
        return technical


def _ornament(into: Element, ornament: Ornament) -> None:
    if ornament == "tremolo":
        SubElement(into, "tremolo", type="single").text = "3"
    else:
        SubElement(into, "trill-mark" if ornament == "trill" else ornament)


def _slurs(jig: Jig) -> dict[str, tuple[bool, bool]]:
    """Events at which a slur starts or stops."""
    result: dict[str, tuple[bool, bool]] = {}
    events = jig.events
    i = 0
    while i < len(events):
        stop = i
        while (
            stop + 1 < len(events)
            and events[stop + 1].bow is None
            and not events[stop + 1].pluck
            and not events[stop].pluck
            and events[stop + 1].onset_beats == events[stop].end_beats
        ):
            stop += 1
        if stop > i:
            result[events[i].id] = (True, False)
            result[events[stop].id] = (False, True)
        i = stop + 1
    return result
