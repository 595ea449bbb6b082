"""Strokes of many takes laid over each other, and the best long bow among them (B1, L5)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import isfinite

import numpy as np

from jigwright.core.gauge.values import Stroke
from jigwright.core.judge.ribbons import Ribbon
from jigwright.core.values import Floats, median

LONG_S = 2.5
_LEAST_STROKES = 4


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Band:
    """Strokes of one direction over each other.

    Parameters
    ----------
    direction : str
    n_strokes : int
    low, middle, high : ndarray, shape (N_POINTS,)
        Quartiles of the level along the stroke, dB, each stroke re its own median: distance and
        gain of the microphone are not compared.
    """

    direction: str
    n_strokes: int
    low: Floats
    middle: Floats
    high: Floats


def lay_over(ribbons: Sequence[Ribbon]) -> tuple[Band, ...]:
    """Lay strokes over each other, down and up apart.

    Parameters
    ----------
    ribbons : sequence of Ribbon
        Of any number of takes.

    Returns
    -------
    tuple of Band
        Directions with at least four strokes, down first.
    """
    bands = []
    for direction in ("down", "up", "unknown"):
        mine = [r.level_db for r in ribbons if r.direction == direction]
        if len(mine) < _LEAST_STROKES:
            continue
        levels = np.stack([level - median(level) for level in mine])
        low, middle, high = np.percentile(levels, [25, 50, 75], axis=0)
        bands.append(
            Band(direction=direction, n_strokes=len(mine), low=low, middle=middle, high=high)
        )
    return tuple(bands)


def own_course(ribbons: Sequence[Ribbon], direction: str) -> Floats | None:
    """Median course of one take's strokes of a direction, as in a band."""
    mine = [r.level_db - median(r.level_db) for r in ribbons if r.direction == direction]
    return np.asarray(np.median(np.stack(mine), axis=0)) if mine else None


def best_long(strokes: Sequence[Stroke], direction: str = "unknown") -> int | None:
    """Index of the steadiest stroke that is long enough; ``None`` without one.

    Parameters
    ----------
    strokes : sequence of Stroke
    direction : str
        Preferred: strokes of the other direction count as one dB less steady.
    """
    marks = [
        s.steadiness_db + (0.0 if direction in ("unknown", s.direction) else 1.0)
        if s.end_s - s.start_s >= LONG_S and isfinite(s.steadiness_db)
        else float("inf")
        for s in strokes
    ]
    if not marks or not isfinite(min(marks)):
        return None
    return int(np.argmin(marks))


def same_part(
    fault_s: tuple[float, float], stroke: Stroke, best: Stroke, *, around: float = 0.12
) -> tuple[float, float]:
    """The stretch of another stroke that lies at the same place of the bow as a fault.

    Parameters
    ----------
    fault_s : (float, float)
        In seconds of the take, inside ``stroke``.
    stroke, best : Stroke
    around : float
        Share of a stroke that is added on either side.
    """
    length = stroke.end_s - stroke.start_s
    first = (fault_s[0] - stroke.start_s) / length - around
    last = (fault_s[1] - stroke.start_s) / length + around
    first, last = min(max(first, 0.0), 1.0 - 2 * around), max(min(last, 1.0), 2 * around)
    long = best.end_s - best.start_s
    return best.start_s + first * long, best.start_s + last * long
