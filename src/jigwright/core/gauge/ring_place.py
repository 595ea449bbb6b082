"""What the ring of every note of a take is held against: limits, strings in use and tuned how."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from jigwright.core.music.sympathy import strings_that_may_hold
from jigwright.core.sound.heard import RingLine


@dataclass(frozen=True, slots=True, kw_only=True)
class RingParams:
    """Limits of the gauge.

    Parameters
    ----------
    above_db : float
        A line over its surroundings, in one partial; noise alone reaches 15.
    beside_db : float
        Further partials of a string that rang count from here on.
    above_room_db : float
        Over what the note's other partials have left.
    below_db : float
        A partial of which less would have been seen says what the room leaves.
    least_db : float
        Weaker rings re the note are not told.
    most_db : float
        No string rings nearer to the note that woke it: something else sounds.
    silent_db : float
        A string is silent when a ring so strong would surely have been seen.
    longest_s, shortest_s : float
        A string dies away in a time between these.
    over_room : float
        Times the room's own decay that a string rings at least.
    of_usual : float
        Share of the usual time of such a string that it rings at least.
    over_left_db : float
        Over what still rang from earlier.
    off_cents : float
        How far a line may lie from where the string sounds.
    sure_db : float
        A line over its surroundings where the string has not been heard elsewhere in the take.
    strange_db : float
        Partials of the string that the note has not got stay so much below those it has.
    least_note_s : float
        A shorter note wakes nothing that could be told.
    in_use_s : float
        A string stopped or bowed so soon after a note had no time to ring.
    """

    above_db: float = 16.0
    beside_db: float = 12.0
    above_room_db: float = 8.0
    below_db: float = 35.0
    least_db: float = -52.0
    most_db: float = -8.0
    silent_db: float = -38.0
    longest_s: float = 9.0
    shortest_s: float = 0.5
    over_room: float = 1.5
    of_usual: float = 0.45
    over_left_db: float = 3.0
    off_cents: float = 4.0
    sure_db: float = 20.0
    strange_db: float = 12.0
    least_note_s: float = 0.25
    in_use_s: float = 0.35


USUAL = RingParams()


@dataclass(frozen=True, slots=True, kw_only=True)
class Hold:
    """Which strings are stopped or bowed for some time.

    Parameters
    ----------
    from_s, to_s : float
    surely : tuple of int
        Strings (0 = lowest) that are, by the fingering.
    perhaps : tuple of int
        One of these is, where no fingering says which; the likeliest first.
    """

    from_s: float
    to_s: float
    surely: tuple[int, ...] = ()
    perhaps: tuple[int, ...] = ()


@dataclass(frozen=True, kw_only=True)  # without slots: what is looked up often is kept
class RingPlace:
    """What is the same for all notes of a take.

    Parameters
    ----------
    open_hz : tuple of float
        Open strings as tuned, low to high.
    t60_s : float
        How long an open string of this kind of instrument sounds.
    lines : tuple of RingLine
    holds : tuple of Hold
        In time order.
    string_cents : mapping of int to float
        Where strings sounded in this take, from ``open_hz``.
    room_s : float
        In which the room lets notes fall by 60 dB; NaN where it was not seen.
    tail_s : float
        In which the level of a note falls by 20 dB when it ends; NaN likewise.
    two_s : tuple of (float, float)
        When two strings were bowed.
    params : RingParams
    """

    open_hz: tuple[float, ...]
    t60_s: float
    lines: tuple[RingLine, ...]
    holds: tuple[Hold, ...] = ()
    string_cents: Mapping[int, float]
    room_s: float = float("nan")
    tail_s: float = float("nan")
    two_s: tuple[tuple[float, float], ...] = ()
    params: RingParams = USUAL

    def lines_of(self, i_segment: int) -> list[RingLine]:
        """Lines of one note."""
        return self._by_segment.get(i_segment, [])

    def holds_from(self, from_s: float, to_s: float) -> Sequence[Hold]:
        """Holds that begin in a stretch of time."""
        starts = self._hold_starts
        return self.holds[bisect_left(starts, from_s) : bisect_left(starts, to_s)]

    @cached_property
    def _by_segment(self) -> dict[int, list[RingLine]]:
        found: dict[int, list[RingLine]] = {}
        for line in self.lines:
            found.setdefault(line.i_segment, []).append(line)
        return found

    @cached_property
    def _hold_starts(self) -> list[float]:
        return [h.from_s for h in self.holds]


def holds_of(f0s_hz: Sequence[float], open_hz: Sequence[float]) -> tuple[int, ...]:
    """Strings that one of these notes may be on, where no fingering says; the likeliest first."""
    found: list[int] = []
    for f0_hz in f0s_hz:
        found += [j for j in strings_that_may_hold(f0_hz, open_hz) if j not in found]
    return tuple(found)
