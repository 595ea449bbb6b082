"""What follows when a take is kept, and what is kept of a lesson; no window, no sound."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest

from builders import heard_of, keep_take, new_studio
from jigwright.core.values import Unmeasured
from jigwright.services.growing import Growing
from jigwright.services.recording import EarSays
from jigwright.services.take_reader import AS_PLAYED, TakeReader
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.after_take import AfterTake
from jigwright.ui.viewmodels.stand.lesson import Lesson
from jigwright.ui.viewmodels.stand.lesson_keeping import LessonKeeping
from signals import NOTE, scale, take_record


class World:
    """A studio with a scale, and what is said after each take."""

    def __init__(self, folder: Path) -> None:
        self.studio = new_studio(folder)
        self.jig = scale()
        self.studio.add_jig(self.jig, utc="2026-11-01T10:00:00Z")
        self.session = SessionModel(self.studio)
        self.session.load()
        self.session.set_jig(self.jig)
        self.reader = TakeReader(self.studio)
        self.shown: list[str] = []
        self.answer: Any = ...
        self.after = AfterTake(self.studio, self.session, self.reader, self._show)

    def _show(self, take_id: str) -> Any:
        self.shown.append(take_id)
        if isinstance(self.answer, Exception):
            raise self.answer
        if self.answer is not ...:
            return self.answer
        return self.reader.judged(self.studio.take(take_id), AS_PLAYED)

    def play(self, take_id: str, off_cents: list[float], guided: Any = None) -> str:
        take = keep_take(self.studio, take_id, self.jig, heard_of(self.jig, off_cents))
        return self.after.kept(take, guided)


@pytest.fixture
def world(tmp_path: Path) -> Iterator[World]:
    made = World(tmp_path)
    yield made
    made.studio.close()


def in_tune(world: World, **off: float) -> list[float]:
    return [off.get(f"n{i}", 0.0) for i in range(len(world.jig.events))]


def test_one_thing_is_said_of_a_note_that_is_off(world: World) -> None:
    assert world.play("t1", in_tune(world, n3=30.0)) == "said"
    assert world.shown == ["t1"]
    told = world.after.told
    assert told.n_takes == 1
    assert told.verdict is not None
    assert told.verdict.row == 3
    assert told.notes[3].cents == pytest.approx(30.0, abs=0.1)
    assert world.after.heavy_minutes == 0.0


def test_the_ear_is_asked_about_that_note_where_it_is_to_judge_first(world: World) -> None:
    world.after.ear.on = True
    world.play("t1", in_tune(world, n3=30.0))
    asked = world.after.ear.asked
    assert asked is not None
    assert asked.cents == pytest.approx(30.0, abs=0.1)
    world.play("t2", in_tune(world, n3=2.0))  # the next attempt answers: it went down, so: high
    assert world.after.ear.score.asked == 1
    assert world.after.ear.score.right == 1


def test_a_take_that_cannot_be_judged_is_said_to_be_kept(world: World) -> None:
    world.answer = Unmeasured(reason="broken")
    assert world.play("t1", in_tune(world)) == "failed"
    assert world.after.told.verdict is None
    assert world.after.told.n_takes == 1


@pytest.mark.fails_on_purpose
def test_whatever_goes_wrong_the_next_take_is_waited_for(world: World) -> None:
    world.answer = RuntimeError("planted")
    assert world.play("t1", in_tune(world)) == "failed"
    world.answer = ...
    assert world.play("t2", in_tune(world)) == "said"


def test_without_a_jig_nothing_is_said(world: World) -> None:
    world.session.set_jig(None)
    assert world.play("t1", in_tune(world)) == "silent"
    assert world.after.told.verdict is None


def test_a_take_that_is_not_shown_says_nothing(world: World) -> None:
    world.answer = None
    assert world.play("t1", in_tune(world)) == "silent"


def test_in_a_guided_trial_the_trial_speaks(world: World) -> None:
    taken: list[Any] = []
    guided = SimpleNamespace(taken=lambda take, notes: taken.append((take.id, len(notes))))
    assert world.play("t1", in_tune(world, n3=30.0), guided) == "said"
    assert taken == [("t1", len(world.jig.events))]
    assert world.after.told.verdict is None


class Keeper:
    """Makes every take at once, or fails."""

    def __init__(self) -> None:
        self.cuts: list[tuple[Any, Any]] = []
        self.trouble: Exception | None = None

    def cut(self, _growing: Any, span: Any, *, record: Any, done: Any, failed: Any) -> None:
        self.cuts.append((span, record))
        if self.trouble is not None:
            failed(self.trouble)
        else:
            done(record)


@pytest.fixture
def lesson(tmp_path: Path) -> Iterator[SimpleNamespace]:
    studio = new_studio(tmp_path)
    keeper, failed = Keeper(), []
    changes: list[int] = []
    jig = scale()
    keep_take(studio, "phrase", jig, heard_of(jig, [0.0] * len(jig.events)))

    def record(source: str) -> Any:
        return take_record("phrase" if source == "Lesson" else source, None)

    keeping = LessonKeeping(
        studio, SessionModel(studio), keeper,  # type: ignore[arg-type]
        record=record, failed=failed.append, changed=lambda: changes.append(1),
    )  # fmt: skip
    growing = SimpleNamespace(seconds=1300.0)
    yield SimpleNamespace(
        studio=studio, keeper=keeper, failed=failed, changes=changes, keeping=keeping,
        growing=growing,
    )  # fmt: skip
    studio.close()


def hear(lesson: Lesson, start_s: float, stop_s: float) -> None:
    lesson.phrase = (start_s, stop_s)


def test_a_phrase_is_kept_once_and_a_remark_held_to_it(lesson: SimpleNamespace) -> None:
    keeping = lesson.keeping
    keeping.phrase(lesson.growing, 20.0)
    assert lesson.keeper.cuts == []  # there is no lesson
    keeping.lesson = Lesson()
    hear(keeping.lesson, 10.0, 16.0)
    keeping.phrase(lesson.growing, 20.0)
    keeping.phrase(lesson.growing, 20.0)
    assert [span for span, _ in lesson.keeper.cuts] == [(10.0, 16.0)]
    n_changes = len(lesson.changes)
    keeping.speak(lesson.growing, 20.0)
    assert len(lesson.changes) > n_changes  # that somebody speaks is shown
    keeping.speak(lesson.growing, 24.0)
    assert [span for span, _ in lesson.keeper.cuts][1:] == [(20.0, 24.0)]
    (remark,) = lesson.studio.remarks("phrase")
    assert "4 s" in remark.words
    assert remark.at_s == 0.0


def test_a_phrase_that_is_wished_for_is_kept_when_it_ends(lesson: SimpleNamespace) -> None:
    keeping = lesson.keeping
    playing = EarSays(frames=(), notes=(), i_event=None, take=None, since_s=10.0)
    over = replace(playing, take=(10.0, 16.0), since_s=None)
    assert not keeping.heed(over, lesson.growing)  # there is no lesson
    keeping.lesson = Lesson()
    assert not keeping.heed(playing, lesson.growing)
    keeping.phrase(lesson.growing, 17.0)
    assert lesson.keeper.cuts == []
    assert keeping.heed(over, lesson.growing)
    assert [(span, r.id) for span, r in lesson.keeper.cuts] == [((10.0, 16.0), "phrase")]
    keeping.heed(replace(playing, since_s=20.0), lesson.growing)
    keeping.phrase(lesson.growing, 25.0)
    keeping.speak(lesson.growing, 26.0)
    assert lesson.keeper.cuts[-1][0] == (20.0, 26.0)
    keeping.speak(lesson.growing, 29.0)
    keeping.heed(replace(playing, since_s=1290.0), lesson.growing)
    keeping.phrase(lesson.growing, 1295.0)
    keeping.whole(lesson.growing)
    assert [span for span, _ in lesson.keeper.cuts][-3:] == [
        (1290.0, 1300.0), (0.0, 650.0), (650.0, 1300.0),
    ]  # fmt: skip


def test_the_whole_lesson_is_kept_in_parts(lesson: SimpleNamespace) -> None:
    lesson.keeping.whole(lesson.growing)
    assert lesson.keeper.cuts == []
    lesson.keeping.lesson = Lesson()
    lesson.keeping.whole(lesson.growing)
    spans = [span for span, _ in lesson.keeper.cuts]
    assert spans == [(0.0, 650.0), (650.0, 1300.0)]
    assert [record.id for _, record in lesson.keeper.cuts] == ["Whole lesson"] * 2


def test_what_cannot_be_kept_is_said(lesson: SimpleNamespace) -> None:
    lesson.keeping.lesson = Lesson()
    hear(lesson.keeping.lesson, 10.0, 16.0)
    lesson.keeper.trouble = OSError("full")
    lesson.keeping.phrase(lesson.growing, 20.0)
    assert [str(e) for e in lesson.failed] == ["full"]
    assert lesson.keeping.lesson.kept_take_id is None


def test_a_growing_recording_is_what_a_lesson_is_cut_from(tmp_path: Path) -> None:
    assert Growing(tmp_path / "gone.wav", NOTE).seconds == 0.0
