"""What it costs to take a doubtful beginning for a written note.

In units of a written note that has none. A beginning of another pitch than the note it lies in was
seen as what it is; one of the same pitch is weighed by its odds. Where nobody said how long the
notes are, its place says little and the odds count for more.
"""

from __future__ import annotations

from jigwright.core.sound.heard import Segment

_USUAL, _LEAST, _MOST = 0.1, 0.01, 0.9
_PER_ODDS, _PER_ODDS_ALONE = 0.06, 0.15


def doubt_cost(segment: Segment, *, says_lengths: bool) -> float:
    """Between 0 (surely a note) and not quite a note that is missing.

    Parameters
    ----------
    segment : Segment
    says_lengths : bool
        Whether the jig says how long its notes are.
    """
    if not segment.doubtful:
        return 0.0
    if segment.odds is None:
        return _USUAL
    weight = _PER_ODDS if says_lengths else _PER_ODDS_ALONE
    return min(_MOST, max(_LEAST, _USUAL - weight * segment.odds))
