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


def test_of_nothing_comes_nothing() -> None:
    empty = Frames(
        f0_hz=np.zeros((0, 2)), clarity=np.zeros((0, 2)), level_db=np.zeros(0),
        centroid_hz=np.zeros(0), loudness_db=np.zeros(0),
    )  # fmt: skip
    assert len(find_contour(empty, P, floor_db=-60.0)) == 0
