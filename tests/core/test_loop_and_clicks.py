"""The way from loudspeaker to microphone, notes against clicks, strings that drift."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.delay_sweep import LoopDelay, probe
from jigwright.core.gauge.timing import against_clicks
from jigwright.core.gauge.values import AgainstClicks
from jigwright.core.judge.open_strings import drifted
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.loop_delay import find_delay
from jigwright.core.values import Unmeasured, median, percentiles

RATE = 48_000


def recording(delay_s: float, seed: int, noise: float) -> np.ndarray:
    """The probe, handed over at 0.7 s, through a room of half a second and noise."""
    rng = np.random.default_rng(seed)
    x = np.zeros(4 * RATE)
    sound = probe(RATE)
    at = round((0.7 + delay_s) * RATE)
    x[at : at + len(sound)] += 0.3 * sound
    room = 0.05 * rng.normal(size=RATE // 5) * np.exp(-np.arange(RATE // 5) / (0.07 * RATE))
    room[0] = 1.0
    return np.convolve(x, room)[: len(x)] + noise * rng.normal(size=len(x))


def test_the_delay_is_found_in_room_and_noise_to_a_millisecond() -> None:
    for seed, delay_s in enumerate((0.0, 0.0123, 0.11, 0.6)):
        found = find_delay(recording(delay_s, seed, 0.01), RATE, 0.7)
        assert isinstance(found, LoopDelay)
        assert abs(found.seconds - delay_s) < 1e-3
        assert found.uncertainty_s < 2e-3


def test_what_is_no_probe_is_not_taken_for_one() -> None:
    rng = np.random.default_rng(4)
    t = np.arange(4 * RATE) / RATE
    clap = np.zeros(4 * RATE)
    clap[40_000:40_200] = rng.normal(size=200)
    for x in (0.1 * rng.normal(size=4 * RATE), 0.3 * np.sin(2 * np.pi * 440 * t), clap, 0 * t):
        assert isinstance(find_delay(x, RATE, 0.7), Unmeasured)
    assert find_delay(np.zeros(100), RATE, 0.0) == Unmeasured("too_short")


@given(st.integers(-3, 5), st.floats(-60, 60), st.floats(40, 160), st.integers(0, 1000))
def test_notes_are_held_against_the_clicks_wherever_the_player_came_in(
    start: int, late_ms: float, bpm: float, seed: int
) -> None:
    beats = np.arange(0.0, 8.0, 0.5)
    shake = np.random.default_rng(seed).normal(0, 4e-3, len(beats))
    onsets = 2.0 + (beats + start) * 60 / bpm + late_ms / 1000 + shake
    found = against_clicks(onsets, beats, 2.0, bpm)
    assert isinstance(found, AgainstClicks)
    assert abs(found.centre_ms - late_ms) < 6.0
    assert found.spread_ms < 15.0


def test_playing_apart_from_the_click_is_not_held_against_it() -> None:
    beats = np.arange(8.0)
    assert against_clicks(beats * 0.8, beats, 0.0, 60.0) == Unmeasured("not_with_click")
    assert against_clicks(beats[:2], beats[:2], 0.0, 60.0) == Unmeasured("too_few")


def test_a_string_has_gone_only_when_its_notes_agree() -> None:
    a, d = Pitch.parse("A4"), Pitch.parse("D4")
    before = {a: 442.0, d: 294.7}

    def notes(hz: float, *cents: float) -> list[tuple[float, float]]:
        return [(hz * 2 ** (c / 1200), 1.0) for c in cents]

    (found,) = drifted({a: notes(442.0, 0, -8, -9, -8), d: notes(294.7, 1, -2, 2)}, before)
    assert found.string == a
    assert abs(found.cents + 8) < 0.5
    assert drifted({a: notes(442.0, -9, 8, -9)}, before) == ()
    assert drifted({a: notes(442.0, -9, -9)}, before) == ()
    assert drifted({a: notes(442.0, -4, -4, -4)}, before) == ()


@given(st.lists(st.floats(-1e6, 1e6), min_size=1, max_size=60), st.floats(0, 100))
def test_quick_medians_and_percentiles_are_those_of_numpy(values: list[float], q: float) -> None:
    assert np.isclose(median(values), np.median(values))
    assert np.isclose(percentiles(values, q)[0], np.percentile(values, q), atol=1e-6)
    assert np.isnan(median([*values, float("nan")]))
