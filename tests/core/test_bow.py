"""Strokes, changes, events, starts, time and ring against the simulated player's truth."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.gauge.timing import dotted_ratio, measure_timing
from jigwright.core.gauge.values import Ring, Start, Stroke, Timing, Tone
from jigwright.core.jig.model import Jig, note_list
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.judge.measured import MeasuredNote
from jigwright.core.judge.playing import Playing, measure_playing
from jigwright.core.judge.ribbons import N_POINTS, Ribbon
from jigwright.core.judge.strokes import best_long, lay_over, own_course, same_part
from jigwright.core.music.instruments import INSTRUMENTS, instrument
from jigwright.core.music.references import pure_strings
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play, truth_json
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.values import Unmeasured
from signals import scale


def playing(
    jig: Jig, faults: str, seed: int = 1
) -> tuple[Playing, tuple[MeasuredNote, ...], dict[str, Any]]:
    performance = play(jig, seed=seed, faults=parse_faults(faults))
    strings = pure_strings(instrument(jig.instrument_id).strings, 440.0)
    heard = hear(
        choose_signal(performance.sound.samples, performance.sound.rate_hz),
        instrument(jig.instrument_id), lowest_open_hz=min(strings.values()),
        open_hz=tuple(strings.values()),
    )  # fmt: skip
    _, notes = follow_and_measure(heard, jig, a4_hz=440.0, instrument_id=jig.instrument_id)
    truth = json.loads(truth_json(performance, file="x"))
    return measure_playing(heard, notes, jig, strings), notes, truth


@pytest.mark.parametrize("kind", sorted(INSTRUMENTS))
def test_changes_are_found_where_they_are(kind: str) -> None:
    heard, _, truth = playing(scale(kind, slur=2, tempo=100), "noise snr_db=40")
    wanted = [c["time_s"] for c in truth["bow_changes"]]
    found = [c.time_s for c in heard.changes]
    near = [min(abs(t - f) for f in found) for t in wanted]
    assert np.mean(np.array(near) < 0.02 + (0.01 if kind == "bass" else 0.0)) >= 0.85
    assert len(found) == len(wanted)
    assert [(c.from_direction, c.to_direction) for c in heard.changes[:2]] == [
        ("down", "up"), ("up", "down"),
    ]  # fmt: skip
    assert len(heard.strokes) == len(wanted) + 1


def test_a_deeper_change_measures_deeper() -> None:
    depths = []
    for dip in (8, 16, 30):
        heard, _, _ = playing(scale("violin"), f"bow_change dip_db={dip}; room wet_db=-30")
        depths.append(np.median([c.dip_db for c in heard.changes]))
    assert depths[0] == pytest.approx(8, abs=2.5)
    assert depths[0] < depths[1] < depths[2]


@pytest.mark.parametrize("kind", ["violin", "cello"])
@pytest.mark.parametrize(
    ("fault", "event"),
    [
        ("tremor notes=3 rate_hz=6.5 depth_db=5", "shake"),
        ("scratch notes=3 db=-4 seconds=0.15", "scratch"),
        ("scratch notes=3 db=-10 seconds=0.15", "scratch"),
        ("bounce notes=3 depth_db=14 width_ms=40", "bounce"),
        ("whistle notes=3 db=-6 seconds=0.15", "whistle"),
    ],
)
def test_planted_faults_are_found_in_their_note_only(kind: str, fault: str, event: str) -> None:
    heard, _, _ = playing(scale(kind, tempo=50), fault)
    assert [(e.kind, e.row) for e in heard.events] == [(event, 3)]


@pytest.mark.parametrize("kind", sorted(INSTRUMENTS))
def test_clean_and_vibrating_takes_have_no_events(kind: str) -> None:
    for faults in ("noise snr_db=30; detune spread_cents=6", "vibrato extent_cents=40"):
        heard, _, _ = playing(scale(kind, tempo=70, slur=2), faults)
        assert heard.events == ()


def test_hurry_swells_at_the_end_of_its_stroke_only() -> None:
    heard, _, _ = playing(scale("violin", tempo=40), "hurry notes=4 db=6")
    hurry = np.array([s.end_hurry_db for s in heard.strokes])
    assert hurry[4] > 3.0
    assert np.max(np.delete(hurry, 4)) < 1.0


def test_starts_and_tone() -> None:
    _, notes, _ = playing(scale("violin", tempo=60), "")
    for n in notes:
        assert isinstance(n.start, Start)
        assert n.start.attack_s < 0.1
        assert n.start.accent_db < 1.5
        assert isinstance(n.tone, Tone)
        assert n.tone.hnr_db > 15
    noisy = playing(scale("violin", tempo=60), "noise snr_db=12")[1]
    assert np.median([n.tone.hnr_db for n in noisy if isinstance(n.tone, Tone)]) < 16


def test_colour_does_not_follow_gain() -> None:
    tones = []
    for gain in (-10, 0):
        _, notes, _ = playing(scale("viola", tempo=90), f"gain db={gain}; noise snr_db=60")
        tones.append(np.median([n.tone.brightness_hz for n in notes if isinstance(n.tone, Tone)]))
    assert tones[0] == pytest.approx(tones[1], rel=0.01)


def test_time_of_an_even_and_an_uneven_scale() -> None:
    even, notes, _ = playing(scale("violin", tempo=120), "")
    uneven, _, _ = playing(scale("violin", tempo=120), "unsteady spread_ms=30")
    assert isinstance(even.timing, Timing)
    assert isinstance(uneven.timing, Timing)
    assert even.timing.tempo_bpm == pytest.approx(120, rel=0.01)
    assert even.timing.evenness_time < 3.0
    assert uneven.timing.evenness_time > 2 * even.timing.evenness_time
    ratios = [r for r in even.sounding_ratio if r is not None]
    assert len(ratios) == len(notes)
    assert np.median(ratios) > 0.9


def test_a_stop_is_no_unevenness() -> None:
    beats = np.arange(12.0)
    onsets = 0.5 * beats + np.where(beats >= 6, 1.7, 0.0)
    timing = measure_timing(range(12), onsets, beats, np.zeros(12))
    assert isinstance(timing, Timing)
    assert timing.tempo_bpm == pytest.approx(120)
    assert np.max(np.abs(timing.onset_error_ms)) < 1e-6
    assert measure_timing(range(2), onsets[:2], beats[:2], np.zeros(2)) == Unmeasured("too_few")


def test_dotted_ratio_has_a_range() -> None:
    ratio, half = dotted_ratio(0.45, 0.15, 0.01)
    assert ratio == pytest.approx(3.0)
    assert half == pytest.approx(0.3, abs=0.05)


def test_ring_is_heard_where_strings_share_partials_and_only_when_they_ring() -> None:
    jig = note_list("D5 A5 C#5 G4 F4", instrument_id="violin", tempo_bpm=40)
    base = "lift share=0.35; noise snr_db=50; room rt60_s=0.25 wet_db=-16"
    _, rung, _ = playing(jig, f"{base}; sympathy coupling_db=-24")
    _, dead, _ = playing(jig, base)
    named = [r.ring.rang if isinstance(r.ring, Ring) else None for r in rung[:4]]
    assert 1 in (named[0] or ())
    assert 2 in (named[1] or ())
    assert named[2] == ()
    assert 0 in (named[3] or ())
    for note in dead:
        assert not (isinstance(note.ring, Ring) and note.ring.rang)
    joined = "noise snr_db=45; sympathy coupling_db=-18"
    legato = playing(scale("violin", tempo=60), joined)[1]
    told = [n.ring for n in legato]
    assert sum(isinstance(r, Ring) and bool(r.rang) for r in told) >= 3


def _ribbon(direction: str, level: np.ndarray) -> Ribbon:
    return Ribbon(
        i_stroke=0, direction=direction, level_db=level, rough=np.zeros(N_POINTS), breaks=(),
        seconds=3.0,
    )  # fmt: skip


@given(st.floats(-40, 20), st.integers(4, 12))
def test_strokes_lie_over_each_other_whatever_the_microphone_gain(gain: float, n: int) -> None:
    course = np.linspace(-3.0, 3.0, N_POINTS)
    ribbons = [_ribbon("down", course + gain * k) for k in range(n)]
    ribbons += [_ribbon("up", -course)] * 3
    (band,) = lay_over(ribbons)
    assert (band.direction, band.n_strokes) == ("down", n)
    assert np.allclose(band.high, band.low, atol=1e-9)
    assert np.allclose(band.middle, course, atol=1e-9)
    assert np.allclose(own_course(ribbons, "up"), -course)
    assert own_course(ribbons, "unknown") is None


def _long(start_s: float, end_s: float, steadiness_db: float, direction: str = "down") -> Stroke:
    return Stroke(
        start_s=start_s, end_s=end_s, direction=direction, rows=(0,), steadiness_db=steadiness_db,
        end_hurry_db=0.0, slope_db_per_s=0.0, mean_dbfs=-20.0,
    )  # fmt: skip


def test_the_best_long_bow_is_the_steadiest_that_is_long() -> None:
    strokes = [_long(0, 1, 0.1), _long(2, 6, 0.9), _long(7, 12, 0.5, "up"), _long(13, 17, 0.8)]
    assert best_long(strokes) == 2
    assert best_long(strokes, "down") == 3
    assert best_long(strokes[:1]) is None
    assert best_long([]) is None


@given(st.floats(0, 1), st.floats(0, 0.3))
def test_the_same_part_of_another_stroke_lies_inside_it(at: float, length: float) -> None:
    stroke, best = _long(10, 12, 1.0), _long(100, 108, 0.3)
    fault = (10 + 2 * at * (1 - length), 10 + 2 * at * (1 - length) + 2 * length)
    first, last = same_part(fault, stroke, best)
    assert 100 <= first < last <= 108
    middle = (sum(fault) / 2 - 10) / 2
    assert first - 1.0 <= 100 + 8 * middle <= last + 1.0
