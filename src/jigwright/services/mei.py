"""A jig as MEI (Music Encoding Initiative, an open standard): sounding pitch becomes written.

Lengths that no single note can write, and notes that cross a bar line, become tied notes; the first
of them carries the id. Runs of lengths with a third in them become triplets.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from xml.sax.saxutils import escape

from jigwright.core.jig.model import Bar, Event, Jig, Notehead
from jigwright.core.jig.places import EventPlaces
from jigwright.core.jig.written import split_length
from jigwright.core.music.harmonics import touched_pitch
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import signature
from jigwright.core.music.pitch import Pitch

_CLEFS = {"treble": ("G", 2), "alto": ("C", 3), "bass": ("F", 4)}
_ACCIDENTALS = {-2: "ff", -1: "f", 0: "n", 1: "s", 2: "x"}
_VALUES = {
    Fraction(4): ("1", 0), Fraction(3): ("2", 1), Fraction(2): ("2", 0), Fraction(3, 2): ("4", 1),
    Fraction(1): ("4", 0), Fraction(3, 4): ("8", 1), Fraction(1, 2): ("8", 0),
    Fraction(3, 8): ("16", 1), Fraction(1, 4): ("16", 0), Fraction(1, 8): ("32", 0),
    Fraction(1, 16): ("64", 0), Fraction(1, 32): ("128", 0),
}  # fmt: skip
_HAIRPINS = {"grow": ("cres",), "fade": ("dim",), "swell": ("cres", "dim"), "dip": ("dim", "cres")}


def jig_to_mei(jig: Jig, *, fingerings: bool = True, bars: tuple[int, int] | None = None) -> str:
    """Write a jig as one staff of MEI.

    Parameters
    ----------
    jig : Jig
    fingerings : bool
        Print finger numbers.
    bars : (int, int), optional
        Write only these, first and one past the last, as they stand in the whole.

    Returns
    -------
    str
        MEI text; noteheads carry the ids of the jig, prefixed with ``n-``.
    """
    inst = instrument(jig.instrument_id)
    clef, line = _CLEFS[inst.clef]
    written = jig.bars()
    final = written[-1]
    first = bars[0] if bars is not None else 0
    if bars is not None:
        written = written[bars[0] : bars[1]]
    places = EventPlaces(jig)
    body = []
    before: Bar | None = None
    for bar in written:
        body.append(_changes(before, bar))
        body.append(
            _Bar(jig, bar, places, inst.written_octaves_up, fingerings, last=bar is final).text()
        )
        before = bar
    metre = written[0].metre
    shown = "" if first == 0 else ' meter.visible="false"'
    return (
        '<?xml version="1.0" encoding="UTF-8"?>'
        '<mei xmlns="http://www.music-encoding.org/ns/mei" meiversion="5.0"><meiHead><fileDesc>'
        f"<titleStmt><title>{escape(jig.title)}</title></titleStmt><pubStmt/></fileDesc></meiHead>"
        "<music><body><mdiv><score>"
        f'<scoreDef keysig="{_keysig(written[0].key.fifths)}" meter.count="{metre[0]}" '
        f'meter.unit="{metre[1]}"{shown}><staffGrp><staffDef n="1" lines="5" clef.shape="{clef}" '
        f'clef.line="{line}"/></staffGrp></scoreDef><section>{"".join(body)}</section>'
        "</score></mdiv></body></music></mei>"
    )


def head_element_id(head_id: str) -> str:
    """XML id of a notehead."""
    return "n-" + "".join(c if c.isalnum() or c in "._-" else "_" for c in head_id)


def _keysig(fifths: int) -> str:
    fifths = max(-7, min(7, fifths))
    return "0" if fifths == 0 else f"{abs(fifths)}{'s' if fifths > 0 else 'f'}"


def _changes(before: Bar | None, bar: Bar) -> str:
    if before is None:
        return ""
    marks = ""
    if before.key.fifths != bar.key.fifths:
        marks += f' keysig="{_keysig(bar.key.fifths)}"'
    if before.metre != bar.metre:
        marks += f' meter.count="{bar.metre[0]}" meter.unit="{bar.metre[1]}"'
    return f"<scoreDef{marks}/>" if marks else ""


@dataclass(frozen=True, slots=True, kw_only=True)
class _Written:
    """A piece of an event inside one bar: written length, and whether it is a triplet's."""

    event: Event | None
    beats: Fraction
    first: bool
    last: bool
    triplet: bool


class _Bar:
    """Writes one bar."""

    def __init__(
        self,
        jig: Jig,
        bar: Bar,
        places: EventPlaces,
        octaves_up: int,
        fingerings: bool,
        *,
        last: bool,
    ) -> None:
        self._jig, self._bar, self._places = jig, bar, places
        self._octaves_up, self._fingerings, self._last = octaves_up, fingerings, last
        self._sounding = dict.fromkeys("CDEFGAB", 0) | signature(bar.key.fifths)
        self._shown: dict[tuple[str, int], int] = {}
        self._controls: list[str] = []

    def text(self) -> str:
        """The measure element."""
        layer = self._layer(self._pieces())
        right = ' right="end"' if self._last else ""
        incomplete = self._bar.length_beats < Fraction(self._bar.metre[0] * 4, self._bar.metre[1])
        metcon = ' metcon="false"' if incomplete else ""
        return (
            f'<measure n="{self._bar.number}"{right}{metcon}><staff n="1"><layer n="1">{layer}'
            f"</layer></staff>{''.join(self._controls)}</measure>"
        )

    def _pieces(self) -> list[_Written]:
        start, end = self._bar.start_beats, self._bar.start_beats + self._bar.length_beats
        at = start
        pieces: list[_Written] = []
        for event in self._places.between(start, end):
            if event.onset_beats > at:
                pieces += _rests(event.onset_beats - at)
            a, b = max(event.onset_beats, start), min(event.end_beats, end)
            if a < at:
                continue  # overlapping voices are not written
            pieces += _parts(event, a, b)
            at = b
        if at < end:
            pieces += _rests(end - at)
        return pieces

    def _layer(self, pieces: list[_Written]) -> str:
        text = []
        for group in self._groups(pieces):
            inner = "".join(self._element(p) for p in group)
            short = [p.event is not None and p.beats < 1 for p in group]
            if len(group) > 1 and all(short):
                inner = f"<beam>{inner}</beam>"
            if group[0].triplet:
                inner = f'<tuplet num="3" numbase="2">{inner}</tuplet>'
            text.append(inner)
        return "".join(text)

    def _groups(self, pieces: list[_Written]) -> list[list[_Written]]:
        """Pieces that share a beam or a triplet."""
        beats, unit = self._bar.metre
        pulse = Fraction(3, 2) if unit == 8 and beats % 3 == 0 else Fraction(1)
        at = Fraction(0)
        if self._bar.number == 0:  # a pick-up leads to the bar line
            at = -self._bar.length_beats % pulse
        groups: list[list[_Written]] = []
        full = Fraction(0)
        begun = at
        for piece in pieces:
            sounding = piece.beats * Fraction(2, 3) if piece.triplet else piece.beats
            joins = bool(groups) and (
                full < 3 * groups[-1][0].beats
                if piece.triplet and groups[-1][0].triplet
                else not piece.triplet
                and not groups[-1][0].triplet
                and piece.event is not None
                and groups[-1][-1].event is not None
                and max(piece.beats, groups[-1][-1].beats) < 1
                and begun // pulse == at // pulse
            )
            if joins:
                groups[-1].append(piece)
                full += piece.beats
            else:
                groups.append([piece])
                full, begun = piece.beats, at
            at += sounding
        return groups

    def _element(self, piece: _Written) -> str:
        dur, dots = _VALUES.get(piece.beats, ("4", 0))
        length = f'dur="{dur}"' + (f' dots="{dots}"' if dots else "")
        event = piece.event
        if event is None:
            return f"<rest {length}/>"
        if piece.first:
            self._mark(event)
        tie = {(True, True): "", (True, False): ' tie="i"', (False, False): ' tie="m"',
               (False, True): ' tie="t"'}[piece.first, piece.last]  # fmt: skip
        graces = "".join(self._grace(p) for p in event.graces) if piece.first else ""
        artificial = any(h.stopped is not None for h in event.heads)
        if len(event.heads) == 1 and not artificial:
            return graces + self._note(event.heads[0], event, piece, f"{length}{tie}")
        inner = "".join(self._note(h, event, piece, tie) for h in event.heads)
        return f"{graces}<chord {length}>{inner}</chord>"

    def _note(self, head: Notehead, event: Event, piece: _Written, length: str) -> str:
        p = head.stopped or head.pitch
        pieces = f' xml:id="{head_element_id(head.id)}"' if piece.first else ""
        artic = ""
        if piece.first and head is event.heads[-1]:
            words = [{"down": "dnbow", "up": "upbow"}[event.bow]] if event.bow else []
            words += ["harm"] if head.partial > 1 and head.stopped is None else []
            words += ["stacc"] if event.lifted else []
            artic = f' artic="{" ".join(words)}"' if words else ""
        if event.ornament == "tremolo":
            artic += ' stem.mod="3slash"'
        return (
            f'<note{pieces}{artic} pname="{p.step.lower()}" oct="{p.octave + self._octaves_up}"'
            f"{self._accidental(p)} {length.strip()}/>".replace(" />", "/>")
        ) + (self._touched(head.stopped, head.partial, length) if head.stopped else "")

    def _touched(self, stopped: Pitch, partial: int, length: str) -> str:
        """The diamond above the stopped note of an artificial harmonic."""
        p = touched_pitch(stopped, partial)
        return (
            f'<note head.shape="diamond" pname="{p.step.lower()}" '
            f'oct="{p.octave + self._octaves_up}"{self._accidental(p)} {length.strip()}/>'
        ).replace(" />", "/>")

    def _grace(self, p: Pitch) -> str:
        return (
            f'<note grace="unacc" dur="8" pname="{p.step.lower()}" '
            f'oct="{p.octave + self._octaves_up}"{self._accidental(p)}/>'
        )

    def _accidental(self, p: Pitch) -> str:
        place = (p.step, p.octave)
        if self._shown.get(place, self._sounding[p.step]) == p.alter:
            return ""
        self._shown[place] = p.alter
        return f' accid="{_ACCIDENTALS[p.alter]}"'

    def _mark(self, event: Event) -> None:
        at = f'startid="#{head_element_id(event.heads[-1].id)}"'
        if self._fingerings:
            self._controls += [
                f'<fing startid="#{head_element_id(h.id)}" place="above">'
                f"{'+' if h.finger == 5 else h.finger}</fing>"
                for h in event.heads
                if h.finger is not None
            ]
        if event.ornament in ("trill", "mordent", "turn"):
            self._controls.append(f'<{event.ornament} {at} place="above"/>')
        if event.dynamic:
            self._controls.append(f'<dynam {at} place="below">{event.dynamic}</dynam>')
        i = self._places.index[event.id]
        if event.pluck and (i == 0 or not self._jig.events[i - 1].pluck):
            self._controls.append(f'<dir {at} place="above">pizz.</dir>')
        if not event.pluck and i and self._jig.events[i - 1].pluck:
            self._controls.append(f'<dir {at} place="above">arco</dir>')
        if event.shape in _HAIRPINS:
            self._hairpins(event)
        self._slur(event, i)

    def _hairpins(self, event: Event) -> None:
        bar = self._bar
        unit = Fraction(4, bar.metre[1])
        begin = event.onset_beats - bar.start_beats
        end = min(event.end_beats, bar.start_beats + bar.length_beats) - bar.start_beats
        forms = _HAIRPINS[event.shape or "grow"]
        step = (end - begin) / len(forms)
        for k, form in enumerate(forms):
            a = 1 + (begin + k * step) / unit
            b = 1 + (begin + (k + 1) * step) / unit - Fraction(1, 8)
            self._controls.append(
                f'<hairpin form="{form}" staff="1" tstamp="{float(a):g}" '
                f'tstamp2="0m+{float(b):g}" place="below"/>'
            )

    def _slur(self, event: Event, i: int) -> None:
        events = self._jig.events
        if event.pluck or (event.bow is None and i > 0 and not events[i - 1].pluck):
            return
        stop = i
        while stop + 1 < len(events) and events[stop + 1].bow is None:
            if events[stop + 1].pluck or events[stop + 1].onset_beats > events[stop].end_beats:
                break
            stop += 1
        if stop > i:
            a = head_element_id(event.heads[-1].id)
            b = head_element_id(events[stop].heads[-1].id)
            self._controls.append(f'<slur startid="#{a}" endid="#{b}"/>')


def _parts(event: Event, a: Fraction, b: Fraction) -> list[_Written]:
    """An event's share of a bar as lengths that can be written."""
    length = b - a
    triplet = length.denominator % 3 == 0
    values = list(split_length(length * Fraction(3, 2) if triplet else length))
    if not values:
        values = [Fraction(1, 32)]
    return [
        _Written(
            event=event, beats=v, triplet=triplet,
            first=a == event.onset_beats and k == 0,
            last=b == event.end_beats and k == len(values) - 1,
        )
        for k, v in enumerate(values)
    ]  # fmt: skip


def _rests(beats: Fraction) -> list[_Written]:
    triplet = beats.denominator % 3 == 0
    return [
        _Written(event=None, beats=v, first=False, last=False, triplet=triplet)
        for v in split_length(beats * Fraction(3, 2) if triplet else beats)
    ]
