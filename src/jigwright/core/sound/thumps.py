"""Thumps: a foot, a chair, a stand that was knocked against.

Below the lowest string there is little of a bow; what strikes the floor is nearly all there and is
over within a tenth of a second. A fall of a finger or of the bow is heard there too, far softer.
They are told and take no note away: a foot that beats time falls on the notes.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy import signal

from jigwright.core.sound.heard import THUMPS
from jigwright.core.values import Floats

_ENOUGH_HZ = 2000
_LOW_HZ, _BELOW_STRING, _LEAST_WIDTH_HZ = 25.0, 0.55, 8.0
_HOP_S, _WINDOW_S = 0.01, 0.03
_ALONE_S, _AROUND_S, _EDGE_S = 0.15, 0.6, 0.3
_RISES_DB, _LOUD_DB, _SILENCE_DB = 28.0, -10.0, -45.0
_SHORT_S, _STILL_DB = 0.14, 6.0
_CUT_FRAMES = 3
_RUMBLES_DB, _LOUD_RUMBLE_DB = 20.0, -13.0  # above what is usual there; re the whole sound
MOST = 8
"""Of one take that are told."""


def find_thumps(samples: Floats, rate_hz: int, lowest_hz: float) -> tuple[float, ...]:
    """When something thumped, in seconds; the loudest, in time order.

    Parameters
    ----------
    samples : ndarray, shape (n,)
    rate_hz : int
    lowest_hz : float
        Of the lowest open string; under a bass there is no room for it.
    """
    read = _low_levels(samples, rate_hz, lowest_hz)
    if read is None:
        return ()
    level, whole_db = read
    alone, edge = round(_ALONE_S / _HOP_S), round(_EDGE_S / _HOP_S)
    around = round(_AROUND_S / _HOP_S)
    found: list[tuple[float, float]] = []
    for i in range(edge, len(level) - edge):
        if level[i] < whole_db + _LOUD_DB or level[i] < np.max(level[i - alone : i + alone + 1]):
            continue
        usual = float(np.median(level[max(0, i - around) : i + around + 1]))
        lasts = np.count_nonzero(level[i - alone : i + alone + 10] > level[i] - _STILL_DB)
        rises = level[i] - max(usual, whole_db + _SILENCE_DB)
        if rises >= _RISES_DB and lasts * _HOP_S <= _SHORT_S:
            found.append((float(level[i]), i * _HOP_S + 0.5 * _WINDOW_S))
    loudest = sorted(found, reverse=True)[:MOST]
    return tuple(sorted(at_s for _, at_s in loudest))


def find_rumbles(
    samples: Floats, rate_hz: int, lowest_hz: float
) -> tuple[tuple[float, float], ...]:
    """When something sounds loudly below the lowest string now and then, from when until when, s.

    Thumps with their tails, a chair that is pulled, steps. Parameters as :func:`find_thumps`.
    """
    read = _low_levels(samples, rate_hz, lowest_hz)
    if read is None:
        return ()
    level, whole_db = read
    least_db = max(float(np.median(level)) + _RUMBLES_DB, whole_db + _LOUD_RUMBLE_DB)
    loud = np.concatenate([[False], level > least_db, [False]])
    loud[: _CUT_FRAMES + 1] = loud[-_CUT_FRAMES - 1 :] = False  # a sound cut off rings there
    edges = np.flatnonzero(loud[1:] != loud[:-1])
    return tuple(
        (a * _HOP_S, (b - 1) * _HOP_S + _WINDOW_S)
        for a, b in zip(edges[::2], edges[1::2], strict=True)
    )


def _low_levels(samples: Floats, rate_hz: int, lowest_hz: float) -> tuple[Floats, float] | None:
    """Level below the lowest string every 10 ms, and that of all of it, dB."""
    high_hz = _BELOW_STRING * lowest_hz
    if high_hz - _LOW_HZ < _LEAST_WIDTH_HZ or len(samples) < rate_hz:
        return None
    k = max(1, rate_hz // _ENOUGH_HZ)
    n = len(samples) // k
    low = np.asarray(samples[: n * k], dtype=np.float64).reshape(n, k).mean(axis=1)
    rate = rate_hz / k
    sections = signal.butter(4, [_LOW_HZ, high_hz], "band", fs=rate, output="sos")
    whole_db = 10.0 * float(np.log10(np.mean(np.square(samples)) + 1e-14))
    return _levels_db(signal.sosfiltfilt(sections, low), rate), whole_db


def _levels_db(x: Floats, rate: float) -> Floats:
    hop, width = round(_HOP_S * rate), round(_WINDOW_S * rate)
    frames = np.lib.stride_tricks.sliding_window_view(x, width)[::hop]
    return np.asarray(10.0 * np.log10(np.mean(np.square(frames), axis=1) + 1e-14))


def thumps_code(at_s: Sequence[float]) -> tuple[str, ...]:
    """What is kept of them with what was heard."""
    return (":".join([THUMPS, *(f"{t:.2f}" for t in at_s)]),) if at_s else ()
