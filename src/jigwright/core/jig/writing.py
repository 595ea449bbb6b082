"""Writing a piece: its head, its marks, what lies over several notes, and bars taken elsewhere.

As in :mod:`jigwright.core.jig.edit` every function returns a new jig of the same revision.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import Aim
from jigwright.core.jig.derive import spot
from jigwright.core.jig.edit import MOST_EVENTS, SHORTEST, insert_time, renumbered
from jigwright.core.jig.model import MARKS, Event, Jig, Mark
from jigwright.core.jig.signs import HAIRPINS, Sign, in_order, shifted
from jigwright.core.music.keys import Key

BARS_TO_BEGIN = 4
TUPLETS: dict[int, Fraction] = {3: Fraction(2, 3), 5: Fraction(4, 5), 7: Fraction(4, 7)}
_DUPLE = 2


def new_piece(
    *, jig_id: str, title: str, instrument_id: str, key: Key, metre: tuple[int, int] = (4, 4),
    tempo_bpm: float = 80.0, pickup_beats: Fraction = Fraction(0),
) -> Jig:  # fmt: skip
    """A piece without a note: some bars of rest to write into."""
    bar = Fraction(metre[0] * 4, metre[1])
    return Jig(
        id=jig_id, title=title, instrument_id=instrument_id, key=key, beats_per_bar=metre[0],
        beat_unit=metre[1], tempo_bpm=tempo_bpm, pickup_beats=pickup_beats,
        silence_beats=pickup_beats + BARS_TO_BEGIN * bar,
    )  # fmt: skip


def with_head(jig: Jig, **head: Any) -> Jig:
    """Another title, key, metre, tempo or pick-up; notes stay where they are in time.

    Parameters
    ----------
    jig : Jig
    **head
        ``title``, ``key``, ``metre``, ``tempo_bpm``, ``pickup_beats``.

    Raises
    ------
    JigError
        If the pick-up is not shorter than a bar, or the tempo out of bounds.
    """
    metre = head.pop("metre", None)
    if metre is not None:
        head |= {"beats_per_bar": metre[0], "beat_unit": metre[1]}
    made = replace(jig, **head)
    bar = Fraction(made.beats_per_bar * 4, made.beat_unit)
    if made.pickup_beats >= bar:
        if "pickup_beats" in head:
            raise JigError(f"a pick-up is shorter than a bar of {bar} beats")
        made = replace(made, pickup_beats=Fraction(0))
    return made


def toggle_mark(jig: Jig, first: int, last: int, mark: Mark) -> Jig:
    """Write a mark over events, or take it from all of them if the first one has it."""
    there = mark in jig.events[first].marks

    def marked(event: Event) -> Event:
        marks = set(event.marks) - {mark} if there else {*event.marks, mark}
        return replace(event, marks=tuple(m for m in MARKS if m in marks))

    return _each(jig, first, last, marked)


def hairpin(jig: Jig, first: int, last: int, way: str) -> Jig:
    """Write a hairpin over events; the same one again takes it away, another replaces it.

    Raises
    ------
    JigError
        If ``way`` is neither of :data:`~jigwright.core.jig.signs.HAIRPINS`.
    """
    if way not in HAIRPINS:
        raise JigError(f"a hairpin is one of {', '.join(HAIRPINS)}, not {way!r}")
    start, end = jig.events[first].onset_beats, jig.events[last].end_beats
    new = Sign(kind="hairpin", at_beats=start, end_beats=end, text=way)
    kept = [
        s
        for s in jig.signs
        if s.kind != "hairpin" or s.at_beats >= end or (s.end_beats or s.at_beats) <= start
    ]
    same = any(s.kind == "hairpin" and replace(s, above=None) == new for s in jig.signs)
    return replace(jig, signs=in_order(kept if same else [*kept, new]))


def write_words(jig: Jig, i: int, text: str, *, above: bool = True) -> Jig:
    """Write words at an event in the place of those that stand there; none takes them away."""
    at = jig.events[i].onset_beats
    kept = [s for s in jig.signs if s.kind != "words" or s.at_beats != at]
    text = "".join(c for c in " ".join(text.split()) if c.isprintable())[:200]
    new = [Sign(kind="words", at_beats=at, text=text, above=above)] if text else []
    return replace(jig, signs=in_order([*kept, *new]))


def words_at(jig: Jig, i: int) -> str:
    """Words that stand at an event."""
    at = jig.events[i].onset_beats
    return " ".join(s.text for s in jig.signs if s.kind == "words" and s.at_beats == at)


def repeated(jig: Jig, first: int, last: int) -> Jig:
    """Put the bars of some events between repeat signs, or take these away again."""
    bars = jig.bars()
    start = max(b.start_beats for b in bars if b.start_beats <= jig.events[first].onset_beats)
    end = min(
        b.start_beats + b.length_beats
        for b in bars
        if b.start_beats + b.length_beats >= jig.events[last].end_beats
    )
    pair = [
        Sign(kind="repeat", at_beats=start, text="forward"),
        Sign(kind="repeat", at_beats=end, text="backward"),
    ]
    there = [s for s in jig.signs if s.kind == "repeat" and s in pair]
    kept = [s for s in jig.signs if s not in pair]
    return replace(jig, signs=in_order(kept if len(there) == len(pair) else [*kept, *pair]))


def tied(jig: Jig, first: int, last: int) -> Jig:
    """Events of one pitch as one note of their whole length.

    Raises
    ------
    JigError
        If they are not the same notes, or a rest lies between them.
    """
    events = jig.events[first : last + 1]
    if len(events) < _DUPLE:
        raise JigError("a tie joins two notes and more")
    pitches = [tuple(h.pitch for h in e.heads) for e in events]
    joined = all(a.end_beats == b.onset_beats for a, b in zip(events, events[1:], strict=False))
    if len(set(pitches)) > 1 or not joined:
        raise JigError("a tie joins notes of the same pitch that follow each other")
    length = events[-1].end_beats - events[0].onset_beats
    whole = replace(events[0], length_beats=length)
    gone = {e.id for e in events[1:]}
    return replace(
        jig, events=(*jig.events[:first], whole, *jig.events[last + 1 :]),
        aims=_without(jig.aims, gone),
    )  # fmt: skip


def as_tuplet(jig: Jig, first: int, last: int, size: int) -> Jig:
    """Events shortened so that ``size`` of them take the time of the power of two below it.

    Raises
    ------
    JigError
        If there is no such tuplet, or a note would become too short.
    """
    factor = TUPLETS.get(size)
    if factor is None:
        raise JigError(f"no tuplet of {size}")
    start = jig.events[first].onset_beats
    span = jig.events[last].end_beats - start
    events: list[Event] = []
    for i, event in enumerate(jig.events):
        if i < first:
            events.append(event)
        elif i <= last:
            onset = start + (event.onset_beats - start) * factor
            length = event.length_beats * factor
            if length < SHORTEST / 2:
                raise JigError(f"a note lasts at least {SHORTEST / 2} beats, got {length}")
            events.append(replace(event, onset_beats=onset, length_beats=length))
        else:
            events.append(replace(event, onset_beats=event.onset_beats - span * (1 - factor)))
    by = span * (factor - 1)
    return replace(jig, events=tuple(events), signs=shifted(jig.signs, start + span + by, by))


def copied(jig: Jig, first: int, last: int) -> Jig:
    """Some events as a jig of their own, to be put in elsewhere."""
    made = spot(jig, first, last, jig_id="copied", title=jig.title)
    by = made.events[0].onset_beats
    events = tuple(replace(e, onset_beats=e.onset_beats - by) for e in made.events)
    return replace(
        made, events=events, changes=(), aims=(), signs=shifted(made.signs, Fraction(0), -by)
    )  # fmt: skip


def pasted(jig: Jig, after: int, piece: Jig) -> Jig:
    """Put copied events in after an event (-1: at the beginning); what follows moves on.

    Notes of another instrument keep no string and no finger.

    Raises
    ------
    JigError
        If the jig is full.
    """
    if len(jig.events) + len(piece.events) > MOST_EVENTS:
        raise JigError(f"a jig holds at most {MOST_EVENTS} notes")
    at = jig.events[after].end_beats if after >= 0 and jig.events else Fraction(0)
    length = piece.length_beats
    opened = insert_time(jig, after, length)
    new = [
        replace(
            e, onset_beats=e.onset_beats + at,
            heads=tuple(
                h if piece.instrument_id == jig.instrument_id
                else replace(h, string=None, finger=None)
                for h in e.heads
            ),
        )
        for e in piece.events
    ]  # fmt: skip
    events = (*opened.events[: after + 1], *renumbered(jig, new), *opened.events[after + 1 :])
    signs = [
        replace(
            s, at_beats=s.at_beats + at,
            end_beats=None if s.end_beats is None else s.end_beats + at,
        )
        for s in piece.signs
        if s.kind not in ("tempo", "clef")
    ]  # fmt: skip
    return replace(opened, events=events, signs=in_order([*opened.signs, *signs]))


def _each(jig: Jig, first: int, last: int, change: Any) -> Jig:
    return replace(
        jig,
        events=tuple(change(e) if first <= i <= last else e for i, e in enumerate(jig.events)),
    )


def _without(aims: Sequence[Aim], gone: set[str]) -> tuple[Aim, ...]:
    """Aims whose places are still there."""
    kept = []
    for aim in aims:
        places = tuple(p for p in aim.places if p not in gone)
        if places or not aim.places:
            kept.append(replace(aim, places=places))
    return tuple(kept)
