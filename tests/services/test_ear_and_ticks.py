"""The Stand's ear beside somebody's metronome: no take of ticks, every take ends."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from jigwright.core.music.instruments import instrument
from jigwright.services.ear import Ear
from jigwright.services.recording import EarRequest, EarSays
from tick_builders import metronome
from tone_builders import RATE, noise, notes

BLOCK = 1200


def heard(x: np.ndarray) -> list[EarSays]:
    """What the ear says of a recording, block by block."""
    request = EarRequest(
        path=Path("-"), instrument_id="violin", strings=instrument("violin").strings,
        a4_hz=440.0, jig=None,
    )  # fmt: skip
    ear = Ear(request, RATE)
    return [ear.hear(x[i : i + BLOCK]) for i in range(0, len(x), BLOCK)]


def test_ticks_are_no_take() -> None:
    says = heard(noise(16.0) + metronome(16.0, 100.0, every=4))
    assert all(s.take is None for s in says)
    after = says[round(12.0 * RATE / BLOCK) :]
    assert all(s.since_s is None for s in after)


def test_a_take_beside_ticks_begins_and_ends_with_the_notes() -> None:
    silence = np.zeros(round(12.0 * RATE))
    played = np.concatenate([silence, notes(8.0), silence[: round(5.0 * RATE)]])
    x = played + noise(25.0) + metronome(25.0, 100.0, every=4)
    takes = [s.take for s in heard(x) if s.take is not None]
    assert len(takes) == 1
    start_s, end_s = takes[0]
    sounding = np.flatnonzero(np.abs(played) > 0.02) / RATE
    assert sounding[0] - 1.0 < start_s < sounding[0] + 0.1
    assert sounding[-1] - 0.2 < end_s < sounding[-1] + 1.2


def test_a_metronome_that_stops_begins_nothing() -> None:
    x = noise(20.0) + metronome(20.0, 96.0, every=4, to_s=12.0)
    says = heard(x)
    assert all(s.take is None for s in says)
    assert says[-1].since_s is None
