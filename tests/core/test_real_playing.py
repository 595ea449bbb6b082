"""What real playing has besides faults: each thing does what it says, and no more."""

from __future__ import annotations

import json

import numpy as np
import pytest

from jigwright.core.errors import FaultError
from jigwright.core.player import faults as f
from jigwright.core.player.drawn import WHERE, clean_faults, clean_take
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.places import impulse_response, recorded, surroundings
from jigwright.core.player.play import Performance, truth_json
from jigwright.core.player.real import REAL, Clicks, Microphone, OtherPlayer, Talk, Ticks
from jigwright.core.player.voice import speech
from jigwright.core.player.wandering import pink
from jigwright.core.values import Floats
from signals import perform, scale

RATE = 48_000


def rng(seed: int = 1) -> np.random.Generator:
    return np.random.default_rng(seed)


def power_db(x: Floats) -> float:
    return float(10 * np.log10(np.mean(np.asarray(x, dtype=float) ** 2) + 1e-20))


def band_db(x: Floats, low_hz: float, high_hz: float) -> float:
    spectrum = np.abs(np.fft.rfft(np.asarray(x, dtype=float))) ** 2
    at = np.fft.rfftfreq(len(x), 1.0 / RATE)
    return float(10 * np.log10(spectrum[(at >= low_hz) & (at < high_hz)].sum() + 1e-20))


def truth(performance: Performance) -> list[dict[str, object]]:
    rows = json.loads(truth_json(performance, file="x"))["notes"]
    assert isinstance(rows, list)
    return rows


# rooms ------------------------------------------------------------------------------------


@pytest.mark.parametrize("rt60_s", [0.4, 1.2])
@pytest.mark.parametrize("wet_db", [-10.0, 6.0])
def test_a_room_has_its_level_and_its_decay(rt60_s: float, wet_db: float) -> None:
    tail = impulse_response(f.Room(rt60_s=rt60_s, wet_db=wet_db), RATE, rng())
    assert 10 * np.log10(np.sum(tail**2)) == pytest.approx(wet_db, abs=0.01)
    left = 10 * np.log10(np.cumsum(tail[::-1] ** 2)[::-1])  # Schroeder's backward integral
    a, b = (round(share * len(tail)) for share in (0.1, 0.5))
    slope = (left[b] - left[a]) / ((b - a) / RATE)
    assert -60.0 / slope == pytest.approx(rt60_s, rel=0.1)


def test_early_reflections_are_counted_and_have_their_level() -> None:
    plain = f.Room(rt60_s=0.5, wet_db=-100.0)
    room = f.Room(rt60_s=0.5, wet_db=-100.0, n_early=6, early_db=-3.0)
    early = impulse_response(room, RATE, rng())
    assert 10 * np.log10(np.sum(early**2)) == pytest.approx(-3.0, abs=0.1)
    strong = np.flatnonzero(np.abs(early) > 1e-3)
    assert 4 <= len(strong) <= 6  # two may fall together
    assert strong.min() >= 0.004 * RATE - 1
    assert strong.max() <= 0.045 * RATE + 1
    assert np.abs(impulse_response(plain, RATE, rng())).max() < 1e-5


def test_treble_dies_first_where_it_is_said() -> None:
    tail = impulse_response(f.Room(rt60_s=1.0, wet_db=0.0, high=0.3), RATE, rng())
    early, late = tail[: RATE // 5], tail[RATE // 2 : RATE // 2 + RATE // 5]
    lost_low = band_db(early, 200, 900) - band_db(late, 200, 900)
    lost_high = band_db(early, 5000, 9000) - band_db(late, 5000, 9000)
    assert lost_low == pytest.approx(30.0, abs=4.0)  # half a second of one
    assert lost_high > lost_low + 40.0


# slow noise -------------------------------------------------------------------------------


def test_slow_noise_has_unit_size_and_no_fast_part() -> None:
    x = np.concatenate([pink(20 * RATE, rng(k)) for k in range(6)])
    assert np.std(x) == pytest.approx(1.0, abs=0.15)
    assert band_db(x, 0.2, 1.0) > band_db(x, 4.0, 8.0)
    assert band_db(x, 20.0, 400.0) < band_db(x, 0.2, 8.0) - 30.0


def test_pitch_and_pressure_wander_by_what_is_said() -> None:
    plain = perform(scale(tempo=40.0))
    wanders = perform(scale(tempo=40.0), "wander cents=4 level_db=0")
    louder = perform(scale(tempo=40.0), "wander cents=0 level_db=3")
    off = 1200 * np.log2(wanders.sound.f0_hz / plain.sound.f0_hz)
    assert 2.0 < np.std(off) < 6.0
    sounding = plain.sound.level > 0.5
    db = 20 * np.log10(louder.sound.level[sounding] / plain.sound.level[sounding])
    assert 1.5 < np.std(db) < 4.5
    np.testing.assert_allclose(louder.sound.f0_hz, plain.sound.f0_hz)


def test_the_truth_is_where_the_pitch_really_was() -> None:
    performance = perform(scale(tempo=40.0), "wander cents=6 level_db=0")
    for row, note in zip(truth(performance), performance.notes, strict=True):
        lo, hi = (round(t * RATE) for t in (note.onset_s + 0.05, note.offset_s - 0.03))
        mean = float(np.mean(1200 * np.log2(performance.sound.f0_hz[lo:hi])))
        assert 1200 * np.log2(float(str(row["f0_hz"]))) == pytest.approx(mean, abs=0.01)


# vibrato ----------------------------------------------------------------------------------


def vibrato_of(text: str) -> Floats:
    performance = perform(scale(tempo=15.0), f"vibrato notes=2 {text}")
    note = performance.notes[2]
    lo, hi = (round(t * RATE) for t in (note.onset_s, note.offset_s - 0.1))
    return np.asarray(1200 * np.log2(performance.sound.f0_hz[lo:hi] / note.f0_hz))


def test_an_arm_takes_its_time() -> None:
    cents = vibrato_of("extent_cents=40 rate_hz=5 arm_s=1.0")
    first, last = cents[: RATE // 4], cents[2 * RATE :]
    assert np.ptp(first) < 0.35 * np.ptp(last)
    assert np.ptp(last) == pytest.approx(40.0, abs=1.0)


def test_a_vibrato_that_wanders_keeps_rate_and_width_on_the_whole() -> None:
    cents = vibrato_of("extent_cents=40 rate_hz=5 wander=0.2")
    turns = np.flatnonzero(np.diff(np.sign(cents)) > 0)
    periods = np.diff(turns) / RATE
    assert np.mean(periods) == pytest.approx(0.2, rel=0.15)
    assert np.std(periods) > 0.005
    tops = [cents[a:b].max() for a, b in zip(turns, turns[1:], strict=False)]
    assert np.mean(tops) == pytest.approx(20.0, rel=0.25)
    assert np.std(tops) > 1.0
    still = vibrato_of("extent_cents=40 rate_hz=5")
    assert np.std(np.diff(np.flatnonzero(np.diff(np.sign(still)) > 0))) < 3


def test_a_body_moves_the_level_of_partials_with_the_pitch() -> None:
    def swing(text: str) -> float:
        performance = perform(scale(tempo=30.0), f"vibrato notes=3 extent_cents=60 {text}")
        note = performance.notes[3]
        lo, hi = (round(t * RATE) for t in (note.onset_s + 0.3, note.offset_s - 0.3))
        x = performance.sound.samples[lo:hi].astype(float)
        hop = RATE // 100
        level = [power_db(x[i : i + 2 * hop]) for i in range(0, len(x) - 2 * hop, hop)]
        return float(np.std(level))

    assert swing("; body ripple_db=8") > swing("; gain db=0") + 0.4


# notes ------------------------------------------------------------------------------------


def test_a_trill_goes_to_its_neighbour_and_back() -> None:
    performance = perform(scale(tempo=30.0), "trill notes=2 semitones=1 rate_hz=5")
    note = performance.notes[2]
    lo, hi = (round(t * RATE) for t in (note.onset_s, note.offset_s - 0.05))
    cents = 1200 * np.log2(performance.sound.f0_hz[lo:hi] / note.f0_hz)
    assert cents.max() == pytest.approx(100.0, abs=2.0)
    assert cents[-1] == pytest.approx(0.0, abs=1.0)  # it closes on the note
    ups = np.count_nonzero(np.diff((cents > 50).astype(int)) > 0)
    assert ups == pytest.approx(5 * 2.0, abs=2)
    assert truth(performance)[2]["kind"] == "trill"
    assert truth(performance)[1]["kind"] == "main"


def test_a_grace_comes_before_its_note() -> None:
    performance = perform(scale(tempo=60.0), "grace notes=2 semitones=2 seconds=0.1")
    note = performance.notes[2]
    at = [round((note.onset_s + t) * RATE) for t in (0.05, 0.15)]
    cents = 1200 * np.log2(performance.sound.f0_hz[at] / note.f0_hz)
    np.testing.assert_allclose(cents, [200.0, 0.0], atol=0.5)


def test_portamento_slides_within_a_bow_only() -> None:
    performance = perform(scale(slur=2), "portamento seconds=0.1")
    for before, note in zip(performance.notes, performance.notes[1:], strict=False):
        if note.slurred:
            assert note.slide_s == 0.1
            distance = 1200 * np.log2(before.f0_hz / note.f0_hz)
            assert note.slide_cents == pytest.approx(distance)
        else:
            assert note.slide_s == 0.0
    marked = [row["portamento"] for row in truth(performance)]
    assert marked == [n.slurred for n in performance.notes]


def test_a_wolf_stutters_and_its_pitch_stays() -> None:
    performance = perform(scale("cello", tempo=30.0), "wolf notes=3 rate_hz=6 depth_db=14")
    note = performance.notes[3]
    lo, hi = (round(t * RATE) for t in (note.onset_s + 0.2, note.offset_s - 0.1))
    db = 20 * np.log10(performance.sound.level[lo:hi])
    assert np.ptp(db) == pytest.approx(14.0, abs=1.0)
    dips = np.count_nonzero(np.diff((db < db.max() - 7).astype(int)) > 0)
    assert dips == pytest.approx(6 * (hi - lo) / RATE, abs=2.5)
    assert np.ptp(performance.sound.f0_hz[lo:hi]) < 0.01


def test_a_subharmonic_stands_at_half_the_frequency() -> None:
    def half_db(text: str) -> float:
        performance = perform(scale("cello", tempo=30.0), text)
        note = performance.notes[0]
        lo, hi = (round(t * RATE) for t in (note.onset_s + 0.3, note.offset_s - 0.3))
        x = performance.sound.samples[lo:hi]
        f0 = note.f0_hz
        return band_db(x, 0.48 * f0, 0.52 * f0) - band_db(x, 0.96 * f0, 1.04 * f0)

    assert half_db("subharmonic notes=0 level_db=-12") > half_db("") + 15.0


def test_uneven_changes_differ_within_their_limits() -> None:
    notes = perform(scale(), "uneven dip_db=25 least_db=6 gap_ms=50").notes
    dips = [n.dip_db for n in notes]
    assert min(dips) >= 6.0
    assert max(dips) <= 25.0
    assert np.std(dips) > 3.0
    assert all(15.0 <= n.gap_ms <= 50.0 for n in notes)


def test_the_string_that_was_left_rings_on() -> None:
    def left_db(text: str) -> float:
        performance = perform(scale(tempo=30.0), text)
        before, note = performance.notes[1], performance.notes[2]
        lo = round((note.onset_s + 0.1) * RATE)
        x = performance.sound.samples[lo : lo + RATE // 4]
        return band_db(x, 0.98 * before.f0_hz, 1.02 * before.f0_hz)

    rings = "overlap notes=2 seconds=2 level_db=-6; noise snr_db=70"
    assert left_db(rings) > left_db("noise snr_db=70") + 8.0


def test_the_tempo_drifts_there_and_back() -> None:
    jig = scale(octaves=2)
    steady, drifts = (perform(jig, t).notes for t in ("", "tempo_drift percent=10"))
    beats = [float(e.length_beats) for e in jig.events]

    def pace(notes: tuple[object, ...]) -> Floats:
        onsets = np.array([n.onset_s for n in notes])  # type: ignore[attr-defined]
        return np.diff(onsets) / np.array(beats[:-1])

    ratio = pace(drifts) / pace(steady)
    assert np.abs(ratio - 1.0).max() == pytest.approx(0.10, abs=0.01)
    assert np.abs(np.diff(ratio)).max() < 0.08


# places -----------------------------------------------------------------------------------


def test_somebody_speaks_only_then_and_as_loud_as_said() -> None:
    out = surroundings((Talk(from_s=1.0, to_s=3.0, level_db=-6.0),), 4 * RATE, RATE, 0.1, rng())
    assert np.abs(out[:RATE]).max() == 0.0
    assert np.abs(out[3 * RATE :]).max() == 0.0
    talk = out[RATE : 3 * RATE]
    active = talk[np.abs(talk) > 1e-7]
    assert power_db(active) == pytest.approx(-26.0, abs=0.5)


def test_speech_comes_in_syllables_without_a_lasting_pitch() -> None:
    x = speech(4 * RATE, RATE, rng(3))
    hop = RATE // 50
    level = np.array([power_db(x[i : i + hop]) for i in range(0, len(x) - hop, hop)])
    quiet = level < level.max() - 15.0
    syllables = np.count_nonzero(np.diff(quiet.astype(int)) < 0)
    assert 8 <= syllables <= 32


@pytest.mark.parametrize("per_min", [0.0, 60.0])
def test_clicks_come_as_often_as_said(per_min: float) -> None:
    out = surroundings((Clicks(per_min=per_min, level_db=0.0),), 60 * RATE, RATE, 0.1, rng(2))
    hop = RATE // 10
    loud = np.array([np.abs(out[i : i + hop]).max() for i in range(0, len(out), hop)]) > 0.05
    starts = np.count_nonzero(np.diff(loud.astype(int)) > 0)
    assert starts == pytest.approx(per_min, abs=max(0.0, 0.4 * per_min))


def test_ticks_come_evenly_and_each_kind_is_the_same() -> None:
    out = surroundings((Ticks(bpm=120.0, every=2, level_db=0.0),), 4 * RATE, RATE, 0.1, rng())
    ticks = [out[round((0.3 + 0.5 * i) * RATE) :][: RATE // 20] for i in range(6)]
    assert np.array_equal(ticks[0], ticks[2])
    assert np.array_equal(ticks[1], ticks[3])
    assert not np.allclose(ticks[0], ticks[1])
    assert not out[: round(0.29 * RATE)].any()
    assert not out[round(0.45 * RATE) : round(0.79 * RATE)].any()
    softer = surroundings((Ticks(bpm=120.0, every=2, level_db=-20.0),), 4 * RATE, RATE, 0.1, rng())
    assert softer == pytest.approx(0.1 * out)
    late = surroundings((Ticks(from_s=9.0),), 4 * RATE, RATE, 0.1, rng())
    assert not late.any()


def test_another_player_has_the_level_that_is_said() -> None:
    out = surroundings((OtherPlayer(level_db=-20.0),), 10 * RATE, RATE, 0.1, rng())
    assert power_db(out) == pytest.approx(-40.0, abs=0.2)


def test_nothing_sounds_where_nothing_is_said() -> None:
    assert not surroundings((f.Noise(), f.Gain()), RATE, RATE, 0.1, rng()).any()


@pytest.mark.parametrize(
    ("kind", "lost_high", "lost_low"),
    [("studio", False, False), ("laptop", True, True), ("phone", True, True)],
)
def test_microphones_have_their_band(kind: str, lost_high: bool, lost_low: bool) -> None:
    x = rng().normal(size=2 * RATE) * 0.1
    out = recorded(Microphone(kind=kind), x, RATE)  # type: ignore[arg-type]

    def lost(low: float, high: float) -> float:
        kept = band_db(out, 1000, 2000) - band_db(x, 1000, 2000)
        return kept - (band_db(out, low, high) - band_db(x, low, high))

    assert (lost(15_000, 19_000) > 6.0) is lost_high
    assert (lost(40, 70) > 6.0) is lost_low


def test_automatic_gain_lifts_what_is_soft() -> None:
    x = rng().normal(size=6 * RATE) * 0.1
    x[3 * RATE :] *= 0.1
    plain, lifted = (
        recorded(Microphone(kind=k), x, RATE)  # type: ignore[arg-type]
        for k in ("studio", "phone")
    )

    def fall(y: Floats) -> float:
        return power_db(y[2 * RATE : 3 * RATE]) - power_db(y[5 * RATE :])

    assert fall(plain) == pytest.approx(20.0, abs=0.5)
    assert 8.0 < fall(lifted) < 13.0


def test_clipping_cuts_what_is_loudest() -> None:
    x = np.sin(2 * np.pi * 500 * np.arange(RATE) / RATE) * np.linspace(0.1, 1.0, RATE)
    out = recorded(Microphone(kind="studio", clip_db=6.0), x, RATE)
    plain = recorded(Microphone(kind="studio"), x, RATE)
    assert np.abs(out).max() == pytest.approx(0.5 * np.abs(plain).max(), rel=0.01)
    soft = slice(0, RATE // 4)
    np.testing.assert_allclose(out[soft], plain[soft])


# text -------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", sorted(REAL))
def test_everything_can_be_written_and_changes_the_sound(name: str) -> None:
    (read,) = parse_faults(name)
    assert type(read) is REAL[name]
    jig = scale(slur=2)
    plain, real = perform(jig).sound.samples, perform(jig, name).sound.samples
    assert len(plain) != len(real) or not np.array_equal(plain, real)
    assert np.array_equal(real, perform(jig, name).sound.samples)  # drawn from the seed alone
    assert np.isfinite(real).all()


@pytest.mark.parametrize(
    "text",
    ["microphone kind=tin", "talk level_db=500", "clicks per_min=1e9", "room high=0",
     "room n_early=1000", "tempo_drift percent=90", "vibrato wander=2", "wolf what=3"],
)  # fmt: skip
def test_what_nobody_can_mean_is_refused(text: str) -> None:
    with pytest.raises(FaultError):
        parse_faults(text)


@pytest.mark.parametrize("where", WHERE)
def test_clean_takes_are_drawn_from_the_seed_and_hold_no_fault(where: str) -> None:
    one, same, other = (clean_take(rng(s), where) for s in (4, 4, 5))  # type: ignore[arg-type]
    assert one == same
    assert one != other
    planted = {type(x) for x in clean_faults(rng(4), where)}  # type: ignore[arg-type]
    unwanted = {
        f.Hunt, f.Slide, f.Wrong, f.Miss, f.Extra, f.Repeat, f.BackOne, f.Weak, f.Bounce,
        f.Scratch, f.WhistleFault, f.Tremor, f.Hurry, f.Lift, f.Neighbour,
    }  # fmt: skip
    assert not planted & unwanted


def test_vibrato_can_be_asked_for() -> None:
    for seed in range(6):
        assert "vibrato" in clean_take(rng(seed), "room", vibrato=True)
        assert "vibrato" not in clean_take(rng(seed), "room", vibrato=False)
