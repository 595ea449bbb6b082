"""Curves, pairs and lines of what rang come back from plain arrays as they went in."""

from __future__ import annotations

import io
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders import heard, segment
from jigwright.core.sound.heard import (
    BowTurn,
    Burst,
    Contours,
    Fall,
    Heard,
    LevelSwing,
    Pair,
    Speech,
    Whistle,
)
from jigwright.core.values import read_only
from jigwright.store.arrays import (
    heard_arrays,
    read_bursts,
    read_falls,
    read_heard_arrays,
    read_open_hz,
    read_ring_lines,
    read_swings,
    read_tail_s,
    read_talks,
    read_turns,
    read_window_s,
)
from ring_builders import VIOLIN_HZ, line

numbers = st.floats(-1e4, 1e4)


def pair(sizes: int, x: float) -> Pair:
    track = read_only(np.arange(sizes) + x)
    return Pair(
        onset_s=x, offset_s=x + 1, lower_hz=200.0, upper_hz=300.0, lower_uncertainty_cents=0.5,
        upper_uncertainty_cents=0.5, balance_db=float("nan"), balance_uncertainty_db=2.0,
        level_dbfs=-20.0, times_s=track, lower_track_hz=track, upper_track_hz=track,
        balance_track_db=track,
    )  # fmt: skip


@given(st.lists(st.tuples(st.integers(1, 5), numbers), max_size=4), st.integers(0, 3))
def test_round_trip(pairs: list[tuple[int, float]], n_tails: int) -> None:
    curve = read_only(np.linspace(0, 1, 7))
    heard = Heard(
        contours=Contours(
            f0_hz=curve, level_db=curve, clarity=curve, centroid_hz=curve, loudness_db=curve
        ),
        segments=(), duration_s=1.0, sample_rate_hz=48_000, n_channels=1, i_channel=0,
        noise_dbfs=-70.0, pairs=tuple(pair(*p) for p in pairs),
        ring_lines=tuple(line(i, 2, i_segment=i, left_db=-50.0) for i in range(n_tails)),
        open_hz=VIOLIN_HZ,
        whistles=tuple(
            Whistle(start_s=0.1 * i, end_s=0.1 * i + 0.2, f_hz=4800.0, above_tone_db=3.0)
            for i in range(n_tails)
        ),
    )  # fmt: skip
    file = io.BytesIO()
    np.savez(file, **heard_arrays(heard))
    file.seek(0)
    with np.load(file, allow_pickle=False) as arrays:
        contours, back, whistles = read_heard_arrays(arrays)
        assert read_ring_lines(arrays) == heard.ring_lines
        assert read_open_hz(arrays) == VIOLIN_HZ
        earlier = {name: arrays[name] for name in arrays if name != "whistles"}
        assert read_heard_arrays(earlier)[2] == ()
    assert whistles == heard.whistles
    np.testing.assert_array_equal(contours.clarity, curve)
    assert len(back) == len(pairs)
    for a, b in zip(back, heard.pairs, strict=True):
        assert (a.onset_s, a.upper_hz) == (b.onset_s, b.upper_hz)
        assert np.isnan(a.balance_db)
        np.testing.assert_array_equal(a.upper_track_hz, b.upper_track_hz)


def test_what_rang_was_not_looked_for_in_earlier_versions() -> None:
    assert read_ring_lines({}) is None
    assert read_open_hz({}) == ()
    with pytest.raises(ValueError, match="rang"):
        read_ring_lines({"ring_lines": np.zeros((2, 3))})


def test_a_missing_array_is_said() -> None:
    with pytest.raises(KeyError):
        read_heard_arrays({"f0_hz": np.zeros(3)})


@given(st.lists(st.tuples(numbers, numbers, numbers), max_size=3))
def test_what_happened_inside_notes_comes_back(rows: list[tuple[float, float, float]]) -> None:
    kept = replace(
        heard([segment(440.0, 0.5)]),
        falls=tuple(Fall(time_s=a, together_db=b) for a, b, _ in rows),
        bursts=tuple(Burst(start_s=a, end_s=b, between_db=c) for a, b, c in rows),
        swings=tuple(LevelSwing(start_s=a, end_s=b, together_db=c) for a, b, c in rows),
        turns=tuple(BowTurn(time_s=a, lean=b, fits=c) for a, b, c in rows),
        talks=tuple(Speech(start_s=a, end_s=b) for a, b, _ in rows),
        tail_s=0.25,
        window_s=0.02,
    )
    arrays = heard_arrays(kept)
    assert read_falls(arrays) == kept.falls
    assert read_bursts(arrays) == kept.bursts
    assert read_swings(arrays) == kept.swings
    assert read_turns(arrays) == kept.turns
    assert read_talks(arrays) == kept.talks
    assert (read_tail_s(arrays), read_window_s(arrays)) == (0.25, 0.02)


def test_an_earlier_version_did_not_look() -> None:
    arrays = heard_arrays(heard([segment(440.0, 0.5)]))
    assert read_falls(arrays) is read_bursts(arrays) is read_swings(arrays) is None
    assert read_turns(arrays) is read_talks(arrays) is None
    assert np.isnan(read_tail_s({}))
    assert read_window_s({}) == 0.0
