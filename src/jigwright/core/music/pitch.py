"""Spelled pitches: letter, alteration and octave, so that E♯ is never F.

Pitches are *sounding* pitches in scientific notation (A4 = the tuning A).
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from jigwright.core.errors import PitchNameError

STEPS = "CDEFGAB"
_STEP_SEMITONES = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
_STEP_FIFTHS = {"F": -1, "C": 0, "G": 1, "D": 2, "A": 3, "E": 4, "B": 5}
_SIGNS = {"#": 1, "♯": 1, "b": -1, "♭": -1, "x": 2, "♮": 0}
_NAME = re.compile(r"^([A-Ga-g])([#♯b♭x♮]{0,3})(-?\d{1,2})$")
_CLASS = re.compile(r"^([A-Ga-g])([#♯b♭x♮]{0,3})$")
A4_MIDI = 69


@dataclass(frozen=True, slots=True, order=False)
class PitchClass:
    """A letter with its alteration, without octave.

    Parameters
    ----------
    step : str
        One of ``CDEFGAB``.
    alter : int
        Semitones of alteration, -3 … +3.
    """

    step: str
    alter: int = 0

    @property
    def fifths(self) -> int:
        """Place on the line of fifths with C = 0, G = 1, F = -1."""
        return _STEP_FIFTHS[self.step] + 7 * self.alter

    @property
    def semitone(self) -> int:
        """Semitones above C, 0 … 11."""
        return (_STEP_SEMITONES[self.step] + self.alter) % 12

    def __str__(self) -> str:
        return self.step + _alter_text(self.alter)

    @classmethod
    def parse(cls, text: str) -> PitchClass:
        """Read ``"F#"``, ``"Bb"``, ``"E♭"``.

        Raises
        ------
        PitchNameError
            If the text is not a pitch-class name.
        """
        match = _CLASS.match(text.strip())
        if match is None:
            raise PitchNameError(text)
        return cls(match[1].upper(), sum(_SIGNS[c] for c in match[2]))

    @classmethod
    def from_fifths(cls, fifths: int) -> PitchClass:
        """Return the class at a place on the line of fifths (C = 0)."""
        alter, place = divmod(fifths + 1, 7)
        return cls("FCGDAEB"[place], alter)


@dataclass(frozen=True, slots=True)
class Pitch:
    """A spelled, sounding pitch.

    Parameters
    ----------
    step, alter : str, int
        As in :class:`PitchClass`.
    octave : int
        Scientific octave number of the letter (B♯3 sounds as C4).
    """

    step: str
    alter: int
    octave: int

    @property
    def pitch_class(self) -> PitchClass:
        """Letter and alteration."""
        return PitchClass(self.step, self.alter)

    @property
    def midi(self) -> int:
        """Number of the equal-tempered key, A4 = 69."""
        return 12 * (self.octave + 1) + _STEP_SEMITONES[self.step] + self.alter

    @property
    def diatonic(self) -> int:
        """Letters counted from C0, so that neighbours on a staff differ by one."""
        return 7 * self.octave + STEPS.index(self.step)

    def __str__(self) -> str:
        return f"{self.step}{_alter_text(self.alter)}{self.octave}"

    @classmethod
    def parse(cls, text: str) -> Pitch:
        """Read a scientific pitch name such as ``"F#4"`` or ``"B♭3"``.

        Raises
        ------
        PitchNameError
            If the text is not a pitch name.
        """
        match = _NAME.match(text.strip())
        if match is None:
            raise PitchNameError(text)
        return cls(match[1].upper(), sum(_SIGNS[c] for c in match[2]), int(match[3]))

    @classmethod
    def in_class(cls, pitch_class: PitchClass, midi: int) -> Pitch:
        """Return the pitch of this class nearest to a key number."""
        octave = round((midi - 12 - _STEP_SEMITONES[pitch_class.step] - pitch_class.alter) / 12)
        return cls(pitch_class.step, pitch_class.alter, octave)

    @classmethod
    def from_midi(cls, midi: int, *, fifths: int = 0) -> Pitch:
        """Spell a key number in a key with the given signature (sharps positive)."""
        best = min(
            (PitchClass.from_fifths(f) for f in range(fifths - 5, fifths + 9)),
            key=lambda c: (c.semitone != midi % 12, abs(c.fifths - fifths - 2.5)),
        )
        return cls.in_class(best, midi)


def cents_from_a4(pitch: Pitch) -> float:
    """Equal-tempered place of a written pitch, in cents from A4."""
    return 100.0 * (pitch.midi - A4_MIDI)


def hz_to_cents(f_hz: float, reference_hz: float) -> float:
    """Interval from ``reference_hz`` up to ``f_hz`` in cents."""
    return 1200.0 * math.log2(f_hz / reference_hz)


def cents_to_ratio(cents: float) -> float:
    """Frequency ratio of an interval in cents."""
    return float(2.0 ** (cents / 1200.0))


def _alter_text(alter: int) -> str:
    return "#" * alter if alter >= 0 else "b" * -alter
