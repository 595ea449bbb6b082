"""The Stand's ear and signals that are plucked: told, and never kept as a take."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from jigwright.core.music.instruments import instrument
from jigwright.core.values import Floats
from jigwright.services.ear import Ear
from jigwright.services.recording import EarRequest, EarSays
from pluck_builders import G3, RATE, sound

BLOCK = 1200


def said(x: Floats, *, signals: bool = True, from_s: float = 0.0) -> list[EarSays]:
    request = EarRequest(
        path=Path("-"), instrument_id="violin", strings=instrument("violin").strings,
        a4_hz=440.0, jig=None, signals=signals, from_s=from_s,
    )  # fmt: skip
    ear = Ear(request, RATE)
    return [ear.hear(x[i : i + BLOCK]) for i in range(0, len(x), BLOCK)]


def played(start_s: float, stop_s: float, seconds: float) -> Floats:
    """A bowed note somewhere in silence."""
    t = np.arange(round((stop_s - start_s) * RATE)) / RATE
    note = sum(np.sin(2 * np.pi * h * 440.0 * t) / h for h in range(1, 12))
    swell = np.minimum(1.0, t / 0.05) * np.minimum(1.0, (t[-1] - t) / 0.05)
    x = np.zeros(round(seconds * RATE))
    x[round(start_s * RATE) :][: len(t)] = 0.2 * swell * note
    return x


@pytest.mark.parametrize("n", [2, 3])
def test_plucks_alone_are_told_and_are_no_take(n: int) -> None:
    says = said(sound([2.0 + 0.4 * k for k in range(n)], seconds=9.0))
    assert [s.signal for s in says if s.signal] == [n]
    assert all(s.take is None for s in says)
    assert says[-1].since_s is None


def test_who_did_not_ask_for_them_has_none_and_keeps_his_take() -> None:
    says = said(sound([2.0, 2.4], seconds=9.0), signals=False)
    assert not any(s.signal for s in says)
    assert any(s.take is not None for s in says)


def test_a_take_that_was_over_before_them_ends_there() -> None:
    x = sound([5.0, 5.4], seconds=10.0) + played(1.0, 4.0, 10.0)
    says = said(x)
    assert [s.signal for s in says if s.signal] == [2]
    takes = [s.take for s in says if s.take is not None]
    assert len(takes) == 1
    assert takes[0][0] < 1.0
    assert takes[0][1] == pytest.approx(4.9, abs=0.06)
    at = next(i for i, s in enumerate(says) if s.signal)
    assert says[at].take == takes[0]
    assert says[-1].since_s is None


def test_an_ear_that_took_over_knows_the_time() -> None:
    x = sound([5.0, 5.4], seconds=10.0) + played(1.0, 4.0, 10.0)
    takes = [s.take for s in said(x, from_s=60.0) if s.take is not None]
    assert takes[0][1] == pytest.approx(64.9, abs=0.06)


def test_what_is_played_after_a_signal_is_a_take() -> None:
    x = sound([2.0, 2.4], seconds=14.0) + played(6.0, 9.0, 14.0)
    says = said(x)
    takes = [s.take for s in says if s.take is not None]
    assert len(takes) == 1
    assert takes[0][0] > 5.0


def test_another_note_played_twice_is_a_take() -> None:
    says = said(sound([2.0, 2.4], 1.5 * G3, seconds=9.0))
    assert not any(s.signal for s in says)
