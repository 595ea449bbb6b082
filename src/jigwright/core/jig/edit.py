"""Changing a jig note by note.

Every function returns a new jig of the same revision and leaves the old one as it is, so that
taking a step back is to show the jig before. Ids stay with their notes; a note whose pitch changes
gets a new head id that names the one it replaces, so that history does not mix the two. Strokes go
on alternating after a change; a stroke in the direction of the one before (a retake) stays one.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Callable, Sequence
from dataclasses import replace
from difflib import SequenceMatcher
from fractions import Fraction

from jigwright.core.errors import JigError
from jigwright.core.jig.fingering import placings
from jigwright.core.jig.model import BowDirection, Event, Jig, Notehead
from jigwright.core.jig.signs import Sign, in_order, shifted
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key, signature
from jigwright.core.music.pitch import STEPS, Pitch

SHORTEST, LONGEST = Fraction(1, 16), Fraction(16)
MOST_EVENTS = 4000
_NUMBER = re.compile(r"^y\d+\.")
_OTHER: dict[BowDirection, BowDirection] = {"down": "up", "up": "down"}


def in_key(diatonic: int, key: Key) -> Pitch:
    """The pitch on a line or space of the staff, as the signature has it.

    Parameters
    ----------
    diatonic : int
        As :attr:`~jigwright.core.music.pitch.Pitch.diatonic`.
    key : Key
    """
    octave, i = divmod(diatonic, 7)
    return Pitch(STEPS[i], signature(key.fifths).get(STEPS[i], 0), octave)


def key_at(jig: Jig, beats: Fraction) -> Key:
    """The key in force at a moment."""
    return next((b.key for b in reversed(jig.bars()) if b.start_beats <= beats), jig.key)


def insert_note(jig: Jig, after: int, pitch: Pitch, beats: Fraction | None = None) -> Jig:
    """Put a note in; what follows moves on.

    Parameters
    ----------
    jig : Jig
    after : int
        Event before it; -1 for the beginning.
    pitch : Pitch
    beats : Fraction, optional
        As long as the event before it otherwise.

    Raises
    ------
    JigError
        If the jig is full.
    """
    if len(jig.events) >= MOST_EVENTS:
        raise JigError(f"a jig holds at most {MOST_EVENTS} notes")
    neighbour = jig.events[max(after, 0)] if jig.events else None
    beats = beats or (neighbour.length_beats if neighbour else Fraction(1))
    at = jig.events[after].end_beats if after >= 0 and jig.events else Fraction(0)
    n = _free_number(jig)
    plucked = neighbour is not None and neighbour.pluck
    new = Event(
        id=f"{jig.id}.x{n}", onset_beats=at, length_beats=beats, pluck=plucked,
        heads=(Notehead(id=f"{jig.id}.y{n}", pitch=pitch),), bow=None if plucked else "down",
        proposed_bow=not plucked and all(e.proposed_bow for e in jig.events if e.bow),
    )  # fmt: skip
    strokes = _strokes(jig.events)
    before, behind = jig.events[: after + 1], jig.events[after + 1 :]
    moved = tuple(_later(e, beats) for e in behind)
    begins = [*strokes[: after + 1], None if plucked else False, *strokes[after + 1 :]]
    left = jig.silence_beats if behind else max(Fraction(0), jig.silence_beats - beats)
    return replace(
        jig, events=_bowed((*before, new, *moved), begins, _first_bow(jig)), silence_beats=left,
        signs=shifted(jig.signs, at, beats) if behind else jig.signs,
    )  # fmt: skip


def insert_time(jig: Jig, after: int, beats: Fraction) -> Jig:
    """Open time after an event (-1: at the beginning); what follows moves on."""
    at = jig.events[after].end_beats if after >= 0 and jig.events else Fraction(0)
    behind = jig.events[after + 1 :]
    left = jig.silence_beats if behind else max(Fraction(0), jig.silence_beats - beats)
    return replace(
        jig, events=(*jig.events[: after + 1], *(_later(e, beats) for e in behind)),
        signs=shifted(jig.signs, at, beats) if behind else jig.signs, silence_beats=left,
    )  # fmt: skip


def renumbered(jig: Jig, events: Sequence[Event]) -> tuple[Event, ...]:
    """Events with ids that nothing in a jig has."""
    n = _free_number(jig)
    return tuple(
        replace(
            e, id=f"{jig.id}.x{n + i}",
            heads=tuple(
                replace(h, id=f"{jig.id}.y{n + i}.{k}", replaces=None)
                for k, h in enumerate(e.heads)
            ),
        )
        for i, e in enumerate(events)
    )  # fmt: skip


def remove(jig: Jig, first: int, last: int) -> Jig:
    """Take events out; what follows moves up.

    Raises
    ------
    JigError
        If nothing would be left.
    """
    gone = jig.events[first : last + 1]
    if len(gone) == len(jig.events):
        raise JigError("an exercise needs at least one note")
    behind = jig.events[last + 1 :]
    end = behind[0].onset_beats if behind else gone[-1].end_beats
    by = end - gone[0].onset_beats
    strokes = _strokes(jig.events)
    begins = [*strokes[:first], *strokes[last + 1 :]]
    if first < len(begins) and begins[first] is None and gone[0].bow is not None:
        begins[first] = strokes[first]  # the rest of a bow that lost its beginning
    events = (*jig.events[:first], *(_later(e, -by) for e in behind))
    return replace(
        jig, events=_bowed(events, begins, _first_bow(jig)),
        signs=shifted(jig.signs, gone[0].onset_beats, -by),
    )  # fmt: skip


def rest_after(jig: Jig, i: int, beats: Fraction) -> Jig:
    """Leave time after an event (taken away again by a negative length, down to none)."""
    behind = jig.events[i + 1 :]
    if not behind:
        return jig
    gap = behind[0].onset_beats - jig.events[i].end_beats
    by = max(beats, -gap)
    at = behind[0].onset_beats if by > 0 else behind[0].onset_beats + by
    return replace(
        jig, events=(*jig.events[: i + 1], *(_later(e, by) for e in behind)),
        signs=shifted(jig.signs, at, by),
    )  # fmt: skip


def lengthen(jig: Jig, first: int, last: int, factor: Fraction) -> Jig:
    """Make events longer or shorter by a factor; what follows moves along.

    Raises
    ------
    JigError
        If a length would leave a sixteenth of a beat … sixteen beats.
    """
    events: list[Event] = []
    by, signs = Fraction(0), jig.signs
    for i, e in enumerate(jig.events):
        beats = e.length_beats * factor if first <= i <= last else e.length_beats
        if not SHORTEST <= beats <= LONGEST:
            raise JigError(f"a note lasts {SHORTEST} to {LONGEST} beats, got {beats}")
        events.append(replace(_later(e, by), length_beats=beats))
        change = beats - e.length_beats
        if change:
            end = e.end_beats + by
            signs = shifted(signs, end if change > 0 else end + change, change)
        by += change
    return replace(jig, events=tuple(events), signs=signs)


def move_pitch(jig: Jig, first: int, last: int, *, steps: int = 0, semitones: int = 0) -> Jig:
    """Move notes along the staff (``steps`` in the key) and then by semitones.

    Semitones change the sign before the note as far as a double one, then the letter.

    Raises
    ------
    JigError
        If a note would leave C-1 … B9.
    """

    def moved(event: Event) -> Event:
        key = key_at(jig, event.onset_beats)
        heads = []
        for head in event.heads:
            pitch = in_key(head.pitch.diatonic + steps, key) if steps else head.pitch
            if semitones:
                alter = pitch.alter + semitones
                if abs(alter) <= 1:
                    pitch = Pitch(pitch.step, alter, pitch.octave)
                else:
                    pitch = Pitch.from_midi(pitch.midi + semitones, fifths=key.fifths)
            if not 0 <= pitch.midi < 132:
                raise JigError(f"no note lies there: {pitch}")
            heads.append(_repitched(jig, head, pitch))
        return replace(event, heads=tuple(sorted(heads, key=lambda h: h.pitch.midi)))

    return _changed(jig, first, last, moved)


def add_head(jig: Jig, i: int, pitch: Pitch) -> Jig:
    """Let another note sound together with an event; the same again takes it away.

    Raises
    ------
    JigError
        If there are four already.
    """
    event = jig.events[i]
    same = [h for h in event.heads if h.pitch == pitch]
    if same and len(event.heads) > 1:
        heads = tuple(h for h in event.heads if h.pitch != pitch)
    elif same:
        return jig
    else:
        if len(event.heads) == 4:
            raise JigError("at most four notes sound together")
        new = Notehead(id=f"{jig.id}.y{_free_number(jig)}", pitch=pitch)
        heads = tuple(sorted((*event.heads, new), key=lambda h: h.pitch.midi))
    return _changed(jig, i, i, lambda e: replace(e, heads=heads))


def one_bow(jig: Jig, first: int, last: int) -> Jig:
    """Play events in one bow."""
    begins = _strokes(jig.events)
    for i in range(first + 1, last + 1):
        begins[i] = None
    if begins[first] is None and not jig.events[first].pluck:
        begins[first] = False
    if last + 1 < len(begins) and begins[last + 1] is None and not jig.events[last + 1].pluck:
        begins[last + 1] = False
    return replace(
        jig, events=_bowed(jig.events, begins, _first_bow(jig)),
        signs=_free_of_slurs(jig, first, last),
    )  # fmt: skip


def apart(jig: Jig, first: int, last: int) -> Jig:
    """Give each event a bow of its own."""
    begins = _strokes(jig.events)
    for i in range(first, min(last + 2, len(begins))):
        if begins[i] is None and not jig.events[i].pluck:
            begins[i] = False
    return replace(
        jig, events=_bowed(jig.events, begins, _first_bow(jig)),
        signs=_free_of_slurs(jig, first, min(last + 1, len(jig.events) - 1)),
    )  # fmt: skip


def turn_bow(jig: Jig, i: int) -> Jig:
    """Let the stroke at an event go the other way, and those after it too."""
    at = max((k for k in range(i + 1) if jig.events[k].bow is not None), default=None)
    if at is None:
        return jig
    begins = _strokes(jig.events)
    first = _first_bow(jig)
    if not any(e.bow for e in jig.events[:at]):
        first = _OTHER[first]
    else:
        begins[at] = not begins[at]
    events = list(_bowed(jig.events, begins, first))
    events[at] = replace(events[at], proposed_bow=False)  # now somebody wrote it
    return replace(jig, events=tuple(events))


def grouped(jig: Jig, size: int, *, title: str) -> Jig:
    """The same notes, ``size`` to a bow; 1 separates them. A rest ends a bow.

    Parameters
    ----------
    jig : Jig
    size : int
    title : str
    """
    begins: list[bool | None] = []
    inside = 0
    for before, event in zip((None, *jig.events), jig.events, strict=False):
        gap = before is None or event.onset_beats > before.end_beats or before.lifted
        again = before is not None and _pitches(before) == _pitches(event)
        inside = 0 if event.pluck or gap or again or inside >= size else inside
        begins.append(None if event.pluck else False if inside == 0 else None)
        inside += 1
    return replace(
        jig, title=title, events=_bowed(jig.events, begins, "down"),
        signs=_free_of_slurs(jig, 0, len(jig.events) - 1),
    )  # fmt: skip


def set_finger(jig: Jig, first: int, last: int, finger: int | None) -> Jig:
    """Write a finger (0 open, 1 … 4, 5 thumb) on the lowest note of each event.

    The string follows where only one can be meant.
    """

    def written(event: Event) -> Event:
        head = event.heads[0]
        string = head.string
        if finger is not None:
            strings = instrument(jig.instrument_id).strings
            ways = placings(head.pitch, strings, jig.instrument_id)
            fitting = sorted({p.string for p in ways if p.finger == finger})
            if fitting and string not in fitting:
                string = fitting[-1]
        head = replace(head, finger=finger, string=string, proposed=False)
        return replace(event, heads=(head, *event.heads[1:]))

    return _changed(jig, first, last, written)


def next_string(jig: Jig, first: int, last: int) -> Jig:
    """Take notes on the next lower string that has them, then begin again at the highest."""
    strings = instrument(jig.instrument_id).strings

    def moved(event: Event) -> Event:
        head = event.heads[0]
        ways = placings(head.pitch, strings, jig.instrument_id)
        possible = sorted({p.string for p in ways}, reverse=True)
        if not possible:
            return event
        lower = [s for s in possible if head.string is None or s < head.string]
        string = lower[0] if lower else possible[0]
        finger = min((p for p in ways if p.string == string), key=lambda p: p.price).finger
        head = replace(head, string=string, finger=finger, proposed=False)
        return replace(event, heads=(head, *event.heads[1:]))

    return _changed(jig, first, last, moved)


def has_proposals(jig: Jig) -> bool:
    """Whether bows or fingers are in it that nobody wrote."""
    return any(e.proposed_bow or any(h.proposed for h in e.heads) for e in jig.events)


def as_written(jig: Jig) -> Jig:
    """Proposed bows and fingers taken over as if somebody had written them."""
    return replace(
        jig,
        events=tuple(
            replace(e, proposed_bow=False, heads=tuple(replace(h, proposed=False) for h in e.heads))
            for e in jig.events
        ),
    )


def mark(jig: Jig, first: int, last: int, **marks: object) -> Jig:
    """Set fields of :class:`~jigwright.core.jig.model.Event`; a plucked note has no bow."""
    done = _changed(jig, first, last, lambda e: replace(e, **marks))  # type: ignore[arg-type]
    if "pluck" not in marks:
        return done
    begins = _strokes(jig.events)
    for i in range(first, last + 1):
        begins[i] = None if marks["pluck"] else False
    behind = last + 1
    if behind < len(begins) and begins[behind] is None and not done.events[behind].pluck:
        begins[behind] = False
    return replace(done, events=_bowed(done.events, begins, _first_bow(jig)))


def rewritten(old: Jig, new: Jig) -> Jig:
    """``old`` with the notes of ``new``: what stayed keeps its ids and its marks.

    Notes are matched in order by pitch and length; bows and written fingers are those of ``new``.
    """
    words = [[(_pitches(e), e.length_beats) for e in j.events] for j in (old, new)]
    events: list[Event] = []
    number = _free_number(old)
    for kind, a, b, c, d in SequenceMatcher(a=words[0], b=words[1], autojunk=False).get_opcodes():
        for k, event in enumerate(new.events[c:d]):
            if kind == "equal":
                was = old.events[a:b][k]
                heads = tuple(
                    h if n.finger is None else replace(h, finger=n.finger, string=n.string)
                    for h, n in zip(was.heads, event.heads, strict=True)
                )
                kept = replace(
                    was,
                    onset_beats=event.onset_beats,
                    bow=event.bow,
                    lifted=event.lifted,
                    ornament=event.ornament,
                    free=was.free if event.ornament else event.free,
                    graces=event.graces,
                    heads=heads,
                )
                events.append(kept)
                continue
            heads = tuple(
                replace(h, id=f"{old.id}.y{number}.{i}") for i, h in enumerate(event.heads)
            )
            events.append(replace(event, id=f"{old.id}.x{number}", heads=heads))
            number += 1
    return replace(old, events=tuple(events), signs=_with_their_notes(old, events))


def _with_their_notes(old: Jig, events: Sequence[Event]) -> tuple[Sign, ...]:
    """Signs of a jig beside the notes that stayed; what stood at none that did goes.

    A sign before the first note, or at a note that is gone, stands at the note that stayed before
    it, or at the beginning.
    """
    now = {e.id: e.onset_beats for e in events}
    onsets = [e.onset_beats for e in old.events]
    length = max((e.end_beats for e in events), default=Fraction(0))

    def moved(beats: Fraction) -> Fraction:
        i = bisect_right(onsets, beats) - 1
        inside = beats - onsets[i] if i >= 0 else beats
        while i >= 0 and old.events[i].id not in now:
            i, inside = i - 1, old.events[i - 1].length_beats if i else Fraction(0)
        start = now[old.events[i].id] if i >= 0 else Fraction(0)
        return min(length, start + inside)

    return in_order(
        replace(
            s, at_beats=moved(s.at_beats),
            end_beats=None if s.end_beats is None else max(moved(s.at_beats), moved(s.end_beats)),
        )
        for s in old.signs
    )  # fmt: skip


def _changed(jig: Jig, first: int, last: int, change: Callable[[Event], Event]) -> Jig:
    events = (change(e) if first <= i <= last else e for i, e in enumerate(jig.events))
    return replace(jig, events=tuple(events))


def _pitches(event: Event) -> tuple[Pitch, ...]:
    return tuple(h.pitch for h in event.heads)


def _repitched(jig: Jig, head: Notehead, pitch: Pitch) -> Notehead:
    if pitch == head.pitch:
        return head
    own = _NUMBER.sub("", head.id.removeprefix(f"{jig.id}."))
    return Notehead(
        id=f"{jig.id}.y{_free_number(jig)}.{own}", pitch=pitch, replaces=head.replaces or head.id
    )


def _later(event: Event, by: Fraction) -> Event:
    return replace(event, onset_beats=event.onset_beats + by) if by else event


def _free_number(jig: Jig) -> int:
    """One more than any number that ids made here carry."""
    numbers = [0]
    for text in (i for e in jig.events for i in (e.id, *(h.id for h in e.heads))):
        tail = text.removeprefix(f"{jig.id}.")
        head = tail.split(".")[0]
        if head[:1] in ("x", "y") and head[1:].isdigit():
            numbers.append(int(head[1:]))
    return max(numbers) + 1


def _first_bow(jig: Jig) -> BowDirection:
    return next((e.bow for e in jig.events if e.bow is not None), "down")


def _strokes(events: Sequence[Event]) -> list[bool | None]:
    """For each event: no new stroke, or whether it repeats the direction before."""
    result: list[bool | None] = []
    before: BowDirection | None = None
    for e in events:
        result.append(None if e.bow is None else e.bow == before)
        before = e.bow or before
    return result


def _bowed(
    events: Sequence[Event], begins: Sequence[bool | None], first: BowDirection
) -> tuple[Event, ...]:
    """Directions written anew from where strokes begin and which are retakes."""
    result: list[Event] = []
    before: BowDirection | None = None
    by_proposal = any(e.proposed_bow for e in events)
    for event, again in zip(events, begins, strict=True):
        bow: BowDirection | None = None
        first_of_all = not result or result[-1].pluck
        if not event.pluck and (again is not None or first_of_all):
            bow = first if before is None else before if again else _OTHER[before]
            before = bow
        if event.bow != bow:
            event = replace(event, bow=bow, proposed_bow=bow is not None and by_proposal)
        result.append(event)
    return tuple(result)


def _free_of_slurs(jig: Jig, first: int, last: int) -> tuple[Sign, ...]:
    """Signs without written slurs over some events: their strokes tell the slurs from now on."""
    start, end = jig.events[first].onset_beats, jig.events[last].onset_beats
    return tuple(
        s
        for s in jig.signs
        if s.kind != "slur"
        or s.text == "graces"
        or s.at_beats > end
        or (s.end_beats or s.at_beats) < start
    )
