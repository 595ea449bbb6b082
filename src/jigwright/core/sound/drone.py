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


def remove_drone(
    x: Floats, rate_hz: int, partials_hz: Sequence[float], *, follow_s: float = _FOLLOW_S
) -> NDArray[np.float32]:
    """Subtract a drone of known partials.

    Parameters
    ----------
    x : ndarray, shape (n,)
        Sound at its native rate.
    rate_hz : int
    partials_hz : sequence of float
        Exact frequencies of the drone's partials; those nearer than 8 Hz are taken as one.
    follow_s : float
        Span over which the way from loudspeaker to microphone counts as unchanged.

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
    around = max(2, min(round(follow_s / _WINDOW_S / 2), n_windows - 1))
    inside = np.arange(n_window)
    half = n_window // 2
    rest = len(signal) - (n_windows - 1) * n_window - half
    for f_hz in wanted:
        turn = np.exp(-2j * np.pi * f_hz / rate_hz * inside)
        ahead = np.exp(-2j * np.pi * f_hz / rate_hz * n_window * np.arange(n_windows))
        factor = 2.0 * ahead * (blocks @ (taper * turn))
        steady = _running_median(factor, around)
        # constant to the middle of the first window, then straight from middle to middle
        left[:half] -= np.real(steady[0] * np.conj(turn[:half]))
        begin = np.exp(-2j * np.pi * f_hz / rate_hz * half)
        between = left[half : half + (n_windows - 1) * n_window].reshape(-1, n_window)
        wave = np.conj(begin * turn)
        first = (steady[:-1] * np.conj(ahead[:-1]))[:, None]
        rise = (np.diff(steady) * np.conj(ahead[:-1]))[:, None]
        between -= np.real(first * wave) + np.real(rise * (wave * (inside / n_window)))
        last = half + (n_windows - 1) * n_window
        end = np.exp(2j * np.pi * f_hz / rate_hz * (last + np.arange(rest)))
        left[last:] -= np.real(steady[-1] * end)
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
