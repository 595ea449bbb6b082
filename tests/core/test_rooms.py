"""Borders, arrivals and tails as rooms and real vibrato make them, on chosen curves."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import heard, segment
from jigwright.core.gauge.arrival import ArrivalParams, Before, measure_arrival
from jigwright.core.gauge.values import Arrival
from jigwright.core.gauge.vibrato import VibratoParams, measure_vibrato
from jigwright.core.sound.continuity import (
    DEEP_FALL_DB,
    LEAST_FALL_DB,
    LEAST_FALL_STILL_DB,
    LEAST_NEW,
    fall_together_db,
    partial_levels_db,
    without_waves,
)
from jigwright.core.sound.decay import legato_tail_s, tail_s
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.sound.segments import Piece
from jigwright.core.values import Unmeasured
from jigwright.wording.findings import reason_text

RATE = 24_000
HOP = 120
F0 = 293.66


# borders inside one pitch --------------------------------------------------------------------


def tone(
    depth_db: float, *, together: bool, vibrato_cents: float = 40.0, seconds: float = 2.0
) -> tuple[np.ndarray, np.ndarray]:
    """Ten partials that dip in the middle, all at once or each at a moment of its own."""
    t = np.arange(round(seconds * RATE)) / RATE
    cents = 0.5 * vibrato_cents * np.sin(2 * np.pi * 5.5 * t)
    f = F0 * 2.0 ** (cents / 1200.0)
    phase = 2 * np.pi * np.cumsum(f) / RATE
    x = np.zeros_like(t)
    for k in range(1, 11):
        at = 0.5 * seconds + (0.0 if together else 0.24 * ((k * 7) % 10 - 4.5) / 4.5)
        dip = depth_db * np.exp(-0.5 * ((t - at) / 0.02) ** 2)
        x += 10 ** (-dip / 20) / k * np.sin(k * phase + k)
    return x, f[::HOP]


@pytest.mark.parametrize("depth_db", [6.0, 12.0, 20.0])
def test_partials_that_fall_together_are_told_from_those_that_do_not(depth_db: float) -> None:
    x, f0 = tone(depth_db, together=True)
    fall = fall_together_db(x, RATE, HOP, f0, 200)
    assert fall == pytest.approx(depth_db, rel=0.25)
    x, f0 = tone(depth_db, together=False)
    assert fall_together_db(x, RATE, HOP, f0, 200) < 0.4 * depth_db


def test_partial_levels_follow_a_moving_pitch() -> None:
    x, f0 = tone(0.0, together=True, vibrato_cents=80.0)
    level = partial_levels_db(x, RATE, HOP, f0, 100, 300)
    assert level is not None
    assert level.shape == (10, 200)
    assert np.ptp(level, axis=1).max() < 0.5
    steps = level[0].mean() - level.mean(axis=1)
    assert steps == pytest.approx(20 * np.log10(np.arange(1, 11)), abs=0.3)


def test_too_little_sound_tells_nothing() -> None:
    x, f0 = tone(20.0, together=True)
    assert fall_together_db(x, RATE, HOP, f0, 2) == 0.0
    assert fall_together_db(x, RATE, HOP, f0, len(f0) - 1) == 0.0
    assert fall_together_db(x, RATE, HOP, np.full(len(f0), np.nan), 200) == 0.0
    assert partial_levels_db(x, RATE, HOP, np.full(len(f0), np.nan), 0, 100) is None


def pieces(cents: float = 0.0, gap: int = 0) -> list[Piece]:
    one = 1200.0 * np.log2(F0)
    return [
        Piece(start=20, stop=200, cents=one, broken_before=True),
        Piece(start=200 + gap, stop=380, cents=one + cents, broken_before=True, dip_db=9.0),
    ]


@pytest.mark.parametrize(
    ("depth_db", "vibrato_cents", "n"),
    [
        (LEAST_FALL_DB + 3.0, 40.0, 2), (LEAST_FALL_DB - 3.0, 40.0, 1),
        (LEAST_FALL_STILL_DB + 2.0, 0.0, 2), (LEAST_FALL_STILL_DB - 2.0, 0.0, 1),
        (LEAST_FALL_STILL_DB + 2.0, 40.0, 1),
    ],
)  # fmt: skip
def test_a_border_needs_a_fall_of_all_partials_and_less_where_the_pitch_lies_still(
    depth_db: float, vibrato_cents: float, n: int
) -> None:
    x, f0 = tone(depth_db, together=True, vibrato_cents=vibrato_cents)
    found = without_waves(pieces(), x, RATE, HOP, f0)
    assert len(found) == n
    if n == 1:
        assert (found[0].start, found[0].stop) == (20, 380)


@pytest.mark.parametrize(
    ("cents", "gap", "n"), [(41.0, 0, 1), (43.0, 0, 2), (0.0, 6, 1), (0.0, 7, 2)]
)
def test_only_borders_inside_one_pitch_and_without_a_gap_are_doubted(
    cents: float, gap: int, n: int
) -> None:
    x, f0 = tone(1.0, together=True)
    assert len(without_waves(pieces(cents, gap), x, RATE, HOP, f0)) == n


@pytest.mark.parametrize(
    ("depth_db", "newness", "n"),
    [
        (LEAST_FALL_DB + 3.0, LEAST_NEW + 0.001, 2), (LEAST_FALL_DB + 3.0, LEAST_NEW - 0.001, 1),
        (DEEP_FALL_DB + 6.0, 0.0, 2), (LEAST_FALL_DB - 3.0, 1.0, 1),
    ],
)  # fmt: skip
def test_where_nothing_is_new_only_a_deep_fall_is_an_end(
    depth_db: float, newness: float, n: int
) -> None:
    x, f0 = tone(depth_db, together=True, vibrato_cents=40.0)
    new = np.zeros(len(f0))
    new[205] = newness
    waves: list[int] = []
    assert len(without_waves(pieces(), x, RATE, HOP, f0, new=new, waves=waves)) == n
    assert waves == ([200] if n == 1 else [])  # it may be a border yet


def test_what_was_looked_at_is_not_looked_at_again() -> None:
    x, f0 = tone(1.0, together=True)
    known = {1200: 99.0}
    assert len(without_waves(pieces(), x, RATE, HOP, f0, known, i_first=1000)) == 2
    known = {}
    without_waves(pieces(), x, RATE, HOP, f0, known, i_first=1000)
    assert list(known) == [1200]
    late: dict[int, float] = {}
    without_waves(pieces(), x, RATE, HOP, f0[:230], late)
    assert late == {}  # more of what follows may still come


# tails ---------------------------------------------------------------------------------------


def ending(fall_db_s: float, *, noise_dbfs: float = -75.0, gap_s: float = 1.0) -> float:
    """Two notes at -20 dB, each followed by a fall of so many dB a second down to the noise."""
    notes = [segment(F0, 0.5, seconds=0.5), segment(F0, 1.0 + gap_s, seconds=0.5)]
    made = heard(notes)
    t = np.arange(len(made.contours) + 400) * HOP_S
    level = np.full(len(t), noise_dbfs)
    for s in notes:
        on = (t >= s.onset_s) & (t < s.offset_s)
        level[on] = -20.0
        after = t >= s.offset_s
        level[after] = np.maximum(level[after], -20.0 - fall_db_s * (t[after] - s.offset_s))
        level[t < s.onset_s] = np.where(t[t < s.onset_s] < notes[0].onset_s, noise_dbfs,
                                        level[t < s.onset_s])  # fmt: skip
    curves = Contours(f0_hz=level, level_db=level, clarity=level, centroid_hz=level,
                      loudness_db=level)  # fmt: skip
    return tail_s(curves, notes, noise_dbfs)


@pytest.mark.parametrize("t60_s", [0.3, 0.8, 1.5])
def test_the_fall_of_what_has_ended_is_a_third_of_the_rooms_decay(t60_s: float) -> None:
    assert ending(60.0 / t60_s) == pytest.approx(t60_s / 3.0, abs=0.015)


def test_a_fall_that_meets_the_noise_is_continued() -> None:
    assert ending(40.0, noise_dbfs=-42.0) == pytest.approx(0.5, abs=0.05)
    assert np.isnan(ending(40.0, noise_dbfs=-36.0))  # it cannot be seen at all


def one_end(*, late_s: float, noise_dbfs: float) -> float:
    """A note that ends at 2 s in a room of 0.6 s, heard to end later; the noise is at -70 dB."""
    t = np.arange(700) * HOP_S
    level = np.maximum(-70.0, -20.0 - 100.0 * np.maximum(0.0, t - 2.0))
    level[t < 0.5] = -70.0
    curves = Contours(f0_hz=level, level_db=level, clarity=level, centroid_hz=level,
                      loudness_db=level)  # fmt: skip
    note = segment(F0, 0.5, seconds=1.5 + late_s)
    return tail_s(curves, [replace(note, level_dbfs=-20.0)], noise_dbfs)


@pytest.mark.parametrize("late_s", [0.0, 0.1, 0.25])
def test_a_note_that_seems_to_end_in_its_own_tail(late_s: float) -> None:
    assert one_end(late_s=late_s, noise_dbfs=-70.0) == pytest.approx(0.2, abs=0.015)


def test_a_take_played_from_end_to_end_has_its_noise_before_and_after() -> None:
    assert one_end(late_s=0.1, noise_dbfs=-38.0) == pytest.approx(0.2, abs=0.015)


def test_without_an_end_nothing_is_known() -> None:
    one = heard([segment(F0, 0.5)])
    nothing = Contours(**{n: np.zeros(0) for n in ("f0_hz", "level_db", "clarity", "centroid_hz",
                                                   "loudness_db")})  # fmt: skip
    assert np.isnan(tail_s(nothing, one.segments, -75.0))
    assert np.isnan(tail_s(one.contours, (), -75.0))


# arrivals ------------------------------------------------------------------------------------

LENGTH_S = 1.2
NOTE = replace(
    segment(F0, 0.5, seconds=LENGTH_S), core_start_s=0.65, core_end_s=0.5 + LENGTH_S - 0.05
)


def curves_of(cents_at) -> Contours:
    """A contour: cents as a function of the seconds since the onset."""
    made = heard([NOTE]).contours
    t = np.arange(len(made)) * HOP_S - NOTE.onset_s
    cents = np.array([cents_at(s) for s in t])
    inside = (t >= 0) & (t < LENGTH_S)
    f0 = np.where(inside, F0 * 2.0 ** (cents / 1200.0), np.nan)
    return replace(made, f0_hz=f0)


def arrival(cents_at, before: Before | None = None, note: Segment = NOTE) -> Arrival | Unmeasured:
    curves = curves_of(cents_at)
    vibrato = measure_vibrato(curves, note, VibratoParams(), window_s=0.02)
    return measure_arrival(curves, note, vibrato, ArrivalParams(), blur_s=0.01, before=before)


def wandering(seed: int, *, extent: float = 30.0, spread: float = 0.25):
    """Vibrato as it is played: every cycle has a rate and a width of its own."""
    rng = np.random.default_rng(seed)
    edges, cents = [0.0], []
    while edges[-1] < LENGTH_S + 0.2:
        edges.append(edges[-1] + 1.0 / (5.5 * (1.0 + spread * rng.standard_normal() / 2)))
        cents.append(0.5 * extent * (1.0 + 1.6 * spread * rng.standard_normal()))
    marks = np.array(edges)

    def at(s: float) -> float:
        i = min(max(int(np.searchsorted(marks, s, "right")) - 1, 0), len(cents) - 1)
        share = (s - marks[i]) / (marks[i + 1] - marks[i])
        return float(cents[i] * np.sin(2 * np.pi * share))

    return at


def test_a_vibrato_that_wanders_is_no_search() -> None:
    kinds = [arrival(wandering(seed)) for seed in range(60)]
    assert all(isinstance(k, Arrival) for k in kinds)
    hunted = sum(k.kind == "hunted" for k in kinds if isinstance(k, Arrival))
    landed = sum(k.kind == "landed" for k in kinds if isinstance(k, Arrival))
    assert hunted <= 1
    assert landed >= 52


@pytest.mark.parametrize("size", [25.0, 40.0])
def test_a_search_that_ends_is_hunting(size: float) -> None:
    def search(s: float) -> float:
        return size * (1.0 - s / 0.4) * np.cos(2 * np.pi * 3.75 * s) if s < 0.4 else 0.0

    found = arrival(search)
    assert isinstance(found, Arrival)
    assert found.kind == "hunted"
    assert found.settle_s == pytest.approx(0.36, abs=0.08)


def test_a_search_sooner_than_a_finger_turns_is_none() -> None:
    def beating(s: float) -> float:
        return 30.0 * np.cos(2 * np.pi * 14.0 * s) if s < 0.12 else 0.0

    found = arrival(beating)
    assert isinstance(found, Arrival)
    assert found.kind != "hunted"


def slide(cents: float, seconds: float):
    return lambda s: cents * 0.5 * (1 + np.cos(np.pi * min(s / seconds, 1.0)))


@pytest.mark.parametrize(("cents", "kind"), [(-60.0, "slid_up"), (60.0, "slid_down")])
def test_a_slide_from_the_note_before_counts_where_that_has_died_away(
    cents: float, kind: str
) -> None:
    lower, higher = F0 * 2 ** (-200 / 1200), F0 * 2 ** (200 / 1200)
    near, far = (lower, higher) if cents < 0 else (higher, lower)
    dry = Before(f0_hz=near, offset_s=0.5, tail_s=0.03)
    live = Before(f0_hz=near, offset_s=0.5, tail_s=0.2)
    for before in (None, dry, Before(f0_hz=near, offset_s=0.5, tail_s=float("nan")),
                   Before(f0_hz=far, offset_s=0.5, tail_s=0.3),
                   Before(f0_hz=near, offset_s=0.1, tail_s=0.3)):  # fmt: skip
        found = arrival(slide(cents, 0.2), before)
        assert isinstance(found, Arrival), before
        assert found.kind == kind
    refused = arrival(slide(cents, 0.2), live)
    assert refused == Unmeasured("room_tail")
    assert "room" in reason_text("room_tail")
    long = arrival(slide(cents, 0.55), live)
    assert isinstance(long, Arrival)
    assert long.kind == kind


def test_turns_while_the_note_before_still_sounds_are_its_beating() -> None:
    def search(s: float) -> float:
        return 30.0 * (1.0 - s / 0.4) * np.cos(2 * np.pi * 3.75 * s) if s < 0.4 else 0.0

    for tail, kind in ((0.1, "hunted"), (0.16, None), (0.45, None)):
        found = arrival(search, Before(f0_hz=F0 * 0.9, offset_s=0.5, tail_s=tail))
        if kind is None:
            assert found == Unmeasured("room_tail")
        else:
            assert isinstance(found, Arrival)
            assert found.kind == kind


def legato(t60_s: float, n: int = 4, *, gap_s: float = 0.0) -> float:
    """Notes a fourth apart, one after the other, through a room of exponentially falling noise."""
    rate, length = 24_000, 0.5
    t = np.arange(round((n * (length + gap_s) + 0.5) * rate)) / rate
    x = np.zeros(len(t))
    notes = []
    for i in range(n):
        f_hz = (330.0, 440.0)[i % 2]
        on = 0.2 + i * (length + gap_s)
        edge = np.clip(np.minimum(t - on, on + length - t) / 0.01, 0.0, 1.0)
        x += edge * sum(np.sin(2 * np.pi * k * f_hz * t + k) / k for k in range(1, 9))
        notes.append(segment(f_hz, on, seconds=length))
    m = round(1.2 * t60_s * rate)
    tail = np.random.default_rng(4).normal(size=m) * 10 ** (-3 * np.arange(m) / rate / t60_s)
    tail *= np.sqrt(2.0) / np.sqrt(np.sum(tail**2))
    return legato_tail_s(x + np.convolve(x, tail)[: len(x)], rate, notes)


def test_a_room_is_heard_under_the_notes_that_follow() -> None:
    tails = [legato(t60) for t60 in (0.05, 0.3, 0.8)]
    assert tails[0] < 0.06
    assert tails == sorted(tails)
    assert tails[1] == pytest.approx(0.1, abs=0.05)
    assert tails[2] == pytest.approx(0.27, abs=0.1)


def test_three_pairs_are_needed_and_they_must_touch() -> None:
    assert np.isnan(legato(0.3, 3))
    assert np.isfinite(legato(0.3, 4))
    assert np.isnan(legato(0.3, 4, gap_s=0.07))
    assert np.isnan(legato_tail_s(np.zeros(0), 24_000, ()))


def test_a_note_that_lands_lands_in_any_room() -> None:
    before = Before(f0_hz=F0 * 0.9, offset_s=0.5, tail_s=1.0)
    found = arrival(lambda _: 0.0, before)
    assert isinstance(found, Arrival)
    assert (found.kind, found.settle_s) == ("landed", 0.0)


# a slide is one line ---------------------------------------------------------------------------


def sliding(from_cents: float = -60.0, seconds: float = 0.2):
    return lambda s: from_cents * (1.0 - min(s / seconds, 1.0))


def slid(change=None, *, from_cents: float = -60.0) -> str:
    """Kind of a slide whose curves were changed, or why it cannot be told."""
    curves = curves_of(sliding(from_cents))
    at = round(NOTE.onset_s / HOP_S)
    if change is not None:
        f0, clarity = curves.f0_hz.copy(), curves.clarity.copy()
        change(f0, clarity, at)
        curves = replace(curves, f0_hz=f0, clarity=clarity)
    vibrato = measure_vibrato(curves, NOTE, VibratoParams(), window_s=0.02)
    found = measure_arrival(curves, NOTE, vibrato, ArrivalParams(), blur_s=0.01)
    return found.kind if isinstance(found, Arrival) else found.reason


@pytest.mark.parametrize(("jump", "kind"), [(38.0, "slid_up"), (55.0, "pitch_broken")])
def test_where_the_contour_jumps_no_finger_slides(jump: float, kind: str) -> None:
    def lift(f0, clarity, at) -> None:
        f0[: at + 12] *= 2.0 ** (-jump / 1200.0)

    assert slid(lift) == kind


@pytest.mark.parametrize(("frames", "kind"), [(2, "slid_up"), (3, "pitch_broken")])
def test_a_slide_is_heard_all_the_way(frames: int, kind: str) -> None:
    def leave_out(f0, clarity, at) -> None:
        f0[at + 12 : at + 12 + frames] = np.nan

    assert slid(leave_out) == kind


@pytest.mark.parametrize(("clear", "kind"), [(0.945, "slid_up"), (0.935, "pitch_broken")])
def test_a_rough_beginning_is_no_slide(clear: float, kind: str) -> None:
    def roughen(f0, clarity, at) -> None:
        clarity[at : at + 41] = clear

    assert slid(roughen) == kind


@pytest.mark.parametrize(("cents", "kind"), [(-240.0, "slid_up"), (-330.0, "pitch_broken")])
def test_from_far_away_comes_another_note(cents: float, kind: str) -> None:
    assert slid(from_cents=cents) == kind


def test_what_landed_needs_no_line() -> None:
    curves = curves_of(lambda _s: 0.0)
    rough = replace(curves, clarity=np.full(len(curves), 0.8))
    vibrato = measure_vibrato(rough, NOTE, VibratoParams(), window_s=0.02)
    found = measure_arrival(rough, NOTE, vibrato, ArrivalParams(), blur_s=0.01)
    assert isinstance(found, Arrival)
    assert found.kind == "landed"


@pytest.mark.parametrize(
    ("tail_s", "seconds", "kind"),
    [(0.1, 0.2, "slid_up"), (0.115, 0.2, "room_tail"), (0.12, 0.3, "slid_up")],
)
def test_in_a_room_a_tail_pulls_longer_than_it_falls_by_20_db(
    tail_s: float, seconds: float, kind: str
) -> None:
    before = Before(f0_hz=F0 * 2 ** (-200 / 1200), offset_s=0.5, tail_s=tail_s)
    found = arrival(slide(-60.0, seconds), before)
    assert (found.kind if isinstance(found, Arrival) else found.reason) == kind
