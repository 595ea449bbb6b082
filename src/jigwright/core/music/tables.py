"""Tables to look things up in: tunings, distances on the string, what rings, what clashes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jigwright.core.music.instruments import millimetres
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass, hz_to_cents
from jigwright.core.music.references import (
    EQUAL,
    MEANTONE,
    PYTHAGOREAN,
    RING,
    Reference,
    just,
    target_hz,
)

PARTIALS_THAT_RING = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class TunedRow:
    """One note of a tuning table.

    Parameters
    ----------
    pitch : Pitch
    equal_hz : float
    cents : tuple of float
        From equal temperament, one for each reference of the table.
    """

    pitch: Pitch
    equal_hz: float
    cents: tuple[float, ...]


def references_of(key: Key) -> tuple[Reference, ...]:
    """The references a tuning table compares."""
    return (PYTHAGOREAN, just(key.tonic), MEANTONE, RING)


def tuning_table(
    key: Key, *, octave: int, a4_hz: float, open_hz: Mapping[Pitch, float]
) -> tuple[TunedRow, ...]:
    """Notes of a key and the raised and lowered ones between, from a tonic upwards.

    Parameters
    ----------
    key : Key
    octave : int
        Of the tonic.
    a4_hz : float
    open_hz : mapping of Pitch to float
        For the ring tuning.
    """
    fifths = key.tonic.fifths
    classes = [PitchClass.from_fifths(fifths + k) for k in range(-5, 7)]
    tonic = Pitch(key.tonic.step, key.tonic.alter, octave)
    pitches = sorted((_above(c, tonic) for c in classes), key=lambda p: (p.midi, p.diatonic))
    rows = []
    for pitch in (*pitches, Pitch(tonic.step, tonic.alter, octave + 1)):
        equal = target_hz(EQUAL, pitch, a4_hz, open_strings_hz=dict(open_hz))
        rows.append(
            TunedRow(
                pitch=pitch, equal_hz=equal,
                cents=tuple(
                    hz_to_cents(target_hz(r, pitch, a4_hz, open_strings_hz=dict(open_hz)), equal)
                    for r in references_of(key)
                ),
            )
        )  # fmt: skip
    return tuple(rows)


def _above(pitch_class: PitchClass, tonic: Pitch) -> Pitch:
    pitch = Pitch(pitch_class.step, pitch_class.alter, tonic.octave)
    while pitch.midi < tonic.midi:
        pitch = Pitch(pitch.step, pitch.alter, pitch.octave + 1)
    while pitch.midi >= tonic.midi + 12:
        pitch = Pitch(pitch.step, pitch.alter, pitch.octave - 1)
    return pitch


@dataclass(frozen=True, slots=True, kw_only=True)
class DistanceRow:
    """One stopped note of a string.

    Parameters
    ----------
    semitones : int
        Above the open string.
    pitch : Pitch
    from_nut_mm : float
    step_mm : float
        From the note a semitone below.
    ten_cents_mm : float
        How far the finger moves for 10 cents up.
    """

    semitones: int
    pitch: Pitch
    from_nut_mm: float
    step_mm: float
    ten_cents_mm: float


def distance_table(
    string: Pitch, *, string_length_mm: float, highest: int = 24, fifths: int = 0
) -> tuple[DistanceRow, ...]:
    """Where the notes of a string lie: steps shrink towards the bridge."""
    rows = []
    for k in range(1, highest + 1):
        ratio = 2.0 ** (k / 12.0)
        place = string_length_mm * (1.0 - 1.0 / ratio)
        below = string_length_mm * (1.0 - 2.0 ** (-(k - 1) / 12.0))
        rows.append(
            DistanceRow(
                semitones=k, pitch=Pitch.from_midi(string.midi + k, fifths=fifths),
                from_nut_mm=place, step_mm=place - below,
                ten_cents_mm=millimetres(10.0, ratio, 1.0, string_length_mm),
            )
        )  # fmt: skip
    return tuple(rows)


def chromatic_range(low: Pitch, high_midi: int, *, fifths: int) -> tuple[Pitch, ...]:
    """Every semitone from a pitch to a key number, spelled in a key."""
    return tuple(Pitch.from_midi(m, fifths=fifths) for m in range(low.midi, high_midi + 1))
