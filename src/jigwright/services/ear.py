"""Listening while the player plays: notes, the place in the jig, takes that begin and end."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np

from jigwright.core.follow.gate import TakeGate
from jigwright.core.follow.live_follower import LiveFollower
from jigwright.core.isolation import isolated
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime
from jigwright.core.jig.stops import written_stops_hz
from jigwright.core.judge.live_ring import LiveRing
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import pure_strings
from jigwright.core.sound.foreign_ticks import ForeignTicks
from jigwright.core.sound.foreign_tones import ForeignTones
from jigwright.core.sound.heard import Now, Segment, moved, moved_ring
from jigwright.core.sound.live import Heeded, LiveEar
from jigwright.core.sound.live_pair import EVERY_S, LivePair
from jigwright.core.sound.live_stops import LiveStops, with_stops
from jigwright.core.sound.live_talk import TalkWatch
from jigwright.core.sound.own_sounds import SETTLES_S, OwnSounds
from jigwright.core.sound.pluck_signals import PluckWatch
from jigwright.core.values import Floats
from jigwright.services.recording import EarRequest, EarSays, FoundTakes

_MOST_NOTES = 400
_SAME_START_S = 1.0
_LEAST_PACED = 4  # notes that say how fast somebody plays
_TAKEN_BACK_S = 6.0
_SIGNAL_LEAD_S, _RINGS_S = 0.1, 2.0  # what a signal leaves ringing is no beginning
_NEAR_EVENTS = 3  # the follower may be a note or two behind


def rests_s(jig: Jig) -> tuple[float, ...]:
    """Written silence after each event but the last, in seconds at the written tempo."""
    time = WrittenTime(jig)
    return tuple(
        max(0.0, time.at(after.onset_beats) - time.at(before.end_beats))
        for before, after in zip(jig.events, jig.events[1:], strict=False)
    )


def comes_too_soon(onsets: Sequence[tuple[int, float]], jig: Jig, rests_s: Sequence[float]) -> bool:
    """Whether the last note heard came earlier than it can have been played.

    Among equal notes with rests between them a stroke that broke counts as two, and the follower
    runs ahead by one: what it takes for the last note is the one before, and a rest follows.

    Parameters
    ----------
    onsets : sequence of (int, float)
        Events with when they were heard, in time order.
    jig : Jig
    rests_s : sequence of float
        Written silence after each event but the last.
    """
    if len(onsets) < _LEAST_PACED or not rests_s:
        return False
    time = WrittenTime(jig)
    written = np.array([time.at(jig.events[i].onset_beats) for i, _ in onsets])
    heard = np.array([at_s for _, at_s in onsets])
    steps = np.diff(written)
    forward = steps > 0.0
    if np.count_nonzero(forward) < _LEAST_PACED - 1:
        return False
    pace = float(np.median(np.diff(heard)[forward] / steps[forward]))
    lacking_s = pace * (written[-1] - written[0]) - (heard[-1] - heard[0])
    return bool(lacking_s > 0.5 * pace * max(rests_s[-_NEAR_EVENTS:]) > 0.0)


class Ear:
    """Turns blocks of a recording into what the Stand shows.

    Parameters
    ----------
    request : EarRequest
    rate_hz : int
    """

    def __init__(self, request: EarRequest, rate_hz: int) -> None:
        strings = pure_strings(request.strings, request.a4_hz)
        self._ear = LiveEar(instrument(request.instrument_id), rate_hz, min(strings.values()))
        self._request = request
        self._two = request.jig is not None and any(len(e.heads) > 1 for e in request.jig.events)
        self._clicking = bool(request.beside.clicks_hz)
        self._gate = TakeGate(two_strings=self._two, clicking=self._clicking)
        self._notes: list[Segment] = []
        self._i_event: int | None = None
        self._too_soon = False
        jig = request.jig
        inst = instrument(request.instrument_id)
        self._pair: LivePair | None = None
        if self._two:
            self._pair = LivePair(
                inst, rate_hz, min(strings.values()),
                stops_hz=written_stops_hz(jig, request.a4_hz),
            )  # fmt: skip
        self._stops = LiveStops(EVERY_S)
        self._ring: LiveRing | None = LiveRing(
            rate_hz, tuple(strings.values()), request.instrument_id
        )
        self._shift_s = request.from_s
        beside = request.beside
        self._foreign: ForeignTones | None = ForeignTones(rate_hz)
        self._ticks: ForeignTicks | None = ForeignTicks(rate_hz)
        self._own: OwnSounds | None = None
        if beside.drone_hz or beside.clicks_hz:
            self._own = OwnSounds(rate_hz, beside.drone_hz, beside.clicks_hz)
        self._settled_s = beside.since_s + SETTLES_S if beside.drone_hz else float("-inf")
        self._rests_s = rests_s(jig) if jig is not None else ()
        self._follower = self._new_follower()
        self._talk: TalkWatch | None = TalkWatch(rate_hz)
        self._taken_back_s = float("-inf")
        self._signals: PluckWatch | None = None
        if request.signals:
            self._signals = PluckWatch(rate_hz, min(strings.values()))
        self._began_s = self._rings_until_s = float("-inf")

    def _new_follower(self) -> LiveFollower | None:
        jig = self._request.jig
        return None if jig is None else LiveFollower(jig, self._request.a4_hz)

    @property
    def delay_s(self) -> float:
        """Age of a frame when it is said."""
        return self._ear.delay_s

    @property
    def playing_since_s(self) -> float | None:
        """Where the take that is being played began; ``None`` while nobody plays."""
        return self._gate.start_s if self._gate.state == "playing" else None

    def hear(self, block: Floats) -> EarSays:
        """Take a block of any length."""
        samples: Floats = np.asarray(block, dtype=np.float64)
        if self._own is not None:
            samples = self._own.take_out(samples)
        samples = self._without_ticks(self._without_foreign(samples))
        heeded = self._ear.push(samples)
        ring = self._ring
        if ring is not None:
            isolated(
                "what rings now", lambda: ring.push(samples, heeded.notes, heeded.frames), None
            )
        if self._shift_s:
            heeded = Heeded(
                frames=tuple(replace(f, time_s=f.time_s + self._shift_s) for f in heeded.frames),
                notes=tuple(moved(n, self._shift_s) for n in heeded.notes),
            )
        talking = self._heed_talk(samples, heeded)
        ended = self._hear_stops(samples, heeded)
        signal, take = self._heed_signals(samples)
        if heeded.notes or ended:
            self._notes += heeded.notes
            self._notes = self._notes[-_MOST_NOTES:]
            self._follow()
        for frame in heeded.frames:
            if frame.time_s < self._settled_s and self._gate.state == "waiting":
                continue  # the drone is not out yet: it begins nothing
            was = self._gate.state
            state = self._gate.hear(
                self._but_for_ticks(frame), last_note_heard=self._is_last(),
                rest_s=self._rest_ahead_s(), spoken=talking or self._still_rings(frame),
            )  # fmt: skip
            if state == "playing" and was == "waiting":
                self._began_s = frame.time_s
                self._begins()
            if state == "ended":
                a_word = self._talk is not None and self._talk.was_a_word
                take = None if a_word else (self._gate.start_s, self._gate.end_s)
                self._gate = TakeGate(two_strings=self._two, clicking=self._clicking)
                self._from_the_beginning()
        return EarSays(
            frames=heeded.frames, notes=heeded.notes, i_event=self._i_event, take=take,
            since_s=self.playing_since_s,
            pair=self._pair.now if self._pair is not None else None,
            ring=moved_ring(ring.now, self._shift_s) if ring is not None else None,
            talking=talking, signal=signal,
        )  # fmt: skip

    def _heed_signals(self, samples: Floats) -> tuple[int, tuple[float, float] | None]:
        """How often the lowest string was plucked as a signal, and the take that it ended.

        What only the plucks began is no take; one that was over before them ends there.
        """
        watch = self._signals
        if watch is None:
            return 0, None
        signal = isolated("signals", lambda: watch.push(samples), None)
        if signal is None:
            self._signals = None
            return 0, None
        take: tuple[float, float] | None = None
        if signal and self._gate.state == "playing":
            began_s = watch.began_s + self._shift_s
            if self._began_s < began_s:
                take = self._gate.start_s, began_s - _SIGNAL_LEAD_S
                self._gate = TakeGate(two_strings=self._two, clicking=self._clicking)
            else:
                self._gate.take_back()
            self._from_the_beginning()
        if signal:
            self._rings_until_s = watch.heard_s + self._shift_s + _RINGS_S
        return signal, take

    def _still_rings(self, frame: Now) -> bool:
        """Whether what sounds is what a signal left; silence ends it."""
        if not frame.sounding:
            self._rings_until_s = float("-inf")
        return frame.time_s < self._rings_until_s

    def _from_the_beginning(self) -> None:
        """Nothing has been played of the next take."""
        self._notes, self._i_event = [], None
        self._follower = self._new_follower()
        self._stops.forget()

    def _begins(self) -> None:
        """A take has begun; what was taken back shortly before may have been playing after all."""
        if self._talk is not None:
            self._talk.begins()
        before_s, self._taken_back_s = self._taken_back_s, float("-inf")
        if self._gate.start_s - before_s < _TAKEN_BACK_S:
            self._gate.start_s = before_s

    def _heed_talk(self, samples: Floats, heeded: Heeded) -> bool:
        """Whether somebody speaks; what began with it is taken back."""
        watch = self._talk
        if watch is None:
            return False
        begun_s = self._gate.start_s - self._shift_s if self._gate.state == "playing" else None

        def heed() -> bool:
            watch.push(samples, heeded.notes)
            return watch.goes_on() if begun_s is None else watch.is_talk(begun_s)

        talking = isolated("talk", heed, None)
        if talking is None:
            self._talk = None
            return False
        if talking and begun_s is not None:
            self._taken_back_s = self._gate.start_s
            self._gate.take_back()
            self._from_the_beginning()
        return talking

    def _hear_stops(self, samples: Floats, heeded: Heeded) -> bool:
        """Both strings, where two are written; whether a stop has ended."""
        if self._pair is None:
            return False
        for frame in heeded.frames:
            self._stops.hear_level(frame)
        at_s = self._pair.push(samples)
        return at_s is not None and self._stops.hear(at_s + self._shift_s, self._pair.now)

    def _without_foreign(self, samples: Floats) -> Floats:
        """Without tones of somebody else's machine, as far as they are known by now."""
        foreign = self._foreign
        if foreign is None:
            return samples
        looks = self._gate.state == "playing"
        left = isolated("foreign tones", lambda: foreign.take_out(samples, looks=looks), None)
        if left is None:
            self._foreign = None
        return samples if left is None else left

    def _without_ticks(self, samples: Floats) -> Floats:
        """Without the ticks of somebody else's metronome; what only they began is taken back."""
        ticks = self._ticks
        if ticks is None:
            return samples
        begun_s = self._gate.start_s - self._shift_s if self._gate.state == "playing" else None

        def without() -> tuple[Floats, bool]:
            playing = begun_s is not None and ticks.known_s < begun_s
            out = ticks.take_out(samples, playing=playing)
            return out, ticks.found_now and begun_s is not None and ticks.only_ticks(begun_s)

        left = isolated("a metronome that is not ours", without, None)
        if left is None:
            self._ticks = None
            return samples
        out, only_ticks = left
        if only_ticks:
            self._gate.take_back()
            self._from_the_beginning()
        return out

    def _but_for_ticks(self, frame: Now) -> Now:
        """The frame; what may be left of a tick that was taken out is silence."""
        ticks = self._ticks
        if ticks is None or not ticks.covers(frame.time_s - self._shift_s, frame.level_db):
            return frame
        return replace(frame, sounding=False)

    def find(self, blocks: Iterable[Floats], *, stop_s: float, at_end: bool) -> FoundTakes:
        """Listen to all of a stretch and say which takes lie in it.

        Parameters
        ----------
        blocks : iterable of ndarray
            Samples from ``from_s`` to ``stop_s``, in order.
        stop_s : float
        at_end : bool
            A take that is being played at the end ends there; else it is left to the next
            stretch, unless it fills this one.
        """
        self._ring = None  # nobody looks on
        spans: list[tuple[float, float]] = []
        for block in blocks:
            says = self.hear(block)
            if says.take is not None:
                spans.append((max(says.take[0], self._shift_s), min(says.take[1], stop_s)))
        since = self.playing_since_s
        heard_s = stop_s
        if since is not None:
            if at_end or since - self._shift_s < _SAME_START_S:
                spans.append((max(since, self._shift_s), stop_s))
            else:
                heard_s = since
        return FoundTakes(spans=tuple(spans), heard_s=heard_s)

    def _rest_ahead_s(self) -> float:
        """Longest rest written near where the player is; anywhere, where that is not known."""
        if self._i_event is None:
            return max(self._rests_s, default=0.0)
        near = self._rests_s[max(0, self._i_event - _NEAR_EVENTS) : self._i_event + _NEAR_EVENTS]
        return max(near, default=0.0)

    def _is_last(self) -> bool:
        jig = self._request.jig
        return jig is not None and self._i_event == len(jig.events) - 1 and not self._too_soon

    def _follow(self) -> None:
        jig = self._request.jig
        if jig is None or self._follower is None:
            return
        notes, pairs = with_stops(
            self._notes, self._stops.found, since_s=self._stops.sounding_since_s
        )
        followed = self._follower.follow(notes, pairs)
        self._i_event = followed.i_event
        self._too_soon = comes_too_soon(followed.onsets, jig, self._rests_s)
