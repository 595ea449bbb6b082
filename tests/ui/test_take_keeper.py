"""The one place that lets recorded sound go: what it keeps, tries again, searches and leaves."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest

from jigwright.audio.wav_stream import WavWriter
from jigwright.core.errors import StoreError
from jigwright.core.sound.intake import Signal
from jigwright.core.sound.listen import unheard
from jigwright.services.growing import Growing, record_of
from jigwright.services.recording import RATE_HZ, CutTake, FoundTakes
from jigwright.services.recordings import note_path, write_note
from jigwright.services.records import Beside
from jigwright.ui.viewmodels.stand.take_keeper import TakeKeeper
from jigwright.work.process import JobTooLongError, WorkerDiedError
from signals import NOTE

HEARD = unheard(
    Signal(samples=np.zeros(10), rate_hz=RATE_HZ, n_channels=1, i_channel=0, warnings=())
)


class Jobs:
    """A job runner whose answers the test gives."""

    def __init__(self) -> None:
        self.asked: list[tuple[str, Any, Callable[[Any], None], Callable[[Exception], None]]] = []

    def run(self, job: str, request: object, *, done: Any, failed: Any, **_: object) -> int:
        self.asked.append((job, request, done, failed))
        return len(self.asked)

    def answer_cut(self) -> None:
        job, request, done, _ = self.asked.pop(0)
        assert job == "cut_take"
        request.to.write_bytes(b"flac")
        done(CutTake(path=request.to, heard=HEARD, seconds=request.stop_s - request.start_s))

    def fail(self, error: Exception) -> None:
        self.asked.pop(0)[3](error)


class Studio:
    """Keeps takes in a list; fails when it is told to."""

    def __init__(self) -> None:
        self.kept: list[tuple[Any, Any]] = []
        self.beside: list[Any] = []
        self.trouble: Exception | None = None
        self.jigs: dict[tuple[str, int], Any] = {}

    def jig(self, jig_id: str, revision: int) -> Any:
        if (jig_id, revision) not in self.jigs:
            raise StoreError("missing", jig_id)
        return self.jigs[jig_id, revision]

    def add_take(
        self, take: Any, source: Path, _heard: object, *, cut: Any = None, beside: Any = None
    ) -> Any:
        if self.trouble is not None:
            raise self.trouble
        assert source.exists()
        self.kept.append((take, cut))
        self.beside.append(beside)
        return take


@pytest.fixture
def world(tmp_path: Path) -> SimpleNamespace:
    jobs, studio = Jobs(), Studio()
    drone = SimpleNamespace(partials_hz=lambda: (220.0,))
    keeper = TakeKeeper(studio, SimpleNamespace(), jobs, drone)  # type: ignore[arg-type]
    over: list[tuple[Growing, Exception | None]] = []
    keeper.over = lambda growing, trouble: over.append((growing, trouble))
    path = tmp_path / f"{NOTE.id}.wav"
    writer = WavWriter(path, RATE_HZ)
    writer.write(np.zeros(10 * RATE_HZ, dtype=np.float32))
    writer.close()
    write_note(path, NOTE)
    growing = Growing(path, NOTE)
    keeper.alive.append(growing)
    done: list[Any] = []
    failed: list[Exception] = []

    def cut(span: tuple[float, float]) -> None:
        keeper.cut(
            growing, span, record=record_of(NOTE, span, take_id=f"t{span[0]:g}"), done=done.append,
            failed=failed.append,
        )  # fmt: skip

    return SimpleNamespace(
        jobs=jobs, studio=studio, keeper=keeper, growing=growing, path=path, over=over, cut=cut,
        done=done, failed=failed,
    )  # fmt: skip


def test_a_recording_goes_when_it_has_ended_and_all_is_kept(world: SimpleNamespace) -> None:
    world.cut((1.0, 4.0))
    assert world.growing.ledger.played == ((1.0, 4.0),)
    assert world.keeper.n_cutting == 1
    world.growing.ledger = world.growing.ledger.was_heard(10.0)
    world.jobs.answer_cut()
    assert [t.id for t in world.done] == ["t1"]
    assert world.path.exists()  # somebody may still play into it
    world.growing.ended = True
    world.keeper.settle(world.growing)
    assert not world.path.exists()
    assert not note_path(world.path).exists()
    assert list(world.path.parent.iterdir()) == []
    assert world.over == [(world.growing, None)]
    assert world.keeper.alive == []
    take, cut = world.studio.kept[0]
    assert (cut.recording, cut.start_s, cut.stop_s) == (NOTE.id, 1.0, 4.0)
    assert take.duration_s == 3.0
    assert world.studio.beside == [Beside(drone_hz=(220.0,))]


def test_it_waits_for_takes_that_are_being_made(world: SimpleNamespace) -> None:
    world.cut((1.0, 4.0))
    world.cut((5.0, 9.0))
    world.growing.ledger = world.growing.ledger.was_heard(10.0)
    world.growing.ended = True
    world.keeper.settle(world.growing)
    world.jobs.answer_cut()
    assert world.path.exists()
    assert world.over == []
    world.jobs.answer_cut()
    assert not world.path.exists()


@pytest.mark.parametrize("how", ["disk", "worker", "slow", "unreadable"])
def test_what_cannot_be_kept_stays(world: SimpleNamespace, how: str) -> None:
    world.cut((1.0, 4.0))
    world.growing.ledger = world.growing.ledger.was_heard(10.0)
    world.growing.ended = True
    if how == "disk":
        world.studio.trouble = StoreError("full", "no space")
        world.jobs.answer_cut()
    elif how == "worker":
        world.jobs.fail(WorkerDiedError("once"))
        assert world.failed == []  # it is tried again
        world.jobs.fail(WorkerDiedError("twice"))
    elif how == "slow":
        world.jobs.fail(JobTooLongError("hangs"))
    else:
        world.jobs.fail(OSError("cannot be read"))
    assert len(world.failed) == 1
    assert world.done == []
    assert world.path.exists()
    assert note_path(world.path).exists()
    assert world.over == [(world.growing, world.failed[0])]
    assert world.growing.owed == [(1.0, 4.0)]
    assert world.jobs.asked == []  # nothing is searched while something is wrong
    assert world.keeper.busy_paths == ()


def test_a_worker_that_dies_once_costs_nothing(world: SimpleNamespace) -> None:
    world.cut((1.0, 4.0))
    world.growing.ledger = world.growing.ledger.was_heard(10.0)
    world.growing.ended = True
    half = world.path.parent / ".part-xyz.flac"
    half.write_bytes(b"half a take")
    world.jobs.fail(WorkerDiedError("once"))
    assert not half.exists()
    world.jobs.answer_cut()
    assert len(world.done) == 1
    assert not world.path.exists()


@pytest.mark.parametrize(
    ("error", "gone"),
    [(JobTooLongError("hangs"), True), (OSError("cannot be read"), False)],
)
def test_what_was_being_written_goes_with_the_worker_that_wrote_it(
    world: SimpleNamespace, error: Exception, gone: bool
) -> None:
    world.cut((1.0, 4.0))
    half = world.path.parent / ".part-xyz.flac"
    half.write_bytes(b"half a take")
    world.jobs.fail(error)
    assert half.exists() is not gone


def test_what_nobody_heard_is_listened_to_before_the_recording_goes(
    world: SimpleNamespace, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(TakeKeeper, "jig_of", lambda *_: None)
    world.growing.ledger = world.growing.ledger.was_heard(4.0)
    world.growing.ended = True
    world.keeper.settle(world.growing)
    job, request, found, _ = world.jobs.asked.pop(0)
    assert job == "find_takes"
    assert (request.ear.from_s, request.stop_s, request.at_end) == (4.0, pytest.approx(10.0), True)
    # the loudspeaker's drone is no playing there either
    assert request.ear.beside.drone_hz == world.growing.note.drone_hz == (146.8, 293.6)
    assert request.ear.beside.since_s == 4.0
    assert world.path.exists()
    found(FoundTakes(spans=((5.0, 8.0),), heard_s=10.0))
    world.jobs.answer_cut()
    assert world.studio.kept[0][0].recorded_utc == "2026-11-03T18:20:05Z"
    assert not world.path.exists()


def test_a_search_that_fails_leaves_the_recording(
    world: SimpleNamespace, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(TakeKeeper, "jig_of", lambda *_: None)
    world.growing.ended = True
    world.keeper.settle(world.growing)
    world.jobs.fail(WorkerDiedError("while searching"))
    assert world.path.exists()
    assert isinstance(world.over[0][1], WorkerDiedError)


def test_a_string_check_leaves_nothing(world: SimpleNamespace) -> None:
    growing = Growing(world.path, replace(NOTE, keeps="nothing"), ended=True)
    world.keeper.settle(growing)
    assert not world.path.exists()
    assert world.jobs.asked == []


def test_a_leftover_takes_the_drone_it_was_played_with(world: SimpleNamespace) -> None:
    growing = Growing(world.path, replace(NOTE, drone_hz=(98.0,)), ended=True)
    growing.ledger = growing.ledger.was_heard(10.0)
    world.keeper.cut(
        growing, (1.0, 2.0), record=record_of(NOTE, (1.0, 2.0), take_id="t"), done=print,
        failed=print,
    )  # fmt: skip
    assert world.jobs.asked[0][1].drone_hz == (98.0,)
    assert world.jobs.asked[0][1].jig is None  # it is gone: heard without
    world.jobs.answer_cut()
    assert world.studio.beside[-1] == Beside(drone_hz=(98.0,))


def test_a_take_is_heard_knowing_what_was_to_be_played(world: SimpleNamespace) -> None:
    assert NOTE.jig_id is not None
    assert NOTE.jig_revision is not None
    world.studio.jigs[NOTE.jig_id, NOTE.jig_revision] = "the jig"
    growing = Growing(world.path, NOTE, ended=True)
    growing.ledger = growing.ledger.was_heard(10.0)
    world.keeper.cut(
        growing, (1.0, 2.0), record=record_of(NOTE, (1.0, 2.0), take_id="t"), done=print,
        failed=print,
    )  # fmt: skip
    assert world.jobs.asked[0][1].jig == "the jig"


def test_what_is_being_cut_is_offered_to_nobody(world: SimpleNamespace) -> None:
    world.keeper.alive.clear()
    growing = Growing(world.path, NOTE, ended=True)
    growing.ledger = growing.ledger.was_heard(10.0)
    world.keeper.cut(
        growing, (1.0, 2.0), record=record_of(NOTE, (1.0, 2.0), take_id="t"), done=print,
        failed=print,
    )  # fmt: skip
    assert world.keeper.busy_paths == (world.path,)
    world.jobs.answer_cut()
    assert world.keeper.busy_paths == ()
