"""Writing MusicXML 4.0: one part, one staff, as many voices as there are.

What has no element of its own is an own mark; what was only kept comes out where it stood. Bowings
that were proposed, not written, are left out unless asked for.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from math import lcm
from xml.etree.ElementTree import Element, SubElement, indent, tostring

from jigwright.core.jig.model import Bar, Event, Jig, Mark, Notehead
from jigwright.core.jig.signs import Sign
from jigwright.core.jig.voices import drawn_slurs
from jigwright.core.jig.written import Written, WrittenHead, WrittenVoices, leader
from jigwright.core.music.harmonics import touched_pitch
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.services.exchange.score_marks import (
    ELEMENT_OF,
    OWN_MARK,
    SLASHES,
    kept_element,
    plucking,
    printed_unit,
)

_TYPES = {
    Fraction(8): "breve", Fraction(4): "whole", Fraction(2): "half", Fraction(1): "quarter",
    Fraction(1, 2): "eighth", Fraction(1, 4): "16th", Fraction(1, 8): "32nd",
    Fraction(1, 16): "64th", Fraction(1, 32): "128th",
}  # fmt: skip
_NAMES = {"violin": "Violin", "viola": "Viola", "cello": "Violoncello", "bass": "Contrabass"}
_ORNAMENTS = {
    ("trill", False, False): "trill-mark", ("mordent", False, False): "mordent",
    ("mordent", True, False): "inverted-mordent", ("turn", False, False): "turn",
    ("turn", True, False): "inverted-turn", ("turn", False, True): "delayed-turn",
    ("turn", True, True): "delayed-inverted-turn",
}  # fmt: skip
_ON_NOTES = ("articulations", "ornaments", "technical")
_DIRECTIONS = ("dynamic", "hairpin", "words", "tempo", "rehearsal", "jump", "octave_line", "clef")
_JUMP_VALUES = {"dacapo": "yes", "dalsegno": "segno", "tocoda": "coda", "fine": "yes"}
_LAST_TIE: tuple[Mark, ...] = ("breath", "pause")
MOST_DIVISIONS = 2**20 * 315  # of a quarter note; odder lengths are rounded to these


def write_musicxml(jig: Jig, *, program: str = "Jigwright", proposed: bool = False) -> bytes:
    """Write a jig as an uncompressed MusicXML file.

    Parameters
    ----------
    jig : Jig
    program : str
    proposed : bool
        Write proposed bowings and fingers as if somebody had written them.
    """
    root = Element("score-partwise", version="4.0")
    SubElement(SubElement(root, "work"), "work-title").text = jig.title
    SubElement(
        SubElement(SubElement(root, "identification"), "encoding"), "software"
    ).text = program
    score_part = SubElement(SubElement(root, "part-list"), "score-part", id="P1")
    SubElement(score_part, "part-name").text = _NAMES[jig.instrument_id]
    part = SubElement(root, "part", id="P1")
    _Writer(jig, proposed=proposed).write(part)
    indent(root, space=" ")
    return str.encode(
        '<?xml version="1.0" encoding="UTF-8"?>\n' + tostring(root, encoding="unicode") + "\n"
    )


@dataclass(frozen=True, slots=True)
class _Timed:
    """A direction at its moment; what ends comes before what begins."""

    at: Fraction
    rank: int
    sign: Sign
    ends: bool
    number: int = 1


class _Writer:
    def __init__(self, jig: Jig, *, proposed: bool) -> None:
        self._jig = jig
        self._inst = instrument(jig.instrument_id)
        self._proposed = proposed
        resting = (s.at_beats for s in jig.signs if s.kind in ("fermata", "kept", "clef"))
        self._voices = WrittenVoices(jig, cuts=resting)
        self._divisions = _divisions(jig)
        self._bars = jig.bars()
        self._slurs = _SlurEnds(jig)
        self._timed = _timed(jig)
        self._times = [t.at for t in self._timed]
        self._kept = _Waiting(s for s in jig.signs if s.kind == "kept" and not _is_direction(s))
        self._at_barlines = _by_time(
            s
            for s in jig.signs
            if s.kind in ("repeat", "barline") or (s.kind == "fermata" and s.text == "barline")
        )
        self._endings = [s for s in jig.signs if s.kind == "ending"]
        self._holds = _Waiting(s for s in jig.signs if s.kind == "fermata" and s.text == "rest")
        self._glides = _glides(jig)
        self._prints_tempo = not any(s.kind == "tempo" for s in jig.signs)
        self._at = Fraction(0)

    def write(self, part: Element) -> None:
        before: Bar | None = None
        for i, bar in enumerate(self._bars):
            last = i == len(self._bars) - 1
            again = before is not None and before.number == bar.number
            number = f"X{bar.number}" if again else str(bar.number)
            measure = SubElement(part, "measure", number=number)
            if bar.length_beats < Fraction(bar.metre[0] * 4, bar.metre[1]):
                measure.set("implicit", "yes")
            self._barline(measure, bar, left=True)
            self._attributes(measure, before, bar)
            if before is None and self._prints_tempo:
                unit = Fraction(1)
                self._tempo(measure, unit, self._jig.tempo_bpm)
            self._bar(measure, bar, last=last)
            self._barline(measure, bar, left=False)
            before = bar

    # bars ---------------------------------------------------------------------------------

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
            first = next((s for s in self._jig.signs if s.kind == "clef" and s.at_beats == 0), None)
            _clef(attributes, first.text if first is not None else self._inst.clef_sign)
            if self._inst.written_octaves_up:
                transpose = SubElement(attributes, "transpose")
                SubElement(transpose, "chromatic").text = "0"
                SubElement(transpose, "octave-change").text = str(-self._inst.written_octaves_up)

    def _barline(self, measure: Element, bar: Bar, *, left: bool) -> None:
        at = bar.start_beats if left else bar.start_beats + bar.length_beats
        made = Element("barline", location="left" if left else "right")
        here = self._at_barlines.get(at, ())
        for sign in here:
            if sign.kind == "barline" and sign.text.startswith("left ") == left:
                SubElement(made, "bar-style").text = sign.text.removeprefix("left ")
        if not left and any(s.kind == "fermata" for s in here):
            SubElement(made, "fermata")
        for sign in self._endings:
            _ending(made, sign, at, left=left)
        for sign in here:
            if sign.kind == "repeat" and (sign.text == "forward") == left:
                repeat = SubElement(made, "repeat", direction=sign.text)
                if sign.value is not None:
                    repeat.set("times", f"{sign.value:g}")
        if len(made):
            measure.append(made)

    def _bar(self, measure: Element, bar: Bar, *, last: bool) -> None:
        """Directions first where they stand, then voice after voice."""
        stop = bar.start_beats + bar.length_beats
        rows = self._voices.voices(bar)
        self._at = bar.start_beats
        first = bisect_left(self._times, bar.start_beats)
        behind = len(self._timed) if last else bisect_left(self._times, stop)
        waiting = self._timed[first:behind]
        for k, (voice, row) in enumerate(rows):
            if k:
                self._move(measure, "backup", self._at - bar.start_beats)
                self._at = bar.start_beats
            for piece in row:
                if k == 0:
                    waiting = self._directions(measure, waiting, piece)
                if piece.event is None and voice > 1:
                    self._move(measure, "forward", piece.end - piece.start)
                elif piece.event is None:
                    self._rest(measure, piece, bar)
                else:
                    self._chord(measure, piece, voice)
                self._at = piece.end
            if k == 0:
                for timed in waiting:
                    self._direction(measure, timed, timed.at - self._at)

    def _move(self, measure: Element, tag: str, beats: Fraction) -> None:
        if beats > 0:
            SubElement(SubElement(measure, tag), "duration").text = self._ticks(beats)

    def _ticks(self, beats: Fraction) -> str:
        return str(round(beats * self._divisions))

    # directions ---------------------------------------------------------------------------

    def _directions(self, measure: Element, waiting: list[_Timed], piece: Written) -> list[_Timed]:
        """Those before or inside a piece; returns the rest."""
        first = [t for t in waiting if t.at < piece.end]
        for timed in first:
            self._direction(measure, timed, timed.at - piece.start)
        return waiting[len(first) :]

    def _direction(self, measure: Element, timed: _Timed, offset: Fraction) -> None:
        sign = timed.sign
        if sign.kind == "clef":
            if sign.at_beats > 0:
                _clef(SubElement(measure, "attributes"), sign.text)
            return
        if sign.kind == "tempo" and not sign.text:
            self._sound(measure, "tempo", f"{self._bpm(sign):.10g}", offset)
            return
        if sign.kind == "jump" and sign.text in _JUMP_VALUES:
            self._sound(measure, sign.text, _JUMP_VALUES[sign.text], offset)
            return
        if sign.kind == "kept" and not sign.text.startswith("<direction-type"):
            kept = kept_element(sign.text)
            if kept is not None:
                measure.append(kept)
            return
        direction = SubElement(measure, "direction")
        if sign.above is not None:
            direction.set("placement", "above" if sign.above else "below")
        self._direction_type(direction, timed)
        if offset:
            SubElement(direction, "offset").text = self._ticks(offset)
        if sign.kind == "tempo":
            SubElement(direction, "sound", tempo=f"{self._bpm(sign):.10g}")
        elif sign.kind == "words" and (plucked := plucking(sign.text)) is not None:
            SubElement(direction, "sound", pizzicato="yes" if plucked else "no")

    def _sound(self, measure: Element, name: str, value: str, offset: Fraction) -> None:
        """Something that is heard and not printed."""
        sound = SubElement(measure, "sound")
        sound.set(name, value)
        if offset:
            SubElement(sound, "offset").text = self._ticks(offset)

    def _bpm(self, sign: Sign) -> float:
        if sign.at_beats == 0:
            return self._jig.tempo_bpm
        return sign.value or self._jig.tempo_bpm

    def _direction_type(self, direction: Element, timed: _Timed) -> None:
        sign = timed.sign
        if sign.kind == "kept":
            kept = kept_element(sign.text)
            direction.append(kept if kept is not None else Element("direction-type"))
            return
        kind = SubElement(direction, "direction-type")
        match sign.kind:
            case "dynamic":
                mark = sign.text if sign.text.isalpha() and sign.text.islower() else ""
                SubElement(SubElement(kind, "dynamics"), mark or "other-dynamics").text = (
                    None if mark else sign.text
                )
            case "hairpin":
                wedge = SubElement(kind, "wedge", type="stop" if timed.ends else sign.text)
                if timed.number > 1:
                    wedge.set("number", str(timed.number))
            case "tempo":
                name, dots = printed_unit(Fraction(sign.text))
                metronome = SubElement(kind, "metronome")
                SubElement(metronome, "beat-unit").text = name
                for _ in range(dots):
                    SubElement(metronome, "beat-unit-dot")
                per_minute = self._bpm(sign) / float(Fraction(sign.text))
                SubElement(metronome, "per-minute").text = f"{per_minute:.6g}"
            case "jump":
                SubElement(kind, sign.text)
            case "octave_line":
                way, size = sign.text.split(" ")
                line = SubElement(
                    kind, "octave-shift", type="stop" if timed.ends else way, size=size
                )
                if timed.number > 1:
                    line.set("number", str(timed.number))
            case _:
                SubElement(kind, sign.kind).text = sign.text

    def _tempo(self, measure: Element, unit: Fraction, bpm: float) -> None:
        direction = SubElement(measure, "direction")
        kind = SubElement(SubElement(direction, "direction-type"), "metronome")
        SubElement(kind, "beat-unit").text = printed_unit(unit)[0]
        SubElement(kind, "per-minute").text = f"{bpm:g}"
        SubElement(direction, "sound", tempo=f"{bpm:g}")

    # notes --------------------------------------------------------------------------------

    def _rest(self, measure: Element, piece: Written, bar: Bar) -> None:
        note = SubElement(measure, "note")
        whole = piece.end - piece.start == bar.length_beats
        rest = SubElement(note, "rest")
        if whole:
            rest.set("measure", "yes")
        SubElement(note, "duration").text = self._ticks(piece.end - piece.start)
        SubElement(note, "voice").text = "1"
        if not whole:
            _type(note, piece)
        notations = Element("notations")
        for _ in self._holds.take(piece):
            SubElement(notations, "fermata")
        self._put_kept(note, notations, piece)
        if len(notations):
            note.append(notations)

    def _chord(self, measure: Element, piece: Written, voice: int) -> None:
        event = piece.event
        assert event is not None
        if piece.first:
            self._graces(measure, event, voice)
        for k, written in enumerate(piece.heads):
            note = SubElement(measure, "note")
            if k:
                SubElement(note, "chord")
            shown = written.head.stopped or written.head.pitch
            self._pitch(note, shown)
            SubElement(note, "duration").text = self._ticks(piece.end - piece.start)
            if written.tied_from:
                SubElement(note, "tie", type="stop")
            if written.tied_on:
                SubElement(note, "tie", type="start")
            SubElement(note, "voice").text = str(voice)
            _type(note, piece)
            self._notations(note, piece, written, leads=k == 0, voice=voice)
            if written.head.stopped is not None and not written.tied_from:
                self._touched(measure, written.head, note)

    def _graces(self, measure: Element, event: Event, voice: int) -> None:
        slurred = self._slurs.from_graces.get(event.onset_beats, ())
        for k, grace in enumerate(event.graces):
            note = SubElement(measure, "note")
            mark = SubElement(note, "grace")
            if "long_graces" not in event.marks:
                mark.set("slash", "yes")
            self._pitch(note, grace)
            SubElement(note, "voice").text = str(voice)
            SubElement(note, "type").text = "eighth" if len(event.graces) == 1 else "16th"
            if k == 0 and slurred:
                notations = SubElement(note, "notations")
                for number in slurred:
                    SubElement(notations, "slur", type="start", number=str(number))

    def _touched(self, measure: Element, head: Notehead, below: Element) -> None:
        """The touching note of an artificial harmonic, as a diamond in the chord."""
        assert head.stopped is not None
        note = SubElement(measure, "note")
        SubElement(note, "chord")
        self._pitch(note, touched_pitch(head.stopped, head.partial))
        for name in ("duration", "voice", "type", "dot", "time-modification"):
            note.extend(below.findall(name))
        SubElement(note, "notehead").text = "diamond"
        technical = SubElement(SubElement(note, "notations"), "technical")
        harmonic = SubElement(technical, "harmonic")
        SubElement(harmonic, "artificial")
        SubElement(harmonic, "touching-pitch")

    def _pitch(self, note: Element, p: Pitch) -> None:
        pitch = SubElement(note, "pitch")
        SubElement(pitch, "step").text = p.step
        if p.alter:
            SubElement(pitch, "alter").text = str(p.alter)
        SubElement(pitch, "octave").text = str(p.octave + self._inst.written_octaves_up)

    def _notations(
        self, note: Element, piece: Written, written: WrittenHead, *, leads: bool, voice: int
    ) -> None:
        event = piece.event
        assert event is not None
        notations = Element("notations")
        if written.tied_from:
            SubElement(notations, "tied", type="stop")
        if written.tied_on:
            SubElement(notations, "tied", type="start")
        if leads:
            if voice == self._slurs.voice_of(event):
                self._slurs.write(notations, piece)
            if event.id in self._glides[0] and piece.last:
                SubElement(notations, "slide", type="start", number="1")
            if event.glide and piece.first:
                SubElement(notations, "slide", type="stop", number="1")
        boxes = {name: Element(name) for name in _ON_NOTES}
        if leads and voice == _leader(event):
            self._marks(notations, boxes, piece)
        if not written.tied_from:
            self._technical(boxes["technical"], written.head)
        if (leads and voice == 1) or (leads and voice == _leader(event)):
            self._put_kept(note, notations, piece, boxes)
        for name in ("ornaments", "technical", "articulations"):
            if len(boxes[name]):
                notations.append(boxes[name])
        if len(notations):
            lyrics = note.findall("lyric")
            for lyric in lyrics:
                note.remove(lyric)
            note.append(notations)
            note.extend(lyrics)

    def _marks(self, notations: Element, boxes: dict[str, Element], piece: Written) -> None:
        event = piece.event
        assert event is not None
        marks = event.marks
        if piece.last:
            for mark in _LAST_TIE:
                if mark in marks:
                    SubElement(boxes["articulations"], ELEMENT_OF[mark])
            if "fermata" in marks:
                SubElement(notations, "fermata")
        if piece.first:
            self._first_marks(notations, boxes, event)

    def _first_marks(self, notations: Element, boxes: dict[str, Element], event: Event) -> None:
        marks = event.marks
        if event.ornament == "tremolo":
            slashes = next((n for n, m in SLASHES.items() if m in marks), "3")
            SubElement(boxes["ornaments"], "tremolo", type="single").text = slashes
        elif event.ornament is not None:
            key = (event.ornament, "inverted" in marks, "delayed" in marks)
            SubElement(boxes["ornaments"], _ORNAMENTS.get(key, "trill-mark"))
        if event.bow and (self._proposed or not event.proposed_bow):
            SubElement(boxes["technical"], f"{event.bow}-bow")
        if "snap" in marks:
            SubElement(boxes["technical"], "snap-pizzicato")
        for own in _own_marks(event):
            SubElement(boxes["technical"], "other-technical").text = OWN_MARK + own
        for mark in marks:
            if mark in ELEMENT_OF and mark not in _LAST_TIE:
                SubElement(boxes["articulations"], ELEMENT_OF[mark])
        if event.lifted and not {"staccatissimo", "spiccato", "portato"} & set(marks):
            SubElement(boxes["articulations"], "staccato")
        if "rolled" in marks:
            SubElement(notations, "arpeggiate")

    def _technical(self, technical: Element, head: Notehead) -> None:
        if head.partial > 1:
            harmonic = SubElement(technical, "harmonic")
            SubElement(harmonic, "natural" if head.stopped is None else "artificial")
            if head.stopped is not None:
                SubElement(harmonic, "base-pitch")
        if head.proposed and not self._proposed:
            return
        if head.string is not None:
            SubElement(technical, "string").text = str(len(self._inst.strings) - head.string)
        if head.finger == 5:
            SubElement(technical, "thumb-position")
        elif head.finger is not None:
            SubElement(technical, "fingering").text = str(head.finger)

    def _put_kept(
        self, note: Element, notations: Element, piece: Written,
        boxes: dict[str, Element] | None = None,
    ) -> None:  # fmt: skip
        """Marks that were only kept, at the note they stood at."""
        for sign in self._kept.take(piece):
            element = kept_element(sign.text)
            if element is None:
                continue
            if element.tag == "lyric":
                note.append(element)
            elif element.tag in _ON_NOTES and boxes is not None:
                boxes[element.tag].extend(element)
            else:
                notations.append(element)


class _Waiting:
    """Signs by time, each handed out once."""

    def __init__(self, signs: Iterable[Sign]) -> None:
        self._by_time = _by_time(signs)
        self._times = sorted(self._by_time)

    def take(self, piece: Written) -> list[Sign]:
        """Those inside a piece that nobody has taken."""
        found: list[Sign] = []
        i = bisect_left(self._times, piece.start)
        while i < len(self._times) and self._times[i] < piece.end:
            found += self._by_time.pop(self._times[i], [])
            i += 1
        return found


class _SlurEnds:
    """Where slurs begin and end, with numbers that do not clash."""

    def __init__(self, jig: Jig) -> None:
        explicit = [s for s in jig.signs if s.kind == "slur"]
        plain = [(s.at_beats, s.end_beats or s.at_beats) for s in explicit if s.text != "graces"]
        graces = [(s.at_beats, s.end_beats or s.at_beats) for s in explicit if s.text == "graces"]
        rows = [(a, b, False) for a, b in drawn_slurs(jig.events, plain, graces)]
        rows += [(a, b, True) for a, b in graces]
        self._onsets = [e.onset_beats for e in jig.events]
        self._starts: dict[Fraction, list[int]] = defaultdict(list)
        self._stops: dict[Fraction, list[int]] = defaultdict(list)
        self._graced: dict[Fraction, list[int]] = defaultdict(list)
        self.from_graces: dict[Fraction, list[int]] = defaultdict(list)
        busy: list[tuple[Fraction, int]] = []
        for a, b, early in sorted(rows, key=lambda r: (r[0], not r[2], -r[1])):
            busy = [(end, n) for end, n in busy if end >= a]  # a stop may stand after a start
            number = _free_number(n for _, n in busy)
            busy.append((b, number))
            (self.from_graces if early else self._starts)[a].append(number)
            (self._graced if early and a == b else self._stops)[b].append(number)
        self._times = {"start": sorted(self._starts), "stop": sorted(self._stops)}

    @staticmethod
    def voice_of(event: Event) -> int:
        """The voice that carries an event's slurs."""
        return _leader(event)

    def write(self, notations: Element, piece: Written) -> None:
        """Slurs that begin or end in a piece of an event."""
        event = piece.event
        assert event is not None
        if piece.first:
            self._put(notations, "stop", self._graced.pop(event.onset_beats, ()))
        if piece.last:  # a slur to a note ends at the last of its tied ones
            self._put(notations, "stop", self._stops.pop(event.onset_beats, ()))
        for kind, table in (("stop", self._stops), ("start", self._starts)):
            times = self._times[kind]
            i = bisect_left(times, piece.start)
            while i < len(times) and times[i] < piece.end:
                mine = self._sounding_at(times[i]) == event.onset_beats
                if mine and (kind == "start" or times[i] != event.onset_beats):
                    self._put(notations, kind, table.pop(times[i], ()))
                i += 1

    def _sounding_at(self, beats: Fraction) -> Fraction:
        """Onset of the event of a moment: a long note in another voice is not meant."""
        return self._onsets[max(0, bisect_right(self._onsets, beats) - 1)]

    @staticmethod
    def _put(notations: Element, kind: str, numbers: Iterable[int]) -> None:
        for number in numbers:
            SubElement(notations, "slur", type=kind, number=str(number))


def _plucking_words(jig: Jig) -> Iterator[Sign]:
    """``pizz.`` and ``arco`` where no words say it already."""
    said = sorted(
        s.at_beats for s in jig.signs if s.kind == "words" and plucking(s.text) is not None
    )
    before: Event | None = None
    for event in jig.events:
        if event.pluck != (before is not None and before.pluck):
            since = before.onset_beats if before is not None else Fraction(-1)
            i = bisect_right(said, event.onset_beats) - 1
            if i < 0 or said[i] <= since:
                text = "pizz." if event.pluck else "arco"
                yield Sign(kind="words", at_beats=event.onset_beats, text=text, above=True)
        before = event


def _free_number(taken: Iterable[int]) -> int:
    """The lowest number that is not taken; the standard knows sixteen."""
    busy = set(taken)
    return next((n for n in range(1, 17) if n not in busy), 16)


def _leader(event: Event) -> int:
    """The voice whose first note carries the event's marks."""
    return leader(event).voice


def _glides(jig: Jig) -> tuple[set[str], set[str]]:
    """Events from which a glide leads on, and at which one arrives."""
    pairs = [(a.id, b.id) for a, b in zip(jig.events, jig.events[1:], strict=False) if b.glide]
    return {a for a, _ in pairs}, {b for _, b in pairs}


def _own_marks(event: Event) -> list[str]:
    own = []
    if event.free:
        own.append("free")
    if event.vibrato is not None:
        own.append(f"vibrato={'yes' if event.vibrato else 'no'}")
    if event.shape:
        own.append(f"shape={event.shape}")
    return own


def _is_direction(sign: Sign) -> bool:
    return sign.text.startswith(("<direction-type", "<harmony", "<figured-bass"))


def _timed(jig: Jig) -> list[_Timed]:
    """Directions by time, ends before beginnings."""
    found = [
        _Timed(
            e.onset_beats, 1,
            Sign(kind="dynamic", at_beats=e.onset_beats, text=e.dynamic, above=False), ends=False,
        )
        for e in jig.events
        if e.dynamic
    ]  # fmt: skip
    found += [_Timed(s.at_beats, 1, s, ends=False) for s in _plucking_words(jig)]
    busy: list[tuple[Fraction, int]] = []
    for sign in jig.signs:
        if sign.kind not in _DIRECTIONS and not (sign.kind == "kept" and _is_direction(sign)):
            continue
        number = 1
        if sign.kind in ("hairpin", "octave_line") and sign.end_beats is not None:
            busy = [(end, n) for end, n in busy if end >= sign.at_beats]
            number = _free_number(n for _, n in busy)
            busy.append((sign.end_beats, number))
            rank = 2 if sign.end_beats == sign.at_beats else 0
            found.append(_Timed(sign.end_beats, rank, sign, ends=True, number=number))
        found.append(_Timed(sign.at_beats, 1, sign, ends=False, number=number))
    return sorted(found, key=lambda t: (t.at, t.rank))


def _by_time(signs: Iterable[Sign]) -> dict[Fraction, list[Sign]]:
    table: dict[Fraction, list[Sign]] = defaultdict(list)
    for sign in signs:
        table[sign.at_beats].append(sign)
    return table


def _divisions(jig: Jig) -> int:
    times = [e.onset_beats for e in jig.events] + [e.end_beats for e in jig.events]
    times += [e.onset_beats + h.length_beats for e in jig.events for h in e.heads if h.length_beats]
    times += [s.at_beats for s in jig.signs]
    times += [s.end_beats for s in jig.signs if s.end_beats is not None]
    times += [b.length_beats for b in jig.bars()]
    return min(lcm(32, *{t.denominator for t in times}), MOST_DIVISIONS)


def _clef(attributes: Element, text: str) -> None:
    sign = text.rstrip("-0123456789")
    numbers = text[len(sign) :]
    clef = SubElement(attributes, "clef")
    SubElement(clef, "sign").text = sign or "G"
    if numbers[:1].isdigit():
        SubElement(clef, "line").text = numbers[0]
        numbers = numbers[1:]
    if numbers:
        SubElement(clef, "clef-octave-change").text = numbers


def _type(note: Element, piece: Written) -> None:
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


def _ending(made: Element, sign: Sign, at: Fraction, *, left: bool) -> None:
    if left and sign.at_beats == at:
        SubElement(made, "ending", number=sign.text, type="start")
    elif not left and sign.end_beats == at and sign.at_beats < at:
        kind = "stop" if sign.value is not None else "discontinue"
        SubElement(made, "ending", number=sign.text, type=kind)
