"""One pitch contour out of the candidates: Viterbi over time.

Costs follow Boersma (1993): a small preference for short periods against subharmonics, a price
for jumps and for changing between pitch and no pitch.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jigwright.core.sound.frames import Frames
from jigwright.core.sound.heard import HOP_S, Contours
from jigwright.core.values import Floats

_RUN_FRAMES = 4


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
    gap_frames : int
        Longest gap through which a moving pitch is followed.
    gap_cents : (float, float)
        How far it goes, at least and at most. A bow that turns on one pitch goes less far, a
        slurred step further.
    gap_height : float
        Least height of the candidates in it.
    gap_step_cents : float
        Most that it moves between two frames.
    gap_slope : float
        Most that it moves over four frames, cents a second; 80 cents at 7 Hz reach 1,760. A trill
        of a semitone is faster.
    """

    octave_cost: float = 0.05
    jump_cost: float = 0.30
    voicing_cost: float = 0.12
    unvoiced_height: float = 0.62
    gap_frames: int = 100
    gap_cents: tuple[float, float] = (15.0, 100.0)
    gap_height: float = 0.35
    gap_step_cents: float = 30.0
    gap_slope: float = 2200.0


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
    f0_hz = _led_through(f0_hz, frames, params, frames.level_db >= floor_db)
    return Contours(
        f0_hz=f0_hz, level_db=frames.level_db, clarity=clarity, centroid_hz=frames.centroid_hz,
        loudness_db=frames.loudness_db,
    )  # fmt: skip


def _led_through(
    f0_hz: Floats, frames: Frames, params: ContourParams, loud: NDArray[np.bool_]
) -> Floats:
    """Follow a pitch through gaps in which it only moved too fast for the window.

    A wide vibrato crosses its middle by half a semitone and more within a window of a low
    instrument; the period is less clear there, and the clearest candidates still lead from one side
    to the other, each a little further than the last.
    """
    missing = ~np.isfinite(f0_hz)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], missing.astype(np.int8), [0]])))
    result = f0_hz.copy()
    least, most = params.gap_cents
    for a, b in zip(edges[::2], edges[1::2], strict=True):
        if a == 0 or b == len(f0_hz) or b - a > params.gap_frames or not loud[a:b].all():
            continue
        pick = frames.clarity[a:b].argmax(axis=1)
        if frames.clarity[np.arange(a, b), pick].min() < params.gap_height:
            continue
        inside = frames.f0_hz[np.arange(a, b), pick]
        cents = 1200.0 * np.log2(np.concatenate([f0_hz[a - 1 : a], inside, f0_hz[b : b + 1]]))
        steps = np.abs(np.diff(cents)).max()
        runs = np.abs(cents[_RUN_FRAMES:] - cents[:-_RUN_FRAMES]).max(initial=0.0)
        if steps > params.gap_step_cents or runs > params.gap_slope * _RUN_FRAMES * HOP_S:
            continue
        if least <= float(np.ptp(cents)) <= most:
            result[a:b] = inside
    return result


def _viterbi(cost: Floats, octave: Floats, params: ContourParams) -> NDArray[np.intp]:
    """The cheapest path, found in about the square root of the steps.

    Stretches of equal length are worked through side by side, each from every state it may begin
    in; then the stretches are chained, and the path is read back in all of them at once.
    """
    n, states = cost.shape
    length = max(1, int(np.ceil(np.sqrt(n - 1)))) if n > 1 else 1
    n_parts = -(-(n - 1) // length)
    if n_parts <= 0:
        return np.asarray(cost.argmin(axis=1), dtype=np.intp)
    steps = n_parts * length
    costs = np.zeros((steps, states))
    costs[: n - 1] = cost[1:]
    costs = costs.reshape(n_parts, length, states)
    place = np.zeros((steps + 1, states - 1))
    place[:n] = octave
    left = steps - (n - 1)  # the last stretch is filled up with steps that cost and change nothing
    stay = np.where(np.eye(states, dtype=bool), 0.0, np.inf)
    through = np.broadcast_to(stay, (n_parts, states, states)).copy()
    back = np.empty((length, n_parts, states, states), dtype=np.uint8)
    k = states - 1
    price = np.full((n_parts, states, states), params.voicing_cost)
    price[:, k, k] = 0.0
    for t in range(length):
        here, before = place[t + 1 :: length][:n_parts], place[t::length][:n_parts]
        jump = np.abs(here[:, :, None] - before[:, None, :])
        price[:, :k, :k] = np.minimum(jump, 1.5) * params.jump_cost
        if t >= length - left:
            price[-1] = stay
        via = through[:, :, None, :] + price[:, None, :, :]
        choice = via.argmin(axis=3)
        back[t] = choice
        through = np.take_along_axis(via, choice[..., None], axis=3)[..., 0]
        through += costs[:, t, None, :]
    total = cost[0]
    enter = np.empty((n_parts, states), dtype=np.intp)
    for part in range(n_parts):
        whole = total[:, None] + through[part]
        enter[part] = whole.argmin(axis=0)
        total = whole[enter[part], np.arange(states)]
        total = total - total.min()
    begins, ends = np.empty(n_parts, dtype=np.intp), np.empty(n_parts, dtype=np.intp)
    state = int(total.argmin())
    for part in range(n_parts - 1, -1, -1):
        ends[part] = state
        state = int(enter[part, state])
        begins[part] = state
    path = np.empty((n_parts, length), dtype=np.intp)
    now, parts = ends, np.arange(n_parts)
    for t in range(length - 1, -1, -1):
        path[:, t] = now
        now = back[t, parts, begins, now].astype(np.intp)
    return np.concatenate([[state], path.ravel()[: n - 1]])
