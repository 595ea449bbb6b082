"""Small values every layer shares."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt
from typing import Any, Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

_FEW = 300  # so few numbers are sorted faster than parted
Floats = NDArray[np.floating[Any]]
InputState = Literal["clips", "soft", "heard", "noisy", "quiet", "waiting", "talk"]
"""What is to be said of the input."""


@dataclass(frozen=True, slots=True)
class Unmeasured:
    """A measure that was refused.

    Parameters
    ----------
    reason : str
        Stable identifier; the wording package makes the sentence.
    """

    reason: str


def read_only(array: Floats) -> Floats:
    """Return a read-only float64 copy."""
    copy = np.array(array, dtype=np.float64)
    copy.setflags(write=False)
    return copy


def median(values: ArrayLike) -> float:
    """Median of numbers, several times faster than NumPy's for the few that a note has.

    NaN in gives NaN, and so do no numbers at all, as in NumPy.
    """
    flat = np.array(values, dtype=np.float64).ravel()
    n = flat.size
    if n == 0:
        return float("nan")
    half = n // 2
    if n < _FEW:
        flat.sort()
    else:
        flat.partition((half, n - 1) if n % 2 else (half - 1, half, n - 1))
    if flat[-1] != flat[-1]:  # NaN comes last
        return float("nan")
    return float(flat[half]) if n % 2 else 0.5 * float(flat[half - 1] + flat[half])


def deviation(values: Floats) -> float:
    """Standard deviation of a row of numbers, as NumPy's, several times faster for few."""
    n = len(values)
    if n == 0:
        return float("nan")
    off = values - values.sum() / n
    return sqrt(float(off @ off) / n)


def percentiles(values: ArrayLike, *shares: float) -> tuple[float, ...]:
    """Percentiles (0 … 100) with straight lines between numbers, as NumPy's, for few numbers."""
    ordered = np.array(values, dtype=np.float64).ravel()
    ordered.sort()
    last = len(ordered) - 1
    found = []
    for share in shares:
        at = 0.01 * share * last
        i = min(int(at), max(0, last - 1))
        upper = ordered[min(i + 1, last)]
        found.append(float(ordered[i] + (at - i) * (upper - ordered[i])))
    return tuple(found)
