"""Onsets put where the note's own pitch comes to sound, and only there."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.sound.activations import Activations
from jigwright.core.sound.heard import Segment
from jigwright.core.sound.risen_onsets import placed_by_rises
from jigwright.core.sound.written_rises import Risen, Rising, pitches_sounding

D5, E5, F5 = 587.33, 659.26, 698.46
LATE_S = 0.018


def risen(*rises: tuple[float, float, float], window_s: float = 0.046) -> Risen:
    """Rises from (pitch in Hz, when it was bowed, how much)."""
    pitches = tuple(sorted({hz for hz, _, _ in rises}))
    found = [
        Rising(i_pitch=pitches.index(hz), frame=round((t + LATE_S) * 100), rise=rise)
        for hz, t, rise in sorted(rises, key=lambda r: r[1])
    ]
    values = np.zeros((len(pitches), 10))
    sounding = Activations(pitches_hz=pitches, values=values, window_s=window_s)
    return Risen(sounding=sounding, rises=tuple(found))


def two(late_s: float) -> list[Segment]:
    """D, then E whose contour comes late."""
    return [segment(D5, 0.0, seconds=0.5 + late_s), segment(E5, 0.5 + late_s, seconds=0.5)]


def test_a_late_onset_goes_where_its_pitch_rises() -> None:
    first, second = placed_by_rises(two(0.08), risen((E5, 0.5, 0.5)))
    assert second.onset_s == pytest.approx(0.5, abs=0.006)
    assert second.covered_s == pytest.approx(0.08, abs=0.006)
    assert second.offset_s == pytest.approx(1.08)
    assert first.offset_s == second.onset_s
    assert first.core_end_s <= first.offset_s
    assert second.core_start_s == two(0.08)[1].core_start_s


def test_what_was_covered_already_stays_so() -> None:
    heard = two(0.08)
    heard[1] = replace(heard[1], covered_s=0.03)
    assert placed_by_rises(heard, risen((E5, 0.5, 0.5)))[1].covered_s == pytest.approx(
        0.11, abs=0.006
    )


@pytest.mark.parametrize(
    ("late_s", "window_s", "moved"),
    [
        (0.05, 0.046, True), (0.04, 0.046, False),  # within what a window blurs
        (0.065, 0.09, True), (0.055, 0.09, False),
        (0.19, 0.046, True), (0.21, 0.046, False),  # too far to be the same beginning
    ],
)  # fmt: skip
def test_only_what_is_clearly_late(late_s: float, window_s: float, moved: bool) -> None:
    heard = two(late_s)
    found = placed_by_rises(heard, risen((E5, 0.502, 0.5), window_s=window_s))
    assert (found[1].onset_s < heard[1].onset_s) is moved
    if not moved:
        assert found == tuple(heard)


def test_never_later() -> None:
    assert placed_by_rises(two(0.0), risen((E5, 0.6, 0.9))) == tuple(two(0.0))


@pytest.mark.parametrize(("rise", "moved"), [(0.1, True), (0.09, False)])
def test_a_faint_rise_places_nothing(rise: float, moved: bool) -> None:
    found = placed_by_rises(two(0.08), risen((E5, 0.5, rise)))
    assert (found[1].covered_s > 0) is moved


@pytest.mark.parametrize(("cents", "moved"), [(59, True), (-59, True), (61, False), (-61, False)])
def test_only_its_own_pitch(cents: float, moved: bool) -> None:
    found = placed_by_rises(two(0.08), risen((E5 * 2 ** (cents / 1200), 0.5, 0.5)))
    assert (found[1].covered_s > 0) is moved


def test_the_strongest_of_two_rises() -> None:
    found = placed_by_rises(two(0.12), risen((E5, 0.47, 0.2), (E5, 0.52, 0.6)))
    assert found[1].onset_s == pytest.approx(0.52, abs=0.006)


def test_not_before_the_note_before_has_begun() -> None:
    heard = [segment(D5, 0.45, seconds=0.13), segment(E5, 0.58, seconds=0.4)]
    assert placed_by_rises(heard, risen((E5, 0.48, 0.5))) == tuple(heard)
    assert placed_by_rises(heard, risen((E5, 0.5, 0.5)))[1].covered_s > 0


def test_not_into_another_note_of_its_pitch() -> None:
    heard = [
        segment(E5, 0.0, seconds=0.42), segment(D5, 0.42, seconds=0.1),
        segment(E5, 0.56, seconds=0.4),
    ]  # fmt: skip
    found = placed_by_rises(heard, risen((E5, 0.4, 0.5)))
    assert found == tuple(heard)
    assert placed_by_rises(heard, risen((E5, 0.48, 0.5)))[2].onset_s == pytest.approx(
        0.48, abs=0.006
    )


def test_a_note_that_ended_long_before_keeps_its_end() -> None:
    heard = [segment(D5, 0.0, seconds=0.3), segment(E5, 0.6, seconds=0.4)]
    found = placed_by_rises(heard, risen((E5, 0.5, 0.5)))
    assert found[0] == heard[0]
    assert found[1].onset_s == pytest.approx(0.5, abs=0.006)


def test_nothing_risen_nothing_moved() -> None:
    assert placed_by_rises([], risen((E5, 0.5, 0.5))) == ()
    assert placed_by_rises(two(0.1), risen()) == tuple(two(0.1))


# which pitches are followed -----------------------------------------------------------------


def test_what_is_written_is_followed_else_what_was_heard() -> None:
    heard = [segment(E5, 0.0), segment(D5, 0.5)]
    assert pitches_sounding((F5,), heard) == (F5,)
    assert pitches_sounding((), heard) == (D5, E5)
    assert pitches_sounding((), []) == ()


@pytest.mark.parametrize(("cents", "n"), [(64, 1), (66, 2), (-64, 1), (-66, 2)])
def test_one_note_a_little_off_is_one_pitch_that_of_the_longest(cents: float, n: int) -> None:
    other = D5 * 2 ** (cents / 1200)
    found = pitches_sounding((), [segment(other, 0.0, seconds=0.3), segment(D5, 0.5, seconds=0.6)])
    assert len(found) == n
    assert D5 in found
