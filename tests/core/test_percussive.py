from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.sound.percussive import band_levels, hop_samples, stands_out_db

RATES = (8_000, 16_000, 22_050, 44_100, 48_000, 96_000)


def tone(rate_hz: int, hz: float, seconds: float = 0.5, level: float = 0.1) -> np.ndarray:
    return level * np.sin(2 * np.pi * hz * np.arange(round(seconds * rate_hz)) / rate_hz)


@pytest.mark.parametrize("rate_hz", RATES)
def test_a_frame_every_five_milliseconds_at_any_rate(rate_hz: int) -> None:
    levels = band_levels(tone(rate_hz, 1000.0), rate_hz)
    assert len(levels) == pytest.approx(0.5 / 0.005, abs=3)
    assert hop_samples(rate_hz) == pytest.approx(0.005 * rate_hz, abs=0.5)


@pytest.mark.parametrize("rate_hz", RATES[3:])
def test_a_tone_is_in_its_band_and_twice_as_loud_is_six_decibels(rate_hz: int) -> None:
    soft = band_levels(tone(rate_hz, 2000.0), rate_hz)[20:60]
    loud = band_levels(tone(rate_hz, 2000.0, level=0.2), rate_hz)[20:60]
    edges = np.geomspace(600.0, 9000.0, 13)
    where = int(np.searchsorted(edges, 2000.0)) - 1
    assert np.all(np.abs(np.argmax(soft, axis=1) - where) <= 1)
    top = soft.max(axis=1)
    assert loud.max(axis=1) - top == pytest.approx(np.full(40, 6.02), abs=0.05)
    far = [b for b in range(soft.shape[1]) if abs(b - where) > 3]
    assert np.all(soft[:, far].max(axis=1) < top - 30.0)


def test_what_is_shorter_than_a_window_has_no_frames() -> None:
    assert band_levels(np.zeros(100), 48_000).shape[0] == 0
    assert band_levels(np.zeros(512), 48_000).shape[0] == 1


def test_a_knock_stands_out_and_a_tone_does_not() -> None:
    rng = np.random.default_rng(0)
    rate = 48_000
    x = tone(rate, 1000.0, 2.0) + 1e-4 * rng.normal(size=2 * rate)
    x[rate : rate + 240] += rng.normal(size=240)
    out = stands_out_db(band_levels(x, rate))
    knock = int(np.argmax(out))
    assert knock * 0.005 == pytest.approx(1.0, abs=0.012)
    assert 8.0 < out[knock] <= 15.0
    assert np.median(out) < 1.0
    assert np.max(np.delete(out, slice(knock - 4, knock + 5))[5:-5]) < 5.0
