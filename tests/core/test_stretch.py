"""Slower playback keeps the pitch, the level and the vibrato."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.music.instruments import instrument
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.stretch import stretch
from signals import scale


@pytest.mark.parametrize("factor", [1.33, 2.0])
def test_a_slowed_scale_has_the_same_notes(factor) -> None:
    sound = play(scale(), seed=2, faults=parse_faults("detune spread_cents=8")).sound
    slow = stretch(sound.samples, factor)
    assert len(slow) == pytest.approx(factor * len(sound.samples), rel=0.01)
    notes = [
        hear(choose_signal(x, sound.rate_hz), instrument("violin"), lowest_open_hz=196.0).segments
        for x in (sound.samples, slow)
    ]
    assert len(notes[0]) == len(notes[1]) == 15
    for a, b in zip(*notes, strict=True):
        assert abs(1200 * np.log2(a.f0_hz / b.f0_hz)) < 2.0
        assert b.onset_s == pytest.approx(factor * a.onset_s, abs=0.06)
        assert b.level_dbfs == pytest.approx(a.level_dbfs, abs=1.5)


@given(st.integers(0, 9000), st.floats(1.0, 4.0))
def test_any_length_and_factor_is_finite(n, factor) -> None:
    x = np.random.default_rng(n).normal(size=n).astype(np.float32) * 0.1
    assert np.all(np.isfinite(stretch(x, factor)))


def test_faster_is_refused() -> None:
    with pytest.raises(ValueError, match="between"):
        stretch(np.zeros(10, dtype=np.float32), 0.5)
