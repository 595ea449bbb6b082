"""The middles of notes too short for a cycle of the vibrato they are played with."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders import segment
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.sound.short_swings import Manner, centred, manner_of, middle_of

MANNER = Manner(rate_hz=5.5, half_cents=20.0)


def swing(frames: int, phase: float, *, half: float = 20.0, rate: float = 5.5) -> np.ndarray:
    return half * np.sin(2 * np.pi * rate * np.arange(frames) * HOP_S + phase)


def take(notes: list[tuple[float, float, float]]) -> tuple[Contours, list[Segment]]:
    """Notes of 440 Hz: seconds, half extent and phase of each, one after the other."""
    f0, found, at = [], [], 0.0
    for seconds, half, phase in notes:
        n = round(seconds / HOP_S)
        cents = half * np.sin(2 * np.pi * 5.5 * np.arange(n) * HOP_S + phase)
        f0.append(440.0 * 2 ** (cents / 1200))
        core = cents[round(0.05 / HOP_S) : n - round(0.05 / HOP_S)]
        one = replace(segment(440.0 * 2 ** (float(core.mean()) / 1200), at, seconds=seconds),
                      core_start_s=at + 0.05, core_end_s=at + seconds - 0.05)  # fmt: skip
        found.append(one)
        at += seconds
    curve = np.concatenate(f0)
    flat = np.full(len(curve), 0.99)
    contours = Contours(
        f0_hz=curve, level_db=-20 * flat, clarity=flat, centroid_hz=flat, loudness_db=flat
    )
    return contours, found


def off_cents(s: Segment) -> float:
    return float(1200 * np.log2(s.f0_hz / 440.0))


@given(phase=st.floats(0.0, 6.28), middle=st.floats(-30.0, 30.0), frames=st.integers(16, 40))
def test_the_middle_of_a_part_of_a_swing_is_found(phase: float, middle: float, frames: int) -> None:
    found, sd = middle_of(middle + swing(frames, phase), MANNER)
    assert abs(found - middle) < max(1.0, 3.0 * sd)
    assert sd < 20.0


def test_the_shorter_the_less_sure() -> None:
    sds = [middle_of(swing(n, 1.0), MANNER)[1] for n in (12, 20, 40)]
    assert sds[0] > 2.0 * sds[1] > 4.0 * sds[2] > 0.0


def test_a_still_pitch_has_its_middle_where_it_is() -> None:
    found, sd = middle_of(np.full(30, 7.0), MANNER)
    assert found == pytest.approx(7.0, abs=0.3)
    assert sd < 2.0


def test_long_notes_tell_of_their_player() -> None:
    contours, notes = take([(1.0, 20.0, 0.0), (1.0, 24.0, 1.0), (0.2, 20.0, 0.0)])
    manner = manner_of(contours, notes)
    assert manner is not None
    assert manner.rate_hz == pytest.approx(5.5, abs=0.1)
    assert manner.half_cents == pytest.approx(22.0, abs=0.5)
    matched = [replace(n, swing_cents=30.0) for n in notes]  # a room narrows the contour
    assert manner_of(contours, matched).half_cents == pytest.approx(30.0)  # type: ignore[union-attr]


@pytest.mark.parametrize(
    "notes",
    [
        [(1.0, 20.0, 0.0), (0.4, 20.0, 0.0)],  # one alone: the other is too short
        [(1.0, 20.0, 0.0), (1.0, 3.5, 0.0)],  # too narrow
        [(1.0, 20.0, 0.0)] * 2 + [(1.0, 0.0, 0.0)] * 3,  # most do not swing
    ],
)
def test_without_a_manner_nothing_is_moved(notes: list[tuple[float, float, float]]) -> None:
    contours, found = take([*notes, (0.2, 20.0, 1.5)])
    assert manner_of(contours, found) is None
    assert centred(contours, found) == tuple(found)


LONG = [(1.0, 20.0, 0.0), (1.0, 20.0, 1.0)]


def test_a_short_note_is_moved_to_its_middle_and_less_sure() -> None:
    contours, notes = take([*LONG, (0.22, 20.0, 0.8)])
    assert abs(off_cents(notes[2])) > 4.0
    moved = centred(contours, notes)[2]
    assert abs(off_cents(moved)) < 1.0
    assert moved.uncertainty_cents > notes[2].uncertainty_cents


def test_what_was_left_out_as_a_slide_counts() -> None:
    contours, notes = take([*LONG, (0.26, 20.0, 0.8)])
    late = replace(notes[2], core_start_s=notes[2].core_start_s + 0.08)
    moved = centred(contours, [*notes[:2], late])[2]
    assert abs(off_cents(moved)) < 1.0
    covered = centred(contours, [*notes[:2], replace(late, covered_s=0.08)])[2]
    assert covered.uncertainty_cents > moved.uncertainty_cents


@pytest.mark.parametrize(("half", "moves"), [(2.0, False), (8.0, True)])
def test_a_pitch_at_rest_stays(half: float, moves: bool) -> None:
    contours, notes = take([*LONG, (0.22, half, 0.8)])
    assert (centred(contours, notes)[2] != notes[2]) is moves


@pytest.mark.parametrize(("seconds", "moves"), [(0.38, True), (0.41, False)])
def test_longer_notes_know_better_themselves(seconds: float, moves: bool) -> None:
    contours, notes = take([*LONG, (seconds, 20.0, 0.8)])
    assert (centred(contours, notes)[2] != notes[2]) is moves


def test_a_pair_is_left_alone() -> None:
    contours, notes = take([*LONG, (0.22, 20.0, 0.8)])
    pair = replace(notes[2], i_pair=0)
    assert centred(contours, [*notes[:2], pair])[2] == pair


def test_another_movement_than_the_players_swing_is_only_less_sure() -> None:
    contours, notes = take([*LONG, (0.22, 30.0, 0.0)])
    other = centred(contours, notes)[2]
    assert other.f0_hz == notes[2].f0_hz
    assert other.uncertainty_cents == pytest.approx(1.96 * 0.4 * 20.0, rel=0.05)


@pytest.mark.parametrize(("missing", "moves"), [(1, True), (4, False)])
def test_a_broken_contour_is_not_fitted(missing: int, moves: bool) -> None:
    contours, notes = take([*LONG, (0.22, 20.0, 0.8)])
    f0 = contours.f0_hz.copy()
    at = round((notes[2].onset_s + 0.08) / HOP_S)
    f0[at : at + missing] = np.nan
    assert (centred(replace(contours, f0_hz=f0), notes)[2] != notes[2]) is moves


def test_a_frame_far_away_is_no_part_of_the_swing() -> None:
    contours, notes = take([*LONG, (0.22, 20.0, 0.8)])
    f0 = contours.f0_hz.copy()
    f0[round((notes[2].onset_s + 0.08) / HOP_S)] *= 2.0 ** (100.0 / 1200.0)
    moved = centred(replace(contours, f0_hz=f0), notes)[2]
    assert abs(off_cents(moved)) < 2.0
