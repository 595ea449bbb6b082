"""Bow changes gathered where on the bow they happen: at the frog and at the tip.

Which is which comes from the written bowing (down leads to the tip), never from the sound. Each
change is a course of level about its lowest moment, against its shoulders; laid over each other
they show the hole a change leaves, and how much it varies (B7).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import isfinite
from typing import Literal

import numpy as np

from jigwright.core.gauge.values import BowChange
from jigwright.core.sound.heard import HOP_S, Contours
from jigwright.core.values import Floats, median

Place = Literal["frog", "tip", "unknown"]
PLACES: tuple[Place, ...] = ("frog", "tip", "unknown")
ROOM_TAIL_S = 0.065  # notes that linger longer fill the holes
AROUND_S = 0.3
N_POINTS = 2 * round(AROUND_S / HOP_S) + 1
FEWEST = 2
_SHOULDER = 80  # percentile of the course that counts as its shoulders
FEWEST_FOR_BEST = 4
LIKE_MS, _LIKE_DB = 5.0, 1.0  # less is no difference


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ChangeCourse:
    """One change as it sounded.

    Parameters
    ----------
    change : BowChange
    place : Place
    level_db : ndarray, shape (N_POINTS,)
        Every 5 ms from 0.3 s before its lowest moment to 0.3 s after, re its shoulders.
    """

    change: BowChange
    place: Place
    level_db: Floats


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Gathered:
    """The changes of one place.

    Parameters
    ----------
    place : Place
    n : int
    low, middle, high : ndarray, shape (N_POINTS,)
        Quartiles of the courses, dB.
    dip_db, gap_ms, bump_db, jolt_cents : float
        Medians; of the jolt its size. NaN where none was measured.
    gap_spread_ms : float
        Half the middle half of the gaps.
    """

    place: Place
    n: int
    low: Floats
    middle: Floats
    high: Floats
    dip_db: float
    gap_ms: float
    gap_spread_ms: float
    bump_db: float
    jolt_cents: float


def place_of(change: BowChange) -> Place:
    """Where on the bow a change is, when strokes use the whole of it."""
    if change.from_direction == "down" and change.to_direction == "up":
        return "tip"
    if change.from_direction == "up" and change.to_direction == "down":
        return "frog"
    return "unknown"


def courses_of(contours: Contours, changes: Sequence[BowChange]) -> tuple[ChangeCourse, ...]:
    """The courses of all changes that lie far enough from the ends of the take.

    Parameters
    ----------
    contours : Contours
    changes : sequence of BowChange
    """
    half = N_POINTS // 2
    found = []
    for change in changes:
        i = round(change.time_s / HOP_S)
        if half <= i < len(contours) - half:
            part = contours.level_db[i - half : i + half + 1]
            level = part - np.percentile(part, _SHOULDER)
            found.append(ChangeCourse(change=change, place=place_of(change), level_db=level))
    return tuple(found)


def gather(courses: Sequence[ChangeCourse]) -> tuple[Gathered, ...]:
    """Lay the courses of each place over each other; places with fewer than two are left out.

    Parameters
    ----------
    courses : sequence of ChangeCourse
        Of one take or of many.
    """
    result = []
    for place in PLACES:
        mine = [c for c in courses if c.place == place]
        if len(mine) < FEWEST:
            continue
        low, middle, high = np.percentile([c.level_db for c in mine], [25, 50, 75], axis=0)
        gaps = [c.change.gap_ms for c in mine]
        first, third = np.percentile(gaps, [25, 75])
        result.append(
            Gathered(
                place=place, n=len(mine), low=low, middle=middle, high=high,
                dip_db=median([c.change.dip_db for c in mine]), gap_ms=median(gaps),
                gap_spread_ms=0.5 * float(third - first),
                bump_db=_middle([c.change.bump_db for c in mine]),
                jolt_cents=_middle([abs(c.change.pitch_jolt_cents) for c in mine]),
            )
        )  # fmt: skip
    return tuple(result)


def best_of(takes: Sequence[Sequence[Gathered]], place: Place) -> tuple[int, Gathered] | None:
    """The take whose changes of a place leave the smallest hole, the shallower of two alike.

    Parameters
    ----------
    takes : sequence of sequence of Gathered
    place : Place

    Returns
    -------
    (int, Gathered) or None
        Index of the take; ``None`` where none has four changes there.
    """
    mine = [
        (i, g) for i, take in enumerate(takes) for g in take
        if g.place == place and g.n >= FEWEST_FOR_BEST
    ]  # fmt: skip
    if not mine:
        return None
    return min(mine, key=lambda pair: (pair[1].gap_ms, pair[1].dip_db))


def rougher(now: Gathered, best: Gathered) -> bool:
    """Whether the hole is clearly larger than at its best."""
    longer = now.gap_ms - now.gap_spread_ms > best.gap_ms + best.gap_spread_ms + LIKE_MS
    return longer and now.dip_db > best.dip_db + _LIKE_DB


def _middle(values: Sequence[float]) -> float:
    good = [v for v in values if isfinite(v)]
    return median(good) if good else float("nan")
