from __future__ import annotations

from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.sound.contour import ContourParams, find_contour
from jigwright.core.sound.frames import Frames

P = ContourParams()


def frames(f0_hz: list[list[float]], clarity: list[list[float]], level_db=None) -> Frames:
    n = len(f0_hz)
    level = np.full(n, -20.0) if level_db is None else np.array(level_db)
    return Frames(
        f0_hz=np.array(f0_hz, dtype=float).reshape(n, -1),
        clarity=np.array(clarity, dtype=float).reshape(n, -1),
        level_db=level, centroid_hz=np.full(n, 1000.0), loudness_db=level,
    )  # fmt: skip


def cheapest(one: Frames) -> float:
    """Least cost of all paths, every one looked at; the last state is no pitch."""
    n, k = one.f0_hz.shape
    octave = np.log2(one.f0_hz)
    local = 1.0 - one.clarity + P.octave_cost * (octave.max() - octave)
    none = 1.0 - P.unvoiced_height + 0.5 * P.octave_cost
    return min(path_cost(path, local, none, octave) for path in product(range(k + 1), repeat=n))


def path_cost(path, local, none: float, octave) -> float:
    k, total = local.shape[1], 0.0
    for t, state in enumerate(path):
        total += none if state == k else local[t, state]
        if t and (state == k) != (path[t - 1] == k):
            total += P.voicing_cost
        elif t and state < k:
            total += P.jump_cost * min(abs(octave[t, state] - octave[t - 1, path[t - 1]]), 1.5)
    return total


@given(
    st.lists(
        st.tuples(*[st.tuples(st.floats(80, 900), st.floats(0.2, 0.99))] * 2),
        min_size=1, max_size=6,
    )
)  # fmt: skip
def test_the_path_is_the_cheapest_of_all(rows) -> None:
    one = frames([[a[0], b[0]] for a, b in rows], [[a[1], b[1]] for a, b in rows])
    found = find_contour(one, P, floor_db=-60.0)
    away = np.abs(one.f0_hz - found.f0_hz[:, None]) + np.abs(one.clarity - found.clarity[:, None])
    path = [2 if np.isnan(f) else int(np.argmin(away[t])) for t, f in enumerate(found.f0_hz)]
    octave = np.log2(one.f0_hz)
    local = 1.0 - one.clarity + P.octave_cost * (octave.max() - octave)
    none = 1.0 - P.unvoiced_height + 0.5 * P.octave_cost
    assert path_cost(path, local, none, octave) == pytest.approx(cheapest(one), abs=1e-9)


@pytest.mark.parametrize(("height", "voiced"), [(0.5, False), (0.59, False), (0.61, True)])
def test_below_its_height_there_is_no_pitch(height: float, voiced: bool) -> None:
    one = frames([[220.0]] * 40, [[height]] * 40)
    found = find_contour(one, P, floor_db=-60.0)
    assert np.all(np.isfinite(found.f0_hz)) is np.bool_(voiced)
    assert found.clarity == pytest.approx(np.full(40, height))


def test_frames_below_the_floor_hold_none() -> None:
    level = [-20.0] * 10 + [-70.0] * 10
    found = find_contour(frames([[220.0]] * 20, [[0.95]] * 20, level), P, floor_db=-60.0)
    assert np.array_equal(np.isfinite(found.f0_hz), np.array(level) > -60.0)


def test_of_equal_heights_the_higher_octave_is_taken_and_a_clearer_lower_one_wins() -> None:
    alike = find_contour(frames([[110.0, 220.0]] * 9, [[0.9, 0.9]] * 9), P, floor_db=-60.0)
    assert np.all(alike.f0_hz == 220.0)
    lower = find_contour(frames([[110.0, 220.0]] * 9, [[0.97, 0.9]] * 9), P, floor_db=-60.0)
    assert np.all(lower.f0_hz == 110.0)


def test_a_short_jump_is_dearer_than_a_poorer_candidate() -> None:
    f0 = [[220.0, 330.0]] * 5 + [[220.0, 330.0]] * 2 + [[220.0, 330.0]] * 5
    clarity = [[0.95, 0.3]] * 5 + [[0.85, 0.95]] * 2 + [[0.95, 0.3]] * 5
    assert np.all(find_contour(frames(f0, clarity), P, floor_db=-60.0).f0_hz == 220.0)
    long = [[220.0, 330.0]] * 30
    clear = [[0.95, 0.3]] * 10 + [[0.7, 0.95]] * 10 + [[0.95, 0.3]] * 10
    found = find_contour(frames(long, clear), P, floor_db=-60.0).f0_hz
    assert found[5] == 220.0
    assert found[15] == 330.0


LOW_HZ = 48.0
HIGH = [1500.0, 0.05]  # so far up that a low candidate must be clear to be a pitch


def led(clarity_inside: float, cents: list[float], *, n_side: int = 12, level_db=None):
    """A low pitch that is clear on both sides of a gap, and goes through these cents in it."""
    way = [cents[0]] * n_side + cents + [cents[-1]] * n_side
    clear = [0.97] * n_side + [clarity_inside] * len(cents) + [0.97] * n_side
    f0 = [[LOW_HZ * 2 ** (c / 1200), HIGH[0]] for c in way]
    one = frames(f0, [[c, HIGH[1]] for c in clear], level_db)
    return find_contour(one, P, floor_db=-60.0).f0_hz[n_side : n_side + len(cents)], np.array(f0)


def ramp(cents: float, n: int = 12) -> list[float]:
    return [float(c) for c in np.linspace(0.0, cents, n)]


@pytest.mark.parametrize(
    ("cents", "through"), [(14.0, False), (16.0, True), (-50.0, True), (99.0, True), (101.0, False)]
)
def test_a_moving_pitch_is_followed_where_it_moves_as_a_vibrato(cents: float, through: bool):
    found, f0 = led(0.6, ramp(cents))
    assert np.isfinite(found).all() == through
    assert np.isfinite(found).any() == through
    if through:
        np.testing.assert_allclose(found, f0[12:24, 0])


@pytest.mark.parametrize(("height", "through"), [(0.36, True), (0.34, False)])
def test_what_it_is_followed_by_must_stand_out_a_little(height: float, through: bool) -> None:
    assert np.isfinite(led(height, ramp(50.0))[0]).all() == through


@pytest.mark.parametrize(("slope", "through"), [(2190.0, True), (2210.0, False), (-2210.0, False)])
def test_it_moves_no_faster_than_a_vibrato(slope: float, through: bool) -> None:
    by = slope * 0.005
    cents = [0.0] * 4 + [by * k for k in range(1, 5)] + [4 * by] * 4
    assert np.isfinite(led(0.6, cents)[0]).all() == through


@pytest.mark.parametrize(("step", "through"), [(29.0, True), (31.0, False)])
def test_it_goes_on_without_a_jump(step: float, through: bool) -> None:
    cents = [0.0] * 6 + [step] * 6
    assert np.isfinite(led(0.6, cents)[0]).all() == through


@pytest.mark.parametrize(("n", "through"), [(100, True), (101, False)])
def test_half_a_second_is_the_longest_gap(n: int, through: bool) -> None:
    cents = [30.0 * float(np.sin(2 * np.pi * k / 36)) for k in range(n)]
    assert np.isfinite(led(0.6, cents)[0]).all() == through


def test_nothing_is_led_through_silence_or_past_the_ends() -> None:
    n = 36
    level = np.where(np.arange(n) == 18, -61.0, -20.0)
    assert np.isnan(led(0.6, ramp(50.0), level_db=level)[0]).all()
    f0 = [[LOW_HZ * 2 ** (c / 1200), HIGH[0]] for c in ramp(50.0, 24)]
    ends = frames(f0, [[0.97, 0.05]] * 12 + [[0.6, 0.05]] * 12)
    assert np.isnan(find_contour(ends, P, floor_db=-60.0).f0_hz[12:]).all()


def test_of_nothing_comes_nothing() -> None:
    empty = Frames(
        f0_hz=np.zeros((0, 2)), clarity=np.zeros((0, 2)), level_db=np.zeros(0),
        centroid_hz=np.zeros(0), loudness_db=np.zeros(0),
    )  # fmt: skip
    assert len(find_contour(empty, P, floor_db=-60.0)) == 0
