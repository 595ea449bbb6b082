"""Demodulated partials of one note, and the pitch that fits them all.

Each partial ``h`` is brought to zero frequency by the phase of the contour and summed in blocks of
a whole number of periods, so that its neighbours fall on the zeros of the sum; what still turns
from block to block is how far the contour is off. The offset common to all partials is the one
that maximises their summed energy (harmonic nonlinear least squares, Christensen & Jakobsson 2009;
Rife & Boorstyn 1974 for one partial), found by Newton steps on the block sums.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jigwright.core.gauge_maths import turning
from jigwright.core.values import Floats

N_PARTIALS = 10
_Complex = NDArray[np.complex128]


@dataclass(frozen=True, slots=True, kw_only=True)
class Refined:
    """Pitch of a stretch from its partials.

    Parameters
    ----------
    offset_cents : float
        To be added to the contour.
    sd_cents : float
        Standard error of the offset from the residual phases.
    """

    offset_cents: float
    sd_cents: float


def refine_pitch(
    x: Floats, rate_hz: int, f_hz: Floats, *, n_partials: int = N_PARTIALS
) -> Refined | None:
    """Fit one frequency offset to all partials of a stretch.

    Parameters
    ----------
    x : ndarray, shape (n,)
        The sound at the internal rate.
    rate_hz : int
    f_hz : ndarray, shape (k,)
        Contour at equal distances from the first to the last sample.
    n_partials : int

    Returns
    -------
    Refined or None
        ``None`` when there are fewer than five blocks or no energy.
    """
    f_mean = float(np.exp(np.mean(np.log(f_hz))))
    periods = max(1, int(np.ceil(0.004 * f_mean)))
    block = round(periods * rate_hz / f_mean)
    m = len(x) // block
    if m < 5:
        return None
    count = max(1, min(n_partials, int(0.42 * rate_hz / f_mean)))
    blocks = _demodulate(x[: m * block], rate_hz, f_hz, len(x), block, count)
    if float(np.max(np.abs(blocks))) <= 0:
        return None
    t_s = (np.arange(m) - 0.5 * (m - 1)) * (block / rate_hz)
    taper = np.hanning(m + 2)[1:-1]
    h = np.arange(1.0, count + 1.0)
    weights = _partial_weights(blocks)
    delta_hz = _common_offset(blocks * taper, t_s, h, weights)
    to_cents = 1200.0 / float(np.log(2)) / f_mean
    sd_hz = _standard_error(blocks, t_s, h, weights, delta_hz)
    return Refined(offset_cents=delta_hz * to_cents, sd_cents=sd_hz * to_cents)


def _demodulate(
    x: Floats, rate_hz: int, f_hz: Floats, n_all: int, block: int, count: int
) -> _Complex:
    n = len(x)
    f = np.interp(np.arange(n) + 0.5, np.linspace(0, n_all, len(f_hz)), f_hz)
    turn = turning(np.cumsum(f) / rate_hz)
    carrier = x.astype(np.complex64)  # rounding stays 100 dB below the partials
    out = np.empty((count, n // block), dtype=np.complex128)
    ones = np.ones(block, dtype=np.complex64)
    for h in range(count):
        carrier *= turn
        out[h] = carrier.reshape(-1, block) @ ones
    return out


def _partial_weights(blocks: _Complex) -> Floats:
    """Inverse noise power of each partial, from block-to-block irregularity."""
    step = blocks[:, 2:] - 2 * blocks[:, 1:-1] + blocks[:, :-2]
    noise = np.mean(np.abs(step) ** 2, axis=1) / 6.0
    floor = 1e-5 * float(np.max(np.mean(np.abs(blocks) ** 2, axis=1)))
    return np.asarray(1.0 / (noise + floor))


def _common_offset(blocks: _Complex, t_s: Floats, h: Floats, weights: Floats) -> float:
    delta = 0.0
    a = 2 * np.pi * h
    for _ in range(6):
        z = blocks * np.exp(-1j * delta * a[:, None] * t_s[None, :])
        s0, s1, s2 = z.sum(axis=1), (z * t_s).sum(axis=1), (z * t_s**2).sum(axis=1)
        slope = float(np.sum(weights * 2 * np.real(np.conj(s0) * (-1j * a * s1))))
        bend = float(np.sum(weights * 2 * a**2 * (np.abs(s1) ** 2 - np.real(np.conj(s0) * s2))))
        if bend >= 0 or not np.isfinite(slope):
            break
        step = float(np.clip(-slope / bend, -2.0, 2.0))
        delta += step
        if abs(step) < 1e-5:
            break
    return delta


def _standard_error(
    blocks: _Complex, t_s: Floats, h: Floats, weights: Floats, delta_hz: float
) -> float:
    """Spread of the partials' own answers about the common one, as a standard error."""
    z = blocks * np.exp(-2j * np.pi * delta_hz * h[:, None] * t_s[None, :])
    mean = z.mean(axis=1, keepdims=True)
    strength = np.abs(mean[:, 0]) ** 2
    # phase about the mean phasor: no unwrapping, so an absent partial cannot run away
    phase = np.angle(z * np.conj(mean))
    spread = float(np.sum(t_s**2))
    slope = (phase @ t_s) / spread
    residual = phase - slope[:, None] * t_s
    lag1 = np.sum(residual[:, 1:] * residual[:, :-1], axis=1) / np.maximum(
        np.sum(residual**2, axis=1), 1e-12
    )
    rho = np.clip(lag1, 0.0, 0.9)  # neighbouring blocks are not independent
    variance = np.mean(residual**2, axis=1) * (1 + rho) / (1 - rho) / spread
    trust = weights * strength * h**2
    share = trust / max(float(trust.sum()), 1e-30)
    own = slope / (2 * np.pi * h)
    within = float(np.sum(share**2 * variance / (2 * np.pi * h) ** 2))
    effective = max(1.0, 1.0 / float(np.sum(share**2)))
    between = float(np.sum(share * own**2)) / effective
    return float(np.sqrt(within + between))
