"""A spawned process that runs named jobs one after another; killed to cancel.

Frozen requests and results cross a pipe between our own two processes. The window polls the pipe
(:meth:`WorkerProcess.pump`) when its descriptor is readable, so no thread is needed.
"""

from __future__ import annotations

import contextlib
import logging
import multiprocessing
import os
import time
from collections import deque
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from multiprocessing.connection import Connection
from multiprocessing.context import BaseContext
from multiprocessing.process import BaseProcess
from typing import Any

from jigwright.core.errors import JigwrightError
from jigwright.core.isolation import LOGGER, note_failure
from jigwright.services.ports import Progress

PATIENCE_S = 300.0
SPAWNED: BaseContext = multiprocessing.get_context("spawn")
Handlers = Mapping[str, Callable[[Any, Progress], Any]]


class JobTooLongError(JigwrightError, TimeoutError):
    """A job gave no sign of life for too long and was ended."""

    kind = "too_long"


class WorkerDiedError(JigwrightError, RuntimeError):
    """The worker process ended while a job ran."""

    kind = "worker"


@dataclass(slots=True)
class _Job:
    number: int
    name: str
    request: Any
    done: Callable[[Any], None]
    failed: Callable[[Exception], None]
    progress: Progress | None
    patience_s: float
    urgent: bool
    gives_way: bool
    alive_s: float = 0.0  # of the clock: when it began, or was last heard of


def serve(connection: Connection, make_handlers: Callable[[], Handlers]) -> None:
    """Body of the worker process."""
    for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
        os.environ.setdefault(name, "1")
    handlers = make_handlers()
    LOGGER.addHandler(_Telling(connection))
    LOGGER.propagate = False
    while True:
        try:
            number, name, request = connection.recv()
        except (EOFError, OSError, KeyboardInterrupt):
            return

        def report(share: float, number: int = number) -> None:
            connection.send((number, "progress", share))

        try:
            answer = handlers[name](request, report)
            connection.send((number, "done", answer))
        except Exception as error:  # the one place that turns a failed job into a message
            if not isinstance(error, (JigwrightError, OSError)):
                note_failure(f"job {name}", error)
            try:
                connection.send((number, "failed", _portable(error)))
            except OSError:  # the window is gone
                return


class _Telling(logging.Handler):
    """Lines about failed parts go to the window's process, which owns the log."""

    def __init__(self, connection: Connection) -> None:
        super().__init__()
        self._connection = connection

    def emit(self, record: logging.LogRecord) -> None:
        """Send one line; nobody listens any more: let it go."""
        with contextlib.suppress(OSError):
            self._connection.send((0, "log", record.getMessage()))


def _portable(error: Exception) -> Exception:
    import pickle

    try:
        pickle.loads(pickle.dumps(error))  # noqa: S301 - our own value, never from disk
    except Exception:
        return RuntimeError(f"{type(error).__name__}: {error}")
    return error


class WorkerProcess:
    """The window's side of the worker.

    Parameters
    ----------
    make_handlers : callable
        Importable function that builds the job table inside the process.
    clock : callable
        Monotonic seconds.
    context : multiprocessing context
        How processes begin: spawned, unless many short-lived ones must share what they import.
    """

    def __init__(
        self,
        make_handlers: Callable[[], Handlers],
        clock: Callable[[], float] = time.monotonic,
        *,
        context: BaseContext = SPAWNED,
    ) -> None:
        self._make_handlers, self._clock, self._context = make_handlers, clock, context
        self._watch: Callable[[int | None], None] | None = None
        self._process: BaseProcess | None = None
        self._connection: Connection | None = None
        self._queue: deque[_Job] = deque()
        self._running: _Job | None = None
        self._count = 0

    def watch(self, watcher: Callable[[int | None], None]) -> None:
        """Tell ``watcher`` the pipe's descriptor now and whenever it changes."""
        self._watch = watcher
        if self._connection is not None:
            watcher(self._connection.fileno())

    def start(self) -> None:
        """Start the process if none runs."""
        if self._process is not None:
            return
        ours, theirs = self._context.Pipe()
        self._process = self._context.Process(  # type: ignore[attr-defined]
            target=serve, args=(theirs, self._make_handlers), daemon=True, name="jigwright-worker"
        )
        self._process.start()
        theirs.close()
        self._connection = ours
        if self._watch is not None:
            self._watch(ours.fileno())

    @property
    def busy(self) -> bool:
        """Whether a job runs or waits."""
        return self._running is not None or bool(self._queue)

    def submit(
        self,
        job: str,
        request: Any,
        *,
        done: Callable[[Any], None],
        failed: Callable[[Exception], None],
        progress: Progress | None = None,
        patience_s: float = PATIENCE_S,
        urgent: bool = False,
        gives_way: bool = False,
    ) -> int:
        """Queue a job; its callbacks are called from :meth:`pump`.

        Parameters
        ----------
        job : str
        request
        done, failed, progress : callable
        patience_s : float
            Without a sign of life for so long it is ended, and fails.
        urgent : bool
            Somebody waits with an instrument in his hands: it goes before jobs that are not, and
            one that gives way is begun anew after it.
        gives_way : bool
            It may be begun anew later.
        """
        self._count += 1
        new = _Job(self._count, job, request, done, failed, progress, patience_s, urgent, gives_way)
        if urgent:
            ahead = sum(1 for j in self._queue if j.urgent)
            self._queue.insert(ahead, new)
            running = self._running
            if running is not None and running.gives_way and not running.urgent:
                self._running = None
                self._queue.insert(ahead + 1, running)
                self._kill()
        else:
            self._queue.append(new)
        self._next()
        return self._count

    def end_overdue(self) -> None:
        """End the running job if it has given no sign of life for too long."""
        job = self._running
        if job is None or self._clock() - job.alive_s <= job.patience_s:
            return
        self._running = None
        self._kill()
        job.failed(JobTooLongError(f"{job.name}: nothing for {job.patience_s:.0f} s"))
        self._next()

    def cancel(self, number: int) -> None:
        """Drop a waiting job, or kill the process if it is the running one."""
        self._queue = deque(j for j in self._queue if j.number != number)
        if self._running is not None and self._running.number == number:
            self._running = None
            self._kill()
            self._next()

    def pump(self, timeout_s: float = 0.0) -> None:
        """Deliver what the worker has sent."""
        while self._connection is not None:
            try:
                if not self._connection.poll(timeout_s):
                    return
                number, kind, value = self._connection.recv()
            except (EOFError, OSError):
                self._died()
                return
            timeout_s = 0.0
            if kind == "log":
                LOGGER.error("%s", value)
                continue
            job = self._running
            if job is None or job.number != number:
                continue
            job.alive_s = self._clock()
            if kind == "progress":
                if job.progress is not None:
                    job.progress(value)
                continue
            self._running = None
            self._next()
            if kind == "done":
                job.done(value)
            else:
                job.failed(value)

    def close(self) -> None:
        """Stop the process; waiting jobs are dropped."""
        self._queue.clear()
        self._running = None
        self._kill()

    def _next(self) -> None:
        if self._running is not None or not self._queue:
            return
        self.start()
        assert self._connection is not None
        self._running = self._queue.popleft()
        self._running.alive_s = self._clock()
        try:
            self._connection.send((self._running.number, self._running.name, self._running.request))
        except OSError:
            self._died()

    def _died(self) -> None:
        job, self._running = self._running, None
        self._kill()
        if job is not None:
            job.failed(WorkerDiedError(f"the worker stopped during {job.name!r}"))
        self._next()

    def _kill(self) -> None:
        if self._watch is not None:
            self._watch(None)
        if self._connection is not None:
            self._connection.close()
            self._connection = None
        if self._process is not None:
            self._process.terminate()
            self._process.join(2.0)
            if self._process.is_alive():
                self._process.kill()
                self._process.join()
            self._process.close()
            self._process = None
