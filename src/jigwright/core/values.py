"""Small values every layer shares."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Unmeasured:
    """A measure that was refused.

    Parameters
    ----------
    reason : str
        Stable identifier; the wording package makes the sentence.
    """

    reason: str


def read_only(array: NDArray[np.float64]) -> Floats:
    """Return a read-only float64 copy."""
    copy = np.array(array, dtype=np.float64)
    copy.setflags(write=False)
    return copy
