"""Somebody else's metronome while one listens: found, taken out, forgotten when it stops."""

from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.sound.foreign_ticks import LOOK_EVERY_S, ForeignTicks
from tick_builders import metronome
from tone_builders import RATE, noise, notes

BLOCK = 1200


def through(
    x: np.ndarray, *, block: int = BLOCK, playing_from_s: float = 1e9
) -> tuple[ForeignTicks, np.ndarray, list[float]]:
    """What is left, and when something new was known."""
    foreign, left, known = ForeignTicks(RATE), [], []
    for i in range(0, len(x), block):
        left.append(foreign.take_out(x[i : i + block], playing=i / RATE >= playing_from_s))
        if foreign.found_now:
            known.append((i + block) / RATE)
    return foreign, np.concatenate(left), known


def energy(x: np.ndarray) -> float:
    return float(np.sum(x**2))


@pytest.mark.parametrize("block", [240, BLOCK, 7777])
def test_ticks_by_themselves_are_found_and_go(block: int) -> None:
    ticks = metronome(22.0, 100.0, every=4)
    foreign, left, known = through(noise(22.0) + ticks, block=block)
    assert foreign.metronome is not None
    assert foreign.metronome.bpm == pytest.approx(100.0, rel=1e-4)
    assert foreign.known_s == pytest.approx(known[0], abs=0.4)
    assert known[0] < 11.0
    after = slice(round(15.0 * RATE), None)
    assert energy(left[after]) < 0.03 * energy(ticks[after])
    before = slice(0, round((known[0] - 0.5) * RATE))
    assert np.array_equal(left[before], (noise(22.0) + ticks)[before])


def test_under_playing_they_go_and_the_notes_stay() -> None:
    played, ticks = notes(26.0) + noise(26.0), metronome(26.0, 90.0, 0.3)
    foreign, left, _ = through(played + ticks)
    assert foreign.metronome is not None
    after = slice(round(18.0 * RATE), None)
    assert energy((left - played)[after]) < 0.3 * energy(ticks[after])


def test_where_there_is_none_the_sound_is_left_as_it_is() -> None:
    played = notes(16.0) + noise(16.0)
    foreign, left, known = through(played)
    assert foreign.metronome is None
    assert known == []
    assert np.array_equal(left, played)
    assert not foreign.covers(8.0, -90.0)
    assert not foreign.only_ticks(0.0)


def test_a_machine_that_was_stopped_is_forgotten() -> None:
    x = noise(24.0) + metronome(24.0, 120.0, to_s=12.0)
    foreign, left, _ = through(x)
    assert foreign.metronome is None
    assert foreign.known_s == float("inf")
    late = slice(round(16.0 * RATE), None)
    assert np.array_equal(left[late], x[late])
    stopped = slice(round(12.1 * RATE), None)
    assert energy(left[stopped]) < 1.01 * energy(x[stopped]), "no tick is put in where none is"


def test_it_is_told_whether_anything_else_sounded() -> None:
    ticks = noise(12.0) + metronome(12.0, 100.0, every=4)
    foreign, _, _ = through(ticks)
    assert foreign.only_ticks(0.0)
    played = ticks + np.concatenate([np.zeros(round(6.0 * RATE)), notes(6.0)])
    foreign, _, _ = through(played)
    assert foreign.metronome is not None
    assert not foreign.only_ticks(0.0)
    assert not foreign.only_ticks(7.0)


def test_soft_sound_on_a_tick_may_be_what_is_left_of_it() -> None:
    foreign, _, _ = through(noise(12.0) + metronome(12.0, 60.0, 0.3))
    found = foreign.metronome
    assert found is not None
    at_s = found.first_s + 5 * found.period_s
    loud_dbfs = max(
        10 * np.log10(np.mean(metronome(2.0, 60.0, 0.3)[i : i + 1200] ** 2))
        for i in range(7200, 8400, 60)
    )
    assert foreign.covers(at_s + 0.02, loud_dbfs + 1.0)
    assert not foreign.covers(at_s + 0.02, loud_dbfs + 3.5)
    assert foreign.covers(at_s - 0.02, loud_dbfs - 9.0)
    assert not foreign.covers(at_s - 0.05, loud_dbfs - 40.0)
    assert foreign.covers(at_s + 0.2, loud_dbfs - 9.0)
    assert not foreign.covers(at_s + 0.2, loud_dbfs - 3.0), "later it has died away"
    assert not foreign.covers(at_s + 0.35, loud_dbfs - 40.0)


def test_beside_a_fast_one_soft_playing_is_heard_between_the_ticks() -> None:
    foreign, _, _ = through(noise(12.0) + metronome(12.0, 240.0, 0.3))
    found = foreign.metronome
    assert found is not None
    at_s = found.first_s + 20 * found.period_s
    times = at_s + np.linspace(0.0, found.period_s, 100, endpoint=False)
    covered = np.mean([foreign.covers(t, -90.0) for t in times])
    assert 0.3 < covered < 0.6


@pytest.mark.parametrize("block", [BLOCK, RATE])
def test_it_is_not_forgotten_while_it_goes_on(block: int) -> None:
    _, _, known = through(noise(26.0) + metronome(26.0, 100.0), block=block)
    assert 1 <= len(known) <= 4, "found once and learnt better, not lost and found again"


def test_while_somebody_plays_and_a_while_after_it_is_not_learnt_anew() -> None:
    x = noise(30.0) + metronome(30.0, 100.0, every=4)
    _, _, always = through(x)
    _, _, until = through(x, playing_from_s=10.0)
    assert until == [t for t in always if t <= 10.0 + LOOK_EVERY_S * 0.1]
    assert len(until) >= 1
