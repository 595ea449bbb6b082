"""Somebody speaks: noticed where nothing is played, and nothing that is played is taken for it."""

from dataclasses import replace

import numpy as np
import pytest
from scipy import signal

from builders import segment
from jigwright.core.jig.line import jig_from_line
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import pure_strings
from jigwright.core.player.voice import speech
from jigwright.core.sound import listen as listening
from jigwright.core.sound import talk
from jigwright.core.sound.heard import Speech
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.sound.talk import find_talk, in_talk, talk_scores
from signals import perform, scale

RATE = 48_000
SECONDS = 12.0
FINE_TIMES = np.round(np.arange(0.0, SECONDS, 0.1), 3)
TIMES = np.round(np.arange(0.3, SECONDS - 0.3, 0.2), 3)


@pytest.fixture
def scored(monkeypatch):
    """Find talk in a sound of chosen scores: pairs of a time range and a score, else -9."""

    def find(*stretches, segments=(), seconds=SECONDS, spoken=()):
        scores = np.full(len(TIMES), -9.0)
        for (start_s, stop_s), score in stretches:
            scores[(start_s - 1e-6 <= TIMES) & (stop_s + 1e-6 >= TIMES)] = score

        def chosen(_figures, window_s, _step_s):
            return (TIMES, scores) if window_s > 1.0 else (FINE_TIMES, fine)

        fine = np.full(len(FINE_TIMES), -9.0)
        for start_s, stop_s in spoken:
            fine[(start_s - 1e-6 <= FINE_TIMES) & (stop_s + 1e-6 >= FINE_TIMES)] = 1.01
        monkeypatch.setattr(talk, "_scores", chosen)
        return find_talk(np.zeros(round(seconds * 1000)), 1000.0, segments)

    return find


def span(found):
    assert len(found) == 1
    return found[0].start_s, found[0].end_s


def test_talk_lasts_from_its_first_stretch_to_its_last(scored) -> None:
    assert span(scored(((3.1, 6.1), 3.0))) == pytest.approx((2.8, 6.4))
    assert scored() == ()


@pytest.mark.parametrize(("stop_s", "is_talk"), [(3.5, True), (3.3, False)])
def test_three_sure_stretches_in_a_row_are_needed(scored, stop_s, is_talk) -> None:
    assert bool(scored(((3.1, stop_s), 3.0))) is is_talk


@pytest.mark.parametrize(("score", "is_talk"), [(1.01, True), (0.99, False), (np.nan, False)])
def test_how_sure_talk_must_be(scored, score, is_talk) -> None:
    assert bool(scored(((3.1, 6.1), score))) is is_talk


@pytest.mark.parametrize(("score", "end_s"), [(0.01, 8.4), (-0.01, 6.4)])
def test_once_sure_it_goes_on_while_it_is_likelier_than_not(scored, score, end_s) -> None:
    assert span(scored(((3.1, 6.1), 3.0), ((6.3, 8.1), score)))[1] == pytest.approx(end_s)


@pytest.mark.parametrize(("next_s", "n"), [(7.1, 1), (7.5, 2)])
def test_a_breath_is_part_of_it(scored, next_s, n) -> None:
    assert len(scored(((3.1, 6.1), 3.0), ((next_s, 9.1), 3.0))) == n


def test_it_stays_inside_the_sound(scored) -> None:
    assert span(scored(((0.3, 11.5), 3.0), seconds=11.6)) == pytest.approx((0.0, 11.6))


@pytest.mark.parametrize(
    ("spoken", "start_s", "end_s"),
    [
        ([], 2.8, 6.4), ([(2.5, 2.8), (6.4, 6.8)], 2.5, 6.8), ([(2.5, 2.6)], 2.8, 6.4),
        ([(1.0, 3.0), (6.0, 8.0)], 2.1, 7.1),
    ],
)  # fmt: skip
def test_it_grows_to_its_edges_and_not_beyond(scored, spoken, start_s, end_s) -> None:
    found = span(scored(((3.1, 6.1), 3.0), spoken=spoken))
    assert found == pytest.approx((start_s, end_s), abs=0.11)


def syllable(at_s, seconds=0.15, **given):
    """A sound of a voice that has a pitch for a moment."""
    given = {"spread_cents": 15.0, "drift_cents_per_s": 400.0, **given}
    core = {"core_start_s": at_s + 0.03, "core_end_s": at_s + seconds - 0.03}
    return replace(segment(137.0 * 2 ** (at_s % 0.37), at_s, seconds=seconds), **{**core, **given})


def held(at_s, core_s, **given):
    given = {"core_start_s": at_s + 0.05, "core_end_s": at_s + 0.05 + core_s, **given}
    return replace(segment(220.0, at_s, seconds=core_s + 0.1), **given)


@pytest.mark.parametrize(
    ("given", "is_talk"),
    [
        ({"core_s": 0.23}, False), ({"core_s": 0.21}, True),
        ({"core_s": 0.23, "spread_cents": 11.9}, False),
        ({"core_s": 0.23, "spread_cents": 12.1}, True),
        ({"core_s": 0.23, "drift_cents_per_s": -99.0}, False),
        ({"core_s": 0.23, "drift_cents_per_s": -101.0}, True),
        ({"core_s": 0.51, "spread_cents": 40.0, "drift_cents_per_s": 300.0}, False),
        ({"core_s": 0.49, "spread_cents": 40.0}, True),
    ],
)  # fmt: skip
def test_where_notes_are_held_nobody_speaks(scored, given, is_talk) -> None:
    notes = [held(at, **given) for at in np.arange(2.0, 8.0, 1.0)]
    notes = [replace(n, f0_hz=n.f0_hz * 2 ** (0.041 * k)) for k, n in enumerate(notes)]
    assert bool(scored(((3.1, 6.1), 3.0), segments=notes)) is is_talk


@pytest.mark.parametrize(("seconds", "is_talk"), [(0.23, True), (0.25, False)])
def test_how_much_of_a_stretch_may_be_held(scored, seconds, is_talk) -> None:
    one = replace(segment(220.0, 4.3, seconds=seconds), core_start_s=4.3, core_end_s=4.3 + seconds)
    many = [replace(one, onset_s=one.onset_s + k, offset_s=one.offset_s + k) for k in (-1, 0, 1)]
    assert bool(scored(((4.1, 4.7), 3.0), segments=[many[1]])) is is_talk


@pytest.mark.parametrize(("share", "is_talk"), [(0.72, True), (0.78, False)])
def test_what_fills_the_time_is_played(scored, share, is_talk) -> None:
    rows = [syllable(at, 0.3 * share) for at in np.arange(1.0, 11.0, 0.3)]
    uneven = [replace(r, onset_s=r.onset_s + 0.12 * (k % 2)) for k, r in enumerate(rows)]
    uneven = [replace(r, offset_s=r.onset_s + 0.3 * share) for r in uneven]
    assert bool(scored(((3.1, 8.1), 3.0), segments=uneven)) is is_talk


@pytest.mark.parametrize(("n", "is_talk"), [(2, True), (3, False)])
def test_a_take_whose_notes_sound_spoken_is_believed_nowhere(scored, n, is_talk) -> None:
    notes = [held(9.0 + 0.7 * k, 0.5) for k in range(n)]
    found = scored(((3.1, 7.9), 3.0), ((9.1, 8.9 + 0.7 * n), 3.0), segments=notes)
    assert bool(found) is is_talk


@pytest.mark.parametrize(
    ("off", "n", "is_talk"), [(0.0, 4, False), (0.0, 3, True), (13.0, 4, True), (12.0, 4, False)]
)
def test_pitches_on_one_grid_are_played(scored, off, n, is_talk) -> None:
    midi = (57, 62, 60, 65)[:n]
    rows = [
        replace(syllable(3.4 + 0.43 * k * (1 + 0.4 * (k % 2))), f0_hz=440.0 * 2 ** (
            (m - 69 + 0.01 * off * (-1, 1, 2, -2)[k % 4] / 1.5) / 12.0))
        for k, m in enumerate(midi)
    ]  # fmt: skip
    assert bool(scored(((3.1, 5.9), 3.0), segments=rows)) is is_talk


@pytest.mark.parametrize(
    ("n", "jitter", "is_talk"), [(8, 0.0, False), (7, 0.0, True), (8, 0.45, True)]
)
def test_notes_as_even_as_no_syllables_are_played(scored, n, jitter, is_talk) -> None:
    rows = [syllable(3.1 + 0.3 * k + 0.3 * jitter * (k % 2), 0.1) for k in range(n)]
    assert bool(scored(((3.1, 5.1), 3.0), segments=rows)) is is_talk


def test_only_what_is_not_held_is_marked_and_only_inside() -> None:
    rows = (syllable(0.5), syllable(1.5), held(1.8, 0.4), syllable(2.95), syllable(2.9))
    marked = in_talk(rows, [Speech(start_s=1.0, end_s=3.0)])
    assert [s.in_talk for s in marked] == [False, True, False, False, True]
    assert [replace(s, in_talk=False) for s in marked] == list(rows)
    assert in_talk(rows, ()) == rows


def bowed(f_hz, seconds=4.0, vibrato=30.0):
    t_s = np.arange(round(seconds * RATE)) / RATE
    cents = 0.5 * vibrato * np.sin(2 * np.pi * 5.5 * t_s)
    phase = 2 * np.pi * np.cumsum(f_hz * 2 ** (cents / 1200)) / RATE
    tone = np.asarray(sum(np.sin(k * phase) / k for k in range(1, int(5000 / f_hz))))
    return 0.1 * tone + 1e-4 * np.random.default_rng(0).normal(size=len(t_s))


@pytest.mark.parametrize("f_hz", [41.0, 65.0, 196.0, 440.0, 1320.0])
def test_a_bowed_tone_is_far_from_speech_whatever_its_vibrato(f_hz) -> None:
    _, scores = talk_scores(bowed(f_hz), RATE)
    assert not (scores[2:-2] > -3.0).any()


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("rate_hz", [8_000, 44_100, 48_000])
def test_a_voice_scores_as_speech_at_any_rate(seed, rate_hz) -> None:
    x = 0.1 * speech(6 * rate_hz, rate_hz, np.random.default_rng(seed))
    _, scores = talk_scores(x, rate_hz)
    assert np.mean(scores > 1.0) > 0.85


def test_silence_has_no_score_and_a_short_sound_is_no_trouble() -> None:
    x = np.zeros(8 * RATE)
    x[4 * RATE :] = 0.1 * speech(4 * RATE, RATE, np.random.default_rng(1))
    times_s, scores = talk_scores(x, RATE)
    assert np.isnan(scores[times_s < 3.0]).all()
    assert np.isfinite(scores[(times_s > 5.0) & (times_s < 7.0)]).all()
    for n in (0, 1, 400, RATE // 2):
        assert len(talk_scores(np.zeros(n), RATE)[0]) == len(talk_scores(np.zeros(n), RATE)[1])
        assert find_talk(np.zeros(n), RATE, ()) == ()


def test_a_level_makes_no_difference() -> None:
    x = speech(5 * RATE, RATE, np.random.default_rng(2))
    loud, soft = talk_scores(0.3 * x, RATE)[1], talk_scores(0.003 * x, RATE)[1]
    assert soft == pytest.approx(loud, abs=0.3)


@pytest.mark.parametrize("kind", ["violin", "cello"])
@pytest.mark.parametrize("room", ["", "room rt60_s=0.6 wet_db=-2"])
def test_talk_between_two_scales_is_heard_and_no_note_is_marked(kind, room) -> None:
    take = perform(scale(kind), room)
    x = np.asarray(take.sound.samples, float)
    said = 0.5 * np.std(x) * speech(4 * RATE, RATE, np.random.default_rng(5))
    hush = np.zeros(RATE // 2)
    whole = np.concatenate([x, hush, said, hush, x])
    inst = instrument(kind)
    lowest = min(pure_strings(inst.strings, 440.0).values())
    heard = hear(choose_signal(whole, RATE), inst, lowest_open_hz=lowest)
    begins_s = len(x) / RATE + 0.5
    assert span(heard.talks) == pytest.approx((begins_s, begins_s + 4.0), abs=0.8)
    middles = {s: 0.5 * (s.onset_s + s.offset_s) for s in heard.segments}
    inside = {s for s, m in middles.items() if begins_s < m < begins_s + 4.0}
    assert {s for s in heard.segments if s.in_talk} <= inside
    assert all(s.in_talk for s in inside)
    assert len(heard.segments) - len(inside) == 2 * len(take.notes)


@pytest.mark.parametrize("line", ["A3:1/4 B3 C#4 D4 E4 D4 C#4 B3 A3 G3 A3 B3 C#4 A3", "A3:4 D4:4"])
def test_playing_alone_is_no_talk(line) -> None:
    jig = jig_from_line(line, jig_id="l", instrument_id="cello", title="l", tempo_bpm=80.0)
    take = perform(jig, "room rt60_s=0.8 wet_db=-2; vibrato; noise snr_db=30")
    inst = instrument("cello")
    lowest = min(pure_strings(inst.strings, 440.0).values())
    heard = hear(choose_signal(take.sound.samples, take.sound.rate_hz), inst, lowest_open_hz=lowest)
    assert heard.talks == ()
    assert not any(s.in_talk for s in heard.segments)


def figures(n=90, *, lines=1.5, moves=2.0, level=-20.0, voice=2.0):
    """What is measured of a sound: lines as clear, and bands as restless, as is said."""
    step = np.where(np.arange(n) // 3 % 2 == 0, 0.0, moves)[:, None]
    return talk._Figures(
        lines=np.broadcast_to(np.asarray(lines, float), (n,)).copy(),
        voice=np.full(n, voice),
        colour_db=np.repeat(step, 24, axis=1),
        level_db=np.broadcast_to(np.asarray(level, float), (n,)).copy(),
    )


@pytest.mark.parametrize(("lines", "moves"), [(1.1, 4.6), (5.5, 2.7), (2.0, 2.0)])
def test_a_score_is_what_the_regression_found(lines, moves) -> None:
    level = np.full(90, -20.0)
    level[::15] = -80.0  # what the room gives
    _, scores = talk._scores(figures(lines=lines, moves=moves, level=level), 1.2, 0.2)
    expected = -9.7 * np.log(lines + 0.2) + 7.5 * np.log(moves + 0.2) - 3.3
    assert scores == pytest.approx(np.full(4, expected), abs=0.02)


@pytest.mark.parametrize(("voice", "told"), [(1.16, True), (1.14, False)])
def test_what_has_no_voice_is_neither(voice, told) -> None:
    level = np.full(90, -20.0)
    level[::15] = -80.0
    _, scores = talk._scores(figures(voice=voice, level=level), 1.2, 0.2)
    assert np.isfinite(scores).all() == told


def bursts(seed, wide):
    """Rustling: bursts of noise, each of another colour and length."""
    rng = np.random.default_rng(seed)
    x, at = 1e-4 * rng.normal(size=8 * RATE), 0
    while at < len(x) - RATE // 2:
        n = int(RATE * rng.uniform(0.05, 0.25))
        low = rng.uniform(150.0, 3000.0)
        band = signal.butter(2, [low, wide * low], "band", fs=RATE, output="sos")
        burst = signal.sosfilt(band, rng.normal(size=n)) * np.hanning(n) ** 0.5
        x[at : at + n] += rng.uniform(0.3, 1.0) * burst / np.std(burst)
        at += n + int(RATE * rng.uniform(0.0, 0.1))
    return x


@pytest.mark.parametrize("seed", range(3))
@pytest.mark.parametrize("wide", [1.7, 4.0])
def test_rustling_and_clapping_are_nobody_who_speaks(seed, wide) -> None:
    assert find_talk(bursts(seed, wide), RATE, ()) == ()


def test_a_sound_is_looked_at_in_parts_and_they_make_no_difference(monkeypatch) -> None:
    x = 0.1 * speech(5 * RATE, RATE, np.random.default_rng(3))
    whole = talk_scores(x, RATE)[1]
    for frames in (7, 100):
        monkeypatch.setattr(talk, "_BLOCK_FRAMES", frames)
        assert talk_scores(x, RATE)[1] == pytest.approx(whole, rel=1e-9)


def test_double_stops_fill_the_time_as_notes_do(monkeypatch) -> None:
    jig = jig_from_line(
        "D3+A3:2 E3+C4 F3+D4 G3+D4", jig_id="l", instrument_id="cello", title="l", tempo_bpm=80.0
    )
    asked = {}

    def find(x, rate_hz, segments):
        asked["pairs"] = [s.i_pair for s in segments]
        return ()

    monkeypatch.setattr(listening, "find_talk", find)
    take = perform(jig)
    hear(
        choose_signal(take.sound.samples, take.sound.rate_hz), instrument("cello"),
        lowest_open_hz=65.4,
    )  # fmt: skip
    assert max(asked["pairs"]) >= 3


def test_stretches_lie_a_fifth_of_a_second_apart_and_reach_over_the_ends() -> None:
    times_s, _ = talk._scores(figures(90), 1.2, 0.2)
    assert times_s == pytest.approx([0.3, 0.5, 0.7, 0.9])  # of 1.2 s


def quiet_between(quiet_db, share=0.5):
    """Every other half second softer, with lines that no playing has; the softest are noise."""
    n = 90
    level = np.full(n, -20.0)
    lines = np.full(n, 1.5)
    soft = np.arange(n) % 10 < 10 * share
    level[soft], lines[soft] = quiet_db, 30.0
    level[::15] = -70.0
    return figures(n, lines=lines, level=level)


@pytest.mark.parametrize(
    ("quiet_db", "counts"), [(-49.0, True), (-51.0, False), (-65.0, False)]
)  # 30 dB under the loudest of the stretch, and 4 dB over the noise
def test_what_is_far_below_the_loudest_does_not_count(quiet_db, counts) -> None:
    _, scores = talk._scores(quiet_between(quiet_db), 1.2, 0.2)
    loud = -9.7 * np.log(1.7) + 7.5 * np.log(2.2) - 3.3
    assert bool(np.nanmean(scores) < loud - 5.0) is counts


@pytest.mark.parametrize(("above_db", "counts"), [(3.0, False), (5.0, True)])
def test_what_is_hardly_above_the_noise_does_not_count(above_db, counts) -> None:
    n = 90
    level, lines = np.full(n, -30.0 + above_db), np.full(n, 30.0)
    level[::12], level[6::9] = -30.0, -5.0
    lines[6::9] = 1.5
    figs = figures(n, lines=lines, level=level)
    _, scores = talk._scores(figs, 1.2, 0.2)
    assert bool(np.isfinite(scores).any()) is counts


@pytest.mark.parametrize(("share", "told"), [(0.32, True), (0.28, False)])
def test_a_third_of_a_stretch_must_sound(share, told) -> None:
    level = np.full(60, -90.0)
    level[: round(60 * share)] = -20.0
    _, scores = talk._scores(figures(60, level=level), 1.2, 0.2)
    assert bool(np.isfinite(scores).all()) is told


@pytest.mark.parametrize(("soft_db", "told"), [(-59.0, True), (-61.0, False)])
def test_what_is_far_softer_than_the_take_is_not_judged(soft_db, told) -> None:
    level = np.full(600, -20.0)
    level[300:] = soft_db
    level[::10] = -95.0
    _, scores = talk._scores(figures(600, level=level), 1.2, 0.2)
    assert bool(np.isfinite(scores[-1])) is told
