"""Arrival: landed, slid in, or hunted.

The first stable pitch after the onset, the settling time, and the kind. The contour is taken after
the analysis window has left the note before; a vibrato begun at once is taken out before reversals
are counted.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jigwright.core.gauge.values import Arrival, ArrivalKind, Vibrato
from jigwright.core.gauge_maths import fit_sinusoid
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.values import Floats, Unmeasured, median

METHOD_VERSION = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class ArrivalParams:
    """Limits of the arrival gauge.

    Parameters
    ----------
    least_slide_cents, least_slide_s : float
        Smaller or shorter approaches count as landed.
    tolerance_cents : float
        The pitch has settled when it stays this near.
    reversal_cents : float
        Turns smaller than this are not hunting.
    least_windows : float
        A first pitch further out than ``least_slide_cents`` that settled in fewer analysis windows
        is blurred by them: its size cannot be told (NaN).
    most_back : float
        How far before the first clean frame a slide is followed, as a share of what it shows.
    """

    least_slide_cents: float = 14.0
    least_slide_s: float = 0.055
    tolerance_cents: float = 6.0
    reversal_cents: float = 8.0
    least_windows: float = 3.0
    most_back: float = 1.5


def measure_arrival(
    contours: Contours,
    segment: Segment,
    vibrato: Vibrato | Unmeasured,
    params: ArrivalParams,
    *,
    blur_s: float,
) -> Arrival | Unmeasured:
    """Measure how a segment's pitch was reached.

    Parameters
    ----------
    contours : Contours
    segment : Segment
    vibrato : Vibrato or Unmeasured
    params : ArrivalParams
    blur_s : float
        Half the analysis window: frames nearer to the onset still hear what was before.

    Returns
    -------
    Arrival or Unmeasured
        Reasons: ``too_short``, ``pitch_broken``.
    """
    if segment.offset_s - segment.onset_s < 0.15:
        return Unmeasured("too_short")
    # after a real gap the window hears little of what was before
    near = 0.6 if segment.attack_db > 12.0 else 1.0
    skip = near * blur_s + (0.012 if segment.slurred else 0.004)
    lo = int(np.ceil((segment.onset_s + skip) / HOP_S))
    hi = round(segment.core_end_s / HOP_S)
    if hi - lo < 16:
        return Unmeasured("too_short")
    cents = 1200.0 * np.log2(contours.f0_hz[lo:hi] / segment.f0_hz)
    good = np.isfinite(cents)
    if not good[:16].any() or np.count_nonzero(good) < 0.8 * len(cents):
        return Unmeasured("pitch_broken")
    cents = np.interp(np.arange(len(cents)), np.flatnonzero(good), cents[good])
    cents = np.clip(cents, -400.0, 400.0)
    steady = _without_vibrato(cents, vibrato, round(segment.core_start_s / HOP_S) - lo)
    tolerance = params.tolerance_cents
    if isinstance(vibrato, Vibrato) and vibrato.present:
        tolerance += 0.12 * vibrato.extent_cents
    outside = np.flatnonzero(np.abs(steady[: max(1, int(0.8 * len(steady)))]) > tolerance)
    settled = int(outside[-1]) + 1 if len(outside) and _from_start(outside) else 0
    settle_s = skip + settled * HOP_S if settled else 0.0
    late_s = _late_s(np.asarray(contours.level_db[lo : lo + len(steady)]), blur_s)
    t_s = lo * HOP_S - segment.onset_s + np.arange(len(steady)) * HOP_S + late_s
    first = _first_cents(steady, t_s, settled, params)
    kind = _kind(steady[: settled + 20 if settled else 0], first, settle_s, params)
    if settle_s and abs(first) > 1.5 * tolerance and settle_s < params.least_windows * 2.0 * blur_s:
        first = float("nan")
    return Arrival(kind=kind, first_cents=first, settle_s=settle_s)


def _first_cents(steady: Floats, t_s: Floats, settled: int, params: ArrivalParams) -> float:
    """First pitch. A slide is followed back to the onset along a half cosine.

    The first frames after the onset still hear the attack or the note before, and a slide begins
    slowly: a straight line back would go too far, the first clean frame not far enough.
    """
    first = median(steady[:3])
    if abs(first) < 0.6 * params.least_slide_cents or settled < 3:
        return first
    t_s = t_s[: settled + 6]
    lengths_s = np.arange(max(0.03, 0.8 * t_s[settled - 1]), 1.8 * t_s[-1], 0.005)
    shape = 0.5 * (1.0 + np.cos(np.pi * np.minimum(t_s[None, :] / lengths_s[:, None], 1.0)))
    part = steady[: len(t_s)]
    size = (shape @ part) / np.maximum(np.sum(shape**2, axis=1), 1e-9)
    misfit = np.sum((part - size[:, None] * shape) ** 2, axis=1)
    best = int(np.argmin(misfit))
    small = abs(first) < params.least_slide_cents
    if misfit[best] > (0.02 if small else 0.1) * float(np.sum(part**2)):
        return first  # not a slide of one piece
    limit = params.most_back * abs(first)
    return first + float(np.clip(size[best] - first, -limit, limit))


def _late_s(level_db: Floats, blur_s: float) -> Floats:
    """How much later than its middle a window hears: while the tone grows, its end weighs more.

    The centroid of an exponential of rate ``k`` over ``± b`` lies at about
    ``b² k / 3``.
    """
    rate = np.gradient(level_db) / HOP_S * (np.log(10.0) / 10.0)
    return np.asarray(np.clip(blur_s**2 * rate / 3.0, 0.0, 0.6 * blur_s))


def _from_start(outside: NDArray[np.intp]) -> bool:
    """Whether the stretch outside belongs to the beginning."""
    return bool(outside[0] <= 6)


def _without_vibrato(cents: Floats, vibrato: Vibrato | Unmeasured, core: int) -> Floats:
    if not isinstance(vibrato, Vibrato) or not vibrato.present:
        return cents
    t_s = np.arange(len(cents)) * HOP_S
    core = min(max(core, 0), len(cents) - 12)
    rate, half, phase, _ = fit_sinusoid(t_s[core:], cents[core:])
    wave = half * np.sin(2 * np.pi * rate * t_s + phase)
    begins = int(max(0.0, vibrato.start_s - 0.02) / HOP_S)
    wave[: min(begins, len(wave))] = 0.0
    return np.asarray(cents - wave)


def _kind(before: Floats, first: float, seconds: float, params: ArrivalParams) -> ArrivalKind:
    if not len(before):
        return "landed"
    if seconds >= params.least_slide_s and _reversals(before, params.reversal_cents) >= 2:
        return "hunted"  # sooner than that no finger turns twice: it is the room's beating
    if abs(first) < params.least_slide_cents or seconds < params.least_slide_s:
        return "landed"
    return "slid_up" if first < 0 else "slid_down"


def _reversals(cents: Floats, least: float) -> int:
    """Turns of direction whose swings exceed ``least`` on both sides."""
    turns, direction, extreme = 0, 0, float(cents[0])
    for value in cents[1:]:
        if direction >= 0 and value < extreme - least:
            turns += direction > 0
            direction, extreme = -1, float(value)
        elif direction <= 0 and value > extreme + least:
            turns += direction < 0
            direction, extreme = 1, float(value)
        elif (direction > 0 and value > extreme) or (direction < 0 and value < extreme):
            extreme = float(value)
    return turns
