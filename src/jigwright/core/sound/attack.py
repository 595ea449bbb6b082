"""When a note begins under the tail of the one before.

Where two notes overlap, the level never falls far enough to show the onset. The new note's own
partials, those that keep clear of the old note's, are demodulated and their summed energy is
followed back to 20 dB below its settled value; what the window smears is given back.
"""

from __future__ import annotations

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from jigwright.core.sound.partials import demodulate
from jigwright.core.values import Floats, median

_BLOCK_S = 0.00125
_THRESHOLD = 0.005  # 23 dB below the settled energy: the smoothing rounds the corner
_GIVE_BACK = 0.22
_RISES = 1.5  # times the least on the way back: what grows again is the note before


def _smoothing(m: int, width: int) -> NDArray[np.float32]:
    """Matrix that takes the tapered mean of ``width`` neighbours of each of ``m`` values."""
    band = np.zeros(2 * m - 1, dtype=np.float32)
    taper = np.hanning(width + 2)[1:-1]
    first = m - 1 - width // 2
    band[first : first + width] = taper / taper.sum()
    return sliding_window_view(band, m)[::-1]


def onset_by_partials(
    x: Floats, rate_hz: int, old_hz: float, new_hz: float, *, window_s: float
) -> float | None:
    """Seconds into ``x`` at which the new note sounds 20 dB below its own level.

    Parameters
    ----------
    x : ndarray
        From well inside the old note to at least 60 ms into the new one.
    rate_hz : int
    old_hz, new_hz : float
    window_s : float
        Length of the smoothing window.

    Returns
    -------
    float or None
        ``None`` when no partial keeps clear of the old note.
    """
    block = max(1, round(_BLOCK_S * rate_hz))
    m = len(x) // block
    width = max(3, round(window_s / _BLOCK_S))
    if m < 3 * width:
        return None
    clear = [
        h
        for h in range(1, 17)
        if h * new_hz < 0.42 * rate_hz
        and abs(h * new_hz / old_hz - round(h * new_hz / old_hz)) * old_hz > 1.6 / window_s
    ][:8]
    if len(clear) < 2:
        return None
    sums = demodulate(x, rate_hz, new_hz * np.array(clear), block)
    smooth = _smoothing(m, width) @ sums.view(np.float32)
    energy = np.einsum("ij,ij->i", smooth, smooth)
    settled = median(energy[-2 * width :])
    if settled <= 0:
        return None
    above = np.flatnonzero(energy[: m - width // 2] < 0.25 * settled)
    if not len(above) or above[-1] < width // 2:
        return None  # never soft inside what the smoothing covers: it sounds from the beginning
    at = lowest = int(above[-1])
    while at > 0 and energy[at] > _THRESHOLD * settled:
        at -= 1
        lowest = at if energy[at] < energy[lowest] else lowest
        if energy[at] > _RISES * energy[lowest]:
            at = lowest  # further back it is the old note that leaks into the window
            break
    if at == 0 or at <= width // 2:
        at = width // 2 + int(np.argmin(energy[width // 2 : int(above[-1]) + 1]))
    return (at + 0.5) * block / rate_hz + _GIVE_BACK * window_s
