"""Where in a jig a player is, note by note, at a cost that does not grow with the piece.

Short jigs are lined up whole. In a long one only the last notes are lined up, with the events from
the oldest of them on; what lies further back is settled. Where the last notes do not fit there
(somebody begins elsewhere) they are looked for in the whole piece.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from jigwright.core.follow.align import line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.values import LinedUp
from jigwright.core.jig.model import Jig
from jigwright.core.sound.heard import Pair, Segment

WHOLE_EVENTS = 160
"""A jig of so many events is lined up whole."""
_KEPT_NOTES = 40  # that stay when the window moves on: going back reaches so far
_MOST_NOTES = 80
_SPAN_EVENTS = 200
_LEAST_AHEAD = 80  # events that must lie before the player
_LOOK_NOTES = 12  # the last notes, by which one sees whether somebody is elsewhere
_LOST_BELOW = 0.5  # share of them that fit
_SEARCH_NOTES = 24
_FITS_BETTER = 0.25  # of the notes searched for must fit elsewhere in addition
_SEARCH_EVERY = 4  # notes between two searches
_TOUCH_S = 1e-3


@dataclass(frozen=True, slots=True, kw_only=True)
class Followed:
    """Where the player is.

    Parameters
    ----------
    i_event : int or None
        Event of the last note that fits.
    onsets : tuple of (int, float)
        Events played, each with when it was heard, at first attempts.
    """

    i_event: int | None
    onsets: tuple[tuple[int, float], ...]


class LiveFollower:
    """Follows one player through one jig; begun anew for every take.

    Parameters
    ----------
    jig : Jig
    a4_hz : float
    """

    def __init__(self, jig: Jig, a4_hz: float) -> None:
        self._jig, self._a4_hz = jig, a4_hz
        self._first = 0
        self._since_s = float("-inf")
        self._window = self._events_from(0)
        self._searched = 0

    @property
    def window(self) -> tuple[int, int]:
        """First event that is lined up, and how many are."""
        return self._first, len(self._window.events)

    def follow(self, notes: Sequence[Segment], pairs: Sequence[Pair] = ()) -> Followed:
        """Take all notes heard since the take began, the newest last.

        Parameters
        ----------
        notes : sequence of Segment
            In order of time.
        pairs : sequence of Pair
            Double stops that notes point to.
        """
        recent = [n for n in notes if n.onset_s >= self._since_s - _TOUCH_S]
        lined = self._lined(recent, pairs)
        if self._is_long and self._is_lost(lined, len(recent)):
            self._searched += 1
            if self._searched % _SEARCH_EVERY == 1 and self._look_elsewhere(notes, pairs, lined):
                return self.follow(notes, pairs)
        else:
            self._searched = 0
        followed = self._told(lined, recent)
        if self._is_long:
            self._move_on(lined, recent, followed.i_event)
        return followed

    @property
    def _is_long(self) -> bool:
        return len(self._jig.events) > WHOLE_EVENTS

    def _events_from(self, first: int) -> Jig:
        if not self._is_long:
            return self._jig
        return replace(self._jig, events=self._jig.events[first : first + _SPAN_EVENTS])

    def _lined(self, notes: Sequence[Segment], pairs: Sequence[Pair]) -> LinedUp:
        return line_up(notes, self._window, a4_hz=self._a4_hz, params=FollowParams(), pairs=pairs)

    def _told(self, lined: LinedUp, recent: Sequence[Segment]) -> Followed:
        last = max(
            (n for n in lined.notes if n.segments and n.i_event is not None),
            key=lambda n: n.segments[-1],
            default=None,
        )
        onsets = tuple(
            (n.i_event + self._first, recent[n.segments[0]].onset_s)
            for n in lined.notes
            if n.segments and n.i_event is not None and n.attempt == 1
        )
        at = None if last is None or last.i_event is None else last.i_event + self._first
        return Followed(i_event=at, onsets=onsets)

    def _is_lost(self, lined: LinedUp, n_notes: int) -> bool:
        """Whether too few of the last notes fit where the window lies."""
        if n_notes < _LOOK_NOTES:
            return False
        return _n_fitting(lined, n_notes - _LOOK_NOTES) < _LOST_BELOW * _LOOK_NOTES

    def _look_elsewhere(
        self, notes: Sequence[Segment], pairs: Sequence[Pair], lined: LinedUp
    ) -> bool:
        """Look for the last notes in all of the piece; says whether the window moved."""
        tail = list(notes[-_SEARCH_NOTES:])
        n_recent = sum(n.onset_s >= self._since_s - _TOUCH_S for n in notes)
        here = _n_fitting(lined, max(0, n_recent - len(tail)))
        whole = line_up(tail, self._jig, a4_hz=self._a4_hz, params=FollowParams(), pairs=pairs)
        there = _n_fitting(whole, 0)
        found = [n for n in whole.notes if n.segments and n.i_event is not None]
        if not found or there < here + _FITS_BETTER * len(tail):
            return False
        start = min(found, key=lambda n: n.segments[0])
        assert start.i_event is not None
        self._since_s = tail[start.segments[0]].onset_s
        self._first = max(0, start.i_event)
        self._window = self._events_from(self._first)
        return True

    def _move_on(self, lined: LinedUp, recent: Sequence[Segment], at: int | None) -> None:
        """Leave behind what is settled, when the window is full or its end comes near."""
        ahead = self._first + len(self._window.events) - (at or 0)
        more = self._first + len(self._window.events) < len(self._jig.events)
        if at is None or not (len(recent) > _MOST_NOTES or (more and ahead < _LEAST_AHEAD)):
            return
        oldest = max(0, len(recent) - _KEPT_NOTES)
        anchors = [
            n
            for n in lined.notes
            if n.state == "played" and n.attempt == 1 and n.segments and n.segments[0] >= oldest
        ]
        if not anchors:
            return
        # the oldest of the notes kept whose event no later one goes back beyond
        events = [n.i_event for n in anchors if n.i_event is not None]
        anchor = min(anchors, key=lambda n: n.segments[0])
        if anchor.i_event is None or anchor.i_event > min(events):
            anchor = min(anchors, key=lambda n: n.i_event or 0)
        assert anchor.i_event is not None
        self._since_s = recent[anchor.segments[0]].onset_s
        self._first += anchor.i_event
        self._window = self._events_from(self._first)


def _n_fitting(lined: LinedUp, since: int) -> int:
    """Segments from a number on that are notes of the jig."""
    return sum(
        sum(s >= since for s in n.segments)
        for n in lined.notes
        if n.i_event is not None and n.state in ("played", "retry")
    )
