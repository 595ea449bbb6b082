"""What hardly sounds is no note, unless what was to be played has one there."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.follow.align import line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.places import Kept, but_for
from jigwright.core.jig.model import Jig
from jigwright.core.sound.heard import Pair, Segment


def without_faint(
    segments: Sequence[Segment], jig: Jig | None, *, a4_hz: float, pairs: Sequence[Pair] = ()
) -> Kept:
    """Notes without those that hardly sound, or under others, and that nothing written asks for.

    Parameters
    ----------
    segments : sequence of Segment
        In time order.
    jig : Jig or None
        Without one, what hardly sounds is no note.
    a4_hz : float
    pairs : sequence of Pair

    Returns
    -------
    segments : tuple of Segment
    at : dict of int to int
        Where each segment that was kept stands now.
    """
    if jig is None or not jig.events:
        left = {i for i, s in enumerate(segments) if s.faint}
    elif left := {i for i, s in enumerate(segments) if s.faint or s.outsounded}:
        lined = line_up(segments, jig, a4_hz=a4_hz, params=FollowParams(), pairs=pairs)
        left &= {i for row in lined.notes if row.i_event is None for i in row.segments}
    return but_for(segments, left)
