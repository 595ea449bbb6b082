"""The tail under the note just left, as it is seen while the player plays."""

from __future__ import annotations

import numpy as np
import pytest

from builders import segment
from jigwright.core.judge.live_ring import READY_S, LiveRing
from jigwright.core.sound.heard import Now, RingNow, Segment, moved_ring

RATE = 48_000
OPEN_HZ = (195.5556, 293.3333, 440.0, 660.0)
D5, E5 = 586.6667, 660.0
G_SHARP5, F_SHARP5 = 830.6, 742.5
SECONDS = 5.0
PLAYED = ((G_SHARP5, 0.3, 1.3), (D5, 1.3, 2.3), (F_SHARP5, 2.3, 4.8))


def sound(rings_db: float | None) -> np.ndarray:
    """G sharp and D5 for a second each, then F sharp; a D string that the D5 has woken."""
    t = np.arange(round(SECONDS * RATE)) / RATE
    rng = np.random.default_rng(1)
    x = 1e-4 * rng.standard_normal(len(t))
    for f_hz, a, b in PLAYED:
        on = np.clip(np.minimum(t - a, b - t) / 0.01, 0.0, 1.0)
        x += on * sum(0.1 / k * np.sin(2 * np.pi * k * f_hz * t + k) for k in range(1, 7))
    if rings_db is not None:
        dies = np.where(t > 2.3, 10 ** (-3.0 * (t - 2.3) / 1.4), 0.0)
        x += 0.1 * 10 ** (rings_db / 20) * dies * np.sin(2 * np.pi * D5 * t)
    return x


def level_dbfs(x: np.ndarray) -> float:
    return float(10 * np.log10(np.mean(x[round(0.5 * RATE) : round(1.2 * RATE)] ** 2)))


def watched(rings_db: float | None, *, until_s: float = SECONDS) -> list[RingNow | None]:
    """What it says after every tenth of a second; a note is decided 0.3 s after its end."""
    x = sound(rings_db)
    ring = LiveRing(RATE, OPEN_HZ, "violin")
    decided = {16: (G_SHARP5, 0.3), 26: (D5, 1.3)}
    said = []
    step = RATE // 10
    for n in range(round(until_s * 10)):
        at_s = n / 10
        notes: list[Segment] = []
        if n in decided:
            f_hz, onset_s = decided[n]
            notes = [segment(f_hz, onset_s, seconds=1.0, level_dbfs=level_dbfs(x))]
        f0_hz = next((f for f, a, b in PLAYED if a <= at_s < b), F_SHARP5)
        frames = [
            Now(time_s=at_s + 0.005 * k, f0_hz=f0_hz, level_db=-20.0, clarity=0.97, sounding=True)
            for k in range(20)
        ]
        ring.push(x[n * step : (n + 1) * step], notes, frames)
        said.append(ring.now)
    return said


def test_a_woken_string_is_shown_under_the_next_note_and_then_no_more() -> None:
    said = watched(-24.0)
    shown = [n / 10 for n, one in enumerate(said) if one is not None]
    assert shown
    assert shown[0] == pytest.approx(2.3 + READY_S, abs=0.15)
    first = next(one for one in said if one is not None)
    assert first.string == 1
    assert first.since_s == pytest.approx(2.3)
    assert first.decay_s == pytest.approx(1.4, rel=0.25)
    assert -36.0 < first.level_db < -26.0
    assert shown[-1] < 2.3 + READY_S + first.decay_s + 0.1
    assert said[-1] is None


def test_nothing_is_shown_where_nothing_rings() -> None:
    assert watched(None) == [None] * 50


def test_of_what_the_buffer_no_longer_holds_nothing_is_said() -> None:
    ring = LiveRing(RATE, OPEN_HZ, "violin")
    for _ in range(70):
        ring.push(np.zeros(RATE // 10), [], [])
    ring.push(np.zeros(RATE // 10), [segment(D5, 0.3, seconds=1.0)], [])
    assert ring.now is None


def test_a_ring_moves_with_the_clock_of_the_recording() -> None:
    one = RingNow(string=1, level_db=-30.0, decay_s=1.0, since_s=2.0)
    moved = moved_ring(one, 10.0)
    assert moved is not None
    assert moved.since_s == 12.0
    assert moved_ring(None, 10.0) is None
