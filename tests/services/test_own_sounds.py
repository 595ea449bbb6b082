"""Our own drone and clicks begin nothing and end nothing; playing over them does."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from jigwright.core.companion import CLICKS_HZ, Pulse, click_block, drone_block, drone_partials
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.music.instruments import instrument
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play
from jigwright.core.sound.own_sounds import SETTLES_S, OwnSounds
from jigwright.services.ear import Ear
from jigwright.services.recording import SILENT, Accompaniment, EarRequest

RATE = 48_000
JIG = maker("scale").make(Setting(instrument_id="violin", values={}, tempo_bpm=120.0))
DRONE_HZ = 293.66
BESIDE = Accompaniment(drone_hz=tuple(f for f, _ in drone_partials(DRONE_HZ)))
PULSE = Pulse(bpm=90.0, beats_per_bar=4)


def noise(n: int, seed: int = 1) -> np.ndarray:
    return 1e-4 * np.random.default_rng(seed).standard_normal(n)


def played(before_s: float, after_s: float) -> np.ndarray:
    x = play(JIG, seed=3, faults=parse_faults("detune spread_cents=3")).sound.samples
    x = 0.3 * np.asarray(x, dtype=float) / np.abs(x).max()
    silence = [np.zeros(round(s * RATE)) for s in (before_s, after_s)]
    return np.concatenate([silence[0], x, silence[1]])


def ear(beside: Accompaniment) -> Ear:
    return Ear(
        EarRequest(
            path=Path("x.wav"), instrument_id="violin", strings=instrument("violin").strings,
            a4_hz=440.0, jig=JIG, beside=beside,
        ),
        RATE,
    )  # fmt: skip


def takes(x: np.ndarray, beside: Accompaniment) -> tuple[list[tuple[float, float]], float | None]:
    """Takes that were found, and since when one is being played."""
    one, found = ear(beside), []
    for i in range(0, len(x), 4800):
        says = one.hear(x[i : i + 4800])
        if says.take is not None:
            found.append(says.take)
    return found, one.playing_since_s


def drone(n: int, *, gain: float, late_s: float = 0.2) -> np.ndarray:
    """The drone as it comes through loudspeaker and microphone: late, softer, and with its room."""
    late = round(late_s * RATE)
    dry = np.concatenate([np.zeros(late), drone_block((DRONE_HZ,), 0, n - late)])
    echo = np.concatenate([np.zeros(900), 0.4 * dry[:-900]])
    return gain * (dry + echo)


def level(x: np.ndarray) -> float:
    return float(np.sqrt(np.mean(x**2)))


# the filter ----------------------------------------------------------------------------------


@pytest.mark.parametrize("block", [480, 4801, 48_000])
def test_a_drone_is_out_after_it_has_settled_whatever_the_blocks(block: int) -> None:
    x = drone(6 * RATE, gain=0.2)
    own = OwnSounds(RATE, BESIDE.drone_hz)
    left = np.concatenate([own.take_out(x[i : i + block]) for i in range(0, len(x), block)])
    assert len(left) == len(x)
    after = round((SETTLES_S + 0.3) * RATE)
    assert level(left[after:]) < 0.03 * level(x[after:])


def test_another_note_stays_as_it_is() -> None:
    t = np.arange(6 * RATE) / RATE
    note = 0.1 * np.sin(2 * np.pi * 394.0 * t)
    left = OwnSounds(RATE, BESIDE.drone_hz).take_out(note + drone(len(t), gain=0.2))
    tail = slice(3 * RATE, None)
    assert level(left[tail] - note[tail]) < 0.1 * level(note[tail])


def test_a_drone_that_drifts_is_followed() -> None:
    """Two clocks fifty parts in a million apart."""
    n = 8 * RATE
    x = np.interp(np.arange(n) * (1 + 5e-5), np.arange(n + 900), drone(n + 900, gain=0.2))
    left = OwnSounds(RATE, BESIDE.drone_hz).take_out(x)
    assert level(left[4 * RATE :]) < 0.5 * level(x[4 * RATE :])


def test_clicks_go_and_what_is_not_there_costs_nothing() -> None:
    clicks = click_block(PULSE, 0, 4 * RATE).astype(float)
    left = OwnSounds(RATE, clicks_hz=CLICKS_HZ).take_out(clicks)
    assert level(left) < 0.35 * level(clicks)
    x = noise(RATE)
    assert np.array_equal(OwnSounds(RATE).take_out(x), x)
    assert OwnSounds(RATE, BESIDE.drone_hz).take_out(np.zeros(0)).shape == (0,)
    assert len(OwnSounds(8000, (100.0, 102.0, 5000.0), (1e6,)).take_out(np.ones(10))) == 10


# takes ---------------------------------------------------------------------------------------


@pytest.mark.parametrize("gain", [0.05, 0.3])
def test_a_drone_alone_begins_nothing(gain: float) -> None:
    x = np.concatenate([np.zeros(3 * RATE), drone(8 * RATE, gain=gain)])
    x += noise(len(x))
    assert takes(x, replace(BESIDE, since_s=3.0)) == ([], None)
    begun, since = takes(x, SILENT)
    assert begun or since is not None, "who does not know of it takes it for a player"


@pytest.mark.parametrize("gain", [0.03, 0.12])
def test_a_take_over_a_drone_begins_and_ends(gain: float) -> None:
    x = played(3.0, 5.0)
    length_s = len(x) / RATE
    found, since = takes(x + drone(len(x), gain=gain) + noise(len(x)), BESIDE)
    assert since is None
    assert len(found) == 1
    start_s, end_s = found[0]
    assert start_s == pytest.approx(3.0, abs=0.9)
    assert end_s == pytest.approx(length_s - 5.0, abs=2.0)


def test_clicks_begin_nothing_and_let_a_take_end() -> None:
    x = played(3.0, 6.0)
    clicks = 0.5 * click_block(PULSE, 0, len(x))
    beside = Accompaniment(clicks_hz=CLICKS_HZ)
    found, since = takes(x + clicks + noise(len(x)), beside)
    assert since is None
    assert len(found) == 1
    assert takes(clicks[: 8 * RATE] + noise(8 * RATE), beside) == ([], None)


def test_until_a_drone_has_settled_nobody_is_thought_to_play() -> None:
    late = Accompaniment(drone_hz=BESIDE.drone_hz, since_s=2.0)
    x = np.concatenate([noise(2 * RATE), drone(5 * RATE, gain=0.2)]) + noise(7 * RATE, 2)
    assert takes(x, late) == ([], None)


# somebody else's ------------------------------------------------------------------------------


def test_a_take_over_a_drone_nobody_told_us_of_begins_and_ends() -> None:
    x = played(2.0, 8.0)
    x = x + noise(len(x)) + drone(len(x), gain=0.4 * level(x) / level(drone(len(x), gain=1.0)))
    found, since = takes(x, SILENT)
    assert since is None, "it has ended"
    assert len(found) == 1
    assert found[0][0] <= 2.5
    assert found[0][1] > len(x) / RATE - 8.0
