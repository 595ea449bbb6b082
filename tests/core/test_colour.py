"""Loudness and brightness of frames; peaks of two notes."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.sound.colour import colour
from jigwright.core.sound.pair_search import find_peaks, search_pair

RATE = 24_000


def tone(f_hz: float, level: float = 0.1, n: int = 600) -> np.ndarray:
    t = np.arange(n) / RATE
    return level * np.sin(2 * np.pi * f_hz * t)[None, :]


def test_the_centroid_of_a_sine_is_its_frequency() -> None:
    for f in (400.0, 1000.0, 3000.0):
        assert colour(tone(f), RATE)[0][0] == pytest.approx(f, rel=0.02)


@given(st.floats(-30, 0))
def test_gain_moves_loudness_by_itself_and_leaves_the_centroid(gain_db: float) -> None:
    x = tone(440.0) + tone(1320.0, 0.03)
    plain, quiet = colour(x, RATE), colour(x * 10 ** (gain_db / 20), RATE)
    assert quiet[0][0] == pytest.approx(plain[0][0], rel=1e-3)
    assert quiet[1][0] - plain[1][0] == pytest.approx(gain_db, abs=0.3)


def test_spread_energy_is_louder_than_the_same_energy_in_one_band() -> None:
    one = tone(800.0, 0.1)
    many = sum(tone(f, 0.1 / np.sqrt(5)) for f in (300.0, 700.0, 1400.0, 2800.0, 5600.0))
    assert colour(np.asarray(many), RATE)[1][0] > colour(one, RATE)[1][0] + 3.0


def test_silence_has_no_centroid() -> None:
    assert np.isnan(colour(np.zeros((1, 600)), RATE)[0][0])


def spectrum(*notes: tuple[float, float]) -> tuple[np.ndarray, float]:
    rate, n = 12_000, 2048
    t = np.arange(n) / rate
    x = sum(a * np.sin(2 * np.pi * k * f * t + k) / k for f, a in notes for k in range(1, 13))
    return np.abs(np.fft.rfft(np.asarray(x) * np.hanning(n), 2 * n)), rate / (2 * n)


@given(
    st.integers(0, 11), st.sampled_from([3, 4, 5, 7, 8, 9]), st.floats(-20, 20), st.floats(0.3, 1)
)
def test_two_series_are_found_and_one_is_not_split(
    low: int, size: int, off: float, weak: float
) -> None:
    # higher up, a pure interval's common fundamental lies in range and may be taken for a note
    f = 196.0 * 2 ** (low / 12)
    g = f * 2 ** (size / 12 + off / 1200)
    both, bin_hz = spectrum((f, 1.0), (g, weak))
    found = search_pair(find_peaks(both, bin_hz, 11.7), 188.0, 1700.0)
    if found is not None:  # a chance meeting of partials may hide a note, never invent one
        assert 1200 * abs(np.log2(found[0] / f)) < 40
        assert 1200 * abs(np.log2(found[1] / g)) < 40
    one, _ = spectrum((f, 1.0))
    assert search_pair(find_peaks(one, bin_hz, 11.7), 188.0, 1700.0) is None
