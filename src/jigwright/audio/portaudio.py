"""PortAudio with a limit of time: a sound system that does not answer holds nothing up.

Initialising the library opens every sound system it was built for, and one of them may wait for
ever: the clients of one keep a data base in shared memory whose lock outlives a client that was
killed while it held it. So the library is loaded on a thread of its own, nobody waits longer for
it than the limit, and a process that is loading it is given time to finish.
"""

from __future__ import annotations

import importlib
import subprocess
import sys
import threading
from collections.abc import Callable, Sequence
from typing import Any

_LIMIT_S = 6.0
_LIST = (
    "import sounddevice as s\n"
    "print(s.query_devices(kind='input')['name']"
    " if any(d['max_input_channels'] for d in s.query_devices()) else '')"
)


class NoSoundSystemError(Exception):
    """The library is missing, refuses to start, or the sound system gives no answer."""


class _Loading:
    def __init__(self, load: Callable[[], Any], *, lasting: bool) -> None:
        self._load = load
        self._library: Any = None
        self._error: Exception | None = None
        self._thread = threading.Thread(target=self._run, daemon=not lasting, name="portaudio")
        self._thread.start()

    def _run(self) -> None:
        try:
            self._library = self._load()
        except Exception as error:
            self._error = error

    def wait(self, limit_s: float) -> Any:
        self._thread.join(limit_s)
        if self._thread.is_alive():
            raise NoSoundSystemError(f"the sound system gives no answer within {limit_s:g} s")
        if self._error is not None:
            raise NoSoundSystemError(str(self._error)) from self._error
        return self._library


class PortAudio:
    """The library of this process, loaded once.

    Parameters
    ----------
    load : callable
        Returns the library; may take for ever.
    limit_s : float
        Seconds anybody waits for it.
    """

    def __init__(
        self,
        load: Callable[[], Any] = lambda: importlib.import_module("sounddevice"),
        limit_s: float = _LIMIT_S,
    ) -> None:
        self._load, self._limit_s = load, limit_s
        self._loading: _Loading | None = None

    def begin(self, *, lasting: bool) -> None:
        """Begin to load it; with ``lasting`` the process does not end before that is done."""
        if self._loading is None:
            self._loading = _Loading(self._load, lasting=lasting)

    def library(self) -> Any:
        """Return the library.

        Raises
        ------
        NoSoundSystemError
        """
        self.begin(lasting=False)
        assert self._loading is not None
        return self._loading.wait(self._limit_s)


PORTAUDIO = PortAudio()


def begin_portaudio() -> None:
    """Begin to load the library of this process, which lasts until that is done."""
    PORTAUDIO.begin(lasting=True)


def default_input(
    program: Sequence[str] = (sys.executable, "-X", "utf8", "-c", _LIST), limit_s: float = _LIMIT_S
) -> str:
    """Name of the default input, empty when there is none or nobody answers.

    Asked in a process of its own: the one that asks may be ended at any time.
    """
    try:
        done = subprocess.run(
            list(program), capture_output=True, encoding="utf-8", errors="replace",
            timeout=limit_s, check=False,
        )  # fmt: skip
    except (OSError, subprocess.TimeoutExpired):
        return ""
    lines = done.stdout.splitlines()  # the last one, though it be empty
    return lines[-1].strip() if done.returncode == 0 and lines else ""
