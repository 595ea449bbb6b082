"""Vibrato: rate, extent, regularity and start.

Method: least-squares sinusoid plus line on the cents contour of the settled part, rate searched
over 3.5 … 9.5 Hz (Prame 1994, 1997: rates of 4 … 8 Hz are usual; extents of bowed strings tens of
cents). The contour's analysis window shrinks the extent; what it takes is put back
(:func:`window_gain`, checked against the simulated player in the tests). So does a room: there the
swing that matches the sound itself is the extent (:mod:`matched_vibrato`), and notes too narrow to
be matched are widened as the others of the take are. Where a room leaves no trace of it in the
contour, what was sought in the sound itself is taken (:mod:`sought_vibrato`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from jigwright.core.gauge.values import Vibrato
from jigwright.core.gauge_maths import MAX_RATE_HZ, MIN_RATE_HZ, fit_sinusoid
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.sound.ranges import ROOM_S
from jigwright.core.values import Unmeasured, median

METHOD_VERSION = 3
_LEAST_SWINGS = 3
_BY_OTHERS = 0.5  # how unsure an extent is that is corrected by other notes' swings
_BY_NONE = 0.8  # … and one that a room narrowed, nobody knows how much


@dataclass(frozen=True, slots=True, kw_only=True)
class VibratoParams:
    """Limits of the vibrato gauge.

    Parameters
    ----------
    shortest_s : float
        Settled part needed.
    least_regularity : float
        Share of variance the sinusoid must explain.
    least_gain : float
        A swing that gathers so much more of the sound than the contour's own is surely the
        player's, however irregular the contour is.
    sure_gain : float
        Below it the match is flat, and lies low as the contour does; such a swing is held against
        what the others of the take say the room took away.
    room_ends_s : float
        Notes that die away more slowly say that there is a room. Where they die away sooner, only
        what surely is the player's is taken instead of the contour.
    """

    shortest_s: float = 0.28
    least_regularity: float = 0.5
    least_gain: float = 1.045
    sure_gain: float = 1.02
    room_ends_s: float = ROOM_S


def least_half_extent_cents(length_s: float) -> float:
    """Smallest half-extent that may be claimed: 99 % of steady tones stay below."""
    return float(np.interp(length_s, [0.3, 0.5, 1.0], [2.0, 1.6, 1.2]))


def window_gain(rate_hz: float, window_s: float) -> float:
    """Share of a sinusoid of ``rate_hz`` that an analysis window of ``window_s`` leaves.

    The square-difference peak acts as a plain average over 0.72 of the window.
    """
    return float(np.sinc(rate_hz * 0.72 * window_s))


def measure_vibrato(
    contours: Contours,
    segment: Segment,
    params: VibratoParams,
    *,
    window_s: float,
    room_ratio: float = 1.0,
    ends_s: float = float("nan"),
) -> Vibrato | Unmeasured:
    """Measure the vibrato of a segment.

    Parameters
    ----------
    contours : Contours
    segment : Segment
    params : VibratoParams
    window_s : float
        Of the contour's analysis.
    room_ratio : float
        How much wider vibratos are in this take than their contours (:func:`room_ratio`).
    ends_s : float
        Time in which notes of the take die away by 12 dB; NaN where it is not known. In a room of
        which nothing says how much it took, the extent is the least that it was.

    Returns
    -------
    Vibrato or Unmeasured
        Reasons: ``too_short``, ``pitch_broken``.
    """
    lo, hi = round(segment.core_start_s / HOP_S), round(segment.core_end_s / HOP_S)
    length_s = (hi - lo) * HOP_S
    if length_s < params.shortest_s:
        return Unmeasured("too_short")
    cents = 1200.0 * np.log2(contours.f0_hz[lo:hi] / segment.f0_hz)
    good = np.isfinite(cents)
    if np.count_nonzero(good) < 0.9 * len(cents):
        return Unmeasured("pitch_broken")
    t_s = (np.arange(lo, hi) + 0.5)[good] * HOP_S
    cents = np.clip(cents[good], -150.0, 150.0)
    rate, half, _, share = fit_sinusoid(t_s, cents)
    if segment.swing_hz > 0.0 and share <= params.least_regularity:
        return _hidden(segment, share, length_s)
    gain = max(0.3, window_gain(rate, window_s))
    # a room only narrows: a narrower match is another line's
    matched = segment.swing_cents > 0.95 * half
    surely = matched and segment.swing_gain >= params.least_gain
    claimed = (
        half > least_half_extent_cents(length_s)
        and (share > params.least_regularity or surely)
        and MIN_RATE_HZ <= rate <= MAX_RATE_HZ
        and length_s * rate >= 1.2
    )
    if not claimed:
        nan = float("nan")
        return Vibrato(
            present=False, rate_hz=nan, extent_cents=nan, extent_uncertainty_cents=nan,
            regularity=max(0.0, share), start_s=nan,
        )  # fmt: skip
    if share < 0.9:  # uneven swings: a fixed sinusoid loses what drifts out of step
        detrended = cents - np.polyval(np.polyfit(t_s, cents, 1), t_s)
        half = 0.5 * (half + float(np.sqrt(2) * np.std(detrended)))
    extent = 2.0 * half / gain
    left = np.sqrt(max(0.0, 1.0 - share))
    by_others = extent * room_ratio
    dry = ends_s <= params.room_ends_s  # there the contour is the finger's own
    wider = segment.swing_gain >= params.sure_gain or 2.0 * segment.swing_cents > by_others
    if surely or (matched and wider and not dry):
        extent = 2.0 * segment.swing_cents
    elif room_ratio > 1.0 and not dry:
        extent = by_others
        left = max(left, _BY_OTHERS)
    elif ends_s > params.room_ends_s:
        left = max(left, _BY_NONE)
    return Vibrato(
        present=True,
        rate_hz=rate,
        extent_cents=extent,
        extent_uncertainty_cents=float(max(0.5, 1.96 * extent * left / np.sqrt(rate * length_s))),
        regularity=share,
        start_s=_start_s(contours, segment, rate, half),
    )


def _hidden(segment: Segment, share: float, length_s: float) -> Vibrato:
    """A vibrato that only the sound shows: its evenness and its beginning are not known."""
    extent = 2.0 * segment.swing_cents
    left = max(_BY_OTHERS, np.sqrt(max(0.0, 1.0 - share)))
    nan = float("nan")
    return Vibrato(
        present=True, rate_hz=segment.swing_hz, extent_cents=extent,
        extent_uncertainty_cents=float(
            max(0.5, 1.96 * extent * left / np.sqrt(segment.swing_hz * length_s))
        ),
        regularity=nan, start_s=nan,
    )  # fmt: skip


def room_ratio(
    contours: Contours, segments: Sequence[Segment], params: VibratoParams, *, window_s: float
) -> float:
    """How much wider the vibratos of a take are than their contours, for those too narrow to match.

    Parameters
    ----------
    contours : Contours
    segments : sequence of Segment
    params : VibratoParams
    window_s : float

    Returns
    -------
    float
        The median over the vibratos that were surely matched; 1 where fewer than three were.
    """
    swings = [s for s in segments if s.swing_cents > 0.0 and s.swing_gain >= params.sure_gain]
    if len(swings) < _LEAST_SWINGS:
        return 1.0
    ratios = []
    for s in swings:
        plain = replace(s, swing_cents=0.0, swing_gain=0.0, swing_hz=0.0)
        own = measure_vibrato(contours, plain, params, window_s=window_s)
        if isinstance(own, Vibrato) and own.present:
            ratios.append(2.0 * s.swing_cents / own.extent_cents)
    return max(1.0, median(np.array(ratios))) if len(ratios) >= _LEAST_SWINGS else 1.0


def _start_s(contours: Contours, segment: Segment, rate_hz: float, half: float) -> float:
    """First moment after which the contour swings by at least half the usual amount."""
    lo, hi = round(segment.onset_s / HOP_S), round(segment.core_end_s / HOP_S)
    cents = 1200.0 * np.log2(contours.f0_hz[lo:hi] / segment.f0_hz)
    width = max(4, round(0.75 / rate_hz / HOP_S))
    for i in range(round(0.03 / HOP_S), len(cents) - width, 2):
        part = cents[i : i + width]
        part = part[np.isfinite(part)]
        if len(part) > width // 2 and float(np.ptp(part)) >= half:
            return i * HOP_S
    return max(0.0, segment.core_start_s - segment.onset_s)
