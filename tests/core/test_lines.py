"""One line in a stretch: pitch, level, fall and how clearly it stands, of known sines."""

from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.sound.lines import BLOCK_S, STEP_S, StandingLine, fit_line, turned

RATE = 8_000


def line_of(
    *, level_db: float = -40.0, t60_s: float = 1.5, off_hz: float = 0.0, seconds: float = 1.2,
    noise_db: float = -90.0, tolerance_hz: float = 4.0, beside_db: float | None = None,
) -> StandingLine | None:  # fmt: skip
    t = np.arange(round(seconds * RATE)) / RATE
    x = 10 ** (level_db / 20 - 3.0 * t / t60_s) * np.sin(2 * np.pi * (500.0 + off_hz) * t)
    if beside_db is not None:
        x = x + 10 ** (beside_db / 20) * np.sin(2 * np.pi * 520.0 * t)
    x = x + 10 ** (noise_db / 20) * np.random.default_rng(1).standard_normal(len(t))
    found = fit_line(turned(x, RATE, 500.0, 0.0, seconds), tolerance_hz)
    return None if found is None else found.earlier(0.5 * BLOCK_S)


@pytest.mark.parametrize("t60_s", [0.8, 1.5, 4.0])
@pytest.mark.parametrize("level_db", [-30.0, -50.0])
def test_level_and_fall_come_back(t60_s: float, level_db: float) -> None:
    found = line_of(level_db=level_db, t60_s=t60_s)
    assert found is not None
    assert found.slope_db_per_s == pytest.approx(-60.0 / t60_s, rel=0.1)
    # what is faint and gone soon is seen for so short a time that its fall is less sure
    within = 0.8 if level_db > -40.0 or t60_s > 1.0 else 3.0
    assert found.level_db == pytest.approx(level_db, abs=within)
    assert found.at(0.5) == pytest.approx(level_db - 30.0 / t60_s, abs=within)


def test_a_fall_seen_in_noise_is_less_sure() -> None:
    clear, noisy = line_of(noise_db=-90.0), line_of(noise_db=-45.0)
    assert clear is not None
    assert noisy is not None
    assert clear.slope_sd < 1.0
    assert noisy.slope_sd > 3.0 * clear.slope_sd
    assert abs(noisy.slope_db_per_s + 40.0) < 2.5 * noisy.slope_sd
    assert clear.above_db > noisy.above_db + 25.0


def test_the_pitch_is_the_lines_own_within_the_tolerance() -> None:
    found = line_of(off_hz=1.7)
    assert found is not None
    assert found.offset_hz == pytest.approx(1.7, abs=0.15)
    away = line_of(off_hz=8.0)
    assert away is not None
    assert abs(away.offset_hz) <= 4.0
    assert away.above_db < 20.0


def test_a_loud_partial_twenty_hertz_beside_it_hides_nothing() -> None:
    found = line_of(beside_db=-6.0)
    assert found is not None
    assert found.above_db > 20.0
    assert found.slope_db_per_s == pytest.approx(-40.0, rel=0.1)
    assert found.level_db == pytest.approx(-40.0, abs=1.5)


def test_noise_is_no_line_and_has_no_fall() -> None:
    found = line_of(level_db=-140.0, noise_db=-50.0)
    assert found is not None
    assert found.above_db < 16.0


def test_too_little_is_refused() -> None:
    assert line_of(seconds=0.15) is None
    assert line_of(seconds=0.3) is not None
    assert len(turned(np.zeros(100), RATE, 500.0, 0.0, 1.0)) == 0
    assert len(turned(np.zeros(RATE), RATE, 500.0, 0.0, 1.0)) == pytest.approx(
        (1.0 - BLOCK_S) / STEP_S + 1, abs=1
    )
