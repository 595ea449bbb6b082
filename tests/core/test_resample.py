from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.sound.resample import BlockResampler

RATES = [(48_000, 24_000), (48_000, 12_000), (44_100, 24_000), (48_000, 48_000), (16_000, 24_000)]


def whole(x: np.ndarray, rate_in: int, rate_out: int, cuts: list[int] | None = None) -> np.ndarray:
    one = BlockResampler(rate_in, rate_out)
    parts = np.split(x, sorted(cuts or []))
    return np.concatenate([*(one.push(p) for p in parts), one.finish()])


@given(st.lists(st.integers(0, 3000), max_size=6), st.sampled_from(RATES))
def test_any_split_of_the_input_gives_the_same_output(cuts: list[int], rates) -> None:
    x = np.random.default_rng(1).normal(size=3000)
    np.testing.assert_allclose(whole(x, *rates, cuts), whole(x, *rates), atol=2e-6)


@pytest.mark.parametrize("rates", RATES)
def test_the_length_is_that_of_the_new_rate(rates: tuple[int, int]) -> None:
    for n in (1, 999, 5000):
        made = whole(np.ones(n), *rates)
        assert len(made) == (n - 1) * rates[1] // rates[0] + 1
    assert len(whole(np.zeros(0), *rates)) == 0


@pytest.mark.parametrize("rates", RATES)
def test_a_tone_keeps_its_pitch_its_time_and_its_level(rates: tuple[int, int]) -> None:
    rate_in, rate_out = rates
    x = np.sin(2 * np.pi * 440.0 * np.arange(rate_in) / rate_in)
    made = whole(x, *rates)
    wanted = np.sin(2 * np.pi * 440.0 * np.arange(len(made)) / rate_out)
    inside = slice(rate_out // 10, -rate_out // 10)
    assert np.max(np.abs(made[inside] - wanted[inside])) < 2e-3


def test_what_the_new_rate_cannot_hold_is_gone() -> None:
    high = np.sin(2 * np.pi * 14_000.0 * np.arange(48_000) / 48_000)
    made = whole(high, 48_000, 24_000)[1000:-1000]
    assert 20 * np.log10(np.std(made) / np.std(high)) < -70.0
    low = np.sin(2 * np.pi * 9_000.0 * np.arange(48_000) / 48_000)
    assert np.std(whole(low, 48_000, 24_000)[1000:-1000]) == pytest.approx(np.std(low), rel=0.01)


def test_output_comes_as_soon_as_its_input_is_there() -> None:
    one = BlockResampler(48_000, 24_000)
    first = one.push(np.zeros(4800))
    assert 2380 < len(first) <= 2400  # all but the half length of the filter
    assert len(one.push(np.zeros(0))) == 0
