"""Small values every layer shares."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.floating[Any]]


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
    flat = np.asarray(values, dtype=np.float64).ravel()
    n = len(flat)
    if n == 0:
        return float("nan")
    half = n // 2
    parted = np.partition(flat, [half, n - 1] if n % 2 else [half - 1, half, n - 1])
    if parted[-1] != parted[-1]:  # NaN sorts last
        return float("nan")
    return float(parted[half]) if n % 2 else 0.5 * float(parted[half - 1] + parted[half])


def percentiles(values: ArrayLike, *shares: float) -> tuple[float, ...]:
    """Percentiles (0 … 100) with straight lines between numbers, as NumPy's, for few numbers."""
    ordered = np.sort(np.asarray(values, dtype=np.float64).ravel())
    at = np.asarray(shares) * (0.01 * (len(ordered) - 1))
    return tuple(float(v) for v in np.interp(at, np.arange(len(ordered)), ordered))
