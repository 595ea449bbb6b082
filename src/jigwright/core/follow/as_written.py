"""Whether a row of a lined-up take is what is written there."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.follow.values import LinedNote, LinedUp
from jigwright.core.jig.model import Jig
from jigwright.core.music.pitch import cents_from_a4, hz_to_cents
from jigwright.core.sound.heard import Segment

NEAR_CENTS = 70.0


def is_as_written(
    row: LinedNote, lined: LinedUp, segments: Sequence[Segment], jig: Jig, *, a4_hz: float
) -> bool:
    """Whether one note stands for one and a stop for a stop, at the (lower) note's pitch.

    Parameters
    ----------
    row : LinedNote
        Of ``lined``.
    lined : LinedUp
    segments : sequence of Segment
        What was lined up.
    jig : Jig
    a4_hz : float
    """
    if not row.segments or row.i_event is None:
        return False
    heads = jig.events[row.i_event].heads
    s = segments[row.segments[0]]
    if (s.i_pair >= 0) != (len(heads) > 1):
        return False
    cents = hz_to_cents(s.f0_hz, a4_hz) - lined.offset_cents
    return abs(cents - cents_from_a4(heads[0].pitch)) < NEAR_CENTS
