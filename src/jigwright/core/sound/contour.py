"""One pitch contour out of the candidates: Viterbi over time.

Costs follow Boersma (1993): a small preference for short periods against subharmonics, a price
for jumps and for changing between pitch and no pitch.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jigwright.core.sound.frames import Frames
from jigwright.core.sound.heard import Contours
from jigwright.core.values import Floats

_CHUNK = 4096  # frames whose jumps are priced at once: bounds the memory


@dataclass(frozen=True, slots=True, kw_only=True)
class ContourParams:
    """Costs of the contour search.

    Parameters
    ----------
    octave_cost : float
        Price of an octave lower candidate of the same height.
    jump_cost : float
        Price of a jump of one octave between frames.
    voicing_cost : float
        Price of beginning or ending a pitch.
    unvoiced_height : float
        Height below which no pitch is the better answer.
    """

    octave_cost: float = 0.05
    jump_cost: float = 0.30
    voicing_cost: float = 0.12
    unvoiced_height: float = 0.62


def find_contour(frames: Frames, params: ContourParams, *, floor_db: float) -> Contours:
    """Choose one candidate per frame.

    Parameters
    ----------
    frames : Frames
    params : ContourParams
    floor_db : float
        Frames below this level hold no pitch.

    Returns
    -------
    Contours
    """
    n, k = frames.f0_hz.shape
    if n == 0:
        none = np.zeros(0)
        return Contours(f0_hz=none, level_db=none, clarity=none, centroid_hz=none, loudness_db=none)
    octave = np.log2(np.where(np.isfinite(frames.f0_hz), frames.f0_hz, 1.0))
    present = frames.clarity > 0
    top = float(octave.max())
    cost = np.full((n, k + 1), 1e3)
    local = 1.0 - frames.clarity + params.octave_cost * (top - octave)
    quiet = (frames.level_db < floor_db)[:, None]
    cost[:, :k] = np.where(present, local + 2.0 * quiet, 1e3)
    cost[:, k] = 1.0 - params.unvoiced_height + params.octave_cost * 0.5
    path = _viterbi(cost, octave, params)
    rows = np.arange(n)
    voiced = path < k
    pick = np.minimum(path, k - 1)
    f0_hz = np.where(voiced, frames.f0_hz[rows, pick], np.nan)
    best = frames.clarity.max(axis=1)
    clarity = np.where(voiced, frames.clarity[rows, pick], best)
    return Contours(
        f0_hz=f0_hz, level_db=frames.level_db, clarity=clarity, centroid_hz=frames.centroid_hz,
        loudness_db=frames.loudness_db,
    )  # fmt: skip


def _viterbi(cost: Floats, octave: Floats, params: ContourParams) -> NDArray[np.intp]:
    n, states = cost.shape
    k = states - 1
    back = np.zeros((n, states), dtype=np.intp)
    prices = np.full((_CHUNK, states, states), params.voicing_cost)
    prices[:, k, k] = 0.0
    total = cost[0].copy()
    columns = np.arange(states)
    for start in range(1, n, _CHUNK):
        here = octave[start - 1 : start + _CHUNK]
        jump = np.minimum(np.abs(here[1:, :, None] - here[:-1, None, :]), 1.5)
        prices[: len(jump), :k, :k] = jump * params.jump_cost
        total -= total.min()
        for t, price in zip(range(start, min(n, start + _CHUNK)), prices, strict=False):
            through = price + total
            choice = through.argmin(axis=1)
            back[t] = choice
            total = through[columns, choice] + cost[t]
    path = np.empty(n, dtype=np.intp)
    path[-1] = int(total.argmin())
    for t in range(n - 1, 0, -1):
        path[t - 1] = back[t, path[t]]
    return path
