"""Small values every layer shares."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

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
