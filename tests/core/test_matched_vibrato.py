"""How wide a vibrato is, heard through a room: by the sound itself, by the other notes, or not."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.gauge.values import Vibrato
from jigwright.core.gauge.vibrato import VibratoParams, measure_vibrato, room_ratio
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.sound.matched_vibrato import Swing, matched_swing
from jigwright.core.values import Floats

RATE = 24_000
SWING_HZ = 5.5


def note(half_cents: float, *, seconds: float = 1.5, phase: float = 0.4, seed: int = 0) -> Floats:
    """Eight partials that swing together; with a seed, through a room as loud as they are."""
    t = np.arange(round(seconds * RATE)) / RATE
    cents = half_cents * np.sin(2 * np.pi * SWING_HZ * t + phase)
    turn = 2 * np.pi * np.cumsum(440.0 * 2.0 ** (cents / 1200.0)) / RATE
    x = np.asarray(sum(np.sin(k * turn + k) / k for k in range(1, 9)))
    if seed:
        rng = np.random.default_rng(seed)
        tail = rng.normal(size=RATE // 2) * 10 ** (-3.0 * np.arange(RATE // 2) / RATE / 0.5)
        tail /= np.sqrt(np.sum(tail**2))
        x = x + np.convolve(x, tail)[: len(x)]
    return x[round(0.2 * RATE) :]


def swing_of(x: Floats, by_contour: float, phase: float = 0.0) -> Swing | None:
    # what is cut off at the beginning has turned the swing on
    turned = 0.4 + 2 * np.pi * SWING_HZ * 0.2 + phase
    return matched_swing(x, RATE, 440.0, SWING_HZ, turned, by_contour)


@pytest.mark.parametrize("half", [8.0, 14.0, 22.0, 38.0])
def test_the_width_is_found_in_the_dry(half: float) -> None:
    found = swing_of(note(half), half)
    assert found is not None
    assert found.half_cents == pytest.approx(half, rel=0.12)
    assert found.gain == pytest.approx(1.0, abs=0.03)  # the contour is as good


@pytest.mark.parametrize("half", [14.0, 22.0, 38.0])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_the_width_is_found_through_a_room(half: float, seed: int) -> None:
    found = swing_of(note(half, seed=seed), 0.6 * half)
    assert found is not None
    assert found.half_cents == pytest.approx(half, rel=0.25)
    assert found.gain > VibratoParams().least_gain


@pytest.mark.parametrize("off", [-0.6, 0.6])
def test_the_contours_phase_need_only_be_about_right(off: float) -> None:
    found = swing_of(note(22.0), 22.0, phase=off)
    assert found is not None
    assert found.half_cents == pytest.approx(22.0, rel=0.15)


def test_a_steady_note_has_no_swing() -> None:
    assert swing_of(note(0.0), 1.0) is None
    assert swing_of(note(0.0, seed=4), 1.0) is None
    assert swing_of(np.random.default_rng(1).normal(size=RATE), 5.0) is None


@pytest.mark.parametrize(("seconds", "found"), [(0.60, False), (0.63, True)])
def test_two_cycles_are_needed(seconds: float, found: bool) -> None:
    assert (swing_of(note(22.0, seconds=seconds), 22.0) is not None) is found


def test_every_cycle_is_turned_back_by_its_own_phase() -> None:
    """A swing whose rate is a little off the windows' step still adds up over a long note."""
    found = swing_of(note(22.0, seconds=3.0), 22.0)
    assert found is not None
    assert found.half_cents == pytest.approx(22.0, rel=0.08)
    assert found.sd_cents < 0.5


def test_cycles_that_differ_make_it_less_sure() -> None:
    even = swing_of(note(22.0), 22.0)
    uneven = swing_of(np.concatenate([note(10.0)[: RATE // 2], note(35.0)[RATE // 2 :]]), 22.0)
    assert even is not None
    assert uneven is not None
    assert uneven.sd_cents > 3.0 * even.sd_cents


# the gauge --------------------------------------------------------------------------------


def contours_of(half: float, seconds: float = 2.0) -> Contours:
    t = np.arange(round(seconds / HOP_S)) * HOP_S
    f0 = 440.0 * 2.0 ** (half * np.sin(2 * np.pi * SWING_HZ * t) / 1200.0)
    curve = np.full(len(t), 0.99)
    return Contours(f0_hz=f0, level_db=-20 * curve, clarity=curve, centroid_hz=curve,
                    loudness_db=-20 * curve)  # fmt: skip


def long_note(**more: float) -> Segment:
    return replace(segment(440.0, 0.0, seconds=2.0), **more)  # type: ignore[arg-type]


def measured(half: float, note: Segment, ratio: float = 1.0) -> Vibrato:
    found = measure_vibrato(
        contours_of(half), note, VibratoParams(), window_s=0.011, room_ratio=ratio
    )
    assert isinstance(found, Vibrato)
    return found


@pytest.mark.parametrize(
    ("swing", "gain", "extent"),
    [
        (20.0, 1.046, 40.0),  # the sound says more: the contour is what the room leaves
        (20.0, 1.001, 40.0),
        (9.6, 1.2, 19.2),
        (9.4, 1.2, 20.0),  # narrower than the contour is no room's doing
        (0.0, 0.0, 20.0),
    ],
)
def test_the_matched_swing_counts_where_it_gathers_more(
    swing: float, gain: float, extent: float
) -> None:
    found = measured(10.0, long_note(swing_cents=swing, swing_gain=gain))
    assert found.extent_cents == pytest.approx(extent, rel=0.02)
    assert found.rate_hz == pytest.approx(SWING_HZ, abs=0.05)


def test_a_matched_swing_is_a_vibrato_though_the_contour_is_ragged() -> None:
    ragged = contours_of(4.0)
    noise = np.random.default_rng(3).normal(size=len(ragged.f0_hz))
    ragged = replace(ragged, f0_hz=ragged.f0_hz * 2.0 ** (6.0 * noise / 1200.0))
    for gain, present in ((1.046, True), (1.044, False)):
        found = measure_vibrato(
            ragged, long_note(swing_cents=9.0, swing_gain=gain), VibratoParams(), window_s=0.011
        )
        assert isinstance(found, Vibrato)
        assert found.present is present


def test_others_of_the_take_widen_what_is_too_narrow_to_match() -> None:
    plain = measured(10.0, long_note())
    widened = measured(10.0, long_note(), ratio=1.5)
    assert widened.extent_cents == pytest.approx(1.5 * plain.extent_cents)
    assert widened.extent_uncertainty_cents > 3.0 * plain.extent_uncertainty_cents


@pytest.mark.parametrize(
    ("swing", "gain", "extent"),
    [
        (13.0, 1.021, 26.0),  # surely matched: what it says
        (13.0, 1.019, 30.0),  # hardly: what the others of the take say
        (16.0, 1.019, 32.0),  # unless it is wider
    ],
)
def test_a_flat_match_is_held_against_the_others(swing: float, gain: float, extent: float) -> None:
    found = measured(10.0, long_note(swing_cents=swing, swing_gain=gain), ratio=1.5)
    assert found.extent_cents == pytest.approx(extent, rel=0.02)


@pytest.mark.parametrize(("ends_s", "more"), [(0.069, 1.0), (0.071, 5.0), (float("nan"), 1.0)])
def test_in_a_room_that_nothing_tells_of_an_extent_is_the_least(ends_s: float, more: float) -> None:
    def of(ends_s: float) -> Vibrato:
        found = measure_vibrato(
            contours_of(10.0), long_note(), VibratoParams(), window_s=0.011, ends_s=ends_s
        )
        assert isinstance(found, Vibrato)
        return found

    plain, here = of(0.05), of(ends_s)
    assert here.extent_cents == plain.extent_cents
    ratio = here.extent_uncertainty_cents / plain.extent_uncertainty_cents
    assert ratio >= more if more > 1 else ratio == 1.0


@pytest.mark.parametrize(
    ("gain", "ends_s", "extent"),
    [
        (1.046, 0.05, 40.0),
        (1.044, 0.05, 20.0),  # dry, the contour is the finger's own
        (1.044, 0.069, 20.0),
        (1.044, 0.071, 40.0),
        (1.044, float("nan"), 40.0),  # whether there is a room is not known
    ],
)
def test_dry_a_match_must_be_sure(gain: float, ends_s: float, extent: float) -> None:
    found = measure_vibrato(
        contours_of(10.0), long_note(swing_cents=20.0, swing_gain=gain), VibratoParams(),
        window_s=0.011, ends_s=ends_s,
    )  # fmt: skip
    assert isinstance(found, Vibrato)
    assert found.extent_cents == pytest.approx(extent, rel=0.02)


@pytest.mark.parametrize(("ends_s", "ratio"), [(0.069, 1.0), (0.071, 1.5)])
def test_dry_nothing_is_widened_by_others(ends_s: float, ratio: float) -> None:
    found = measure_vibrato(
        contours_of(10.0), long_note(), VibratoParams(), window_s=0.011, ends_s=ends_s,
        room_ratio=1.5,
    )  # fmt: skip
    assert isinstance(found, Vibrato)
    assert found.extent_cents == pytest.approx(20.0 * ratio, rel=0.02)


def ratio_of(swings: list[tuple[float, float]]) -> float:
    notes = [long_note(swing_cents=s, swing_gain=g) for s, g in swings]
    return room_ratio(contours_of(10.0), notes, VibratoParams(), window_s=0.011)


def test_the_ratio_of_a_room_is_that_of_its_notes() -> None:
    assert ratio_of([(15.0, 1.1), (16.0, 1.1), (20.0, 1.1)]) == pytest.approx(1.6, rel=0.02)


@pytest.mark.parametrize(
    "swings",
    [
        [],
        [(15.0, 1.1), (15.0, 1.1)],  # two are not enough
        [(15.0, 1.1), (15.0, 1.1), (15.0, 1.019)],  # nor is a third that is hardly matched
        [(8.0, 1.1), (8.0, 1.1), (8.0, 1.1)],  # no room widens
    ],
)
def test_without_a_room_nothing_is_widened(swings: list[tuple[float, float]]) -> None:
    assert ratio_of(swings) == 1.0
