"""Stops as notes while somebody plays: looks gathered, cut and put in the place of single notes."""

from __future__ import annotations

import numpy as np
import pytest

from builders import segment
from jigwright.core.music.instruments import instrument
from jigwright.core.sound.heard import Now, PairNow
from jigwright.core.sound.live_pair import EVERY_S, LivePair
from jigwright.core.sound.live_stops import LiveStop, LiveStops, with_stops


def now(lower_hz: float, upper_hz: float) -> PairNow:
    return PairNow(lower_hz=lower_hz, upper_hz=upper_hz, balance_db=0.0)


THIRD, OTHER = now(300.0, 375.0), now(330.0, 412.0)


def heard(looks: list[PairNow | None], levels: list[float] | None = None) -> LiveStops:
    """Looks every tenth of a second, and levels every hundredth."""
    stops = LiveStops(EVERY_S)
    for k, one in enumerate(looks):
        for j in range(10):
            i = 10 * k + j
            level = levels[i] if levels is not None and i < len(levels) else -20.0
            stops.hear_level(
                Now(time_s=0.01 * i, f0_hz=300.0, level_db=level, clarity=0.9, sounding=True)
            )
        stops.hear(0.1 * k + 0.09, one)
    return stops


def test_what_stays_the_same_is_one_stop_and_ends_with_something_else() -> None:
    stops = heard([None, *6 * [THIRD], *5 * [OTHER], None, None])
    first, second = stops.found
    assert (first.lower_hz, first.upper_hz) == (300.0, 375.0)
    assert (first.onset_s, first.offset_s) == (pytest.approx(0.14), pytest.approx(0.74))
    assert (second.lower_hz, second.upper_hz) == (330.0, 412.0)
    assert stops.sounding_since_s is None


def test_three_looks_make_a_stop() -> None:
    assert not heard([*2 * [THIRD], None, None]).found
    assert len(heard([*3 * [THIRD], None, None]).found) == 1
    assert heard(2 * [THIRD]).sounding_since_s is None
    assert heard(3 * [THIRD]).sounding_since_s == pytest.approx(0.04)


def test_one_strange_look_parts_nothing_two_do() -> None:
    assert len(heard([*4 * [THIRD], OTHER, *4 * [THIRD], None, None]).found) == 1
    assert len(heard([*4 * [THIRD], OTHER, OTHER, *4 * [THIRD], None, None]).found) == 2


@pytest.mark.parametrize(("cents", "n"), [(64.0, 1), (66.0, 2)])
def test_how_far_two_looks_may_differ(cents: float, n: int) -> None:
    moved = now(300.0, 375.0 * 2 ** (cents / 1200))
    assert len(heard([*4 * [THIRD], *4 * [moved], None, None]).found) == n


@pytest.mark.parametrize(("deep_db", "n"), [(6.9, 1), (7.1, 2)])
def test_the_same_stop_bowed_again_is_a_new_one(deep_db: float, n: int) -> None:
    levels = 160 * [-20.0]
    levels[60:63] = 3 * [-20.0 - deep_db]
    found = heard([*14 * [THIRD], None, None], levels).found
    assert len(found) == n
    if n == 2:
        assert found[0].offset_s < 0.7
        assert found[1].onset_s == pytest.approx(0.6, abs=0.02)


def test_a_soft_start_and_a_fall_at_the_end_are_no_new_stroke() -> None:
    levels = 160 * [-20.0]
    levels[8:14] = 6 * [-40.0]
    levels[135:160] = 25 * [-40.0]
    assert len(heard([*14 * [THIRD], None, None], levels).found) == 1


def test_a_new_take_begins_from_nothing() -> None:
    stops = heard([*4 * [THIRD], None, None, *4 * [OTHER]])
    stops.forget()
    assert stops.found == ()
    assert stops.sounding_since_s is None


STOP = LiveStop(onset_s=1.0, offset_s=2.0, lower_hz=300.0, upper_hz=375.0)


def test_single_notes_inside_a_stop_are_none() -> None:
    before, inside = segment(440.0, 0.5, seconds=0.5), segment(300.0, 1.2, seconds=0.3)
    across = segment(375.0, 1.7, seconds=0.5)  # three fifths of it
    after = segment(440.0, 1.9, seconds=0.5)
    notes, pairs = with_stops([before, inside, across, after], (STOP,))
    assert [n.onset_s for n in notes] == [0.5, 1.0, 1.9]
    assert notes[1].i_pair == 0
    assert (pairs[0].lower_hz, pairs[0].upper_hz) == (300.0, 375.0)


def test_what_begins_in_a_stop_that_still_sounds_waits() -> None:
    early, late = segment(440.0, 0.5), segment(300.0, 1.2)
    assert with_stops([early, late], (), since_s=1.0)[0] == (early,)
    assert with_stops([early, late], (), since_s=1.35)[0] == (early, late)
    assert with_stops([early, late], ())[0] == (early, late)


def voices(*partials: tuple[float, float], seconds: float = 0.6) -> np.ndarray:
    t = np.arange(round(48_000 * seconds)) / 48_000
    out = np.zeros(len(t))
    for f_hz, gain in partials:
        for k in range(1, 12):
            out += gain / k * np.sin(2 * np.pi * k * f_hz * t + k * k)
    return 0.05 * out


def looked_at(x: np.ndarray, stops: tuple[tuple[float, float], ...]) -> LivePair:
    ear = LivePair(instrument("violin"), 48_000, 196.0, stops_hz=stops)
    for i in range(0, len(x), 480):
        ear.push(x[i : i + 480])
    return ear


def test_a_look_says_the_middle_of_its_window() -> None:
    ear = LivePair(instrument("violin"), 48_000, 196.0)
    x = voices((300.0, 1.0), (375.0, 1.0))
    said = [ear.push(x[i : i + 480]) for i in range(0, len(x), 480)]
    looks = [s for s in said if s is not None]
    assert np.diff(looks) == pytest.approx(EVERY_S, abs=0.011)
    window_s = instrument("violin").pair_window_s
    assert 0.0 < 0.6 - 0.5 * window_s - looks[-1] < EVERY_S


def test_a_written_stop_needs_both_of_its_strings() -> None:
    written = ((300.0, 375.0),)
    both = looked_at(voices((301.0, 1.0), (374.0, 1.0)), written).now
    assert both is not None
    assert (both.lower_hz, both.upper_hz) == (
        pytest.approx(301.0, rel=1e-3), pytest.approx(374.0, rel=1e-3),
    )  # fmt: skip
    for one in ((300.0, 1.0), (375.0, 1.0)):
        assert looked_at(voices(one), written).now is None
    # an octave is never claimed of one note
    assert looked_at(voices((300.0, 1.0)), ((300.0, 600.0), (150.0, 300.0))).now is None


def test_another_stop_than_the_written_one_is_said_as_it_is() -> None:
    found = looked_at(voices((300.0, 1.0), (400.0, 1.0)), ((300.0, 375.0),)).now
    assert found is not None
    assert found.upper_hz == pytest.approx(400.0, rel=1e-3)
