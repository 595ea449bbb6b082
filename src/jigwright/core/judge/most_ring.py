"""The place of most ring: where a finger would lie so that a string answers most, over takes.

What a note wakes falls with its distance from the string as a resonator's response does
(:mod:`jigwright.core.music.sympathy`); the width is known, place and height are fitted to the
levels of many landings by least squares, a silent one counting as far as more would have been seen.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.values import Floats

FEWEST = 5
_MOST_UNSURE_CENTS = 6.0
_REACH_CENTS, _STEP_CENTS = 25.0, 0.25
_LEAST_SPREAD_DB = 1.5  # of a level measured well
_CHI_95 = 3.84
_FLAT_CENTS = 1e6  # a width at which every place is as good
_SURELY = 12.0  # among many notes and strings that are looked at
_BEYOND_CENTS = 3.0  # further off no finger has tried


@dataclass(frozen=True, slots=True, kw_only=True)
class RingLanding:
    """One landing of a finger and what it woke.

    Parameters
    ----------
    cents : float
        From the target.
    level_db : float or None
        Of the string that rang; ``None``: it was silent.
    limit_db : float
        A weaker ring would not have been seen.
    """

    cents: float
    level_db: float | None
    limit_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class MostRing:
    """Where a string answers most.

    Parameters
    ----------
    cents : float
        From the target.
    uncertainty_cents : float
        Half the 95 % range.
    n : int
        Landings it was taken from.
    """

    cents: float
    uncertainty_cents: float
    n: int


def most_ring(landings: Sequence[RingLanding], half_width_cents: float) -> MostRing | None:
    """Fit the place of most ring; ``None`` where the landings do not say.

    Parameters
    ----------
    landings : sequence of RingLanding
    half_width_cents : float
        So far off the ring falls by 3 dB.
    """
    rang = [q for q in landings if q.level_db is not None]
    if len(rang) < FEWEST:
        return None
    at = np.arange(-_REACH_CENTS, _REACH_CENTS + _STEP_CENTS, _STEP_CENTS)
    cost = np.array([_cost(landings, c, half_width_cents) for c in at])
    best = int(np.argmin(cost))
    variance = max(float(cost[best]) / max(1, len(landings) - 2), _LEAST_SPREAD_DB**2)
    inside = np.flatnonzero(cost <= cost[best] + _CHI_95 * variance)
    low, high = at[inside[0]], at[inside[-1]]
    unsure = 0.5 * float(high - low) + _STEP_CENTS
    flat = _cost(landings, 0.0, _FLAT_CENTS)
    if flat - float(cost[best]) < _SURELY * variance:
        return None  # a ring that does not care where the finger lies fits as well
    tried = [q.cents for q in landings]
    beyond = not min(tried) - _BEYOND_CENTS <= at[best] <= max(tried) + _BEYOND_CENTS
    if unsure > _MOST_UNSURE_CENTS or beyond:
        return None
    return MostRing(cents=float(at[best]), uncertainty_cents=unsure, n=len(landings))


def _cost(landings: Sequence[RingLanding], centre: float, half_width_cents: float) -> float:
    """Squares left by the best height for a place."""
    response = np.array([_response_db(q.cents - centre, half_width_cents) for q in landings])
    level = np.array([np.nan if q.level_db is None else q.level_db for q in landings])
    limit = np.array([q.limit_db for q in landings])
    rang = np.isfinite(level)
    height = float(np.median(level[rang] - response[rang]))
    for _ in range(3):  # the mean over those that say something of the height
        over = ~rang & (height + response > limit)
        said: Floats = np.concatenate([level[rang] - response[rang], (limit - response)[over]])
        height = float(np.mean(said))
    left = np.where(rang, level - height - response, np.maximum(0.0, height + response - limit))
    return float(np.sum(left**2))


def _response_db(cents: float, half_width_cents: float) -> float:
    return -10.0 * float(np.log10(1.0 + (cents / half_width_cents) ** 2))
