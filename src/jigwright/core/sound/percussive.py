"""What rises in many bands and is over at once: a knock, a tick, the hard beginning of a note.

Medians along time part what lasts from what strikes (Fitzgerald 2010).
"""

from __future__ import annotations

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray
from scipy import fft as sp_fft
from scipy import ndimage

from jigwright.core.values import Floats

LOWEST_HZ, HIGHEST_HZ = 600.0, 9000.0
HIGHEST_SHARE = 0.45  # of the rate
_WINDOW_S, _HOP_S = 0.0107, 0.005
_BANDS = 12
_AROUND_S = 0.12  # what lasts longer is a tone
_MOST_RISE_DB = 15.0  # one knock does not outweigh all others
_AT_ONCE = 4096


def hop_samples(rate_hz: int) -> int:
    """Step of :func:`band_levels`."""
    return max(1, round(_HOP_S * rate_hz))


def band_levels(x: Floats, rate_hz: int) -> NDArray[np.float32]:
    """Level of a dozen bands every five milliseconds.

    Parameters
    ----------
    x : ndarray, shape (n,)
    rate_hz : int

    Returns
    -------
    ndarray, shape (n_frames, n_bands)
        dB.
    """
    n = sp_fft.prev_fast_len(max(16, round(_WINDOW_S * rate_hz)), real=True)
    f_hz = np.fft.rfftfreq(n, 1.0 / rate_hz)
    edges = np.geomspace(LOWEST_HZ, min(HIGHEST_HZ, HIGHEST_SHARE * rate_hz), _BANDS + 1)
    band = np.digitize(f_hz, edges) - 1
    used = [b for b in range(_BANDS) if np.any(band == b)]
    starts = [int(np.flatnonzero(band == b)[0]) for b in used]
    stop = int(np.flatnonzero(band == used[-1])[-1]) + 1
    if len(x) < n:
        return np.zeros((0, len(used)), dtype=np.float32)
    window = np.hanning(n + 2)[1:-1]
    frames = sliding_window_view(x, n)[:: hop_samples(rate_hz)]
    level = np.empty((len(frames), len(used)), dtype=np.float32)
    for i in range(0, len(frames), _AT_ONCE):
        power = np.abs(sp_fft.rfft(frames[i : i + _AT_ONCE] * window, axis=1)) ** 2
        level[i : i + _AT_ONCE] = 10.0 * np.log10(
            np.add.reduceat(power[:, :stop], starts, axis=1) + 1e-12
        )
    return level


def stands_out_db(level: NDArray[np.float32]) -> Floats:
    """How much of the spectrum stands out for a moment.

    Parameters
    ----------
    level : ndarray, shape (n_frames, n_bands)
        As :func:`band_levels` gives it.

    Returns
    -------
    ndarray, shape (n_frames,)
        Mean over bands of the rise above their median around, dB.
    """
    around = max(3, round(_AROUND_S / _HOP_S) | 1)
    usual = ndimage.median_filter(level, size=(around, 1), mode="nearest")
    return np.asarray(np.clip(level - usual, 0.0, _MOST_RISE_DB).mean(axis=1), dtype=np.float64)
