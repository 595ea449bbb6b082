"""Robust fits that several measures share."""

from __future__ import annotations

import numpy as np

from jigwright.core.values import Floats


def robust_line(x: Floats, y: Floats) -> tuple[float, float]:
    """Theil-Sen slope and intercept over up to 64 evenly chosen points.

    Parameters
    ----------
    x, y : ndarray, shape (n,)
        Finite; ``n >= 2``.

    Returns
    -------
    (float, float)
        Slope (``y`` units per ``x`` unit) and intercept.
    """
    if len(x) > 64:
        pick = np.linspace(0, len(x) - 1, 64).astype(np.intp)
        x, y = x[pick], y[pick]
    i, j = np.triu_indices(len(x), k=1)
    run = x[j] - x[i]
    good = run != 0
    if not good.any():
        return 0.0, float(np.median(y))
    slope = float(np.median((y[j] - y[i])[good] / run[good]))
    return slope, float(np.median(y - slope * x))
