"""What came out of a foreign file, and what could not be kept."""

from __future__ import annotations

from dataclasses import dataclass

from jigwright.core.jig.model import Jig

MAX_BYTES = 40_000_000
MAX_NOTES = 20_000
MAX_BARS = 4000
MARK_LOSSES = (
    "accent", "tenuto", "breath", "fermata", "hairpin", "dynamics", "words", "tempo", "ornament",
    "arpeggio", "octave_line", "pedal", "ending", "other_mark",
)  # fmt: skip
"""Marks that a jig does not hold."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportLoss:
    """Something of the file that is not in the jig.

    Parameters
    ----------
    bar : str
        Number as printed; empty for the whole file.
    what : str
        ``broken`` (this bar and what follows could not be read), ``other_voice``, ``other_staff``,
        ``five_notes``, ``odd_length``, ``unpitched``, ``out_of_range``, ``repeat``; of marks that a
        jig does not hold ``accent``, ``tenuto``, ``breath``, ``fermata``, ``hairpin``,
        ``dynamics``, ``words``, ``tempo``, ``ornament``, ``arpeggio``, ``octave_line``, ``pedal``,
        ``ending``, ``other_mark``, once a bar.
    """

    bar: str
    what: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Imported:
    """A jig and what was lost on the way.

    Parameters
    ----------
    jig : Jig
    losses : tuple of ImportLoss
        Empty when everything was kept.
    parts : tuple of str
        Names of all parts of the file, the one taken included.
    i_part : int
    """

    jig: Jig
    losses: tuple[ImportLoss, ...]
    parts: tuple[str, ...]
    i_part: int

    @property
    def broken_at(self) -> str | None:
        """The bar from which on nothing could be read."""
        return next((x.bar for x in self.losses if x.what == "broken"), None)
