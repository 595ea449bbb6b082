"""When a take begins and ends, from what is heard live.

It begins when a pitched sound has lasted long enough to be a note, and reaches back a little before
that. It ends when the last note of the jig has been played and silence follows, or after a longer
silence anywhere: a player who stops to look at the page is waited for.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite
from typing import Literal

from jigwright.core.sound.heard import Now

GateState = Literal["waiting", "playing", "ended"]


@dataclass(frozen=True, slots=True, kw_only=True)
class GateParams:
    """Times of the gate.

    Parameters
    ----------
    least_note_s : float
        Pitched sound shorter than this starts nothing.
    lead_s : float
        Kept before the beginning.
    after_last_s : float
        Silence that ends a take whose last note was heard.
    give_up_s : float
        Silence that ends any take.
    least_dbfs : float
        Softer sounds begin nothing: a hum in a quiet room has a pitch too.
    """

    least_note_s: float = 0.15
    lead_s: float = 0.45
    after_last_s: float = 0.9
    give_up_s: float = 3.0
    least_dbfs: float = -62.0


class TakeGate:
    """Watches frames; one gate for one take.

    Parameters
    ----------
    params : GateParams
    """

    def __init__(self, params: GateParams | None = None) -> None:
        self._params = params or GateParams()
        self.state: GateState = "waiting"
        self.start_s = 0.0
        self.end_s = 0.0
        self._pitched_since: float | None = None
        self._last_sound_s = 0.0

    def hear(self, frame: Now, *, last_note_heard: bool) -> GateState:
        """Take one frame.

        Parameters
        ----------
        frame : Now
        last_note_heard : bool
            Whether the follower has reached the end of the jig.
        """
        pitched = frame.sounding and isfinite(frame.f0_hz) and frame.clarity > 0.8
        if self.state == "waiting":
            if not pitched or frame.level_db < self._params.least_dbfs:
                self._pitched_since = None
            elif self._pitched_since is None:
                self._pitched_since = frame.time_s
            elif frame.time_s - self._pitched_since >= self._params.least_note_s:
                self.state = "playing"
                self.start_s = max(0.0, self._pitched_since - self._params.lead_s)
                self._last_sound_s = frame.time_s
        elif self.state == "playing":
            if frame.sounding:
                self._last_sound_s = frame.time_s
            silent_s = frame.time_s - self._last_sound_s
            limit = self._params.after_last_s if last_note_heard else self._params.give_up_s
            if silent_s >= limit:
                self.state = "ended"
                self.end_s = self._last_sound_s + min(limit, 0.9)
        return self.state

    def stop(self, at_s: float) -> None:
        """End now by hand."""
        if self.state == "playing":
            self.state, self.end_s = "ended", at_s
