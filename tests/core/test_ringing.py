"""Lines under the next note, in sound made of sines whose rings are known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.sound.heard import Pair, RingLine, Segment
from jigwright.core.sound.ringing import measure_lines

RATE = 24_000
D4, D5, E5, A5 = 293.3333, 586.6667, 660.0, 880.0
SECONDS = 3.2


def tone(f_hz: float, from_s: float, to_s: float, level: float = 0.1) -> np.ndarray:
    t = np.arange(round(SECONDS * RATE)) / RATE
    on = np.clip(np.minimum(t - from_s, to_s - t) / 0.01, 0.0, 1.0)
    return on * sum(level / k * np.sin(2 * np.pi * k * f_hz * t + k) for k in range(1, 9))


def dying(f_hz: float, from_s: float, re_db: float, t60_s: float, level: float = 0.1) -> np.ndarray:
    t = np.arange(round(SECONDS * RATE)) / RATE
    shape = np.where(t > from_s, 10 ** (-3.0 * (t - from_s) / t60_s), 0.0)
    return level * 10 ** (re_db / 20) * shape * np.sin(2 * np.pi * f_hz * t)


def rms_dbfs(x: np.ndarray, from_s: float, to_s: float) -> float:
    part = x[round(from_s * RATE) : round(to_s * RATE)]
    return float(10 * np.log10(np.mean(part**2)))


def lines_of(
    *notes: tuple[float, float, float],
    rung: np.ndarray | float = 0.0,
    pairs: tuple[Pair, ...] = (),
    i_pair: int = -1,
    noise: float = 1e-4,
    spread_cents: float = 1.0,
) -> tuple[RingLine, ...]:
    """Lines at a D string's partials under notes (Hz, from, to)."""
    x = sum(tone(*n) for n in notes) + rung
    x = x + noise * np.random.default_rng(3).standard_normal(len(x))
    found: list[Segment] = []
    for f_hz, a_s, b_s in notes:
        level = rms_dbfs(x, a_s + 0.1, b_s - 0.05)
        one = segment(f_hz, a_s, seconds=b_s - a_s, level_dbfs=level)
        found.append(one)
    last = replace(found[-1], i_pair=i_pair, spread_cents=spread_cents)
    return measure_lines(x, RATE, [*found[:-1], last], (D4,), pairs=pairs)


def at(lines: tuple[RingLine, ...], partial: int, i_segment: int = 0) -> RingLine | None:
    return next(
        (q for q in lines
         if q.i_string == 0 and q.partial == partial and q.i_segment == i_segment), None,
    )  # fmt: skip


@pytest.mark.parametrize(("re_db", "t60_s"), [(-26.0, 1.0), (-34.0, 2.0), (-40.0, 3.0)])
def test_a_line_under_the_next_note_has_its_level_and_decay(re_db: float, t60_s: float) -> None:
    rung = dying(D5 * 2 ** (4 / 1200), 1.2, re_db, t60_s)
    found = at(lines_of((D5, 0.2, 1.2), (E5, 1.2, 2.6), rung=rung), 2)
    assert found is not None
    assert found.above_db > 20.0
    note = tone(D5, 0.2, 1.2)
    of_note = rms_dbfs(note, 0.4, 1.1)
    middle = np.mean(10 ** (-6.0 * np.linspace(0.1, 0.4, 50) / t60_s))
    true = 10 * np.log10(0.5 * 0.01 * 10 ** (re_db / 10) * middle) - of_note
    assert found.level_db == pytest.approx(true, abs=1.2)
    assert found.decay_s == pytest.approx(t60_s, rel=0.12)
    assert found.offset_cents == pytest.approx(4.0, abs=1.0)
    assert found.note_db == pytest.approx(10 * np.log10(0.5 * 0.01) - of_note, abs=0.3)
    assert found.from_s == pytest.approx(1.25)


def test_nothing_stands_where_nothing_rings() -> None:
    found = at(lines_of((D5, 0.2, 1.2), (E5, 1.2, 2.6)), 2)
    assert found is not None
    assert found.above_db < 14.0
    assert found.floor_db < -60.0


def test_a_partial_the_next_note_covers_is_left_out() -> None:
    assert at(lines_of((D5, 0.2, 1.2), (D5, 1.2, 2.6)), 2) is None
    near = (D5 + 17.0, 1.2, 2.6)
    clear = (D5 + 24.0, 1.2, 2.6)
    assert at(lines_of((D5, 0.2, 1.2), near), 2) is None
    assert at(lines_of((D5, 0.2, 1.2), clear), 2) is not None
    swinging = lines_of((D5, 0.2, 1.2), clear, spread_cents=30.0)
    assert at(swinging, 2) is None  # a vibrato carries it over the place


def test_a_gap_is_as_good_as_another_note() -> None:
    rung = dying(D5, 1.2, -30.0, 1.5)
    found = at(lines_of((D5, 0.2, 1.2), rung=rung), 2)
    assert found is not None
    assert found.decay_s == pytest.approx(1.5, rel=0.1)


def test_what_comes_too_soon_leaves_nothing_to_look_at() -> None:
    assert at(lines_of((D5, 0.2, 1.2), (E5, 1.2, 1.4), (D5, 1.4, 2.6)), 2) is None
    assert at(lines_of((D5, 0.2, 1.2), (E5, 1.2, 1.7), (D5, 1.7, 2.6)), 2) is not None


def test_what_rang_already_is_carried_on() -> None:
    """The second D adds nothing: the string still rings from the first."""
    rung = dying(D5, 0.8, -20.0, 4.0)
    played = ((D5, 0.2, 0.8), (E5, 0.8, 1.3), (D5, 1.3, 1.7), (E5, 1.7, 2.8))
    found = at(lines_of(*played, rung=rung), 2, i_segment=2)
    assert found is not None
    assert found.left_db == pytest.approx(found.level_db, abs=2.5)
    fresh = at(lines_of(*played, rung=dying(D5, 1.7, -20.0, 4.0)), 2, i_segment=2)
    assert fresh is not None
    assert fresh.left_db < fresh.level_db - 15.0


def test_two_wakers_in_a_row_are_not_told_apart() -> None:
    """An A5 wakes the sixth partial, a D5 as well: nobody heard the string between them."""
    played = ((A5, 0.2, 0.9), (D5, 0.9, 1.5), (E5, 1.5, 2.8))
    found = at(lines_of(*played, rung=dying(6 * D4, 1.5, -30.0, 1.5)), 6, i_segment=1)
    assert found is not None
    assert found.left_db > found.level_db
    again = ((D5, 0.2, 0.9), (D5, 0.9, 1.5), (E5, 1.5, 2.8))
    same = at(lines_of(*again, rung=dying(6 * D4, 1.5, -30.0, 1.5)), 6, i_segment=1)
    assert same is not None
    assert not same.left_db > same.level_db


def test_two_notes_wake_nothing_that_is_told_but_cover_both() -> None:
    curve = np.zeros(1)
    both = Pair(
        onset_s=1.2, offset_s=2.6, lower_hz=370.0, upper_hz=D5, lower_uncertainty_cents=1.0,
        upper_uncertainty_cents=1.0, balance_db=0.0, balance_uncertainty_db=1.0, level_dbfs=-20.0,
        times_s=curve, lower_track_hz=curve, upper_track_hz=curve, balance_track_db=curve,
    )  # fmt: skip
    played = ((D5, 0.2, 1.2), (370.0, 1.2, 2.6))
    assert at(lines_of(*played, pairs=(both,), i_pair=0), 2) is None
    assert at(lines_of(*played), 2) is not None
    assert not [q for q in lines_of(*played, pairs=(both,), i_pair=0) if q.i_segment == 1]


def test_partials_the_note_has_not_got_are_looked_at_where_a_string_may_have_rung() -> None:
    played = ((D5, 0.2, 1.2), (E5, 1.2, 2.6))
    woken = dying(D5, 1.2, -26.0, 1.5)
    bowed = woken + dying(D4, 1.2, -20.0, 1.5)
    strange = [q for q in lines_of(*played, rung=bowed) if np.isnan(q.note_db)]
    assert strange[0].partial == 1
    assert strange[0].level_db > strange[0].left_db + 20.0
    before = woken + dying(D4, 0.2, -14.0, 3.0)
    held = [q for q in lines_of(*played, rung=before) if np.isnan(q.note_db)]
    assert held[0].level_db < held[0].left_db
    quiet = [q for q in lines_of(*played, rung=woken) if np.isnan(q.note_db)]
    assert all(q.above_db < 14.0 for q in quiet)


def test_partials_no_string_has_say_what_is_left_of_the_note() -> None:
    played = ((622.0, 0.2, 1.2), (554.0, 1.2, 2.8))
    own = [q for q in lines_of(*played) if q.i_string == -1 and q.i_segment == 0]
    assert 1 <= len(own) <= 2
    assert all(q.above_db < 14.0 for q in own)
    lingering = dying(622.0, 1.2, -12.0, 0.8)
    first = next(q for q in lines_of(*played, rung=lingering) if q.i_string == -1)
    assert first.above_db > 20.0
    assert first.decay_s == pytest.approx(0.8, rel=0.2)
