"""Double stops as notes while somebody plays: what the place in an exercise is known by.

The ear for single notes hears of two strings now the one and now the other. What both strings were
in each newest window is known ten times a second (:mod:`live_pair`); as long as it is the same it
is one stop, unless the level fell between as a bow that changes lets it.
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass, field

import numpy as np

from jigwright.core.sound.heard import Now, Pair, PairNow, Segment
from jigwright.core.values import median, read_only

_SAME_CENTS = 65.0
_FEWEST = 3  # looks that make a stop
_MISSED = 1  # looks that something else may be heard for
_MOST = 200
_KEPT_S = 8.0
_DIP_DB, _SHOULDER_S = 7.0, 0.15
_BEFORE_S = 0.1
_SETTLES_S = 0.15  # after a beginning no dip is one


@dataclass(slots=True)
class _Run:
    start_s: float
    last_s: float
    lower_hz: list[float] = field(default_factory=list)
    upper_hz: list[float] = field(default_factory=list)
    missed: int = 0

    def is_like(self, now: PairNow) -> bool:
        both = ((now.lower_hz, self.lower_hz), (now.upper_hz, self.upper_hz))
        return all(abs(1200.0 * np.log2(f / median(np.array(t)))) < _SAME_CENTS for f, t in both)


@dataclass(frozen=True, slots=True, kw_only=True)
class LiveStop:
    """A stop that has ended.

    Parameters
    ----------
    onset_s, offset_s : float
    lower_hz, upper_hz : float
    """

    onset_s: float
    offset_s: float
    lower_hz: float
    upper_hz: float


class LiveStops:
    """Gathers looks into stops.

    Parameters
    ----------
    step_s : float
        Between two looks.
    """

    def __init__(self, step_s: float) -> None:
        self._step_s = step_s
        self._run: _Run | None = None
        self._levels: deque[tuple[float, float]] = deque()
        self._found: deque[LiveStop] = deque(maxlen=_MOST)

    @property
    def found(self) -> tuple[LiveStop, ...]:
        """Stops that have ended, in time order."""
        return tuple(self._found)

    @property
    def sounding_since_s(self) -> float | None:
        """Where the stop that sounds now began; ``None``: none does."""
        run = self._run
        return run.start_s if run is not None and len(run.lower_hz) >= _FEWEST else None

    def forget(self) -> None:
        """A take ended: the next begins from nothing."""
        self._run = None
        self._found.clear()

    def hear_level(self, frame: Now) -> None:
        """Take a frame's level."""
        self._levels.append((frame.time_s, frame.level_db))
        while self._levels and frame.time_s - self._levels[0][0] > _KEPT_S:
            self._levels.popleft()

    def hear(self, at_s: float, now: PairNow | None) -> bool:
        """Take a look; whether a stop has ended by it.

        Parameters
        ----------
        at_s : float
            Middle of the window.
        now : PairNow or None
        """
        n = len(self._found)
        run = self._run
        if run is not None and now is not None and run.is_like(now):
            cut_s = self._dip_s(run.start_s, at_s)
            if cut_s is not None:
                run.last_s = min(run.last_s, cut_s)
                self._close(run)
                run = self._run = _Run(start_s=cut_s, last_s=at_s)
            run.lower_hz.append(now.lower_hz)
            run.upper_hz.append(now.upper_hz)
            run.last_s, run.missed = at_s, 0
            return len(self._found) > n
        if run is not None:
            run.missed += 1
            if run.missed <= _MISSED:
                return False
            self._close(run)
            self._run = None
        if now is not None:
            self._run = _Run(
                start_s=at_s - 0.5 * self._step_s, last_s=at_s, lower_hz=[now.lower_hz],
                upper_hz=[now.upper_hz],
            )  # fmt: skip
        return len(self._found) > n

    def _close(self, run: _Run) -> None:
        if len(run.lower_hz) < _FEWEST:
            return
        self._found.append(
            LiveStop(
                onset_s=run.start_s, offset_s=run.last_s + 0.5 * self._step_s,
                lower_hz=median(np.array(run.lower_hz)), upper_hz=median(np.array(run.upper_hz)),
            )
        )  # fmt: skip

    def _dip_s(self, start_s: float, now_s: float) -> float | None:
        """Where the level fell and rose again since a stop began."""
        t = np.array([a for a, _ in self._levels])
        level = np.array([b for _, b in self._levels])
        inner = np.flatnonzero((t > start_s + _SETTLES_S) & (t < now_s))
        if len(inner) < 3:
            return None
        lowest = int(inner[np.argmin(level[inner])])
        before = level[(t < t[lowest]) & (t > t[lowest] - _SHOULDER_S)]
        after = level[(t > t[lowest]) & (t < t[lowest] + _SHOULDER_S)]
        if not len(before) or not len(after):
            return None
        deep = min(float(before.max()), float(after.max())) - float(level[lowest])
        return float(t[lowest]) if deep > _DIP_DB else None


def with_stops(
    notes: list[Segment], stops: tuple[LiveStop, ...], *, since_s: float | None = None
) -> tuple[tuple[Segment, ...], tuple[Pair, ...]]:
    """Notes with stops in place of what was heard of their single voices, and the stops as pairs.

    Parameters
    ----------
    notes : list of Segment
        As the ear for single notes decided them.
    stops : tuple of LiveStop
    since_s : float or None
        Where a stop began that sounds still: what begins in it is no note.
    """
    if since_s is not None:
        notes = [n for n in notes if n.onset_s < since_s - _BEFORE_S]
    if not stops:
        return tuple(notes), ()
    kept = [n for n in notes if not any(_inside(n, s) for s in stops)]
    pairs = tuple(_pair(s) for s in stops)
    kept += [_segment(s, i) for i, s in enumerate(stops)]
    return tuple(sorted(kept, key=lambda n: n.onset_s)), pairs


def _inside(note: Segment, stop: LiveStop) -> bool:
    shared_s = min(note.offset_s, stop.offset_s) - max(note.onset_s, stop.onset_s)
    return shared_s > 0.4 * (note.offset_s - note.onset_s)


def _segment(stop: LiveStop, i: int) -> Segment:
    return Segment(
        onset_s=stop.onset_s, offset_s=stop.offset_s, core_start_s=stop.onset_s,
        core_end_s=stop.offset_s, f0_hz=stop.lower_hz, uncertainty_cents=5.0, spread_cents=2.0,
        drift_cents_per_s=0.0, level_dbfs=-30.0, attack_db=12.0, clarity=0.9, slurred=False,
        i_pair=i,
    )  # fmt: skip


def _pair(stop: LiveStop) -> Pair:
    at_s = read_only(np.array([0.5 * (stop.onset_s + stop.offset_s)]))
    return Pair(
        onset_s=stop.onset_s, offset_s=stop.offset_s, lower_hz=stop.lower_hz,
        upper_hz=stop.upper_hz, lower_uncertainty_cents=5.0, upper_uncertainty_cents=5.0,
        balance_db=float("nan"), balance_uncertainty_db=float("nan"), level_dbfs=-30.0,
        times_s=at_s, lower_track_hz=read_only(np.array([stop.lower_hz])),
        upper_track_hz=read_only(np.array([stop.upper_hz])),
        balance_track_db=read_only(np.array([float("nan")])),
    )  # fmt: skip
