"""Rough stretches and waves of level inside notes; what is scratch or shaking by them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.gauge.events import EventParams, find_events
from jigwright.core.gauge.values import Level
from jigwright.core.gauge_maths import level_wave, wave_at
from jigwright.core.sound.disturbances import find_bursts, find_swings, rough_runs
from jigwright.core.sound.heard import HOP_S, Burst, Contours, LevelSwing, Segment
from jigwright.core.sound.measure_segment import Take
from jigwright.core.values import Floats, Unmeasured

RATE, HOP, F0 = 24_000, 120, 440.0
NO = Unmeasured("not_needed")
NOTE = segment(F0, 0.2, seconds=1.0)
TWO_STRINGS = replace(NOTE, i_pair=0)
T = np.arange(round(1.4 * RATE)) / RATE
FRAMES = np.arange(len(T) // HOP) * HOP_S


def tone(f0_hz: float = F0, swing_db: float = 0.0, *, in_step: bool = True) -> Floats:
    """Eight partials whose level swings five times a second, in step or each in its own time."""
    x = np.zeros(len(T))
    for k in range(1, 9):
        phase = 0.0 if in_step else 2 * np.pi * k / 8
        gain = 10.0 ** (0.5 * swing_db * np.sin(2 * np.pi * 5.0 * T + phase) / 20.0)
        x += gain * np.sin(2 * np.pi * k * f0_hz * T + k) / k
    return x


def take_of(
    x: Floats,
    *,
    rough: tuple[float, float] | None = (0.65, 0.75),
    pitch_lost: bool = False,
    level_db: Floats | None = None,
) -> Take:
    """A take whose period explains little of what sounds between two times."""
    there = (rough[0] <= FRAMES) & (rough[1] > FRAMES) if rough else np.zeros(len(FRAMES), bool)
    level = np.full(len(FRAMES), -20.0) if level_db is None else level_db
    curves = Contours(
        f0_hz=np.where(there & pitch_lost, np.nan, F0), level_db=level,
        clarity=np.where(there, 0.7, 0.999), centroid_hz=level, loudness_db=level,
    )  # fmt: skip
    return Take(x=x, rate_hz=RATE, hop_samples=HOP, contours=curves, blur_s=0.006, noise_db=-80.0)


def noise(db: float) -> Floats:
    """Noise between 0.65 and 0.75 s, dB re the tone, over a floor 60 dB below it."""
    rng = np.random.default_rng(3)
    gain = np.where((T >= 0.65) & (T < 0.75), 10.0 ** (db / 20.0), 1e-3)
    return np.asarray(0.7 * gain * rng.standard_normal(len(T)))


# what rises between the partials ------------------------------------------------------------


def test_noise_fills_all_gaps_and_another_note_only_some() -> None:
    (scratch,) = find_bursts(take_of(tone() + noise(-6.0)), [NOTE])
    before = np.where((T >= 0.65) & (T < 0.75), 0.5, 1e-3) * tone(F0 * 2 ** (-4 / 12))
    (rings_on,) = find_bursts(take_of(tone() + before + noise(-60.0)), [NOTE])
    assert (scratch.start_s, scratch.end_s) == pytest.approx((0.65, 0.75), abs=0.01)
    assert 30.0 < scratch.between_db < 60.0
    assert rings_on.between_db < scratch.between_db - 15.0


def test_more_noise_rises_higher_by_as_much() -> None:
    (soft,) = find_bursts(take_of(tone() + noise(-26.0)), [NOTE])
    (loud,) = find_bursts(take_of(tone() + noise(-16.0)), [NOTE])
    assert loud.between_db - soft.between_db == pytest.approx(10.0, abs=1.0)


def test_noise_that_hides_the_pitch_is_measured_all_the_same() -> None:
    x = tone() + noise(-6.0)
    (heard,), (hidden,) = (
        find_bursts(take_of(x, pitch_lost=lost), [NOTE]) for lost in (False, True)
    )
    assert hidden.between_db == heard.between_db > 30.0


def test_a_note_that_noise_cut_in_two_is_looked_at_as_one() -> None:
    x = tone() + noise(-6.0)
    halves = [segment(F0, 0.2, seconds=0.44), segment(F0, 0.76, seconds=0.44)]
    assert len(find_bursts(take_of(x), halves)) == 1
    others = [halves[0], segment(F0 * 1.1, 0.76, seconds=0.44)]
    assert find_bursts(take_of(x), others) == ()
    far = [segment(F0, 0.2, seconds=0.2), segment(F0, 0.76, seconds=0.44)]
    assert find_bursts(take_of(x), far) == ()


@pytest.mark.parametrize(
    ("rough", "n"),
    [
        (None, 0), ((0.65, 0.75), 1), ((0.65, 0.695), 1), ((0.65, 0.68), 0),
        ((0.2, 0.285), 0), ((1.12, 1.2), 0),
    ],
)  # fmt: skip
def test_short_stretches_and_the_ends_of_notes_are_left_out(
    rough: tuple[float, float] | None, n: int
) -> None:
    assert len(find_bursts(take_of(tone(), rough=rough), [NOTE])) == n


def test_two_strings_are_not_looked_at() -> None:
    assert find_bursts(take_of(tone() + noise(-6.0)), [TWO_STRINGS]) == ()
    wave = -20.0 + 4.0 * np.sin(2 * np.pi * 5.0 * FRAMES)
    take = take_of(tone(swing_db=8.0), rough=None, level_db=wave)
    assert find_swings(take, [TWO_STRINGS]) == ()


@pytest.mark.parametrize(("clarity", "n"), [(0.922, 0), (0.919, 1)])
def test_what_is_hardly_rough_is_not_rough(clarity: float, n: int) -> None:
    # 0.9206: 11 dB below the whole; the note itself 30 dB below
    curve = np.full(160, 0.999)
    curve[60:80] = clarity
    assert len(rough_runs(curve)) == n


@pytest.mark.parametrize(("clarity", "n"), [(0.61, 0), (0.58, 1)])
def test_a_rough_note_is_its_own_measure(clarity: float, n: int) -> None:
    curve = np.full(160, 0.9)  # 10 dB below the whole; four times as much is 6 dB more
    curve[60:80] = clarity
    assert len(rough_runs(curve)) == n


# what swings in step ------------------------------------------------------------------------


def swing_of(swing_db: float, *, in_step: bool = True, level_swing_db: float = 6.0):
    wave = -20.0 + 0.5 * level_swing_db * np.sin(2 * np.pi * 5.0 * FRAMES)
    x = tone(swing_db=swing_db, in_step=in_step)
    return find_swings(take_of(x, rough=None, level_db=wave), [NOTE])


def test_a_bow_that_shakes_moves_all_partials_and_a_room_each_its_own_way() -> None:
    (bow,) = swing_of(6.0)
    (room,) = swing_of(6.0, in_step=False)
    assert bow.together_db == pytest.approx(5.4, abs=0.8)
    assert room.together_db < 0.5
    assert (bow.start_s, bow.end_s) == (NOTE.onset_s, NOTE.offset_s)


@pytest.mark.parametrize(("level_swing_db", "n"), [(2.9, 0), (3.2, 1)])
def test_small_swings_are_not_looked_at(level_swing_db: float, n: int) -> None:
    assert len(swing_of(4.0, level_swing_db=level_swing_db)) == n


def test_the_strongest_wave_of_a_curve_is_found_without_its_trend() -> None:
    t = np.arange(300) * HOP_S
    curve = -30.0 + 4.0 * t + 2.0 * np.sin(2 * np.pi * 6.0 * t) + 1.0 * np.sin(2 * np.pi * 9.5 * t)
    wave = level_wave(curve, HOP_S)
    assert wave is not None
    assert (wave.rate_hz, wave.depth) == pytest.approx((6.0, 4.0), abs=0.15)
    assert 0.6 < wave.share < 0.95
    other = level_wave(curve, HOP_S, without_hz=[(6.0, 1.5)])
    assert other is not None
    assert (other.rate_hz, other.depth) == pytest.approx((9.5, 2.0), abs=0.2)
    assert level_wave(curve[:100], HOP_S) is None
    assert level_wave(curve[:102], HOP_S) is not None


def test_a_wave_has_its_phase() -> None:
    t = np.arange(300) * HOP_S
    one, later = (wave_at(np.cos(2 * np.pi * 6.0 * t - p), HOP_S, 6.0) for p in (0.0, np.pi / 2))
    assert abs(one) == pytest.approx(1.0, abs=0.05)
    assert np.angle(later / one) == pytest.approx(-np.pi / 2, abs=0.05)


# what counts ----------------------------------------------------------------------------------

STEADY = Level(
    mean_dbfs=-20.0, range_db=1.0, slope_db_per_s=0.0, shape="level", tremor_hz=5.0, tremor_db=0.0
)  # fmt: skip


def kinds(
    *,
    bursts: tuple[Burst, ...] | None = None,
    swings: tuple[LevelSwing, ...] | None = None,
    tremor_db: float = float("nan"),
    rough: tuple[float, float] | None = (0.65, 0.75),
    note: Segment = NOTE,
    tail_s: float = float("nan"),
) -> list[str]:
    curves = take_of(tone(), rough=rough).contours
    level = replace(STEADY, tremor_db=tremor_db)
    found = find_events(
        curves, 0, note, level, NO, EventParams(), falls=(), bursts=bursts, swings=swings,
        tail_s=tail_s,
    )  # fmt: skip
    return [e.kind for e in found]


def burst(db: float, start_s: float = 0.66) -> Burst:
    return Burst(start_s=start_s, end_s=start_s + 0.06, between_db=db)


def test_scratch_is_noise_between_the_partials() -> None:
    assert kinds(bursts=(burst(12.0),)) == ["scratch"]
    assert kinds(bursts=(burst(11.9),)) == []
    assert kinds(bursts=(burst(30.0, 0.8),)) == []  # that of another place
    assert kinds(bursts=(burst(30.0, 0.5),)) == []
    assert kinds(bursts=()) == []
    assert kinds(bursts=None) == ["scratch"]  # an earlier version did not look


@pytest.mark.parametrize(
    ("start_s", "tail_s", "found"),
    [
        (0.375, 0.2, False), (0.385, 0.2, True), (0.3, 0.2, False), (0.3, 0.065, True),
        (0.3, 0.066, False), (0.3, float("nan"), True),
    ],
)  # fmt: skip
def test_in_rooms_the_note_before_is_waited_for(
    start_s: float, tail_s: float, *, found: bool
) -> None:
    place = (start_s, start_s + 0.1)
    there = kinds(bursts=(burst(20.0, start_s + 0.01),), rough=place, tail_s=tail_s)
    assert bool(there) is found


def test_a_bow_that_shakes_takes_nearly_all_partials_along() -> None:
    def shakes(tremor_db: float, together_db: float, start_s: float = 0.2) -> bool:
        swing = LevelSwing(start_s=start_s, end_s=start_s + 1.0, together_db=together_db)
        return kinds(swings=(swing,), tremor_db=tremor_db, rough=None) == ["shake"]

    assert shakes(3.7, 3.7)
    assert not shakes(3.5, 3.7)
    assert not shakes(3.7, 3.5)
    assert not shakes(5.0, 5.0, start_s=1.3)  # that of another note
    assert kinds(swings=None, tremor_db=3.7, rough=None) == ["shake"]
    assert kinds(swings=(), tremor_db=3.7, rough=None) == []


@pytest.mark.parametrize(
    ("attack_db", "slurred", "begins_s", "n"),
    [
        (5.9, False, 0.35, 0),  # a finger still slides there
        (6.1, False, 0.35, 1),  # the bow began anew
        (20.0, True, 0.35, 0),
        (5.9, False, 0.41, 1),
    ],
)
def test_where_the_bow_goes_on_the_beginning_may_still_slide(
    attack_db: float, slurred: bool, begins_s: float, n: int
) -> None:
    note = replace(NOTE, attack_db=attack_db, slurred=slurred)
    found = find_bursts(take_of(tone(), rough=(begins_s, begins_s + 0.08)), [note])
    assert len(found) == n
