"""When a note begins under the tail of the one before."""

from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.sound.attack import onset_by_partials

RATE = 12_000
WINDOW_S = 0.06


def two(old_hz: float, new_hz: float, *, old_left: float, at_s=0.3, seconds=0.6) -> np.ndarray:
    """One tone after another; ``old_left`` of the first sounds on."""
    t_s = np.arange(round(seconds * RATE)) / RATE
    out = np.zeros_like(t_s)
    for hz, gain in (
        (old_hz, np.where(t_s < at_s, 1.0, old_left)), (new_hz, np.clip((t_s - at_s) / 0.02, 0, 1)),
    ):  # fmt: skip
        for k in range(1, 13):
            out += gain * np.sin(2 * np.pi * k * hz * t_s + k * k) / k
    return out


@pytest.mark.parametrize(("old_hz", "new_hz"), [(220.0, 246.9), (73.4, 82.4), (440.0, 330.0)])
@pytest.mark.parametrize("old_left", [0.0, 0.2])
def test_a_beginning_is_found_under_what_rings_on(old_hz, new_hz, old_left) -> None:
    x = two(old_hz, new_hz, old_left=old_left)
    found = onset_by_partials(x, RATE, old_hz, new_hz, window_s=WINDOW_S)
    assert found == pytest.approx(0.3, abs=0.015)


@pytest.mark.parametrize(("old_hz", "new_hz"), [(82.4, 73.4), (73.4, 82.4), (98.0, 110.0)])
@pytest.mark.parametrize("louder", [1.0, 2.0, 4.0])
def test_a_louder_note_before_leaks_into_the_window_and_is_no_beginning(
    old_hz, new_hz, louder
) -> None:
    x = two(old_hz, new_hz, old_left=0.0)
    x[: round(0.3 * RATE)] *= louder
    x[round(0.28 * RATE) : round(0.3 * RATE)] *= 0.1
    found = onset_by_partials(x, RATE, old_hz, new_hz, window_s=WINDOW_S)
    assert found == pytest.approx(0.3, abs=0.02)


def test_without_partials_of_its_own_or_enough_sound_nothing_is_said() -> None:
    x = two(220.0, 440.0, old_left=0.0)
    assert onset_by_partials(x, RATE, 220.0, 440.0, window_s=WINDOW_S) is None
    assert onset_by_partials(x[:1000], RATE, 220.0, 246.9, window_s=WINDOW_S) is None
    assert onset_by_partials(0.0 * x, RATE, 220.0, 246.9, window_s=WINDOW_S) is None
