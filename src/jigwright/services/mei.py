"""A jig as MEI (Music Encoding Initiative, an open standard): sounding pitch becomes written.

How notes are split, tied and grouped is told by :mod:`jigwright.core.jig.written`; here they and
the signs beside them become elements. The first of tied notes carries the id.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence
from fractions import Fraction
from xml.sax.saxutils import escape

from jigwright.core.jig.clefs import clef_changes
from jigwright.core.jig.model import Bar, Event, Jig, Notehead
from jigwright.core.jig.signs import Sign
from jigwright.core.jig.strings_said import strings_said
from jigwright.core.jig.voices import drawn_slurs
from jigwright.core.jig.written import Written, WrittenHead, WrittenVoices
from jigwright.core.music.harmonics import ARTIFICIAL_PARTIALS, touched_pitch
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import signature
from jigwright.core.music.pitch import Pitch
from jigwright.services.mei_controls import (
    MEI_DURATIONS,
    MeiControls,
    event_element_id,
    faint_colour,
    head_element_id,
)

_ACCIDENTALS = {-2: "ff", -1: "f", 0: "n", 1: "s", 2: "x"}
_ARTICULATIONS = {
    "accent": "acc", "marcato": "marc", "tenuto": "ten", "staccatissimo": "stacciss",
    "spiccato": "spicc", "snap": "snap",
}  # fmt: skip
_SLASHES = {"slash1": "1slash", "slash2": "2slash", "slash4": "4slash"}
_STYLES = {"light-light": "dbl", "light-heavy": "end", "dashed": "dashed", "dotted": "dotted"}


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
    return _Score(jig, fingerings=fingerings, bars=bars).text()


def _keysig(fifths: int) -> str:
    fifths = max(-7, min(7, fifths))
    return "0" if fifths == 0 else f"{abs(fifths)}{'s' if fifths > 0 else 'f'}"


def _clef(text: str) -> str:
    """Attributes of a clef such as ``C4`` or ``G2-1``."""
    sign = text.rstrip("-0123456789") or "G"
    numbers = text[len(sign) :]
    marks = f'shape="{sign[0] if sign[0] in "GCF" else "G"}" line="{(numbers or "2")[0]}"'
    octave = numbers[1:]
    if octave in ("-1", "1", "-2", "2"):
        marks += f' dis="{8 if octave[-1] == "1" else 15}"'
        marks += f' dis.place="{"below" if octave[0] == "-" else "above"}"'
    return marks


class _Score:
    def __init__(self, jig: Jig, *, fingerings: bool, bars: tuple[int, int] | None) -> None:
        self.jig, self.fingerings = jig, fingerings
        self._all = jig.bars()
        self._first = bars[0] if bars is not None else 0
        self._bars = self._all[bars[0] : bars[1]] if bars is not None else self._all
        self.start = self._bars[0].start_beats
        self._inst = instrument(jig.instrument_id)
        self.octaves_up = self._inst.written_octaves_up
        self.voices = WrittenVoices(
            jig, cuts=(s.at_beats for s in jig.signs if s.kind == "fermata")
        )
        self.clefs = clef_changes(jig)
        self.strings = strings_said(jig)
        self._times = [s.at_beats for s in jig.signs]
        self._starts = [b.start_beats for b in self._all]
        self.onsets = [e.onset_beats for e in jig.events]
        self.slurs = self._slurs()
        self.says_plucking = {
            e.id: "pizz." if e.pluck else "arco"
            for before, e in zip((None, *jig.events), jig.events, strict=False)
            if e.pluck != (before is not None and before.pluck)
            and not any(
                s.kind == "words" and s.at_beats == e.onset_beats
                and ("pizz" in s.text or "arco" in s.text)
                for s in self.signs_between(e.onset_beats, e.end_beats)
            )
        }  # fmt: skip

    def text(self) -> str:
        clef = self.clef_at(self.start)
        metre = self._bars[0].metre
        shown = "" if self._first == 0 else ' meter.visible="false"'
        marks = _clef(clef).replace("shape=", "clef.shape=").replace(" line=", " clef.line=")
        marks = marks.replace(" dis", " clef.dis")
        return (
            '<?xml version="1.0" encoding="UTF-8"?>'
            '<mei xmlns="http://www.music-encoding.org/ns/mei" meiversion="5.0"><meiHead><fileDesc>'
            f"<titleStmt><title>{escape(self.jig.title)}</title></titleStmt><pubStmt/></fileDesc>"
            "</meiHead><music><body><mdiv><score>"
            f'<scoreDef keysig="{_keysig(self._bars[0].key.fifths)}" meter.count="{metre[0]}" '
            f'meter.unit="{metre[1]}"{shown}><staffGrp><staffDef n="1" lines="5" {marks}/>'
            f"</staffGrp></scoreDef><section>{''.join(self._measures())}</section>"
            "</score></mdiv></body></music></mei>"
        )

    def _measures(self) -> Iterator[str]:
        before: Bar | None = None
        open_ending: Sign | None = None
        endings = [s for s in self.jig.signs if s.kind == "ending"]
        for bar in self._bars:
            end = bar.start_beats + bar.length_beats
            if before is not None:
                yield self._changes(before, bar)
            if open_ending is None:
                open_ending = next(
                    (
                        s
                        for s in endings
                        if s.at_beats <= bar.start_beats < (s.end_beats or s.at_beats)
                    ),
                    None,
                )
                if open_ending is not None:
                    label = escape(open_ending.text, {'"': "&quot;"})
                    yield f'<ending n="{label}" label="{label}.">'
            yield _Bar(self, bar, last=bar is self._all[-1]).text()
            if open_ending is not None and (open_ending.end_beats or end) <= end:
                yield "</ending>"
                open_ending = None
            before = bar
        if open_ending is not None:
            yield "</ending>"

    def _changes(self, before: Bar, bar: Bar) -> str:
        marks = ""
        if before.key.fifths != bar.key.fifths:
            marks += f' keysig="{_keysig(bar.key.fifths)}"'
        if before.metre != bar.metre:
            marks += f' meter.count="{bar.metre[0]}" meter.unit="{bar.metre[1]}"'
        return f"<scoreDef{marks}/>" if marks else ""

    def clef_at(self, beats: Fraction) -> str:
        """The clef that holds when a moment begins."""
        now = self._inst.clef_sign
        for at, text in self.clefs:
            if at <= beats:
                now = text
        return now

    def signs_between(self, start: Fraction, end: Fraction) -> Sequence[Sign]:
        """Signs that stand in a stretch of time."""
        return self.jig.signs[bisect_left(self._times, start) : bisect_left(self._times, end)]

    def signs_at(self, beats: Fraction) -> Sequence[Sign]:
        """Signs that stand at a moment."""
        return self.jig.signs[bisect_left(self._times, beats) : bisect_right(self._times, beats)]

    def place(self, beats: Fraction) -> tuple[int, float]:
        """Index of the bar of a moment, and its time stamp there."""
        i = max(0, bisect_right(self._starts, beats) - 1)
        bar = self._all[i]
        return i, 1 + float((beats - bar.start_beats) / Fraction(4, bar.metre[1]))

    def end_place(self, beats: Fraction) -> tuple[int, float]:
        """The same for an end: at a bar line it belongs to the bar before."""
        i, stamp = self.place(beats)
        if i and beats == self._starts[i]:
            bar = self._all[i - 1]
            return i - 1, 1 + float(bar.length_beats / Fraction(4, bar.metre[1])) - 0.1
        return i, stamp - (0.1 if stamp > 1.1 else 0.0)

    def _slurs(self) -> dict[str, list[str]]:
        """Ends of the slurs that begin at an event, by its id."""
        written = [
            (s.at_beats, s.end_beats or s.at_beats)
            for s in self.jig.signs
            if s.kind == "slur" and s.text != "graces"
        ]
        table: dict[str, list[str]] = {}
        for a, b in drawn_slurs(self.jig.events, written):
            first, last = self._sounding(a), self._sounding(b)
            if first is not last:
                table.setdefault(first.id, []).append(event_element_id(last))
        return table

    def _sounding(self, beats: Fraction) -> Event:
        return self.jig.events[max(0, bisect_right(self.onsets, beats) - 1)]


class _Bar:
    """Writes one bar."""

    def __init__(self, score: _Score, bar: Bar, *, last: bool) -> None:
        self._score, self._bar, self._last = score, bar, last
        self._sounding = dict.fromkeys("CDEFGAB", 0) | signature(bar.key.fifths)
        self._shown: dict[tuple[str, int], int] = {}
        self._end = bar.start_beats + bar.length_beats
        self._controls = MeiControls(score, self._end)

    def text(self) -> str:
        """The measure element."""
        rows = self._score.voices.voices(self._bar)
        clefs = [
            c
            for c in self._score.clefs
            if self._bar.start_beats <= c[0] < self._end and c[0] != self._score.start
        ]  # the first one drawn stands before the whole staff
        layers = []
        for k, (voice, row) in enumerate(rows):
            inner = self._layer(row, hidden=voice > 1, clefs=clefs if k == 0 else [])
            layers.append(f'<layer n="{k + 1}">{inner}</layer>')
        for sign in self._score.signs_between(
            self._bar.start_beats, self._end if not self._last else self._end + 1
        ):
            self._controls.sign(sign)
        return (
            f'<measure n="{self._bar.number}"{self._lines()}{self._incomplete()}><staff n="1">'
            f"{''.join(layers)}</staff>{''.join(self._controls.rows)}</measure>"
        )

    def _incomplete(self) -> str:
        full = Fraction(self._bar.metre[0] * 4, self._bar.metre[1])
        return ' metcon="false"' if self._bar.length_beats != full else ""

    def _lines(self) -> str:
        """Kinds of the bar lines on both sides."""
        here = self._score.signs_at(self._bar.start_beats)
        there = self._score.signs_at(self._end)
        left = any(s.kind == "repeat" and s.text == "forward" for s in here)
        back = any(s.kind == "repeat" and s.text == "backward" for s in there)
        style = next(
            (_STYLES.get(s.text) for s in there if s.kind == "barline" and s.text in _STYLES), None
        )
        right = "rptend" if back else style or ("end" if self._last else "")
        return (' left="rptstart"' if left else "") + (f' right="{right}"' if right else "")

    # notes --------------------------------------------------------------------------------

    def _layer(
        self, row: list[Written], *, hidden: bool, clefs: Sequence[tuple[Fraction, str]]
    ) -> str:
        text = []
        waiting = list(clefs)
        for group in self._groups(row):
            inner = ""
            for piece in group:
                while waiting and waiting[0][0] <= piece.start:
                    inner += f"<clef {_clef(waiting.pop(0)[1])}/>"
                inner += self._element(piece, hidden=hidden)
            short = [p.event is not None and p.value < 1 for p in group]
            if len(group) > 1 and all(short):
                inner = f"<beam>{inner}</beam>"
            ratio = group[0].tuplet
            if ratio is not None:
                inner = f'<tuplet num="{ratio[0]}" numbase="{ratio[1]}">{inner}</tuplet>'
            text.append(inner)
        return "".join(text)

    def _groups(self, row: list[Written]) -> list[list[Written]]:
        """Pieces that share a beam or a tuplet."""
        beats, unit = self._bar.metre
        pulse = Fraction(3, 2) if unit == 8 and beats % 3 == 0 else Fraction(1)
        zero = self._bar.start_beats
        if self._bar.number == 0:  # a pick-up leads to the bar line
            zero -= -self._bar.length_beats % pulse
        groups: list[list[Written]] = []
        for piece in row:
            last = groups[-1][-1] if groups else None
            if last is None or last.group != piece.group:
                joins = False
            elif piece.group:
                joins = True
            else:
                joins = (
                    piece.event is not None
                    and last.event is not None
                    and max(piece.value, last.value) < 1
                    and (groups[-1][0].start - zero) // pulse == (piece.start - zero) // pulse
                )
            if joins:
                groups[-1].append(piece)
            else:
                groups.append([piece])
        return groups

    def _element(self, piece: Written, *, hidden: bool) -> str:
        base = next(
            (v for v in MEI_DURATIONS if piece.value in (v, v * Fraction(3, 2))), Fraction(1)
        )
        length = f'dur="{MEI_DURATIONS[base]}"' + (' dots="1"' if piece.value != base else "")
        event = piece.event
        if event is None:
            return self._rest(piece, length, hidden=hidden)
        if piece.first:
            self._controls.mark(event)
        if piece.last and "fermata" in event.marks:
            self._controls.hold(event_element_id(event))
        graces = ""
        if piece.first:
            graces = "".join(self._grace(p, event) for p in event.graces)
        many = len(piece.heads) > 1 or any(self._touch_place(h.head) for h in piece.heads)
        if not many:
            return graces + self._note(piece.heads[0], event, piece, f"{length} ", marks=True)
        top = piece.heads[-1]
        inner = "".join(self._note(h, event, piece, "", marks=h is top) for h in piece.heads)
        stems = self._tremolo(event)
        return f"{graces}<chord {length}{stems}>{inner}</chord>"

    def _rest(self, piece: Written, length: str, *, hidden: bool) -> str:
        if hidden:
            return f"<space {length}/>"
        here = self._score.signs_between(piece.start, piece.end)
        name = ""
        if any(s.kind == "fermata" and s.text == "rest" for s in here):
            place = str(piece.start).replace("/", ".")
            name = f' xml:id="rest-{place}"'
            self._controls.hold(f"rest-{place}")
        if piece.end - piece.start == self._bar.length_beats and piece.tuplet is None:
            return f"<mRest{name}/>"
        return f"<rest{name} {length}/>"

    def _note(
        self, written: WrittenHead, event: Event, piece: Written, length: str, *, marks: bool
    ) -> str:
        head = written.head
        p = head.stopped or head.pitch
        ids = f' xml:id="{head_element_id(head.id)}"' if not written.tied_from else ""
        tie = {(True, True): ' tie="m"', (True, False): ' tie="t"', (False, True): ' tie="i"',
               (False, False): ""}[written.tied_from, written.tied_on]  # fmt: skip
        stem = self._tremolo(event) if length else ""
        inner = self._articulations(event, head) if marks and piece.first else ""
        shape = ""
        accidental = self._accidental(p, tied=written.tied_from)
        text = (
            f'<note{ids}{shape}{stem} pname="{p.step.lower()}" '
            f'oct="{p.octave + self._score.octaves_up}"{accidental} {length.strip()}{tie}'
        ).rstrip()
        text += f">{inner}</note>" if inner else "/>"
        return text + self._touched(head, tie)

    def _tremolo(self, event: Event) -> str:
        if event.ornament != "tremolo":
            return ""
        slashes = next((s for m, s in _SLASHES.items() if m in event.marks), "3slash")
        return f' stem.mod="{slashes}"'

    @staticmethod
    def _articulations(event: Event, head: Notehead) -> str:
        """Signs at the note; a proposed bow is drawn lighter than a written one."""
        words = [_ARTICULATIONS[m] for m in event.marks if m in _ARTICULATIONS]
        if "portato" in event.marks:
            words += ["ten", "stacc"]
        elif event.lifted and not {"staccatissimo", "spiccato"} & set(event.marks):
            words.append("stacc")
        if head.partial > 1 and head.stopped is None:
            words.append("harm")
        text = "".join(f'<artic artic="{w}"/>' for w in words)
        if event.bow:
            bow = {"down": "dnbow", "up": "upbow"}[event.bow]
            text += f'<artic artic="{bow}" place="above"{faint_colour(event.proposed_bow)}/>'
        return text

    def _touch_place(self, head: Notehead) -> Pitch | None:
        """Where a harmonic is touched, if that is not where it sounds."""
        if head.stopped is not None:
            return touched_pitch(head.stopped, head.partial)
        strings = instrument(self._score.jig.instrument_id).strings
        if head.partial not in ARTIFICIAL_PARTIALS or head.partial == 2 or head.string is None:
            return None  # at half the string both are one; higher ones have no place on a staff
        return touched_pitch(strings[head.string], head.partial)

    def _touched(self, head: Notehead, tie: str) -> str:
        """The diamond where a harmonic is touched; empty for other notes."""
        p = self._touch_place(head)
        if p is None:
            return ""
        return (
            f'<note head.shape="diamond" pname="{p.step.lower()}" '
            f'oct="{p.octave + self._score.octaves_up}"{self._accidental(p)}{tie}/>'
        )

    def _grace(self, p: Pitch, event: Event) -> str:
        kind = "acc" if "long_graces" in event.marks else "unacc"
        slash = "" if kind == "acc" or len(event.graces) > 1 else ' stem.mod="1slash"'
        dur = 8 if len(event.graces) == 1 else 16
        return (
            f'<note grace="{kind}" dur="{dur}"{slash} pname="{p.step.lower()}" '
            f'oct="{p.octave + self._score.octaves_up}"{self._accidental(p)}/>'
        )

    def _accidental(self, p: Pitch, *, tied: bool = False) -> str:
        place = (p.step, p.octave)
        if tied or self._shown.get(place, self._sounding[p.step]) == p.alter:
            return "" if not tied else f' accid.ges="{_ACCIDENTALS[p.alter]}"'
        self._shown[place] = p.alter
        return f' accid="{_ACCIDENTALS[p.alter]}"'
