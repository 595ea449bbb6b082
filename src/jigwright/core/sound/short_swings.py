"""The pitch of notes too short for a whole cycle of the vibrato they are played with.

A quarter of a second holds one swing and a half, an eighth of a second half a one: its mean is
where the hand happened to be, up to the whole half-extent away from where the finger stands. The
longer notes of a take say how wide and how fast its player swings; with that as prior the middle of
a short one is a linear regression with known variances (a constant, and a sinusoid whose two
coefficients are as wide as theirs), and what the stretch does not decide becomes its range.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from jigwright.core.gauge_maths import fit_sinusoid
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.values import Floats, deviation, median

_LONG_S = 0.4  # two cycles: a note that tells of its player
_LEAST_SHARE = 0.6
_LEAST_HALF_CENTS = 4.0
_LEAST_NOTES = 2
_CYCLES = 1.6  # beyond, a note's own fit is as good
_LEAST_FRAMES = 6
_LEAD_S = 0.05
_RESTS_CENTS = 2.0  # a contour that moves no more has no swing in it
_INDEPENDENT_FRAMES = 4.0
_NOISE_CENTS = 1.0
_RATES = np.array([0.82, 0.91, 1.0, 1.09, 1.18])  # as the rates of one player differ (Prame 1994)
_FURTHEST_CENTS = 80.0
_WIDEST = 1.3  # of the usual extent
_UNLIKE = 0.4  # of half the usual extent: standard error where the swing is another


@dataclass(frozen=True, slots=True, kw_only=True)
class Manner:
    """How a player swings in a take.

    Parameters
    ----------
    rate_hz : float
    half_cents : float
        Half the extent.
    """

    rate_hz: float
    half_cents: float


def manner_of(contours: Contours, segments: Sequence[Segment]) -> Manner | None:
    """Rate and width of the vibrato by the long notes of a take.

    Returns
    -------
    Manner or None
        ``None`` where fewer than two long notes swing, or most do not.
    """
    rates, halves, still = [], [], 0
    for s in segments:
        if s.i_pair >= 0 or s.core_end_s - s.core_start_s < _LONG_S:
            continue
        cents = _track(contours, s)
        if cents is None:
            continue
        rate, half, _, share = fit_sinusoid(np.arange(len(cents)) * HOP_S, cents)
        if share > _LEAST_SHARE and half > _LEAST_HALF_CENTS:
            rates.append(rate)
            halves.append(max(half, s.swing_cents))
        else:
            still += 1
    if len(rates) < _LEAST_NOTES or still > len(rates):
        return None
    return Manner(rate_hz=median(np.array(rates)), half_cents=median(np.array(halves)))


def centred(contours: Contours, segments: Sequence[Segment]) -> tuple[Segment, ...]:
    """The same with the middles of short swinging notes.

    Parameters
    ----------
    contours : Contours
    segments : sequence of Segment
    """
    manner = manner_of(contours, segments)
    if manner is None:
        return tuple(segments)
    return tuple(_centred(contours, s, manner) for s in segments)


def _centred(contours: Contours, s: Segment, manner: Manner) -> Segment:
    length_s = s.core_end_s - s.core_start_s
    if s.i_pair >= 0 or length_s * manner.rate_hz > _CYCLES:
        return s
    # what was left out as a slide may be a part of the swing
    begins_s = min(s.core_start_s, s.onset_s + _LEAD_S + s.covered_s)
    cents = _track(contours, replace(s, core_start_s=begins_s))
    if cents is None or deviation(cents) < _RESTS_CENTS:
        return s
    own_sd = s.uncertainty_cents / 1.96
    middle, sd = middle_of(cents, manner)
    if float(np.ptp(cents)) > _WIDEST * 2.0 * manner.half_cents or abs(middle) > manner.half_cents:
        # no swing as this player's others are: a glide, two notes, or a wider one
        middle, sd = 0.0, _UNLIKE * manner.half_cents
    return replace(
        s,
        f0_hz=s.f0_hz * 2.0 ** (middle / 1200.0),
        uncertainty_cents=1.96 * float(np.hypot(own_sd, sd)),
    )


def middle_of(cents: Floats, manner: Manner) -> tuple[float, float]:
    """Where a swing has its middle, by a part of it.

    Parameters
    ----------
    cents : ndarray, shape (n,)
        Contour every 5 ms.
    manner : Manner

    Returns
    -------
    (float, float)
        The middle and its standard error, cents, over the likely rates.
    """
    n = len(cents)
    t_s = (np.arange(n) - 0.5 * (n - 1)) * HOP_S
    prior = np.diag([1e-6, 2.0 / manner.half_cents**2, 2.0 / manner.half_cents**2])
    middles, variances, weights = [], [], []
    for rate in _RATES * manner.rate_hz:
        angle = 2.0 * np.pi * rate * t_s
        model = np.stack([np.ones(n), np.cos(angle), np.sin(angle)], axis=1)
        noise = _NOISE_CENTS
        for _ in range(2):  # what is left says how much the contour is to be believed
            precision = model.T @ model / (noise**2 * _INDEPENDENT_FRAMES) + prior
            covariance = np.linalg.inv(precision)
            best = covariance @ (model.T @ cents) / (noise**2 * _INDEPENDENT_FRAMES)
            left = cents - model @ best
            noise = max(_NOISE_CENTS, float(np.sqrt(np.mean(left**2))))
        middles.append(best[0])
        variances.append(covariance[0, 0])
        misfit = float(left @ left) / (noise**2 * _INDEPENDENT_FRAMES) + float(best @ prior @ best)
        weights.append(
            -0.5 * misfit - n / _INDEPENDENT_FRAMES * np.log(noise)
            + 0.5 * float(np.linalg.slogdet(covariance)[1])
        )  # fmt: skip
    w = np.exp(np.array(weights) - max(weights))
    w /= w.sum()
    m = np.array(middles)
    middle = float(w @ m)
    return middle, float(np.sqrt(w @ (np.array(variances) + (m - middle) ** 2)))


def _track(contours: Contours, s: Segment) -> Floats | None:
    lo, hi = round(s.core_start_s / HOP_S), round(s.core_end_s / HOP_S)
    cents = 1200.0 * np.log2(contours.f0_hz[lo:hi] / s.f0_hz)
    good = np.isfinite(cents) & (np.abs(cents) < _FURTHEST_CENTS)
    if hi - lo < _LEAST_FRAMES or np.count_nonzero(good) < 0.9 * (hi - lo):
        return None
    at = np.arange(hi - lo)
    return np.asarray(np.interp(at, at[good], cents[good]))
