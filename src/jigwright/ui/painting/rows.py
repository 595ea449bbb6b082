"""What the lanes need of each note: values without Qt."""

from __future__ import annotations

from dataclasses import dataclass

from jigwright.core.sound.heard import HOP_S
from jigwright.core.values import Floats

__all__ = ["HOP_S", "LaneRow"]


@dataclass(frozen=True, slots=True, kw_only=True)
class TurnBar:
    """A note of one of the two, for the picture.

    Parameters
    ----------
    start, stop : float
        Share of the whole, 0 … 1.
    cents : float or None
        From the target; ``None`` when it was not heard.
    """

    start: float
    stop: float
    cents: float | None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class LaneRow:
    """What a lane needs of one note.

    Parameters
    ----------
    standing : str
        As in the core.
    state : str
    attempt : int
    cents, uncertainty_cents : float or None
    onset_s, offset_s : float or None
    first_frame : int
        Frame index of ``trace_cents[0]``.
    trace_cents : ndarray
        Contour from the target.
    """

    standing: str
    state: str
    attempt: int
    last_attempt: bool
    cents: float | None
    uncertainty_cents: float
    onset_s: float | None
    offset_s: float | None
    first_frame: int
    trace_cents: Floats
