"""A player's own best, as the limit of an aim: longest strokes, smallest holes at the changes.

A best is of one direction and of one place on the bow, from earlier takes of the same exercise by
the same player on the same instrument. A record is not asked for every day: nine tenths of the
longest stroke, and a hole no longer than at its best and its own spread.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from jigwright.core.gauge.values import BowChange, Stroke
from jigwright.core.judge.changes import FEWEST_FOR_BEST, LIKE_MS, ROOM_TAIL_S, Place, place_of
from jigwright.core.values import median

OF_LONGEST = 0.9
_LEAST_STROKE_S = 2.0  # shorter ones are false starts


@dataclass(frozen=True, slots=True, kw_only=True)
class PastBow:
    """The bow in one earlier take.

    Parameters
    ----------
    strokes : sequence of Stroke
    changes : sequence of BowChange
    tail_s : float
        How long notes linger there: a room fills the holes.
    """

    strokes: Sequence[Stroke]
    changes: Sequence[BowChange]
    tail_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnBest:
    """Limits from the player's own best; what is missing was never measured.

    Parameters
    ----------
    stroke_s : mapping of str to float
        Least length by direction.
    gap_ms : mapping of Place to float
        Most of a hole by place.
    """

    stroke_s: Mapping[str, float] = field(default_factory=dict)
    gap_ms: Mapping[Place, float] = field(default_factory=dict)


NO_BEST = OwnBest()


def own_best(past: Sequence[PastBow]) -> OwnBest:
    """Limits from earlier takes.

    Parameters
    ----------
    past : sequence of PastBow
        In any order.
    """
    longest: dict[str, float] = {}
    smallest: dict[Place, float] = {}
    for take in past:
        for stroke in take.strokes:
            seconds = stroke.end_s - stroke.start_s
            if seconds >= _LEAST_STROKE_S:
                longest[stroke.direction] = max(seconds, longest.get(stroke.direction, 0.0))
        if not take.tail_s <= ROOM_TAIL_S:
            continue  # a room, or nobody knows
        gaps: dict[Place, list[float]] = {}
        for change in take.changes:
            gaps.setdefault(place_of(change), []).append(change.gap_ms)
        for place, ms in gaps.items():
            if len(ms) >= FEWEST_FOR_BEST:
                first, third = np.percentile(ms, [25, 75])
                limit = median(ms) + 0.5 * float(third - first) + LIKE_MS
                smallest[place] = min(limit, smallest.get(place, limit))
    return OwnBest(stroke_s={way: OF_LONGEST * s for way, s in longest.items()}, gap_ms=smallest)
