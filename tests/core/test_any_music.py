"""Random music, pieces of passages by other makers, and no music: nothing raises, no part fails."""

from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.judge.tuning import estimate_tuning
from jigwright.core.sound.attack import onset_by_partials
from jigwright.core.sound.intake import MOST_SAMPLE, choose_signal
from random_sound import any_case, whole_chain


@pytest.mark.parametrize("seed", range(32))
def test_whatever_is_played_goes_through_the_whole_chain(seed: int) -> None:
    result = whole_chain(any_case(seed))
    for note in result["notes"]:
        if note["onset_s"] is not None:
            assert 0.0 <= note["onset_s"] < note["offset_s"] <= result["source"]["duration_s"] + 0.1


@pytest.mark.parametrize("loud_blocks", [1, 3, 7, 40])
def test_an_onset_at_the_very_beginning_of_what_is_looked_at_is_none(loud_blocks: int) -> None:
    rate_hz, window_s = 12_000, 0.02
    t = np.arange(round(0.2 * rate_hz)) / rate_hz
    new = sum(np.sin(2 * np.pi * 660.0 * h * t) / h for h in range(1, 6))
    n = loud_blocks * 15
    x = new * np.where(np.arange(len(t)) < n, 0.01, 1.0)
    found = onset_by_partials(x, rate_hz, 440.0, 660.0, window_s=window_s)
    if loud_blocks == 40:
        assert found == pytest.approx(n / rate_hz, abs=0.012)
    else:
        assert found is None or 0.0 <= found < 0.05


@pytest.mark.parametrize(("size", "repaired"), [(MOST_SAMPLE, False), (1.01 * MOST_SAMPLE, True)])
def test_samples_far_beyond_full_scale_are_no_sound(size: float, repaired: bool) -> None:
    x = np.full(2000, 0.1, dtype=np.float32)
    x[7] = -size
    signal = choose_signal(x, 48_000)
    assert ("repaired_samples" in signal.warnings) is repaired
    assert bool(signal.samples[7] == 0.0) is repaired
    assert signal.samples.dtype == np.float32


def test_two_camps_of_notes_leave_the_tuning_open_and_raise_nothing() -> None:
    from jigwright.core.judge import tuning

    residual = np.array([[-40.0, 40.0] * 4, [-12.0, -8.0, 30.0] * 2 + [0.0, 1.0]])
    centre = tuning._centre(residual)
    assert centre[0, 0] == 0.0  # nothing lies near the median: the median stands
    assert centre[1, 0] == pytest.approx(np.mean([-12, -8, -12, -8, 0, 1]))
    assert estimate_tuning([], a4_hz=440.0, strings=(), tonic=None).best_reference is None
