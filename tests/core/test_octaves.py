"""Octaves parted by the phase of their even partials."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from test_pair_pieces import heard as heard_sound

from aim_builders import jig_of
from builders import heard as heard_from
from builders import keep_take, new_studio, segment
from jigwright.core.gauge.stop_arrival import StopArrivalParams, measure_stop_arrival
from jigwright.core.gauge.values import StopArrival
from jigwright.core.sound.octaves import Octave, part_octave
from jigwright.core.values import Unmeasured
from pair_builders import pair

RATE = 12_000
LOW = 146.8


def note(
    f_hz: float,
    seconds: float,
    cents: np.ndarray | float = 0.0,
    *,
    seed: int = 0,
    rate: int = RATE,
) -> np.ndarray:
    """Partials that fall by 6 dB an octave, their pitch so many cents away at each moment."""
    rng = np.random.default_rng(seed)
    n = round(seconds * rate)
    phase = 2 * np.pi * np.cumsum(f_hz * 2 ** (np.broadcast_to(cents, n) / 1200)) / rate
    y = np.zeros(n)
    for k in range(1, int(0.45 * rate / f_hz) + 1):
        y += 10 ** (rng.normal(0, 2) / 20) / k * np.sin(k * phase + rng.uniform(0, 6.28))
    return y / np.sqrt(np.mean(y**2))


def swing(cents: float, seconds: float, rate: int = RATE) -> np.ndarray:
    t = np.arange(round(seconds * rate)) / rate
    return 0.5 * cents * np.sin(2 * np.pi * 5.5 * t)


def both(
    off: np.ndarray | float = 0.0,
    *,
    lower: np.ndarray | float = 0.0,
    db: float = 0.0,
    seconds: float = 1.6,
) -> np.ndarray:
    gain = 10 ** (db / 20)
    noise = np.random.default_rng(7).normal(0, 1e-3, round(seconds * RATE))
    return note(LOW, seconds, lower) + gain * note(2 * LOW, seconds, off, seed=1) + noise


def told(y: np.ndarray) -> Octave:
    found = part_octave(y, RATE, LOW * 2 ** (6 / 1200))
    assert found is not None
    return found


def wide(found: Octave) -> float:
    return float(1200 * np.log2(found.upper_hz / found.lower_hz / 2))


@pytest.mark.parametrize("off", [-30.0, -4.0, 3.0, 12.0, 30.0])
def test_a_detuning_is_told_to_a_few_tenths_of_a_cent(off: float) -> None:
    found = told(both(off))
    assert wide(found) == pytest.approx(off, abs=0.4)
    assert abs(1200 * np.log2(found.lower_hz / LOW)) < 0.1
    assert abs(wide(found) - off) < found.uncertainty_cents < 3.0


def test_a_vibrato_of_the_upper_alone_parts_an_octave_in_tune() -> None:
    found = told(both(swing(40.0, 1.6)))
    assert wide(found) == pytest.approx(0.0, abs=0.9)
    assert np.ptp(1200 * np.log2(found.upper_track_hz)) > 3.0
    assert np.ptp(1200 * np.log2(found.lower_track_hz)) < 1.0


def test_a_vibrato_of_both_is_taken_out() -> None:
    found = told(both(swing(30.0, 1.6) + 8.0, lower=swing(30.0, 1.6)))
    assert wide(found) == pytest.approx(8.0, abs=0.6)


def test_two_that_are_one_stay_one() -> None:
    assert part_octave(both(0.0), RATE, LOW) is None
    vibrato = swing(30.0, 1.6)
    assert part_octave(both(vibrato, lower=vibrato), RATE, LOW) is None


@pytest.mark.parametrize("cents", [0.0, 35.0])
def test_one_note_is_no_octave(cents: float) -> None:
    y = note(LOW, 1.6, swing(cents, 1.6))
    assert part_octave(y, RATE, LOW) is None
    assert part_octave(y + np.random.default_rng(2).normal(0, 0.05, len(y)), RATE, LOW) is None
    t = np.arange(len(y)) / RATE
    waves = y * (1 + 0.3 * np.sin(2 * np.pi * 4 * t))  # a level that waves is no second note
    assert part_octave(waves, RATE, LOW) is None


def test_a_partial_that_a_room_turns_alone_is_no_second_note() -> None:
    y = note(LOW, 1.6)
    t = np.arange(len(y)) / RATE
    stray = y + 0.3 * np.sin(2 * np.pi * (2 * LOW + 1.5) * t)  # the second partial beats, no other
    assert part_octave(stray, RATE, LOW) is None


@pytest.mark.parametrize(("db", "found"), [(-9.0, True), (-30.0, False)])
def test_how_soft_the_upper_may_be(db: float, found: bool) -> None:
    one = part_octave(both(10.0, db=db), RATE, LOW)
    assert (one is not None) is found
    if one is not None:
        assert one.balance_db == pytest.approx(db, abs=3.0)


@pytest.mark.parametrize(("db", "found"), [(-14.0, True), (-22.0, False)])
def test_the_lower_note_must_be_there_itself(db: float, found: bool) -> None:
    two = note(2 * LOW, 1.6) + note(4 * LOW, 1.6, 12.0, seed=1)  # an octave, one octave higher
    low = 10 ** (db / 20) * note(LOW, 1.6, seed=2)
    noise = np.random.default_rng(7).normal(0, 1e-3, len(two))
    assert part_octave(two + noise, RATE, LOW) is None
    upper = note(2 * LOW, 1.6, 12.0, seed=1)
    assert (part_octave(upper + low + noise, RATE, LOW) is not None) is found


def test_short_and_high_notes_are_left() -> None:
    assert part_octave(both(10.0, seconds=0.49), RATE, LOW) is None
    high = note(900.0, 1.5) + note(1800.0, 1.5, 10.0, seed=1)
    assert part_octave(high, RATE, 900.0) is None  # too few partials


def way(rate: int) -> np.ndarray:
    t = np.arange(round(2.0 * rate)) / rate
    return np.interp(t, [0.0, 0.3, 0.38, 0.7, 0.8], [18.0, 18.0, -14.0, -14.0, 2.0])


def test_overshoot_and_return_is_heard_and_where_it_settled() -> None:
    y = note(LOW, 2.0) + note(2 * LOW, 2.0, way(RATE), seed=1)
    found = told(y)
    assert wide(found) == pytest.approx(2.0, abs=0.5)
    at_s, off = found.times_s, 1200 * np.log2(found.upper_track_hz / found.lower_track_hz / 2)
    assert np.median(off[at_s < 0.28]) == pytest.approx(18.0, abs=1.0)
    assert np.median(off[(at_s > 0.48) & (at_s < 0.62)]) == pytest.approx(-14.0, abs=1.0)


def octave(rate: int = 48_000) -> np.ndarray:
    return note(LOW, 2.0, rate=rate) + note(2 * LOW, 2.0, way(rate), seed=1, rate=rate)


def test_a_written_octave_is_parted_and_its_way_told() -> None:
    found = heard_sound(octave(), kind="cello", stops=((LOW, 2 * LOW),))
    (stop,) = found.pairs
    assert stop.parted
    assert [s.i_pair for s in found.segments] == [0]
    reached = measure_stop_arrival(stop, (2, 1), StopArrivalParams())
    assert isinstance(reached, StopArrival)
    assert reached.kind == "hunted"
    assert reached.swings_cents == pytest.approx((16.0, -16.0), abs=1.0)
    assert reached.mover == "upper"


def test_an_octave_that_nobody_wrote_is_not_looked_for() -> None:
    assert not any(p.parted for p in heard_sound(octave(), kind="cello").pairs)
    other = heard_sound(octave(), kind="cello", stops=((130.0, 260.0), (LOW, 1.5 * LOW)))
    assert not any(p.parted for p in other.pairs)


def test_fits_alone_say_nothing_of_the_way_of_an_octave() -> None:
    moved = pair([20.0] * 3 + [0.0] * 12, ratio=2.0)
    assert measure_stop_arrival(moved, (2, 1), StopArrivalParams()) == Unmeasured("fused")
    parted = measure_stop_arrival(replace(moved, parted=True), (2, 1), StopArrivalParams())
    assert isinstance(parted, StopArrival)
    assert parted.kind == "corrected"


def test_how_an_octave_was_parted_is_kept(tmp_path: Path) -> None:
    studio = new_studio(tmp_path / "studio")
    jig = jig_of("D3+D4 D3+A3", instrument_id="cello")
    stops = (replace(pair([3.0] * 9, ratio=2.0), parted=True), pair([0.0] * 9))
    notes = [replace(segment(s.lower_hz, 1.0 + k), i_pair=k) for k, s in enumerate(stops)]
    take = keep_take(studio, "t", jig, replace(heard_from(notes), pairs=stops))
    assert [p.parted for p in studio.heard(take.id).pairs] == [True, False]
    studio.close()
