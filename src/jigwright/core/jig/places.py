"""Where the events of a jig lie in time, so that a bar need not look at all of them."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from fractions import Fraction
from itertools import accumulate

from jigwright.core.jig.model import Event, Jig


class EventPlaces:
    """Events of a jig by time.

    Parameters
    ----------
    jig : Jig
    """

    def __init__(self, jig: Jig) -> None:
        self._events = jig.events
        self._onsets = [e.onset_beats for e in jig.events]
        self._ended = list(accumulate((e.end_beats for e in jig.events), max))
        self.index = {e.id: i for i, e in enumerate(jig.events)}

    def between(self, start: Fraction, end: Fraction) -> list[Event]:
        """Events that sound between two moments, in beats."""
        first, stop = bisect_right(self._ended, start), bisect_left(self._onsets, end)
        return [e for e in self._events[first:stop] if e.end_beats > start]
