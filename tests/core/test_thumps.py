"""What strikes the floor: found beside playing and told with its time."""

from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.sound.thumps import MOST, find_rumbles, find_thumps, thumps_code
from jigwright.core.values import Floats
from jigwright.wording.beside import warning_text
from jigwright.wording.catalogue import use_language

RATE = 48_000
G3, C2, E1 = 196.0, 65.4, 41.2


def playing(f_hz: float = 2 * G3, *, seconds: float = 6.0) -> Floats:
    t = np.arange(round(seconds * RATE)) / RATE
    notes = 0.5 + 0.5 * np.sign(np.sin(2 * np.pi * 1.3 * t))  # strokes, hard at both ends
    tone = sum(np.sin(2 * np.pi * h * f_hz * t) / h for h in range(1, 10))
    return 0.1 * notes * tone + 1e-4 * np.random.default_rng(1).standard_normal(len(t))


def thump(x: Floats, at_s: float, *, peak: float = 0.6, f_hz: float = 60.0, decay_s=0.03) -> Floats:
    t = np.arange(round(0.5 * RATE)) / RATE
    one = peak * np.sin(2 * np.pi * f_hz * t) * np.exp(-t / decay_s)
    out = x.copy()
    a = round(at_s * RATE)
    out[a : a + len(one)] += one[: len(x) - a]
    return out


def test_thumps_are_found_with_their_time() -> None:
    x = thump(thump(playing(), 1.7), 3.45)
    found = find_thumps(x, RATE, G3)
    assert found == pytest.approx([1.7, 3.45], abs=0.04)


def test_playing_alone_has_none() -> None:
    assert find_thumps(playing(), RATE, G3) == ()
    assert find_thumps(playing(2 * C2), RATE, C2) == ()
    assert find_thumps(np.zeros(2 * RATE), RATE, G3) == ()


@pytest.mark.parametrize(("peak", "there"), [(0.6, True), (0.02, False)])
def test_a_soft_one_is_none(peak: float, there: bool) -> None:
    assert bool(find_thumps(thump(playing(), 2.0, peak=peak), RATE, G3)) is there


@pytest.mark.parametrize(("decay_s", "there"), [(0.03, True), (0.4, False)])
def test_a_low_tone_that_lasts_is_none(decay_s: float, there: bool) -> None:
    assert bool(find_thumps(thump(playing(), 2.0, decay_s=decay_s), RATE, G3)) is there


def test_a_hum_hides_what_does_not_stand_out() -> None:
    t = np.arange(round(6.0 * RATE)) / RATE
    hum = 0.3 * np.sin(2 * np.pi * 60.0 * t)
    assert find_thumps(thump(playing() + hum, 2.0), RATE, G3) == ()


def test_under_a_bass_there_is_no_room_for_one() -> None:
    assert find_thumps(thump(playing(), 2.0), RATE, E1) == ()
    assert len(find_thumps(thump(playing(4 * C2), 2.0, f_hz=30.0), RATE, C2)) == 1


def test_a_sound_too_short_and_too_many() -> None:
    assert find_thumps(thump(playing(), 0.2)[: RATE - 1], RATE, G3) == ()
    x = playing(seconds=14.0)
    for k in range(MOST + 2):
        x = thump(x, 1.0 + 1.2 * k, peak=0.5 + 0.05 * k)
    found = find_thumps(x, RATE, G3)
    assert len(found) == MOST
    assert found == tuple(sorted(found))
    assert found[0] == pytest.approx(1.0 + 2 * 1.2, abs=0.05), "the softest are left out"


def test_they_are_told_with_their_times() -> None:
    assert thumps_code(()) == ()
    (one,) = thumps_code((9.2,))
    assert warning_text(one, a4_hz=440.0) == "Something knocked at 0:09."
    (two,) = thumps_code((9.2, 75.0))
    assert warning_text(two, a4_hz=440.0) == "Something knocked 2 times: 0:09, 1:15."
    use_language("de")
    try:
        assert warning_text(two, a4_hz=440.0) == "Etwas stieß 2-mal an: 0:09, 1:15."
    finally:
        use_language("en")


@pytest.mark.parametrize(("seconds", "least_s"), [(0.1, 0.1), (0.8, 0.75)])
def test_what_rumbles_is_found_from_its_beginning_to_its_end(
    seconds: float, least_s: float
) -> None:
    t = np.arange(round(6.0 * RATE)) / RATE
    chair = np.where((t > 2.0) & (t < 2.0 + seconds), 0.3 * np.sin(2 * np.pi * 60.0 * t), 0.0)
    found = find_rumbles(playing() + chair, RATE, G3)
    assert found == tuple(sorted(found))
    assert found[0][0] == pytest.approx(2.0, abs=0.1)
    assert found[-1][1] == pytest.approx(2.0 + seconds, abs=0.12)
    assert max(end_s - start_s for start_s, end_s in found) >= least_s


def test_a_hum_all_the_while_and_playing_alone_do_not_rumble() -> None:
    t = np.arange(round(6.0 * RATE)) / RATE
    assert find_rumbles(playing(), RATE, G3) == ()
    assert find_rumbles(playing() + 0.3 * np.sin(2 * np.pi * 60.0 * t), RATE, G3) == ()
    assert find_rumbles(playing(), RATE, E1) == ()


@pytest.mark.parametrize(("peak", "there"), [(0.1, True), (0.01, False)])
def test_a_soft_rumble_is_none(peak: float, there: bool) -> None:
    t = np.arange(round(6.0 * RATE)) / RATE
    steps = np.where((t > 2.0) & (t < 2.3), peak * np.sin(2 * np.pi * 60.0 * t), 0.0)
    assert bool(find_rumbles(playing() + steps, RATE, G3)) is there
