"""Brightness and loudness of frames.

Loudness follows hearing: band energies one and a half ERB wide (Glasberg & Moore 1990), weighted by
a smooth version of the K curve of ITU-R BS.1770, compressed with the exponent 0.3 of Stevens's law
and summed. It is written in decibels of an equivalent level, so that 10 dB is about twice as loud.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from scipy import fft

from jigwright.core.values import Floats

_EXPONENT = 0.3
_BAND_ERB = 1.5
_SILENCE = 1e-13


def colour(windows: Floats, rate_hz: int) -> tuple[Floats, Floats]:
    """Spectral centroid in Hz and loudness in dB of each window.

    Parameters
    ----------
    windows : ndarray, shape (n, length)
    rate_hz : int

    Returns
    -------
    (ndarray, ndarray), shape (n,)
        The centroid is NaN in silence.
    """
    length = windows.shape[1]
    n_fft = fft.next_fast_len(length, real=True)
    taper, sums = _plan(length, n_fft, rate_hz)
    spectrum = fft.rfft(windows.astype(np.float32, copy=False) * taper, n_fft, axis=1)
    power = spectrum.real**2 + spectrum.imag**2
    total, moment, band = np.split((power @ sums).astype(np.float64), (1, 2), axis=1)
    total = total[:, 0]
    centroid = moment[:, 0] / np.maximum(total, 1e-20)
    band = np.maximum(band, 1e-14)
    loudness = 10 / _EXPONENT * np.log10(np.sum(band**_EXPONENT, axis=1))
    return np.where(total > _SILENCE, centroid, np.nan), loudness


@lru_cache(maxsize=8)
def _plan(length: int, n_fft: int, rate_hz: int) -> tuple[Floats, Floats]:
    """Taper, and the matrix from power to its sum, first moment and weighted bands."""
    taper = np.hanning(length)
    taper = taper / np.sqrt(np.sum(taper**2) * n_fft / 2)
    bins_hz = np.arange(n_fft // 2 + 1) * rate_hz / n_fft
    erb = 21.4 * np.log10(1 + 0.00437 * bins_hz)
    index = np.floor(erb / _BAND_ERB).astype(np.intp)
    bands = np.zeros((len(bins_hz), int(index.max()) + 1), dtype=np.float32)
    weight_db = 4.0 / (1.0 + (1500.0 / np.maximum(bins_hz, 1.0)) ** 2) - 10 * np.log10(
        1.0 + (40.0 / np.maximum(bins_hz, 1.0)) ** 4
    )
    bands[np.arange(len(bins_hz)), index] = 10 ** (weight_db / 10)
    sums = np.column_stack([np.ones_like(bins_hz), bins_hz, bands]).astype(np.float32)
    return taper.astype(np.float32), sums
