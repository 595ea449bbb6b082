"""The pitch of a note while the one before still sounds.

Harmonic least squares over two fundamentals (Christensen & Jakobsson 2009, with two sources): that
of the note before is known, that of the note is searched within 60 cents of where it was heard to
begin. What both explain together is maximised, so that a release that rings on draws nothing.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jigwright.core.values import Floats

_N_PARTIALS = 7
_REACH_CENTS, _STEP_CENTS = 60.0, 12.0
_LONGEST_S = 0.25
_LEAST_PERIODS = 4.0
_LOADING = 1e-4
_STILL = 1e-9  # radians a sample
_AROUND, _SHARES = np.arange(-2.0, 3.0), np.array([0.0625, 0.25, 0.375, 0.25, 0.0625])
_BLOCK = 64
_LEAST_SHARE = 0.5  # of the energy the two notes explain


@dataclass(frozen=True, slots=True, kw_only=True)
class Mixed:
    """What was found.

    Parameters
    ----------
    cents : float
        Re 1 Hz.
    sd_cents : float
        From the curvature of the explained energy at its maximum and what is left unexplained.
    share : float
        Of the energy that both notes explain.
    """

    cents: float
    sd_cents: float
    share: float


def mixed_pitch(x: Floats, rate_hz: int, near_cents: float, other_hz: float | None) -> Mixed | None:
    """Search the pitch of a note beside another one.

    Parameters
    ----------
    x : ndarray
        The note's sound at the internal rate; of a long one the middle is taken.
    rate_hz : int
    near_cents : float
        Re 1 Hz.
    other_hz : float or None
        Fundamental of the note before; ``None`` where none sounds on.

    Returns
    -------
    Mixed or None
        ``None`` when it is too short or both explain less than half of the sound.
    """
    near_hz = 2.0 ** (near_cents / 1200.0)
    most = round(_LONGEST_S * rate_hz)
    if len(x) > most:
        lo = (len(x) - most) // 2
        x = x[lo : lo + most]
    if len(x) < _LEAST_PERIODS * rate_hz / near_hz:
        return None
    n = len(x)
    taper = np.hanning(n + 2)[1:-1]
    y = np.asarray(x, dtype=np.float64) * taper
    total = float(y @ y)
    if total <= 0.0:
        return None
    weighed = y * taper  # its transform is what the tapered partials have in common with it
    place = np.arange(n) - 0.5 * (n - 1)  # symmetric: cosines and sines have nothing in common
    other = np.zeros(0) if other_hz is None else _partials(other_hz, rate_hz)
    seen_other = _seen(weighed, place, other)

    def explained(cents: float) -> float:
        own = _partials(2.0 ** (cents / 1200.0), rate_hz)
        seen = np.concatenate([_seen(weighed, place, own), seen_other])
        both = np.concatenate([own, other])
        turns = np.stack([both[:, np.newaxis] - both, both[:, np.newaxis] + both])
        apart, together = _common(turns, n)
        energy = 0.0
        for gram, part in ((apart + together, seen.real), (apart - together, seen.imag)):
            half = 0.5 * gram
            half[np.diag_indices_from(half)] += _LOADING * float(np.trace(apart)) / (2 * len(half))
            energy += float(part @ np.linalg.solve(half, part))
        return energy

    best, step = near_cents, _STEP_CENTS
    energy: dict[float, float] = {}
    for reach in (int(_REACH_CENTS / _STEP_CENTS), 2, 2):  # ever finer about the best so far
        for k in range(-reach, reach + 1):
            at = best + k * step
            if at not in energy:
                energy[at] = explained(at)
        best = max(energy, key=lambda at: energy[at])
        step /= 3.0
    step *= 3.0
    a, b, c = (energy.get(best + k * step) or explained(best + k * step) for k in (-1.0, 0.0, 1.0))
    bend = (a - 2.0 * b + c) / step**2
    if bend >= 0.0:
        return None
    cents = best + 0.5 * (a - c) / (a - 2.0 * b + c) * step
    left = max(total - b, 1e-12 * total)
    share = 1.0 - left / total
    if share < _LEAST_SHARE:
        return None
    # variance of the estimate: noise power per sample over the energy's curvature
    noise = left / (len(y) * float(np.mean(taper**2)))
    sd = float(np.sqrt(2.0 * noise * float(np.mean(taper**2)) / -bend))
    return Mixed(cents=cents, sd_cents=sd, share=share)


def _partials(f_hz: float, rate_hz: int) -> Floats:
    """Partials of a fundamental, radians a sample."""
    count = max(1, min(_N_PARTIALS, int(0.42 * rate_hz / f_hz)))
    return 2.0 * np.pi * f_hz / rate_hz * np.arange(1, count + 1)


def _seen(weighed: Floats, place: Floats, partials: Floats) -> NDArray[np.complex128]:
    """What sound has in common with cosines (real) and sines (imaginary) of the partials."""
    result = np.empty(len(partials), dtype=np.complex128)
    if not len(partials):
        return result
    blocks = np.exp(1j * partials[0] * place[::_BLOCK])  # far fewer than samples
    steps = np.exp(1j * partials[0] * np.arange(_BLOCK))
    turn = np.outer(blocks, steps).ravel()[: len(place)]
    wave = weighed.astype(np.complex128)
    for k in range(len(partials)):
        wave = wave * turn
        result[k] = wave.sum()
    return result


def _common(turns: Floats, n: int) -> Floats:
    """Sum of the squared taper times a cosine, in closed form.

    The square of a Hann window is three cosines, and the sum of a cosine over symmetric samples is
    Dirichlet's kernel.

    Parameters
    ----------
    turns : ndarray
        Radians a sample.
    n : int
        Samples of the window.
    """
    half = 0.5 * (turns + 2.0 * np.pi / (n + 1) * _AROUND.reshape(-1, *[1] * turns.ndim))
    under = np.sin(half)
    still = np.abs(under) < _STILL
    kernel = np.where(still, float(n), np.sin(n * half) / np.where(still, 1.0, under))
    return np.tensordot(_SHARES, kernel, axes=1)
