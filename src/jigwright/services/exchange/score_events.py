"""From the notes of a part as they were read to the events of a jig.

Ties are joined for each note on its own; several voices become one row of events; strokes follow
the slurs, and where nobody wrote a direction one is proposed and said to be.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from typing import Any
from xml.etree.ElementTree import Element

from jigwright.core.jig.imported import ImportLoss
from jigwright.core.jig.model import BowDirection, Event, Mark, Notehead
from jigwright.core.jig.signs import DYNAMICS, Sign
from jigwright.core.jig.voices import Slice, Slur, slices, untold_slurs
from jigwright.core.music.harmonics import artificial, sounding_pitch
from jigwright.core.music.pitch import Pitch
from jigwright.services.exchange.score_marks import Marked, in_mark_order, marks_of, plucking

MOST_HEADS = 4
_USUAL_PARTIAL = 4  # of artificial harmonics: touched a fourth above


@dataclass(slots=True)
class GraceRun:
    """Grace notes before a note.

    Parameters
    ----------
    pitches : list of Pitch
    long : bool
        Without a stroke through them.
    slurs : list of Element
        Slurs that begin or end on them.
    """

    pitches: list[Pitch] = field(default_factory=list)
    long: bool = False
    slurs: list[Element] = field(default_factory=list)

    def add(self, pitch: Pitch, *, long: bool, slurs: Sequence[Element]) -> None:
        """One more note."""
        self.long = long if not self.pitches else self.long
        self.pitches.append(pitch)
        self.slurs += slurs


@dataclass(slots=True)
class ReadNote:
    """One notehead of the file, or several that ties join.

    Parameters
    ----------
    onset, end : Fraction
        In beats.
    pitch : Pitch
    voice : int
    element : Element
        The first of them.
    bar : str
        As printed.
    graces : GraceRun or None
    further : list of (Fraction, Element)
        Notes that ties go on to, and where.
    """

    onset: Fraction
    end: Fraction
    pitch: Pitch
    voice: int
    element: Element
    bar: str
    graces: GraceRun | None = None
    further: list[tuple[Fraction, Element]] = field(default_factory=list)


@dataclass(slots=True)
class ReadSigns:
    """What stands beside the notes.

    Parameters
    ----------
    signs : list of Sign
    plucking : list of (Fraction, bool)
        Where plucking begins and ends.
    """

    signs: list[Sign] = field(default_factory=list)
    plucking: list[tuple[Fraction, bool]] = field(default_factory=list)


def events_of(
    notes: Sequence[ReadNote], beside: ReadSigns, *, jig_id: str, strings: Sequence[Pitch],
    pickup: Fraction,
) -> tuple[tuple[Event, ...], list[ImportLoss]]:  # fmt: skip
    """Join, slice and mark; ``beside`` loses the signs that events carry and gets their others.

    Parameters
    ----------
    notes : sequence of ReadNote
        As they stand in the file.
    beside : ReadSigns
    jig_id : str
    strings : sequence of Pitch
    pickup : Fraction
        Length of an incomplete first bar.
    """
    return _Events(notes, beside, jig_id, strings, pickup).made()


class _Events:
    def __init__(
        self, notes: Sequence[ReadNote], beside: ReadSigns, jig_id: str, strings: Sequence[Pitch],
        pickup: Fraction,
    ) -> None:  # fmt: skip
        self._beside, self._jig_id, self._strings = beside, jig_id, strings
        self._pickup = pickup
        self._losses: list[ImportLoss] = []
        self._read = list(notes)
        self._notes = self._tied(notes)

    def made(self) -> tuple[tuple[Event, ...], list[ImportLoss]]:
        cut = list(slices(self._notes))
        slurs = self._slurs()
        onsets = [s.onset for s in cut]
        spans = [(_snapped(onsets, a), _snapped(onsets, b)) for a, b, _ in slurs]
        plucked = _plucked(self._beside.plucking, onsets)
        directions: list[BowDirection | None] = []
        events: list[Event] = []
        heads_of: dict[int, Notehead] = {}
        for i, piece in enumerate(cut):
            event, written = self._event(i, piece, heads_of)
            events.append(replace(event, pluck=plucked[i]))
            directions.append(written)
        self._with_dynamics(events)
        made = self._bowed(events, directions, spans)
        self._keep_slurs(made, slurs, spans)
        self._drop_plain_plucking(made)
        return tuple(made), self._losses

    # ties ---------------------------------------------------------------------------------

    def _tied(self, notes: Sequence[ReadNote]) -> list[ReadNote]:
        """Notes that ties lead on to become one with those before them.

        A tie that only its first note tells leads to the same pitch, if that is what follows.
        """
        open_at: dict[tuple[Fraction, int], list[ReadNote]] = {}
        result: list[ReadNote] = []
        for note in sorted(notes, key=lambda n: n.onset):
            starts, stops = _ties(note.element)
            if not stops and note.graces is not None:
                before = None
            else:
                before = _take(open_at, note, surely=stops)
                if before is not None and note.graces is not None:
                    self._lose(note.bar, "graces")
            if before is None:
                before = note
                result.append(note)
                if stops:
                    self._lose(note.bar, "tie")
            else:
                before.end = note.end
                before.further.append((note.onset, note.element))
            if starts:
                open_at.setdefault((before.end, note.pitch.midi), []).append(before)
        for rest in open_at.values():
            for note in rest:
                self._lose(note.bar, "tie")
        return result

    # one event ----------------------------------------------------------------------------

    def _event(
        self, i: int, piece: Slice[ReadNote], heads_of: dict[int, Notehead]
    ) -> tuple[Event, BowDirection | None]:
        heads: list[Notehead] = []
        fields: dict[str, Any] = {}
        marks: set[Mark] = set()
        bow: BowDirection | None = None
        graces: tuple[Pitch, ...] = ()
        for k, note in enumerate(piece.new):
            marked = self._marked(note, first=k == 0)
            bow = bow or marked.bow
            marks |= marked.marks
            fields |= {
                n: v
                for n, v in marked.fields.items()
                if n not in ("finger", "string", "natural")
                and not (n == "ornament" and n in fields)
            }
            if note.graces is not None and not graces:
                graces = tuple(note.graces.pitches)
                marks |= {"long_graces"} if note.graces.long else set()
            if heads and heads[-1].stopped is not None and _is_of_a_harmonic(note.element):
                self._settle_harmonic(note, heads)
                continue
            heads.append(self._head(note, marked, i, len(heads), piece))
            heads_of[id(note)] = heads[-1]
        for note in piece.held:
            struck = heads_of.get(id(note))
            if struck is not None:
                heads.append(
                    replace(
                        struck, id=f"{self._jig_id}.n{i}.{len(heads)}", held=True,
                        length_beats=_own_length(note, piece),
                    )
                )  # fmt: skip
        if len(heads) > MOST_HEADS:
            self._lose(piece.new[0].bar, "five_notes")
            heads = heads[:MOST_HEADS]
        heads.sort(key=lambda h: (h.pitch.midi, h.voice))
        event = Event(
            id=f"{self._jig_id}.e{i}", onset_beats=piece.onset,
            length_beats=piece.end - piece.onset, heads=tuple(heads), graces=graces,
            marks=in_mark_order(marks), **fields,
        )  # fmt: skip
        return event, bow

    def _marked(self, note: ReadNote, *, first: bool) -> Marked:
        """Marks of a note and of those that it is tied on to."""
        marked = marks_of(note.element)
        self._beside.signs += [
            Sign(kind="kept", at_beats=note.onset, text=text) for text in marked.kept
        ]
        self._beside.signs += [
            Sign(kind="dynamic", at_beats=note.onset, text=name) for name in marked.dynamics
        ]
        for at, element in note.further:
            more = marks_of(element, is_first=False)
            marked.marks |= more.marks
            marked.lost |= more.lost
            marked.bow = marked.bow or more.bow
            if "lifted" in more.fields:
                marked.fields["lifted"] = True
            self._beside.signs += [Sign(kind="kept", at_beats=at, text=t) for t in more.kept]
            self._beside.signs += [
                Sign(kind="dynamic", at_beats=at, text=name) for name in more.dynamics
            ]
        for name in marked.lost:
            self._lose(note.bar, name)
        if note.graces is not None and not first:
            self._lose(note.bar, "graces")
        return marked

    def _head(
        self, note: ReadNote, marked: Marked, i: int, k: int, piece: Slice[ReadNote]
    ) -> Notehead:
        pitch, stopped, partial = note.pitch, None, 1
        finger, number = marked.fields.get("finger"), marked.fields.get("string")
        n = len(self._strings)
        string = n - number if number is not None and 1 <= number <= n else None
        if marked.fields.get("natural"):
            if string is not None:
                partial = max(1, round(2 ** ((pitch.midi - self._strings[string].midi) / 12)))
            if partial == 1:
                self._beside.signs.append(
                    Sign(
                        kind="kept", at_beats=note.onset,
                        text="<technical><harmonic><natural /></harmonic></technical>",
                    )
                )  # fmt: skip
        if note.element.find("notations/technical/harmonic/base-pitch") is not None:
            stopped, partial = pitch, _USUAL_PARTIAL
            pitch = sounding_pitch(stopped, partial)
        if finger == 0 and string is None:
            string = next((s for s, p in enumerate(self._strings) if p == pitch), None)
        return Notehead(
            id=f"{self._jig_id}.n{i}.{k}", pitch=pitch, string=string, finger=finger,
            partial=partial, stopped=stopped, voice=note.voice,
            length_beats=_own_length(note, piece),
        )  # fmt: skip

    @staticmethod
    def _settle_harmonic(note: ReadNote, heads: list[Notehead]) -> None:
        """A touching note says which partial of the stopped note before it is meant."""
        touching = note.element.find("notations/technical/harmonic/touching-pitch")
        head = heads[-1] if heads else None
        if touching is None or head is None or head.stopped is None:
            return
        partial = artificial(note.pitch.midi - head.stopped.midi)
        if partial is not None:
            heads[-1] = replace(head, partial=partial, pitch=sounding_pitch(head.stopped, partial))

    # across events ------------------------------------------------------------------------

    def _with_dynamics(self, events: list[Event]) -> None:
        """Loudness marks that stand at a note become the note's; a second one stays a sign."""
        at = {e.onset_beats: i for i, e in enumerate(events)}
        kept = []
        for sign in self._beside.signs:
            i = at.get(sign.at_beats) if sign.kind == "dynamic" else None
            known = sign.text in DYNAMICS and sign.above is not True
            if i is not None and known and events[i].dynamic is None:
                events[i] = replace(events[i], dynamic=sign.text)  # type: ignore[arg-type]
            else:
                kept.append(sign)
        self._beside.signs[:] = kept

    def _slurs(self) -> list[tuple[Fraction, Fraction, bool]]:
        """First and last moment of every slur, and whether it begins on grace notes."""
        points: list[tuple[Fraction, int, str, bool, Fraction]] = []
        for note in self._read:
            points += [
                (note.onset, 0, slur.get("number", "1"), True, note.onset)
                for slur in (note.graces.slurs if note.graces is not None else ())
                if slur.get("type") == "start"
            ]
        for note in self._notes:
            for at, element in ((note.onset, note.element), *note.further):
                for slur in element.iterfind("notations/slur"):
                    rank = {"stop": 1, "start": 2}.get(slur.get("type", ""))
                    if rank is not None:
                        points.append((at, rank, slur.get("number", "1"), False, note.onset))
        open_slurs: dict[str, list[tuple[Fraction, bool]]] = {}
        found = []
        for at, rank, number, grace, onset in sorted(points, key=lambda p: p[:2]):
            waiting = open_slurs.setdefault(number, [])
            if rank != 1:
                waiting.append((at, grace))
            elif waiting:
                begin, from_grace = waiting.pop()
                # one that ends on a tied note ends with the whole of it
                found.append((begin, onset if begin < onset else at, from_grace))
            else:
                self._lose(self._bar_at(at), "slur")
        for waiting in open_slurs.values():
            for begin, _ in waiting:
                self._lose(self._bar_at(begin), "slur")
        return sorted(found)

    def _bar_at(self, beats: Fraction) -> str:
        return next((n.bar for n in self._notes if n.onset <= beats < n.end), "")

    def _bowed(
        self, events: list[Event], written: list[BowDirection | None],
        spans: list[tuple[Fraction, Fraction]],
    ) -> list[Event]:  # fmt: skip
        """Strokes from slurs and signs; directions that nobody wrote are proposed."""
        goes_on = _inside(events, spans)
        begins = [
            not e.pluck
            and not any(h.held for h in e.heads)
            and (not goes_on[i] or written[i] is not None or _apart(events, i))
            for i, e in enumerate(events)
        ]
        now: BowDirection = "up"
        leading = sum(
            b for e, b in zip(events, begins, strict=True) if e.onset_beats < self._pickup
        )
        if leading % 2 and not any(
            w for e, w in zip(events, written, strict=True) if e.onset_beats < self._pickup
        ):
            now = "down"  # an upbeat goes up, so that the first full bar begins down
        result = []
        for event, sign, new in zip(events, written, begins, strict=True):
            bow: BowDirection | None = None
            if new or (sign is not None and not event.pluck):
                bow = now = sign or ("down" if now == "up" else "up")
            result.append(replace(event, bow=bow, proposed_bow=bow is not None and sign is None))
        return result

    def _keep_slurs(
        self, events: list[Event], slurs: list[tuple[Fraction, Fraction, bool]],
        spans: list[tuple[Fraction, Fraction]],
    ) -> None:  # fmt: skip
        plain: list[Slur] = []
        for (at, _, grace), (a, b) in zip(slurs, spans, strict=True):
            if grace:
                self._beside.signs.append(Sign(kind="slur", at_beats=a, end_beats=b, text="graces"))
            elif a == b:  # over one note that is tied
                self._lose(self._bar_at(at), "slur")
            else:
                plain.append((a, b))
        early = [span for (_, _, grace), span in zip(slurs, spans, strict=True) if grace]
        for a, b in untold_slurs(events, plain, early):
            self._beside.signs.append(Sign(kind="slur", at_beats=a, end_beats=b))

    def _drop_plain_plucking(self, events: list[Event]) -> None:
        """``pizz.`` and ``arco`` where the notes tell the same."""
        changes = {
            e.onset_beats: e.pluck
            for before, e in zip((None, *events), events, strict=False)
            if e.pluck != (before is not None and before.pluck)
        }
        self._beside.signs[:] = [
            s
            for s in self._beside.signs
            if not (
                s.kind == "words"
                and s.text in ("pizz.", "arco")
                and changes.get(s.at_beats) is plucking(s.text)
            )
        ]

    def _lose(self, bar: str, what: str) -> None:
        loss = ImportLoss(bar=bar, what=what)
        if loss not in self._losses:
            self._losses.append(loss)


def _ties(element: Element) -> tuple[bool, bool]:
    kinds = {t.get("type") for t in element.iterfind("tie")}
    kinds |= {t.get("type") for t in element.iterfind("notations/tied")}
    return "start" in kinds, "stop" in kinds


def _take(
    open_at: dict[tuple[Fraction, int], list[ReadNote]], note: ReadNote, *, surely: bool
) -> ReadNote | None:
    """The note that a tie leads from: one of the same voice first, another only ``surely``."""
    key = (note.onset, note.pitch.midi)
    waiting = open_at.get(key, [])
    found = next((n for n in waiting if n.voice == note.voice), None)
    if found is None and surely and waiting:
        found = waiting[0]
    if found is None:
        return None
    waiting.remove(found)
    if not waiting:
        del open_at[key]
    return found


def _own_length(note: ReadNote, piece: Slice[ReadNote]) -> Fraction | None:
    return note.end - piece.onset if note.end < piece.end else None


def _is_of_a_harmonic(element: Element) -> bool:
    """The touching or the sounding note that stands beside a stopped one."""
    technical = "notations/technical/harmonic/"
    return element.find("chord") is not None and (
        element.find(technical + "touching-pitch") is not None
        or element.find(technical + "sounding-pitch") is not None
    )


def _snapped(onsets: Sequence[Fraction], at: Fraction) -> Fraction:
    """The beginning of the event that sounds at a moment."""
    return onsets[max(0, bisect_right(onsets, at) - 1)]


def _plucked(turns: Sequence[tuple[Fraction, bool]], onsets: Sequence[Fraction]) -> list[bool]:
    ordered = sorted(turns, key=lambda t: t[0])
    result, now, k = [], False, 0
    for onset in onsets:
        while k < len(ordered) and ordered[k][0] <= onset:
            now = ordered[k][1]
            k += 1
        result.append(now)
    return result


def _inside(events: Sequence[Event], spans: Sequence[tuple[Fraction, Fraction]]) -> list[bool]:
    """For each event, whether a slur leads to it."""
    ordered = sorted(spans)
    result, reach, k = [], Fraction(-1), 0
    for event in events:
        while k < len(ordered) and ordered[k][0] < event.onset_beats:
            reach = max(reach, ordered[k][1])
            k += 1
        result.append(event.onset_beats <= reach)
    return result


def _apart(events: Sequence[Event], i: int) -> bool:
    """A rest stands before it, or a plucked note."""
    return i == 0 or events[i].onset_beats > events[i - 1].end_beats or events[i - 1].pluck
