"""A jig as MEI (Music Encoding Initiative, an open standard): sounding pitch becomes written."""

from __future__ import annotations

from fractions import Fraction
from xml.sax.saxutils import escape, quoteattr

from jigwright.core.jig.model import Event, Jig, Notehead
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import signature

_CLEFS = {"treble": ("G", 2), "alto": ("C", 3), "bass": ("F", 4)}
_ACCIDENTALS = {-2: "ff", -1: "f", 0: "n", 1: "s", 2: "x"}
_VALUES = {
    Fraction(4): ("1", 0), Fraction(3): ("2", 1), Fraction(2): ("2", 0), Fraction(3, 2): ("4", 1),
    Fraction(1): ("4", 0), Fraction(3, 4): ("8", 1), Fraction(1, 2): ("8", 0),
    Fraction(3, 8): ("16", 1), Fraction(1, 4): ("16", 0), Fraction(1, 8): ("32", 0),
}  # fmt: skip


def jig_to_mei(jig: Jig, *, fingerings: bool = True) -> str:
    """Write a jig as one staff of MEI.

    Parameters
    ----------
    jig : Jig
    fingerings : bool
        Print finger numbers.

    Returns
    -------
    str
        MEI text; noteheads carry the ids of the jig, prefixed with ``n-``.
    """
    inst = instrument(jig.instrument_id)
    clef, line = _CLEFS[inst.clef]
    fifths = max(-7, min(7, jig.key.fifths))
    keysig = "0" if fifths == 0 else f"{abs(fifths)}{'s' if fifths > 0 else 'f'}"
    bars = _bars(jig)
    body = "".join(
        _bar(jig, n, events, inst.written_octaves_up, fingerings, last=(n == len(bars)))
        for n, events in enumerate(bars, start=1)
    )
    return (
        '<?xml version="1.0" encoding="UTF-8"?>'
        '<mei xmlns="http://www.music-encoding.org/ns/mei" meiversion="5.0"><meiHead><fileDesc>'
        f"<titleStmt><title>{escape(jig.title)}</title></titleStmt><pubStmt/></fileDesc></meiHead>"
        "<music><body><mdiv><score>"
        f'<scoreDef keysig="{keysig}" meter.count="{jig.beats_per_bar}" '
        f'meter.unit="{jig.beat_unit}"><staffGrp><staffDef n="1" lines="5" clef.shape="{clef}" '
        f'clef.line="{line}"/></staffGrp></scoreDef><section>{body}</section>'
        "</score></mdiv></body></music></mei>"
    )


def head_element_id(head_id: str) -> str:
    """XML id of a notehead."""
    return "n-" + "".join(c if c.isalnum() or c in "._-" else "_" for c in head_id)


def _bars(jig: Jig) -> list[list[Event]]:
    bars: list[list[Event]] = []
    for event in jig.events:
        number, _ = jig.bar_of(event)
        while len(bars) < number:
            bars.append([])
        bars[-1].append(event)
    return bars or [[]]


def _bar(
    jig: Jig, n: int, events: list[Event], octaves_up: int, fingerings: bool, *, last: bool
) -> str:
    bar_beats = Fraction(jig.beats_per_bar * 4, jig.beat_unit)
    at = (n - 1) * bar_beats
    end = at + bar_beats
    sounding = dict.fromkeys("CDEFGAB", 0) | signature(jig.key.fifths)
    shown: dict[tuple[str, int], int] = {}
    layer: list[str] = []
    marks: list[str] = []
    for event in events:
        if event.onset_beats > at:
            layer.append(_rest(event.onset_beats - at))
        layer.append(_event(event, octaves_up, sounding, shown))
        at = event.end_beats
        first = head_element_id(event.heads[-1].id)
        if event.bow is not None:
            kind = "dnbow" if event.bow == "down" else "upbow"
            marks.append(f'<artic-placeholder id="{first}" artic="{kind}"/>')
        if fingerings:
            marks += [_fing(h) for h in event.heads if h.finger is not None]
    if at < end:
        layer.append(_rest(end - at))
    controls = [m for m in marks if m.startswith("<fing")]
    bows = {m.split('"')[1]: m.split('"')[3] for m in marks if m.startswith("<artic-")}
    text = "".join(layer)
    for first, kind in bows.items():
        text = text.replace(f'<note xml:id="{first}"', f'<note xml:id="{first}" artic="{kind}"', 1)
    right = ' right="end"' if last else ""
    return (
        f'<measure n="{n}"{right}><staff n="1"><layer n="1">{text}</layer></staff>'
        f"{''.join(controls)}{_slurs(jig, events)}</measure>"
    )


def _event(
    event: Event,
    octaves_up: int,
    sounding: dict[str, int],
    shown: dict[tuple[str, int], int],
) -> str:
    dur, dots = _VALUES.get(event.length_beats, ("4", 0))
    length = f'dur="{dur}"' + (f' dots="{dots}"' if dots else "")
    notes = [_note(h, octaves_up, sounding, shown) for h in event.heads]
    if len(notes) == 1:
        return (
            notes[0]
            .replace("<note ", f"<note {length} ", 1)
            .replace(f"<note {length} xml:id", "<note xml:id", 1)
            .replace("/>", f" {length}/>", 1)
        )
    return f"<chord {length}>{''.join(notes)}</chord>"


def _note(
    head: Notehead,
    octaves_up: int,
    sounding: dict[str, int],
    shown: dict[tuple[str, int], int],
) -> str:
    p = head.pitch
    place = (p.step, p.octave)
    now = shown.get(place, sounding[p.step])
    accidental = ""
    if now != p.alter:
        accidental = f' accid="{_ACCIDENTALS[p.alter]}"'
        shown[place] = p.alter
    return (
        f'<note xml:id="{head_element_id(head.id)}" pname="{p.step.lower()}" '
        f'oct="{p.octave + octaves_up}"{accidental}/>'
    )


def _rest(beats: Fraction) -> str:
    parts = []
    for value, (dur, dots) in _VALUES.items():
        while beats >= value:
            parts.append(f'<rest dur="{dur}"' + (f' dots="{dots}"' if dots else "") + "/>")
            beats -= value
    return "".join(parts)


def _fing(head: Notehead) -> str:
    return (
        f'<fing startid={quoteattr("#" + head_element_id(head.id))} place="above">'
        f"{head.finger}</fing>"
    )


def _slurs(jig: Jig, events: list[Event]) -> str:
    """Slurs that begin in this bar: from a stroke's first to its last event."""
    result = []
    index = {e.id: i for i, e in enumerate(jig.events)}
    for event in events:
        if event.bow is None and index[event.id] > 0:
            continue
        stop = index[event.id]
        while stop + 1 < len(jig.events) and jig.events[stop + 1].bow is None:
            if jig.events[stop + 1].onset_beats > jig.events[stop].end_beats:
                break
            stop += 1
        if stop > index[event.id]:
            a = head_element_id(event.heads[-1].id)
            b = head_element_id(jig.events[stop].heads[-1].id)
            result.append(f'<slur startid="#{a}" endid="#{b}"/>')
    return "".join(result)
