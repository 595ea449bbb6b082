"""A double stop beside a single note of its own time is no note of its own where none is written.

A room keeps the note before, a voice or another player sounds along, and for part of a single note
two pitches can be parted. The single note was heard for itself all that time: it is what was
played.
"""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.follow.places import Kept, but_for
from jigwright.core.jig.model import Jig
from jigwright.core.jig.stops import written_stops_hz
from jigwright.core.music.pitch import hz_to_cents
from jigwright.core.sound.heard import Pair, Segment

_VOICE_CENTS = 60.0
_WRITTEN_CENTS = 80.0
_COVERS = 0.5  # of the stop's time, by the single note


def without_stops_beside(
    segments: Sequence[Segment], jig: Jig, *, a4_hz: float, pairs: Sequence[Pair]
) -> Kept:
    """Notes without double stops that are not written and lie beside a single note.

    Parameters
    ----------
    segments : sequence of Segment
        In time order.
    jig : Jig
    a4_hz : float
    pairs : sequence of Pair

    Returns
    -------
    segments : tuple of Segment
    at : dict of int to int
        Where each segment that was kept stands now.
    """
    stops = written_stops_hz(jig, a4_hz)
    singles = [s for s in segments if s.i_pair < 0]

    def is_kept(s: Segment) -> bool:
        if s.i_pair < 0:
            return True
        pair = pairs[s.i_pair]
        if any(_is_near(pair, stop, _WRITTEN_CENTS) for stop in stops):
            return True
        return not any(_covers(alone, pair) for alone in singles)

    return but_for(segments, {i for i, s in enumerate(segments) if not is_kept(s)})


def _is_near(pair: Pair, stop: tuple[float, float], cents: float) -> bool:
    voices = ((pair.lower_hz, stop[0]), (pair.upper_hz, stop[1]))
    return all(abs(hz_to_cents(heard, written)) < cents for heard, written in voices)


def _covers(alone: Segment, pair: Pair) -> bool:
    both_s = min(alone.offset_s, pair.offset_s) - max(alone.onset_s, pair.onset_s)
    voices = (pair.lower_hz, pair.upper_hz)
    own = any(abs(hz_to_cents(alone.f0_hz, f_hz)) < _VOICE_CENTS for f_hz in voices)
    return own and both_s > _COVERS * (pair.offset_s - pair.onset_s)
