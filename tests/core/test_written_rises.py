"""How strongly written pitches sound, and the notes that may begin where one rises."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.sound.activations import ACTIVATION_HOP_S, Activations, activations
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.sound.measure_segment import Take
from jigwright.core.sound.written_rises import (
    Risen,
    Rising,
    ends_s,
    find_rises,
    rises_of,
    without_partials,
    written_rises,
)
from jigwright.core.values import Floats

RATE = 16_000
D5, E5, F5, A5, D6 = 587.33, 659.26, 698.46, 880.0, 1174.66
A4 = 440.0


def tone(
    f_hz: float, onset_s: float, stop_s: float, ends_s: float, total_s: float, rise_s: float = 0.02
) -> Floats:
    """A bowed note that rings on: partials falling off, a release of a fifth of a second."""
    t = np.arange(round(total_s * RATE)) / RATE
    count = max(6, int(1500.0 / f_hz))
    x = sum(h**-1.2 * np.sin(2 * np.pi * h * f_hz * t + h) for h in range(1, count + 1))
    rises = np.clip((t - onset_s) / rise_s, 0, 1)
    rings = np.where(t > stop_s, 10 ** (-(t - stop_s) / max(ends_s - stop_s, 1e-3)), 1.0)
    return np.asarray(x * rises * rings)


def take_of(x: Floats) -> Take:
    n = round(len(x) / RATE / HOP_S)
    flat = np.full(n, -20.0)
    contours = Contours(
        f0_hz=np.full(n, np.nan), level_db=flat, clarity=np.ones(n), centroid_hz=flat,
        loudness_db=flat,
    )  # fmt: skip
    return Take(
        x=x, rate_hz=RATE, hop_samples=round(HOP_S * RATE), contours=contours, blur_s=0.01,
        noise_db=-90.0,
    )  # fmt: skip


def at(found: Activations, seconds: float) -> Floats:
    return found.values[:, round(seconds / ACTIVATION_HOP_S)]


# how strongly pitches sound -----------------------------------------------------------------


def test_what_sounds_is_strong_and_nothing_else() -> None:
    x = tone(D5, 0.1, 0.5, 0.52, 1.2) + tone(F5, 0.6, 1.0, 1.02, 1.2)
    found = activations(x, RATE, (D5, E5, F5), window_s=0.046)
    assert found.values.shape == (3, 120)
    first, second = at(found, 0.3), at(found, 0.8)
    assert first[0] > 0.8
    assert max(first[1:]) < 0.05
    assert second[2] > 0.8
    assert max(second[:2]) < 0.05
    assert max(at(found, 0.04)) < 0.02


def test_two_that_sound_together_are_both_there() -> None:
    x = tone(D5, 0.1, 1.0, 1.1, 1.2) + tone(A5, 0.5, 1.0, 1.1, 1.2)
    found = activations(x, RATE, (D5, F5, A5), window_s=0.046)
    assert at(found, 0.3)[2] < 0.05
    low, other, high = at(found, 0.8)
    assert min(low, high) > 0.5
    assert other < 0.1


def test_an_octave_that_only_shares_partials_is_not_taken_for_a_note() -> None:
    x = tone(D5, 0.1, 1.0, 1.1, 1.2)
    low, high = at(activations(x, RATE, (D5, D6), window_s=0.046), 0.6)
    assert high < 0.3 * low


def test_a_player_out_of_tune_is_heard() -> None:
    x = tone(D5 * 2 ** (30 / 1200), 0.1, 1.0, 1.1, 1.2)
    found = at(activations(x, RATE, (D5, E5), window_s=0.046), 0.6)
    assert found[0] > 0.8
    assert found[1] < 0.1


def test_softer_is_less() -> None:
    x = tone(D5, 0.1, 0.5, 0.52, 1.6) + 0.25 * tone(D5, 0.9, 1.3, 1.32, 1.6)
    found = activations(x, RATE, (D5,), window_s=0.046)
    loud, soft = at(found, 0.3)[0], at(found, 1.1)[0]
    assert soft / loud == pytest.approx(0.25**0.7, rel=0.05)  # magnitudes to the power 0.7


def test_long_sounds_in_parts_are_the_same_as_whole() -> None:
    x = np.zeros(32 * RATE)
    x[28 * RATE :] = tone(D5, 0.1, 3.7, 3.8, 4.0)
    found = activations(x, RATE, (D5, E5), window_s=0.046)
    assert found.values.shape == (2, 3200)
    around = found.values[0, 2970:3030]  # the border lies at 30 s
    assert around.min() > 0.7
    assert around.max() < 1.3


@pytest.mark.parametrize(("n", "pitches"), [(0, (D5,)), (RATE, ()), (100, (D5,))])
def test_nothing_in_nothing_out(n: int, pitches: tuple[float, ...]) -> None:
    found = activations(np.zeros(n), RATE, pitches, window_s=0.046)
    assert found.values.shape == (len(pitches), n // 160)
    assert found.pitches_hz == pitches


def test_silence_is_finite() -> None:
    assert np.isfinite(activations(np.zeros(RATE), RATE, (D5, E5), window_s=0.046).values).all()


# where one rises ----------------------------------------------------------------------------


def steps(*levels: float, pitches: tuple[float, ...] = (D5,), each: int = 20) -> Activations:
    row = np.repeat(np.array(levels), each)
    return Activations(pitches_hz=pitches, values=np.stack([row] * len(pitches)), window_s=0.046)


def test_a_rise_lies_where_it_begins() -> None:
    (found,) = rises_of(steps(0.0, 1.0, 1.0))
    assert (found.i_pitch, found.frame) == (0, 20)
    assert found.rise == pytest.approx(1.0)


def test_a_slow_rise_begins_where_a_tenth_of_it_is_done() -> None:
    row = np.concatenate([np.zeros(20), np.linspace(0.05, 1.0, 6), np.ones(20)])
    (found,) = rises_of(Activations(pitches_hz=(D5,), values=row[np.newaxis], window_s=0.046))
    assert found.frame == 21  # 0.24; 0.05 is less than a tenth


@pytest.mark.parametrize(("strength", "there"), [(0.051, True), (0.049, False)])
def test_a_faint_rise_is_none(strength: float, there: bool) -> None:
    assert bool(rises_of(steps(0.0, strength, strength))) is there


@pytest.mark.parametrize(("ratio", "there"), [(1.21, True), (1.17, False)])  # 1.5 dB: 1.189
def test_hardly_more_is_no_rise(ratio: float, there: bool) -> None:
    assert bool(rises_of(steps(0.5, 0.5 * ratio, 0.5 * ratio))) is there


def test_a_rise_says_how_much_more_it_is() -> None:
    (found,) = rises_of(steps(0.5, 1.0, 1.0))
    assert found.ratio_db == pytest.approx(6.0, abs=0.1)


def test_falling_is_no_rise() -> None:
    assert rises_of(steps(1.0, 0.2, 0.2)) == []


def test_two_strokes_of_one_pitch_are_two_rises() -> None:
    assert [r.frame for r in rises_of(steps(0.0, 1.0, 0.3, 1.0))] == [20, 60]


def test_rises_come_in_time_order() -> None:
    late, soon = np.repeat([0.0, 0.0, 1.0], 20), np.repeat([0.0, 1.0, 1.0], 20)
    found = rises_of(
        Activations(pitches_hz=(D5, E5), values=np.stack([late, soon]), window_s=0.046)
    )
    assert [(r.i_pitch, r.frame) for r in found] == [(1, 20), (0, 40)]


def test_too_short_a_sound_has_none() -> None:
    assert rises_of(steps(0.0, 1.0, each=5)) == []


def rising(i: int, frame: int, rise: float) -> Rising:
    return Rising(i_pitch=i, frame=frame, rise=rise)


@pytest.mark.parametrize(
    ("other_hz", "frame", "rise", "kept"),
    [
        (2 * D5, 105, 0.4, False), (3 * D5, 95, 0.4, False),
        (2 * D5, 106, 0.4, True), (2 * D5, 94, 0.4, True),  # not at the time
        (2 * D5, 100, 0.6, True),  # stronger than what it would be a partial of
        (2 * D5 * 2 ** (24 / 1200), 100, 0.4, False),
        (2 * D5 * 2 ** (26 / 1200), 100, 0.4, True), (2 * D5 * 2 ** (-26 / 1200), 100, 0.4, True),
        (1.5 * D5, 100, 0.4, True), (0.5 * D5, 100, 0.4, True),
    ],
)  # fmt: skip
def test_a_partial_of_what_rises_is_no_note(
    other_hz: float, frame: int, rise: float, kept: bool
) -> None:
    own, other = rising(0, 100, 0.5), rising(1, frame, rise)
    found = without_partials(sorted([own, other], key=lambda r: r.frame), (D5, other_hz))
    assert own in found
    assert (other in found) is kept


# the notes ----------------------------------------------------------------------------------


def both() -> Take:
    """D, and F while it rings on."""
    return take_of(tone(D5, 0.2, 0.5, 0.9, 1.2) + tone(F5, 0.5, 0.8, 0.9, 1.2))


def found_in(
    take: Take, pitches_hz: tuple[float, ...], heard: list[Segment]
) -> tuple[Segment, ...]:
    return written_rises(take, find_rises(take, pitches_hz), heard)


def heard_d() -> list[Segment]:
    return [segment(D5, 0.2, seconds=0.6)]


def test_a_note_under_what_rings_on_is_a_doubtful_one_with_its_pitch() -> None:
    found = [s for s in found_in(both(), (D5, E5, F5), heard_d()) if s.level_dbfs > -90]
    (note,) = found
    assert note.doubtful
    assert note.is_hidden
    assert not note.slurred
    assert note.onset_s == pytest.approx(0.5, abs=0.03)
    assert 1200 * np.log2(note.f0_hz / F5) == pytest.approx(0.0, abs=3.0)
    assert 0.5 < note.uncertainty_cents < 8.0
    assert note.onset_s < note.core_start_s < note.core_end_s <= note.offset_s
    assert note.level_dbfs == pytest.approx(-20.0, abs=0.5)


@pytest.mark.parametrize(
    ("f_hz", "onset_s", "known"),
    [
        (F5, 0.5, True), (F5, 0.53, True), (F5, 0.54, False),
        (F5 * 2 ** (60 / 1200), 0.5, True), (F5 * 2 ** (-70 / 1200), 0.5, False),
    ],
)  # fmt: skip
def test_what_was_heard_is_not_doubted_again(f_hz: float, onset_s: float, known: bool) -> None:
    heard = [*heard_d(), segment(f_hz, onset_s, seconds=0.3)]
    assert (found_in(both(), (D5, E5, F5), heard) == ()) is known


def test_only_what_is_written_is_looked_for() -> None:
    assert found_in(both(), (D5, E5), heard_d()) == ()
    assert found_in(both(), (), heard_d()) == ()


def test_a_pitch_that_cannot_be_told_is_no_note() -> None:
    rng = np.random.default_rng(0)
    noise = np.zeros(round(1.2 * RATE))
    noise[8000:] = rng.normal(size=len(noise) - 8000)
    for s in found_in(take_of(noise), (D5, E5, F5), heard_d()):
        assert s.uncertainty_cents <= 50.0


def test_a_low_string_is_looked_at_through_a_longer_window() -> None:
    low, other = 41.2, 49.0
    x = tone(low, 0.2, 0.6, 1.0, 1.4, 0.1) + tone(other, 0.6, 1.0, 1.1, 1.4, 0.1)
    found = found_in(take_of(x), (low, 43.65, other), [segment(low, 0.2, seconds=0.8)])
    assert [round(s.f0_hz) for s in found if abs(s.onset_s - 0.6) < 0.05] == [49]


# where they end -----------------------------------------------------------------------------


def fading(*levels: float) -> Activations:
    """Silence for 10 frames, then these, then silence."""
    row = np.concatenate([np.zeros(10), levels, np.zeros(60)])
    return Activations(pitches_hz=(D5,), values=row[np.newaxis], window_s=0.046)


def test_a_note_ends_where_its_pitch_has_faded_to_a_third() -> None:
    r = rising(0, 10, 1.0)
    assert ends_s(fading(*[1.0] * 12), r, []) == pytest.approx(0.22)
    assert ends_s(fading(*[1.0] * 12, 0.31, 0.29), r, []) == pytest.approx(0.23)
    assert ends_s(fading(*[1.0] * 40), r, []) == pytest.approx(0.35)  # a quarter of a second


@pytest.mark.parametrize(
    ("frame", "rise", "end_s"),
    [(17, 0.51, 0.17), (17, 0.49, 0.22), (13, 0.9, 0.22), (30, 0.9, 0.22)],
)  # fmt: skip
def test_or_where_the_next_begins(frame: int, rise: float, end_s: float) -> None:
    r = rising(0, 10, 1.0)
    found = ends_s(fading(*[1.0] * 12), r, [rising(0, frame, rise)])
    assert found == pytest.approx(end_s)


def test_the_first_that_is_strong_enough_counts() -> None:
    later = [rising(0, 16, 0.2), rising(0, 18, 0.8), rising(0, 20, 0.9)]
    assert ends_s(fading(*[1.0] * 12), rising(0, 10, 1.0), later) == pytest.approx(0.18)


def test_it_lasts_long_enough_to_have_a_pitch() -> None:
    assert ends_s(fading(1.0, 1.0), rising(0, 10, 1.0), []) == pytest.approx(0.15)


# how sure their pitch is --------------------------------------------------------------------


def test_noise_makes_a_pitch_less_sure() -> None:
    x = both().x
    clear = found_in(take_of(x), (D5, E5, F5), heard_d())[0]
    noise = np.random.default_rng(0).normal(size=len(x)) * 0.8
    rough = [
        s for s in found_in(take_of(x + noise), (D5, E5, F5), heard_d())
        if abs(s.onset_s - 0.5) < 0.05
    ]  # fmt: skip
    assert rough
    assert rough[0].uncertainty_cents > 1.02 * clear.uncertainty_cents
    assert abs(1200 * np.log2(rough[0].f0_hz / F5)) < rough[0].uncertainty_cents


def test_a_range_is_never_below_a_cent() -> None:
    assert 1.0 <= found_in(both(), (D5, E5, F5), heard_d())[0].uncertainty_cents < 1.5


def test_a_note_alone_needs_no_other() -> None:
    x = tone(F5, 0.5, 0.8, 0.85, 1.2)
    (found,) = found_in(take_of(x), (D5, F5), heard_d())
    assert 1200 * np.log2(found.f0_hz / F5) == pytest.approx(0.0, abs=0.5)
    assert found.clarity > 0.98


# what is let go ------------------------------------------------------------------------------


def values_of(*, other: float, own: float = 0.5) -> Risen:
    """F rises at half a second to what is said, while D sounds."""
    n = 120
    d, f = np.full(n, other), np.zeros(n)
    f[50:80] = own
    sounding = Activations(pitches_hz=(D5, F5), values=np.stack([d, f]), window_s=0.046)
    return Risen(sounding=sounding, rises=(rising(1, 50, own),))


@pytest.mark.parametrize(("other", "there"), [(2.2, True), (2.4, False)])  # 0.22 of the strongest
def test_what_hardly_sounds_beside_another_is_its_shadow(other: float, there: bool) -> None:
    assert bool(written_rises(both(), values_of(other=other), heard_d())) is there


@pytest.mark.parametrize(("own", "there"), [(0.075, True), (0.065, False)])
def test_what_hardly_rises_is_let_go(own: float, there: bool) -> None:
    assert bool(written_rises(both(), values_of(other=0.1, own=own), heard_d())) is there


def test_a_stroke_inside_a_note_of_its_pitch_has_the_notes_pitch_less_surely() -> None:
    heard = [replace(segment(F5 * 2 ** (8 / 1200), 0.1, seconds=1.0), uncertainty_cents=2.0)]
    (found,) = written_rises(both(), values_of(other=0.1), heard)
    assert found.f0_hz == heard[0].f0_hz
    assert found.uncertainty_cents == pytest.approx(4.76, abs=0.02)
    assert found.doubtful
    assert found.onset_s == pytest.approx(0.482)
    assert found.offset_s <= heard[0].offset_s


def test_not_in_its_last_moments() -> None:
    heard = [segment(F5, 0.1, seconds=0.42)]  # to 0.52; the stroke would begin at 0.482
    (found,) = written_rises(both(), values_of(other=0.1), heard)
    assert found.f0_hz != heard[0].f0_hz


def test_inside_a_stop_a_stroke_has_its_own_pitch() -> None:
    heard = [replace(segment(F5 * 2 ** (30 / 1200), 0.1, seconds=1.0), i_pair=0)]
    (found,) = written_rises(both(), values_of(other=0.1), heard)
    assert 1200 * np.log2(found.f0_hz / F5) == pytest.approx(0.0, abs=4.0)


@pytest.mark.parametrize(("ratio_db", "alone", "inside"), [(3.1, True, True), (2.9, False, True)])
def test_a_note_of_its_own_rises_more_than_a_stroke_in_its_pitch(
    ratio_db: float, alone: bool, inside: bool
) -> None:
    risen = values_of(other=0.1)
    weak = Risen(
        sounding=risen.sounding, rises=(replace(risen.rises[0], ratio_db=ratio_db),)
    )  # fmt: skip
    assert bool(written_rises(both(), weak, heard_d())) is alone
    held = [segment(F5, 0.1, seconds=1.0)]
    assert bool(written_rises(both(), weak, held)) is inside


def test_a_repeated_stroke_has_the_pitch_of_its_own_time() -> None:
    take = both()
    f0_hz = np.full(len(take.contours.f0_hz), F5)
    f0_hz[round(0.482 / HOP_S) :] = F5 * 2 ** (20 / 1200)  # the second stroke is sharper
    take = replace(take, contours=replace(take.contours, f0_hz=f0_hz))
    held = [segment(F5 * 2 ** (10 / 1200), 0.1, seconds=1.0)]  # both together
    (found,) = written_rises(take, values_of(other=0.1), held)
    assert 1200 * np.log2(found.f0_hz / F5) == pytest.approx(20.0, abs=0.01)


@pytest.mark.parametrize("frame", [117, 118, 119])
def test_what_rises_at_the_very_end_is_no_trouble(frame: int) -> None:
    values = np.zeros((2, 120))
    values[0, frame:] = 1.0
    sounding = Activations(pitches_hz=(D5, A5), values=values, window_s=0.046)
    risen = Risen(sounding=sounding, rises=(Rising(i_pitch=0, frame=frame, rise=1.0),))
    take = take_of(tone(D5, frame * ACTIVATION_HOP_S, 1.2, 1.3, 1.2))
    assert all(s.offset_s <= 1.6 for s in written_rises(take, risen, ()))
