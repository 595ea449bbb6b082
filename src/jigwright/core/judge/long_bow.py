"""How long one stroke lasts and stays clear (B3), frame by frame while it is played.

The clock of a stroke begins with its tone – a bow that is laid on, a breath and the room's noise
are none – and ends when the sound stops, not when it wavers: what has no pitch counts while it is
no more than 25 dB under the tone of the last second. A waver is a moment in which
the tone breaks up (its period explains less than 85 % of it) or falls 6 dB under the last second's
level. Strokes under two seconds are false starts and are not counted.
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass
from math import isfinite

import numpy as np

from jigwright.core.sound.heard import Now

FALSE_START_S = 2.0
_GAP_S = 0.2
_START_S = 0.12
_SETTLE_S = 0.4
_ROUGH = 0.85
_FALL_DB = 6.0
_SILENT_DB = 25.0  # under the last second's level: no bow plays there without a pitch
_LEAST_WAVER_S = 0.03
_APART_S = 0.35
_MEMORY_S = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class LongStroke:
    """One long stroke.

    Parameters
    ----------
    seconds : float
        From the first sound to the last.
    clear_s : float
        Longest stretch without a waver.
    wavers_s : tuple of float
        Moments after the beginning.
    spread_db : float
        Standard deviation of the level about its own slow line.
    """

    seconds: float
    clear_s: float
    wavers_s: tuple[float, ...]
    spread_db: float


class LongBow:
    """Watches frames of somebody who plays long strokes on one note."""

    def __init__(self) -> None:
        self.strokes: list[LongStroke] = []
        self._begin_s: float | None = None
        self._last_s = 0.0
        self._tone_since: float | None = None
        self._recent: deque[tuple[float, float]] = deque()
        self._levels: list[float] = []
        self._wavers: list[float] = []
        self._bad_since: float | None = None

    @property
    def running(self) -> bool:
        """Whether a stroke is being played."""
        return self._begin_s is not None

    @property
    def seconds(self) -> float:
        """Length of the running stroke so far."""
        return 0.0 if self._begin_s is None else self._last_s - self._begin_s

    @property
    def wavers_s(self) -> tuple[float, ...]:
        """Wavers of the running stroke."""
        return tuple(self._wavers)

    @property
    def best(self) -> LongStroke | None:
        """The longest stroke so far."""
        return max(self.strokes, key=lambda s: s.seconds, default=None)

    def hear(self, frame: Now) -> bool:
        """Take a frame; says whether a stroke has just ended (and was counted)."""
        t = frame.time_s
        if self._begin_s is None:
            if not _has_tone(frame):
                self._tone_since = None
            else:
                self._tone_since = t if self._tone_since is None else self._tone_since
                if t - self._tone_since >= _START_S:
                    self._start(self._tone_since)
            return False
        if self._counts(frame):
            self._last_s = t
            self._watch(frame)
            return False
        return t - self._last_s >= _GAP_S and self._end()

    def _counts(self, frame: Now) -> bool:
        """Whether the stroke still sounds."""
        if _has_tone(frame):
            return True
        return frame.sounding and frame.level_db > self._usual_db() - _SILENT_DB

    def _usual_db(self) -> float:
        """Level of the last second; nothing is known yet: any level counts."""
        if not self._recent:
            return float("-inf")
        return float(np.median([level for _, level in self._recent]))

    def _start(self, at_s: float) -> None:
        self._begin_s = self._last_s = at_s
        self._tone_since = None
        self._recent.clear()
        self._levels, self._wavers, self._bad_since = [], [], None

    def _watch(self, frame: Now) -> None:
        assert self._begin_s is not None
        t = frame.time_s
        inside = t - self._begin_s > _SETTLE_S
        fallen = frame.level_db < self._usual_db() - _FALL_DB
        bad = inside and (frame.clarity < _ROUGH or fallen)
        if inside:
            self._levels.append(frame.level_db)
        if not bad:
            self._recent.append((t, frame.level_db))
            self._bad_since = None
        else:
            self._bad_since = t if self._bad_since is None else self._bad_since
            at = self._bad_since - self._begin_s
            long_enough = t - self._bad_since >= _LEAST_WAVER_S
            if long_enough and not any(abs(at - w) < _APART_S for w in self._wavers):
                self._wavers.append(at)
        while self._recent and t - self._recent[0][0] > _MEMORY_S:
            self._recent.popleft()

    def _end(self) -> bool:
        seconds = self.seconds
        self._begin_s = None
        if seconds < FALSE_START_S:
            return False
        # the release is no waver
        wavers = tuple(w for w in self._wavers if w < seconds - 0.15)
        edges = [0.0, *wavers, seconds]
        levels = np.array(self._levels) if len(self._levels) > 4 else np.zeros(5)
        line = np.polyval(np.polyfit(np.arange(len(levels)), levels, 1), np.arange(len(levels)))
        self.strokes.append(
            LongStroke(
                seconds=seconds, clear_s=max(b - a for a, b in zip(edges, edges[1:], strict=False)),
                wavers_s=wavers, spread_db=float(np.std(levels - line)),
            )
        )  # fmt: skip
        return True


def _has_tone(frame: Now) -> bool:
    return frame.sounding and isfinite(frame.f0_hz)
