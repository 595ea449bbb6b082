"""Where a note begins under the sound of the one before, and of which pitch it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import pytest

from builders import heard, segment
from jigwright.core.follow.doubts import decide, decided
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.sound.beginnings import (
    BeginningParams,
    Scene,
    peaks_of,
    with_beginnings,
)
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.sound.measure_segment import Take, measure_segments
from jigwright.core.sound.mixed_pitch import mixed_pitch
from jigwright.core.sound.novelty import NewSound, novelty, novelty_window_s
from jigwright.core.sound.rise import Rise, rise_at
from jigwright.core.sound.segments import Piece
from jigwright.core.values import Floats
from ring_builders import line as ring_line

RATE, HOP = 24_000, 120


def cents_of(f_hz: float) -> float:
    return 1200.0 * float(np.log2(f_hz))


def tone(
    f_hz: float, start_s: float, stop_s: float, *, total_s: float, release_s: float = 0.02,
    level: float = 0.1, vibrato_cents: float = 0.0, late: float = 0.0,
) -> Floats:  # fmt: skip
    """A note of eight partials with an attack of 20 ms and a release, ``late`` by periods."""
    t = np.arange(round(total_s * RATE)) / RATE
    f = f_hz * 2.0 ** (0.5 * vibrato_cents / 1200.0 * np.sin(2 * np.pi * 5.5 * t))
    # every note begins at a phase of its own
    phase = 2 * np.pi * (np.cumsum(f) / RATE - late) + f_hz
    body = sum(np.sin(k * phase + k * k) / k for k in range(1, 9))
    rise = np.clip((t - start_s) / 0.02, 0.0, 1.0)
    fall = 10.0 ** (-3.0 * np.clip(t - stop_s, 0.0, None) / max(release_s, 1e-3))
    return np.asarray(level * body * rise * fall)


# novelty ----------------------------------------------------------------------------------


def new_of(x: Floats, lowest_hz: float = 196.0) -> Floats:
    return novelty(x, RATE, HOP, len(x) // HOP, lowest_hz=lowest_hz)


@pytest.mark.parametrize("second_hz", [440.0, 660.0])
def test_a_note_is_new_though_the_one_before_rings_on(second_hz: float) -> None:
    x = tone(440.0, 0.3, 0.8, total_s=1.2, release_s=0.3)
    x = x + tone(second_hz, 0.8, 2.0, total_s=1.2, level=0.4)
    new = new_of(x)
    peaks = [t * HOP_S for t in peaks_of(new, 0.05)]
    assert len(peaks) == 2
    assert peaks[0] == pytest.approx(0.30, abs=0.015)
    assert peaks[1] == pytest.approx(0.80, abs=0.015)


def test_a_vibrato_brings_nothing_new() -> None:
    new = new_of(tone(440.0, 0.3, 1.8, total_s=2.0, vibrato_cents=50.0))
    inside = new[round(0.5 / HOP_S) : round(1.7 / HOP_S)]
    assert inside.max() < 0.04
    assert new.max() > 0.2


def test_what_is_new_does_not_depend_on_the_level() -> None:
    x = tone(440.0, 0.3, 0.8, total_s=1.2)
    np.testing.assert_allclose(new_of(1e-3 * x), new_of(x), atol=1e-3)


def test_an_end_that_is_cut_off_is_no_beginning() -> None:
    x = tone(440.0, 0.3, 2.0, total_s=0.9)
    assert [round(t * HOP_S, 1) for t in peaks_of(new_of(x))] == [0.3]


@pytest.mark.parametrize("n", [0, 1, 5, 100])
def test_short_and_silent_sounds_bring_nothing(n: int) -> None:
    new = novelty(np.zeros(n * HOP), RATE, HOP, n, lowest_hz=196.0)
    assert new.shape == (n,)
    assert not new.any()
    assert peaks_of(new) == []


@pytest.mark.parametrize(
    ("lowest_hz", "seconds"), [(196.0, 0.045), (65.4, 0.0612), (41.2, 0.085), (1000.0, 0.045)]
)
def test_the_window_follows_the_lowest_string(lowest_hz: float, seconds: float) -> None:
    assert novelty_window_s(lowest_hz) == pytest.approx(seconds, abs=1e-4)


def test_a_growing_sound_is_looked_at_alike() -> None:
    x = tone(440.0, 0.3, 0.8, total_s=1.5) + tone(660.0, 0.8, 1.3, total_s=1.5)
    grown = NewSound(RATE, HOP, lowest_hz=196.0)
    for stop_s in (0.31, 0.5, 0.83, 1.5):
        n = round(stop_s / HOP_S)
        part = x[: n * HOP]
        np.testing.assert_allclose(
            grown.of(part, n), novelty(part, RATE, HOP, n, lowest_hz=196.0), atol=1e-5
        )
    gone = 100
    grown.forget(gone)
    n = len(x) // HOP - gone
    whole = novelty(x, RATE, HOP, n + gone, lowest_hz=196.0)
    # the loud parts it is held against are those of what is held
    np.testing.assert_allclose(grown.of(x[gone * HOP :], n)[20:], whole[gone + 20 :], atol=0.02)


def test_of_two_peaks_close_together_the_stronger_counts() -> None:
    new = np.zeros(200)
    new[50], new[56], new[120] = 0.1, 0.2, 0.05
    assert peaks_of(new) == [56, 120]
    new[50], new[56] = 0.2, 0.1
    assert peaks_of(new) == [50, 120]
    new[60] = 0.15
    assert peaks_of(new) == [50, 60, 120]


@pytest.mark.parametrize(("height", "found"), [(0.019, []), (0.021, [100])])
def test_little_is_no_beginning(height: float, found: list[int]) -> None:
    new = np.zeros(200)
    new[100] = height
    assert peaks_of(new) == found
    assert peaks_of(new + 0.05) == found  # above what is usual there


# which pitch ------------------------------------------------------------------------------


def rise_of(x: Floats, at_s: float, stop_s: float) -> Rise:
    rise = rise_at(
        x, RATE, round(at_s * RATE), round(stop_s * RATE), lowest_hz=180.0, highest_hz=2500.0,
        window_s=0.06,
    )  # fmt: skip
    assert rise is not None
    return rise


@pytest.mark.parametrize("second_hz", [220.0, 330.0, 466.16, 660.0, 880.0, 1320.0])
def test_the_pitch_that_begins_is_named_under_a_louder_one(second_hz: float) -> None:
    x = tone(440.0, 0.2, 0.5, total_s=1.0, release_s=0.8, level=0.12)
    x = x + tone(second_hz, 0.5, 0.9, total_s=1.0)
    rise = rise_of(x, 0.5, 0.6)
    assert rise.best_cents == pytest.approx(cents_of(second_hz), abs=15.0)
    assert rise.best > 6.0


def test_salience_near_a_pitch() -> None:
    rise = Rise(cents=np.arange(0.0, 1000.0, 10.0), salience=np.arange(100.0))
    assert rise.best_cents == 990.0
    assert rise.best == 99.0
    assert rise.near(500.0) == 55.0
    assert rise.near(500.0, 20.0) == 52.0
    assert rise.near(5000.0) == 0.0


def test_where_there_is_no_sound_nothing_is_said() -> None:
    assert rise_at(np.zeros(100), RATE, 200, 400, lowest_hz=180.0, highest_hz=2500.0,
                   window_s=0.06) is None  # fmt: skip


# beside another ---------------------------------------------------------------------------


@pytest.mark.parametrize("off", [-35.0, 0.0, 35.0])
@pytest.mark.parametrize("other_hz", [415.3, 660.0])
def test_a_pitch_is_measured_beside_another(other_hz: float, off: float) -> None:
    left = tone(other_hz, -0.1, 0.0, total_s=0.1, release_s=0.5)
    x = tone(440.0, 0.0, 1.0, total_s=0.1) + 0.8 * left
    rng = np.random.default_rng(2)
    x = x + 1e-3 * rng.normal(size=len(x))
    found = mixed_pitch(x[480:], RATE, cents_of(440.0) + off, other_hz)
    assert found is not None
    assert found.cents == pytest.approx(cents_of(440.0), abs=3.0)
    assert found.share > 0.9
    assert 0.0 < found.sd_cents < 3.0


def test_alone_it_needs_no_other() -> None:
    x = tone(440.0, -0.1, 1.0, total_s=0.1)
    found = mixed_pitch(x, RATE, cents_of(440.0) + 20.0, None)
    assert found is not None
    assert found.cents == pytest.approx(cents_of(440.0), abs=1.0)


def test_a_worse_sound_is_less_sure() -> None:
    rng = np.random.default_rng(5)
    clean = tone(440.0, -0.1, 1.0, total_s=0.1)
    sure, unsure = (
        mixed_pitch(clean + size * rng.normal(size=len(clean)), RATE, cents_of(440.0), 660.0)
        for size in (1e-3, 0.03)
    )
    assert sure is not None
    assert unsure is not None
    assert unsure.sd_cents > 3.0 * sure.sd_cents


@pytest.mark.parametrize("x", [np.zeros(2400), np.zeros(100), None])
def test_what_neither_explains_is_refused(x: Floats | None) -> None:
    noise = np.random.default_rng(1).normal(size=2400)
    assert mixed_pitch(noise if x is None else x, RATE, cents_of(440.0), 660.0) is None


# pieces -----------------------------------------------------------------------------------


def scene_of(x: Floats, f0_hz: Floats) -> Scene:
    n = len(x) // HOP
    level = np.full(n, -20.0)
    curve = np.full(n, 0.99)
    contours = Contours(
        f0_hz=f0_hz[:n], level_db=level, clarity=curve, centroid_hz=curve, loudness_db=level
    )
    return Scene(
        x=x, rate_hz=RATE, hop_samples=HOP, contours=contours, new=new_of(x), lowest_hz=180.0,
        highest_hz=2500.0,
    )  # fmt: skip


def piece(start_s: float, stop_s: float, f_hz: float, **more: object) -> Piece:
    made = Piece(
        start=round(start_s / HOP_S), stop=round(stop_s / HOP_S), cents=cents_of(f_hz),
        broken_before=True,
    )  # fmt: skip
    return replace(made, **more)  # type: ignore[arg-type]


def starts(pieces: Sequence[Piece]) -> list[float]:
    return [round(p.start * HOP_S, 3) for p in pieces]


def test_a_piece_is_cut_where_another_pitch_begins() -> None:
    x = tone(440.0, 0.3, 0.7, total_s=1.4, release_s=0.5) + tone(587.0, 0.7, 1.2, total_s=1.4)
    f0 = np.full(len(x) // HOP, 440.0)
    f0[round(0.75 / HOP_S) :] = 587.0
    sure, doubtful = with_beginnings([piece(0.3, 1.2, 587.0)], scene_of(x, f0))
    assert len(sure) == 2
    assert sure[1].start * HOP_S == pytest.approx(0.70, abs=0.015)
    assert [p.cents for p in sure] == pytest.approx([cents_of(440.0), cents_of(587.0)], abs=20.0)
    assert not sure[1].mixed
    assert sure[0].stop == sure[1].start
    assert sure[1].stop == round(1.2 / HOP_S)
    assert doubtful == []


def test_where_the_contour_glides_the_pitch_is_that_of_what_begins() -> None:
    x = tone(440.0, 0.3, 0.7, total_s=1.1, release_s=0.9) + tone(587.0, 0.7, 0.95, total_s=1.1)
    f0 = np.full(len(x) // HOP, 440.0)
    f0[round(0.7 / HOP_S) :] = 490.0  # the period of the mixture is neither's
    sure, _ = with_beginnings([piece(0.3, 0.95, 440.0)], scene_of(x, f0))
    assert len(sure) == 2
    assert sure[1].mixed
    assert sure[1].cents == pytest.approx(cents_of(587.0), abs=15.0)


def test_a_softer_player_next_door_makes_no_border() -> None:
    x = tone(440.0, 0.3, 1.2, total_s=1.5) + tone(587.0, 0.7, 1.1, total_s=1.5, level=0.02)
    f0 = np.full(len(x) // HOP, 440.0)
    sure, _ = with_beginnings([piece(0.3, 1.2, 440.0)], scene_of(x, f0))
    assert len(sure) == 1


def test_a_note_that_goes_on_stays_whole() -> None:
    x = tone(440.0, 0.3, 1.2, total_s=1.5, vibrato_cents=20.0)
    whole = [piece(0.3, 1.2, 440.0)]
    sure, doubtful = with_beginnings(whole, scene_of(x, np.full(len(x) // HOP, 440.0)))
    assert len(sure) == 1
    assert (sure[0].start, sure[0].stop) == (whole[0].start, whole[0].stop)
    assert doubtful == []


def repeated(late: float = 0.3) -> Floats:
    """A note, and again the same, louder, over its release."""
    return tone(440.0, 0.3, 0.68, total_s=1.1, release_s=0.1) + tone(
        440.0, 0.7, 2.0, total_s=1.1, level=0.4, late=late
    )


@pytest.mark.parametrize(("late", "pieces"), [(0.0, 1), (0.04, 1), (0.1, 2), (-0.2, 2), (0.5, 2)])
def test_a_string_that_goes_on_in_step_begins_nothing(late: float, pieces: int) -> None:
    x = repeated(late)
    scene = scene_of(x, np.full(len(x) // HOP, 440.0))
    sure, doubtful = with_beginnings([piece(0.3, 1.05, 440.0)], scene)
    assert (len(sure), len(doubtful)) == (pieces, 0)


@pytest.mark.parametrize(
    ("params", "n_sure", "n_doubtful"),
    [
        (BeginningParams(), 2, 0),
        (BeginningParams(new_same=5.0), 1, 1),
        (BeginningParams(clear_same=50.0), 1, 1),
        (BeginningParams(new_alone=5.0, least_fall_db=90.0), 1, 1),
        (BeginningParams(new_alone=0.08, least_fall_db=90.0), 2, 0),
        (BeginningParams(new_same=5.0, weak_new=5.0), 1, 0),
        (BeginningParams(new_same=5.0, weak_clear=50.0), 1, 0),
    ],
)
def test_a_repeated_note_is_sure_doubtful_or_none_by_the_limits(
    params: BeginningParams, n_sure: int, n_doubtful: int
) -> None:
    x = repeated()
    sure, doubtful = with_beginnings(
        [piece(0.3, 1.05, 440.0)], scene_of(x, np.full(len(x) // HOP, 440.0)), params=params
    )
    assert (len(sure), len(doubtful)) == (n_sure, n_doubtful)
    for found in (*sure[1:], *doubtful):
        assert found.start * HOP_S == pytest.approx(0.70, abs=0.015)
        assert found.stop == round(1.05 / HOP_S)


def test_a_wave_of_level_may_be_a_border_yet() -> None:
    x = tone(440.0, 0.3, 1.2, total_s=1.5)
    scene = scene_of(x, np.full(len(x) // HOP, 440.0))
    sure, doubtful = with_beginnings([piece(0.3, 1.2, 440.0)], scene, waves=[150])
    assert len(sure) == 1
    assert [d.start for d in doubtful] == [150]
    assert doubtful[0].stop == sure[0].stop
    _, doubtful = with_beginnings([piece(0.3, 1.2, 440.0)], scene, waves=[66, 236])
    assert doubtful == []  # at the ends it is none


def test_a_piece_begins_where_its_pitch_is_new_not_where_it_leads() -> None:
    x = tone(440.0, 0.3, 0.7, total_s=1.6, release_s=0.9) + tone(587.0, 0.7, 1.3, total_s=1.6)
    f0 = np.full(len(x) // HOP, 440.0)
    f0[round(0.8 / HOP_S) :] = 587.0
    late = [piece(0.3, 0.8, 440.0), piece(0.8, 1.3, 587.0)]
    sure, _ = with_beginnings(late, scene_of(x, f0))
    assert len(sure) == 2
    assert sure[1].start * HOP_S == pytest.approx(0.70, abs=0.015)
    assert sure[0].stop == sure[1].start
    assert sure[1].clear == round(0.8 / HOP_S)  # until then the contour is the other note's
    assert sure[1].begins == sure[1].start
    assert sure[1].new == pytest.approx(float(scene_of(x, f0).new[sure[1].start]))


def test_a_piece_that_is_hardly_late_stays_where_it_is() -> None:
    x = tone(440.0, 0.3, 0.7, total_s=1.6, release_s=0.9) + tone(587.0, 0.7, 1.3, total_s=1.6)
    f0 = np.full(len(x) // HOP, 440.0)
    f0[round(0.72 / HOP_S) :] = 587.0
    near = [piece(0.3, 0.72, 440.0), piece(0.72, 1.3, 587.0)]
    sure, _ = with_beginnings(near, scene_of(x, f0))
    assert [q.start for q in sure][1] == near[1].start
    assert sure[1].clear is None
    assert sure[1].begins is not None  # where its pitch is new is known all the same


@pytest.mark.parametrize(
    ("frames", "mixed", "other_cents", "n"),
    [(11, True, 0.0, 1), (12, True, 0.0, 2), (11, False, 0.0, 2), (11, True, 61.0, 2)],
)
def test_a_moment_under_another_note_is_the_beginning_of_what_follows(
    frames: int, mixed: bool, other_cents: float, n: int
) -> None:
    f_hz = 440.0 * 2.0 ** (other_cents / 1200.0)
    x = tone(440.0, 0.3, 1.8, total_s=2.0)
    over_s = 0.3 + frames * HOP_S
    moment = piece(0.3, over_s, f_hz, mixed=mixed, begins=60, new=0.5)
    rest = piece(over_s, 1.8, 440.0, broken_before=False)
    sure, _ = with_beginnings([moment, rest], scene_of(x, np.full(len(x) // HOP, 440.0)))
    assert len(sure) == n
    if n == 1:
        (whole,) = sure
        assert (whole.start, whole.stop) == (60, 360)
        assert whole.begins == pytest.approx(60, abs=2)
        assert whole.clear == 60 + frames
        assert whole.broken_before


def test_a_subharmonic_of_two_notes_gets_the_pitch_that_begins() -> None:
    x = tone(440.0, 0.3, 0.7, total_s=1.1, release_s=0.3) + tone(660.0, 0.7, 0.9, total_s=1.1)
    f0 = np.full(len(x) // HOP, 440.0)
    f0[round(0.7 / HOP_S) :] = 220.0  # 440 and 660 together have the period of 220
    found = [piece(0.3, 0.7, 440.0), piece(0.7, 0.9, 220.0)]
    sure, _ = with_beginnings(found, scene_of(x, f0))
    assert sure[1].mixed
    assert sure[1].cents == pytest.approx(cents_of(660.0), abs=15.0)


# decided by the jig -----------------------------------------------------------------------

A4 = 440.0


def jig_of(words: str) -> Jig:
    return jig_from_line(words, jig_id="j", instrument_id="violin", title="j", tempo_bpm=120.0)


def note(name_hz: float, onset_s: float, seconds: float, **more: object) -> Segment:
    return replace(segment(name_hz, onset_s, seconds=seconds), **more)  # type: ignore[arg-type]


D5, E5, F5 = 587.33, 659.26, 698.46


def line(words: str, sure: list[Segment], doubtful: list[Segment]) -> list[tuple[float, float]]:
    found, _ = decide(sure, doubtful, jig_of(words), a4_hz=A4)
    return [(round(s.onset_s, 2), round(s.offset_s, 2)) for s in found]


def test_a_repeated_note_that_is_written_is_taken_from_doubt() -> None:
    sure = [note(D5, 0.5, 0.5), note(E5, 1.0, 1.0), note(F5, 2.0, 0.5)]
    maybe = [note(E5, 1.5, 0.5, doubtful=True)]
    assert line("D5 E5 E5 F5", sure, maybe) == [(0.5, 1.0), (1.0, 1.5), (1.5, 2.0), (2.0, 2.5)]


def test_what_is_not_written_stays_one_note() -> None:
    sure = [note(D5, 0.5, 0.5), note(E5, 1.0, 1.0), note(F5, 2.0, 0.5)]
    maybe = [note(E5, 1.5, 0.5, doubtful=True)]
    assert line("D5 E5:2 F5:1", sure, maybe) == [(0.5, 1.0), (1.0, 2.0), (2.0, 2.5)]


def test_another_pitch_than_the_written_one_is_not_made_it() -> None:
    sure = [note(D5, 0.5, 0.5), note(E5, 1.0, 1.0), note(F5, 2.0, 0.5)]
    maybe = [note(880.0, 1.5, 0.5, doubtful=True)]
    assert line("D5 E5 E5 F5", sure, maybe) == [(0.5, 1.0), (1.0, 2.0), (2.0, 2.5)]


@pytest.mark.parametrize(("at_s", "taken"), [(1.2, True), (1.1, False), (1.85, True)])
def test_it_must_lie_about_where_it_is_written(at_s: float, taken: bool) -> None:
    sure = [note(D5, 0.5, 0.5), note(E5, 1.0, 1.0), note(F5, 2.0, 0.5)]
    maybe = [note(E5, at_s, 2.0 - at_s, doubtful=True)]
    assert (len(line("D5 E5 E5 F5", sure, maybe)) == 4) is taken


def test_of_two_doubts_the_one_at_the_place_is_taken() -> None:
    sure = [note(D5, 0.5, 0.5), note(E5, 1.0, 1.0), note(F5, 2.0, 0.5)]
    maybe = [note(E5, 1.25, 0.25, doubtful=True), note(E5, 1.5, 0.5, doubtful=True)]
    assert line("D5 E5 E5 F5", sure, maybe) == [(0.5, 1.0), (1.0, 1.5), (1.5, 2.0), (2.0, 2.5)]


def test_notes_between_others_are_put_in() -> None:
    sure = [note(D5, 0.5, 0.5), note(F5, 1.5, 0.5)]
    maybe = [note(E5, 1.02, 0.4, doubtful=True)]
    assert line("D5 E5 F5", sure, maybe) == [(0.5, 1.0), (1.02, 1.42), (1.5, 2.0)]


def test_the_last_notes_are_taken_from_doubt_too() -> None:
    sure = [note(D5, 0.5, 0.5), note(E5, 1.0, 1.0)]
    maybe = [note(E5, 1.5, 0.5, doubtful=True)]
    assert line("D5 E5 E5", sure, maybe) == [(0.5, 1.0), (1.0, 1.5), (1.5, 2.0)]


def test_without_a_jig_doubt_is_no_note() -> None:
    sure = [note(D5, 0.5, 0.5)]
    found, at = decide(sure, [note(D5, 0.7, 0.3, doubtful=True)], None, a4_hz=A4)
    assert found == tuple(sure)
    assert at == {0: 0}
    assert decide([], [note(D5, 0.7, 0.3)], jig_of("D5"), a4_hz=A4) == ((), {})


def test_of_a_take_in_which_nothing_is_what_is_written_nothing_is_asked() -> None:
    scrap = note(3000.0, 0.5, 0.05)
    found, at = decide([scrap], [], jig_of("D5 E5 F5"), a4_hz=A4)
    assert (found, at) == ((scrap,), {0: 0})
    maybe = note(3100.0, 0.6, 0.3, doubtful=True)
    assert decide([scrap], [maybe], jig_of("D5 E5 F5"), a4_hz=A4)[0] == (scrap,)


def test_what_rang_stays_with_its_note() -> None:
    sure = [note(D5, 0.5, 0.5), note(E5, 1.0, 1.0), note(F5, 2.0, 0.5)]
    sound = replace(
        heard(sure),
        doubtful=(note(E5, 1.5, 0.5, doubtful=True),),
        ring_lines=(ring_line(0, 2, i_segment=2),),
    )
    found = decided(sound, jig_of("D5 E5 E5 F5"), a4_hz=A4)
    assert len(found.segments) == 4
    assert found.doubtful == ()
    assert [q.i_segment for q in found.ring_lines or ()] == [3]
    assert decided(found, jig_of("D5 E5 E5 F5"), a4_hz=A4) is found
    assert decided(sound, None, a4_hz=A4).segments == tuple(sure)


def test_a_note_that_is_cut_keeps_its_core_before_the_cut() -> None:
    sure = [note(D5, 0.5, 0.5), note(E5, 1.0, 1.0), note(F5, 2.0, 0.5)]
    found, _ = decide(sure, [note(E5, 1.5, 0.5, doubtful=True)], jig_of("D5 E5 E5 F5"), a4_hz=A4)
    assert found[1].core_start_s == sure[1].core_start_s
    assert found[1].core_end_s == 1.5
    assert found[2].doubtful
    assert not found[1].doubtful


# a long clear note is not lost in a mixture ---------------------------------------------------


def long_piece(f0_hz: Sequence[float], said_hz: float) -> Segment | None:
    """What is measured of a piece said to be a mixture, with a contour of its own."""
    rate, hop = 24_000, 120
    f0 = np.asarray(f0_hz)
    t = np.arange(len(f0) * hop) / rate
    x = sum(np.sin(2 * np.pi * k * 440.0 * t) / k for k in (1, 2, 3))
    flat = np.full(len(f0), 0.99)
    contours = Contours(
        f0_hz=f0, level_db=-20 * flat, clarity=flat, centroid_hz=flat, loudness_db=-20 * flat
    )
    take = Take(x=0.1 * np.asarray(x), rate_hz=rate, hop_samples=hop, contours=contours,
                blur_s=0.006, noise_db=-80.0)  # fmt: skip
    piece = Piece(start=0, stop=len(f0), cents=1200 * float(np.log2(said_hz)), mixed=True,
                  broken_before=False)  # fmt: skip
    found = measure_segments(take, [piece])
    return found[0] if found else None


def test_what_was_mixed_at_first_is_measured_where_it_is_clear() -> None:
    found = long_piece([220.0] * 30 + [440.0] * 70, 440.0)
    assert found is not None
    assert found.f0_hz == pytest.approx(440.0, rel=1e-4)
    assert found.core_start_s == pytest.approx(33 * 0.005, abs=0.006)
    assert found.uncertainty_cents < 1.0


@pytest.mark.parametrize(("heard_s", "fundamental"), [(0.9, True), (0.2, False)])
def test_a_partial_that_rises_first_is_not_the_note_then_clearly_heard(
    heard_s: float, fundamental: bool
) -> None:
    # an A rings on, and the third partial of a low G stands far above its others
    stop_s = 0.6 + heard_s
    low = sum(
        tone(196.0 * k, 0.6, stop_s, total_s=1.7, level=0.1 if k == 3 else 0.01)
        for k in (1, 2, 3, 4)
    )
    x = tone(440.0, 0.3, 0.6, total_s=1.7, release_s=0.1) + np.asarray(low)
    f0 = np.full(len(x) // HOP, np.nan)
    f0[60:125], f0[125 : round(stop_s / HOP_S)] = 440.0, 196.0
    sure, doubtful = with_beginnings([piece(0.3, stop_s, 440.0)], scene_of(x, f0))
    begun = [q for q in (*sure, *doubtful) if abs(q.start - 120) < 12]
    assert begun
    assert (abs(begun[0].cents - cents_of(196.0)) < 30.0) is fundamental
