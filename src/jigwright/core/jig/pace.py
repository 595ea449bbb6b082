"""Written time in seconds, with every tempo that a score changes to."""

from __future__ import annotations

from bisect import bisect_right
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise
from typing import TYPE_CHECKING

from jigwright.core.jig.signs import tempi_of

if TYPE_CHECKING:
    from jigwright.core.jig.model import Jig


class WrittenTime:
    """When the moments of a score come, played as written.

    Parameters
    ----------
    jig : Jig
    """

    def __init__(self, jig: Jig) -> None:
        tempi = tempi_of(jig)
        self._beats = [at for at, _ in tempi]
        self._per_beat = [60.0 / bpm for _, bpm in tempi]
        self._seconds = [0.0]
        for (a, b), per_beat in zip(pairwise(self._beats), self._per_beat, strict=False):
            self._seconds.append(self._seconds[-1] + float(b - a) * per_beat)
        self._events = jig.events

    def at(self, beats: Fraction) -> float:
        """Seconds from the start to a moment in beats."""
        i = max(0, bisect_right(self._beats, beats) - 1)
        return self._seconds[i] + float(beats - self._beats[i]) * self._per_beat[i]

    def seconds_per_beat(self, beats: Fraction) -> float:
        """Duration of a quarter note at a moment."""
        return self._per_beat[max(0, bisect_right(self._beats, beats) - 1)]

    def lengths(self) -> list[float]:
        """Duration of every event in seconds."""
        return [self.at(e.end_beats) - self.at(e.onset_beats) for e in self._events]


@lru_cache(maxsize=32)
def written_seconds(jig: Jig) -> tuple[float, ...]:
    """Duration of every event in seconds, played as written."""
    return tuple(WrittenTime(jig).lengths())


def says_lengths(jig: Jig) -> bool:
    """Whether somebody said how long the notes are: a bare list of names is all single beats."""
    together = all(b.onset_beats == a.end_beats for a, b in pairwise(jig.events))
    return bool(jig.aims) or not together or any(e.length_beats != 1 for e in jig.events)


def whole_seconds(jig: Jig) -> float:
    """From the start to the end of the last event, in seconds, played once as written."""
    return WrittenTime(jig).at(jig.length_beats)
