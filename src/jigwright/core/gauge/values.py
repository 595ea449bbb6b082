"""What the gauges return: values only."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

ArrivalKind = Literal["landed", "slid_up", "slid_down", "hunted"]
LevelShape = Literal["level", "grow", "fade", "swell", "dip"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Arrival:
    """How a note's pitch was reached.

    Parameters
    ----------
    kind : ArrivalKind
    first_cents : float
        First stable pitch after the onset, from the note's own settled pitch.
    settle_s : float
        From the onset until the pitch stays within the tolerance.
    """

    kind: ArrivalKind
    first_cents: float
    settle_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Vibrato:
    """Vibrato of the settled part.

    Parameters
    ----------
    present : bool
    rate_hz, extent_cents : float
        Rate, and extent peak to peak; NaN when absent.
    extent_uncertainty_cents : float
        Half the 95 % range.
    regularity : float
        Share of the contour's variance the sinusoid explains, 0 … 1.
    start_s : float
        From the onset to the first swing; NaN when absent.
    """

    present: bool
    rate_hz: float
    extent_cents: float
    extent_uncertainty_cents: float
    regularity: float
    start_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Level:
    """Level of the driven part.

    Parameters
    ----------
    mean_dbfs, range_db, slope_db_per_s : float
    shape : LevelShape
    tremor_hz, tremor_db : float
        Strongest regular wave of 3 … 12 Hz left after the shape, peak to peak; NaN when none
        stands out.
    """

    mean_dbfs: float
    range_db: float
    slope_db_per_s: float
    shape: LevelShape
    tremor_hz: float
    tremor_db: float
