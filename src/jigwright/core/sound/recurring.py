"""What recurs with every swing of a vibrato, and so begins nothing.

A wide vibrato makes the period unclear where the pitch runs fastest, and through a body's
resonances (Fletcher & Rossing 1998, ch. 10) it makes the level rise and fall: once or twice in
every swing something seems to be new. A bow that changes does so once. So where a pitch swings
widely a moment is held against those that lie whole and half swings before and behind it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.gauge_maths import fit_sinusoid
from jigwright.core.sound.heard import HOP_S
from jigwright.core.values import Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class SwingParams:
    """When a pitch swings so that moments recur with it.

    Parameters
    ----------
    least_cents : float
        Half the width.
    least_share : float
        Of its movement that one sinusoid explains: 0.75 … 0.98 of wide vibratos (nine in ten, four
        instruments, dry and in a room), 0.55 … 0.7 of a trill that a room has blurred.
    least_swings : float
        That the stretch must hold.
    about_s : float
        So much before and behind a moment its own swing is looked for.
    near : float
        How far from its place a moment that recurs may lie, in swings.
    half_swings : int
        How many half swings before and behind are asked.
    fewest : int
        Places that must lie within the stretch.
    silent : float
        What a place counts at which nothing seems new.
    usual : float
        Odds that moments which begin nothing have anyway.
    """

    least_cents: float = 15.0
    least_share: float = 0.72
    least_swings: float = 2.5
    about_s: float = 0.5
    near: float = 0.12
    half_swings: int = 6
    fewest: int = 3
    silent: float = -6.0
    usual: float = -3.0


def swing_frames(f0_hz: Floats, at: int, params: SwingParams | None = None) -> float | None:
    """Frames of one swing of the pitch about a moment; ``None`` where it does not swing widely.

    Parameters
    ----------
    f0_hz : ndarray
        Of the stretch of one pitch, with NaN.
    at : int
        Frame in it.
    params : SwingParams, optional
    """
    p = params or SwingParams()
    reach = round(p.about_s / HOP_S)
    part = f0_hz[max(0, at - reach) : at + reach]
    good = np.flatnonzero(np.isfinite(part))
    if len(good) < reach // 2:
        return None
    rate_hz, half, _, share = fit_sinusoid(good * HOP_S, 1200.0 * np.log2(part[good]))
    if half < p.least_cents or share < p.least_share:
        return None
    frames = 1.0 / (rate_hz * HOP_S)
    return frames if len(part) >= p.least_swings * frames else None


def beyond_usual(
    own: float,
    at: int,
    moments: Sequence[int],
    frames: float,
    inside: tuple[int, int],
    odds_of: Callable[[int], float | None],
    params: SwingParams,
) -> float:
    """Odds of a moment less what those like it have.

    Parameters
    ----------
    own : float
        Of the moment.
    at : int
        Its frame.
    moments : sequence of int
        Frames at which something seems new.
    frames : float
        Of one swing.
    inside : (int, int)
        First and last frame at which something could begin in the stretch.
    odds_of : callable
        Odds of another moment.
    params : SwingParams
    """
    halves, wholes = [], []
    for k in range(-params.half_swings, params.half_swings + 1):
        place = at + 0.5 * k * frames
        if not k or not inside[0] <= place <= inside[1]:
            continue
        near = [m for m in moments if abs(m - place) <= params.near * frames]
        best = min(near, key=lambda m: abs(m - place)) if near else None
        odds = None if best is None else odds_of(best)
        seen = params.silent if odds is None else odds
        halves.append(seen)
        if k % 2 == 0:
            wholes.append(seen)
    enough = [seen for seen in (halves, wholes) if len(seen) >= params.fewest]
    usual = max((float(np.median(seen)) for seen in enough), default=params.usual)
    return own - max(0.0, usual - params.usual)
