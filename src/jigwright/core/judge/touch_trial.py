"""The touch test as it is played: which notes, and the words at their times (T2)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import isfinite

from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import Now, Segment
from jigwright.core.sound.touch import N_STRETCHES, STRETCH_S

_LEAST_ABOVE = 2  # semitones above the lowest string: a stopped note
_START_S = 0.15
_GAP_S = 0.35
_FALSE_START_S = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class TouchNote:
    """A note to be held while an open string is touched.

    Parameters
    ----------
    string : int
        The open string that is touched, 0 = lowest.
    note : Pitch
        An octave below it: every other partial is the string's, the rest are the note's own.
    """

    string: int
    note: Pitch


def touch_notes(strings: Sequence[Pitch]) -> tuple[TouchNote, ...]:
    """The notes an octave below an open string that can be stopped, from the highest string on."""
    lowest = min(s.midi for s in strings)
    return tuple(
        TouchNote(string=i, note=Pitch(s.step, s.alter, s.octave - 1))
        for i, s in reversed(list(enumerate(strings)))
        if s.midi - 12 >= lowest + _LEAST_ABOVE
    )


def longest_hold(bows: Sequence[Segment]) -> list[Segment]:
    """The longest stretch of bows on one note that follow each other without a gap."""
    holds: list[list[Segment]] = []
    for bow in sorted(bows, key=lambda s: s.onset_s):
        if holds and bow.onset_s - holds[-1][-1].offset_s <= _GAP_S:
            holds[-1].append(bow)
        else:
            holds.append([bow])
    return max(holds, key=lambda h: h[-1].offset_s - h[0].onset_s, default=[])


class TouchClock:
    """Which word it is time for, frame by frame."""

    def __init__(self) -> None:
        self.n_held = 0  # notes that were held to the end or left
        self._begin_s: float | None = None
        self._since_s: float | None = None
        self._last_s = 0.0

    @property
    def seconds(self) -> float | None:
        """Since the note began; ``None`` while nothing sounds."""
        return None if self._begin_s is None else self._last_s - self._begin_s

    @property
    def stretch(self) -> int | None:
        """0 free, 1 touched, 2 free, 3 touched, 4 free; 5: enough."""
        seconds = self.seconds
        return None if seconds is None else min(int(seconds / STRETCH_S), N_STRETCHES)

    @property
    def left_s(self) -> float:
        """Seconds to the next word."""
        seconds = self.seconds or 0.0
        return max(0.0, STRETCH_S - seconds % STRETCH_S) if (self.stretch or 0) < N_STRETCHES else 0

    def hear(self, frame: Now) -> None:
        """Take a frame."""
        t = frame.time_s
        if not frame.sounding:
            self._since_s = None
            if self._begin_s is not None and t - self._last_s > _GAP_S:
                self.n_held += self._last_s - self._begin_s > _FALSE_START_S
                self._begin_s = None
            return
        self._since_s = t if self._since_s is None else self._since_s
        if self._begin_s is None and t - self._since_s >= _START_S and isfinite(frame.f0_hz):
            self._begin_s = self._since_s
        self._last_s = t
