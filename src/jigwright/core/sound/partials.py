"""Demodulated partials of one note, and the pitch that fits them all.

Each partial ``h`` is brought to zero frequency by the phase of the contour and summed in blocks of
a whole number of periods, so that its neighbours fall on the zeros of the sum; what still turns
from block to block is how far the contour is off. The offset common to all partials is the one
that maximises their summed energy (harmonic nonlinear least squares, Christensen & Jakobsson 2009;
Rife & Boorstyn 1974 for one partial), found by Newton steps on the block sums.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite, log, sqrt

import numpy as np
from numpy.typing import NDArray

from jigwright.core.gauge_maths import turning
from jigwright.core.values import Floats

N_PARTIALS = 10
_CLOSE_HZ = 1e-3  # Newton's next step would be its square
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
    x: Floats, rate_hz: int, f_hz: float, *, n_partials: int = N_PARTIALS
) -> Refined | None:
    """Fit one frequency offset to all partials of a stretch.

    Parameters
    ----------
    x : ndarray, shape (n,)
        The sound at the internal rate.
    rate_hz : int
    f_hz : float
        About where the pitch lies.
    n_partials : int

    Returns
    -------
    Refined or None
        ``None`` when there are fewer than five blocks or no energy.
    """
    periods = max(1, int(np.ceil(0.004 * f_hz)))
    block = round(periods * rate_hz / f_hz)
    m = len(x) // block
    if m < 5:
        return None
    count = max(1, min(n_partials, int(0.42 * rate_hz / f_hz)))
    h = np.arange(1.0, count + 1.0)
    blocks = demodulate(x[: m * block], rate_hz, f_hz * h, block).T.astype(np.complex128, order="C")
    if not blocks.any():
        return None
    t_s = (np.arange(m) - 0.5 * (m - 1)) * (block / rate_hz)
    taper = np.hanning(m + 2)[1:-1]
    weights = _partial_weights(blocks)
    delta_hz = _common_offset(blocks * taper, t_s, h, weights)
    to_cents = 1200.0 / log(2.0) / f_hz
    sd_hz = _standard_error(blocks, t_s, h, weights, delta_hz)
    return Refined(offset_cents=delta_hz * to_cents, sd_cents=sd_hz * to_cents)


def demodulate(x: Floats, rate_hz: int, f_hz: Floats, block: int) -> NDArray[np.complex64]:
    """Sums over blocks of a sound brought to zero frequency, shape (blocks, frequencies).

    One real product: the phase within a block is the same for all, and each block's own comes
    after. Rounding stays 100 dB below the partials.
    """
    m = len(x) // block
    inside = turning(np.outer(np.arange(block) / rate_hz, f_hz)).view(np.float32)
    between = turning(np.outer(np.arange(m) * (block / rate_hz), f_hz))
    parts = x[: m * block].reshape(m, block).astype(np.float32) @ inside
    return np.asarray(parts.view(np.complex64) * between)


def _partial_weights(blocks: _Complex) -> Floats:
    """Inverse noise power of each partial, from block-to-block irregularity."""
    step = blocks[:, 2:] - 2 * blocks[:, 1:-1] + blocks[:, :-2]
    noise = _power(step) / 6.0
    floor = 1e-5 * float(_power(blocks).max())
    return np.asarray(1.0 / (noise + floor))


def _power(blocks: _Complex) -> Floats:
    parts = blocks.view(np.float64)
    return np.asarray(np.einsum("ij,ij->i", parts, parts) / blocks.shape[1])


def _common_offset(blocks: _Complex, t_s: Floats, h: Floats, weights: Floats) -> float:
    delta = 0.0
    a = 2 * np.pi * h
    powers = np.stack([np.ones_like(t_s), t_s, t_s**2], axis=1).astype(np.complex128)
    turn = -1j * a[:, None] * t_s[None, :]
    z = blocks
    for _ in range(6):
        s0, s1, s2 = (z @ powers).T
        slope = float((weights * a) @ (s0.conj() * (-1j * s1)).real) * 2
        bend = float((weights * a**2) @ (np.abs(s1) ** 2 - (s0.conj() * s2).real)) * 2
        if bend >= 0 or not isfinite(slope):
            break
        step = min(max(-slope / bend, -2.0), 2.0)
        delta += step
        if abs(step) < _CLOSE_HZ:
            break
        z = blocks * np.exp(delta * turn)
    return delta


def _standard_error(
    blocks: _Complex, t_s: Floats, h: Floats, weights: Floats, delta_hz: float
) -> float:
    """Spread of the partials' own answers about the common one, as a standard error."""
    z = blocks * np.exp(-2j * np.pi * delta_hz * h[:, None] * t_s)
    mean = z.sum(axis=1) / len(t_s)
    # phase about the mean phasor: no unwrapping, so an absent partial cannot run away
    z *= mean.conj()[:, None]
    phase = np.arctan2(z.imag, z.real)
    spread = float(t_s @ t_s)
    slope = (phase @ t_s) / spread
    residual = phase - slope[:, None] * t_s
    squares = np.einsum("ij,ij->i", residual, residual)
    lag1 = np.einsum("ij,ij->i", residual[:, 1:], residual[:, :-1]) / np.maximum(squares, 1e-12)
    rho = np.minimum(np.maximum(lag1, 0.0), 0.9)  # neighbouring blocks are not independent
    variance = squares / len(t_s) * (1 + rho) / (1 - rho) / spread
    trust = weights * np.abs(mean * h) ** 2
    share = trust / max(float(trust.sum()), 1e-30)
    turns = 2 * np.pi * h
    within = float(share**2 @ (variance / turns**2))
    between = float(share @ (slope / turns) ** 2) * min(1.0, float(share @ share))
    return sqrt(within + between)
