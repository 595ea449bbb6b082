"""Choosing the channel and mending what a file may hold."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jigwright.core.errors import AudioError
from jigwright.core.values import Floats

MAX_SECONDS = 3 * 3600
MOST_SAMPLE = 1e4  # 80 dB above full scale: no sound, and its powers would not fit
MIN_RATE_HZ, MAX_RATE_HZ = 4_000, 384_000


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Signal:
    """One channel, finite, ready to be analysed.

    Parameters
    ----------
    samples : ndarray of float32 or float64, shape (n,)
        Full scale ±1.
    rate_hz : int
    n_channels, i_channel : int
    warnings : tuple of str
    """

    samples: Floats
    rate_hz: int
    n_channels: int
    i_channel: int
    warnings: tuple[str, ...]


def choose_signal(samples: Floats, rate_hz: int) -> Signal:
    """Mend non-finite samples and choose the channel with the best signal to noise.

    Channels are never summed: two microphones in opposite phase would cancel.

    Parameters
    ----------
    samples : ndarray, shape (n,) or (n, channels)
    rate_hz : int

    Raises
    ------
    AudioError
        If there is nothing to analyse or the rate is out of range.
    """
    data = np.asarray(samples)
    if data.dtype not in (np.float32, np.float64):
        data = data.astype(np.float64)
    if data.ndim == 1:
        data = data[:, None]
    if data.shape[0] == 0:
        raise AudioError("empty", "the file holds no samples")
    if not MIN_RATE_HZ <= rate_hz <= MAX_RATE_HZ:
        raise AudioError("rate", f"{rate_hz} Hz (4 kHz to 384 kHz can be used)")
    if data.shape[0] > MAX_SECONDS * rate_hz:
        raise AudioError("too_long", f"{data.shape[0] / rate_hz / 3600:.1f} hours (at most 3)")
    warnings: list[str] = []
    usable = np.abs(data) <= MOST_SAMPLE  # false for NaN, too
    if not usable.all():
        warnings.append("repaired_samples")
        data = np.where(usable, data, data.dtype.type(0.0))
    power = np.array([_power(data[:, c]) for c in range(data.shape[1])])
    if data.shape[1] > 1 and np.any(power < 1e-9 * max(float(power.max()), 1e-30)):
        warnings.append("dead_channel")
    i_channel = int(
        np.argmax([_signal_to_noise(data[:, c], rate_hz) for c in range(data.shape[1])])
    )
    chosen = np.ascontiguousarray(data[:, i_channel])
    peak = float(max(chosen.max(), -chosen.min()))
    if peak > 0 and _clipped(chosen, peak):
        warnings.append("clipped")
    if 0 < peak < 0.003:
        warnings.append("very_quiet")
    return Signal(
        samples=chosen,
        rate_hz=rate_hz,
        n_channels=data.shape[1],
        i_channel=i_channel,
        warnings=tuple(warnings),
    )


def _power(x: Floats) -> float:
    return float(np.vdot(x, x)) / len(x)


def _signal_to_noise(x: Floats, rate_hz: int) -> float:
    block = max(1, rate_hz // 20)
    n = len(x) // block
    if n < 2:
        return _power(x)
    blocks = x[: n * block].reshape(n, block)
    rms = np.sqrt(np.einsum("ij,ij->i", blocks, blocks) / block) + 1e-7
    loud, quiet = np.percentile(rms, [90, 10])
    return float(loud / quiet + 1e-3 * loud)


def _clipped(x: Floats, peak: float) -> bool:
    if peak < 0.5:
        return False
    limit = peak * 0.9999
    flat = (x >= limit) | (x <= -limit)
    runs = flat[:-2] & flat[1:-1] & flat[2:]
    return int(np.count_nonzero(runs)) > 10
