"""Stops that waver, stops that are written, octaves: on sound made of two chosen voices."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.stops import written_stops_hz
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import pure_strings
from jigwright.core.sound.heard import HOP_S, Contours, Heard, Pair
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.sound.pair_bridges import bridged
from jigwright.core.sound.pair_lines import lone_levels_db
from jigwright.core.sound.pair_measure import PairParams, Sound
from jigwright.core.sound.pair_written import with_written
from jigwright.core.sound.ranges import widened_pairs
from pair_builders import pair

RATE = 12_000
PARAMS = PairParams(divide=2, window_s=0.17)
Floats = np.ndarray


def voice(
    f_hz: float, seconds: float, *, vibrato_cents: float = 0.0, seed: int = 0, rate: int = RATE
) -> Floats:
    """A bowed tone: partials that fall by 6 dB an octave, each a little its own; RMS 1."""
    rng = np.random.default_rng(seed)
    t = np.arange(round(seconds * rate)) / rate
    swing = 0.5 * vibrato_cents * np.sin(2 * np.pi * 5.6 * t)
    phase = 2 * np.pi * np.cumsum(f_hz * 2 ** (swing / 1200)) / rate
    y = np.zeros(len(t))
    for k in range(1, int(0.45 * rate / f_hz) + 1):
        y += 10 ** (rng.normal(0, 2) / 20) / k * np.sin(k * phase + rng.uniform(0, 6.28))
    return y / np.sqrt(np.mean(y**2))


def heard(y: Floats, *, kind: str = "violin", stops: tuple[tuple[float, float], ...] = ()) -> Heard:
    """What is heard of a sound at 48 kHz, a moment of silence on either side."""
    n = round(0.03 * 48_000)
    y = y * np.minimum(1.0, np.minimum(np.arange(len(y)), np.arange(len(y))[::-1]) / n)
    quiet = np.zeros(24_000)
    x = 0.05 * np.concatenate([quiet, y, quiet])
    x += np.random.default_rng(9).normal(0, 1e-4, len(x))
    inst = instrument(kind)
    strings = pure_strings(inst.strings, 440.0)
    return hear(
        choose_signal(x.astype(np.float32)[:, None], 48_000), inst,
        lowest_open_hz=min(strings.values()), stops_hz=stops,
    )  # fmt: skip


def cents(a: float, b: float) -> float:
    return float(1200 * np.log2(a / b))


@pytest.mark.parametrize(("lower_hz", "upper_hz"), [(488.9, 586.7), (366.7, 440.0)])
def test_a_vibrato_on_one_of_two_strings_leaves_one_stop(lower_hz: float, upper_hz: float) -> None:
    y = voice(lower_hz, 2.0, rate=48_000) + voice(
        upper_hz, 2.0, vibrato_cents=40.0, seed=1, rate=48_000
    )
    found = heard(y)
    assert len(found.segments) == 1
    (stop,) = found.pairs
    assert stop.offset_s - stop.onset_s > 1.8
    assert abs(cents(stop.lower_hz, lower_hz)) < 1.0
    assert abs(cents(stop.upper_hz, upper_hz)) < 3.0


def test_notes_that_take_turns_are_no_stop() -> None:
    turns = [voice(f, 0.09, seed=k, rate=48_000) for k, f in enumerate(10 * (488.9, 586.7))]
    found = heard(np.concatenate(turns))
    assert not found.pairs


def test_lone_partials_say_when_each_note_sounds() -> None:
    half = len(voice(300.0, 0.5))
    y = voice(300.0, 1.0) + np.concatenate([np.zeros(half), 0.5 * voice(375.0, 0.5, seed=1)])
    levels = lone_levels_db(y, RATE, (300.0, 375.0))
    assert levels is not None
    lower, upper = levels
    quarter = len(upper) // 4
    assert np.ptp(lower[quarter : 3 * quarter]) < 3.0
    assert np.median(upper[3 * quarter :]) - np.median(upper[:quarter]) > 25.0
    assert np.median(lower) - np.median(upper[3 * quarter :]) == pytest.approx(6.0, abs=3.0)
    assert lone_levels_db(y, RATE, (300.0, 600.0)) is None  # an octave has none of its own


def sound(y: Floats) -> Sound:
    return Sound(x=y.astype(np.float32), rate_hz=float(RATE), n=round(PARAMS.window_s * RATE))


def piece(f_hz: float, onset_s: float, seconds: float):  # type: ignore[no-untyped-def]
    return replace(segment(f_hz, onset_s, seconds=seconds), clarity=0.9)


def stop_at(onset_s: float, offset_s: float, lower_hz: float, ratio: float) -> Pair:
    return pair([0.0] * 4, lower_hz=lower_hz, ratio=ratio, onset_s=onset_s, offset_s=offset_s)


THIRD = voice(300.0, 2.4) + voice(375.0, 2.4, seed=1)


def test_pieces_beside_a_stop_are_taken_in_where_both_strings_last() -> None:
    known = stop_at(0.0, 0.8, 300.0, 1.25)
    pieces = [piece(f, 0.8 + 0.15 * k, 0.14) for k, f in enumerate((300.0, 375.0, 150.0, 300.0))]
    (whole,) = bridged([known], pieces, sound(THIRD), PARAMS)
    assert (whole.onset_s, whole.offset_s) == (0.0, pytest.approx(1.39))
    silent = THIRD.copy()
    silent[round(0.8 * RATE) :] = voice(300.0, 1.6)  # the upper string was left
    assert bridged([known], pieces, sound(silent), PARAMS) == (known,)


def test_only_short_pieces_of_the_two_strings_that_follow_at_once_belong() -> None:
    known = stop_at(0.0, 0.8, 300.0, 1.25)
    for other in (piece(330.0, 0.8, 0.2), piece(300.0, 0.8, 0.45), piece(300.0, 0.95, 0.2)):
        assert bridged([known], [other], sound(THIRD), PARAMS) == (known,)
    near = piece(300.0, 0.9, 0.35)
    (whole,) = bridged([known], [near], sound(THIRD), PARAMS)
    assert whole.offset_s == pytest.approx(1.25)


def test_two_stops_that_are_alike_are_one_unless_a_long_note_lies_between() -> None:
    first, second = stop_at(0.0, 0.8, 300.0, 1.25), stop_at(1.6, 2.3, 300.0, 1.25)
    strange = piece(330.0, 0.9, 0.3)
    (whole,) = bridged([first, second], [strange], sound(THIRD), PARAMS)
    assert (whole.onset_s, whole.offset_s) == (0.0, pytest.approx(2.3))
    long = piece(330.0, 0.9, 0.5)
    assert len(bridged([first, second], [long], sound(THIRD), PARAMS)) == 2
    other = stop_at(1.6, 2.3, 330.0, 1.25)
    assert len(bridged([first, other], [strange], sound(THIRD), PARAMS)) == 2


def test_pieces_in_turn_make_a_stop_of_their_own_from_a_third_on() -> None:
    pieces = [piece(f, 0.1 + 0.12 * k, 0.11) for k, f in enumerate(3 * (300.0, 375.0))]
    (found,) = bridged([], pieces, sound(THIRD), PARAMS)
    assert abs(cents(found.upper_hz, 375.0)) < 1.0
    assert bridged([], pieces[:3], sound(THIRD), PARAMS) == ()
    second = voice(300.0, 2.4) + voice(337.5, 2.4, seed=1)  # nearer than a third: a trill
    trill = [piece(f, 0.1 + 0.12 * k, 0.11) for k, f in enumerate(3 * (300.0, 337.5))]
    assert bridged([], trill, sound(second), PARAMS) == ()


def loud(seconds: float) -> Contours:
    n = round(seconds / HOP_S)
    level = np.full(n, -20.0)
    return Contours(
        f0_hz=np.full(n, 300.0), level_db=level, clarity=np.full(n, 0.9),
        centroid_hz=np.full(n, 900.0), loudness_db=level,
    )  # fmt: skip


def written(
    pairs: list[Pair], segments: list, stops: list[tuple[float, float]], y: Floats = THIRD
) -> tuple[Pair, ...]:
    return with_written(pairs, segments, stops, sound(y), loud(2.4), PARAMS, floor_db=-60.0)


def test_a_written_stop_takes_the_place_of_a_common_root() -> None:
    phantom = stop_at(0.1, 2.3, 75.0, 5.0)  # the root two octaves down, and the upper note
    (found,) = written([phantom], [], [(302.0, 374.0), (250.0, 333.0)])
    assert abs(cents(found.lower_hz, 300.0)) < 1.0
    assert abs(cents(found.upper_hz, 375.0)) < 1.0
    assert found.offset_s - found.onset_s > 2.2
    root = replace(segment(75.0, 0.0, seconds=2.4), clarity=0.99)
    assert len(written([], [root], [(302.0, 374.0)])) == 1
    clear = replace(segment(300.0, 0.0, seconds=2.4), clarity=0.99)
    assert written([], [clear], [(302.0, 374.0)]) == ()


def test_another_stop_than_the_written_one_stays_what_it_is() -> None:
    heard_ = stop_at(0.1, 2.3, 300.0, 1.25)
    assert written([heard_], [], [(300.0, 400.0)]) == (heard_,)
    assert written([heard_], [], []) == (heard_,)
    assert written([], [], [(300.0, 400.0)]) == ()
    assert written([heard_], [], [(300.0, 375.0)]) == (heard_,)  # known already


def test_two_written_stops_after_each_other_are_parted_where_the_sound_changes() -> None:
    y = np.concatenate([THIRD[: round(1.2 * RATE)],
                        (voice(330.0, 1.2, seed=3) + voice(440.0, 1.2, seed=4))])  # fmt: skip
    stops = [(300.0, 375.0), (330.0, 440.0), (250.0, 310.0)]
    first, second = written([], [], stops, y)
    assert (first.onset_s, second.offset_s) == (0.0, pytest.approx(2.4))
    assert first.offset_s == pytest.approx(second.onset_s)
    assert abs(first.offset_s - 1.2) < 0.12
    assert abs(cents(second.upper_hz, 440.0)) < 1.0
    # what was heard of the second already leaves the first to be found
    known = stop_at(1.2, 2.4, 330.0, 4 / 3)
    one, same = written([known], [], stops, y)
    assert same == known
    assert one.offset_s == pytest.approx(1.2)


def test_a_heard_stop_gives_way_only_where_a_written_one_lies() -> None:
    y = np.concatenate([THIRD[: round(1.2 * RATE)], voice(330.0, 1.2) + voice(412.5, 1.2)])
    phantom = stop_at(0.1, 1.1, 75.0, 5.0)
    played = stop_at(1.3, 2.3, 330.0, 1.25)  # not what is written
    found = written([phantom, played], [], [(300.0, 375.0)], y)
    assert len(found) == 2
    assert abs(cents(found[0].lower_hz, 300.0)) < 1.0
    assert found[1] == played
    partly = stop_at(0.9, 2.3, 330.0, 1.25)  # a fifth of it over the written one
    assert written([partly], [], [(300.0, 375.0)], y)[-1] == partly


def test_soft_and_short_stretches_are_not_searched() -> None:
    quiet = with_written([], [], [(300.0, 375.0)], sound(THIRD), loud(2.4), PARAMS, floor_db=-19.0)
    assert quiet == ()
    clear = replace(segment(150.0, 0.24, seconds=2.2), clarity=0.97)
    assert written([], [clear], [(300.0, 375.0)]) == ()  # what is left is shorter than a stop
    unclear = replace(clear, clarity=0.95)
    assert len(written([], [unclear], [(300.0, 375.0)])) == 1
    strange = replace(unclear, f0_hz=530.0)  # no part of either note: that stop is not tried
    assert written([], [strange], [(300.0, 375.0)]) == ()


def test_one_note_is_no_written_stop() -> None:
    assert written([], [], [(300.0, 375.0)], voice(300.0, 2.4)) == ()
    assert written([], [], [(300.0, 375.0)], voice(375.0, 2.4)) == ()
    faint = voice(300.0, 2.4) + 0.3 * voice(375.0, 2.4, seed=1)
    assert len(written([], [], [(300.0, 375.0)], faint)) == 1


def test_octaves_are_not_looked_for_so() -> None:
    y = voice(300.0, 2.4) + voice(600.0, 2.4, seed=1)
    assert written([], [], [(300.0, 600.0), (300.0, 300.0)], y) == ()


@pytest.mark.parametrize(("kind", "f_hz"), [("violin", 293.3), ("cello", 108.1)])
@pytest.mark.parametrize("wide", [-30.0, 30.0])
def test_an_octave_out_is_parted_as_an_octave(kind: str, f_hz: float, wide: float) -> None:
    upper_hz = 2 * f_hz * 2 ** (wide / 1200)
    y = voice(f_hz, 2.0, rate=48_000) + voice(upper_hz, 2.0, seed=1, rate=48_000)
    (stop,) = heard(y, kind=kind).pairs
    assert abs(cents(stop.lower_hz, f_hz)) < 1.0
    assert abs(cents(stop.upper_hz, upper_hz)) < 1.0


def test_what_is_written_as_two_notes() -> None:
    jig = jig_from_line("G3+B3 D4 G3+B3 D4+A4:2", jig_id="j", instrument_id="violin", title="J")
    stops = written_stops_hz(jig, 442.0)
    assert len(stops) == 2
    assert stops[1][1] == pytest.approx(442.0)
    assert stops[0][1] / stops[0][0] == pytest.approx(2 ** (4 / 12))
    assert written_stops_hz(None, 440.0) == ()


def test_a_room_widens_the_range_of_a_voice_that_wavers() -> None:
    steady = pair([0.0] * 12)
    wavering = pair([6.0, -6.0] * 6)
    notes = [segment(294.0, 1.0)]
    (dry,) = widened_pairs([wavering], notes, 0.06)
    assert dry.upper_uncertainty_cents == wavering.upper_uncertainty_cents
    still, moved = widened_pairs([steady, wavering], notes, 0.3)
    assert still.upper_uncertainty_cents == steady.upper_uncertainty_cents
    assert moved.lower_uncertainty_cents == wavering.lower_uncertainty_cents
    assert moved.upper_uncertainty_cents == pytest.approx(np.hypot(0.4, 6.6), abs=0.01)
