"""Take a leaking drone out of a recording.

The drone is ours, so its partials are known to the sample; what the room and the loudspeaker made
of them is one complex factor for each. It is estimated on windows over the whole take by least
squares; the window values that the playing disturbs least (the median of real and imaginary parts)
give the factor, followed slowly because a player moves. The sum of the partials is subtracted. A
note on the drone's own pitch keeps its sound: only the steady, phase-true share goes.

Limits: the loudspeaker and the microphone must run on one clock to within about 20 parts in a
million over the followed span; a drone louder than the playing leaves a residue.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from jigwright.core.values import Floats

_WINDOW_S = 0.25
_FOLLOW_S = 8.0
_LOWEST_STEP_HZ = 8.0


def remove_drone(x: Floats, rate_hz: int, partials_hz: Sequence[float]) -> NDArray[np.float32]:
    """Subtract a drone of known partials.

    Parameters
    ----------
    x : ndarray, shape (n,)
        Sound at its native rate.
    rate_hz : int
    partials_hz : sequence of float
        Exact frequencies of the drone's partials; those nearer than 8 Hz are taken as one.

    Returns
    -------
    ndarray of float32, shape (n,)
    """
    signal = np.asarray(x, dtype=np.float64)
    wanted = _apart([f for f in partials_hz if 0.0 < f < 0.45 * rate_hz])
    n_window = round(_WINDOW_S * rate_hz)
    n_windows = len(signal) // n_window
    if not wanted or n_windows < 4:
        return signal.astype(np.float32)
    taper = np.hanning(n_window)
    taper /= taper.sum()
    blocks = signal[: n_windows * n_window].reshape(n_windows, n_window)
    left = signal.copy()
    t = np.arange(len(signal)) / rate_hz
    around = max(2, round(_FOLLOW_S / _WINDOW_S / 2))
    middles = (np.arange(n_windows) + 0.5) * n_window
    for f_hz in wanted:
        turn = np.exp(-2j * np.pi * f_hz * t)
        part = turn[: n_windows * n_window].reshape(n_windows, n_window)
        factor = 2.0 * np.sum(blocks * taper * part, axis=1)
        steady = _running_median(factor, around)
        at = np.arange(len(signal))
        envelope = np.interp(at, middles, steady.real) + 1j * np.interp(at, middles, steady.imag)
        left -= np.real(envelope * np.conj(turn))
    return left.astype(np.float32)


def _apart(partials_hz: Sequence[float]) -> list[float]:
    kept: list[float] = []
    for f in sorted(partials_hz):
        if not kept or f - kept[-1] > _LOWEST_STEP_HZ:
            kept.append(f)
    return kept


def _running_median(values: NDArray[np.complex128], around: int) -> NDArray[np.complex128]:
    padded = np.pad(values, around, mode="reflect" if len(values) > around else "edge")
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * around + 1)
    return np.asarray(np.median(windows.real, axis=1) + 1j * np.median(windows.imag, axis=1))
