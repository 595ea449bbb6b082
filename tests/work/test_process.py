from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import Any

import pytest

from jigwright.core.errors import AudioError
from jigwright.services.ports import Progress
from jigwright.work.process import JobTooLongError, WorkerDiedError, WorkerProcess

FLAG = Path(os.environ.setdefault("JIGWRIGHT_TEST_FLAG", tempfile.mkdtemp()))  # seen by the worker


def handlers() -> Mapping[str, Callable[[Any, Progress], Any]]:
    def double(x: int, progress: Progress) -> int:
        progress(0.5)
        return 2 * x

    def fail(x: str, _: Progress) -> None:
        raise AudioError("empty", x)

    def sleep(x: float, _: Progress) -> None:
        time.sleep(x)

    def die(_x: None, _: Progress) -> None:
        os._exit(3)

    def half_then_sleep(x: float, progress: Progress) -> None:
        progress(0.5)
        time.sleep(x)

    def name(x: str, _: Progress) -> str:
        return x

    def once(x: str, _: Progress) -> str:
        """Slow until it is said that the second run begins."""
        end = time.monotonic() + 60
        while not (FLAG / "again").exists() and time.monotonic() < end:
            time.sleep(0.01)
        return x

    return {
        "double": double, "fail": fail, "sleep": sleep, "die": die, "name": name, "once": once,
        "half_then_sleep": half_then_sleep,
    }  # fmt: skip


@pytest.fixture
def worker() -> Iterator[WorkerProcess]:
    made = WorkerProcess(handlers)
    yield made
    made.close()


def wait(worker: WorkerProcess, until: Callable[[], bool], seconds: float = 20.0) -> None:
    end = time.monotonic() + seconds
    while not until() and time.monotonic() < end:
        worker.pump(0.05)
    assert until()


def test_jobs_answer_in_order_with_progress(worker: WorkerProcess) -> None:
    answers: list[int] = []
    shares: list[float] = []
    for x in range(3):
        worker.submit("double", x, done=answers.append, failed=raise_it, progress=shares.append)
    wait(worker, lambda: len(answers) == 3)
    assert answers == [0, 2, 4]
    assert shares == [0.5] * 3
    assert not worker.busy


def raise_it(error: Exception) -> None:
    raise error


def test_errors_cross_the_pipe_whole(worker: WorkerProcess) -> None:
    errors: list[Exception] = []
    worker.submit("fail", "a.wav", done=print, failed=errors.append)
    wait(worker, lambda: bool(errors))
    assert isinstance(errors[0], AudioError)
    assert errors[0].reason == "empty"


def test_cancel_kills_and_the_next_job_runs(worker: WorkerProcess) -> None:
    called: list[Any] = []
    slow = worker.submit("sleep", 60, done=called.append, failed=called.append)
    waiting = worker.submit("sleep", 60, done=called.append, failed=called.append)
    answers: list[int] = []
    worker.submit("double", 4, done=answers.append, failed=raise_it)
    worker.cancel(waiting)
    worker.cancel(slow)
    wait(worker, lambda: answers == [8])
    assert called == []


def test_a_dying_worker_is_said_and_replaced(worker: WorkerProcess) -> None:
    errors: list[Exception] = []
    worker.submit("die", None, done=print, failed=errors.append)
    wait(worker, lambda: bool(errors))
    assert isinstance(errors[0], WorkerDiedError)
    answers: list[int] = []
    worker.submit("double", 5, done=answers.append, failed=raise_it)
    wait(worker, lambda: answers == [10])


def test_a_silent_job_is_ended_after_its_patience_and_the_next_one_runs() -> None:
    now = [0.0]
    worker = WorkerProcess(handlers, clock=lambda: now[0])
    errors: list[Exception] = []
    answers: list[int] = []
    worker.submit("sleep", 60, done=print, failed=errors.append, patience_s=30.0)
    worker.submit("double", 4, done=answers.append, failed=raise_it)
    now[0] = 30.0
    worker.end_overdue()
    assert not errors
    now[0] = 30.1
    worker.end_overdue()
    assert isinstance(errors[0], JobTooLongError)
    wait(worker, lambda: answers == [8])
    worker.end_overdue()  # nothing runs
    worker.close()


def test_progress_is_a_sign_of_life() -> None:
    now = [0.0]
    worker = WorkerProcess(handlers, clock=lambda: now[0])
    shares: list[float] = []
    errors: list[Exception] = []
    worker.submit(
        "half_then_sleep", 60, done=print, failed=errors.append, progress=shares.append,
        patience_s=30.0,
    )  # fmt: skip
    now[0] = 25.0
    wait(worker, lambda: shares == [0.5])
    now[0] = 54.0
    worker.end_overdue()
    assert not errors
    now[0] = 55.1
    worker.end_overdue()
    assert len(errors) == 1
    worker.close()


def test_what_is_urgent_goes_first_and_what_gives_way_begins_anew(worker: WorkerProcess) -> None:
    order: list[str] = []
    worker.submit(
        "once", "hear", done=order.append, failed=raise_it, gives_way=True
    )  # slow the first time
    worker.submit("name", "engrave", done=order.append, failed=raise_it)
    worker.submit("name", "cut 1", done=order.append, failed=raise_it, urgent=True)
    worker.submit("name", "cut 2", done=order.append, failed=raise_it, urgent=True)
    (FLAG / "again").touch()
    wait(worker, lambda: len(order) == 4)
    (FLAG / "again").unlink()
    assert order == ["cut 1", "cut 2", "hear", "engrave"]


def test_what_does_not_give_way_is_waited_for(worker: WorkerProcess) -> None:
    order: list[str] = []
    (FLAG / "again").touch()
    worker.submit("once", "decode", done=order.append, failed=raise_it)
    worker.submit("name", "cut", done=order.append, failed=raise_it, urgent=True)
    wait(worker, lambda: len(order) == 2)
    (FLAG / "again").unlink()
    assert order == ["decode", "cut"]
