"""Natural harmonics of a string: which places sound which partial.

Touching an ideal string at ``k/n`` of its length from the nut, ``k`` and ``n`` without a common
factor, leaves partial ``n``; at any other fraction the place belongs to a lower partial. The same
partial speaks at every such ``k``, on both sides of the middle. Stiffness raises partials a little;
that is left out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import gcd, log2

from jigwright.core.music.pitch import A4_MIDI, STEPS, Pitch

HIGHEST_PARTIAL = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """Where a finger touches the string.

    Parameters
    ----------
    numerator : int
        ``k`` of ``k/n``, from the nut.
    from_nut_mm : float
    touched : Pitch
        The note that would sound if the string were stopped there (nearest in equal temperament).
    touched_cents : float
        How far the place lies from that note, + towards the bridge.
    """

    numerator: int
    from_nut_mm: float
    touched: Pitch
    touched_cents: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Harmonic:
    """One partial of an open string.

    Parameters
    ----------
    string : Pitch
    partial : int
    f_hz : float
    sounding : Pitch
        Nearest pitch in equal temperament.
    cents : float
        From that pitch.
    places : tuple of Place
        From the nut to the bridge.
    """

    string: Pitch
    partial: int
    f_hz: float
    sounding: Pitch
    cents: float
    places: tuple[Place, ...]


def harmonic(
    string: Pitch, open_hz: float, partial: int, *, string_length_mm: float, a4_hz: float
) -> Harmonic:
    """Describe one natural harmonic.

    Parameters
    ----------
    string : Pitch
    open_hz : float
        The string as it is.
    partial : int
        2 … 32.
    string_length_mm, a4_hz : float
    """
    f_hz = open_hz * partial
    sounding, cents = _nearest(f_hz, a4_hz, string)
    return Harmonic(
        string=string, partial=partial, f_hz=f_hz, sounding=sounding, cents=cents,
        places=tuple(
            _place(k, partial, open_hz, string_length_mm, a4_hz, string)
            for k in range(1, partial)
            if gcd(k, partial) == 1
        ),
    )  # fmt: skip


def all_harmonics(
    open_hz: dict[Pitch, float],
    *,
    string_length_mm: float,
    a4_hz: float,
    highest: int = HIGHEST_PARTIAL,
) -> tuple[Harmonic, ...]:
    """Every natural harmonic from partial 2 to ``highest`` on every string."""
    return tuple(
        harmonic(s, hz, n, string_length_mm=string_length_mm, a4_hz=a4_hz)
        for s, hz in open_hz.items()
        for n in range(2, highest + 1)
    )


def harmonics_for(
    wanted: Pitch, harmonics: Sequence[Harmonic], *, within_cents: float = 35.0
) -> tuple[Harmonic, ...]:
    """Harmonics that sound a wanted pitch, the lowest partials first."""
    found = [
        h
        for h in harmonics
        if abs(100.0 * (h.sounding.midi - wanted.midi) + h.cents) <= within_cents
    ]
    return tuple(sorted(found, key=lambda h: h.partial))


def artificial(interval_semitones: int) -> int | None:
    """Partial that speaks when a finger touches so many semitones above a stopped note.

    Returns
    -------
    int or None
        4 for a fourth, 3 for a fifth, 5 for a major third, 6 for a minor third, 2 for an octave;
        ``None`` where no low partial lies.
    """
    return {3: 6, 4: 5, 5: 4, 7: 3, 12: 2}.get(interval_semitones)


_TOUCHED = {2: (7, 12), 3: (4, 7), 4: (3, 5), 5: (2, 4), 6: (2, 3)}
_SOUNDING = {2: (7, 12), 3: (11, 19), 4: (14, 24), 5: (16, 28), 6: (18, 31)}
ARTIFICIAL_PARTIALS = tuple(_TOUCHED)


def touched_pitch(stopped: Pitch, partial: int) -> Pitch:
    """Note above a stopped one where a finger touches for a partial 2 … 6.

    Raises
    ------
    KeyError
        For other partials.
    """
    return _above(stopped, *_TOUCHED[partial])


def sounding_pitch(stopped: Pitch, partial: int) -> Pitch:
    """Pitch of an artificial harmonic, partial 2 … 6 of a stopped note.

    Raises
    ------
    KeyError
        For other partials.
    """
    return _above(stopped, *_SOUNDING[partial])


def _above(pitch: Pitch, letters: int, semitones: int) -> Pitch:
    octave, i = divmod(pitch.diatonic + letters, 7)
    plain = Pitch(STEPS[i], 0, octave)
    alter = pitch.midi + semitones - plain.midi
    if abs(alter) > 2:
        return Pitch.from_midi(pitch.midi + semitones)
    return Pitch(STEPS[i], alter, octave)


def _place(k: int, n: int, open_hz: float, length_mm: float, a4_hz: float, string: Pitch) -> Place:
    share = k / n
    touched, cents = _nearest(open_hz / (1.0 - share), a4_hz, string)
    return Place(numerator=k, from_nut_mm=length_mm * share, touched=touched, touched_cents=cents)


def _nearest(f_hz: float, a4_hz: float, string: Pitch) -> tuple[Pitch, float]:
    semitones = 12.0 * log2(f_hz / a4_hz)
    midi = A4_MIDI + round(semitones)
    pitch = Pitch.from_midi(midi, fifths=string.pitch_class.fifths)
    return pitch, 100.0 * (semitones - round(semitones))
