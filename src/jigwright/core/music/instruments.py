"""The four instruments: everything that differs between them, in one place."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jigwright.core.errors import TuningError
from jigwright.core.music.hands import BASS_HAND, CELLO_HAND, UPPER_HAND, Hand
from jigwright.core.music.pitch import Pitch

InstrumentId = Literal["violin", "viola", "cello", "bass"]
Clef = Literal["treble", "alto", "bass"]
CLEF_SIGNS: dict[Clef, str] = {"treble": "G2", "alto": "C3", "bass": "F4"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Instrument:
    """A kind of instrument with its usual strings.

    Parameters
    ----------
    id : InstrumentId
    strings : tuple of Pitch
        Open strings, low to high, sounding pitch; four or five.
    string_length_mm : float
        Sounding length nut to bridge of a full-size instrument.
    clef : Clef
    written_octaves_up : int
        Octaves the notation stands above the sound (bass: 1).
    highest_hz : float
        Highest fundamental looked for, harmonics included.
    analysis_rate_hz : int
        Internal rate of the analysis; a multiple of 200 Hz so that frames fall on samples.
    pair_window_s : float
        Window of the search for two notes and of their fits.
    reach_semitones : int
        Highest stopped note above an open string that exercises ask for.
    hand : Hand
        Spans and frames of the hand on it.
    """

    id: InstrumentId
    strings: tuple[Pitch, ...]
    string_length_mm: float
    clef: Clef
    written_octaves_up: int
    highest_hz: float
    analysis_rate_hz: int
    pair_window_s: float
    reach_semitones: int
    hand: Hand

    @property
    def lowest(self) -> Pitch:
        """The lowest open string."""
        return self.strings[0]

    @property
    def clef_sign(self) -> str:
        """Sign and line of its usual clef, such as ``G2``."""
        return CLEF_SIGNS[self.clef]


def _strings(text: str) -> tuple[Pitch, ...]:
    return tuple(Pitch.parse(t) for t in text.split())


LOWEST_A4_HZ, HIGHEST_A4_HZ = 380.0, 470.0
SHORTEST_MM, LONGEST_MM = 150.0, 1300.0
"""Sounding string lengths there are: from the smallest violins to the longest basses."""

INSTRUMENTS: dict[str, Instrument] = {
    "violin": Instrument(
        id="violin", strings=_strings("G3 D4 A4 E5"), string_length_mm=328.0,
        clef="treble", written_octaves_up=0, highest_hz=4200.0, analysis_rate_hz=24_000,
        pair_window_s=0.17, reach_semitones=29, hand=UPPER_HAND,
    ),
    "viola": Instrument(
        id="viola", strings=_strings("C3 G3 D4 A4"), string_length_mm=375.0,
        clef="alto", written_octaves_up=0, highest_hz=4000.0, analysis_rate_hz=24_000,
        pair_window_s=0.2, reach_semitones=26, hand=UPPER_HAND,
    ),
    "cello": Instrument(
        id="cello", strings=_strings("C2 G2 D3 A3"), string_length_mm=690.0,
        clef="bass", written_octaves_up=0, highest_hz=2400.0, analysis_rate_hz=12_000,
        pair_window_s=0.3, reach_semitones=31, hand=CELLO_HAND,
    ),
    "bass": Instrument(
        id="bass", strings=_strings("E1 A1 D2 G2"), string_length_mm=1060.0,
        clef="bass", written_octaves_up=1, highest_hz=1200.0, analysis_rate_hz=8_000,
        pair_window_s=0.4, reach_semitones=26, hand=BASS_HAND,
    ),
}  # fmt: skip


def instrument(name: str) -> Instrument:
    """Return an instrument by id.

    Raises
    ------
    TuningError
        If there is none of that name.
    """
    try:
        return INSTRUMENTS[name]
    except KeyError:
        raise TuningError(
            f"unknown instrument {name=!r}: one of {', '.join(INSTRUMENTS)}"
        ) from None


def parse_strings(text: str) -> tuple[Pitch, ...]:
    """Read open strings such as ``"G3 D4 A4 E5"``, low to high.

    Raises
    ------
    TuningError
        If there are not two to seven rising strings.
    """
    strings = _strings(text)
    if not 2 <= len(strings) <= 7:
        raise TuningError(f"two to seven strings are meant, got {len(strings)} in {text=!r}")
    if not all(12 <= s.midi <= 100 for s in strings):
        raise TuningError(f"no bowed string is tuned so low or so high: {text=!r}")
    if any(a.midi >= b.midi for a, b in zip(strings, strings[1:], strict=False)):
        raise TuningError(f"strings run from low to high: {text=!r}")
    return strings


def check_a4(a4_hz: float) -> float:
    """Return the tuning A if it lies in 380 … 470 Hz.

    Raises
    ------
    TuningError
        If it does not.
    """
    if not LOWEST_A4_HZ <= a4_hz <= HIGHEST_A4_HZ:
        raise TuningError(f"the A must lie between 380 and 470 Hz, got {a4_hz=}")
    return a4_hz


def millimetres(cents: float, f_hz: float, open_hz: float, string_length_mm: float) -> float:
    """Distance along the string that moves a stopped note by ``cents`` (+ towards the bridge).

    An ideal string of length ``L``: the stopped length is ``L * open_hz / f_hz``; the note now at
    ``f_hz`` must move so that it sounds ``cents`` higher.
    """
    stopped_mm = string_length_mm * open_hz / f_hz
    return stopped_mm * (1.0 - float(2.0 ** (-cents / 1200.0)))
