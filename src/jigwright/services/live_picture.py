"""What is heard just now: level, the newest pitch or pair, its trace, the place in the jig."""

from __future__ import annotations

from collections import deque

from jigwright.core.sound.heard import Now, PairNow, Segment
from jigwright.services.recording import CaptureState, EarSays

_TRACE_S = 4.0


class LivePicture:
    """Holds the newest of everything that moves.

    Parameters
    ----------
    trace_s : float
        How far the trace of pitch goes back, in seconds.
    """

    def __init__(self, trace_s: float = _TRACE_S) -> None:
        self._trace_s = trace_s
        self.level = CaptureState(running=False, seconds=0.0)
        self.now: Now | None = None
        self.pair: PairNow | None = None
        self.trace: deque[Now] = deque()
        self.notes: list[Segment] = []
        self.i_event: int | None = None

    def begin(self) -> None:
        """A recording begins."""
        self.level = CaptureState(running=True, seconds=0.0)
        self.notes = []
        self.trace.clear()

    def hear(self, says: EarSays) -> None:
        """Take what the ear says."""
        if says.frames:
            self.now = says.frames[-1]
            self.trace.extend(says.frames)
            while self.trace and self.trace[0].time_s < self.now.time_s - self._trace_s:
                self.trace.popleft()
        self.notes += says.notes
        self.pair = says.pair

    def rest(self) -> None:
        """Nothing sounds any more: no place, no pitch."""
        self.i_event, self.now = None, None
