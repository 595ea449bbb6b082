"""What rings under the note that sounds now: the string that the note just left has woken.

The same lines and the same rules as afterwards, on the last seconds of sound and the notes decided
in them; what sounds now and is not decided yet counts as one more note. It is for the eye at the
Stand and is never kept.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from jigwright.core.gauge.ring import measure_ring, room_as_heard, strings_as_rang
from jigwright.core.gauge.ring_place import Hold, RingPlace, holds_of
from jigwright.core.gauge.values import Ring
from jigwright.core.music.sympathy import OPEN_T60_S, USUAL_T60_S
from jigwright.core.sound.heard import Now, RingLine, RingNow, Segment, moved
from jigwright.core.sound.resample import BlockResampler
from jigwright.core.sound.ringing import measure_lines
from jigwright.core.values import Floats, median

RATE_HZ = 8_000
READY_S = 0.75  # after a note's end so much is needed to see a string die away
_KEPT_S = 5.0
_LEAST_SOUNDING_S = 0.15
_MOST_LINES = 400
_MOST_NOTES = 12
_EVERY_S = 0.4
_PAST = -1


class LiveRing:
    """Watches blocks for strings that ring.

    Parameters
    ----------
    rate_hz : int
        Of the blocks.
    open_hz : sequence of float
        Open strings as tuned, low to high.
    instrument_id : str
    """

    def __init__(self, rate_hz: int, open_hz: Sequence[float], instrument_id: str) -> None:
        self._resampler = BlockResampler(rate_hz, RATE_HZ)
        self._open_hz = tuple(open_hz)
        self._t60_s = OPEN_T60_S.get(instrument_id, USUAL_T60_S)
        self._x: Floats = np.zeros(0)
        self._n_past = 0  # samples that were let go
        self._notes: list[Segment] = []
        self._sounding: list[Now] = []
        self._waiting: list[Segment] = []
        self._lines: list[RingLine] = []
        self._looked_s = float("-inf")
        self.now: RingNow | None = None

    def push(self, block: Floats, notes: Sequence[Segment], frames: Sequence[Now]) -> None:
        """Take a block with what was decided in it; ``now`` is the newest string that was woken."""
        self._x = np.concatenate([self._x, self._resampler.push(block)])
        spare = len(self._x) - round(_KEPT_S * RATE_HZ)
        if spare > 0:
            self._x, self._n_past = self._x[spare:], self._n_past + spare
        self._notes = [*self._notes, *notes][-_MOST_NOTES:]
        self._waiting += notes
        self._sounding += [f for f in frames if np.isfinite(f.f0_hz)]
        if self._notes:
            self._sounding = [f for f in self._sounding if f.time_s > self._notes[-1].offset_s]
        end_s = (self._n_past + len(self._x)) / RATE_HZ
        ready = [n for n in self._waiting if n.offset_s + READY_S <= end_s]
        self._waiting = [n for n in self._waiting if n.offset_s + READY_S > end_s]
        if ready and end_s - self._looked_s >= _EVERY_S:  # faster than that no eye looks
            self._looked_s = end_s
            self.now = self._look(ready[-1], end_s) or self.now
        if self.now is not None and end_s > self.now.since_s + READY_S + self.now.decay_s:
            self.now = None

    def _look(self, note: Segment, end_s: float) -> RingNow | None:
        """What a note that is over has woken."""
        start_s = self._n_past / RATE_HZ
        played = [n for n in (*self._notes, *self._going_on(end_s)) if n.onset_s >= start_s]
        if note not in played:
            return None
        i = played.index(note)
        lines = measure_lines(self._x, RATE_HZ, [moved(n, -start_s) for n in played], self._open_hz)
        self._lines = [*self._lines, *(q for q in lines if q.i_segment == i)][-_MOST_LINES:]
        place = RingPlace(
            open_hz=self._open_hz, t60_s=self._t60_s, lines=(*lines, *self._of_the_room()),
            holds=tuple(
                Hold(
                    from_s=n.onset_s - start_s, to_s=n.offset_s - start_s,
                    perhaps=holds_of([n.f0_hz], self._open_hz),
                )
                for n in played
            ),
            string_cents={j: c for j, (c, _) in strings_as_rang(self._lines).items()},
            room_s=room_as_heard(self._lines),
        )  # fmt: skip
        ring = measure_ring(
            place, i_segment=i, f0_hz=note.f0_hz, onset_s=note.onset_s - start_s,
            offset_s=note.offset_s - start_s, on_strings=None,
        )  # fmt: skip
        best = ring.strongest if isinstance(ring, Ring) else None
        if best is None:
            return None
        return RingNow(
            string=best.meeting.string,
            level_db=best.level_db,
            decay_s=best.decay_s,
            since_s=note.offset_s,
        )

    def _of_the_room(self) -> list[RingLine]:
        """What was left of earlier notes' own partials, as of no note of the buffer."""
        return [replace(q, i_segment=_PAST) for q in self._lines if q.i_string < 0]

    def _going_on(self, end_s: float) -> list[Segment]:
        """What sounds now, as if it were a note already."""
        frames = self._sounding
        if not self._notes or len(frames) < 2:
            return []
        if frames[-1].time_s - frames[0].time_s < _LEAST_SOUNDING_S:
            return []
        last = self._notes[-1]
        return [
            replace(
                last, onset_s=frames[0].time_s, offset_s=end_s,
                f0_hz=median([f.f0_hz for f in frames]), i_pair=-1,
            )
        ]  # fmt: skip
