"""Onsets put where the note's own pitch comes to sound.

In a room the period of the mixture stays that of the note before until the new one leads, and the
contour goes over as much as a sixth of a second late. How strongly the new pitch sounds
(:mod:`activations`) rises when it is bowed: where that was clearly sooner, the note began there,
and until the contour shows it it was covered. An onset is never put later, and never into another
note of its own pitch.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from jigwright.core.sound.heard import Segment
from jigwright.core.sound.written_rises import Risen

_FAR_S = 0.2
_NEAR_WINDOWS, _NEAR_S = 0.65, 0.045  # a slur shows half a window before it is there
_LEAST_RISE = 0.1
_SAME_CENTS = 60.0
_AFTER_S = 0.04  # of the onset of the note before


def placed_by_rises(segments: Sequence[Segment], risen: Risen) -> tuple[Segment, ...]:
    """The same with the onsets of late ones where their pitch rises.

    Parameters
    ----------
    segments : sequence of Segment
        In time order.
    risen : Risen
    """
    near_s = max(_NEAR_S, _NEAR_WINDOWS * risen.sounding.window_s)
    result: list[Segment] = []
    for s in segments:
        begins_s = _begins_s(s, result, risen, near_s)
        if begins_s is None:
            result.append(s)
            continue
        if result and begins_s < result[-1].offset_s <= s.onset_s + near_s:
            result[-1] = _ended(result[-1], begins_s)
        result.append(
            replace(s, onset_s=begins_s, covered_s=max(s.covered_s, 0.0) + s.onset_s - begins_s)
        )
    return tuple(result)


def _begins_s(s: Segment, before: Sequence[Segment], risen: Risen, near_s: float) -> float | None:
    lo_s = s.onset_s - _FAR_S
    if before:
        lo_s = max(lo_s, before[-1].onset_s + _AFTER_S)
    for q in reversed(before):
        if q.offset_s < lo_s:
            break
        if _cents(q.f0_hz, s.f0_hz) < _SAME_CENTS:
            lo_s = max(lo_s, q.offset_s)
    found = [
        r
        for r in risen.rises
        if lo_s <= r.onset_s <= s.onset_s - near_s
        and r.rise >= _LEAST_RISE
        and _cents(risen.sounding.pitches_hz[r.i_pitch], s.f0_hz) < _SAME_CENTS
    ]
    return max(found, key=lambda r: r.rise).onset_s if found else None


def _ended(s: Segment, end_s: float) -> Segment:
    core_end_s = min(s.core_end_s, end_s)
    return replace(
        s, offset_s=end_s, core_end_s=core_end_s, core_start_s=min(s.core_start_s, core_end_s)
    )


def _cents(a_hz: float, b_hz: float) -> float:
    return abs(1200.0 * float(np.log2(a_hz / b_hz)))
