"""Slower at the same pitch: a phase-locked vocoder.

After Laroche & Dolson (1999), identity phase locking: phases are carried forward at spectral peaks
and the bins around each peak keep their phase relation to it, which keeps vibrato and attacks
whole.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

_WINDOW = 4096
_HOP = 512


def stretch(samples: NDArray[np.float32], factor: float) -> NDArray[np.float32]:
    """Make a sound ``factor`` times as long.

    Parameters
    ----------
    samples : ndarray, shape (n,)
        Mono at 44.1 or 48 kHz.
    factor : float
        1 … 4; 1 returns the sound itself.

    Returns
    -------
    ndarray of float32, shape (about n * factor,)
    """
    if not 1.0 <= factor <= 4.0:
        raise ValueError(f"a factor between 1 and 4 is meant, got {factor:g}")
    if factor == 1.0 or len(samples) < _WINDOW:
        return np.asarray(samples, dtype=np.float32)
    window = np.hanning(_WINDOW + 1)[:-1]
    padded = np.concatenate([np.zeros(_WINDOW // 2), samples, np.zeros(_WINDOW)])
    n_out = int(len(samples) * factor / _HOP)
    out = np.zeros(n_out * _HOP + 2 * _WINDOW)
    norm = np.zeros_like(out)
    carried = np.zeros(_WINDOW // 2 + 1)
    omega = 2 * np.pi * np.arange(_WINDOW // 2 + 1) / _WINDOW
    last: NDArray[np.float64] | None = None
    for k in range(n_out):
        at = int(k * _HOP / factor)
        if at + _WINDOW > len(padded):
            break
        spectrum = np.fft.rfft(window * padded[at : at + _WINDOW])
        magnitude, phase = np.abs(spectrum), np.angle(spectrum)
        if last is None:
            carried = phase
        else:
            before = np.angle(np.fft.rfft(window * padded[max(0, at - _HOP) :][:_WINDOW]))
            turn = phase - before - omega * _HOP
            turn -= 2 * np.pi * np.round(turn / (2 * np.pi))
            carried = _locked(magnitude, phase, last + omega * _HOP + turn)
        last = carried
        frame = np.fft.irfft(magnitude * np.exp(1j * carried)) * window
        out[k * _HOP : k * _HOP + _WINDOW] += frame
        norm[k * _HOP : k * _HOP + _WINDOW] += window**2
    out /= np.maximum(norm, 0.1)
    start = _WINDOW // 2
    return np.asarray(out[start : start + int(len(samples) * factor)], dtype=np.float32)


def _locked(
    magnitude: NDArray[np.float64], phase: NDArray[np.float64], carried: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Give every bin the carried phase of its peak plus its own distance from it."""
    inner = magnitude[2:-2]
    peak = (inner > magnitude[1:-3]) & (inner > magnitude[3:-1])
    peak &= (inner > magnitude[:-4]) & (inner > magnitude[4:])
    peaks = np.flatnonzero(peak) + 2
    if not len(peaks):
        return carried
    edges = (peaks[:-1] + peaks[1:] + 1) // 2
    owner = peaks[np.searchsorted(edges, np.arange(len(magnitude)), side="right")]
    return np.asarray(carried[owner] + phase - phase[owner])
