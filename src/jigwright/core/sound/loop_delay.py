"""Finding the probe of the way from loudspeaker to microphone in a recording."""

from __future__ import annotations

import numpy as np
from scipy import fft

from jigwright.core.delay_sweep import PROBE_S, SWEEPS_AT_S, LoopDelay, sweep
from jigwright.core.values import Floats, Unmeasured, median

LONGEST_S = 1.5
_LEAST_CLEAR = 8.0
_MOST_APART_S = 0.002


def find_delay(recorded: Floats, rate_hz: int, played_at_s: float) -> LoopDelay | Unmeasured:
    """Find the probe in a recording.

    Parameters
    ----------
    recorded : ndarray, shape (n,)
    rate_hz : int
    played_at_s : float
        When the probe's first sample was handed over, in seconds of the recording.

    Returns
    -------
    LoopDelay or Unmeasured
        Reasons: ``too_short``; ``not_heard`` when no place lines all sweeps up clearly.
    """
    one = sweep(rate_hz).astype(np.float64)
    first = max(0, round(played_at_s * rate_hz))
    x = np.asarray(recorded[first : first + round((PROBE_S + LONGEST_S) * rate_hz)], dtype=float)
    n_lags = len(x) - round(PROBE_S * rate_hz)
    if n_lags < round(0.1 * rate_hz):
        return Unmeasured("too_short")
    n_fft = fft.next_fast_len(len(x) + len(one), real=True)
    matched = fft.irfft(fft.rfft(x, n_fft) * np.conj(fft.rfft(one, n_fft)), n_fft)[: len(x)]
    strength = _envelope(matched)
    rows = [strength[round(a * rate_hz) :][:n_lags] for a in SWEEPS_AT_S]
    together = np.min(rows, axis=0)  # a clap or a note lines one of them up, not all
    at = int(np.argmax(together))
    if together[at] <= _LEAST_CLEAR * median(together) or together[at] <= 0:
        return Unmeasured("not_heard")
    reach = round(0.01 * rate_hz)
    lo, hi = max(0, at - reach), at + reach + 1
    own = np.array([lo + int(np.argmax(row[lo:hi])) for row in rows]) / rate_hz
    if np.ptp(own) > _MOST_APART_S:
        return Unmeasured("not_heard")
    spread_s = float(np.std(own, ddof=1)) / np.sqrt(len(own))
    return LoopDelay(
        seconds=float(np.mean(own)) + first / rate_hz - played_at_s,
        uncertainty_s=2.0 * spread_s + 1.0 / rate_hz,
    )


def _envelope(x: Floats) -> Floats:
    """Magnitude of the analytic signal."""
    n = len(x)
    spectrum = fft.fft(x)
    spectrum[n // 2 + 1 :] = 0.0
    spectrum[1 : n // 2] *= 2.0
    return np.abs(fft.ifft(spectrum))
