"""The sound that measures the way from loudspeaker to microphone.

A few short swept sines (Farina 2000: a sweep carries much energy and its matched filter is one
sharp peak) at uneven distances, so that only the true delay lines all of them up.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jigwright.core.values import Floats

SWEEPS_AT_S = (0.0, 0.31, 0.55, 1.02)
_SWEEP_S = 0.06
_FROM_HZ, _TO_HZ = 400.0, 6000.0
_LEVEL = 0.16
PROBE_S = SWEEPS_AT_S[-1] + _SWEEP_S


@dataclass(frozen=True, slots=True, kw_only=True)
class LoopDelay:
    """Seconds from handing a sample to the loudspeaker until it is in the recording.

    Parameters
    ----------
    seconds, uncertainty_s : float
        The second is half the 95 % range, from the sweeps one by one.
    """

    seconds: float
    uncertainty_s: float


def probe(rate_hz: int) -> Floats:
    """The sound to play; moderate, each sweep with soft edges.

    Returns
    -------
    ndarray of float32, shape (n,)
    """
    out: Floats = np.zeros(round(PROBE_S * rate_hz) + 1, dtype=np.float32)
    one = sweep(rate_hz)
    for at_s in SWEEPS_AT_S:
        at = round(at_s * rate_hz)
        out[at : at + len(one)] += one[: len(out) - at]
    return out


def sweep(rate_hz: int) -> Floats:
    """One of its sweeps, float32."""
    t = np.arange(round(_SWEEP_S * rate_hz)) / rate_hz
    growth = np.log(_TO_HZ / _FROM_HZ) / _SWEEP_S
    phase = 2 * np.pi * _FROM_HZ * (np.exp(growth * t) - 1.0) / growth
    return np.asarray(_LEVEL * np.sin(phase) * np.hanning(len(t) + 2)[1:-1], dtype=np.float32)
