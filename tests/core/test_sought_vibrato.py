"""A vibrato that the contour does not show: found in the sound, and nothing else taken for one."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.gauge.values import Vibrato
from jigwright.core.gauge.vibrato import VibratoParams, measure_vibrato, room_ratio
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.sound.sought_vibrato import SoughtParams, sought_swing
from jigwright.core.values import Floats
from jigwright.wording.measures import vibrato_text

RATE = 12_000
SECONDS = 1.2
T = np.arange(round(SECONDS * RATE)) / RATE
LIVE = 0.6  # reverberation time, s


def tone(cents: Floats, f_hz: float = 330.0, level: Floats | float = 1.0) -> Floats:
    rng = np.random.default_rng(1)
    phase = 2 * np.pi * np.cumsum(f_hz * 2.0 ** (cents / 1200.0)) / RATE
    partials = range(1, int(4000 / f_hz))
    return level * sum(np.sin(k * phase + rng.uniform(0, 6.28)) / k for k in partials)


def in_room(x: Floats, direct_db: float, seed: int = 2) -> Floats:
    """Behind the direct sound a tail that is softer by so much, its beginning left out."""
    rng, n = np.random.default_rng(seed), round(LIVE * RATE)
    tail = rng.normal(size=n) * 10.0 ** (-3.0 * np.arange(n) / n)
    answer = tail / np.sqrt(np.sum(tail**2)) * 10.0 ** (-direct_db / 20.0)
    answer[0] += 1.0
    return np.convolve(x, answer)[round(0.15 * RATE) : len(x)]


def vibrato(half: float, hz: float) -> Floats:
    return half * np.sin(2 * np.pi * hz * T + 1.0)


@pytest.mark.parametrize(("direct_db", "most_lost"), [(30.0, 0), (0.0, 0), (-3.0, 1)])
def test_a_vibrato_is_found_in_any_room(direct_db: float, most_lost: int) -> None:
    lost = 0
    for f_hz in (98.0, 330.0, 880.0):
        for hz in (4.6, 5.7, 6.9):
            found = sought_swing(in_room(tone(vibrato(15.0, hz), f_hz), direct_db), RATE, f_hz)
            if found is None:
                lost += 1
                continue
            assert found.rate_hz == pytest.approx(hz, abs=0.25)
            assert 0.6 * 15.0 < found.half_cents < 1.2 * 15.0
            assert found.gain >= SoughtParams().least_gain
    assert lost <= most_lost


STILL = {
    "still": 0.0 * T,
    "drifts": 30.0 * T / SECONDS,
    "slides": -90.0 * T / SECONDS,
    "steps": 20.0 * (T > 0.6),
    "is corrected": 40.0 / (1.0 + np.exp(-(T - 0.6) / 0.02)),
    "wanders": np.cumsum(np.random.default_rng(0).normal(size=len(T))) / math.sqrt(RATE) * 6.0,
    "sways": 6.0 * np.sin(2 * np.pi * 2.0 * T),
    "is bumped": 15.0 * np.exp(-(((T - 0.6) / 0.1) ** 2)),
}


@pytest.mark.parametrize("f_hz", [98.0, 330.0, 880.0])
@pytest.mark.parametrize("direct_db", [30.0, -2.0])
@pytest.mark.parametrize("name", STILL)
def test_what_does_not_swing_is_none(name: str, direct_db: float, f_hz: float) -> None:
    centre = f_hz * 2.0 ** (float(np.mean(STILL[name])) / 1200.0)
    assert sought_swing(in_room(tone(STILL[name], f_hz), direct_db), RATE, centre) is None


@pytest.mark.parametrize("direct_db", [30.0, -2.0])
def test_a_shaking_bow_and_beating_strings_are_none(direct_db: float) -> None:
    shaken = tone(0.0 * T, level=1.0 + 0.35 * np.sin(2 * np.pi * 6.0 * T))
    assert sought_swing(in_room(shaken, direct_db), RATE, 330.0) is None
    beating = tone(0.0 * T) + tone(0.0 * T + 8.0, level=0.8)
    assert sought_swing(in_room(beating, direct_db), RATE, 330.7) is None


@pytest.mark.parametrize(("seconds", "told"), [(0.385, False), (0.395, True)])
def test_two_stretches_are_needed(seconds: float, told: bool) -> None:
    part = tone(vibrato(15.0, 5.7))[: round(seconds * RATE)]
    assert (sought_swing(part, RATE, 330.0) is not None) is told


def test_of_a_long_note_the_middle_is_looked_at() -> None:
    quiet = np.zeros(len(T))
    here = vibrato(15.0, 5.7)
    for parts, told in (((quiet, here, quiet), True), ((here, quiet, quiet), False)):
        assert (sought_swing(tone(np.concatenate(parts)), RATE, 330.0) is not None) is told


def test_limits_are_those_that_are_given() -> None:
    x = in_room(tone(vibrato(15.0, 5.7)), 0.0)
    found = sought_swing(x, RATE, 330.0)
    assert found is not None
    for more in (
        {"least_gain": found.gain + 0.001}, {"first_gain": 9.0}, {"least_stretches": 1.0},
        {"least_onward": 1.01}, {"most_off_hz": 0.0},
    ):  # fmt: skip
        assert sought_swing(x, RATE, 330.0, SoughtParams(**more)) is None
    assert sought_swing(x, RATE, 330.0, SoughtParams(least_gain=found.gain - 0.001)) is not None


# what the gauge says of it ----------------------------------------------------------------------


def contours_of(half: float, noise: float) -> Contours:
    n = round(2.2 / HOP_S)
    cents = half * np.sin(2 * np.pi * 5.7 * np.arange(n) * HOP_S)
    cents = cents + noise * np.random.default_rng(3).normal(size=n)
    curve = np.ones(n)
    return Contours(f0_hz=440.0 * 2.0 ** (cents / 1200.0), level_db=-20.0 * curve,
                    clarity=0.99 * curve, centroid_hz=1500.0 * curve,
                    loudness_db=-20.0 * curve)  # fmt: skip


def note(**more: float) -> Segment:
    return replace(segment(440.0, 0.0, seconds=2.0), **more)  # type: ignore[arg-type]


def gauged(contours: Contours, one: Segment) -> Vibrato:
    found = measure_vibrato(contours, one, VibratoParams(), window_s=0.011)
    assert isinstance(found, Vibrato)
    return found


HIDDEN = note(swing_cents=9.0, swing_gain=1.02, swing_hz=6.1)


def test_what_was_sought_is_said_with_a_wide_range_and_no_evenness() -> None:
    found = gauged(contours_of(4.0, 6.0), HIDDEN)
    assert found.present
    assert found.rate_hz == 6.1
    assert found.extent_cents == 18.0
    length_s = HIDDEN.core_end_s - HIDDEN.core_start_s
    least = 1.96 * 18.0 * 0.5 / math.sqrt(6.1 * length_s)
    assert least < found.extent_uncertainty_cents < 2.0 * least
    assert math.isnan(found.regularity)
    assert math.isnan(found.start_s)
    assert vibrato_text(found)[0].endswith("blurred by the room")


def test_where_the_contour_shows_it_the_contour_counts() -> None:
    shown = gauged(contours_of(10.0, 1.0), HIDDEN)
    assert shown.rate_hz == pytest.approx(5.7, abs=0.05)
    assert shown.regularity > 0.9
    assert vibrato_text(shown)[0].endswith("even")
    assert not gauged(contours_of(4.0, 6.0), note()).present


def test_the_limit_is_half_of_the_movement() -> None:
    for noise, hidden in ((3.9, True), (2.0, False)):  # the swing has half its variance at 2.83
        found = gauged(contours_of(4.0, noise), HIDDEN)
        assert math.isnan(found.regularity) is hidden


def test_hidden_ones_do_not_say_how_much_the_room_took() -> None:
    notes = [HIDDEN] * 3
    assert room_ratio(contours_of(4.0, 6.0), notes, VibratoParams(), window_s=0.011) == 1.0
