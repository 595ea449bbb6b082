"""Which of two strings leads, held against each string alone (D5).

Strings differ by themselves: a low open string may sound 4 dB louder than the finger on the next
one under the same bow. Where a take has the two notes of a stop alone as well (lower, upper, both:
D4), what counts is how the stop's balance differs from that of the notes alone.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import isfinite

from jigwright.core.gauge.values import Double, Level
from jigwright.core.judge.measured import MeasuredNote
from jigwright.core.values import median

ALONE_DB = 1.5  # half the 95 % range of how loudly one player bows the same note again


@dataclass(frozen=True, slots=True, kw_only=True)
class Alone:
    """How loud a note is by itself.

    Parameters
    ----------
    level_dbfs : float
        Median of the times it was played alone.
    n : int
    """

    level_dbfs: float
    n: int


@dataclass(frozen=True, slots=True, kw_only=True)
class StringBalance:
    """Upper less lower string.

    Parameters
    ----------
    db, uncertainty_db : float
        Half the 95 % range; both NaN where it cannot be told.
    against_alone : bool
        Whether what the strings do by themselves is taken off.
    """

    db: float
    uncertainty_db: float
    against_alone: bool = False

    @property
    def is_sure(self) -> bool:
        """Whether one string surely is louder."""
        return isfinite(self.db) and abs(self.db) > self.uncertainty_db


NO_BALANCE = StringBalance(db=float("nan"), uncertainty_db=float("nan"))


def alone_levels(notes: Sequence[MeasuredNote]) -> dict[int, Alone]:
    """Levels of the single notes of a take, by MIDI number; those that were left out have none."""
    levels: dict[int, list[float]] = {}
    for n in notes:
        played = n.segment is not None and n.lined.state in ("played", "retry")
        if played and n.lined.lower is None and isinstance(n.level, Level):
            levels.setdefault(n.lined.pitch.midi, []).append(n.level.mean_dbfs)
    return {midi: Alone(level_dbfs=median(v), n=len(v)) for midi, v in levels.items()}


def plain_balance(double: Double) -> StringBalance:
    """Balance as it sounded, whatever the strings do by themselves."""
    return StringBalance(db=double.balance_db, uncertainty_db=double.balance_uncertainty_db)


def balance_of(note: MeasuredNote, alone: Mapping[int, Alone]) -> StringBalance:
    """Balance of one stop; against each string alone where both notes were played so.

    Parameters
    ----------
    note : MeasuredNote
    alone : mapping of int to Alone
        Of :func:`alone_levels`.
    """
    if not isinstance(note.double, Double) or not isfinite(note.double.balance_db):
        return NO_BALANCE
    plain = plain_balance(note.double)
    if note.lined.lower is None:
        return plain
    lower, upper = alone.get(note.lined.lower.midi), alone.get(note.lined.pitch.midi)
    if lower is None or upper is None:
        return plain
    scatter_db = ALONE_DB * (1.0 / lower.n + 1.0 / upper.n) ** 0.5
    return StringBalance(
        db=plain.db - (upper.level_dbfs - lower.level_dbfs),
        uncertainty_db=(plain.uncertainty_db**2 + scatter_db**2) ** 0.5,
        against_alone=True,
    )
