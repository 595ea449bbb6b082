"""Exercises for resonance (T2): a scale that rings, echoes, each note that can ring thrice."""

from __future__ import annotations

from dataclasses import replace

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import Aim, aims
from jigwright.core.jig.makers.spec import Count, Maker, Setting, ladder, tonic_at
from jigwright.core.jig.model import Jig
from jigwright.core.music.pitch import Pitch, hz_to_cents
from jigwright.core.music.references import RING, pure_strings, target_hz
from jigwright.core.music.sympathy import is_unison, shared_partials

_A4_HZ = 440.0
_STRONG = 6  # unison, octave, twelfth, fifth: what a hand hears and feels
_CLOSE_CENTS = 3.0
_REACH = 7  # semitones above the top string: the first position
_BEATS = Count(id="beats_of_note", low=1, high=4, default=2)
_OCTAVES = Count(id="octaves", low=1, high=2, default=2)
_MOST_NOTES = 12


def can_ring(pitch: Pitch, setting: Setting) -> bool:
    """Whether a stopped note wakes an open string strongly where the ring tuning has it."""
    open_hz = pure_strings(setting.open_strings, _A4_HZ)
    hz = target_hz(RING, pitch, _A4_HZ, open_strings_hz=open_hz)
    if any(is_unison(hz, string_hz) for string_hz in open_hz.values()):
        return False  # played open it wakes nothing but itself
    return any(
        k * m <= _STRONG and abs(hz_to_cents(k * hz, m * string_hz)) < _CLOSE_CENTS
        for string_hz in open_hz.values()
        for k, m in shared_partials(hz, string_hz)[:1]
    )


def _finish(setting: Setting, draft_notes: list[tuple[Pitch | None, int]]) -> Jig:
    d = setting.draft()
    for pitch, beats in draft_notes:
        if pitch is None:
            d.rest(beats)
        else:
            d.note(pitch, beats)
    jig = setting.fingered(setting.finish(d, reference="ring"))
    ringing = tuple(e.id for e in jig.events if can_ring(e.heads[-1].pitch, setting))
    if not ringing:
        raise JigError("no note of it can wake an open string")
    asked = (Aim(kind="ring", places=ringing), *aims("pitch", "every_note"))
    return replace(jig, aims=asked)


def ring_scale(setting: Setting) -> Jig:
    """A slow scale; the notes that can ring are listened for under the ones that follow."""
    beats = setting.number(_BEATS)
    up = ladder(setting, tonic_at(setting), 7 * setting.number(_OCTAVES) + 1)
    return _finish(setting, [(p, beats) for p in [*up, *up[-2::-1]]])


def ringing_notes(setting: Setting) -> list[Pitch]:
    """Every stopped note of the first position that wakes a string strongly, low to high."""
    low, top = setting.open_strings[0].midi, setting.open_strings[-1].midi + _REACH
    every = [Pitch.from_midi(m) for m in range(low + 1, top + 1)]
    return [p for p in every if can_ring(p, setting)][:_MOST_NOTES]


def ring_echo(setting: Setting) -> Jig:
    """A short stroke, then silence to listen into."""
    notes: list[tuple[Pitch | None, int]] = []
    for pitch in ringing_notes(setting):
        notes += [(pitch, 1), (None, 3)]
    return _finish(setting, notes)


def ring_thrice(setting: Setting) -> Jig:
    """Every note that can ring three times, its neighbour between, to find its place again."""
    notes: list[tuple[Pitch | None, int]] = []
    for pitch in ringing_notes(setting):
        notes += [(pitch, 2), (Pitch.from_midi(pitch.midi + 2), 1)] * 3
    return _finish(setting, notes)


MAKERS: tuple[Maker, ...] = (
    Maker(id="ring_scale", family="tone", fields=(_BEATS, _OCTAVES), made_by=ring_scale),
    Maker(id="ring_echo", family="tone", fields=(), made_by=ring_echo, uses_key=False),
    Maker(id="ring_thrice", family="tone", fields=(), made_by=ring_thrice, uses_key=False),
)
