"""View models without a window: what is kept is read again, and rubbish does no harm."""

from __future__ import annotations

import csv
import io
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jigwright.core.companion import Pulse, click_block, drone_block
from jigwright.core.jig.bow_plan import plan_bow
from jigwright.core.jig.fingering import TASTES, propose_fingering
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.signs import Sign
from jigwright.core.music.harmonics import (
    ARTIFICIAL_PARTIALS,
    artificial,
    sounding_pitch,
    touched_pitch,
)
from jigwright.core.music.pitch import Pitch
from jigwright.services.recording import EarSays
from jigwright.services.takecsv import COLUMNS, take_csv
from jigwright.ui.viewmodels.jigs import jig_tools
from jigwright.ui.viewmodels.stand.lesson import Lesson
from signals import scale, take_record


def says(take: tuple[float, float] | None = None, since_s: float | None = None) -> EarSays:
    return EarSays(frames=(), notes=(), i_event=None, take=take, since_s=since_s)


def test_a_lesson_keeps_each_phrase_once_and_holds_remarks_to_the_last_kept() -> None:
    lesson = Lesson()
    assert lesson.keep(0.5) is None
    assert lesson.hear(says((1.0, 6.0))) == (True, None)
    cut = lesson.keep(8.0)
    assert cut is not None
    assert (cut.start_s, cut.stop_s, cut.spoken) == (1.0, 6.0, False)
    assert lesson.keep(8.5) is None
    assert lesson.kept(take_record("t1", None), cut) is None
    assert lesson.speak(10.0) is None
    assert lesson.hear(says((10.0, 12.0))) == (False, None)  # what is spoken is no phrase
    spoken = lesson.speak(14.0)
    assert spoken is not None
    held = lesson.kept(take_record("t2", None), spoken)
    assert held is not None
    assert held[0] == "t1"
    assert "4 s" in held[1]
    lesson.speak(20.0)
    assert lesson.speak(20.2) is None  # a slip of the foot
    assert lesson.whole(2.0) == ()
    assert [c.stop_s for c in lesson.whole(60.0)] == [60.0]
    parts = lesson.whole(7200.0)
    assert max(c.stop_s - c.start_s for c in parts) <= 900.0
    assert (parts[0].start_s, parts[-1].stop_s) == (0.0, 7200.0)
    assert all(a.stop_s == b.start_s for a, b in zip(parts, parts[1:], strict=False))


@pytest.mark.parametrize(("now_s", "meant"), [(12.9, (1.0, 6.0)), (13.0, (10.0, 15.0))])
def test_who_keeps_while_somebody_plays_means_what_is_played(now_s: float, meant) -> None:
    lesson = Lesson()
    lesson.hear(says((1.0, 6.0)))
    lesson.hear(says(since_s=10.0))
    now = lesson.keep(now_s)
    assert (now is None) is (meant[0] == 10.0)
    assert (lesson.words(listening=True)[0] == "It is kept when it ends") is (now is None)
    ended, later = lesson.hear(says((10.0, 15.0)))
    assert ended
    cut = now or later
    assert cut is not None
    assert (cut.start_s, cut.stop_s) == meant
    assert lesson.n_kept == 1
    assert not lesson.keeps_next
    assert lesson.hear(says((20.0, 25.0))) == (True, None)  # the wish was for one


def test_a_remark_ends_what_was_to_be_kept() -> None:
    lesson = Lesson()
    lesson.hear(says(since_s=10.0))
    assert lesson.keep(16.0) is None
    cut = lesson.speak(17.0)
    assert cut is not None
    assert (cut.start_s, cut.stop_s, cut.spoken) == (10.0, 17.0, False)
    assert lesson.hear(says((10.2, 15.5))) == (False, None)  # that phrase is kept already
    assert (lesson.n_phrases, lesson.n_kept) == (1, 1)
    spoken = lesson.speak(21.0)
    assert spoken is not None
    assert spoken.spoken


def test_a_wish_outlives_the_end_of_the_lesson() -> None:
    lesson = Lesson()
    assert lesson.wished(5.0) is None
    lesson.hear(says(since_s=10.0))
    assert lesson.wished(15.0) is None
    lesson.keep(16.0)
    cut = lesson.wished(18.0)
    assert cut is not None
    assert (cut.start_s, cut.stop_s) == (10.0, 18.0)
    assert lesson.wished(18.0) is None


def test_what_was_played_before_a_remark_is_a_phrase_though_it_is_told_late() -> None:
    lesson = Lesson()
    lesson.hear(says(since_s=10.0))
    assert lesson.speak(16.0) is None
    assert lesson.hear(says((10.0, 14.5))) == (True, None)
    assert lesson.phrase == (10.0, 14.5)
    lesson.speak(19.0)
    assert lesson.keep(20.0) is not None


def test_a_phrase_soon_after_the_kept_one_is_another() -> None:
    lesson = Lesson()
    lesson.hear(says((10.0, 14.0)))
    lesson.keep(15.0)
    assert lesson.hear(says((10.4, 14.0))) == (False, None)
    assert lesson.hear(says((10.6, 14.0))) == (True, None)


@given(st.integers(1, 2000), st.integers(0, 40_000))
@settings(max_examples=25, deadline=None)
def test_companions_fit_together_wherever_they_are_cut(first: int, start: int) -> None:
    pulse = Pulse(bpm=97.0, beats_per_bar=3, subdivisions=2)
    for make in (
        lambda a, n: click_block(pulse, a, n),
        lambda a, n: drone_block((220.0, 330.0), a, n),
    ):
        whole = make(start, first + 500)
        parts = np.concatenate([make(start, first), make(start + first, 500)])
        np.testing.assert_allclose(parts, whole, atol=1e-6)


@pytest.mark.parametrize("partial", ARTIFICIAL_PARTIALS)
@pytest.mark.parametrize("stopped", ["G3", "B-3".replace("-", "b"), "F#4", "C5"])
def test_an_artificial_harmonic_sounds_its_partial(stopped: str, partial: int) -> None:
    pitch = Pitch.parse(stopped)
    up = sounding_pitch(pitch, partial).midi - pitch.midi
    assert up == round(12 * np.log2(partial))
    assert artificial(touched_pitch(pitch, partial).midi - pitch.midi) == partial


@pytest.mark.parametrize("kind", ["violin", "viola", "cello", "bass"])
def test_every_taste_fingers_the_same_notes(kind: str) -> None:
    jig = scale(kind, octaves=1)
    plain = propose_fingering(jig, keep_given=False)
    for taste in TASTES:
        made = propose_fingering(jig, keep_given=False, taste=taste)
        assert [e.heads[0].pitch for e in made.events] == [e.heads[0].pitch for e in jig.events]
        assert all(e.heads[0].finger is not None for e in made.events)
        opens = sum(e.heads[0].finger == 0 for e in made.events)
        if taste == "few_open":
            assert opens <= sum(e.heads[0].finger == 0 for e in plain.events)


def test_ways_keep_notes_and_ids_and_change_only_fingers_or_bows() -> None:
    jig = scale(slur=2)
    for way in jig_tools.ways():
        made = way.make(jig)
        assert [e.id for e in made.events] == [e.id for e in jig.events]
        assert [e.onset_beats for e in made.events] == [e.onset_beats for e in jig.events]


@given(st.lists(st.sampled_from(["D4:1", "E4:2", "(F#4:1/2 G4)", "A4:4", "r:1"]), min_size=1))
@settings(max_examples=40, deadline=None)
def test_a_bow_plan_stays_on_the_bow_and_goes_its_way(words: list[str]) -> None:
    try:
        jig = jig_from_line(
            " ".join(["D4:1", *words]), jig_id="j", instrument_id="violin", title="t"
        )
    except ValueError:
        return
    before = None
    for stroke in plan_bow(jig):
        assert stroke.direction in ("down", "up")
        for note in stroke.notes:
            assert 0.0 <= note.start <= 1.0
            assert 0.0 <= note.end <= 1.0
            ahead = note.end - note.start
            assert ahead >= 0 if stroke.direction == "down" else ahead <= 0
        if before is not None:
            assert stroke.direction != before.direction
        before = stroke


def test_an_empty_take_is_an_empty_table() -> None:
    rows = list(csv.reader(io.StringIO(take_csv((), None))))
    assert rows == [list(COLUMNS)]


def test_steps_of_a_path_are_no_other_ways_of_playing() -> None:
    jig = jig_from_line("D4 E4 F#4", jig_id="j", instrument_id="violin", title="t")
    other, step = replace(jig, id="k", title="other"), replace(jig, id="path-1-slow", title="step")
    ways = jig_tools.kept_ways(jig, [jig, other, step], ["k", "k", "path-1-slow"])
    assert [w.name for w in ways] == ["other (2 takes)"]


def test_what_is_heard_is_the_choice_at_its_speed() -> None:
    jig = jig_from_line("D4 E4 F#4 G4", jig_id="j", instrument_id="violin", title="t")
    assert jig_tools.heard_part(jig, None, speed=1.0) == jig
    slow = jig_tools.heard_part(jig, (1, 2), speed=0.5)
    assert [str(e.heads[0].pitch) for e in slow.events] == ["E4", "F#4"]
    assert slow.tempo_bpm == 0.5 * jig.tempo_bpm
    later = Sign(kind="tempo", at_beats=Fraction(2), text="1", value=90.0)
    both = jig_tools.heard_part(replace(jig, signs=(later,)), None, speed=0.5)
    assert [s.value for s in both.signs] == [45.0]
    crawl = jig_tools.heard_part(replace(jig, tempo_bpm=24.0), None, speed=0.5)
    assert crawl.tempo_bpm == 20.0
