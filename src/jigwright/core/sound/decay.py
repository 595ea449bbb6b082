"""How long the room, or the instrument, keeps what has ended: read from the ends of notes.

After a note that silence follows, the level falls with the room. The time in which it falls by
20 dB says for how long the next note is still mixed with the one before. Where the fall meets the
noise sooner, it is continued along its first 10 dB.
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
_BACK_FRAMES = 12


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
    found = []
    for segment, after in zip(segments, [*segments[1:], None], strict=False):
        if after is not None and after.onset_s - segment.offset_s < _GAP_S:
            continue
        stop_s = after.onset_s if after is not None else len(level) * HOP_S
        lo = max(0, round(segment.offset_s / HOP_S) - _BACK_FRAMES)
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
