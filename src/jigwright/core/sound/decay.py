"""How long the room, or the instrument, keeps what has ended: read from the ends of notes.

After a note that silence follows, the level falls with the room. The time in which it falls by
20 dB says for how long the next note is still mixed with the one before. Where the fall meets the
noise sooner, it is continued along its first 10 dB.

In legato no silence follows. There the partials of the note before that keep clear of the next
note's are followed into it: the finger has stopped the string, and what still sounds at them is
the room's.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.values import Floats, median

FALL_DB = 20.0
_LEAST_FALL_DB = 10.0
_GAP_S = 0.25
_LONGEST_S = 1.5
_BACK_FRAMES, _QUIET_FRAMES = 60, 20
_JOINED_S, _LONG_S, _BEFORE_S = 0.06, 0.22, 0.12
_WINDOW_S, _PERIODS = 0.04, 6.0
_LEAST_PAIRS, _MOST_PAIRS = 3, 24


def tail_s(contours: Contours, segments: Sequence[Segment], noise_dbfs: float) -> float:
    """Seconds in which what has ended falls by 20 dB: the median over the ends of notes.

    Parameters
    ----------
    contours : Contours
    segments : sequence of Segment
        In time order.
    noise_dbfs : float

    Returns
    -------
    float
        NaN where no note ends into silence.
    """
    level = contours.level_db
    if len(level) >= _QUIET_FRAMES:
        # a take that is played from end to end has its noise only before and after
        quiet = np.convolve(level, np.ones(_QUIET_FRAMES) / _QUIET_FRAMES, "valid")
        noise_dbfs = min(noise_dbfs, float(quiet.min()))
    found = []
    for segment, after in zip(segments, [*segments[1:], None], strict=False):
        if after is not None and after.onset_s - segment.offset_s < _GAP_S:
            continue
        stop_s = after.onset_s if after is not None else len(level) * HOP_S
        begins = round(segment.onset_s / HOP_S)  # in a room the note seems to end in its own tail
        lo = max(begins, round(segment.offset_s / HOP_S) - _BACK_FRAMES)
        hi = min(len(level), round(min(stop_s, segment.offset_s + _LONGEST_S) / HOP_S) - 2)
        one = _fall_s(level[lo:hi], segment.level_dbfs, noise_dbfs)
        if np.isfinite(one):
            found.append(one)
    return median(np.array(found)) if found else float("nan")


def _fall_s(level_db: Floats, stood_db: float, noise_dbfs: float) -> float:
    """Time from 3 dB below a note's level to 20 dB further down."""
    gone = np.flatnonzero(level_db > stood_db - 3.0)
    if not len(level_db) or not len(gone):
        return float("nan")
    start = int(gone[-1])
    fall = stood_db - 3.0 - level_db[start:]
    reach_db = min(FALL_DB, stood_db - 3.0 - noise_dbfs - 6.0)
    if reach_db < _LEAST_FALL_DB:
        return float("nan")
    there = np.flatnonzero(fall >= reach_db)
    if not len(there):
        return float("nan")
    return float(there[0]) * HOP_S * FALL_DB / reach_db


def legato_tail_s(x: Floats, rate_hz: int, segments: Sequence[Segment]) -> float:
    """Seconds in which a note falls by 20 dB under the one that follows at once: the median.

    Parameters
    ----------
    x : ndarray
        Filtered sound.
    rate_hz : int
    segments : sequence of Segment
        In time order.

    Returns
    -------
    float
        NaN where fewer than three pairs of notes let it be seen.
    """
    found: list[float] = []
    for a, b in zip(segments, segments[1:], strict=False):
        joined = abs(b.onset_s - a.offset_s) < _JOINED_S and a.i_pair < 0 and b.i_pair < 0
        long = a.offset_s - a.onset_s > _LONG_S and b.offset_s - b.onset_s > _LONG_S
        if joined and long and len(found) < _MOST_PAIRS:
            one = _under_next_s(x, rate_hz, a, b)
            if one is not None:
                found.append(one)
    return median(np.array(found)) if len(found) >= _LEAST_PAIRS else float("nan")


def _under_next_s(x: Floats, rate_hz: int, a: Segment, b: Segment) -> float | None:
    window_s = max(_WINDOW_S, _PERIODS / a.f0_hz)
    clear = [
        h
        for h in range(1, 13)
        if h * a.f0_hz < 0.4 * rate_hz
        and abs(h * a.f0_hz / b.f0_hz - round(h * a.f0_hz / b.f0_hz)) * b.f0_hz > 2.5 / window_s
    ][:5]
    if len(clear) < 2:
        return None
    start_s = b.onset_s - _BEFORE_S - window_s
    stop_s = min(b.offset_s, b.onset_s + 0.8)
    lo, hi = max(0, round(start_s * rate_hz)), min(len(x), round(stop_s * rate_hz))
    t_s = np.arange(lo, hi) / rate_hz
    width = round(window_s * rate_hz)
    taper = np.hanning(width + 2)[1:-1]
    at = np.arange(max(0, (hi - lo - width) // (rate_hz // 200) + 1)) * (rate_hz // 200)
    if len(at) < 20:
        return None
    frames = np.lib.stride_tricks.sliding_window_view(x[lo:hi], width)[at] * taper
    angle = 2.0 * np.pi * a.f0_hz / rate_hz * np.outer(np.arange(width), clear)
    power = np.sum((frames @ np.cos(angle)) ** 2 + (frames @ np.sin(angle)) ** 2, axis=1)
    level = 10.0 * np.log10(power + 1e-20)
    middle_s = t_s[0] + (at + 0.5 * width) / rate_hz - b.onset_s
    before = level[middle_s < -0.5 * window_s]
    after, after_s = level[middle_s >= 0.0], middle_s[middle_s >= 0.0]
    if len(before) < 4 or len(after) < 10:
        return None
    fall = median(before) - after
    there = np.flatnonzero(fall >= FALL_DB)
    if len(there):
        return float(after_s[there[0]])
    reach = float(fall[-5:].mean())
    if reach < _LEAST_FALL_DB:
        return float(after_s[-1])  # at least so long
    return float(after_s[np.flatnonzero(fall >= _LEAST_FALL_DB)[0]]) * FALL_DB / _LEAST_FALL_DB
