from __future__ import annotations

import os
import time
from collections.abc import Callable, Iterator, Mapping
from typing import Any

import pytest

from jigwright.core.errors import AudioError
from jigwright.services.ports import Progress
from jigwright.work.process import WorkerDiedError, WorkerProcess


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

    return {"double": double, "fail": fail, "sleep": sleep, "die": die}


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
