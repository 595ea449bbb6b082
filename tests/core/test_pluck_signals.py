"""Two or three plucks of the lowest open string, then quiet: a signal, and nothing else is one."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jigwright.core.sound.pluck_signals import QUIET_AFTER_S, PluckWatch, onsets_of
from jigwright.core.values import Floats
from pluck_builders import E1, G3, RATE, bowed, sound


def signals(x: Floats, lowest_hz: float = G3, *, block: int = 1024) -> list[int]:
    watch = PluckWatch(RATE, lowest_hz)
    told = [watch.push(x[i : i + block]) for i in range(0, len(x), block)]
    return [n for n in told if n]


@pytest.mark.parametrize("f_hz", [G3, 130.8, 65.4, E1])
@pytest.mark.parametrize("n", [1, 2, 3, 4])
def test_two_and_three_are_signals(n: int, f_hz: float) -> None:
    x = sound([1.0 + 0.4 * k for k in range(n)], f_hz)
    assert signals(x, f_hz) == ([n] if n in (2, 3) else [])


def test_it_says_when_it_began_and_speaks_once_a_signal() -> None:
    watch = PluckWatch(RATE, G3)
    x = np.concatenate([sound([1.0, 1.4], seconds=4.0), sound([1.0, 1.4, 1.8], seconds=4.0)])
    told = []
    for i in range(0, len(x), 480):
        n = watch.push(x[i : i + 480])
        if n:
            told.append((n, round(watch.began_s, 1), round(i / RATE, 1)))
    (two, three) = told
    assert two[:2] == (2, 1.0)
    assert three[:2] == (3, 5.0)
    assert 1.4 + QUIET_AFTER_S <= two[2] + 0.11 <= 1.4 + QUIET_AFTER_S + 0.3


@pytest.mark.parametrize(("apart_s", "there"), [(0.2, True), (0.7, True), (0.8, False)])
def test_plucks_follow_each_other(apart_s: float, there: bool) -> None:
    assert bool(signals(sound([1.0, 1.0 + apart_s]))) is there


@pytest.mark.parametrize("cents", [-300, -100, 100, 500, 700])
def test_another_string_or_note_is_no_signal(cents: float) -> None:
    assert signals(sound([1.0, 1.4], G3 * 2 ** (cents / 1200))) == []


def test_the_octave_is_no_signal_though_it_has_that_period_too() -> None:
    assert signals(sound([1.0, 1.4], 2 * G3)) == []


@pytest.mark.parametrize("cents", [-40, 40])
def test_a_string_a_little_out_of_tune_is_understood(cents: float) -> None:
    assert signals(sound([1.0, 1.4], G3 * 2 ** (cents / 1200))) == [2]


def test_short_strokes_of_a_bow_are_no_signal() -> None:
    assert signals(sound([1.0, 1.4], make=bowed)) == []
    assert signals(sound([1.0, 1.4, 1.8], make=bowed)) == []


def test_a_note_that_goes_on_is_no_signal() -> None:
    x = sound([1.0, 1.4])
    t = np.arange(round(3.4 * RATE)) / RATE
    x[round(1.42 * RATE) : round(1.42 * RATE) + len(t)] += 0.2 * np.sin(2 * np.pi * G3 * t)
    assert signals(x) == []


@pytest.mark.parametrize(("quiet_s", "there"), [(0.7, True), (0.35, False)])
def test_it_is_quiet_before(quiet_s: float, there: bool) -> None:
    x = sound([2.0, 2.4])
    t = np.arange(round((2.0 - quiet_s) * RATE)) / RATE
    x[: len(t)] += 0.2 * np.sin(2 * np.pi * 330.0 * t) * np.minimum(1.0, (t[-1] - t) / 0.05)
    assert bool(signals(x)) is there


def test_something_after_it_makes_it_none() -> None:
    assert signals(sound([1.0, 1.4]) + sound([2.0], 294.0)) == []


def test_the_first_half_second_cannot_be_told() -> None:
    assert signals(sound([0.3, 0.7])) == []


def test_knocks_and_silence_are_nothing() -> None:
    x = sound([])
    for at_s in (1.0, 1.4):
        a = round(at_s * RATE)
        x[a : a + 400] += 0.3 * np.random.default_rng(2).standard_normal(400)
    assert signals(x) == []
    assert signals(np.zeros(2 * RATE)) == []
    assert PluckWatch(RATE, G3).push(np.zeros(0)) == 0


@settings(max_examples=8, deadline=None)
@given(block=st.integers(min_value=100, max_value=9_000))
def test_blocks_of_any_length_say_the_same(block: int) -> None:
    assert signals(sound([1.0, 1.35, 1.7], seconds=4.0), block=block) == [3]


def test_onsets_need_most_bands() -> None:
    level = np.full((200, 12), -60.0, dtype=np.float32)
    level[100:, :] = -40.0
    assert onsets_of(level, 0.005) == [pytest.approx(0.5, abs=0.03)]
    level[50:, :] = -60.0
    level[150:, :3] = -40.0  # three of twelve bands rise by 20 dB: 5 dB in the mean
    assert onsets_of(level, 0.005) == []
    level[150:, 3] = -40.0
    assert len(onsets_of(level, 0.005)) == 1, "four of twelve"
    assert onsets_of(level[:4], 0.005) == []
