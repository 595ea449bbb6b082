"""Ticks of somebody else's metronome, found while one listens and taken out of what is heard live.

It would begin a take by itself and never end it. The last seconds are looked through for an even
beat of equal sounds (:mod:`core.sound.metronome`); from then on each tick is subtracted when it is
due. When three in a row are not there, the machine has been stopped and is forgotten.
"""

from __future__ import annotations

from collections import deque

import numpy as np
from numpy.typing import NDArray

from jigwright.core.sound.metronome import Metronome, find_metronome, later
from jigwright.core.sound.metronome_out import TickSound, is_missing, shifted, subtract, tick_sounds
from jigwright.core.sound.percussive import band_levels, hop_samples
from jigwright.core.values import Floats

LOOK_BACK_S, LOOK_EVERY_S = 12.0, 3.0
_LEAST_S = 6.0
_EARLY_S, _STRIKES_S, _LEFT_S = 0.03, 0.06, 0.3
_LEFT_SHARE = 0.4  # of the time between ticks: soft playing must be heard in the rest
_STRIKES_DB, _LEFT_DB = 2.0, 5.0
_TRIED = 2
_LOOKS = 3  # with more ticks they are known better, and the first of the bar apart
_MEASURED_S = 0.12  # of a tick, after which its strength is known
_STOPPED, _GOES_ON = 3, 2.5  # ticks
_ONLY_TICKS = 0.1  # of the energy is left where nothing else sounds


class ForeignTicks:
    """A filter that finds out for itself what to take out; one for one recording.

    ``metronome`` is what is known by now, ``known_s`` since when, ``found_now`` whether the block
    that came last told more.

    Parameters
    ----------
    rate_hz : int
    """

    def __init__(self, rate_hz: int) -> None:
        self._rate = rate_hz
        self._recent: deque[NDArray[np.float32]] = deque()
        self._levels: list[NDArray[np.float32]] = []
        self._unread = np.zeros(0)
        self._n_recent = 0
        self._n = 0
        self._looked = 0
        self._sounds: tuple[TickSound | None, ...] = ()
        self._ticks_dbfs: tuple[float, ...] = ()
        self._due: dict[int, Floats] = {}
        self._i_measured = 0
        self._n_missing = 0
        self._n_looks = 0
        self._n_played = -1
        self.metronome: Metronome | None = None
        self.found_now = False
        self.known_s = float("inf")

    def take_out(self, block: Floats, *, playing: bool = False) -> Floats:
        """The same stretch of sound without them.

        Parameters
        ----------
        block : ndarray, shape (n,)
            Follows what was given before.
        playing : bool
            Somebody plays: until that is forgotten, what is known of the ticks gets no better.
        """
        self.found_now = False
        self._recent.append(np.asarray(block, dtype=np.float32))
        self._n_recent += len(block)
        self._n += len(block)
        while self._n_recent - len(self._recent[0]) >= LOOK_BACK_S * self._rate:
            self._n_recent -= len(self._recent.popleft())
        self._read(block)
        if self.metronome is not None:
            self._measure(self.metronome)
        if playing:
            self._n_played = self._n
        by_themselves = self._n - self._n_played > self._n_recent
        if self.metronome is None or (self._n_looks < _LOOKS and by_themselves):
            self._look()
        return block if self.metronome is None else self._without(block, self.metronome)

    def _read(self, block: Floats) -> None:
        """Levels of what came, kept for as long as they are looked at."""
        x = np.concatenate([self._unread, np.asarray(block, dtype=np.float64)])
        levels = band_levels(x, self._rate)
        self._unread = x[len(levels) * hop_samples(self._rate) :]
        self._levels.append(levels)
        most = self._n_recent / hop_samples(self._rate)
        while sum(map(len, self._levels)) - len(self._levels[0]) >= most:
            self._levels.pop(0)

    def only_ticks(self, since_s: float) -> bool:
        """Whether nothing but ticks has sounded since a time, as far as it is remembered."""
        if self.metronome is None:
            return False
        recent, from_s = self._remembered()
        here = later(self.metronome, -from_s)
        left = subtract(recent, self._rate, here, self._sounds)
        lo = max(0, round((since_s - from_s) * self._rate))
        whole = float(np.sum(recent[lo:] ** 2))
        return float(np.sum(left[lo:] ** 2)) < _ONLY_TICKS * whole

    def covers(self, time_s: float, level_dbfs: float) -> bool:
        """Whether so soft a sound at a time may be what is left of a tick."""
        if self.metronome is None:
            return False
        i = self._beat_at(time_s + _EARLY_S)
        tick_dbfs = self._ticks_dbfs[self.metronome.bar[i % len(self.metronome.bar)]]
        since_s = time_s - (self.metronome.first_s + i * self.metronome.period_s)
        if since_s > min(_LEFT_S, _LEFT_SHARE * self.metronome.period_s):
            return False
        return level_dbfs < tick_dbfs - (_LEFT_DB if since_s > _STRIKES_S else -_STRIKES_DB)

    def _remembered(self, seconds: float = LOOK_BACK_S) -> tuple[Floats, float]:
        """The last seconds at least, as far as they are kept, and when they begin."""
        parts: list[NDArray[np.float32]] = []
        n = 0
        for part in reversed(self._recent):
            parts.append(part)
            n += len(part)
            if n >= seconds * self._rate:
                break
        recent = np.concatenate(parts[::-1]).astype(np.float64)
        return recent, (self._n - len(recent)) / self._rate

    def _look(self) -> None:
        if self._n - self._looked < LOOK_EVERY_S * self._rate or self._n < _LEAST_S * self._rate:
            return
        self._looked = self._n
        hop = hop_samples(self._rate)
        recent, from_s = self._remembered()
        levels = np.concatenate(self._levels)
        found = find_metronome(recent, self._rate, levels[-(len(recent) // hop) :], tried=_TRIED)
        if (
            found is None
            or len(recent) / self._rate - found.ticks_s[-1] > _GOES_ON * found.period_s
        ):
            return
        self._n_looks += self.metronome is not None
        self._sounds = tick_sounds(recent, self._rate, found)
        self._ticks_dbfs = tuple(
            float("-inf") if one is None else one.level_dbfs(self._rate) for one in self._sounds
        )
        self.metronome = later(found, from_s)
        self._due.clear()
        self.found_now = True
        self.known_s = min(self.known_s, self._n / self._rate)
        self._i_measured = self._beat_at(self._n / self._rate) + 1
        self._n_missing = 0

    def _beat_at(self, time_s: float) -> int:
        assert self.metronome is not None
        return int((time_s - self.metronome.first_s) / self.metronome.period_s)

    def _sound(self, metronome: Metronome, i: int) -> TickSound | None:
        k = metronome.bar[i % len(metronome.bar)]
        return self._sounds[k] if k < len(self._sounds) else None

    def _measure(self, metronome: Metronome) -> None:
        """Look at ticks that are over: whether they were there."""
        while True:
            i = self._i_measured
            at_s = metronome.first_s + i * metronome.period_s
            if at_s + _MEASURED_S > self._n / self._rate:
                return
            self._i_measured += 1
            sound = self._sound(metronome, i)
            if sound is None:
                continue
            n = sound.lead + round(_MEASURED_S * self._rate)
            begun = TickSound(samples=sound.samples[:n], lead=sound.lead)
            recent, from_s = self._remembered(self._n / self._rate - at_s + 2 * _MEASURED_S)
            missing = is_missing(recent, self._rate, at_s - from_s, begun)
            self._n_missing = self._n_missing + 1 if missing else 0
            if self._n_missing >= _STOPPED:
                self.metronome, self._looked, self._n_looks = None, self._n, 0
                self.known_s = float("inf")
                return

    def _without(self, block: Floats, metronome: Metronome) -> Floats:
        out = np.array(block, dtype=np.float64)
        start = self._n - len(block)
        first = self._beat_at(start / self._rate) - 1  # a tick is over before the next
        last = self._beat_at(self._n / self._rate) + 1
        for i in range(first, last + 1):
            sound = self._sound(metronome, i)
            if sound is None:
                continue
            exact = (metronome.first_s + i * metronome.period_s) * self._rate - sound.lead
            begins = int(np.floor(exact))
            lo, hi = max(start, begins), min(self._n, begins + len(sound.samples))
            if hi > lo:
                if i not in self._due:
                    self._due = {k: v for k, v in self._due.items() if k >= first}
                    self._due[i] = shifted(sound.samples, exact - begins)
                tick = self._due[i][lo - begins : hi - begins]
                there = out[lo - start : hi - start]
                if np.sum((there - tick) ** 2) < np.sum(there**2):  # else it has been stopped
                    there -= tick
        return out
