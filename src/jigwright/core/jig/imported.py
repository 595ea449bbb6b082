"""What came out of a foreign file, and what could not be kept."""

from __future__ import annotations

from dataclasses import dataclass

from jigwright.core.jig.model import Jig

MAX_BYTES = 40_000_000
MAX_NOTES = 20_000
MAX_BARS = 4000
MARK_LOSSES = (
    "tie",
    "slur",
    "graces",
    "grace_chord",
    "grace_marks",
    "cue",
    "odd_key",
    "other_mark",
)
"""What a jig does not hold, named with its bars."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportLoss:
    """Something of the file that is not in the jig.

    Parameters
    ----------
    bar : str
        Number as printed; empty for the whole file.
    what : str
        ``broken`` (this bar and what follows could not be read), ``other_voice`` (a fifth one),
        ``other_staff``, ``five_notes``, ``unpitched``, ``out_of_range``; of marks, once a bar:
        ``tie`` and ``slur`` (that lead nowhere), ``graces`` (before no note), ``grace_chord`` (read
        one after the other), ``grace_marks``, ``cue``, ``odd_key``, ``other_mark`` (too long).
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
    sure : bool
        The instrument was given, or named by the part; else it is a guess from the range.
    """

    jig: Jig
    losses: tuple[ImportLoss, ...]
    parts: tuple[str, ...]
    i_part: int
    sure: bool = True

    @property
    def broken_at(self) -> str | None:
        """The bar from which on nothing could be read."""
        return next((x.bar for x in self.losses if x.what == "broken"), None)
