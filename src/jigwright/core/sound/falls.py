"""Where the level falls inside a note, and whether all of the sound does.

A bow that loses the string lets every partial fall at once; a vibrato, a slide over the body's
resonances or the beating of a room takes the level from some of them and gives it to others.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jigwright.core.sound.continuity import fall_together_db
from jigwright.core.sound.heard import HOP_S, Fall, Segment
from jigwright.core.sound.measure_segment import Take
from jigwright.core.values import percentiles

_EDGE_S = 0.08
_AROUND_FRAMES = 30
_LEAST_DB = 5.0
_SAME_CENTS, _BROKEN_S, _NEAR_S = 60.0, 0.1, 0.03


def find_falls(take: Take, segments: Sequence[Segment]) -> tuple[Fall, ...]:
    """Look at every dip of the level inside a note, and where one note was heard as two.

    Parameters
    ----------
    take : Take
    segments : sequence of Segment
        Single notes are looked into.

    Returns
    -------
    tuple of Fall
        In time order.
    """
    level = take.contours.level_db
    found: list[Fall] = []
    for s in segments:
        lo = round((s.onset_s + _EDGE_S) / HOP_S)
        hi = min(len(level), round((s.offset_s - _EDGE_S) / HOP_S))
        if s.i_pair >= 0 or hi - lo < 8:
            continue
        for i in range(lo, hi):
            a, b = max(lo, i - _AROUND_FRAMES), min(hi, i + _AROUND_FRAMES + 1)
            if level[i] > level[a:b].min() or (found and i * HOP_S - found[-1].time_s < 0.02):
                continue
            sides = (percentiles(level[a : i + 1], 80)[0], percentiles(level[i:b], 80)[0])
            if min(sides) - float(level[i]) < _LEAST_DB:
                continue
            found.append(_fall(take, i))
    for s, after in zip(segments, segments[1:], strict=False):
        if is_broken(s, after):
            lo = max(0, round((s.offset_s - _NEAR_S) / HOP_S))
            hi = min(len(level), round((after.onset_s + _NEAR_S) / HOP_S))
            if hi > lo:
                found.append(_fall(take, lo + int(np.argmin(level[lo:hi]))))
    return tuple(sorted(found, key=lambda f: f.time_s))


def is_broken(before: Segment, after: Segment, *, gap_s: float = _BROKEN_S) -> bool:
    """Whether two neighbours may be one note that broke: the same pitch, and hardly a gap."""
    apart = abs(1200.0 * np.log2(after.f0_hz / before.f0_hz))
    return bool(apart < _SAME_CENTS and after.onset_s - before.offset_s < gap_s)


def _fall(take: Take, i: int) -> Fall:
    fall_db = fall_together_db(take.x, take.rate_hz, take.hop_samples, take.contours.f0_hz, i)
    return Fall(time_s=i * HOP_S, together_db=float(np.round(fall_db, 2)))
