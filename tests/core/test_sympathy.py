"""Ring to be had: laws of a resonator that a note is held against."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.music.sympathy import (
    PitchSwing,
    half_width_cents,
    is_unison,
    share_db,
    shared_partials,
    strings_that_may_hold,
)

VIOLIN_HZ = (195.5556, 293.3333, 440.0, 660.0)


def test_half_width_is_about_1900_over_f_and_decay() -> None:
    for f_hz, t60_s, cents in ((440.0, 2.0, 2.16), (131.0, 2.0, 7.25), (440.0, 1.0, 4.32)):
        assert half_width_cents(f_hz, t60_s) == pytest.approx(cents, rel=0.01)


def test_ten_cents_cost_thirteen_decibels_on_an_a_string() -> None:
    assert share_db(10.0, 440.0, 2.0) == pytest.approx(-13.5, abs=0.2)
    assert share_db(half_width_cents(440.0, 2.0), 440.0, 2.0) == pytest.approx(-3.0, abs=0.05)
    assert share_db(0.0, 440.0, 2.0) == 0.0


@given(st.floats(-30, 30), st.floats(60, 3000), st.floats(0.5, 6))
def test_a_share_is_never_more_than_all_and_as_good_above_as_below(
    cents: float, f_hz: float, t60_s: float
) -> None:
    share = share_db(cents, f_hz, t60_s)
    assert share <= 0.0
    assert share_db(-cents, f_hz, t60_s) == pytest.approx(share, abs=0.5)
    assert share_db(1.5 * cents, f_hz, t60_s) <= share


def test_a_vibrato_takes_from_the_middle_and_gives_beside_it() -> None:
    swing = PitchSwing(rate_hz=5.5, half_extent_cents=20.0)
    assert share_db(0.0, 440.0, 1.5, swing) < -1.0
    assert share_db(21.5, 440.0, 1.5, swing) > share_db(21.5, 440.0, 1.5) + 3.0
    still = PitchSwing(rate_hz=5.5, half_extent_cents=0.0)
    assert share_db(7.0, 440.0, 1.5, still) == share_db(7.0, 440.0, 1.5)
    hardly = PitchSwing(rate_hz=5.5, half_extent_cents=0.01)
    assert share_db(7.0, 440.0, 1.5, hardly) == pytest.approx(share_db(7.0, 440.0, 1.5), abs=0.01)


def test_shared_partials_follow_the_ratio() -> None:
    assert shared_partials(440.0, 220.0)[0] == (1, 2)
    assert shared_partials(330.0, 220.0)[0] == (2, 3)
    assert shared_partials(440.0 * 2 ** (50 / 1200), 220.0) == ()
    assert shared_partials(440.0 * 2 ** (29 / 1200), 220.0)
    assert shared_partials(440.0 * 2 ** (20 / 1200), 220.0, within_cents=15.0) == ()


def test_unison_and_the_strings_a_note_can_be_on() -> None:
    assert is_unison(295.0, VIOLIN_HZ[1])
    assert not is_unison(VIOLIN_HZ[1] * 2 ** (61 / 1200), VIOLIN_HZ[1])
    assert strings_that_may_hold(VIOLIN_HZ[2], VIOLIN_HZ) == (2, 1, 0)
    assert strings_that_may_hold(VIOLIN_HZ[2] * 2 ** (-31 / 1200), VIOLIN_HZ) == (1, 0)
