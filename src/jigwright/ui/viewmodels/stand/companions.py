"""Drone and metronome under the playing."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, pyqtSignal

from jigwright.core.companion import (
    CLICKS_HZ,
    RATE_HZ,
    CueLine,
    Pulse,
    click_block,
    drone_block,
    drone_partials,
)
from jigwright.core.jig.cue import cue_tones, has_cue
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.music.references import target_hz
from jigwright.services.recording import Accompaniment
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.wording.errors import error_sentence

Drone = Literal["off", "tonic", "fifth", "fifth_alone"]
_NEXT: dict[Drone, Drone] = {
    "off": "tonic", "tonic": "fifth", "fifth": "fifth_alone", "fifth_alone": "off",
}  # fmt: skip
_LEAD_S = 0.4  # what a take keeps before its first note


def _fifth_of(tonic: PitchClass) -> PitchClass:
    return PitchClass.from_fifths(tonic.fifths + 1)


class Companions(QObject):
    """What sounds while somebody plays.

    Signals
    -------
    changed
    message : str
    """

    changed = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(
        self, session: SessionModel, sound: SoundModel, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._session, self._sound = session, sound
        self.drone: Drone = "off"
        self.click = False
        self.count_in = False
        self.cue = False
        self.subdivisions = 1
        self.silent_bars = 0
        self._counted_s = 0.0
        self._sounding_hz: tuple[float, ...] = ()
        session.changed.connect(self._tune)

    @property
    def sounding(self) -> bool:
        """Whether a drone, a metronome or an accompaniment sounds."""
        return self.drone != "off" or self.click or self.plays_cue

    @property
    def has_cue(self) -> bool:
        """Whether the jig in hand has an accompaniment."""
        jig = self._session.now.jig
        return jig is not None and has_cue(jig)

    @property
    def plays_cue(self) -> bool:
        """Whether the accompaniment goes along with each take."""
        return self.cue and self.has_cue

    @property
    def counts(self) -> bool:
        """Whether a bar is counted before each take: the accompaniment cannot begin without."""
        return self.count_in or self.plays_cue

    def clicks(
        self, recording_zero_s: float, delay_s: float, take_start_s: float
    ) -> tuple[float, float] | None:
        """Where the metronome's first beat is in a recording, and beats a minute.

        ``None`` when it did not sound from the beginning of the take on.

        Parameters
        ----------
        recording_zero_s : float
            Monotonic time of the recording's first sample.
        delay_s : float
            From loudspeaker to recording.
        take_start_s : float
            In seconds of the recording.
        """
        zero_s, pulse = self._sound.output.zero_s, self._pulse()
        if not (self.click or self.plays_cue) or zero_s is None or pulse is None:
            return None
        if zero_s + delay_s - recording_zero_s > take_start_s + _LEAD_S:
            return None  # begun, or changed, while somebody played
        return zero_s + self._counted_s + delay_s - recording_zero_s, pulse.bpm

    def cycle_drone(self) -> None:
        """Off, tonic, tonic and fifth, fifth alone."""
        self.drone = _NEXT[self.drone]
        self._begin()
        self.changed.emit()

    def rest(self) -> None:
        """Nothing sounds; its pattern is as at the beginning."""
        if not self.sounding and self.subdivisions == 1 and not self.silent_bars:
            return
        self.drone, self.click, self.cue = "off", False, False
        self.subdivisions, self.silent_bars = 1, 0
        self._begin()
        self.changed.emit()

    def toggle_cue(self) -> None:
        """Let the accompaniment go along from the next take on, or not."""
        self.cue = not self.cue
        if not self.cue:
            self._begin()
        self.changed.emit()

    def toggle_click(self) -> None:
        """Metronome on or off."""
        self.click = not self.click
        self._begin()
        self.changed.emit()

    def set_pulse(self, *, subdivisions: int | None = None, silent_bars: int | None = None) -> None:
        """Change the metronome's pattern; it begins when it was silent."""
        self.subdivisions = self.subdivisions if subdivisions is None else subdivisions
        self.silent_bars = self.silent_bars if silent_bars is None else silent_bars
        self.click = True
        self._begin()
        self.changed.emit()

    def toggle_count_in(self) -> None:
        """Count a bar before each take, or not."""
        self.count_in = not self.count_in
        self.changed.emit()

    def count(self) -> tuple[float, int]:
        """Begin to count a bar; its seconds and beats."""
        pulse = self._pulse()
        if pulse is None:
            return 0.0, 0
        seconds = pulse.beats_per_bar * 60.0 / pulse.bpm
        self._begin(count_s=seconds)
        return seconds, pulse.beats_per_bar

    def _pulse(self) -> Pulse | None:
        jig = self._session.now.jig
        if jig is None:
            return None
        return Pulse(
            bpm=jig.tempo_bpm, beats_per_bar=jig.beats_per_bar, subdivisions=self.subdivisions,
            silent_bars=self.silent_bars,
        )  # fmt: skip

    def _cue_line(self) -> CueLine | None:
        """The accompaniment of the jig in hand, in equal temperament at the A in force."""
        jig = self._session.now.jig
        if jig is None or not self.plays_cue:
            return None
        return CueLine(cue_tones(jig, self._session.context().a4_hz))

    def drone_hz(self) -> tuple[float, ...]:
        """Notes of the drone, where the reference in force has them: one truth for both."""
        jig = self._session.now.jig
        if self.drone == "off" or jig is None:
            return ()
        lowest = min(h.pitch.midi for e in jig.events for h in e.heads)
        tonic = Pitch.in_class(jig.key.tonic, lowest - 3)
        fifth = Pitch.in_class(_fifth_of(jig.key.tonic), tonic.midi + 7)
        context = self._session.context()
        tonic_hz, fifth_hz = (
            target_hz(context.reference, p, context.a4_hz, open_strings_hz=context.open_hz)
            for p in (tonic, fifth)
        )
        by_name: dict[Drone, tuple[float, ...]] = {
            "tonic": (tonic_hz,), "fifth": (tonic_hz, fifth_hz), "fifth_alone": (fifth_hz,),
        }  # fmt: skip
        return by_name[self.drone]

    def _lowest(self) -> PitchClass | None:
        jig = self._session.now.jig
        if self.drone == "off" or jig is None:
            return None
        return _fifth_of(jig.key.tonic) if self.drone == "fifth_alone" else jig.key.tonic

    def _tune(self, parts: object = None) -> None:
        """Another reference, A or key is another drone."""
        if parts == frozenset({"drone"}):
            return  # said by this drone itself
        if self.drone != "off" and self.drone_hz() != self._sounding_hz:
            self._begin()

    def partials_hz(self) -> tuple[float, ...]:
        """Every partial that sounds, to be taken out of a take."""
        return tuple(p for f in self.drone_hz() for p, _ in drone_partials(f))

    def beside(self) -> Accompaniment:
        """What the ear must know of it."""
        clicking = self.click or self.counts
        return Accompaniment(drone_hz=self.partials_hz(), clicks_hz=CLICKS_HZ if clicking else ())

    def _begin(self, *, count_s: float = 0.0) -> None:
        self._session.use_drone(self._lowest())
        notes, pulse = self.drone_hz(), self._pulse()
        self._sounding_hz = notes
        if not notes and not self.click and not count_s:
            self._sound.output.stop()
            return
        click = self.click
        line = self._cue_line() if count_s else None
        counted = round(count_s * RATE_HZ)
        self._counted_s = count_s
        plain = None if pulse is None else replace(pulse, subdivisions=1, silent_bars=0)

        def make(start: int, n: int) -> NDArray[np.float32]:
            out = np.zeros(n, dtype=np.float32)
            if notes:
                out += drone_block(notes, start, n)
            if plain is not None and start < counted:
                m = min(n, counted - start)
                out[:m] += click_block(plain, start, m)
            elif click and pulse is not None:
                out += click_block(pulse, start - counted, n)
            if line is not None:
                out += line.block(start - counted, n)
            return out

        try:
            self._sound.output.play_blocks(make, RATE_HZ)
        except Exception as error:  # PortAudio raises many kinds
            self.drone, self.click = "off", False
            self._session.use_drone(None)
            self.message.emit(error_sentence(error))
