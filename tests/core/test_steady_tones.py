"""Tones that nobody plays: found by what is always there, and taken out."""

from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.music.instruments import instrument
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.sound.steady_tones import (
    SteadyLine,
    partials_of,
    steady_lines,
    tone_code,
    tones_of,
    without_tones,
)
from jigwright.wording.beside import warning_text
from signals import perform, scale
from tone_builders import RATE, noise, notes, tone


def test_a_drone_is_found_to_a_thousandth_of_a_hertz() -> None:
    x = notes(8.0) + tone(8.0, 146.83, -32.0) + noise(8.0)
    lines = steady_lines(x, RATE)
    assert [round(one.f_hz, 2) for one in lines][:1] == [146.83]
    (found,) = tones_of(lines)
    assert found.f_hz == pytest.approx(146.83, abs=1e-3)
    assert -30.0 < found.level_db < -15.0


def test_it_is_taken_out_and_the_notes_stay() -> None:
    played = notes(8.0) + noise(8.0)
    drone = tone(8.0, 146.83, -32.0)
    left, tones = without_tones(played + drone, RATE)
    assert len(tones) == 1
    rest = left - played
    assert np.sqrt(np.mean(rest**2)) < 0.1 * np.sqrt(np.mean(drone**2))


@pytest.mark.parametrize("seconds", [61.0, 89.0, 91.0, 150.0])
def test_a_long_recording_is_gone_through_in_parts(seconds: float) -> None:
    rate = 4000
    t = np.arange(round(seconds * rate)) / rate
    played = 0.1 * np.sin(2 * np.pi * 700.0 * t) * (np.sin(2 * np.pi * 0.4 * t) > 0)
    drone = 0.02 * (np.sin(2 * np.pi * 150.0 * t) + np.sin(2 * np.pi * 300.0 * t))
    left, tones = without_tones(played + drone, rate)
    assert [round(one.f_hz, 2) for one in tones] == [150.0]
    assert len(left) == len(t)
    for part in np.array_split(left - played, 8):
        assert np.sqrt(np.mean(part**2)) < 0.1 * 0.02


@pytest.mark.parametrize("f_hz", [146.83, 220.0])
def test_where_nobody_plays_sound_is_left_as_it_is(f_hz: float) -> None:
    x = notes(8.0) + noise(8.0)
    same, tones = without_tones(x, RATE)
    assert tones == ()
    assert same is x
    # a string that sounds all along wanders
    bowed = x + tone(8.0, f_hz, -20.0, wander_cents=4.0)
    assert steady_lines(bowed, RATE) == ()


def test_what_stops_with_the_playing_is_played() -> None:
    x = notes(8.0) + noise(8.0)
    on = np.clip((np.arange(len(x)) / RATE - 0.8) / 0.02, 0, 1)
    off = np.clip((6.9 - np.arange(len(x)) / RATE) / 0.02, 0, 1)
    assert steady_lines(x + tone(8.0, 146.83, -26.0) * on * off, RATE) == ()


def test_a_note_alone_is_no_drone() -> None:
    assert steady_lines(tone(8.0, 196.0, -20.0) + noise(8.0), RATE) == (), "it is all there is"


@pytest.mark.parametrize(("seconds", "found"), [(3.2, False), (3.6, True)])
def test_three_seconds_are_needed(seconds: float, found: bool) -> None:
    x = notes(seconds) + tone(seconds, 146.83, -30.0) + noise(seconds)
    assert bool(steady_lines(x, RATE)) is found


def line(f_hz: float, db: float) -> SteadyLine:
    return SteadyLine(f_hz=f_hz, level_db=db)


def test_lines_are_gathered_under_their_fundamentals() -> None:
    fifth, tonic = tones_of([line(300.0, -30.0), line(100.0, -20.0), line(200.0, -20.0),
                             line(440.0, -12.0), line(880.0, -40.0)])  # fmt: skip
    assert (fifth.f_hz, tonic.f_hz) == (440.0, 100.0), "the stronger first"
    assert tonic.level_db == pytest.approx(10 * np.log10(2 * 10**-2 + 10**-3))


def test_what_is_taken_out_are_multiples_of_one_fundamental() -> None:
    found = partials_of([line(100.02, -20.0), line(200.0, -10.0), line(300.0, -10.0)])
    assert len(found) == 16, "notes may have covered the others"
    assert found[0] == pytest.approx(100.0, abs=0.01)
    assert found[9] == pytest.approx(10 * found[0])
    assert partials_of([line(3520.0, -30.0)]) == ()


@pytest.mark.parametrize(("f_hz", "own"), [(300.14, False), (300.2, True)])
def test_a_machine_without_exact_multiples_keeps_its_own(f_hz: float, own: bool) -> None:
    found = partials_of([line(100.0, 0.0), line(f_hz, -40.0)])
    assert (f_hz in found) is own


@pytest.mark.parametrize(("db", "n"), [(-24.9, 1), (-25.1, 0)])
def test_a_line_by_itself_must_be_strong(db: float, n: int) -> None:
    assert len(tones_of([line(3520.0, db)])) == n
    assert len(tones_of([line(1000.0, db), line(2000.0 * 2 ** (13 / 1200), -50.0)])) == n
    assert len(tones_of([line(1000.0, -40.0), line(2000.0 * 2 ** (11 / 1200), -50.0)])) == 1


def test_a_scale_over_a_foreign_drone_is_heard_as_without() -> None:
    jig = scale()
    performance = perform(jig, "noise snr_db=45")
    rate = performance.sound.rate_hz
    x = np.asarray(performance.sound.samples, dtype=np.float64).reshape(-1)
    t = np.arange(len(x)) / rate
    drone = sum(np.sin(2 * np.pi * k * 146.83 * t + k) / k for k in (1, 2, 3, 4, 5))
    level = 10 ** (-14 / 20) * np.sqrt(np.mean(x**2) / np.mean(drone**2))
    inst = instrument(jig.instrument_id)
    plain = hear(choose_signal(x, rate), inst, lowest_open_hz=196.0)
    beside = hear(choose_signal(x + level * drone, rate), inst, lowest_open_hz=196.0)
    assert len(beside.segments) == len(plain.segments)
    assert beside.pairs == () == plain.pairs
    for a, b in zip(plain.segments, beside.segments, strict=True):
        assert abs(1200 * np.log2(b.f0_hz / a.f0_hz)) < 1.0
    (code,) = [w for w in beside.warnings if w.startswith("steady_tone")]
    assert code.startswith("steady_tone:146.83:")
    assert plain.warnings == ()


# in words -------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("code", "words"),
    [
        ("clipped", "The recording is clipped: move the microphone away or turn it down."),
        ("steady_tone:196.00:-15",
         "A tone that nobody plays, G3, sounded all along; it was taken out."),
        ("steady_tone:197.14:-15",
         "A tone that nobody plays, G3 (+10 cents), sounded all along; it was taken out."),
        ("steady_tone:49.97:-30",
         ("The mains hummed at 50 Hz all along; it was taken out. Look for a cable or a lamp "
         "near the microphone.")),
        ("steady_tone:120.1:-30",
         ("The mains hummed at 120 Hz all along; it was taken out. Look for a cable or a lamp "
         "near the microphone.")),
        ("something_new", "something_new"), ("steady_tone:1", "steady_tone:1"),
    ],
)  # fmt: skip
def test_what_is_said_of_a_recording(code: str, words: str) -> None:
    assert warning_text(code, a4_hz=440.0) == words


@pytest.mark.parametrize(("db", "loud"), [(-12, False), (-11, True)])
def test_a_loud_one_makes_figures_less_sure(db: int, loud: bool) -> None:
    text = warning_text(f"steady_tone:196.0:{db}", a4_hz=440.0)
    assert ("loud beside" in text) is loud


def test_it_is_named_by_the_takes_a() -> None:
    code = tone_code(tones_of([line(442.0, -10.0)])[0])
    assert code == "steady_tone:442.00:-10"
    assert "A4," in warning_text(code, a4_hz=442.0)
    assert "A4 (+8 cents)," in warning_text(code, a4_hz=440.0)
