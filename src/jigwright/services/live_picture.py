"""What is heard just now: level, the newest pitch or pair, its trace, the place in the jig."""

from __future__ import annotations

import math
from collections import deque

from jigwright.core.sound.heard import Now, PairNow, RingNow, Segment
from jigwright.core.values import InputState
from jigwright.services.recording import CaptureState, EarSays

_TRACE_S = 4.0
NOISY_DBFS = -45.0
_CLIPS, _HEARD_PEAK = 0.98, 0.02
_SOFT_DBFS = -48.0  # no tone of the last seconds is louder
_SOFT_FRAMES = 100  # half a second of tone, before so much is said
_ROOM_S, _JUST_NOW_S = 3.0, 0.4  # without a tone the room is known; a tone this young is played
_EAR_BEHIND_S = 2.0  # an ear that has come no further does not know whether somebody plays
_TONE = 0.8  # clarity


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
        self.ring: RingNow | None = None
        self.trace: deque[Now] = deque()
        self.notes: list[Segment] = []
        self.i_event: int | None = None
        self.talking = False

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
        self.ring, self.talking = says.ring, says.talking

    def rest(self) -> None:
        """Nothing sounds any more: no place, no pitch."""
        self.i_event, self.now, self.ring = None, None, None
        self.talking = False

    @property
    def room_dbfs(self) -> float:
        """Least level of the last seconds, dB re full scale."""
        return 20.0 * math.log10(max(self.level.room, 1e-7))

    def input_state(self, *, playing: bool, beside: bool) -> InputState:
        """What is to be said of the input.

        Parameters
        ----------
        playing : bool
            A take is being played.
        beside : bool
            Our own drone or metronome sounds: the microphone hears it, not the room.
        """
        if self.level.peak >= _CLIPS:
            return "clips"
        if playing:
            return "soft" if self._tone_within(_JUST_NOW_S) and self._is_soft() else "heard"
        if self.talking:
            return "talk"
        knows = bool(self.trace) and self.level.seconds - self.trace[-1].time_s < _EAR_BEHIND_S
        silent = knows and not self._tone_within(_ROOM_S)
        if self.level.seconds > _ROOM_S and silent and not beside:
            return "noisy" if self.room_dbfs > NOISY_DBFS else "quiet"
        return "heard" if self.level.peak > _HEARD_PEAK else "waiting"

    def _tone_within(self, seconds: float) -> bool:
        """Whether a tone was heard so lately: noise has no period, a string has."""
        if not self.trace:
            return False
        since_s = self.trace[-1].time_s - seconds
        return any(_is_tone(f) and f.time_s >= since_s for f in self.trace)

    def _is_soft(self) -> bool:
        """Whether all tones of the last seconds were soft: the end of a loud one is no soft one."""
        levels = [f.level_db for f in self.trace if _is_tone(f)]
        return len(levels) >= _SOFT_FRAMES and max(levels) < _SOFT_DBFS


def _is_tone(frame: Now) -> bool:
    return frame.sounding and frame.clarity > _TONE
