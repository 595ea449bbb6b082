"""Cut a contour where its mean steps: penalised least squares, solved exactly.

Pruned dynamic programming (Killick, Fearnhead & Eckley 2012, "PELT"): the cut set minimises the
sum over pieces of squared deviations from the piece's mean plus a price for each cut.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jigwright.core.values import Floats


def mean_steps(values: Floats, price: float, *, shortest: int = 2, still: float = 0.0) -> list[int]:
    """Return the inner cut positions of a finite 1-D array.

    Parameters
    ----------
    values : ndarray, shape (n,)
    price : float
        Price of a cut in squared units of ``values`` (times samples).
    shortest : int
        Fewest samples in a piece.
    still : float
        No cut is looked for where neighbouring values all lie within this range.
    """
    n = len(values)
    if n < 2 * shortest:
        return []
    sums = np.concatenate([[0.0], np.cumsum(values)])
    squares = np.concatenate([[0.0], np.cumsum(values**2)])
    best = np.full(n + 1, np.inf)
    best[0] = -price
    last = np.zeros(n + 1, dtype=np.intp)
    alive = np.array([0], dtype=np.intp)
    allowed = _moving(values, still)
    for t in range(shortest, n + 1):
        if t < n and not allowed[t]:
            continue
        starts = alive[alive <= t - shortest]
        length = t - starts
        total = sums[t] - sums[starts]
        cost = best[starts] + (squares[t] - squares[starts] - total**2 / length)
        i = int(np.argmin(cost))
        best[t] = cost[i] + price
        last[t] = starts[i]
        keep = cost <= best[t]
        alive = np.concatenate([starts[keep], alive[alive > t - shortest], [t]])
    cuts = []
    t = n
    while t > 0:
        t = int(last[t])
        if t > 0:
            cuts.append(t)
    return cuts[::-1]


def _moving(values: Floats, still: float) -> NDArray[np.bool_]:
    """Positions around which five neighbouring values span more than ``still``."""
    around = np.lib.stride_tricks.sliding_window_view(np.pad(values, (2, 2), mode="edge"), 5)
    return np.asarray(np.ptp(around, axis=1) >= still)
