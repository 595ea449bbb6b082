"""What recurs with every swing of a wide vibrato begins nothing; what does not, may."""

from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.sound.heard import HOP_S
from jigwright.core.sound.recurring import SwingParams, beyond_usual, swing_frames

P = SwingParams()
T = 36.0  # frames of a swing: 5.6 Hz


def swinging(n: int, half_cents: float, *, frames: float = T, noise: float = 0.0):
    t = np.arange(n)
    cents = half_cents * np.sin(2 * np.pi * t / frames)
    cents = cents + noise * np.random.default_rng(1).standard_normal(n)
    return 110.0 * 2.0 ** (cents / 1200.0)


# how the pitch swings -----------------------------------------------------------------------


@pytest.mark.parametrize(("half_cents", "wide"), [(15.5, True), (14.5, False), (40.0, True)])
def test_only_a_wide_swing_counts(half_cents: float, wide: bool) -> None:
    found = swing_frames(swinging(300, half_cents), 150, P)
    assert (found is not None) is wide
    if found is not None:
        assert found == pytest.approx(T, rel=0.02)


@pytest.mark.parametrize(("noise", "regular"), [(10.0, True), (17.0, False)])
def test_a_restless_pitch_is_no_swing(noise: float, regular: bool) -> None:
    found = swing_frames(swinging(300, 30.0, noise=noise), 150)
    assert (found is not None) is regular


@pytest.mark.parametrize(("n", "told"), [(91, True), (89, False)])
def test_two_swings_and_a_half_are_asked(n: int, told: bool) -> None:
    assert (swing_frames(swinging(n, 30.0), n // 2) is not None) is told


@pytest.mark.parametrize(("heard", "told"), [(52, True), (48, False)])
def test_half_of_what_lies_about_must_be_heard(heard: int, told: bool) -> None:
    f0_hz = np.full(200, np.nan)
    f0_hz[100 - heard // 2 : 100 + heard // 2] = swinging(heard, 60.0, frames=20.0)
    assert (swing_frames(f0_hz, 100) is not None) is told


def test_gaps_in_the_pitch_do_no_harm() -> None:
    f0_hz = swinging(300, 30.0)
    f0_hz[np.arange(300) % 9 < 3] = np.nan
    assert swing_frames(f0_hz, 150) == pytest.approx(T, rel=0.02)


def test_only_what_lies_about_the_moment_is_looked_at() -> None:
    f0_hz = np.concatenate([swinging(250, 30.0), np.full(250, 110.0)])
    assert swing_frames(f0_hz, 100) is not None
    assert swing_frames(f0_hz, 400) is None
    assert round(P.about_s / HOP_S) == 100


# what recurs --------------------------------------------------------------------------------

INSIDE = (0, 500)
PLACES = [250 + round(18.0 * k) for k in range(-6, 7)]


def beyond(own: float, odds: dict[int, float | None], *, inside=INSIDE, at: int = 250) -> float:
    return beyond_usual(own, at, sorted({*odds, at}), T, inside, lambda m: odds[m], P)


def test_a_moment_like_all_others_is_nothing_special() -> None:
    odds = {m: 1.5 for m in PLACES if m != 250}
    assert beyond(1.5, odds) == pytest.approx(1.5 - (1.5 + 3.0))


def test_once_in_every_swing_is_enough() -> None:
    wholes = {m: 1.0 for m in PLACES[::2] if m != 250}
    assert 250 in PLACES[::2]
    assert beyond(2.0, wholes) == pytest.approx(2.0 - 4.0)
    halves = dict.fromkeys(PLACES[1::2], 1.0)
    middle = 0.5 * (1.0 + P.silent)  # half of the places speak, half are silent
    assert beyond(2.0, halves) == pytest.approx(2.0 - (middle + 3.0))


def test_a_moment_that_stands_alone_keeps_its_odds() -> None:
    assert beyond(2.0, {}) == 2.0
    assert beyond(2.0, {m: -3.5 for m in PLACES if m != 250}) == 2.0


def test_few_others_take_nothing() -> None:
    few = {PLACES[4]: 3.0, PLACES[8]: 3.0}  # two of six whole swings: another stroke or two
    assert beyond(2.0, few) == 2.0


def test_what_cannot_be_weighed_is_silent() -> None:
    assert beyond(2.0, {m: None for m in PLACES if m != 250}) == 2.0


@pytest.mark.parametrize(("off", "recurs"), [(4, True), (5, False)])
def test_it_must_lie_in_its_place(off: int, recurs: bool) -> None:
    odds = {m + off: 1.0 for m in PLACES if m != 250}
    assert (beyond(2.0, odds) < 2.0) is recurs


@pytest.mark.parametrize(("first", "counts"), [(250 - 54, True), (250 - 53, False)])
def test_three_places_at_least_must_lie_inside(first: int, counts: bool) -> None:
    odds = {m: 1.0 for m in PLACES if m < 250}
    assert (beyond(2.0, odds, inside=(first, 260)) < 2.0) is counts


def test_the_nearest_of_two_is_asked() -> None:
    odds: dict[int, float | None] = {m: 1.0 for m in PLACES if m != 250}
    odds |= {m + 3: -5.0 for m in PLACES if m != 250}
    assert beyond(2.0, odds) == pytest.approx(2.0 - 4.0)


def test_no_more_is_taken_than_lies_beyond_the_usual() -> None:
    assert beyond(-1.0, {m: -1.0 for m in PLACES if m != 250}) == pytest.approx(-3.0)
