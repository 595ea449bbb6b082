"""What was heard while somebody spoke is no note, unless what was to be played is missing without.

The jig says what is likely: sounds of a stretch of talk become notes where several of them follow
each other as they are written, or where more than half of them stand for written notes that were
heard nowhere else.
"""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.follow.align import line_up
from jigwright.core.follow.as_written import is_as_written
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.places import Kept, but_for
from jigwright.core.jig.model import Jig
from jigwright.core.sound.heard import Pair, Segment

_LEAST_SHARE = 0.5
_FEWEST_IN_TURN = 5


def without_talk(
    segments: Sequence[Segment],
    jig: Jig | None,
    *,
    a4_hz: float,
    pairs: Sequence[Pair] = (),
) -> Kept:
    """Notes without what was heard of talk.

    Parameters
    ----------
    segments : sequence of Segment
        In time order.
    jig : Jig or None
        Without one, nothing heard in talk is a note.
    a4_hz : float
    pairs : sequence of Pair

    Returns
    -------
    segments : tuple of Segment
    at : dict of int to int
        Where each segment that was kept stands now.
    """
    left = {i for i, s in enumerate(segments) if s.in_talk}
    if left and jig is not None and jig.events:
        left -= _in_turn(segments, jig, a4_hz, pairs)
        without = _written(segments, left, jig, a4_hz, pairs)
        for group in (found & left for found in _groups(segments)):
            missing = len(jig.events) - len(without)
            if not 0 < _LEAST_SHARE * len(group) < missing:
                continue  # so much is not missing
            with_it = _written(segments, left - group, jig, a4_hz, pairs)
            if len(with_it) - len(without) > _LEAST_SHARE * len(group):
                left, without = left - group, with_it
    return but_for(segments, left)


def _in_turn(
    segments: Sequence[Segment], jig: Jig, a4_hz: float, pairs: Sequence[Pair]
) -> set[int]:
    """What of the talk stands for written notes one after the other, several in a row."""
    lined = line_up(segments, jig, a4_hz=a4_hz, params=FollowParams(), pairs=pairs)
    found: set[int] = set()
    run: list[int] = []
    before: int | None = None
    for row in lined.notes:
        if not row.segments:
            continue
        follows = before is not None and row.i_event == before + 1
        spoken = all(segments[k].in_talk for k in row.segments)
        if not (spoken and is_as_written(row, lined, segments, jig, a4_hz=a4_hz)):
            run, before = [], None
            continue
        run = [*run, *row.segments] if follows else list(row.segments)
        before = row.i_event
        if len(run) >= _FEWEST_IN_TURN:
            found.update(run)
    return found


def _groups(segments: Sequence[Segment]) -> list[set[int]]:
    """Runs of what was heard in talk, between two notes that were not."""
    groups: list[set[int]] = []
    for i, s in enumerate(segments):
        if not s.in_talk:
            continue
        if i and segments[i - 1].in_talk:
            groups[-1].add(i)
        else:
            groups.append({i})
    return groups


def _written(
    segments: Sequence[Segment], left: set[int], jig: Jig, a4_hz: float, pairs: Sequence[Pair]
) -> set[int]:
    """Written notes that are found as they are written."""
    rest = [s for i, s in enumerate(segments) if i not in left]
    if not rest:
        return set()
    lined = line_up(rest, jig, a4_hz=a4_hz, params=FollowParams(), pairs=pairs)
    return {
        row.i_event
        for row in lined.notes
        if row.i_event is not None and is_as_written(row, lined, rest, jig, a4_hz=a4_hz)
    }
