"""Ranges of pitches as wide as a room makes them.

A range says how well the sound that was there tells its pitch; in a room that sound is the
player's and what comes back of it, and the pitch of the sum lies further from the player's than its
own scatter says. By how much was found on 2,073 notes of the simulated player in rooms (T60 0.3 …
1.5 s, direct to reverb +8 … -6 dB), through microphones and in noise: with it 94 % lie inside
(86 % without), dry 95 % as before.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from jigwright.core.sound.heard import Pair, Segment
from jigwright.core.values import Floats, median

ROOM_S = 0.07  # notes that die away more slowly say that there is a room
_ROOM_UNCLEAR = 0.004  # where none was seen to, a period that is never the same again does
_CLEAR = 0.98
_CLEAR_FACTOR, _UNCLEAR_FACTOR = 1.6, 2.2
_FEWEST = 3
_WAVERS_CENTS, _PER_WAVER = 1.5, 1.1  # of a stop's voice: 86 → 95 % of 208 in rooms lie inside


def is_room(segments: Sequence[Segment], tail_s: float) -> bool:
    """Whether what was heard came through a room.

    Parameters
    ----------
    segments : sequence of Segment
    tail_s : float
        How long notes linger; NaN when that was not seen.
    """
    if np.isfinite(tail_s):
        return tail_s > ROOM_S
    if len(segments) < _FEWEST:
        return False
    return 1.0 - median(np.array([s.clarity for s in segments])) > _ROOM_UNCLEAR


def widened(segments: Sequence[Segment], tail_s: float) -> tuple[Segment, ...]:
    """The same with the ranges that a room leaves.

    Parameters
    ----------
    segments : sequence of Segment
    tail_s : float
    """
    if not is_room(segments, tail_s):
        return tuple(segments)
    return tuple(
        replace(s, uncertainty_cents=s.uncertainty_cents * _factor(s)) if s.i_pair < 0 else s
        for s in segments
    )


def widened_pairs(
    pairs: Sequence[Pair], segments: Sequence[Segment], tail_s: float
) -> tuple[Pair, ...]:
    """Stops with the ranges that a room leaves: a voice that wavers is blurred by what comes back.

    Parameters
    ----------
    pairs : sequence of Pair
    segments : sequence of Segment
    tail_s : float
    """
    if not is_room(segments, tail_s):
        return tuple(pairs)
    return tuple(
        replace(
            p,
            lower_uncertainty_cents=_voice_range(p.lower_uncertainty_cents, p.lower_track_hz),
            upper_uncertainty_cents=_voice_range(p.upper_uncertainty_cents, p.upper_track_hz),
        )
        for p in pairs
    )


def _voice_range(uncertainty_cents: float, track_hz: Floats) -> float:
    spread = float(np.std(1200.0 * np.log2(track_hz))) if len(track_hz) else 0.0
    if spread < _WAVERS_CENTS:
        return uncertainty_cents
    return float(np.hypot(uncertainty_cents, _PER_WAVER * spread))


def _factor(s: Segment) -> float:
    return _CLEAR_FACTOR if s.clarity > _CLEAR else _UNCLEAR_FACTOR
