"""The ear process: follows a growing recording and says what it hears (composition of adapters)."""

from __future__ import annotations

import contextlib
import time
from multiprocessing.connection import Connection

from jigwright.audio.wav_stream import WavTail
from jigwright.services.recording import EarRequest


def listen(connection: Connection, request: EarRequest) -> None:
    """Body of the process: reads the file as it grows until the pipe closes."""
    from jigwright.services.ear import Ear

    deadline = time.monotonic() + 10.0
    tail: WavTail | None = None
    while tail is None:
        try:
            tail = WavTail(request.path, request.from_s)
        except (OSError, ValueError):
            if time.monotonic() > deadline or _closed(connection):
                return
            time.sleep(0.01)
    ear = Ear(request, tail.rate_hz)
    while not _closed(connection):
        block = tail.read()
        if not len(block):
            time.sleep(0.006)
            continue
        connection.send(ear.hear(block))
    tail.close()


def _closed(connection: Connection) -> bool:
    if not connection.poll(0):
        return False
    with contextlib.suppress(EOFError, OSError):
        connection.recv()
    return True
