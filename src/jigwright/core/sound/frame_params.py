"""Rates and windows of the frame analysis: plain numbers, so that gauges may know them."""

from __future__ import annotations

from dataclasses import dataclass

from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import pure_strings
from jigwright.core.sound.heard import HOP_S

_PERIODS = 2.2  # of the lowest note in a window
_USUAL_A4_HZ = 440.0


@dataclass(frozen=True, slots=True, kw_only=True)
class FrameParams:
    """What the frame analysis needs to know of the instrument.

    Parameters
    ----------
    rate_hz : int
        Internal rate; a multiple of 200 Hz so that frames fall on samples.
    lowest_hz, highest_hz : float
        Range of fundamentals looked for.
    """

    rate_hz: int
    lowest_hz: float
    highest_hz: float

    @property
    def hop_samples(self) -> int:
        """Samples between frames."""
        return round(self.rate_hz * HOP_S)

    @property
    def window_samples(self) -> int:
        """Length of the analysis window (even)."""
        return 2 * round(0.5 * _PERIODS * self.rate_hz / self.lowest_hz)

    @property
    def window_s(self) -> float:
        """Length of the analysis window."""
        return self.window_samples / self.rate_hz

    @property
    def energy_samples(self) -> int:
        """Length of the level window: two periods of the lowest note, free of ripple."""
        return min(self.window_samples, round(2.0 * self.rate_hz / self.lowest_hz))


def frame_params(instrument_id: str, lowest_open_hz: float, highest_hz: float) -> FrameParams:
    """Parameters for an instrument whose lowest string sounds at ``lowest_open_hz``."""
    rate = instrument(instrument_id).analysis_rate_hz
    return FrameParams(
        rate_hz=rate,
        lowest_hz=lowest_open_hz * 2 ** (-1.5 / 12),
        highest_hz=min(highest_hz, rate / 5.7),
    )


def usual_window_s(instrument_id: str) -> float:
    """Analysis window of an instrument with its usual strings, for takes that do not say theirs."""
    inst = instrument(instrument_id)
    lowest_hz = min(pure_strings(inst.strings, _USUAL_A4_HZ).values())
    return frame_params(instrument_id, lowest_hz, inst.highest_hz).window_s
