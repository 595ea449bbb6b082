"""The demo class: begun at once, its takes made one by one, gone on with where it stopped."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from builders import heard_of, take_record
from jigwright.audio.files import SndFiles
from jigwright.core.errors import JigwrightError
from jigwright.core.jig.hand_check import hand_troubles
from jigwright.services.demo import (
    FIRST_JIG,
    MadeTake,
    begin_demo,
    courses,
    keep_take,
    take_id,
    to_make,
)
from jigwright.services.demo_takes import build_demo, make_take
from jigwright.services.demo_version import DEMO_VERSION
from jigwright.services.jobs import DemoRequest
from jigwright.services.records import Remark
from jigwright.store.opening import open_studio
from jigwright.store.studio import Studio
from jigwright.ui.viewmodels.demo_making import DemoMaking


@pytest.fixture
def studio(tmp_path: Path) -> Iterator[Studio]:
    made = open_studio(tmp_path / "studio")
    begin_demo(made)
    yield made
    made.close()


def made_take(scratch: Path, jig_id: str, i: int, *, remarks: int = 0) -> MadeTake:
    """A take nobody played."""
    course = next(c for c in courses() if c.jig.id == jig_id)
    scratch.mkdir(parents=True, exist_ok=True)
    path = scratch / f"{take_id(jig_id, i)}.flac"
    path.write_bytes(path.name.encode())
    single = all(len(e.heads) == 1 for e in course.jig.events)
    heard = heard_of(course.jig, [0.0] * len(course.jig.events)) if single else None
    record = replace(
        take_record(take_id(jig_id, i), course.jig, utc=course.days[i]),
        player_id=course.player.id, instrument_id=course.owned.id, source_name=path.name,
    )  # fmt: skip
    said = tuple(
        Remark(id=f"r{k}", take_id=record.id, note_id=None, at_s=1.0, who="Ines", words="Breathe.",
               utc=course.days[i])
        for k in range(remarks)
    )  # fmt: skip
    return MadeTake(record=record, path=path, heard=heard, remarks=said)  # type: ignore[arg-type]


# the class ----------------------------------------------------------------------------------------


def test_a_demo_is_begun_at_once_with_everything_but_its_takes(studio: Studio) -> None:
    assert studio.takes() == ()
    assert {j.id for j in studio.jigs()} == {c.jig.id for c in courses()}
    assert len(studio.players()) == 4
    assert {i.kind for i in studio.instruments()} == {"violin", "viola", "cello", "bass"}
    assert len(studio.works()) == 3
    assert studio.setting("jig") == FIRST_JIG
    assert studio.setting("demo") == DEMO_VERSION
    assert studio.undo() is None, "nobody takes the demo back"


def test_every_jig_of_the_class_can_be_played() -> None:
    for course in courses():
        assert hand_troubles(course.jig) == (), course.jig.id
        assert len(set(course.days)) == len(course.days)
        assert list(course.days) == sorted(course.days)


def test_the_first_jig_is_recorded_first_and_what_is_there_is_left_out() -> None:
    rows = to_make()
    assert len(rows) == sum(len(c.days) for c in courses())
    n_first = sum(r[0] == FIRST_JIG for r in rows)
    assert [r[0] for r in rows[:n_first]] == [FIRST_JIG] * n_first
    assert [r[1] for r in rows[:n_first]] == list(range(n_first))
    left = to_make({take_id(FIRST_JIG, 0), take_id("demo-waltz", 1), "another"})
    assert len(left) == len(rows) - 2
    assert left[0] == (FIRST_JIG, 1)
    assert to_make({take_id(*r) for r in rows}) == ()
    assert take_id("demo-waltz", 0) == "demo-waltz-01"


def test_a_made_take_is_on_its_shelf_for_good(studio: Studio, tmp_path: Path) -> None:
    made = made_take(tmp_path / "scratch", "demo-waltz", 1, remarks=2)
    keep_take(studio, made)
    assert [t.id for t in studio.takes()] == ["demo-waltz-02"]
    assert len(studio.remarks("demo-waltz-02")) == 2
    assert not made.path.exists()
    assert studio.undo() is None


# behind the window --------------------------------------------------------------------------------


class Jobs:
    """A worker that does what the test says."""

    def __init__(self) -> None:
        self.asked: list[DemoRequest] = []
        self.done: Callable[[Any], None] = lambda _: None
        self.failed: Callable[[Exception], None] = lambda _: None
        self.closed = False

    def run(self, job: str, request: DemoRequest, *, done, failed) -> int:  # type: ignore[no-untyped-def]
        assert job == "demo_take"
        self.asked.append(request)
        self.done, self.failed = done, failed
        return len(self.asked)

    def close(self) -> None:
        self.closed = True


@pytest.fixture
def jobs() -> Jobs:
    return Jobs()


@pytest.fixture
def making(studio: Studio, jobs: Jobs, tmp_path: Path, qapp) -> DemoMaking:
    made = DemoMaking(studio, jobs, tmp_path / "scratch")  # type: ignore[arg-type]
    made.start()
    made._next()
    return made


def finish(jobs: Jobs) -> MadeTake:
    """What was asked for last is made."""
    request = jobs.asked[-1]
    made = made_take(request.scratch, request.jig_id, request.i)
    jobs.done(made)
    return made


def test_takes_come_one_after_the_other_and_the_first_is_shown(
    studio: Studio, jobs: Jobs, making: DemoMaking
) -> None:
    shown: list[str] = []
    making.first.connect(shown.append)
    assert (making.made, making.total) == (0, len(to_make()))
    assert making.running
    assert [(r.jig_id, r.i) for r in jobs.asked] == [(FIRST_JIG, 0)]
    making._next()
    assert len(jobs.asked) == 1, "one at a time"
    finish(jobs)
    making._next()
    assert (jobs.asked[-1].jig_id, jobs.asked[-1].i) == (FIRST_JIG, 1)
    finish(jobs)
    assert shown == [take_id(FIRST_JIG, 0)]
    assert making.made == 2
    assert len(studio.takes()) == 2


def test_interrupted_it_leaves_nothing_and_goes_on_where_it_was(
    studio: Studio, jobs: Jobs, making: DemoMaking, tmp_path: Path
) -> None:
    finish(jobs)
    scratch = tmp_path / "scratch"
    late = made_take(scratch, FIRST_JIG, 1)
    making.close_down()
    assert jobs.closed
    assert not scratch.exists()
    assert not making.running
    jobs.done(late)
    assert len(studio.takes()) == 1, "what comes after the end is not kept"
    made_take(scratch, FIRST_JIG, 5)
    again = DemoMaking(studio, Jobs(), scratch)  # type: ignore[arg-type]
    again.start()
    assert not scratch.exists()
    assert (again.made, again.total) == (1, len(to_make()))


def test_one_that_cannot_be_made_is_left_out_and_three_end_it(
    jobs: Jobs, making: DemoMaking
) -> None:
    said: list[str] = []
    making.message.connect(said.append)
    jobs.failed(JigwrightError("no sound"))
    assert (jobs.asked[-1].jig_id, jobs.asked[-1].i) == (FIRST_JIG, 1)
    jobs.failed(JigwrightError("no sound"))
    assert making.running
    jobs.failed(JigwrightError("no sound"))
    assert len(said) == 1
    assert not making.running
    assert len(jobs.asked) == 3


def test_a_whole_demo_asks_for_nothing(studio: Studio, tmp_path: Path, qapp) -> None:
    for jig_id, i in to_make():
        keep_take(studio, made_take(tmp_path / "s", jig_id, i))
    jobs = Jobs()
    making = DemoMaking(studio, jobs, tmp_path / "scratch")  # type: ignore[arg-type]
    making.start()
    assert not making.running
    making._next()
    assert jobs.asked == []
    assert making.made == making.total


# played and heard ---------------------------------------------------------------------------------


def test_a_take_is_played_heard_and_kept(studio: Studio, tmp_path: Path) -> None:
    last = to_make()[-1]
    known = {take_id(*r) for r in to_make()} - {take_id(*last)}
    shares: list[float] = []
    n = build_demo(studio, SndFiles(), tmp_path, known=known, progress=shares.append)
    assert (n, shares) == (1, [1.0])
    take = studio.take(take_id(*last))
    assert take is not None
    assert take.jig_id == last[0]
    heard = studio.heard(take.id)
    assert heard is not None
    course = next(c for c in courses() if c.jig.id == last[0])
    assert len(heard.segments) == len(course.jig.events)
    assert build_demo(studio, SndFiles(), tmp_path, known={take.id, *known}) == 0


def test_the_same_take_is_made_the_same_again(tmp_path: Path) -> None:
    jig_id, i = to_make()[-1]
    a, b = (make_take(SndFiles(), tmp_path, jig_id, i) for _ in range(2))
    assert a.record == b.record
    assert [s.f0_hz for s in a.heard.segments] == [s.f0_hz for s in b.heard.segments]
    assert a.remarks == ()
