"""Keys and their scales with right spelling."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jigwright.core.errors import JigError
from jigwright.core.music.pitch import STEPS, PitchClass

Mode = Literal[
    "major", "natural_minor", "harmonic_minor", "melodic_minor",
    "dorian", "phrygian", "lydian", "mixolydian",
]  # fmt: skip
MODES: tuple[Mode, ...] = (
    "major", "natural_minor", "harmonic_minor", "melodic_minor",
    "dorian", "phrygian", "lydian", "mixolydian",
)  # fmt: skip
_FIFTHS_FROM_MAJOR = {
    "major": 0, "natural_minor": 3, "harmonic_minor": 3, "melodic_minor": 3,
    "dorian": 2, "phrygian": 4, "lydian": -1, "mixolydian": 1,
}  # fmt: skip
_STEPS_UP: dict[str, tuple[int, ...]] = {
    "major": (0, 2, 4, 5, 7, 9, 11),
    "natural_minor": (0, 2, 3, 5, 7, 8, 10),
    "harmonic_minor": (0, 2, 3, 5, 7, 8, 11),
    "melodic_minor": (0, 2, 3, 5, 7, 9, 11),
    "dorian": (0, 2, 3, 5, 7, 9, 10),
    "phrygian": (0, 1, 3, 5, 7, 8, 10),
    "lydian": (0, 2, 4, 6, 7, 9, 11),
    "mixolydian": (0, 2, 4, 5, 7, 9, 10),
}


@dataclass(frozen=True, slots=True)
class Key:
    """A tonic and a mode.

    Parameters
    ----------
    tonic : PitchClass
    mode : Mode
    """

    tonic: PitchClass
    mode: Mode = "major"

    @property
    def fifths(self) -> int:
        """Sharps (positive) or flats (negative) of the signature."""
        return self.tonic.fifths - _FIFTHS_FROM_MAJOR[self.mode]

    def degrees(self, *, descending: bool = False) -> tuple[PitchClass, ...]:
        """Seven pitch classes from the tonic up, each letter once.

        Melodic minor comes down in its natural form.

        Raises
        ------
        JigError
            If the key would need more than double sharps or flats.
        """
        mode = "natural_minor" if descending and self.mode == "melodic_minor" else self.mode
        start = STEPS.index(self.tonic.step)
        result = []
        for i, semitones in enumerate(_STEPS_UP[mode]):
            step = STEPS[(start + i) % 7]
            wanted = (self.tonic.semitone + semitones) % 12
            alter = (wanted - PitchClass(step).semitone + 6) % 12 - 6
            if abs(alter) > 2:
                raise JigError(f"no usual spelling for {self.tonic} {self.mode}")
            result.append(PitchClass(step, alter))
        return tuple(result)

    def __str__(self) -> str:
        return f"{self.tonic} {self.mode}"


def signature(fifths: int) -> dict[str, int]:
    """Alteration of each letter under a key signature."""
    order = "FCGDAEB" if fifths >= 0 else "BEADGCF"
    sign = 1 if fifths >= 0 else -1
    return dict.fromkeys(order[: min(7, abs(fifths))], sign)
