"""From a jig and faults to the notes that are played, with their exact curves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from jigwright.core.errors import FaultError
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime
from jigwright.core.jig.phrases import written_loudness
from jigwright.core.music.pitch import Pitch, cents_to_ratio
from jigwright.core.music.references import Reference, pure_strings, target_hz
from jigwright.core.player import faults as f
from jigwright.core.player import real as r
from jigwright.core.player.chosen import Chosen

DYNAMIC_DB = {
    "ppp": -19.0, "pp": -14.0, "p": -9.0, "mp": -4.0, "mf": 0.0, "f": 4.0, "ff": 7.0, "fff": 9.0,
}  # fmt: skip
"""How loud the player takes a marking, re mezzoforte."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlayedNote:
    """One note as it will sound.

    Parameters
    ----------
    i_event : int
        0-based event of the jig this belongs to; -1 for an extra note.
    pitch : Pitch
        What is sounded (a wrong note differs from the jig).
    target_hz : float
        Where the reference puts that pitch.
    cents : float
        Offset of the settled pitch from the target.
    onset_s, offset_s : float
    slurred : bool
        The bow goes on from the note before.
    bow : int
        +1 down, -1 up.
    level_db : float
        Relative level.
    slide_cents, slide_s : float
        Start of a slide and its length; 0 for none.
    hunt_cents, hunt_s, n_swings : float, float, int
    vibrato : faults.VibratoFault or None
    shape : faults.Shape or None
    dip_db, gap_ms : float
        How the stroke joins the one before.
    lower : Pitch or None
        Pitch of a second, lower string that sounds too.
    lower_hz, balance_db : float
        Its frequency, and how much softer it is than the upper.
    bow_faults : tuple
        What the bow does inside the note.
    pluck : faults.PluckFault or None
    fold : faults.Fold or None
    real : tuple
        What real playing has, :mod:`real`.
    string, lower_string : int or None
        What it is played on, 0 = lowest, where the jig says so.
    """

    i_event: int
    pitch: Pitch
    target_hz: float
    cents: float = 0.0
    onset_s: float = 0.0
    offset_s: float = 0.0
    slurred: bool = False
    bow: int = 1
    level_db: float = 0.0
    slide_cents: float = 0.0
    slide_s: float = 0.0
    hunt_cents: float = 0.0
    hunt_s: float = 0.0
    n_swings: int = 0
    vibrato: f.VibratoFault | None = None
    shape: f.Shape | None = None
    dip_db: float = 18.0
    gap_ms: float = 30.0
    lower: Pitch | None = None
    lower_hz: float = 0.0
    balance_db: float = 0.0
    bow_faults: tuple[f.Bounce | f.Scratch | f.WhistleFault | f.Tremor | f.Hurry, ...] = ()
    pluck: f.PluckFault | None = None
    fold: f.Fold | None = None
    real: tuple[r.OfNote, ...] = ()
    string: int | None = None
    lower_string: int | None = None

    @property
    def f0_hz(self) -> float:
        """Settled frequency."""
        return self.target_hz * cents_to_ratio(self.cents)


def perform(
    jig: Jig,
    *,
    reference: Reference,
    a4_hz: float,
    strings: tuple[Pitch, ...],
    faults: Sequence[f.Fault] = (),
    rng: np.random.Generator,
    lead_in_s: float = 0.4,
) -> tuple[PlayedNote, ...]:
    """Lay out the notes of a take in time.

    The upper and the lowest notehead of an event are sounded; inner ones are not.
    """
    open_hz = pure_strings(strings, a4_hz)
    pace = _paces(jig, faults, rng)
    notes: list[PlayedNote] = []
    clock = lead_in_s
    bow = -1
    loud_db = 0.0
    loudness, time = written_loudness(jig), WrittenTime(jig)
    for i, event in enumerate(jig.events):
        chosen = [x for x in faults if isinstance(x, Chosen) and x.touches(i, event)]
        spb = time.seconds_per_beat(event.onset_beats) * pace[i]
        gap = 0.0
        if i:
            gap = float(event.onset_beats - jig.events[i - 1].end_beats) * spb
        clock += gap + sum(x.seconds for x in chosen if isinstance(x, f.Pause))
        length = float(event.length_beats) * spb
        bow = _next_bow(event.bow, bow)
        slurred = event.bow is None and i > 0 and gap == 0 and bool(notes)
        missed = [x for x in chosen if isinstance(x, f.Miss)]
        if missed:
            clock += 0.0 if missed[0].closed_up else length
            continue
        note = PlayedNote(
            i_event=i,
            pitch=event.heads[-1].pitch,
            target_hz=target_hz(reference, event.heads[-1].pitch, a4_hz, open_strings_hz=open_hz),
            slurred=slurred and notes[-1].i_event == i - 1,
            bow=bow,
            string=event.heads[-1].string,
            lower_string=event.heads[0].string,
        )
        note = _with_peg(note, faults, strings)
        if event.pluck:
            note = replace(note, pluck=f.PluckFault(), slurred=False)
        if (mark := loudness[i]) is not None:
            loud_db = DYNAMIC_DB[mark]
        note = replace(note, level_db=note.level_db + loud_db)
        if len(event.heads) > 1:
            low = event.heads[0].pitch
            note = replace(
                note,
                lower=low,
                lower_hz=target_hz(reference, low, a4_hz, open_strings_hz=open_hz),
            )
        note = _apply(note, chosen, reference, a4_hz, open_hz, rng)
        note = _with_portamento(note, notes)
        length *= min((x.share for x in chosen if isinstance(x, f.Lift)), default=1.0)
        for one, seconds in _with_repeats(note, notes, chosen, length):
            jitter = sum(x.spread_ms for x in chosen if isinstance(x, f.Unsteady)) / 1000.0
            onset = max(clock + float(rng.normal(0.0, 1.0)) * jitter, 0.05)
            if notes:
                onset = max(onset, notes[-1].onset_s + 0.04)
            notes.append(replace(one, onset_s=onset, offset_s=clock + seconds))
            clock += seconds
        clock += float(event.length_beats) * spb - length
    if not notes:
        raise FaultError("every note is left out: nothing is left to play")
    return _close_up(notes)


def _with_peg(
    note: PlayedNote, faults: Sequence[f.Fault], strings: tuple[Pitch, ...]
) -> PlayedNote:
    """An open string sounds as its peg has it."""
    for x in faults:
        if isinstance(x, f.Sympathy) and x.out_cents and x.out_string < len(strings):
            string = strings[x.out_string]
            if note.pitch.midi == string.midi and note.string in (None, x.out_string):
                return replace(note, cents=note.cents + x.out_cents)
    return note


def _paces(jig: Jig, faults: Sequence[f.Fault], rng: np.random.Generator) -> list[float]:
    """How much longer than written each event is, where the tempo drifts."""
    pace = np.ones(len(jig.events))
    for x in faults:
        if isinstance(x, r.TempoDrift) and len(pace) > 1:
            walk = np.cumsum(rng.normal(size=len(pace)))
            walk -= np.linspace(walk[0], walk[-1], len(walk))
            pace *= 1.0 + x.percent / 100.0 * walk / max(1e-9, float(np.abs(walk).max()))
    return [float(p) for p in pace]


def _next_bow(written: str | None, before: int) -> int:
    if written is None:
        return before
    return 1 if written == "down" else -1


def _with_repeats(
    note: PlayedNote, before: list[PlayedNote], chosen: Sequence[Chosen], length_s: float
) -> list[tuple[PlayedNote, float]]:
    again = replace(note, slurred=False, bow=-note.bow)
    for x in chosen:
        if isinstance(x, f.Repeat):
            return [(note, length_s), *[(again, length_s)] * x.times]
        if isinstance(x, f.BackOne) and before:
            first = replace(note, cents=x.first_cents)
            back = replace(before[-1], slurred=False, bow=-note.bow)
            return [(first, length_s), (back, length_s), (replace(note, slurred=False), length_s)]
        if isinstance(x, f.Extra):
            other = replace(
                again,
                i_event=-1,
                pitch=Pitch.from_midi(note.pitch.midi + x.semitones),
                target_hz=note.target_hz * cents_to_ratio(100.0 * x.semitones),
                cents=0.0,
            )
            return [(note, length_s), (other, length_s)]
    return [(note, length_s)]


def _apply(
    note: PlayedNote,
    chosen: Sequence[Chosen],
    reference: Reference,
    a4_hz: float,
    open_hz: dict[Pitch, float],
    rng: np.random.Generator,
) -> PlayedNote:
    for x in chosen:
        match x:
            case f.Detune():
                off = x.cents + x.spread_cents * float(rng.normal())
                note = replace(note, cents=note.cents + off)
            case f.Slide():
                note = replace(note, slide_cents=x.from_cents, slide_s=x.seconds)
            case f.Hunt():
                note = replace(note, hunt_cents=x.size_cents, hunt_s=x.seconds, n_swings=x.swings)
            case f.Wrong():
                pitch = Pitch.from_midi(note.pitch.midi + x.semitones)
                hz = target_hz(reference, pitch, a4_hz, open_strings_hz=open_hz)
                note = replace(note, pitch=pitch, target_hz=hz)
            case f.Weak():
                note = replace(note, level_db=note.level_db - x.db)
            case f.BowChangeFault():
                note = replace(note, dip_db=x.dip_db, gap_ms=x.gap_ms)
            case f.Lower() if note.lower is not None:
                note = replace(
                    note, lower_hz=note.lower_hz * cents_to_ratio(x.cents), balance_db=x.balance_db
                )
            case f.Neighbour() if note.lower is None:
                below = [s for s in open_hz if s.midi < note.pitch.midi - 2]
                if below:
                    string = max(below, key=lambda s: s.midi)
                    note = replace(
                        note, lower=string, lower_hz=open_hz[string], balance_db=x.balance_db
                    )
            case f.PluckFault() | f.Fold() | f.Shape() | f.VibratoFault():
                note = _carrying(note, x)
            case f.Bounce() | f.Scratch() | f.WhistleFault() | f.Tremor() | f.Hurry():
                note = replace(note, bow_faults=(*note.bow_faults, x))
            case _:
                note = _as_played(note, x, rng)
    return note


def _as_played(note: PlayedNote, x: Chosen, rng: np.random.Generator) -> PlayedNote:
    """What real playing has besides faults."""
    match x:
        case r.Uneven():
            dip = float(rng.uniform(x.least_db, max(x.least_db, x.dip_db)))
            return replace(note, dip_db=dip, gap_ms=float(rng.uniform(0.3, 1.0)) * x.gap_ms)
        case (
            r.Wander() | r.Overlap() | r.Wolf() | r.Subharmonic() | r.Portamento() | r.Trill()
            | r.Grace()
        ):  # fmt: skip
            return replace(note, real=(*note.real, x))
        case _:
            return note


def _with_portamento(note: PlayedNote, before: Sequence[PlayedNote]) -> PlayedNote:
    """A slurred note slides in from the one before it, where that is wished."""
    slides = [x for x in note.real if isinstance(x, r.Portamento)]
    if not slides or not note.slurred:
        return note
    from_cents = 1200.0 * float(np.log2(before[-1].f0_hz / note.f0_hz))
    return replace(note, slide_cents=from_cents, slide_s=slides[0].seconds)


def _carrying(note: PlayedNote, x: f.PluckFault | f.Fold | f.Shape | f.VibratoFault) -> PlayedNote:
    match x:
        case f.PluckFault():
            return replace(note, pluck=x, slurred=False)
        case f.Fold():
            return replace(note, fold=x)
        case f.Shape():
            return replace(note, shape=x)
        case f.VibratoFault():
            return replace(note, vibrato=x)


def _close_up(notes: list[PlayedNote]) -> tuple[PlayedNote, ...]:
    """End every note no later than the next begins."""
    result = []
    for note, after in zip(notes, [*notes[1:], None], strict=True):
        end = note.offset_s if after is None else min(note.offset_s, after.onset_s)
        if after is not None and after.onset_s - note.offset_s < 0.08:
            end = after.onset_s
        result.append(replace(note, offset_s=end))
    return tuple(result)
