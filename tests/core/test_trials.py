"""Long bows, lanes and echoes, whistles: laws on made-up frames and sounds."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jigwright.core.jig.draft import Draft
from jigwright.core.jig.line import jig_from_line
from jigwright.core.judge.analysis import follow_and_measure, judge_take
from jigwright.core.judge.compare import compare_takes
from jigwright.core.judge.judging import Context
from jigwright.core.judge.long_bow import FALSE_START_S, LongBow
from jigwright.core.judge.touch_trial import TouchClock, longest_hold, touch_notes
from jigwright.core.judge.trials import echoes
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.references import EQUAL, pure_strings
from jigwright.core.player.synthesis import Rendered
from jigwright.core.sound.heard import HOP_S, Contours, Now
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.sound.touch import TouchRing, measure_touch
from jigwright.core.sound.whistles import find_whistles, without_whistles
from jigwright.core.values import Unmeasured
from jigwright.wording.guided import bow_clock, echo_lines, touch_lines, touch_word
from signals import perform

RATE = 24_000


def frames(*parts: tuple[float, float, float]) -> list[Now]:
    """Stretches of (seconds, level, clarity); a level under -60 is silence."""
    out: list[Now] = []
    for seconds, level, clarity in parts:
        for _ in range(round(seconds / HOP_S)):
            sounding = level > -60
            out.append(
                Now(
                    time_s=len(out) * HOP_S,
                    f0_hz=440.0 if sounding and clarity > 0.7 else float("nan"),
                    level_db=level, clarity=clarity, sounding=sounding,
                )
            )  # fmt: skip
    return out


def played(*parts: tuple[float, float, float]) -> LongBow:
    bow = LongBow()
    for frame in frames(*parts):
        bow.hear(frame)
    return bow


SILENCE = (0.5, -80.0, 0.0)


@given(st.floats(FALSE_START_S + 0.1, 20.0), st.floats(-40.0, -10.0))
@settings(max_examples=20, deadline=None)
def test_the_clock_runs_from_the_first_sound_to_the_last(seconds: float, level: float) -> None:
    bow = played(SILENCE, (seconds, level, 0.99), SILENCE)
    assert len(bow.strokes) == 1
    assert bow.strokes[0].seconds == pytest.approx(seconds, abs=0.03)
    assert bow.strokes[0].wavers_s == ()
    assert bow.strokes[0].clear_s == pytest.approx(bow.strokes[0].seconds)
    assert not bow.running


def test_false_starts_are_not_counted_and_a_short_gap_ends_nothing() -> None:
    bow = played(SILENCE, (0.8, -20, 0.99), SILENCE, (3.0, -20, 0.99), (0.1, -80, 0),
                 (3.0, -20, 0.99), SILENCE)  # fmt: skip
    assert [round(s.seconds, 1) for s in bow.strokes] == [6.1]


BREATH = (0.6, -50.0, 0.3)  # above the floor, and no tone


@pytest.mark.parametrize("before", [SILENCE, BREATH, (0.1, -30.0, 0.99)])
def test_a_breath_and_a_touch_are_no_part_of_the_stroke(before: tuple[float, float, float]) -> None:
    bow = played(SILENCE, before, BREATH, (5.0, -20.0, 0.99), BREATH, SILENCE)
    assert [round(s.seconds, 1) for s in bow.strokes] == [5.0]
    assert bow.strokes[0].wavers_s == ()
    bow = played(SILENCE, before, BREATH, (5.0, -20.0, 0.99))
    assert bow.running
    assert bow.seconds == pytest.approx(5.0, abs=0.02)


@pytest.mark.parametrize(("level_db", "seconds"), [(-44.0, 5.5), (-46.0, 2.0)])
def test_noise_is_the_bow_while_it_is_nearly_as_loud(level_db: float, seconds: float) -> None:
    """A bow that only scratches still lies on the string; a room after the tone does not."""
    noisy = (0.5, level_db, 0.4)
    bow = played(SILENCE, (2.05, -20.0, 0.99), noisy, (2.95, -20.0, 0.99), SILENCE)
    assert bow.strokes[0].seconds == pytest.approx(seconds, abs=0.06)


@pytest.mark.parametrize(("seconds", "word"), [(4.9, "4 s"), (5.1, "5 s")])
def test_a_running_clock_shows_the_seconds_that_are_over(seconds: float, word: str) -> None:
    assert bow_clock(played(SILENCE, (seconds, -20.0, 0.99)))[0] == word


def test_the_tone_must_last_to_begin_a_stroke() -> None:
    bow = played(SILENCE, (0.11, -20.0, 0.99), BREATH)
    assert not bow.running
    assert played(SILENCE, (0.14, -20.0, 0.99)).running


@pytest.mark.parametrize("fault", [(0.06, -20.0, 0.5), (0.06, -32.0, 0.99)])
def test_a_waver_does_not_stop_the_clock_and_is_told_where(fault) -> None:
    bow = played(SILENCE, (4.0, -20, 0.99), fault, (6.0, -20, 0.99), SILENCE)
    stroke = bow.strokes[0]
    assert stroke.seconds == pytest.approx(10.06, abs=0.05)
    assert len(stroke.wavers_s) == 1
    assert stroke.wavers_s[0] == pytest.approx(4.0, abs=0.1)
    assert stroke.clear_s == pytest.approx(6.0, abs=0.15)
    word, line = bow_clock(bow)
    assert word == "10.1 s"
    assert "4.0 s" in line
    assert bow.best is stroke


def judged(text: str, faults: str, seed: int = 1):
    jig = jig_from_line(text, jig_id="j", instrument_id="violin", title="t", tempo_bpm=80)
    sound = perform(jig, faults, seed=seed).sound
    inst = instrument("violin")
    open_hz = tuple(pure_strings(inst.strings, 440.0).values())
    heard = hear(
        choose_signal(sound.samples, sound.rate_hz), inst, lowest_open_hz=196.0, open_hz=open_hz
    )
    _, measured = follow_and_measure(heard, jig, a4_hz=440.0, instrument_id="violin")
    context = Context(
        instrument_id="violin", strings=instrument("violin").strings, a4_hz=440.0,
        reference=EQUAL, tolerance_cents=10.0,
    )  # fmt: skip
    return judge_take(measured, jig, context).notes


def test_an_echo_needs_a_string_that_rings_and_is_heard_under_the_next_note() -> None:
    ringing = "sympathy coupling_db=-24; lift share=0.5; room rt60_s=0.2 wet_db=-22"
    rang = echoes(judged("D5:1 r:2 D5:1 r:2 A5:1 r:2 A5:1 r:2", ringing))
    assert [str(e.pitch) for e in rang] == ["D5", "A5"]
    assert all(e.n_rang for e in rang)
    joined = echoes(judged("D5:2 E5:2 A5:2 G5:2", "sympathy coupling_db=-20; noise snr_db=45"))
    assert any(e.n_rang for e in joined)
    dead = echoes(judged("D5:1 r:2 D5:1 r:2 A5:1 r:2 A5:1 r:2", ringing.split(";", 1)[1]))
    assert all(e.n_rang == 0 for e in dead)
    covered = echoes(judged("D5:2 D5:2", "noise snr_db=45")[:1])
    assert "cannot tell" in echo_lines(covered)[0]


def test_comparing_the_other_way_round_turns_every_sign() -> None:
    one = judged("D4 E4 F#4 G4 A4", "detune spread_cents=6")
    two = judged("D4 E4 F#4 G4 A4", "detune spread_cents=6; gain db=-5", seed=2)
    ahead, a = compare_takes(one, two, levels=True)
    back, b = compare_takes(two, one, levels=True)
    assert (a.n, a.n_nearer, a.n_farther) == (b.n, b.n_farther, b.n_nearer)
    for p, q in zip(ahead, back, strict=True):
        assert p.louder_db == pytest.approx(-q.louder_db)
        assert p.brighter == pytest.approx(1 / q.brighter)
        assert (p.one_cents, p.two_cents) == (q.two_cents, q.one_cents)


def still(n: int, f0: float, centroid: np.ndarray) -> Contours:
    return Contours(
        f0_hz=np.full(n, f0), level_db=np.full(n, -20.0), clarity=np.full(n, 0.99),
        centroid_hz=centroid, loudness_db=np.zeros(n),
    )  # fmt: skip


@given(st.floats(200.0, 3500.0), st.integers(0, 1000), st.floats(0.0, 2.0))
@settings(max_examples=30, deadline=None)
def test_partials_of_a_note_are_never_a_whistle(f0: float, seed: int, slope: float) -> None:
    rng = np.random.default_rng(seed)
    t = np.arange(RATE // 2) / RATE
    orders = np.arange(1, max(2, int(0.45 * RATE / f0)))
    gains = orders**-slope * rng.uniform(0.2, 1.0, len(orders))
    x = sum(g * np.sin(2 * np.pi * k * f0 * t) for k, g in zip(orders, gains, strict=True))
    centroid = float(np.sum(orders * f0 * gains**2) / np.sum(gains**2))
    n = int(0.5 / HOP_S)
    assert find_whistles(x, RATE, still(n, f0, np.full(n, centroid)), -60.0, 4200.0) == ()


@given(st.floats(200.0, 900.0), st.floats(4300.0, 5400.0))
@settings(max_examples=20, deadline=None)
def test_a_line_that_drowns_the_tone_is_a_whistle_and_its_note_stays_whole(
    f0: float, whistle_hz: float
) -> None:
    t = np.arange(RATE) / RATE
    inside = (t > 0.4) & (t < 0.7)
    tone = sum(np.sin(2 * np.pi * k * f0 * t) / k for k in range(1, 6))
    x = np.where(inside, 0.1, 1.0) * tone + inside * np.sin(2 * np.pi * whistle_hz * t)
    n = int(1.0 / HOP_S)
    at = np.arange(n) * HOP_S
    centroid = np.where((at > 0.4) & (at < 0.7), whistle_hz, 2 * f0)
    found = find_whistles(x, RATE, still(n, f0, centroid), -60.0, 4200.0)
    assert len(found) == 1
    assert found[0].f_hz == pytest.approx(whistle_hz, rel=0.003)
    assert (found[0].start_s, found[0].end_s) == pytest.approx((0.4, 0.7), abs=0.04)
    assert without_whistles((), found) == ()


def held(kind: str, string: int, faults: str) -> tuple[Rendered, float, float]:
    """Sound of the note an octave below a string, held; the string's and the note's frequency."""
    strings = instrument(kind).strings
    note = next(n.note for n in touch_notes(strings) if n.string == string)
    draft = Draft("t")
    draft.note(note, 13)
    jig = draft.finish(title="t", instrument_id=kind, key=Key(note.pitch_class), tempo_bpm=60.0)
    others = ",".join(str(i) for i in range(len(strings)) if i != string)
    sound = perform(jig, faults.replace("OTHERS", others), seed=4).sound
    open_hz = list(pure_strings(strings, 440.0).values())[string]
    return sound, open_hz, 440.0 * 2 ** ((note.midi - 69) / 12)


def touched(kind: str, string: int, faults: str) -> tuple[TouchRing | Unmeasured, float]:
    """What the touch test says, and the true ring re the note."""
    sound, open_hz, f0_hz = held(kind, string, faults)
    at = np.arange(len(sound.samples)) / 48_000
    first = float(at[np.flatnonzero(sound.level > 0.05)[0]])
    found = measure_touch(
        sound.samples.astype(float), 48_000, f0_hz=f0_hz, onset_s=first, offset_s=first + 12.9,
        open_hz=open_hz,
    )  # fmt: skip
    free = (at > first + 6.0) & (at < first + 7.4)
    ring = np.mean(sound.ring.sum(axis=0)[free] ** 2) if sound.ring is not None else 0.0
    return found, float(10 * np.log10(ring / np.mean(sound.samples[free] ** 2) + 1e-12))


_HAND = "touch string={s} from_s=2.6 to_s=5.1; touch string={s} from_s=7.6 to_s=10.1"


@pytest.mark.parametrize(
    ("kind", "string"), [("violin", 2), ("viola", 3), ("cello", 2), ("bass", 3)]
)
def test_a_touched_string_gives_its_ring_away(kind: str, string: int) -> None:
    base = "noise snr_db=35; shape kind=swell db=5; room rt60_s=0.2 wet_db=-24; "
    hand = _HAND.format(s=string)
    found, true_db = touched(kind, string, f"{base}sympathy coupling_db=-22 muted=OTHERS; {hand}")
    assert isinstance(found, TouchRing)
    assert found.rang
    assert found.ring_db == pytest.approx(true_db, abs=3.0)
    silent, _ = touched(kind, string, base + hand)
    assert isinstance(silent, TouchRing)
    assert not silent.rang
    untouched, _ = touched(kind, string, f"{base}sympathy coupling_db=-22 muted=OTHERS")
    assert isinstance(untouched, TouchRing)
    assert not untouched.rang


def test_the_touch_test_refuses_what_it_cannot_tell() -> None:
    x = np.zeros(48_000 * 14)
    common = {"rate_hz": 48_000, "onset_s": 0.5, "offset_s": 13.4}
    short = measure_touch(x, f0_hz=220.0, open_hz=440.0, **common | {"offset_s": 6.0})
    assert short == Unmeasured("too_short")
    assert measure_touch(x, f0_hz=220.0, open_hz=233.0, **common) == Unmeasured("nothing_shared")
    waver, _ = touched("violin", 2, "vibrato extent_cents=60 irregularity=0.3")
    assert waver == Unmeasured("restless") or not waver.rang
    sound, _, f0_hz = held("violin", 2, "noise snr_db=40")
    same = measure_touch(
        sound.samples.astype(float), f0_hz=f0_hz, open_hz=f0_hz, **common
    )  # every partial is the string's
    assert same == Unmeasured("all_shared")


@pytest.mark.parametrize("rings", [True, False])
def test_a_bow_that_turns_at_the_words_is_not_taken_for_the_string(rings: bool) -> None:
    faults = "noise snr_db=40" + ("; sympathy coupling_db=-22 muted=OTHERS; " if rings else "; ")
    sound, open_hz, f0_hz = held("violin", 2, faults + _HAND.format(s=2))
    x = sound.samples.astype(float)
    first = float(np.flatnonzero(sound.level > 0.05)[0] / 48_000)
    for a, b in ((2.5, 5.0), (7.5, 10.0)):  # the other way of the bow turns the wave over
        x[round((first + a) * 48_000) : round((first + b) * 48_000)] *= -1.0
    found = measure_touch(
        x, 48_000, f0_hz=f0_hz, onset_s=first, offset_s=first + 12.9, open_hz=open_hz
    )
    assert isinstance(found, TouchRing)
    assert found.rang == rings


def test_bows_without_a_gap_are_one_hold() -> None:
    jig = jig_from_line("A3:2 A3:2 r:2 A3:2", jig_id="t", instrument_id="violin", title="t")
    sound = choose_signal(perform(jig, "noise snr_db=40").sound.samples, 48_000)
    heard = hear(sound, instrument("violin"), lowest_open_hz=196.0).segments
    assert len(heard) == 3
    assert longest_hold(heard) == list(heard[:2])
    assert longest_hold([]) == []


@pytest.mark.parametrize("rings", [True, False])
def test_a_hold_may_take_several_bows(rings: bool) -> None:
    jig = jig_from_line("A3:4 A3:4 A3:5", jig_id="t", instrument_id="violin", title="t")
    faults = "noise snr_db=40; " + ("sympathy coupling_db=-24; " if rings else "")
    x = perform(jig, faults + _HAND.format(s=2)).sound.samples.astype(float)
    heard = hear(choose_signal(x, 48_000), instrument("violin"), lowest_open_hz=196.0).segments
    bows = longest_hold(heard)
    assert len(bows) == 3
    found = measure_touch(
        x, 48_000, f0_hz=bows[0].f0_hz, onset_s=bows[0].onset_s, offset_s=bows[-1].offset_s,
        open_hz=440.0,
    )  # fmt: skip
    assert isinstance(found, TouchRing)
    assert found.rang == rings


def test_touch_notes_lie_an_octave_below_and_can_be_stopped() -> None:
    for kind in ("violin", "viola", "cello", "bass"):
        strings = instrument(kind).strings
        notes = touch_notes(strings)
        assert notes
        for n in notes:
            assert n.note.midi == strings[n.string].midi - 12
            assert n.note.midi > strings[0].midi


def test_the_words_of_the_touch_test_follow_the_note() -> None:
    clock = TouchClock()
    words = []
    for frame in frames(SILENCE, (0.4, -20.0, 0.9), SILENCE, (13.2, -20.0, 0.99), SILENCE):
        clock.hear(frame)
        word = touch_word(clock, "A string", "A3" if clock.n_held == 0 else None)[0]
        if not words or words[-1] != word:
            words.append(word)
    assert words == [
        "Hold A3", "Touch the A string", "Let it go", "Touch it again", "Let it go", "Enough",
    ]  # fmt: skip
    assert clock.n_held == 1
    lines = touch_lines(
        [
            ("A", "A3", TouchRing(rang=True, ring_db=-27.6, limit_db=-40.0, repeats_db=())),
            ("E", "E4", TouchRing(rang=False, ring_db=np.nan, limit_db=-41.0, repeats_db=())),
            ("G", "G3", Unmeasured("restless")),
        ]
    )
    assert "28 dB" in lines[0]
    assert "41 dB" in lines[1]
    assert "cannot tell" in lines[2]
