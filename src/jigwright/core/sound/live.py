"""Hearing while the player plays: the same frames, decisions with a fixed lag, bounded memory.

Frames come from the same block processor as offline. What is shown at once (``Now``) is the
newest frame; notes are decided by the offline rules on a window that reaches back to the end of
the last decided note, once they have been over for :attr:`LiveEar.lag_s`. On closing, the offline
result replaces all of it.

Stated delay of the pitch: half the analysis window (two to three periods of the lowest string),
one hop, and the block the sound card hands over.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jigwright.core.isolation import isolated
from jigwright.core.music.instruments import Instrument
from jigwright.core.sound.beginnings import with_beginnings
from jigwright.core.sound.continuity import without_waves
from jigwright.core.sound.contour import ContourParams, find_contour
from jigwright.core.sound.frame_params import frame_params
from jigwright.core.sound.frames import Frames, FrameStream, join_frames
from jigwright.core.sound.fundamental import lower_pieces
from jigwright.core.sound.heard import HOP_S, Contours, Now, Segment, moved
from jigwright.core.sound.listen import floors, scene_of
from jigwright.core.sound.measure_segment import Take, measure_segments
from jigwright.core.sound.novelty import NewSound, novelty_window_s
from jigwright.core.sound.polarity import parted_where_turned
from jigwright.core.sound.same_pitch import by_odds
from jigwright.core.sound.segments import Piece, find_pieces
from jigwright.core.values import Floats

_LONGEST_S = 40.0  # a longer note is decided in parts: bounds the memory
_LAG_S = 0.30
_BEFORE_FRAMES = 80  # kept before the last decided note's end
_LEVEL_BINS = np.arange(-150.0, 20.0, 0.5)


@dataclass(frozen=True, slots=True, kw_only=True)
class Heeded:
    """What a block brought.

    Parameters
    ----------
    frames : tuple of Now
        New frames in time order.
    notes : tuple of Segment
        Notes decided since the last block; times from the first sample.
    """

    frames: tuple[Now, ...]
    notes: tuple[Segment, ...]


class LiveEar:
    """Listen to blocks of samples.

    Parameters
    ----------
    inst : Instrument
    rate_hz : int
        Rate of the incoming samples.
    lowest_open_hz : float
    """

    def __init__(self, inst: Instrument, rate_hz: int, lowest_open_hz: float) -> None:
        self._params = frame_params(inst.id, lowest_open_hz, inst.highest_hz)
        self._stream = FrameStream(self._params, rate_hz)
        self._stream.pass_filtered()
        p = self._params
        self._new = NewSound(p.rate_hz, p.hop_samples, lowest_hz=lowest_open_hz)
        self._new_window_s = novelty_window_s(lowest_open_hz)
        self._frames: list[Frames] = []
        self._x = np.zeros(0, dtype=np.float32)
        self._i_first = 0  # index of the first kept frame since the beginning
        self._n_frames = 0
        self._n_decided = 0  # frames up to which notes are decided
        self._falls: dict[int, float] = {}
        self._odds: dict[int, float] = {}
        self._since = 0
        self._levels = np.zeros(len(_LEVEL_BINS), dtype=np.int64)
        self._last_hz = float("nan")
        self._floor_db, self._noise_db = -80.0, -140.0

    @property
    def delay_s(self) -> float:
        """Age of a frame when its last sample has come in."""
        return 0.5 * self._params.window_samples / self._params.rate_hz + HOP_S

    @property
    def lag_s(self) -> float:
        """How long after its end a note is decided at the latest, beyond the delay."""
        return _LAG_S

    @property
    def n_kept_frames(self) -> int:
        """Frames held in memory."""
        return sum(len(f.level_db) for f in self._frames)

    def push(self, block: Floats) -> Heeded:
        """Take a block of any length."""
        return self._take(self._stream.push(np.asarray(block, dtype=np.float64)), final=False)

    def finish(self) -> Heeded:
        """Decide the rest, the sound being followed by silence."""
        return self._take(self._stream.finish(), final=True)

    def _take(self, frames: Frames, *, final: bool) -> Heeded:
        n = len(frames.level_db)
        self._x = np.concatenate([self._x, self._stream.take_filtered().astype(np.float32)])
        if n:
            self._frames.append(frames)
            bins = np.clip(np.digitize(frames.level_db, _LEVEL_BINS) - 1, 0, len(self._levels) - 1)
            np.add.at(self._levels, bins, 1)
            self._noise_db, self._floor_db = self._floors()
        now = tuple(self._now(frames, i) for i in range(n))
        self._n_frames += n
        self._since += n
        held = self._n_frames - self._i_first
        notes: tuple[Segment, ...] = ()
        if (final and held) or self._since >= max(8, held // 40):
            self._since = 0
            notes = self._decide(final=final)
        return Heeded(frames=now, notes=notes)

    def _floors(self) -> tuple[float, float]:
        running = np.cumsum(self._levels)
        at = np.searchsorted(running, running[-1] * np.array([0.95, 0.03]))
        return floors(float(_LEVEL_BINS[at[0]]), float(_LEVEL_BINS[at[1]]))

    def _now(self, frames: Frames, i: int) -> Now:
        """The likeliest candidate, nearness to the last pitch counting a little."""
        level_db = float(frames.level_db[i])
        cost = 1.0 - frames.clarity[i]
        octave = np.log2(np.where(np.isfinite(frames.f0_hz[i]), frames.f0_hz[i], 1.0))
        cost = cost - 0.05 * octave
        if np.isfinite(self._last_hz):
            cost = cost + 0.15 * np.minimum(np.abs(octave - np.log2(self._last_hz)), 1.0)
        best = int(np.argmin(np.where(frames.clarity[i] > 0, cost, np.inf)))
        clarity = float(frames.clarity[i][best])
        sounding = level_db > self._floor_db
        f0_hz = float(frames.f0_hz[i][best]) if sounding and clarity > 0.7 else float("nan")
        self._last_hz = f0_hz
        return Now(
            time_s=(self._n_frames + i) * HOP_S, f0_hz=f0_hz, level_db=level_db, clarity=clarity,
            sounding=sounding,
        )  # fmt: skip

    def _decide(self, *, final: bool) -> tuple[Segment, ...]:
        frames = join_frames(self._frames)
        self._frames = [frames]
        contours = find_contour(frames, ContourParams(), floor_db=self._floor_db)
        p = self._params
        blur = p.window_samples / p.rate_hz / HOP_S / 2
        pieces = find_pieces(contours, floor_db=self._floor_db, blur_frames=max(2, round(blur)))
        fresh = isolated("novelty", lambda: self._new.of(self._x, len(contours.f0_hz)), None)
        pieces = isolated(
            "waves of level",
            lambda: without_waves(
                pieces, self._x, p.rate_hz, p.hop_samples, contours.f0_hz, self._falls,
                i_first=self._i_first, new=fresh,
            ),
            pieces,
        )  # fmt: skip
        whole = pieces
        pieces = isolated(
            "bows that turn",
            lambda: parted_where_turned(whole, self._x, p.rate_hz, contours.f0_hz, (), fresh),
            pieces,
        )
        if fresh is not None:
            scene = scene_of(self._x, p, contours, fresh)
            nothing: list[Piece] = []
            begun, maybe = isolated(
                "beginnings", lambda: with_beginnings(pieces, scene), (pieces, nothing)
            )
            pieces = isolated(
                "one pitch again",
                lambda: by_odds(begun, maybe, scene, known=self._odds, i_first=self._i_first)[0],
                begun,
            )
        end = len(frames.level_db)
        ripe = end if final else end - round(_LAG_S / HOP_S)
        new = [i for i, q in enumerate(pieces) if self._is_new(q) and q.stop <= ripe]
        new = [i for i in new if final or self._is_over(pieces, i, ripe, end)]
        if new:
            notes = self._measured(pieces, new, contours, blur)
            self._n_decided = self._i_first + pieces[new[-1]].stop
        else:
            notes = ()
        self._forget(pieces, new)
        return notes

    def _is_new(self, piece: Piece) -> bool:
        middle = self._i_first + 0.5 * (piece.start + piece.stop)
        return middle >= self._n_decided

    def _is_over(self, pieces: list[Piece], i: int, ripe: int, end: int) -> bool:
        """A note is over when silence or a note long enough to be one has followed."""
        if i + 1 == len(pieces):
            return True
        follower = pieces[i + 1]
        return follower.stop - follower.start >= 24 or follower.stop <= ripe or end - ripe < 1

    def _measured(
        self, pieces: list[Piece], new: list[int], contours: Contours, blur: float
    ) -> tuple[Segment, ...]:
        p = self._params
        lo = max(0, new[0] - 1)
        part = pieces[lo : new[-1] + 2]
        part, f0_hz = lower_pieces(
            part, contours.f0_hz, self._x, p.rate_hz, p.hop_samples, p.lowest_hz
        )
        take = Take(
            x=self._x, rate_hz=p.rate_hz, hop_samples=p.hop_samples,
            contours=Contours(
                f0_hz=f0_hz, level_db=contours.level_db, clarity=contours.clarity,
                centroid_hz=contours.centroid_hz, loudness_db=contours.loudness_db,
            ),
            blur_s=blur * HOP_S, noise_db=self._noise_db,
            new_window_s=self._new_window_s,
        )  # fmt: skip
        first_s = max(pieces[new[0]].start, self._n_decided - self._i_first - 4) * HOP_S
        last_s = pieces[new[-1]].stop * HOP_S
        shift_s = self._i_first * HOP_S
        return tuple(
            moved(s, shift_s)
            for s in measure_segments(take, part)
            if first_s - 0.1 <= 0.5 * (s.onset_s + s.offset_s) <= last_s
            and s.offset_s > first_s + 0.02
        )

    def _forget(self, pieces: list[Piece], new: list[int]) -> None:
        """Drop what no later decision needs."""
        held = self._n_frames - self._i_first
        keep_from = self._n_decided - self._i_first - _BEFORE_FRAMES
        if new and new[-1] > 0:  # the last decided note is the neighbour of the next
            keep_from = min(keep_from, pieces[new[-1]].start - _BEFORE_FRAMES)
        pending = [q.start for i, q in enumerate(pieces) if self._is_new(q)]
        silent_from = held - round(1.0 / HOP_S)
        if not pending:
            keep_from = max(keep_from, silent_from)
        keep_from = max(keep_from, held - round(_LONGEST_S / HOP_S))
        keep_from -= keep_from % 2
        if keep_from < 64:
            return
        self._new.forget(keep_from)
        frames = self._frames[0]
        self._frames = [
            Frames(
                f0_hz=frames.f0_hz[keep_from:], clarity=frames.clarity[keep_from:],
                level_db=frames.level_db[keep_from:], centroid_hz=frames.centroid_hz[keep_from:],
                loudness_db=frames.loudness_db[keep_from:],
            )
        ]  # fmt: skip
        self._x = self._x[keep_from * self._params.hop_samples :]
        self._i_first += keep_from
        self._falls = {i: db for i, db in self._falls.items() if i >= self._i_first}
        self._odds = {i: odds for i, odds in self._odds.items() if i >= self._i_first}
