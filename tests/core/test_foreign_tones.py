"""Tones of somebody else's machine, taken out of what is heard live."""

from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.sound import foreign_tones
from jigwright.core.sound.foreign_tones import LOOK_EVERY_S, ForeignTones
from tone_builders import RATE, noise, notes, tone

SECONDS = 12.0


def through(
    x: np.ndarray, *, looks: bool = True, block: int = 240
) -> tuple[ForeignTones, np.ndarray]:
    """What is left, block by block."""
    foreign = ForeignTones(RATE)
    left = [foreign.take_out(x[i : i + block], looks=looks) for i in range(0, len(x), block)]
    return foreign, np.concatenate(left)


def rms(x: np.ndarray) -> float:
    return float(np.sqrt(np.mean(x**2)))


@pytest.mark.parametrize("block", [240, 7777])
def test_a_drone_under_notes_is_found_and_goes(block: int) -> None:
    played, drone = notes(SECONDS) + noise(SECONDS), tone(SECONDS, 146.83, -30.0)
    foreign, left = through(played + drone, block=block)
    assert foreign.partials_hz[0] == pytest.approx(146.83, abs=0.01)
    after = slice(round(8.5 * RATE), None)
    assert rms(left[after] - played[after]) < 0.25 * rms(drone[after])
    first = slice(0, round(LOOK_EVERY_S * RATE) - 7777)
    assert np.allclose(left[first], (played + drone)[first]), "it is not known at once"


def test_it_is_only_looked_for_while_somebody_plays() -> None:
    x = notes(SECONDS) + noise(SECONDS) + tone(SECONDS, 146.83, -30.0)
    foreign, left = through(x, looks=False)
    assert foreign.partials_hz == ()
    assert np.allclose(left, x)


def test_where_there_is_none_the_sound_is_left_as_it_is() -> None:
    x = notes(SECONDS) + noise(SECONDS)
    foreign, left = through(x)
    assert foreign.partials_hz == ()
    assert np.array_equal(left, x)


def test_it_looks_every_two_seconds_at_the_last_eight(monkeypatch: pytest.MonkeyPatch) -> None:
    looked: list[float] = []
    monkeypatch.setattr(
        foreign_tones, "steady_lines", lambda x, rate: looked.append(len(x) / rate) or ()
    )
    through(np.zeros(round(SECONDS * RATE)))
    assert looked == pytest.approx([2.0, 4.0, 6.0, 8.0, 8.0, 8.0], abs=0.02)
