"""Writing MusicXML 4.0: one part, one staff, as many voices as there are.

What has no element of its own is an own mark; what was only kept comes out where it stood. Bowings
that were proposed, not written, are left out unless asked for.
"""

from __future__ import annotations

from bisect import bisect_left
from fractions import Fraction
from xml.etree.ElementTree import Element, SubElement, indent, tostring

from jigwright.core.jig.model import Bar, Event, Jig, Mark, Notehead
from jigwright.core.jig.signs import Sign
from jigwright.core.jig.written import Written, WrittenHead, WrittenVoices, leader
from jigwright.core.music.harmonics import touched_pitch
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.services.exchange.score_elements import (
    divisions_for,
    glides_of,
    ornament_element,
    own_marks,
    put_clef,
    put_ending,
    put_type,
)
from jigwright.services.exchange.score_marks import (
    ELEMENT_OF,
    OWN_MARK,
    SLASHES,
    kept_element,
    plucking,
    printed_unit,
)
from jigwright.services.exchange.score_signs import (
    SlurEnds,
    TimedSign,
    WaitingSigns,
    is_direction,
    signs_by_time,
    timed_signs,
)

_NAMES = {"violin": "Violin", "viola": "Viola", "cello": "Violoncello", "bass": "Contrabass"}
_ON_NOTES = ("articulations", "ornaments", "technical")
_JUMP_VALUES = {"dacapo": "yes", "dalsegno": "segno", "tocoda": "coda", "fine": "yes"}
_LAST_TIE: tuple[Mark, ...] = ("breath", "pause")


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


class _Writer:
    def __init__(self, jig: Jig, *, proposed: bool) -> None:
        self._jig = jig
        self._inst = instrument(jig.instrument_id)
        self._proposed = proposed
        resting = (s.at_beats for s in jig.signs if s.kind in ("fermata", "kept", "clef"))
        self._voices = WrittenVoices(jig, cuts=resting)
        self._divisions = divisions_for(jig)
        self._bars = jig.bars()
        self._slurs = SlurEnds(jig)
        self._timed = timed_signs(jig)
        self._times = [t.at for t in self._timed]
        self._kept = WaitingSigns(s for s in jig.signs if s.kind == "kept" and not is_direction(s))
        self._at_barlines = signs_by_time(
            s
            for s in jig.signs
            if s.kind in ("repeat", "barline") or (s.kind == "fermata" and s.text == "barline")
        )
        self._endings = [s for s in jig.signs if s.kind == "ending"]
        self._holds = WaitingSigns(s for s in jig.signs if s.kind == "fermata" and s.text == "rest")
        self._glides = glides_of(jig)
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
                self._tempo(measure, self._jig.tempo_bpm)
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
            put_clef(attributes, first.text if first is not None else self._inst.clef_sign)
            if self._inst.written_octaves_up:
                transpose = SubElement(attributes, "transpose")
                SubElement(transpose, "diatonic").text = "0"  # some readers add to it unasked
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
            put_ending(made, sign, at, left=left)
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

    def _directions(
        self, measure: Element, waiting: list[TimedSign], piece: Written
    ) -> list[TimedSign]:
        """Those before or inside a piece; returns the rest."""
        first = [t for t in waiting if t.at < piece.end]
        for timed in first:
            self._direction(measure, timed, timed.at - piece.start)
        return waiting[len(first) :]

    def _direction(self, measure: Element, timed: TimedSign, offset: Fraction) -> None:
        sign = timed.sign
        if sign.kind == "clef":
            if sign.at_beats > 0:
                put_clef(SubElement(measure, "attributes"), sign.text)
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

    def _direction_type(self, direction: Element, timed: TimedSign) -> None:
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

    def _tempo(self, measure: Element, bpm: float) -> None:
        direction = SubElement(measure, "direction")
        kind = SubElement(SubElement(direction, "direction-type"), "metronome")
        SubElement(kind, "beat-unit").text = "quarter"
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
            put_type(note, piece)
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
            put_type(note, piece)
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
            if voice == leader(event).voice:
                self._slurs.write(notations, piece)
            if event.id in self._glides and piece.last:
                SubElement(notations, "slide", type="start", number="1")
            if event.glide and piece.first:
                SubElement(notations, "slide", type="stop", number="1")
        boxes = {name: Element(name) for name in _ON_NOTES}
        if leads and voice == leader(event).voice:
            self._marks(notations, boxes, piece)
        if not written.tied_from:
            self._technical(boxes["technical"], written.head)
        if leads and voice in (1, leader(event).voice):
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
            SubElement(boxes["ornaments"], ornament_element(event))
        if event.bow and (self._proposed or not event.proposed_bow):
            SubElement(boxes["technical"], f"{event.bow}-bow")
        if "snap" in marks:
            SubElement(boxes["technical"], "snap-pizzicato")
        for own in own_marks(event):
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
