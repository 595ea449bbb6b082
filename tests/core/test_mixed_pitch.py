"""What two harmonic series explain, in closed form, against least squares written out."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jigwright.core.sound.mixed_pitch import mixed_pitch
from jigwright.core.values import Floats

RATE = 8_000


def series(f_hz: float, n: int, seed: int, level: float = 1.0) -> Floats:
    rng = np.random.default_rng(seed)
    t = np.arange(n) / RATE
    return level * np.asarray(
        sum(
            np.cos(2 * np.pi * h * f_hz * t + rng.uniform(0, 6)) / h
            for h in range(1, 8)
            if h * f_hz < 0.42 * RATE
        )
    )


def share_written_out(x: Floats, f_hz: float, other_hz: float | None) -> float:
    """Share of the tapered sound in the span of all partials, by a matrix of them."""
    n = len(x)
    taper = np.hanning(n + 2)[1:-1]
    t = np.arange(n) / RATE
    columns = []
    for fundamental in (f_hz, other_hz):
        if fundamental is None:
            continue
        for h in range(1, max(1, min(7, int(0.42 * RATE / fundamental))) + 1):
            columns += [taper * np.cos(2 * np.pi * h * fundamental * t),
                        taper * np.sin(2 * np.pi * h * fundamental * t)]  # fmt: skip
    basis = np.stack(columns, axis=1)
    y = x * taper
    left = y - basis @ np.linalg.lstsq(basis, y, rcond=None)[0]
    return 1.0 - float(left @ left) / float(y @ y)


@settings(max_examples=40, deadline=None)
@given(
    f_hz=st.floats(110.0, 500.0), semitones=st.sampled_from([-7.0, -4.0, 3.0, 5.5, 9.0]),
    n=st.integers(900, 1900), beside=st.booleans(), seed=st.integers(0, 1000),
)  # fmt: skip
def test_the_share_is_that_of_least_squares(
    f_hz: float, semitones: float, n: int, beside: bool, seed: int
) -> None:
    other_hz = f_hz * 2 ** (semitones / 12)
    rng = np.random.default_rng(seed)
    x = series(f_hz, n, seed) + 0.05 * rng.normal(size=n)
    if beside:
        x = x + series(other_hz, n, seed + 1, 0.7)
    found = mixed_pitch(x, RATE, 1200 * np.log2(f_hz), other_hz if beside else None)
    assert found is not None
    assert found.cents == pytest.approx(1200 * np.log2(f_hz), abs=3.0)
    at_best = share_written_out(x, 2 ** (found.cents / 1200), other_hz if beside else None)
    assert found.share == pytest.approx(at_best, abs=2e-3)


@pytest.mark.parametrize("n", [1000, 1001])  # the middle lies between two samples, or on one
def test_even_and_odd_lengths_are_alike(n: int) -> None:
    x = series(220.0, n, 1)
    found = mixed_pitch(x, RATE, 1200 * np.log2(221.0), 330.0)
    assert found is not None
    assert found.cents == pytest.approx(1200 * np.log2(220.0), abs=0.2)
    assert found.share > 0.999


@pytest.mark.parametrize(("ratio", "there"), [(2.0, True), (3.0, True)])
def test_partials_in_common_do_not_spoil_it(ratio: float, there: bool) -> None:
    x = series(150.0, 1600, 1) + series(150.0 * ratio, 1600, 2)
    found = mixed_pitch(x, RATE, 1200 * np.log2(150.0) + 10, 150.0 * ratio)
    assert (found is not None) is there
    assert found is not None
    assert found.cents == pytest.approx(1200 * np.log2(150.0), abs=0.5)


@pytest.mark.parametrize(("off", "found_cents"), [(55.0, 0.0), (-55.0, 0.0)])
def test_it_is_searched_within_sixty_cents(off: float, found_cents: float) -> None:
    x = series(220.0, 1600, 3)
    found = mixed_pitch(x, RATE, 1200 * np.log2(220.0) + off, None)
    assert found is not None
    assert found.cents - 1200 * np.log2(220.0) == pytest.approx(found_cents, abs=0.3)


@pytest.mark.parametrize(("periods", "there"), [(4.1, True), (3.9, False)])
def test_fewer_than_four_periods_tell_nothing(periods: float, there: bool) -> None:
    x = series(110.0, round(periods * RATE / 110.0), 1)
    assert (mixed_pitch(x, RATE, 1200 * np.log2(110.0), None) is not None) is there
