"""Repeats that one tone may hide.

Where a bow change hardly shows or a room fills the break, several written notes of one pitch are
heard as one tone. Leaving those out is then no jump: the tone lasts as long as all of them. Priced
like a jump, a few such tones would make the walk prefer wrong notes elsewhere. What follows the
repeats may be missing too: that one note costs what a note left out does.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime
from jigwright.core.values import Floats

_MOST_HIDDEN = 8  # behind one tone
_SHORTEST, _LONGEST = 0.65, 2.2  # of the time all of them need; who begins slowly takes long


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Merged:
    """Which written notes may hide behind an earlier one of their pitch.

    Parameters
    ----------
    gaps : tuple of (int, ndarray of bool, ndarray, float)
        How many events further the next heard note is; for each event whether all between (but
        the last, where that is left out) are of its pitch; the time from it to that next one as
        written, s; and the cost.
    paces : tuple of float
    """

    gaps: tuple[tuple[int, NDArray[np.bool_], Floats, float], ...]
    paces: tuple[float, ...]

    @classmethod
    def of(cls, jig: Jig, paces: Sequence[float], hidden: float, skip: float) -> Merged:
        """The hidings a jig allows.

        Parameters
        ----------
        jig : Jig
        paces : sequence of float
            Seconds played for a written one; several where it is not known, as merged notes make
            a take look slow.
        hidden, skip : float
            Cost of each note that is hidden, and of one left out after them.
        """
        events = jig.events
        notes = [tuple(h.pitch.midi for h in e.heads) for e in events]
        again = np.array([False, *(a == b for a, b in zip(notes, notes[1:], strict=False))])
        written = WrittenTime(jig)
        starts = np.array([written.at(e.onset_beats) for e in events])
        gaps = []
        between = np.ones(len(events) - 1, dtype=bool) if len(events) else again
        for gap in range(2, _MOST_HIDDEN + 2):
            between = between[:-1] & again[gap - 1 : -1]
            if not between.any():
                break
            gaps.append((gap, between, starts[gap:] - starts[:-gap], hidden * (gap - 1)))
            if gap + 1 < len(events):
                left_out = between[:-1] & ~again[gap:-1]
                due_s = starts[gap + 1 :] - starts[: -gap - 1]
                gaps.append((gap + 1, left_out, due_s, hidden * (gap - 1) + skip))
        return cls(gaps=tuple(gaps), paces=tuple(paces))

    def at(self, paces: Sequence[float]) -> Merged:
        """The same at other paces."""
        return replace(self, paces=tuple(paces))

    def offers(self, elapsed_s: float, sounded: NDArray[np.bool_]) -> Sequence[tuple[int, Floats]]:
        """Cost of going on so many events further after a tone; infinite where nothing is hidden.

        Parameters
        ----------
        elapsed_s : float
            From the beginning of the tone to the next one's.
        sounded : ndarray of bool, shape (n_events,)
            Whether the tone is of each event's pitch.

        Returns
        -------
        sequence of (int, ndarray of shape (n_events - gap,))
        """
        found = []
        for gap, between, due_s, cost in self.gaps:
            lasts = np.zeros(len(due_s), dtype=bool)
            for pace in self.paces:
                due = pace * due_s
                lasts |= (elapsed_s > _SHORTEST * due) & (elapsed_s < _LONGEST * due)
            fits = between & lasts & sounded[: len(lasts)]
            if fits.any():
                found.append((gap, np.where(fits, cost, np.inf)))
        return found
