"""Reading curves of a take: slices, robust levels, roughness."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jigwright.core.sound.heard import HOP_S, Contours
from jigwright.core.values import Floats, median


def frames_between(contours: Contours, start_s: float, stop_s: float) -> slice:
    """Frames of a stretch of time, inside the take."""
    n = len(contours)
    lo = min(max(round(start_s / HOP_S), 0), n)
    return slice(lo, min(max(round(stop_s / HOP_S), lo), n))


def middle(values: Floats) -> float:
    """Median without NaN; NaN when nothing is left."""
    good = values[np.isfinite(values)]
    return median(good) if len(good) else float("nan")


def roughness_db(clarity: Floats) -> Floats:
    """Aperiodic energy re the whole in dB, from the height of the correlation peak.

    The peak of the normalised autocorrelation at the period is the harmonic share of the energy
    (Boersma 1993).
    """
    return np.asarray(10.0 * np.log10(np.clip(1.0 - clarity, 1e-5, 1.0)))


def runs_of(mask: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Start and stop of every run of true values."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(np.int8), [0]])))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]
