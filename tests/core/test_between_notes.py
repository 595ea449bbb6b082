"""Plucked notes, folded harmonics, open strings, comparisons inside a take, a leaking drone."""

from dataclasses import replace

import numpy as np
import pytest

from jigwright.core.gauge.pluck import PluckParams, measure_pluck
from jigwright.core.gauge.values import Pluck
from jigwright.core.jig.model import note_list
from jigwright.core.jig.phrases import statements
from jigwright.core.jig.scales import make_scale
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.judge.open_strings import find_strings, neighbours, next_peg
from jigwright.core.judge.phrasing import (
    Contrast,
    longest_stroke,
    measure_contrast,
    measure_pairs,
    measure_strings,
)
from jigwright.core.judge.playing import measure_playing
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.music.references import pure_strings
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play
from jigwright.core.sound.drone import remove_drone
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.values import Unmeasured


def heard_and_measured(jig, faults="", seed=1):
    p = play(jig, seed=seed, faults=parse_faults(faults))
    strings = pure_strings(instrument(jig.instrument_id).strings, 440.0)
    heard = hear(
        choose_signal(p.sound.samples, p.sound.rate_hz), instrument(jig.instrument_id),
        lowest_open_hz=min(strings.values()), open_hz=tuple(strings.values()),
    )  # fmt: skip
    _, notes = follow_and_measure(heard, jig, a4_hz=440.0, instrument_id=jig.instrument_id)
    return heard, notes, measure_playing(heard, notes, jig, strings)


def with_events(jig, **changes):
    return replace(jig, events=tuple(replace(e, **changes) for e in jig.events))


def test_plucked_notes_ring_as_long_as_planted_and_bowed_ones_are_refused() -> None:
    jig = note_list("G3 D4 A4 B4 D5", instrument_id="violin", tempo_bpm=60)
    for t60_s in (0.9, 1.6):
        _, notes, playing = heard_and_measured(
            with_events(jig, pluck=True), f"pluck t60_s={t60_s}; noise snr_db=50"
        )
        rings = [n.pluck.ring_s for n in notes if isinstance(n.pluck, Pluck)]
        assert len(rings) == 5
        assert np.median(rings) == pytest.approx(t60_s, rel=0.12)
        assert not playing.events
    _, bowed, _ = heard_and_measured(jig)
    assert all(n.pluck == Unmeasured("not_plucked") for n in bowed)


def test_a_louder_thud_is_heard_as_more_thud() -> None:
    jig = with_events(note_list("D4 E4 F#4 G4", instrument_id="violin"), pluck=True)
    thuds = []
    for db in (-30, -10):
        _, notes, _ = heard_and_measured(jig, f"pluck thud_db={db}")
        thuds.append(np.median([n.pluck.thud_db for n in notes if isinstance(n.pluck, Pluck)]))
    assert thuds[1] > thuds[0] + 3.0


def test_plucks_of_another_maker_are_measured_when_written(sounds) -> None:
    import soundfile

    x, rate = soundfile.read(sounds / "pizz_viola_wp.flac", dtype="float32", always_2d=True)
    heard = hear(choose_signal(x, rate), instrument("viola"), lowest_open_hz=130.8)
    plucks = [measure_pluck(heard.contours, s, PluckParams(), written=True) for s in heard.segments]
    rings = [p.ring_s for p in plucks if isinstance(p, Pluck)]
    assert len(rings) == len(heard.segments) == 8
    assert rings[-1] < min(rings[:-1])  # the highest note falls fastest


def harmonic_jig():
    jig = note_list("D5 D6 E5", instrument_id="violin", tempo_bpm=50)
    partials = (2, 4, 1)
    return replace(
        jig,
        events=tuple(
            replace(e, heads=(replace(e.heads[0], string=1, partial=k),))
            for e, k in zip(jig.events, partials, strict=True)
        ),
    )


def test_a_folded_harmonic_is_named_and_a_clean_one_is_not() -> None:
    jig = harmonic_jig()
    _, _, clean = heard_and_measured(jig)
    assert not [e for e in clean.events if e.kind == "fold"]
    _, notes, folded = heard_and_measured(jig, "fold notes=1 from_partial=4 to_partial=3 at=0.4")
    events = [e for e in folded.events if e.kind == "fold"]
    assert [e.strength for e in events] == [3.0]
    assert notes[events[0].row].lined.i_event == 1


def test_strings_are_found_as_they_are_and_the_peg_to_turn_is_named() -> None:
    jig = note_list("A4 D4 G3 E5", instrument_id="violin", tempo_bpm=40)
    heard, _, _ = heard_and_measured(jig, "detune notes=1 cents=-9; detune notes=3 cents=4")
    targets = pure_strings(instrument("violin").strings, 440.0)
    found = find_strings(heard.segments, heard.pairs, targets)
    equal_to_pure = {
        s: 1200 * np.log2(440 * 2 ** ((s.midi - 69) / 12) / hz) for s, hz in targets.items()
    }
    planted = {"G3": 0.0, "D4": -9.0, "A4": 0.0, "E5": 4.0}
    for one in found:
        wanted = planted[str(one.string)] + equal_to_pure[one.string]
        assert one.cents == pytest.approx(wanted, abs=1.0)
    gaps = neighbours(found)
    assert [str(g.lower) for g in gaps] == ["G3", "D4", "A4"]
    assert gaps[1].error_cents == pytest.approx(9.0 - 2.0, abs=1.0)
    assert gaps[1].beats_hz == pytest.approx(abs(3 * found[1].f0_hz - 2 * found[2].f0_hz))
    advice = next_peg(found)
    assert advice is not None
    assert str(advice.string) == "D4"
    assert advice.cents > 5
    assert find_strings((), (), targets) == ()
    assert next_peg(()) is None


def test_two_statements_are_compared_by_what_was_planted() -> None:
    words = "D4 E4 F#4 A4 G4"
    jig = note_list(f"{words} {words}", instrument_id="violin", tempo_bpm=80)
    events = list(jig.events)
    events[0] = replace(events[0], dynamic="f")
    events[5] = replace(events[5], dynamic="pp")
    jig = replace(jig, events=tuple(events))
    found = statements(jig)
    assert found == (tuple(range(5)), tuple(range(5, 10)))
    _, notes, _ = heard_and_measured(jig)
    contrast = measure_contrast(notes, *found)
    assert isinstance(contrast, Contrast)
    assert contrast.level_db == pytest.approx(18.0, abs=1.5)  # upper partials grow with it
    assert contrast.loudness_db > 15.0
    assert contrast.brightness_octaves > 0.0
    assert statements(note_list("D4 E4 F4 G4 A4 B4", instrument_id="violin")) is None


def test_pairs_mirror_and_strings_show_what_was_planted() -> None:
    jig = make_scale(
        jig_id="p", instrument_id="violin", key=Key(PitchClass("G")), octaves=2, slur=2
    )
    _, notes, playing = heard_and_measured(jig, "weak notes=1,3,5 db=5; weak string=0 db=6")
    pairs = measure_pairs(notes, jig)
    planted = {(0, 1), (2, 3), (4, 5)}
    for pair in pairs:
        events = tuple(notes[r].lined.i_event for r in pair.rows)
        if events in planted:
            assert pair.second_db == pytest.approx(-5.0, abs=3.0)
    strings = measure_strings(notes, jig)
    weakest = min(strings, key=lambda s: s.loudness_db)
    assert weakest.string == 0
    assert weakest.loudness_db < -2.0
    stroke = longest_stroke(playing.strokes)
    assert stroke is not None
    assert stroke.end_s - stroke.start_s == pytest.approx(2.0, abs=0.5)


def test_a_leaking_drone_goes_and_the_playing_stays() -> None:
    jig = make_scale(jig_id="d", instrument_id="cello", key=Key(PitchClass("D")), tempo_bpm=70)
    clean = play(jig, seed=3, faults=parse_faults("noise snr_db=60"))
    leaking = play(jig, seed=3, faults=parse_faults("noise snr_db=60; drone f_hz=146.83 db=-12"))
    rate = clean.sound.rate_hz
    partials = [146.83 * k for k in range(1, 13)]
    x, y = clean.sound.samples, leaking.sound.samples
    left = remove_drone(y, rate, partials)
    quiet = slice(0, round(0.35 * rate))  # before the first note only the drone sounds
    before, after = np.std(y[quiet]), np.std(left[quiet])
    assert after < 0.12 * before
    playing = slice(round(0.6 * rate), len(x) - rate)
    harm_db = 20 * np.log10(np.std((left - x)[playing]) / np.std(x[playing]))
    assert harm_db < -20.0


def test_drone_removal_leaves_short_and_empty_sounds_alone() -> None:
    assert not len(remove_drone(np.zeros(0), 48_000, [220.0]))
    x = np.ones(100, dtype=np.float32)
    assert np.array_equal(remove_drone(x, 48_000, [220.0]), x)


def test_string_names_follow_the_instrument() -> None:
    jig = note_list("C2 G2 D3 A3", instrument_id="cello", tempo_bpm=40)
    heard, _, _ = heard_and_measured(jig)
    found = find_strings(heard.segments, (), pure_strings(instrument("cello").strings, 440.0))
    assert [f.string for f in found] == [Pitch.parse(s) for s in ("C2", "G2", "D3", "A3")]


def test_lower_upper_both_is_one_double_stop_with_its_voices_judged_alone() -> None:
    jig = note_list("G3+B4 A3+C5", instrument_id="violin")
    played = note_list("G3 B4 G3+B4 A3 C5 A3+C5", instrument_id="violin")
    p = play(played, seed=1, faults=parse_faults("detune notes=4 cents=-22"))
    heard = hear(
        choose_signal(p.sound.samples, p.sound.rate_hz), instrument("violin"), lowest_open_hz=196.0
    )
    lined, notes = follow_and_measure(heard, jig, a4_hz=440.0, instrument_id="violin")
    assert [(n.i_event, n.part, n.state) for n in lined.notes] == [
        (0, "lower", "retry"), (0, "upper", "retry"), (0, None, "played"),
        (1, "lower", "retry"), (1, "upper", "retry"), (1, None, "played"),
    ]  # fmt: skip
    low_upper = notes[4]
    assert low_upper.lined.pitch == Pitch.parse("C5")
    assert low_upper.segment is not None
    off = 1200 * np.log2(low_upper.segment.f0_hz / (440 * 2 ** (3 / 12)))
    assert off == pytest.approx(-22, abs=1.5)
