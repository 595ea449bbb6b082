"""A tone to tune to: a harmonic sound at a moderate level with soft edges."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jigwright.core.values import Floats

RATE_HZ = 48_000
_LINE_EDGE_S = 0.03
_PEAK = 0.12


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ToneLine:
    """One note of a line.

    Parameters
    ----------
    onset_s, offset_s : float
    times_s, track_hz : ndarray, shape (m,)
        Its pitch; held before the first and after the last.
    """

    onset_s: float
    offset_s: float
    times_s: Floats
    track_hz: Floats


def line_tones(notes: Sequence[ToneLine]) -> NDArray[np.float32]:
    """Notes one after the other as plain tones, the first at once.

    Parameters
    ----------
    notes : sequence of ToneLine
        In time order; one that is still on when the next begins gives way.

    Returns
    -------
    ndarray of float32, shape (n,)
        At 48 kHz, peak about 0.12 of full scale; empty without notes.
    """
    if not notes:
        return np.zeros(0, dtype=np.float32)
    zero_s = notes[0].onset_s
    out = np.zeros(round((max(n.offset_s for n in notes) - zero_s) * RATE_HZ), dtype=np.float32)
    for one, after in zip(notes, [*notes[1:], None], strict=True):
        end_s = one.offset_s if after is None else min(one.offset_s, after.onset_s)
        first, last = (round((t - zero_s) * RATE_HZ) for t in (one.onset_s, end_s))
        if last - first < 2:
            continue
        t_s = one.onset_s + np.arange(last - first) / RATE_HZ
        phase = 2 * np.pi * np.cumsum(np.interp(t_s, one.times_s, one.track_hz)) / RATE_HZ
        highest = float(np.max(one.track_hz))
        out[first:last] = _edged(_series(phase, highest), _LINE_EDGE_S)
    return out


def _series(phase: Floats, f_hz: float) -> Floats:
    total = np.zeros(len(phase))
    for k in range(1, 9):
        if k * f_hz < 0.45 * RATE_HZ:
            total += np.sin(k * phase) / k
    return _PEAK * total / 1.7


def _edged(sound: Floats, edge_s: float) -> Floats:
    t_s = np.arange(len(sound)) / RATE_HZ
    edge = np.clip(np.minimum(t_s, t_s[::-1]) / edge_s, 0.0, 1.0)
    return np.asarray(sound * np.sin(0.5 * np.pi * edge) ** 2)


def target_tone(f_hz: float, length_s: float) -> NDArray[np.float32]:
    """Return a tone of eight partials falling as 1/n, faded in and out over 60 ms.

    Parameters
    ----------
    f_hz : float
    length_s : float
        Seconds, 0.1 … 30.

    Returns
    -------
    ndarray of float32, shape (n,)
        At 48 kHz, peak about 0.12 of full scale.
    """
    n = round(min(max(length_s, 0.1), 30.0) * RATE_HZ)
    phase = 2 * np.pi * f_hz * np.arange(n) / RATE_HZ
    return np.asarray(_edged(_series(phase, f_hz), 0.06), dtype=np.float32)
