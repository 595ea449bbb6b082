"""Where all of a sound falls at once inside a note, and what counts as a lost string by it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from aim_builders import vibrato_of
from builders import segment
from jigwright.core.gauge.events import EventParams, find_events
from jigwright.core.gauge.values import Vibrato
from jigwright.core.sound.falls import find_falls
from jigwright.core.sound.heard import Contours, Fall, Segment
from jigwright.core.sound.measure_segment import Take
from jigwright.core.values import Unmeasured

RATE, HOP, F0 = 24_000, 120, 440.0
NO = Unmeasured("not_needed")


def take_of(dip_db: float, *, together: bool) -> Take:
    """A second of a note with a dip of 40 ms, of all partials or of the lowest two."""
    t = np.arange(round(1.4 * RATE)) / RATE
    shape = np.exp(-(((t - 0.7) / 0.02) ** 2))
    x = np.zeros(len(t))
    for k in range(1, 9):
        fall = dip_db if together or k <= 2 else 0.0
        x += 10.0 ** (-fall * shape / 20.0) * np.sin(2 * np.pi * k * F0 * t + k) / k
    n = len(t) // HOP
    level = -20.0 - dip_db * shape[: n * HOP : HOP]
    clarity = 0.999 - 0.05 * shape[: n * HOP : HOP]
    curves = Contours(f0_hz=np.full(n, F0), level_db=level, clarity=clarity,
                      centroid_hz=level, loudness_db=level)  # fmt: skip
    return Take(x=x, rate_hz=RATE, hop_samples=HOP, contours=curves, blur_s=0.006, noise_db=-80.0)


NOTE = segment(F0, 0.2, seconds=1.0)


def falls_of(dip_db: float, *, together: bool = True, notes: tuple[Segment, ...] = (NOTE,)):
    return find_falls(take_of(dip_db, together=together), notes)


def test_a_dip_of_everything_and_one_of_some_are_told_apart() -> None:
    (all_of_it,) = falls_of(16.0)
    (some,) = falls_of(16.0, together=False)
    assert all_of_it.time_s == pytest.approx(0.7, abs=0.01)
    assert all_of_it.together_db > 8.0
    assert some.together_db < 2.0


@pytest.mark.parametrize(("dip_db", "n"), [(4.5, 0), (5.5, 1)])
def test_small_dips_are_not_looked_at(dip_db: float, n: int) -> None:
    assert len(falls_of(dip_db)) == n


def test_ends_of_notes_are_no_dips() -> None:
    assert falls_of(16.0, notes=(segment(F0, 0.2, seconds=0.55),)) == ()
    assert falls_of(16.0, notes=(segment(F0, 0.65, seconds=0.5),)) == ()


def test_a_note_heard_as_two_is_looked_at_where_it_broke() -> None:
    two = (segment(F0, 0.2, seconds=0.48), segment(F0, 0.72, seconds=0.45))
    (fall,) = falls_of(16.0, notes=two)
    assert fall.time_s == pytest.approx(0.7, abs=0.01)
    other = (two[0], segment(F0 * 1.1, 0.72, seconds=0.45))
    assert falls_of(16.0, notes=other) == ()


# what counts ------------------------------------------------------------------------------


STILL = vibrato_of(present=False)
VIBRATO = vibrato_of(present=True)


def breaks(
    falls: tuple[Fall, ...] | None,
    tail_s: float = float("nan"),
    vibrato: Vibrato | Unmeasured = NO,
) -> int:
    curves = take_of(16.0, together=True).contours
    found = find_events(curves, 0, NOTE, NO, vibrato, EventParams(), falls=falls, tail_s=tail_s)
    return sum(e.kind == "bounce" for e in found)


@pytest.mark.parametrize("moved", [VIBRATO, NO], ids=["vibrato", "not told"])
@pytest.mark.parametrize(
    ("fall_db", "tail_s", "n"),
    [
        (10.1, 0.03, 1), (9.9, 0.03, 0), (10.1, float("nan"), 1), (9.9, float("nan"), 0),
        (10.1, 0.0651, 0), (13.9, 0.2, 0), (14.1, 0.2, 1), (10.1, 0.065, 1),
    ],
)  # fmt: skip
def test_a_lost_string_lets_everything_fall_and_with_vibrato_more_in_rooms(
    fall_db: float, tail_s: float, n: int, moved: Vibrato | Unmeasured
) -> None:
    assert breaks((Fall(time_s=0.7, together_db=fall_db),), tail_s, moved) == n


@pytest.mark.parametrize(("covered_s", "n"), [(0.0, 1), (0.35, 1), (0.45, 0)])
def test_while_the_note_before_sounds_too_nothing_is_a_break(covered_s: float, n: int) -> None:
    curves = take_of(16.0, together=True).contours
    note = replace(NOTE, covered_s=covered_s)  # from 0.2 s on; the dip lies at 0.7 s
    fall = (Fall(time_s=0.7, together_db=20.0),)
    found = find_events(curves, 0, note, NO, NO, EventParams(), falls=fall)
    assert sum(e.kind == "bounce" for e in found) == n


@pytest.mark.parametrize("tail_s", [float("nan"), 0.03, 0.0651, 0.2])
@pytest.mark.parametrize(("fall_db", "n"), [(7.9, 0), (8.1, 1)])
def test_where_nothing_swings_a_lost_string_is_told_in_any_room(
    fall_db: float, tail_s: float, n: int
) -> None:
    assert breaks((Fall(time_s=0.7, together_db=fall_db),), tail_s, STILL) == n


def test_the_fall_must_be_that_of_the_break() -> None:
    assert breaks((Fall(time_s=0.5, together_db=20.0),)) == 0
    assert breaks(()) == 0
    assert breaks(None) == 1  # an earlier version did not look: as it was judged then
