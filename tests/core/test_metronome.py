"""A metronome that is not ours: found by its beat and its sound, taken out, nothing else."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.music.instruments import instrument
from jigwright.core.sound.heard import METRONOME
from jigwright.core.sound.intake import Signal
from jigwright.core.sound.listen import hear
from jigwright.core.sound.metronome import LEAST_TICKS, Metronome, find_metronome, later
from jigwright.core.sound.metronome_out import (
    Ticking,
    TickSound,
    beats_of,
    codes_of,
    every_beat,
    is_missing,
    on_a_beat,
    parted_from_ticks,
    shifted,
    shifted_cut,
    strength,
    subtract,
    tick_sounds,
    without_metronome,
)
from jigwright.core.sound.percussive import band_levels, hop_samples, stands_out_db
from tick_builders import metronome, tick
from tone_builders import RATE, noise, notes

SECONDS = 16.0


def energy(x: np.ndarray) -> float:
    return float(np.sum(np.asarray(x, dtype=float) ** 2))


@pytest.fixture(scope="module")
def played() -> np.ndarray:
    return notes(SECONDS) + noise(SECONDS)


@pytest.mark.parametrize("bpm", [40.0, 66.0, 123.4, 208.0])
def test_an_even_beat_under_notes_is_found(played: np.ndarray, bpm: float) -> None:
    found = find_metronome(played + metronome(SECONDS, bpm), RATE)
    assert found is not None
    assert found.bpm == pytest.approx(bpm, rel=2e-4)
    off_s = (found.first_s - 0.31) % found.period_s
    assert min(off_s, found.period_s - off_s) < 0.02
    assert 0.0 <= found.first_s < found.period_s
    n = int((SECONDS - 0.31) * bpm / 60.0) + 1
    assert len(found.ticks_s) >= 0.8 * n


@pytest.mark.parametrize("every", [2, 3, 4])
def test_the_first_of_the_bar_is_another_sound(played: np.ndarray, every: int) -> None:
    found = find_metronome(played + metronome(SECONDS, 120.0, every=every), RATE)
    assert found is not None
    assert found.bpm == pytest.approx(120.0, rel=2e-4)
    assert len(found.bar) == every
    assert sum(found.bar) in (1, every - 1)
    for at_s, sound in zip(found.ticks_s, found.sounds, strict=True):
        i = round((at_s - found.first_s) / found.period_s)
        assert sound == found.bar[i % every]
    accents = {
        round((t - 0.31) / 0.5) % every
        for t, s in zip(found.ticks_s, found.sounds, strict=True)
        if found.bar.count(s) == 1
    }
    assert 0 in accents
    assert every == 2 or accents == {0}


def test_notes_by_themselves_are_none(played: np.ndarray) -> None:
    assert find_metronome(played, RATE) is None
    assert find_metronome(noise(SECONDS, -40.0), RATE) is None
    assert find_metronome(np.zeros(round(SECONDS * RATE)), RATE) is None
    assert find_metronome(np.zeros(10), RATE) is None


def test_what_is_not_even_to_milliseconds_is_somebody(played: np.ndarray) -> None:
    assert find_metronome(played + metronome(SECONDS, jitter_s=0.0005), RATE) is not None
    assert find_metronome(played + metronome(SECONDS, jitter_s=0.015), RATE) is None


def test_what_sounds_otherwise_each_time_is_no_machine(played: np.ndarray) -> None:
    x = played + metronome(SECONDS, same=False, jitter_s=0.004)
    assert find_metronome(x, RATE) is None


def test_so_many_ticks_are_needed(played: np.ndarray) -> None:
    step_s = 60.0 / 90.0

    def found(n: int) -> Metronome | None:
        return find_metronome(
            played + metronome(SECONDS, 90.0, from_s=3.0, to_s=2.95 + 0.03 + n * step_s), RATE
        )

    assert found(LEAST_TICKS + 2) is not None
    assert found(LEAST_TICKS - 2) is None


def test_known_levels_say_the_same(played: np.ndarray) -> None:
    x = played + metronome(SECONDS)
    levels = band_levels(x, RATE)
    assert len(levels) == pytest.approx(len(x) / hop_samples(RATE), abs=3)
    assert find_metronome(x, RATE, levels) == find_metronome(x, RATE)
    assert band_levels(np.zeros(3), RATE).shape[0] == 0


def test_what_lasts_does_not_stand_out_and_what_is_over_does() -> None:
    level = np.full((200, 3), -50.0, dtype=np.float32)
    level[50:52] = -44.0
    level[100:] = -30.0
    rises = stands_out_db(level)
    assert rises[50:52] == pytest.approx(6.0)
    assert rises[120:] == pytest.approx(0.0)
    level[50:52] = 0.0
    assert stands_out_db(level)[50] == pytest.approx(15.0), "one knock does not outweigh all"


def test_in_a_long_recording_it_may_be_set_anew() -> None:
    seconds = 260.0
    played = notes(seconds) + noise(seconds)
    ticks = metronome(seconds, 60.0, to_s=80.0) + metronome(seconds, 90.0, from_s=180.0)
    left, tickings = without_metronome(played + ticks, RATE)
    assert [round(t.metronome.bpm) for t in tickings] == [60, 90]
    assert [(t.start_s, t.end_s) for t in tickings] == [
        pytest.approx((0.0, 86.7), abs=0.1), pytest.approx((173.3, 260.0), abs=0.1)
    ]  # fmt: skip
    assert tickings[1].metronome.ticks_s[0] > 179.0
    assert energy(left - played) < 0.1 * energy(ticks)
    middle = slice(round(90.0 * RATE), round(170.0 * RATE))
    assert np.array_equal(left[middle], (played + ticks)[middle].astype(np.float32))


def test_seen_from_another_beginning_it_is_the_same() -> None:
    one = Metronome(
        period_s=0.5, first_s=0.2, ticks_s=(0.2, 0.7, 1.2), sounds=(1, 0, 0), bar=(1, 0, 0)
    )
    assert one.bpm == 120.0
    moved = later(one, 0.6)
    assert moved.first_s == pytest.approx(0.3)
    assert moved.ticks_s == pytest.approx((0.8, 1.3, 1.8))
    # the beat at 0.8 s is the first of the bar: the one at 0.3 s was the last
    assert moved.bar == (0, 1, 0)
    back = later(moved, -0.6)
    assert back.first_s == pytest.approx(0.2)
    assert back.bar == one.bar


def test_every_beat_is_known_with_its_sound() -> None:
    one = Metronome(period_s=0.5, first_s=0.2, ticks_s=(0.7004,), sounds=(0,), bar=(1, 0))
    beats = every_beat(one, 1.4)
    assert [t for t, _ in beats] == pytest.approx([-0.3, 0.2, 0.7004, 1.2])
    assert [k for _, k in beats] == [0, 1, 0, 1]
    sound = TickSound(samples=np.ones(4), lead=1)
    assert [t for t, _ in beats_of(one, (None, sound), 1.4)] == pytest.approx([0.2, 1.2])
    assert [t for t, _ in beats_of(one, (sound,), 1.4)] == pytest.approx([-0.3, 0.7004])


@pytest.mark.parametrize("level", [0.05, 0.2, 0.6])
def test_ticks_go_and_the_notes_stay(played: np.ndarray, level: float) -> None:
    ticks = metronome(SECONDS, 96.0, level, every=4)
    left, (ticking,) = without_metronome(played + ticks, RATE)
    assert energy(left - played) < 0.05 * energy(ticks)
    assert left.dtype == np.float32
    true_db = 10.0 * np.log10(energy(ticks) / energy(played))
    assert ticking.level_db == pytest.approx(true_db, abs=2.0)


def test_ticks_that_begin_late_and_stop_leave_the_rest_alone(played: np.ndarray) -> None:
    ticks = metronome(SECONDS, 120.0, from_s=4.0, to_s=11.0)
    left, _ = without_metronome(played + ticks, RATE)
    assert energy(left - played) < 0.1 * energy(ticks)
    before = slice(0, round(3.6 * RATE))
    assert energy((left - played)[before]) < 1e-3 * energy(ticks)


def test_a_metronome_by_itself_is_left_in_as_somebody_may_play_it() -> None:
    x = noise(SECONDS) + metronome(SECONDS)
    left, tickings = without_metronome(x, RATE)
    assert tickings == ()
    assert left is x


def test_where_there_is_none_the_sound_is_left_as_it_is(played: np.ndarray) -> None:
    left, tickings = without_metronome(played, RATE)
    assert tickings == ()
    assert left is played


def test_the_sound_of_a_tick_is_learnt_from_all(played: np.ndarray) -> None:
    x = played + metronome(SECONDS, 100.0)
    found = find_metronome(x, RATE)
    assert found is not None
    (sound,) = tick_sounds(x, RATE, found)
    assert sound is not None
    off = (found.ticks_s[0] - 0.31) % found.period_s
    lead = sound.lead - round((off if off < 0.3 else off - found.period_s) * RATE)
    there = sound.samples[lead : lead + len(tick())]
    assert np.dot(there, tick()) / np.sqrt(energy(there) * energy(tick())) > 0.95
    assert sound.samples[-1] == pytest.approx(0.0, abs=1e-6)
    loudest = np.sqrt(np.mean((0.2 * tick()[: round(0.05 * RATE)]) ** 2))
    assert sound.level_dbfs(RATE) == pytest.approx(20 * np.log10(loudest), abs=1.5)


def test_a_tick_is_told_from_where_it_is_not() -> None:
    sound = TickSound(samples=np.concatenate([np.zeros(100), tick()]), lead=100)
    x = noise(2.0)
    start = round(1.0 * RATE)
    x[start : start + len(tick())] += 0.7 * tick()
    gain, clear = strength(x, RATE, 1.0, sound)
    assert gain == pytest.approx(0.7, abs=0.03)
    assert clear > 12.0
    assert not is_missing(x, RATE, 1.0, sound)
    assert is_missing(x, RATE, 0.4, sound)
    assert on_a_beat(x, RATE, 0.4, sound) is None
    cut = on_a_beat(x, RATE, 1.0, sound)
    assert cut is not None
    first, samples = cut
    assert first == start - 100
    assert samples == pytest.approx(gain * sound.samples, abs=1e-6)
    # nothing is said of what could not be heard
    loud = 30.0 * np.random.default_rng(3).normal(size=len(x))
    assert not is_missing(loud, RATE, 0.4, sound)
    silent = TickSound(samples=np.zeros(500), lead=100)
    assert strength(x, RATE, 1.0, silent) == (0.0, 0.0)


def test_sound_between_samples_and_beyond_the_ends() -> None:
    at = np.arange(400)
    wave = np.sin(2 * np.pi * at / 37.0) * np.hanning(400)
    late = shifted(wave, 0.3)
    expected = np.sin(2 * np.pi * (at - 0.3) / 37.0) * np.interp(at - 0.3, at, np.hanning(400))
    assert late == pytest.approx(expected, abs=1e-3)
    assert shifted_cut(wave, 10.0, 5) == pytest.approx(wave[10:15])
    assert shifted_cut(wave, 10.5, 200) == pytest.approx(
        0.5 * (wave[10:210] + wave[11:211]), abs=0.01
    )
    assert shifted_cut(wave, -3.0, 5) == pytest.approx([0, 0, 0, *wave[:2]], abs=1e-9)
    assert shifted_cut(wave, 398.0, 5) == pytest.approx([*wave[398:], 0, 0, 0], abs=1e-9)
    assert shifted_cut(wave, 900.0, 5) == pytest.approx(np.zeros(5))


def test_a_tick_at_the_very_beginning_goes_too(played: np.ndarray) -> None:
    ticks = metronome(SECONDS, 90.0, first_s=0.0)
    found = find_metronome(played + ticks, RATE)
    assert found is not None
    left = subtract(played + ticks, RATE, found, tick_sounds(played + ticks, RATE, found))
    start = slice(0, round(0.2 * RATE))
    assert energy((left - played)[start]) < 0.3 * energy(ticks[start])


BEAT = Metronome(period_s=0.5, first_s=0.1, ticks_s=(), sounds=(), bar=(1, 0))


def ticking(*, level_db: float = -13.6, bpm: float = 120.0) -> Ticking:
    """Every second tick at 2600 Hz, the others at 1900 Hz, in the first ten seconds."""
    low, high = (TickSound(samples=tick(f), lead=0) for f in (1900.0, 2600.0))
    return Ticking(
        metronome=Metronome(
            period_s=60.0 / bpm, first_s=BEAT.first_s, ticks_s=(), sounds=(), bar=BEAT.bar
        ),
        sounds=(low, high), start_s=0.0, end_s=10.0, level_db=level_db,
    )  # fmt: skip


@pytest.mark.parametrize(
    ("onset_s", "seconds", "level_dbfs", "f0_hz", "stays"),
    [
        (2.12, 0.2, -35.0, 2600.0, False),
        (2.62, 0.2, -35.0, 1900.0, False),
        (2.12, 0.2, -35.0, 1300.0, True),  # another pitch: somebody plays
        (2.62, 0.2, -35.0, 2600.0, True),  # the other tick's
        (2.06, 0.2, -35.0, 2600.0, False),
        (2.04, 0.2, -35.0, 2600.0, True),  # earlier than a tick
        (2.17, 0.2, -35.0, 2600.0, False),
        (2.19, 0.2, -35.0, 2600.0, True),  # later
        (2.12, 0.31, -35.0, 2600.0, True),  # as long as a note
        (2.12, 0.2, -27.0, 2600.0, True),  # as loud as one
        (2.12, 0.2, -29.0, 2600.0, False),
        (12.12, 0.2, -35.0, 2600.0, True),  # after the metronome was heard
    ],
)
def test_what_may_be_left_of_a_tick_is_doubtful(
    onset_s: float, seconds: float, level_dbfs: float, f0_hz: float, stays: bool
) -> None:
    others = [segment(440.0, t, seconds=0.4) for t in (0.3, 0.8, 1.3, 3.0, 3.5)]
    maybe = segment(f0_hz, onset_s, seconds=seconds, level_dbfs=level_dbfs)
    rows = sorted([*others, maybe], key=lambda s: s.onset_s)
    kept, doubtful = parted_from_ticks(rows, (ticking(),), RATE)
    assert (maybe in kept) is stays
    assert doubtful == (() if stays else (replace(maybe, doubtful=True),))
    assert all(s in kept for s in others)
    assert parted_from_ticks(rows, (), RATE) == (tuple(rows), ())


def test_a_soft_short_note_that_follows_another_stays() -> None:
    rows = [
        segment(440.0, 0.3, seconds=0.5),
        segment(440.0, 1.2, seconds=0.9),
        segment(2600.0, 2.12, seconds=0.2, level_dbfs=-35.0),
    ]
    assert parted_from_ticks(rows, (ticking(),), RATE) == (tuple(rows), ())
    assert parted_from_ticks([], (ticking(),), RATE) == ((), ())


def test_one_speed_is_said_once() -> None:
    assert codes_of(()) == ()
    assert codes_of((ticking(),)) == (f"{METRONOME}:120.00:-14:0.1000",)
    codes = codes_of((ticking(), ticking(bpm=120.004, level_db=-3.0), ticking(bpm=90.0)))
    assert codes == (f"{METRONOME}:120.00:-14:0.1000", f"{METRONOME}:90.00:-14:0.1000")


def test_a_short_sound_has_a_level_too() -> None:
    assert TickSound(samples=np.full(10, 0.1), lead=0).level_dbfs(RATE) == pytest.approx(-20.0)
    one = np.zeros(4800)
    one[1000:2200] = 0.1  # a twentieth of a second
    assert TickSound(samples=one, lead=0).level_dbfs(RATE) == pytest.approx(-20.0)


def test_it_is_kept_with_what_was_heard(played: np.ndarray) -> None:
    signal = Signal(
        samples=(played + metronome(SECONDS, 90.0)).astype(np.float32), rate_hz=RATE,
        n_channels=1, i_channel=0, warnings=("clipped",),
    )  # fmt: skip
    heard = hear(signal, instrument("violin"), lowest_open_hz=196.0)
    clipped, code = heard.warnings
    assert clipped == "clipped"
    name, bpm, _, first_s = code.split(":")
    assert name == METRONOME
    assert float(bpm) == pytest.approx(90.0, abs=0.02)
    assert 0.28 < float(first_s) < 0.33
    alone = hear(
        Signal(
            samples=played.astype(np.float32), rate_hz=RATE, n_channels=1, i_channel=0, warnings=()
        ),
        instrument("violin"), lowest_open_hz=196.0,
    )  # fmt: skip
    assert alone.warnings == ()
    assert abs(len(heard.segments) - len(alone.segments)) <= 1
