"""Trends over takes: a running middle, and whether something changed.

A change point is the split that parts the takes best (difference of means over the pooled spread);
it is claimed only when fewer than one in a hundred shuffles of the same takes parts them as well.
Takes of another input, instrument or method are never compared: the caller cuts the series there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jigwright.core.gauge_maths import robust_line
from jigwright.core.values import median

LEAST_TAKES = 8
_SHUFFLES = 400
_CHANCE = 0.01
_EDGE = 3
_PLATEAU = 12


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


def find_change(values: Sequence[float]) -> ChangePoint | None:
    """The one change that the numbers support, or ``None``.

    Parameters
    ----------
    values : sequence of float
        In order of time, finite.
    """
    y = np.asarray(values, dtype=float)
    if len(y) < LEAST_TAKES:
        return None
    best, at = _best_split(y)
    rng = np.random.default_rng(11)
    as_good = sum(_best_split(rng.permutation(y))[0] >= best for _ in range(_SHUFFLES))
    if as_good >= _CHANCE * _SHUFFLES:
        return None
    before, after = y[:at], y[at:]
    error = np.sqrt(_variance(before) / len(before) + _variance(after) / len(after))
    return ChangePoint(
        at=at, before=float(np.median(before)), after=float(np.median(after)),
        by=float(np.median(after) - np.median(before)), uncertainty=float(1.96 * 1.25 * error),
    )  # fmt: skip


def _variance(y: NDArray[np.float64]) -> float:
    return float(np.var(y, ddof=1)) if len(y) > 1 else 0.0


def _best_split(y: NDArray[np.float64]) -> tuple[float, int]:
    n = len(y)
    k = np.arange(_EDGE, n - _EDGE + 1)
    total, squares = np.cumsum(y), np.cumsum(y**2)
    left = total[k - 1] / k
    right = (total[-1] - total[k - 1]) / (n - k)
    within = squares[-1] - k * left**2 - (n - k) * right**2
    spread = np.sqrt(np.maximum(within, 1e-12) / max(1, n - 2))
    score = np.abs(right - left) / (spread * np.sqrt(1 / k + 1 / (n - k)))
    i = int(np.argmax(score))
    return float(score[i]), int(k[i])


def running_middle(values: Sequence[float], *, width: int = 5) -> list[float]:
    """Running median, shorter at the ends."""
    half = width // 2
    return [float(np.median(values[max(0, i - half) : i + half + 1])) for i in range(len(values))]


def stands_still(values: Sequence[float]) -> bool:
    """Whether the newest takes neither gain nor lose: a plateau.

    Twelve takes are needed; the robust slope over the last twelve moves the figure by less than a
    quarter of their own spread.
    """
    y = np.asarray(values[-_PLATEAU:], dtype=float)
    if len(y) < _PLATEAU:
        return False
    slope, _ = robust_line(np.arange(len(y), dtype=float), y)
    spread = 1.48 * median(np.abs(y - median(y)))
    return bool(abs(slope) * (len(y) - 1) < 0.25 * max(spread, 1e-9))
