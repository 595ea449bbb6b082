"""A bow that turns stands the string's wave on its head; nothing else does."""

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.sound import polarity
from jigwright.core.sound.heard import HOP_S, BowTurn, Contours
from jigwright.core.sound.measure_segment import Take
from jigwright.core.sound.polarity import (
    Phases,
    compare_at,
    compared,
    find_turns,
    goes_on,
    parted_where_turned,
    period_series,
    phases,
    turning_frames,
    way_of,
)
from jigwright.core.sound.segments import Piece

RATE = 12_000
AT_S = 1.0


def string_wave(
    f_hz=220.0, *, turns_at=None, jump=0.0, seconds=2.0, vibrato=0.0, noise=0.0, odd=False, seed=1
):
    """A sawtooth through a body of random phases; it may turn, or be ``jump`` periods late."""
    rng = np.random.default_rng(seed)
    t_s = np.arange(round(seconds * RATE)) / RATE
    cents = 0.5 * vibrato * np.sin(2 * np.pi * 5.5 * t_s)
    phase = 2 * np.pi * np.cumsum(f_hz * 2 ** (cents / 1200)) / RATE
    after = t_s >= (AT_S if turns_at is None else turns_at)
    x = np.zeros_like(t_s)
    for k in range(1, 11, 2 if odd else 1):
        body = rng.uniform(0, 2 * np.pi)
        x += np.sin(k * (phase + 2 * np.pi * jump * after) + body) / k
    if turns_at is not None:
        x = np.where(after, -x, x)
    frames = np.arange(round(seconds / HOP_S)) * HOP_S
    f0 = f_hz * 2 ** (np.interp(frames, t_s, cents) / 1200)
    return x + noise * rng.normal(size=len(x)), f0


def seen(x, f0, at_s=AT_S, **given):
    return compare_at(x, RATE, f0, at_s, 0.0, len(f0) * HOP_S, **given)


@pytest.mark.parametrize("f_hz", [49.0, 98.0, 220.0, 440.0, 784.0])
@pytest.mark.parametrize("vibrato", [0.0, 40.0])
def test_a_turn_leans_over_and_a_tone_that_goes_on_leans_back(f_hz, vibrato) -> None:
    turned = seen(*string_wave(f_hz, turns_at=AT_S, vibrato=vibrato))
    same = seen(*string_wave(f_hz, vibrato=vibrato))
    assert turned.lean > 0.4
    assert turned.fits > 0.95
    assert same.lean < -0.4
    assert same.fits > 0.95
    assert abs(same.shift) < 0.02


@pytest.mark.parametrize("jump", [-0.4, -0.1, 0.1, 0.3])
def test_a_new_start_the_same_way_round_is_out_of_step(jump) -> None:
    found = seen(*string_wave(jump=jump))
    assert found.lean < -0.4
    assert found.shift == pytest.approx(jump, abs=0.02)


def test_noise_draws_the_lean_to_nothing() -> None:
    clear = seen(*string_wave(turns_at=AT_S, noise=0.05)).lean
    drowned = [seen(*string_wave(turns_at=AT_S, noise=30.0, seed=k)).lean for k in range(12)]
    assert clear > 0.4
    assert abs(float(np.mean(drowned))) < 0.15


def test_odd_partials_alone_cannot_tell_a_turn_from_half_a_period() -> None:
    found = seen(*string_wave(turns_at=AT_S, odd=True))
    assert abs(found.lean) < 0.1


@pytest.mark.parametrize(("db_per_s", "tail"), [(0.0, False), (12.0, False), (24.0, True)])
def test_what_fades_like_a_room_is_no_second_stroke(db_per_s, tail) -> None:
    x, f0 = string_wave(turns_at=AT_S)
    after_s = np.clip(np.arange(len(x)) / RATE - AT_S, 0.0, None)
    fading = x * 10 ** (-db_per_s * after_s / 20)
    found = seen(fading, f0)
    assert found.lean > 0.4
    assert found.fades_db == pytest.approx(db_per_s * 0.25, abs=0.4)
    parts = parted_where_turned([piece()], fading, RATE, f0, frames(AT_S))
    assert len(parts) == (1 if tail else 2)


@pytest.mark.parametrize(("fades_db", "said"), [(3.9, True), (4.1, False)])
def test_a_fading_second_side_is_neither_parted_nor_said(monkeypatch, fades_db, said) -> None:
    found = polarity.SidesCompared(lean=0.9, fits=0.9, shift=0.0, fades_db=fades_db)
    monkeypatch.setattr(polarity, "compare_at", lambda *_args, **_given: found)
    silence = np.zeros(2 * RATE), RATE, np.full(400, 220.0)
    assert (len(parted_where_turned([piece()], *silence, frames(1.0))) == 2) is said
    flat = np.zeros(400)
    curves = Contours(
        f0_hz=silence[2], level_db=flat, clarity=flat, centroid_hz=flat, loudness_db=flat
    )
    take = Take(
        x=silence[0], rate_hz=RATE, hop_samples=60, contours=curves, blur_s=0.006, noise_db=-80.0
    )
    two = [segment(220.0, 0.0, seconds=1.0), segment(220.0, 1.0, seconds=1.0)]
    assert bool(find_turns(take, two)) is said


def test_two_sides_long_enough_are_needed() -> None:
    x, f0 = string_wave(turns_at=AT_S)
    enough = compare_at(x, RATE, f0, AT_S, AT_S - 0.22, AT_S + 0.28)
    before = compare_at(x, RATE, f0, AT_S, AT_S - 0.12, AT_S + 0.28)
    after = compare_at(x, RATE, f0, AT_S, AT_S - 0.22, AT_S + 0.17)
    assert np.isfinite(enough.lean)
    assert np.isnan(before.lean)
    assert np.isnan(after.lean)
    assert np.isnan(after.shift)


def test_without_a_pitch_nothing_is_said() -> None:
    x, f0 = string_wave(turns_at=AT_S)
    f0[np.arange(len(f0)) % 3 > 0] = np.nan
    assert np.isnan(seen(x, f0).lean)
    assert np.isnan(seen(x, np.full_like(f0, np.nan)).lean)


def test_single_frames_without_pitch_or_far_off_are_bridged() -> None:
    x, f0 = string_wave(turns_at=AT_S)
    f0[50:54], f0[120] = np.nan, 2 * f0[120]
    assert seen(x, f0).lean > 0.4


def test_a_period_series_is_the_partials_amplitudes_whatever_the_vibrato_does() -> None:
    x, f0 = string_wave(vibrato=60.0, seconds=1.0)
    read = period_series(x, RATE, f0, 0)
    assert read is not None
    size = np.abs(read.series).mean(axis=0)
    assert size[1] / size[0] == pytest.approx(1 / 2, rel=0.05)
    assert size[4] / size[0] == pytest.approx(1 / 5, rel=0.08)
    assert read.at_s[0] == pytest.approx(0.015, abs=0.005)
    assert np.diff(read.at_s) == pytest.approx(np.full(len(read.at_s) - 1, 0.0318), abs=0.003)


def test_phases_want_an_eighth_of_a_second() -> None:
    series = np.ones((4, 5), complex)
    assert phases(series) is not None
    assert phases(series[:3]) is None
    assert phases(series[:3], least_s=0.09) is not None


def test_a_steady_drift_in_time_is_taken_out_of_the_phases() -> None:
    k = np.arange(1, 6)
    drift = np.linspace(0.0, 1.5, 12)
    found = phases(np.exp(1j * np.outer(drift, k)))
    assert found is not None
    assert found.steady == pytest.approx(np.ones(5), abs=0.01)
    assert found.course[-1] - found.course[0] == pytest.approx(1.5, abs=0.06)


def side(partials, steady=1.0) -> Phases:
    partials = np.asarray(partials, complex)
    return Phases(partials=partials, steady=np.full(len(partials), steady), course=np.zeros(6))


def test_partials_far_below_the_strongest_do_not_count() -> None:
    ones, some = np.array([1.0, 1.0, 1.0, 1e-3]), [1.0, 1.0, 1.0, 0.1]
    other = np.array([1.0, 1.0, 1.0, -1e-3])
    assert compared(side(ones), side(other)).fits == pytest.approx(1.0, abs=1e-3)
    assert compared(side(some), side([1.0, 1.0, 1.0, -0.1])).fits < 0.99
    assert np.isnan(compared(side([1.0, 1e-4]), side([1.0, 1e-4])).lean)


def test_what_did_not_keep_its_phase_weighs_less() -> None:
    ones, other = np.ones(4), np.array([1.0, 1.0, 1.0, -1.0])
    loose = replace(side(other), steady=np.array([1.0, 1.0, 1.0, 0.1]))
    assert compared(side(ones), loose).fits > compared(side(ones), side(other)).fits + 0.1


@pytest.mark.parametrize(
    ("lean", "fits", "way"),
    [
        (0.26, 0.61, "turned"), (-0.26, 0.61, "same"), (0.24, 0.61, "unknown"),
        (-0.24, 0.61, "unknown"), (0.26, 0.59, "unknown"), (-0.9, 0.59, "unknown"),
        (float("nan"), 1.0, "unknown"), (0.9, float("nan"), "unknown"),
    ],
)  # fmt: skip
def test_a_way_is_said_only_where_it_is_clear(lean, fits, way) -> None:
    assert way_of(BowTurn(time_s=1.0, lean=lean, fits=fits)) == way


def test_a_string_goes_on_only_the_same_way_round_and_in_step() -> None:
    def asked(x, f0):
        return goes_on(x, RATE, f0, AT_S, 0.0, 2.0)

    assert asked(*string_wave())
    assert asked(*string_wave(jump=0.05))
    assert not asked(*string_wave(jump=0.09))
    assert not asked(*string_wave(jump=-0.09))
    assert not asked(*string_wave(turns_at=AT_S))
    assert not asked(*string_wave(noise=30.0))


@pytest.mark.parametrize(
    ("lean", "fits", "shift", "on"),
    [
        (-0.31, 0.86, 0.069, True), (-0.31, 0.86, -0.069, True), (-0.29, 0.86, 0.0, False),
        (-0.31, 0.84, 0.0, False), (-0.31, 0.86, 0.071, False), (-0.31, 0.86, -0.071, False),
        (float("nan"), 0.9, 0.0, False),
    ],
)  # fmt: skip
def test_what_going_on_asks_for(monkeypatch, lean, fits, shift, on) -> None:
    found = polarity.SidesCompared(lean=lean, fits=fits, shift=shift)
    monkeypatch.setattr(polarity, "compare_at", lambda *_args, **_given: found)
    assert goes_on(np.zeros(4), RATE, np.zeros(4), 1.0, 0.0, 2.0) is on


def piece(start_s=0.0, stop_s=2.0, **given) -> Piece:
    given = {"broken_before": False, "cents": 9000.0, **given}
    return Piece(start=round(start_s / HOP_S), stop=round(stop_s / HOP_S), **given)


def frames(*times_s):
    return [round(t / HOP_S) for t in times_s]


def test_a_piece_is_parted_where_the_bow_turned_and_only_there() -> None:
    x, f0 = string_wave(turns_at=1.0)
    whole = piece(dip_db=3.0, begins=2, new=0.3, clear=5, mixed=True)
    parts = parted_where_turned([whole], x, RATE, f0, frames(0.4, 1.0, 1.6))
    assert [(p.start, p.stop) for p in parts] == [(0, 200), (200, 400)]
    assert parts[0] == replace(whole, stop=200)
    assert parts[1].broken_before
    assert parts[1].dip_db > 0
    assert parts[1].cents == whole.cents
    assert not parts[1].mixed
    assert parts[1].begins is None


def test_a_tone_that_goes_on_stays_whole_whatever_dips() -> None:
    x, f0 = string_wave()
    assert parted_where_turned([piece()], x, RATE, f0, frames(0.4, 1.0, 1.6)) == [piece()]


def test_a_dip_of_another_piece_is_not_looked_at() -> None:
    x, f0 = string_wave(turns_at=1.0)
    one, two = piece(0.0, 1.0), piece(1.0, 2.0, broken_before=True)
    assert parted_where_turned([one, two], x, RATE, f0, frames(1.0)) == [one, two]


@pytest.mark.parametrize("at_s", [0.5, 1.0, 1.6])
def test_a_turn_is_seen_where_nothing_dips(at_s) -> None:
    x, f0 = string_wave(turns_at=at_s, vibrato=30.0)
    (found,) = turning_frames(x, RATE, f0, piece())
    assert found * HOP_S == pytest.approx(at_s, abs=0.04)
    parts = parted_where_turned([piece()], x, RATE, f0, [])
    assert [p.start for p in parts] == [0, found]


@pytest.mark.parametrize(
    ("news", "at_s"),
    [
        ({0.9: 0.05}, 0.9), ({0.8: 0.05, 0.9: 0.04}, 0.8), ({1.02: 0.05}, 1.02),
        ({0.9: 0.009}, 1.0), ({0.7: 0.05}, 1.0), ({1.06: 0.05}, 1.0),
    ],
)  # fmt: skip
def test_a_turn_began_where_most_is_new_shortly_before_it_is_seen(news, at_s) -> None:
    x, f0 = string_wave(turns_at=1.0)
    new = np.zeros(len(f0))
    for moment_s, height in news.items():
        new[round(moment_s / HOP_S)] = height
    parts = parted_where_turned([piece()], x, RATE, f0, [], new)
    assert parts[1].start * HOP_S == pytest.approx(at_s, abs=0.03)


def test_nothing_is_seen_in_a_tone_that_goes_on_or_is_too_short() -> None:
    still, f0 = string_wave(vibrato=40.0)
    assert turning_frames(still, RATE, f0, piece()) == []
    x, f0 = string_wave(turns_at=0.12)
    assert turning_frames(x, RATE, f0, piece(0.0, 0.23)) == []
    assert turning_frames(x, RATE, np.full_like(f0, np.nan), piece()) == []


def test_a_dip_close_to_a_turn_is_its_moment() -> None:
    x, f0 = string_wave(turns_at=1.0)
    for dip_s, starts in ((1.06, [0.0, 1.06]), (0.95, [0.0, 0.95])):
        parts = parted_where_turned([piece()], x, RATE, f0, frames(dip_s))
        assert [p.start for p in parts] == frames(*starts)


def test_two_turns_part_three_strokes() -> None:
    x, f0 = string_wave(turns_at=0.7)
    again, _ = string_wave(turns_at=1.4)
    still, _ = string_wave()
    both = np.where(np.arange(len(x)) / RATE < 1.0, x, -again)
    assert np.allclose(np.abs(both), np.abs(still))
    parts = parted_where_turned([piece()], both, RATE, f0, frames(0.7, 1.4))
    assert [p.start for p in parts] == frames(0.0, 0.7, 1.4)


@pytest.mark.parametrize(
    ("lean", "fits", "parted"), [(0.41, 0.61, True), (0.39, 0.61, False), (0.41, 0.59, False)]
)
def test_a_border_wants_more_than_a_sentence(monkeypatch, lean, fits, parted) -> None:
    found = polarity.SidesCompared(lean=lean, fits=fits, shift=0.0)
    monkeypatch.setattr(polarity, "compare_at", lambda *_args, **_given: found)
    silence = np.zeros(2 * RATE), RATE, np.full(400, 220.0)
    parts = parted_where_turned([piece()], *silence, frames(1.0))
    assert (len(parts) == 2) is parted


@pytest.mark.parametrize(
    ("second", "looked"),
    [
        ({}, 1), ({"f0_hz": 220.0 * 2 ** (39 / 1200)}, 1), ({"f0_hz": 220.0 * 2 ** (41 / 1200)}, 0),
        ({"onset_s": 1.24}, 1), ({"onset_s": 1.26}, 0), ({"i_pair": 0}, 0), ({"offset_s": 1.1}, 0),
    ],
)  # fmt: skip
def test_turns_are_looked_for_where_one_pitch_begins_again(second, looked) -> None:
    x, f0 = string_wave(turns_at=AT_S)
    a = segment(220.0, 0.0, seconds=1.0)
    b = replace(segment(220.0, 1.0, seconds=1.0), **second)
    flat = np.zeros_like(f0)
    curves = Contours(f0_hz=f0, level_db=flat, clarity=flat, centroid_hz=flat, loudness_db=flat)
    take = Take(x=x, rate_hz=RATE, hop_samples=60, contours=curves, blur_s=0.006, noise_db=-80.0)
    found = find_turns(take, [a, b])
    assert len(found) == looked
    if looked:
        assert found[0].time_s == b.onset_s


def test_what_sounds_at_the_moment_itself_does_not_count() -> None:
    x, f0 = string_wave(turns_at=AT_S)
    clear = seen(x, f0)
    t_s = np.arange(len(x)) / RATE
    bump = 3.0 * np.random.default_rng(2).normal(size=len(x))
    near = (t_s > AT_S - 0.012) & (t_s < AT_S + 0.06)
    assert seen(np.where(near, bump, x), f0).lean == pytest.approx(clear.lean, abs=0.03)
    before = (t_s > AT_S - 0.4) & (t_s < AT_S - 0.08)
    assert seen(np.where(before, bump, x), f0).lean < clear.lean - 0.1


def test_both_sides_steadiness_weighs() -> None:
    ones, other = np.ones(4), np.array([1.0, 1.0, 1.0, -1.0])
    loose = np.array([1.0, 1.0, 1.0, 0.1])
    first = compared(replace(side(ones), steady=loose), side(other))
    second = compared(side(ones), replace(side(other), steady=loose))
    both = compared(replace(side(ones), steady=loose), replace(side(other), steady=loose))
    assert first.fits == pytest.approx(second.fits)
    assert both.fits > first.fits > compared(side(ones), side(other)).fits


def test_partials_above_the_band_are_left_out() -> None:
    x, f0 = string_wave(784.0, turns_at=AT_S)
    read = period_series(x, RATE, f0, 0)
    assert read is not None
    assert read.series.shape[1] == int(0.42 * RATE / 784.0)
    low, low_f0 = string_wave(98.0, turns_at=AT_S)
    read = period_series(low, RATE, low_f0, 0)
    assert read is not None
    assert read.series.shape[1] == 10
