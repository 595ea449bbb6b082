"""Hearing live: the offline notes, whatever the blocks, with a stated delay and bounded memory."""

import numpy as np
import pytest

from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.scales import make_scale
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.sound.live import LiveEar
from jigwright.core.sound.live_pair import LivePair
from jigwright.wording.verdicts import pair_figures


@pytest.fixture(scope="module")
def take():
    jig = make_scale(jig_id="l", instrument_id="violin", key=Key(PitchClass("D")), slur=2)
    p = play(jig, seed=5, faults=parse_faults("detune spread_cents=8; pause notes=4"))
    return choose_signal(p.sound.samples, p.sound.rate_hz)


def listen(take, sizes, rng=None):
    ear = LiveEar(instrument("violin"), take.rate_hz, 196.0)
    notes, frames, i, most = [], [], 0, 0
    while i < len(take.samples):
        step = int(sizes if rng is None else rng.integers(1, sizes))
        heeded = ear.push(take.samples[i : i + step])
        notes += heeded.notes
        frames += heeded.frames
        most = max(most, ear.n_kept_frames)
        i += step
    last = ear.finish()
    return notes + list(last.notes), frames + list(last.frames), most, ear


def test_live_notes_are_the_offline_notes(take) -> None:
    offline = hear(take, instrument("violin"), lowest_open_hz=196.0).segments
    live, _, _, _ = listen(take, 480)
    assert len(live) == len(offline)
    for a, b in zip(live, offline, strict=True):
        assert a.onset_s == pytest.approx(b.onset_s, abs=0.02)
        assert abs(1200 * np.log2(a.f0_hz / b.f0_hz)) < 3.0


def test_the_split_of_the_input_does_not_matter(take) -> None:
    _, even, _, _ = listen(take, 480)
    _, uneven, _, _ = listen(take, 3000, np.random.default_rng(1))
    assert [f.time_s for f in even] == [f.time_s for f in uneven]
    assert np.mean([a.sounding == b.sounding for a, b in zip(even, uneven, strict=True)]) > 0.99


def test_the_delay_is_stated_and_true() -> None:
    """A tone that begins at 1 s is shown no later than the delay says."""
    rate = 48_000
    t = np.arange(2 * rate) / rate
    rng = np.random.default_rng(0)
    x = np.where(t > 1.0, 0.3 * np.sign(np.sin(2 * np.pi * 440 * t)), 0.0)
    x = x + 1e-4 * rng.standard_normal(len(t))
    ear = LiveEar(instrument("violin"), rate, 196.0)
    shown_s = None
    for i in range(0, len(x), 480):
        for frame in ear.push(x[i : i + 480]).frames:
            right = abs(1200 * np.log2(frame.f0_hz / 440.0)) < 5.0
            if shown_s is None and np.isfinite(frame.f0_hz) and right:
                shown_s = (i + 480) / rate
    assert shown_s is not None
    assert shown_s - 1.0 <= ear.delay_s + 0.01 + 2 / 440 < 0.06


def test_memory_stays_bounded_in_a_long_note_and_in_silence() -> None:
    rate = 8000
    ear = LiveEar(instrument("violin"), rate, 196.0)
    t = np.arange(54 * rate) / rate
    for x in (np.zeros(54 * rate), 0.2 * np.sign(np.sin(2 * np.pi * 300 * t))):
        for i in range(0, len(x), 16_000):
            ear.push(x[i : i + 16_000])
            assert ear.n_kept_frames < 9000


def test_bad_samples_make_no_notes() -> None:
    ear = LiveEar(instrument("cello"), 48_000, 65.0)
    bad = np.full(48_000, np.nan)
    assert not ear.push(bad).notes
    assert not ear.finish().notes


def test_two_strings_are_told_while_they_sound() -> None:
    jig = jig_from_line(
        "D4+F#4:4 G3+E4:4", jig_id="j", instrument_id="violin", title="t", tempo_bpm=60
    )
    sound = play(jig, seed=1, faults=parse_faults("lower cents=-8 balance_db=6")).sound.samples
    ear = LivePair(instrument("violin"), 48_000, 196.0)
    seen = []
    for i in range(0, len(sound), 480):
        ear.push(sound[i : i + 480].astype(float))
        seen.append(ear.now)
    assert seen[0] is None
    first = seen[round(2.0 * 100)]
    assert first is not None
    assert abs(1200 * np.log2(first.lower_hz / (293.665 * 2 ** (-8 / 1200)))) < 1.5
    assert abs(1200 * np.log2(first.upper_hz / 369.994)) < 1.5
    second = seen[round(6.5 * 100)]
    assert second is not None
    assert second.balance_db == pytest.approx(6.0, abs=1.5)
    figures = pair_figures(second, 440.0, 0)
    assert figures.names == "G – E"
    assert "upper louder by" in figures.line
