"""A spawned process that sends messages while it runs, and ends when its pipe closes."""

from __future__ import annotations

import contextlib
import importlib
import os
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from multiprocessing.connection import Connection
from multiprocessing.context import BaseContext
from multiprocessing.process import BaseProcess
from typing import Any

from jigwright.core.isolation import LOGGER, failure_line
from jigwright.work.process import SPAWNED

_STOP = "stop"


@dataclass(frozen=True, slots=True)
class _Failure:
    """The body raised: a line for the log; the stream has ended."""

    line: str


def _serve(
    connection: Connection,
    body: Callable[[Connection, Any], None],
    modules: tuple[str, ...],
    begin: Callable[[], None] | None,
) -> None:
    for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
        os.environ.setdefault(name, "1")
    for name in modules:
        with contextlib.suppress(ImportError, OSError):  # the body says what is missing
            importlib.import_module(name)
    if begin is not None:
        begin()
    try:
        request = connection.recv()
        if request != _STOP:
            body(connection, request)
    except (KeyboardInterrupt, BrokenPipeError, EOFError):
        pass
    except Exception as error:  # the window is told, and sees the pipe close
        with contextlib.suppress(OSError):
            connection.send(_Failure(failure_line(f"process {body.__name__}", error)))
    finally:
        connection.close()


class StreamProcess:
    """The window's side of one such process.

    Parameters
    ----------
    body : callable
        Importable function of a connection and a request.
    modules : sequence of str
        Imported while it waits for its request.
    begin : callable, optional
        Importable; begins something that must not be broken off: a process that has only waited
        is given the time to finish it.
    context : multiprocessing context
        How the process begins.
    """

    def __init__(
        self,
        body: Callable[[Connection, Any], None],
        modules: Sequence[str] = (),
        *,
        begin: Callable[[], None] | None = None,
        context: BaseContext = SPAWNED,
    ) -> None:
        self._body, self._modules, self._context = body, tuple(modules), context
        self._begin = begin
        self._process: BaseProcess | None = None
        self._connection: Connection | None = None
        self._waits = False

    def prepare(self) -> None:
        """Start the process ahead of time: it waits for a request, everything imported."""
        if self._process is None:
            self._spawn()

    def start(self, request: Any) -> int:
        """Start it and return the descriptor to watch."""
        if not (self._waits and self.running):
            self.close()
            self._spawn()
        self._waits = False
        self.send(request)
        assert self._connection is not None
        return self._connection.fileno()

    def _spawn(self) -> None:
        ours, theirs = self._context.Pipe()
        self._process = self._context.Process(  # type: ignore[attr-defined]
            target=_serve, args=(theirs, self._body, self._modules, self._begin), daemon=True,
            name="jigwright-stream",
        )  # fmt: skip
        self._process.start()
        theirs.close()
        self._connection = ours
        self._waits = True

    @property
    def pid(self) -> int | None:
        """Number of the process, while there is one."""
        return None if self._process is None else self._process.pid

    @property
    def running(self) -> bool:
        """Whether the process is alive."""
        return self._process is not None and self._process.is_alive()

    def messages(self) -> tuple[list[Any], bool]:
        """What it has sent since the last call, and whether its end of the pipe has closed."""
        received: list[Any] = []
        while self._connection is not None:
            try:
                if not self._connection.poll(0):
                    return received, False
                message = self._connection.recv()
                if isinstance(message, _Failure):
                    LOGGER.error("%s", message.line)
                    continue
                received.append(message)
            except (EOFError, OSError):
                return received, True
        return received, True

    def send(self, message: Any) -> None:
        """Say something to it; silence when it is gone."""
        if self._connection is not None:
            try:
                self._connection.send(message)
            except OSError:
                return

    def close(self, *, patience_s: float = 2.0) -> None:
        """Close the pipe and wait; kill it if it does not end."""
        if self._process is None:
            return
        self.send(_STOP)
        at_once = self._waits and self._begin is None  # one that only waits has nothing open
        self._process.join(0 if at_once else patience_s)
        if self._process.is_alive():
            self._process.kill()
            self._process.join()
        if self._connection is not None:
            self._connection.close()
            self._connection = None
        self._process.close()
        self._process = None
