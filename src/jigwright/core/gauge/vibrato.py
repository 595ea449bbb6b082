"""Vibrato: rate, extent, regularity and start.

Method: least-squares sinusoid plus line on the cents contour of the settled part, rate searched
over 3.5 … 9.5 Hz (Prame 1994, 1997: rates of 4 … 8 Hz are usual; extents of bowed strings tens of
cents). The contour's analysis window shrinks the extent; what it takes is put back
(:func:`window_gain`, checked against the simulated player in the tests).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jigwright.core.gauge.values import Vibrato
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.values import Floats, Unmeasured

METHOD_VERSION = 1
MIN_RATE_HZ, MAX_RATE_HZ = 3.5, 9.5


@dataclass(frozen=True, slots=True, kw_only=True)
class VibratoParams:
    """Limits of the vibrato gauge.

    Parameters
    ----------
    shortest_s : float
        Settled part needed.
    least_regularity : float
        Share of variance the sinusoid must explain.
    """

    shortest_s: float = 0.28
    least_regularity: float = 0.5


def least_half_extent_cents(length_s: float) -> float:
    """Smallest half-extent that may be claimed: 99 % of steady tones stay below."""
    return float(np.interp(length_s, [0.3, 0.5, 1.0], [2.0, 1.6, 1.2]))


def window_gain(rate_hz: float, window_s: float) -> float:
    """Share of a sinusoid of ``rate_hz`` that an analysis window of ``window_s`` leaves.

    The square-difference peak acts as a plain average over 0.72 of the window.
    """
    return float(np.sinc(rate_hz * 0.72 * window_s))


def fit_sinusoid(t_s: Floats, cents: Floats) -> tuple[float, float, float, float]:
    """Best sinusoid plus line.

    Returns
    -------
    (float, float, float, float)
        Rate in Hz, amplitude (half extent) in cents, phase in radians, share of variance.
    """
    detrended = cents - np.polyval(np.polyfit(t_s, cents, 1), t_s)
    coarse = np.arange(MIN_RATE_HZ - 0.5, MAX_RATE_HZ + 0.5, 0.1)
    best = coarse[int(np.argmax(_explained(t_s, detrended, coarse)[0]))]
    fine = best + np.arange(-0.1, 0.1001, 0.01)
    share, amplitude, phase = _explained(t_s, detrended, fine)
    i = int(np.argmax(share))
    return float(fine[i]), float(amplitude[i]), float(phase[i]), float(share[i])


def _explained(t_s: Floats, y: Floats, rates_hz: Floats) -> tuple[Floats, Floats, Floats]:
    """Share of variance, amplitude and phase of the best sinusoid plus line at each rate."""
    angle = 2 * np.pi * rates_hz[:, None] * t_s[None, :]
    cos, sin = np.cos(angle), np.sin(angle)
    one = np.broadcast_to(np.ones_like(t_s), cos.shape)
    line = np.broadcast_to(t_s - t_s.mean(), cos.shape)
    basis = np.stack([cos, sin, one, line], axis=2)
    gram = np.einsum("rti,rtj->rij", basis, basis) + 1e-9 * np.eye(4)
    right = np.einsum("rti,t->ri", basis, y)
    coefficients = np.linalg.solve(gram, right[:, :, None])[:, :, 0]
    total = max(float(np.sum((y - y.mean()) ** 2)), 1e-12)
    left = np.sum((y[None, :] - np.einsum("rti,ri->rt", basis, coefficients)) ** 2, axis=1)
    a, b = coefficients[:, 0], coefficients[:, 1]
    return 1.0 - left / total, np.hypot(a, b), np.arctan2(a, b)


def measure_vibrato(
    contours: Contours, segment: Segment, params: VibratoParams, *, window_s: float
) -> Vibrato | Unmeasured:
    """Measure the vibrato of a segment whose contour was taken with windows of ``window_s``.

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
    gain = max(0.3, window_gain(rate, window_s))
    claimed = (
        half > least_half_extent_cents(length_s)
        and share > params.least_regularity
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
    return Vibrato(
        present=True,
        rate_hz=rate,
        extent_cents=extent,
        extent_uncertainty_cents=float(max(0.5, 1.96 * extent * left / np.sqrt(rate * length_s))),
        regularity=share,
        start_s=_start_s(contours, segment, rate, half),
    )


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
