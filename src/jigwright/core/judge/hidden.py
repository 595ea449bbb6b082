"""Strokes that hold a change nobody heard.

On one pitch a room fills the hole that a change leaves; what is then taken for a stroke holds the
end of one and the beginning of the next, and the noise of the change lies in its middle.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from jigwright.core.follow.values import LinedNote
from jigwright.core.gauge.values import BowEvent, Stroke
from jigwright.core.jig.model import Jig
from jigwright.core.values import median

_ODD_LENGTH = 1.35  # of what is written, at the pace of the others
_FEWEST = 3
_OF_A_CHANGE = ("scratch", "bounce")


def written_beats(lined: Sequence[LinedNote], jig: Jig) -> dict[int, float]:
    """Written length in quarter notes of every row that has one."""
    return {
        row: float(jig.events[n.i_event].length_beats)
        for row, n in enumerate(lined)
        if n.i_event is not None
    }


def with_hidden_change(strokes: Sequence[Stroke], beats: Mapping[int, float]) -> tuple[Stroke, ...]:
    """Strokes far too long for what is written in them; none of fewer than three.

    Parameters
    ----------
    strokes : sequence of Stroke
    beats : mapping of int to float
        Written length of the rows that have one, in quarter notes.
    """
    pace = []
    for stroke in strokes:
        written = sum(beats.get(row, 0.0) for row in stroke.rows)
        if written > 0.0:
            pace.append(((stroke.end_s - stroke.start_s) / written, stroke))
    if len(pace) < _FEWEST:
        return ()
    usual = median([seconds for seconds, _ in pace])
    return tuple(stroke for seconds, stroke in pace if seconds > _ODD_LENGTH * usual)


def without_changes_noise(
    events: Sequence[BowEvent], hidden: Sequence[Stroke]
) -> tuple[BowEvent, ...]:
    """Without what may be the noise of a hidden change."""
    return tuple(
        e
        for e in events
        if e.kind not in _OF_A_CHANGE
        or not any(s.start_s <= e.start_s and e.end_s <= s.end_s for s in hidden)
    )
