"""Where in a jig a player is, note by note, at a cost that does not grow with the piece.

Short jigs are lined up whole. In a long one only the last notes are lined up, with the events from
the oldest of them on; what lies further back is settled. Where the last notes do not fit there
(somebody begins elsewhere) they are looked for in the whole piece.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from jigwright.core.follow.align import line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.values import LinedUp
from jigwright.core.jig.model import Jig
from jigwright.core.music.pitch import cents_from_a4, hz_to_cents
from jigwright.core.sound.heard import Pair, Segment
from jigwright.core.values import Floats

WHOLE_EVENTS = 160
"""A jig of so many events is lined up whole."""
_KEPT_NOTES = 40  # that stay when the window moves on: going back reaches so far
_MOST_NOTES = 80
_SPAN_EVENTS = 200
_LEAST_AHEAD = 80  # events that must lie before the player
LOOK_NOTES = 12
"""The last notes, by which one sees whether somebody is elsewhere, and where."""
_LOST_BELOW = 0.5  # share of them that follow each other
_FITS = 0.8  # share of them that are the notes of another place
_SAME_CENTS = 60.0
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
        self._upper = np.array([cents_from_a4(e.heads[-1].pitch) for e in jig.events])
        self._lower = np.array([cents_from_a4(e.heads[0].pitch) for e in jig.events])

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
        lost = self._is_long and self._is_lost(lined, recent)
        if lost and self._look_elsewhere(notes, lined.offset_cents):
            recent = [n for n in notes if n.onset_s >= self._since_s - _TOUCH_S]
            lined = self._lined(recent, pairs)
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

    def _is_lost(self, lined: LinedUp, recent: Sequence[Segment]) -> bool:
        """Whether the last notes are not those that follow each other where the window lies."""
        if len(recent) < LOOK_NOTES:
            return False
        right = []
        for n in lined.notes:
            if n.segments and n.i_event is not None:
                segment = recent[n.segments[0]]
                cents = hz_to_cents(segment.f0_hz, self._a4_hz) - lined.offset_cents
                if self._off(self._first + n.i_event, cents) < _SAME_CENTS:
                    right.append((n.segments[0], n.i_event))
        since = len(recent) - LOOK_NOTES
        last = sorted(row for row in right if row[0] >= since)
        in_order = sum(b - a == 1 for (_, a), (_, b) in pairwise(last))
        return in_order < _LOST_BELOW * (LOOK_NOTES - 1)

    def _off(self, i_event: int, cents: float) -> float:
        """Cents from a pitch to the nearer voice of an event."""
        return float(min(abs(self._upper[i_event] - cents), abs(self._lower[i_event] - cents)))

    def _look_elsewhere(self, notes: Sequence[Segment], offset_cents: float) -> bool:
        """Look for the last notes, one after the other, in all of the piece; move there."""
        tail = notes[-LOOK_NOTES:]
        heard = np.array([hz_to_cents(n.f0_hz, self._a4_hz) for n in tail])
        # the tuning found may be that of a place where nobody is
        fits = max(
            (self._fits(heard - offset) for offset in (offset_cents, 0.0)),
            key=lambda f: float(np.max(f)),
        )
        best = int(np.argmax(fits))  # of several alike the first: people begin again
        alone = np.count_nonzero(fits >= fits[best] - 1) == 1
        if fits[best] < _FITS * len(tail) or not (alone or best == 0):
            return False
        self._since_s = tail[0].onset_s
        self._first = best
        self._window = self._events_from(best)
        return True

    def _fits(self, cents: Floats) -> Floats:
        """How many of some notes, one after the other, are those from each event on."""
        starts = len(self._upper) - len(cents) + 1
        fits = np.zeros(starts)
        for k, c in enumerate(cents):
            upper, lower = self._upper[k : k + starts], self._lower[k : k + starts]
            fits += np.minimum(np.abs(upper - c), np.abs(lower - c)) < _SAME_CENTS
        return fits

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
