"""Trends over takes: a running middle, and whether something changed.

A change point is the border between two days that parts them best (difference of the means of day
means over their pooled spread). Takes of one day are alike (the same cold, the same strings, the
same mood): *days* are shuffled, not takes, and a change is claimed only when fewer shuffles part
them as well than one in a hundred over all the figures and parts looked at. Takes of another
input, instrument or method are never compared: the caller cuts the series there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from jigwright.core.student import student_limit
from jigwright.core.values import median

LEAST_TAKES = 8
LEAST_DAYS = 9
_SHUFFLES, _MOST_SHUFFLES = 4000, 40_000
_CHANCE = 0.004  # takes that follow each other are alike too: one in a hundred comes out
_EDGE = 2  # days on either side
LEAST_PLATEAU_DAYS, _PLATEAU_DAYS = 12, 24
_PLATEAU_SHARE = 0.25


MORE_IS_BETTER = frozenset({"inside", "longest_down_s", "longest_up_s", "ring_share"})


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangePoint:
    """Where a series changed.

    Parameters
    ----------
    at : int
        Index of the first value after the change.
    before, after : float
        Medians.
    by : float
        ``after - before``.
    uncertainty : float
        Half the 95 % range of ``by``.
    """

    at: int
    before: float
    after: float
    by: float
    uncertainty: float


def find_change(
    values: Sequence[float], days: Sequence[str], *, looked_at: int = 1
) -> ChangePoint | None:
    """The one change that the numbers support, or ``None``.

    Parameters
    ----------
    values : sequence of float
        In order of time, finite.
    days : sequence of str
        Day of each value.
    looked_at : int
        How many figures and parts are looked at beside each other.
    """
    return _found(tuple(map(float, values)), tuple(days), looked_at)


@lru_cache(maxsize=64)
def _found(values: tuple[float, ...], days: tuple[str, ...], looked_at: int) -> ChangePoint | None:
    y = np.asarray(values, dtype=float)
    if len(y) < LEAST_TAKES:
        return None
    names = list(dict.fromkeys(days))
    if len(names) < LEAST_DAYS:
        return None
    day_of = np.array([names.index(d) for d in days])
    means = np.array([float(np.mean(y[day_of == k])) for k in range(len(names))])
    score, at = _best_splits(means[None, :])
    chance = _CHANCE / max(1, looked_at)
    n = int(min(_MOST_SHUFFLES, max(_SHUFFLES, 4.0 / chance)))
    shuffled = np.random.default_rng(11).permuted(np.tile(means, (n, 1)), axis=1)
    as_good = int(np.count_nonzero(_best_splits(shuffled)[0] >= score[0] - 1e-9))
    # the series itself is one of its own shuffles (Phipson & Smyth 2010)
    if (as_good + 1) / (n + 1) >= chance:
        return None
    first = int(np.flatnonzero(day_of == at[0])[0])
    before, after = means[: at[0]], means[at[0] :]
    error = np.sqrt(_variance(before) / len(before) + _variance(after) / len(after))
    return ChangePoint(
        at=first, before=float(np.median(y[:first])), after=float(np.median(y[first:])),
        by=float(np.median(y[first:]) - np.median(y[:first])),
        uncertainty=float(1.96 * 1.25 * error),
    )  # fmt: skip


def _variance(y: NDArray[np.float64]) -> float:
    return float(np.var(y, ddof=1)) if len(y) > 1 else 0.0


def _best_splits(y: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
    """Score and place of the best border in each row of day means, shape (rows, days)."""
    n = y.shape[1]
    k = np.arange(_EDGE, n - _EDGE + 1)
    total, squares = np.cumsum(y, axis=1), np.sum(y**2, axis=1)
    left = total[:, k - 1] / k
    right = (total[:, -1:] - total[:, k - 1]) / (n - k)
    within = squares[:, None] - k * left**2 - (n - k) * right**2
    spread = np.sqrt(np.maximum(within, 1e-12) / max(1, n - 2))
    score = np.abs(right - left) / (spread * np.sqrt(1 / k + 1 / (n - k)))
    i = np.argmax(score, axis=1)
    return np.take_along_axis(score, i[:, None], axis=1)[:, 0], k[i]


def running_middle(values: Sequence[float], *, width: int = 5) -> list[float]:
    """Running median, shorter at the ends."""
    half = width // 2
    return [float(np.median(values[max(0, i - half) : i + half + 1])) for i in range(len(values))]


def stands_still(values: Sequence[float], days: Sequence[str]) -> bool:
    """Whether the newest days neither gain nor lose: a plateau.

    No change that could be seen is not yet a plateau: few takes show none either. A plateau is
    claimed when all of the 95 % range of the change over the last twelve days and more lies
    within a quarter of the figure's own size (two one-sided tests, Schuirmann 1987). Days count,
    not takes: those of one day are alike.

    Parameters
    ----------
    values : sequence of float
        In order of time.
    days : sequence of str
        Of each value.
    """
    own: dict[str, list[float]] = {}
    for value, day in zip(values, days, strict=True):
        own.setdefault(day, []).append(value)
    y = np.array([median(v) for v in own.values()])[-_PLATEAU_DAYS:]
    n = len(y)
    if n < LEAST_PLATEAU_DAYS:
        return False
    x = np.arange(n, dtype=float) - 0.5 * (n - 1)
    slope = float(x @ y / (x @ x))
    left = y - y.mean() - slope * x
    error = float(np.sqrt(left @ left / (n - 2) / (x @ x)))
    change = abs(slope) + student_limit(0.05, n - 2) * error
    return bool(change * (n - 1) < _PLATEAU_SHARE * abs(median(y)))
