"""A jig: notes, bowing, pulse, reference and tolerances.

A saved jig is immutable; an edit makes a new revision. Every event and notehead has an id that
survives edits, so history can join on note ids. Written lengths are exact fractions of a
quarter note (``beats``).
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import lru_cache
from typing import Literal

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import MOST_AIMS, Aim
from jigwright.core.jig.signs import MOST_SIGNS, Dynamic, Sign
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch

BowDirection = Literal["down", "up"]
Shape = Literal["level", "grow", "fade", "swell", "dip"]
Ornament = Literal["trill", "mordent", "turn", "tremolo"]
ORNAMENTS: tuple[Ornament, ...] = ("trill", "mordent", "turn", "tremolo")
SHAPES: tuple[Shape, ...] = ("level", "grow", "fade", "swell", "dip")
Mark = Literal[
    "accent", "marcato", "tenuto", "portato", "staccatissimo", "spiccato", "fermata", "breath",
    "pause", "rolled", "snap", "inverted", "delayed", "long_graces", "slash1",
    "slash2", "slash4",
]  # fmt: skip
MARKS: tuple[Mark, ...] = (
    "accent", "marcato", "tenuto", "portato", "staccatissimo", "spiccato", "fermata", "breath",
    "pause", "rolled", "snap", "inverted", "delayed", "long_graces", "slash1",
    "slash2", "slash4",
)  # fmt: skip
MOST_VOICES = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Notehead:
    """One pitch of an event.

    Parameters
    ----------
    id : str
        Stable identity.
    pitch : Pitch
        Sounding pitch.
    string : int or None
        Index of the string, 0 = lowest.
    finger : int or None
        0 open, 1 … 4, 5 thumb.
    replaces : str or None
        Id of the head this one took the place of.
    partial : int
        For a natural harmonic the partial of ``string`` that sounds as ``pitch``; 1 = none.
    stopped : Pitch or None
        For an artificial harmonic the stopped note whose ``partial`` sounds.
    held : bool
        It goes on from the event before while another note moves; it is not struck again.
    length_beats : Fraction or None
        Where it ends before its event does; ``None``: with it.
    voice : int
        1 … 4, of two or more voices that are written on one staff.
    proposed : bool
        String and finger are a proposal: nobody wrote them.
    """

    id: str
    pitch: Pitch
    string: int | None = None
    finger: int | None = None
    replaces: str | None = None
    partial: int = 1
    stopped: Pitch | None = None
    held: bool = False
    length_beats: Fraction | None = None
    voice: int = 1
    proposed: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """One to four noteheads sounding together.

    Parameters
    ----------
    id : str
    onset_beats, length_beats : Fraction
        Quarter notes from the start of the jig; written length.
    heads : tuple of Notehead
        Low to high.
    bow : BowDirection or None
        Direction of the stroke that *begins* here; None while a stroke goes on.
    vibrato : bool or None
        Asked for, asked not, or left open.
    glide : bool
        A written portamento leads into this event.
    pluck : bool
        Pizzicato.
    dynamic : Dynamic or None
        Marking that begins here.
    free : bool
        Extra notes here (ornaments) are nobody's mistake.
    lifted : bool
        A gap before the next event is wanted.
    shape : Shape or None
        How a long note is meant to move.
    graces : tuple of Pitch
        Grace notes before it; they are nobody's mistake.
    ornament : Ornament or None
        Written over it; its notes are the event's own.
    marks : tuple of Mark
        Further signs over the note, each once, in the order of :data:`MARKS`; ``inverted``,
        ``delayed`` and the number of ``slash`` (three where none is said) belong to the ornament,
        ``long_graces`` to grace notes without a stroke.
    proposed_bow : bool
        The direction is a proposal: nobody wrote it.
    bow_share : float or None
        Share of the usable hair it is to get, 0 … 1; ``None`` leaves it to the bow plan.
    bow_place : float or None
        Where the stroke that begins here is to begin, 0 = frog, 1 = tip of the usable hair.
    """

    id: str
    onset_beats: Fraction
    length_beats: Fraction
    heads: tuple[Notehead, ...]
    bow: BowDirection | None = None
    vibrato: bool | None = None
    glide: bool = False
    pluck: bool = False
    dynamic: Dynamic | None = None
    free: bool = False
    lifted: bool = False
    shape: Shape | None = None
    graces: tuple[Pitch, ...] = ()
    ornament: Ornament | None = None
    marks: tuple[Mark, ...] = ()
    proposed_bow: bool = False
    bow_share: float | None = None
    bow_place: float | None = None

    @property
    def end_beats(self) -> Fraction:
        """Where the written length ends."""
        return self.onset_beats + self.length_beats


MOST_EVENTS = 20_000
MOST_BEATS = 100_000
MOST_LENGTH_BEATS = 4_000
MOST_SECONDS = 86_400.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """A new key or metre at a bar line, or a bar that is not like the others.

    Parameters
    ----------
    at_beats : Fraction
        Where the bar begins.
    key : Key or None
    metre : tuple of (int, int) or None
        Beats in a bar and beat unit.
    bar_beats : Fraction or None
        Length of this one bar where the metre does not say it: split at a repeat, a cadenza.
    number : int or None
        Number of this bar where counting does not give it; the bars after it count on from it.
    """

    at_beats: Fraction
    key: Key | None = None
    metre: tuple[int, int] | None = None
    bar_beats: Fraction | None = None
    number: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Bar:
    """One bar.

    Parameters
    ----------
    number : int
        From 1; a pick-up is bar 0.
    start_beats, length_beats : Fraction
    metre : tuple of (int, int)
    key : Key
    """

    number: int
    start_beats: Fraction
    length_beats: Fraction
    metre: tuple[int, int]
    key: Key


@dataclass(frozen=True, slots=True, kw_only=True)
class Jig:
    """An exercise made ready.

    Parameters
    ----------
    id : str
    revision : int
        1, 2 …; a take points to one revision.
    title : str
    instrument_id : str
    key : Key
    beats_per_bar : int
    beat_unit : int
        4 = quarter notes.
    tempo_bpm : float
        Beats (quarter notes) a minute.
    reference : str
        Name as on the command line; the take may override it.
    tolerance_cents : float
    events : tuple of Event
    derived_from : tuple of (str, int) or None
        Jig and revision this one was made from.
    pickup_beats : Fraction
        Length of an incomplete first bar; 0 for none.
    changes : tuple of Change
        New keys and metres, in order.
    aims : tuple of Aim
        What it is for, the first one first; empty: every note, its pitch, and what is marked.
    signs : tuple of Sign
        What stands beside the notes, by time.
    silence_beats : Fraction
        Rests written after the last event.
    """

    id: str
    revision: int = 1
    title: str
    instrument_id: str
    key: Key
    beats_per_bar: int = 4
    beat_unit: int = 4
    tempo_bpm: float = 60.0
    reference: str = "equal"
    tolerance_cents: float = 10.0
    events: tuple[Event, ...] = field(default=())
    derived_from: tuple[str, int] | None = None
    pickup_beats: Fraction = Fraction(0)
    changes: tuple[Change, ...] = ()
    aims: tuple[Aim, ...] = ()
    signs: tuple[Sign, ...] = ()
    silence_beats: Fraction = Fraction(0)

    def __hash__(self) -> int:
        """Cheap, for jigs are asked for by it often: equal ones are told apart by comparing."""
        return hash(
            (self.id, self.revision, self.title, self.tempo_bpm, len(self.events), len(self.signs))
        )

    def __post_init__(self) -> None:
        if not self.title.strip():
            raise JigError("a jig needs a title")
        if not 10.0 <= self.tempo_bpm <= 400.0:
            raise JigError(
                f"the tempo must lie between 10 and 400 beats a minute: {self.tempo_bpm:g}"
            )
        if not 1.0 <= self.tolerance_cents <= 100.0:
            raise JigError(
                f"the tolerance must lie between 1 and 100 cents: {self.tolerance_cents:g}"
            )
        if len(self.aims) > MOST_AIMS:
            raise JigError(f"a jig has at most {MOST_AIMS} aims: {len(self.aims)}")
        ids = [e.id for e in self.events] + [h.id for e in self.events for h in e.heads]
        if len(set(ids)) != len(ids):
            raise JigError("ids of events and noteheads must differ")
        for a, b in zip(self.events, self.events[1:], strict=False):
            if b.onset_beats < a.onset_beats:
                raise JigError(f"events must follow in time: {b.id} stands before {a.id}")
        if len(self.events) > MOST_EVENTS:
            raise JigError(f"too many events: {len(self.events)} (at most {MOST_EVENTS})")
        if len(self.signs) > MOST_SIGNS:
            raise JigError(f"too many signs: {len(self.signs)} (at most {MOST_SIGNS})")
        end = self.length_beats + self.silence_beats
        if end > MOST_BEATS or float(end) * self.seconds_per_beat > MOST_SECONDS:
            raise JigError(f"{float(end):g} beats are longer than a day of playing")
        for e in self.events:
            if e.length_beats > MOST_LENGTH_BEATS or e.onset_beats < 0:
                raise JigError(f"event {e.id} begins before the jig, or never ends")
            if e.length_beats <= 0 or not 1 <= len(e.heads) <= 4:
                raise JigError(f"event {e.id} needs a length and one to four notes")

    @property
    def length_beats(self) -> Fraction:
        """Written length from the start to the end of the last event."""
        return max((e.end_beats for e in self.events), default=Fraction(0))

    @property
    def seconds_per_beat(self) -> float:
        """Duration of a quarter note at the written tempo."""
        return 60.0 / self.tempo_bpm

    def bar_of(self, event: Event) -> tuple[int, Fraction]:
        """Bar number (from 1) and beat inside it (from 0)."""
        bar = next(b for b in reversed(self.bars()) if b.start_beats <= event.onset_beats)
        return bar.number, event.onset_beats - bar.start_beats

    def bars(self) -> tuple[Bar, ...]:
        """All bars from the start to the end of the last event and the rests written after it."""
        return _bars(self)


@lru_cache(maxsize=64)
def _bars(jig: Jig) -> tuple[Bar, ...]:
    bars: list[Bar] = []
    at = Fraction(0)
    end = max(jig.length_beats + jig.silence_beats, Fraction(1, 64))
    metre, key = (jig.beats_per_bar, jig.beat_unit), jig.key
    waiting = sorted(jig.changes, key=lambda c: c.at_beats)
    number = 0 if jig.pickup_beats else 1
    while at < end and len(bars) < 20_000:
        own: Fraction | None = jig.pickup_beats if not bars and jig.pickup_beats else None
        while waiting and waiting[0].at_beats <= at:
            change = waiting.pop(0)
            metre, key = change.metre or metre, change.key or key
            own = change.bar_beats or own
            number = number if change.number is None else change.number
        length = own or Fraction(metre[0] * 4, metre[1])
        if waiting and at < waiting[0].at_beats < at + length:
            length = waiting[0].at_beats - at
        bars.append(Bar(number=number, start_beats=at, length_beats=length, metre=metre, key=key))
        at += length
        number += 1
    return tuple(bars)


def revise(jig: Jig, **changes: object) -> Jig:
    """Return the next revision of a jig with fields replaced."""
    return replace(jig, revision=jig.revision + 1, **changes)  # type: ignore[arg-type]


def change_pitch(jig: Jig, head_id: str, pitch: Pitch, *, new_id: str) -> Jig:
    """Return the next revision with one notehead's pitch changed; it gets a new id.

    Raises
    ------
    JigError
        If there is no such head.
    """
    if not any(h.id == head_id for e in jig.events for h in e.heads):
        raise JigError(f"no notehead {head_id!r} in {jig.title!r}")
    events = tuple(
        replace(
            e,
            heads=tuple(
                Notehead(id=new_id, pitch=pitch, replaces=h.id) if h.id == head_id else h
                for h in e.heads
            ),
        )
        for e in jig.events
    )
    return revise(jig, events=events)


def note_list(text: str, *, instrument_id: str, tempo_bpm: float = 60.0) -> Jig:
    """Make a bare jig from a list such as ``"D4 E4 F#4 G3+B3"``.

    Raises
    ------
    JigError
        If the list is empty or a chord has more than four notes.
    PitchNameError
        If a word is not a pitch name.
    """
    from jigwright.core.music.pitch import PitchClass

    events = []
    for i, word in enumerate(text.split()):
        pitches = sorted((Pitch.parse(p) for p in word.split("+")), key=lambda p: p.midi)
        heads = tuple(Notehead(id=f"n{i}.{k}", pitch=p) for k, p in enumerate(pitches))
        events.append(
            Event(id=f"e{i}", onset_beats=Fraction(i), length_beats=Fraction(1), heads=heads)
        )
    if not events:
        raise JigError("the list of notes is empty: write for instance D4 E4 F#4")
    return Jig(
        id="notes", title="notes", instrument_id=instrument_id, key=Key(PitchClass("C")),
        tempo_bpm=tempo_bpm, events=tuple(events),
    )  # fmt: skip
