"""Ring: which open strings a note could wake, which it did, how loud and how long.

Needs a gap after the note and a room that dies away sooner; in legato and during the note it cannot
be measured. Compare a note with itself, not with others: an octave rings more than a twelfth.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jigwright.core.gauge.values import Ring
from jigwright.core.sound.heard import Tail
from jigwright.core.sound.tails import shared_partials
from jigwright.core.values import Unmeasured, median

METHOD_VERSION = 1
_LIVE_ROOM_S = 0.55
_LEAST_ABOVE_DB = 8.0
_LEAST_RING_DB = -52.0


def possible_strings(f0_hz: float, open_hz: Sequence[float]) -> tuple[int, ...]:
    """Strings (0 = lowest) that share a partial with the note and are not the note itself."""
    return tuple(
        j
        for j, hz in enumerate(open_hz)
        if shared_partials(f0_hz, hz) and abs(1200.0 * np.log2(f0_hz / hz)) > 60.0
    )


def measure_ring(
    tails: Sequence[Tail], i_segment: int, room_t60_s: float | None
) -> Ring | Unmeasured:
    """Measure what rang after a note.

    Parameters
    ----------
    tails : sequence of Tail
        Of the whole take.
    i_segment : int
        Last segment of the note.
    room_t60_s : float or None
        Decay of notes' own partials in this take (:func:`room_decay_s`).

    Returns
    -------
    Ring or Unmeasured
        Reasons: ``no_gap``, ``nothing_shared``, ``room_too_live``, ``room_unknown``.
    """
    mine = [t for t in tails if t.i_segment == i_segment]
    if not mine:
        return Unmeasured("no_gap")
    strings = [t for t in mine if t.i_string >= 0]
    if not strings:
        return Unmeasured("nothing_shared")
    if room_t60_s is None:
        return Unmeasured("room_unknown")
    if room_t60_s > _LIVE_ROOM_S:
        return Unmeasured("room_too_live")
    own = next((t for t in mine if t.i_string < 0), None)
    if own is None or not np.isfinite(own.above_room_db):
        return Unmeasured("room_unknown")
    rang = [
        t
        for t in strings
        if t.above_room_db > _LEAST_ABOVE_DB
        and t.ring_db > _LEAST_RING_DB
        and (not np.isfinite(own.decay_s) or not t.decay_s < 1.5 * own.decay_s)
    ]
    best = max(rang or strings, key=lambda t: t.ring_db)
    nan = float("nan")
    return Ring(
        rang=tuple(t.i_string for t in rang),
        ring_db=best.ring_db if rang else nan,
        decay_s=best.decay_s if rang else nan,
        above_room_db=best.above_room_db,
    )


def room_decay_s(tails: Sequence[Tail]) -> float | None:
    """Decay of notes' own partials in a take (room and stopped string), or ``None``."""
    known = [t.decay_s for t in tails if t.i_string < 0 and np.isfinite(t.decay_s)]
    return median(known) if known else None
