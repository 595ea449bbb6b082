"""How two strings came together: at once, from one side, or to and fro, and when the beats stopped.

The interval is followed from window to window; where it settled is the middle of its later part. A
stop that was wide and then narrow before it settled was searched for, whatever it ended at: what
the ear hears of that is beating that slows, quickens and slows again.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby

import numpy as np

from jigwright.core.gauge.values import StopArrival, StopKind, StopMover
from jigwright.core.sound.heard import Pair
from jigwright.core.values import Floats, Unmeasured, median

METHOD_VERSION = 1
_FEWEST = 8
_CENTS = 1200.0 / np.log(2.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class StopArrivalParams:
    """Limits of the gauge.

    Parameters
    ----------
    settled_ratio : float
        Of the stop, at its end: where it settled is the middle of this part.
    least_cents : float
        From where it settled; nearer is landed.
    spreads : float
        Nor does it count within so many deviations of the later part.
    restless_cents : float
        Deviation of the later part from which on nothing is told: it never came to rest, or a
        vibrato of one string alone moves it, whose beginning looks like a way.
    latest_ratio : float
        Of the stop: what goes on moving beyond this did not settle.
    still_hz : float
        Beats slower than this are heard as none.
    moved_ratio : float
        A voice that moved so many times as far as the other is the one that moved.
    """

    settled_ratio: float = 0.4
    least_cents: float = 7.0
    spreads: float = 4.0
    restless_cents: float = 2.0
    latest_ratio: float = 0.8
    still_hz: float = 0.7
    moved_ratio: float = 2.5


def measure_stop_arrival(
    pair: Pair,
    partials: tuple[int, int],
    params: StopArrivalParams,
    *,
    tail_s: float = float("nan"),
) -> StopArrival | Unmeasured:
    """Measure how a stop was reached.

    Parameters
    ----------
    pair : Pair
    partials : tuple of (int, int)
        Which of the lower meets which of the upper; (0, 0) for none.
    params : StopArrivalParams
    tail_s : float
        How long what has ended takes to fall by 20 dB in this take; until then the notes before
        may be what is heard. NaN when unknown.

    Returns
    -------
    StopArrival or Unmeasured
        Reasons: ``too_short``, ``fused`` (an octave or unison whose notes were told apart by
        fits: near its place they are one to these), ``moving`` (it never came to rest),
        ``room_tail``.
    """
    if len(pair.times_s) < _FEWEST:
        return Unmeasured("too_short")
    low, up = (_cents(t) for t in (pair.lower_track_hz, pair.upper_track_hz))
    wide = up - low
    if not pair.parted and abs(median(wide) - 1200.0 * round(median(wide) / 1200.0)) < 60.0:
        return Unmeasured("fused")
    first = int((1.0 - params.settled_ratio) * len(wide))
    later = wide[first:]
    off = wide - median(later)
    spread = 1.48 * median(np.abs(off[first:]))
    if spread > params.restless_cents:
        return Unmeasured("moving")
    limit = max(params.least_cents, params.spreads * spread)
    ways = _lasting(off, limit)
    beyond = np.flatnonzero(np.abs(ways) > limit)
    begun_s = pair.times_s - pair.onset_s
    still_s = _still_from(pair, partials, params.still_hz)
    if not len(beyond):
        return StopArrival(kind="landed", settle_s=0.0, swings_cents=(), mover="", still_s=still_s)
    last = int(beyond[-1])
    if last + 1 >= params.latest_ratio * len(wide):
        return Unmeasured("moving")
    settle_s = float(begun_s[last + 1])
    if np.isfinite(tail_s) and settle_s < tail_s:
        return Unmeasured("room_tail")
    swings = _swings(ways[: last + 1], limit)
    kind: StopKind = "corrected" if len(swings) == 1 else "hunted"
    return StopArrival(
        kind=kind, settle_s=settle_s, swings_cents=swings,
        mover=_mover(low, up, ways, (last + 1, first), params.moved_ratio),
        still_s=still_s,
    )  # fmt: skip


def beats_track_hz(pair: Pair, partials: tuple[int, int]) -> Floats:
    """Beats a second of the lowest partials that meet, window by window, shape (m,)."""
    p, q = partials
    return np.abs(p * pair.lower_track_hz - q * pair.upper_track_hz)


def _cents(track_hz: Floats) -> Floats:
    return np.asarray(_CENTS * np.log(track_hz))


def _lasting(off: Floats, limit: float) -> Floats:
    """The same without single windows beyond the limit: a vibrato that they strobe, no stay."""
    side = np.where(np.abs(off) > limit, np.sign(off), 0.0)
    padded = np.concatenate([[0.0], side, [0.0]])
    alone = (side != 0.0) & (padded[:-2] != side) & (padded[2:] != side)
    return np.asarray(np.where(alone, 0.0, off))


def _swings(off: Floats, limit: float) -> tuple[float, ...]:
    """Farthest place of every stay on one side beyond the limit."""
    sides = np.where(np.abs(off) > limit, np.sign(off), 0.0)
    stays: list[list[float]] = []
    side = 0.0
    for now, group in groupby(zip(sides, off, strict=True), key=lambda g: g[0]):
        if now == 0.0:
            continue
        values = [float(v) for _, v in group]
        if now == side:
            stays[-1] += values
        else:
            stays.append(values)
        side = now
    return tuple(max(s, key=abs) for s in stays)


def _mover(
    low: Floats, up: Floats, off: Floats, borders: tuple[int, int], ratio: float
) -> StopMover:
    """Whose pitch was elsewhere where the interval was farthest out, a vibrato of both averaged."""
    stop, first = borders
    before = off[:stop]
    side = np.sign(before[np.argmax(np.abs(before))])
    farthest = np.flatnonzero(side * before > 0.5 * np.abs(before).max())
    a, b = (abs(float(np.mean(v[farthest])) - median(v[first:])) for v in (low, up))
    if b > ratio * a:
        return "upper"
    return "lower" if a > ratio * b else "both"


def _still_from(pair: Pair, partials: tuple[int, int], still_hz: float) -> float:
    """Seconds from the onset after which no beats are heard any more; NaN: they go on."""
    if partials == (0, 0):
        return float("nan")
    beating = np.flatnonzero(beats_track_hz(pair, partials) > still_hz)
    if not len(beating):
        return 0.0
    last = int(beating[-1])
    if last + 2 >= len(pair.times_s):
        return float("nan")
    return float(pair.times_s[last + 1] - pair.onset_s)
