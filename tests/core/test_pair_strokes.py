"""A double stop that is bowed several times is as many strokes; what only waves is one."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import heard, segment
from jigwright.core.follow.doubts import decided
from jigwright.core.gauge.values import Double
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.sound.heard import HOP_S, Contours, Heard, Pair, Segment
from jigwright.core.sound.pair_strokes import are_of_one_stop, cut_in_strokes, doubtful_strokes
from signals import listen, perform

LENGTH_S = 3.0
N = round(LENGTH_S / HOP_S)
WINDOW_S = 0.17


def contours(*dips: tuple[float, float], width_s: float = 0.03) -> Contours:
    """A level that falls by so many dB at some moments, and nothing else."""
    t = HOP_S * np.arange(N)
    level = np.full(N, -20.0)
    for at_s, depth_db in dips:
        level = np.minimum(level, -20.0 - depth_db * np.exp(-(((t - at_s) / width_s) ** 2)))
    same = np.full(N, 294.0)
    return Contours(f0_hz=same, level_db=level, clarity=same, centroid_hz=same, loudness_db=level)


def stop(lower: float = 294.0, upper: float = 370.0, *, drift: float = 0.0) -> Pair:
    """A stop over the whole; the voices rise by ``drift`` cents a second."""
    times = np.arange(0.1, LENGTH_S - 0.1, 0.1)
    bend = 2 ** (drift * times / 1200)
    return Pair(
        onset_s=0.0, offset_s=LENGTH_S, lower_hz=lower, upper_hz=upper,
        lower_uncertainty_cents=0.5, upper_uncertainty_cents=0.6, balance_db=1.0,
        balance_uncertainty_db=1.0, level_dbfs=-20.0, times_s=times,
        lower_track_hz=lower * bend, upper_track_hz=upper * bend,
        balance_track_db=np.where(times < 1.5, 3.0, -3.0),
    )  # fmt: skip


def cut(
    dips: list[tuple[float, float]], *, begun: tuple[float, ...] = (), pair: Pair | None = None
):  # type: ignore[no-untyped-def]
    return cut_in_strokes(pair or stop(), contours(*dips), begun, window_s=WINDOW_S)


# cutting -------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("depth_db", "begun", "n"),
    [(9.5, (), 1), (10.5, (), 2), (6.5, (1.5,), 1), (7.5, (1.5,), 2), (7.5, (1.3,), 1),
     (7.5, (1.7,), 1), (7.5, (1.58,), 2), (7.5, (1.45,), 2)],
)  # fmt: skip
def test_a_fall_parts_strokes_where_it_is_deep_or_a_note_begins(
    depth_db: float, begun: tuple[float, ...], n: int
) -> None:
    assert len(cut([(1.5, depth_db)], begun=begun)) == n


@pytest.mark.parametrize(
    ("upper", "depth_db", "n"),
    [(588.0, 13.0, 1), (588.0, 15.0, 2), (294.5, 13.0, 1), (600.0, 13.0, 1), (610.0, 13.0, 2),
     (1176.0, 13.0, 1), (370.0, 13.0, 2)],
)  # fmt: skip
def test_an_octave_or_unison_beats_and_needs_more(upper: float, depth_db: float, n: int) -> None:
    assert len(cut([(1.5, depth_db)], pair=stop(upper=upper))) == n


def test_a_slow_fading_is_no_change_of_bow() -> None:
    slow = contours((1.5, 20.0), width_s=0.5)
    assert len(cut_in_strokes(stop(), slow, (), window_s=WINDOW_S)) == 1


def test_strokes_lie_where_the_level_is() -> None:
    first, second, third = cut([(1.0, 20.0), (2.0, 20.0)])
    assert first.onset_s == 0.0
    assert 0.92 < first.offset_s < 1.0 < second.onset_s < 1.08
    assert 1.92 < second.offset_s < 2.0 < third.onset_s < 2.08
    assert third.offset_s == pytest.approx(LENGTH_S)


def test_two_hollows_of_one_change_are_one() -> None:
    assert len(cut([(1.48, 15.0), (1.53, 15.0)])) <= 2


def test_a_scrap_between_two_changes_is_no_stroke() -> None:
    strokes = cut([(1.5, 20.0), (1.62, 20.0)])
    assert all(s.offset_s - s.onset_s >= 0.08 for s in strokes)


def test_each_stroke_has_its_own_fits_and_a_wider_range() -> None:
    first, second = cut([(1.5, 20.0)], pair=stop(drift=10.0))
    middle = [1200 * np.log2(s.upper_hz / 370.0) for s in (first, second)]
    assert middle == pytest.approx([7.5, 22.5], abs=1.0)
    assert (first.balance_db, second.balance_db) == (3.0, -3.0)
    for stroke in (first, second):
        assert np.all((stroke.times_s >= stroke.onset_s) & (stroke.times_s <= stroke.offset_s))
        assert len(stroke.times_s) == len(stroke.lower_track_hz) == len(stroke.balance_track_db)
        wider = (LENGTH_S / (stroke.offset_s - stroke.onset_s)) ** 0.5
        assert stroke.lower_uncertainty_cents == pytest.approx(0.5 * wider)
        assert stroke.upper_uncertainty_cents == pytest.approx(0.6 * wider)
        assert stroke.balance_uncertainty_db == pytest.approx(wider)


def test_a_stroke_shorter_than_its_window_has_the_pitch_of_the_whole() -> None:
    _, short, _ = cut([(1.0, 20.0), (1.17, 20.0)], pair=stop(drift=10.0))
    assert short.offset_s - short.onset_s < WINDOW_S
    assert (short.lower_hz, short.upper_hz) == (294.0, 370.0)
    assert len(short.times_s) == 1


# one stop, or notes in turn ------------------------------------------------------------------


def alone(*notes: tuple[float, float]) -> list[Segment]:
    at, found = 0.0, []
    for hz, seconds in notes:
        found.append(segment(hz, at, seconds=seconds))
        at += seconds
    return found


@pytest.mark.parametrize(
    ("notes", "one"),
    [
        ([(294.0, 2.6), (370.0, 0.4)], True),
        ([(294.0, 2.5), (370.0, 0.5)], False),  # both are heard alone: they take turns
        ([(147.0, 2.6), (370.0, 0.4)], True),  # an octave below the lower one
        ([(73.5, 3.0)], True),  # their common root
        ([(330.0, 0.5), (294.0, 2.5)], True),
        ([(330.0, 0.7), (294.0, 2.3)], False),  # another note is in it
        ([], True),
    ],
)
def test_what_one_ear_makes_of_a_stop(notes: list[tuple[float, float]], one: bool) -> None:
    assert are_of_one_stop(stop(), alone(*notes)) is one


# what a jig may make of it -------------------------------------------------------------------


def shallow(depth_db: float) -> Heard:
    """A stop with one shallow fall, as it is kept."""
    pair = stop()
    own = replace(segment(294.0, 0.0, seconds=LENGTH_S), i_pair=0)
    lines = contours((1.5, depth_db))
    found = replace(heard([own]), pairs=(pair,))
    maybe = doubtful_strokes([own], [pair], lines)
    return replace(found, doubtful=maybe)


@pytest.mark.parametrize(("depth_db", "n"), [(3.0, 0), (4.0, 1), (9.0, 1)])
def test_a_shallow_fall_leaves_a_doubt(depth_db: float, n: int) -> None:
    found = shallow(depth_db).doubtful
    assert len(found) == n
    for s in found:
        assert (s.i_pair, s.doubtful) == (0, True)
        assert 1.45 < s.onset_s < s.core_start_s < s.core_end_s < s.offset_s
        assert s.attack_db > 12.0


@pytest.mark.parametrize(("words", "n"), [("D4+F#4:3 D4", 1), ("D4+F#4:3 D4+F#4", 2),
                                           ("D4+F#4:6", 1)])  # fmt: skip
def test_a_jig_that_asks_for_two_strokes_gets_them(words: str, n: int) -> None:
    jig = jig_from_line(words, jig_id="j", instrument_id="violin", title="t", tempo_bpm=120.0)
    segments = decided(shallow(5.0), jig, a4_hz=440.0).segments
    assert len(segments) == n
    if n == 2:
        assert segments[0].offset_s == pytest.approx(segments[1].onset_s)
        assert {s.i_pair for s in segments} == {0}


def test_octaves_leave_no_doubt() -> None:
    pair = stop(upper=588.0)
    own = replace(segment(294.0, 0.0, seconds=LENGTH_S), i_pair=0)
    assert doubtful_strokes([own], [pair], contours((1.5, 9.0))) == ()


# through sound -------------------------------------------------------------------------------


@pytest.mark.parametrize(("kind", "room"), [("violin", "room rt60_s=0.5 wet_db=-6"), ("cello", "")])
def test_a_rhythm_on_two_strings_is_heard_stroke_by_stroke(kind: str, room: str) -> None:
    jig = maker("double_scale").make(Setting(
        instrument_id=kind, values={"order": "long_short", "steps": 3}, tempo_bpm=60.0,
    ))  # fmt: skip
    jig = replace(jig, events=jig.events[:16])
    performance = perform(jig, "detune spread_cents=4; " + room, seed=3)
    lined, notes = follow_and_measure(listen(performance), jig, a4_hz=440.0, instrument_id=kind)
    assert [n.state for n in lined.notes].count("played") >= 15
    assert not any(n.state == "retry" for n in lined.notes)
    two = [n for n in notes if isinstance(n.double, Double)]
    assert len(two) >= 15
    assert all(n.double.uncertainty_cents < 12.0 for n in two)  # type: ignore[union-attr]


def test_edges_of_a_change_are_where_the_level_is_six_decibels_down() -> None:
    first, second = cut([(1.5, 20.0)])
    # 20 dB · exp(-(t / 0.03)²) is 6 dB down at 0.033 s
    assert first.offset_s == pytest.approx(1.467, abs=0.006)
    assert second.onset_s == pytest.approx(1.533, abs=0.006)


def test_a_stroke_has_its_own_level() -> None:
    lines = contours((1.5, 20.0))
    level = lines.level_db.copy()
    level[N // 2 :] -= 9.0
    softer = replace(lines, level_db=level)
    first, second = cut_in_strokes(stop(), softer, (), window_s=WINDOW_S)
    assert first.level_dbfs == pytest.approx(-20.0, abs=0.3)
    assert second.level_dbfs == pytest.approx(-29.0, abs=0.3)


@pytest.mark.parametrize(("seconds", "n"), [(0.07, 0), (0.1, 1)])
def test_a_doubtful_stroke_is_no_scrap(seconds: float, n: int) -> None:
    pair = stop()
    own = replace(segment(294.0, 0.0, seconds=1.53 + seconds), i_pair=0)
    assert len(doubtful_strokes([own], [pair], contours((1.5, 9.0)))) == n


def test_two_octaves_less_a_little_beat_as_one_too() -> None:
    assert len(cut([(1.5, 13.0)], pair=stop(upper=294.0 * 4 * 2 ** (-50 / 1200)))) == 1
    assert len(cut([(1.5, 13.0)], pair=stop(upper=294.0 * 4 * 2 ** (-70 / 1200)))) == 2
