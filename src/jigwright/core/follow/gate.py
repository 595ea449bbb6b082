"""When a take begins and ends, from what is heard live.

It begins when a pitched sound has lasted long enough to be a note, and reaches back a little before
that, and further where something sounded already: a soft start, a whisper, a note that had no pitch
yet. It ends when the last note of the jig has been played and silence follows, or after a longer
silence anywhere: a player who stops to look at the page is waited for, and one who counts a written
rest at least as long as the rest.
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
    lead_s, reach_s : float
        Kept before the beginning when it was silent before, and at most when it was not.
    after_last_s : float
        Silence that ends a take whose last note was heard.
    give_up_s : float
        Silence that ends any take.
    rest_share, rest_more_s : float
        A written rest is waited for so much longer than it is written.
    gap_s : float
        Silence in what sounded before a beginning that parts nothing.
    stop_clarity, least_stop_s : float
        Where double stops are written, one period explains little of the sound: so much is
        enough when it lasts so long.
    click_s : float
        Beside clicks only a pitch that lasts so long is playing.
    least_dbfs : float
        Softer sounds begin nothing: a hum in a quiet room has a pitch too.
    """

    least_note_s: float = 0.15
    lead_s: float = 0.45
    reach_s: float = 2.0
    after_last_s: float = 0.9
    give_up_s: float = 3.0
    rest_share: float = 1.4
    rest_more_s: float = 1.5
    gap_s: float = 0.3
    click_s: float = 0.06
    least_dbfs: float = -62.0
    stop_clarity: float = 0.3
    least_stop_s: float = 0.4


class TakeGate:
    """Watches frames; one gate for one take.

    Parameters
    ----------
    params : GateParams
    two_strings : bool
        Double stops are written.
    clicking : bool
        Our metronome sounds: what is short and without pitch is no playing.
    """

    def __init__(
        self,
        params: GateParams | None = None,
        *,
        two_strings: bool = False,
        clicking: bool = False,
    ) -> None:
        self._params = params or GateParams()
        self._two_strings, self._clicking = two_strings, clicking
        self._tone_since: float | None = None
        self.state: GateState = "waiting"
        self.start_s = 0.0
        self.end_s = 0.0
        self._pitched_since: float | None = None
        self._last_sound_s = float("-inf")
        self._sounding_since = self._opened_s = float("nan")

    def hear(
        self, frame: Now, *, last_note_heard: bool, rest_s: float = 0.0, spoken: bool = False
    ) -> GateState:
        """Take one frame.

        Parameters
        ----------
        frame : Now
        last_note_heard : bool
            Whether the follower has reached the end of the jig.
        rest_s : float
            Longest rest that is written hereabouts.
        spoken : bool
            Somebody speaks: nothing begins now.
        """
        p = self._params
        if not self._opened_s <= frame.time_s:
            self._opened_s = frame.time_s
        pitched = frame.sounding and isfinite(frame.f0_hz) and frame.clarity > 0.8
        long_enough_s = p.least_note_s
        if self._two_strings and not pitched:
            pitched = frame.sounding and frame.clarity > p.stop_clarity
            long_enough_s = p.least_stop_s
        is_click = self._is_click(frame, pitched)
        sounding = frame.sounding and not (self._clicking and is_click)
        if self.state == "waiting":
            if sounding:
                if not frame.time_s - self._last_sound_s <= p.gap_s:
                    self._sounding_since = frame.time_s
                self._last_sound_s = frame.time_s
            if not pitched or frame.level_db < p.least_dbfs:
                self._pitched_since = None
            elif self._pitched_since is None:
                self._pitched_since = frame.time_s
            elif not spoken and frame.time_s - self._pitched_since >= long_enough_s:
                self.state = "playing"
                self.start_s = self._reached_back(self._pitched_since)
                self._last_sound_s = frame.time_s
        elif self.state == "playing":
            if sounding:
                self._last_sound_s = frame.time_s
            silent_s = frame.time_s - self._last_sound_s
            wait_s = max(p.give_up_s, p.rest_share * rest_s + p.rest_more_s if rest_s else 0.0)
            limit = p.after_last_s if last_note_heard else wait_s
            if silent_s >= limit:
                self.state = "ended"
                self.end_s = self._last_sound_s + min(limit, 0.9)
        return self.state

    def _is_click(self, frame: Now, pitched: bool) -> bool:
        """Whether what sounds has had no pitch for long enough to be played."""
        if not pitched:
            self._tone_since = None
            return True
        if self._tone_since is None:
            self._tone_since = frame.time_s
        return frame.time_s - self._tone_since < self._params.click_s

    def _reached_back(self, pitched_s: float) -> float:
        """Where a take begins: nothing that sounded before its first pitch is cut off."""
        p = self._params
        start_s = min(pitched_s, self._sounding_since) - p.lead_s
        return max(0.0, self._opened_s, start_s, pitched_s - p.reach_s)

    def take_back(self) -> None:
        """What began was no playing."""
        if self.state == "playing":
            self.state, self._pitched_since = "waiting", None

    def stop(self, at_s: float) -> None:
        """End now by hand."""
        if self.state == "playing":
            self.state, self.end_s = "ended", at_s
