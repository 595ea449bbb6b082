from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

import pytest

from jigwright.work.stream import StreamProcess

_FLAG = "JIGWRIGHT_TEST_STREAM"


def echo(connection: Connection, request: Any) -> None:
    """Say it back, then whatever else is said, until stop."""
    connection.send(request)
    while (said := connection.recv()) != "stop":
        connection.send(said)


def fail(_connection: Connection, request: Any) -> None:
    raise ValueError(request)


def begin() -> None:
    """Something that must not be broken off: the process lasts until it is done."""

    def work() -> None:
        folder = Path(os.environ[_FLAG])
        (folder / "begun").touch()
        end = time.monotonic() + 30
        while not (folder / "go").exists() and time.monotonic() < end:
            time.sleep(0.005)
        (folder / "done").touch()

    threading.Thread(target=work).start()


def wait(until: Callable[[], bool], seconds: float = 30.0) -> None:
    end = time.monotonic() + seconds
    while not until():
        assert time.monotonic() < end
        time.sleep(0.005)


def received(stream: StreamProcess, n: int) -> list[Any]:
    got: list[Any] = []

    def enough() -> bool:
        got.extend(stream.messages()[0])
        return len(got) >= n

    wait(enough)
    return got


def test_what_is_said_comes_back_in_order() -> None:
    stream = StreamProcess(echo)
    stream.start("a")
    stream.send("b")
    assert received(stream, 2) == ["a", "b"]
    stream.close()
    assert not stream.running
    assert stream.messages() == ([], True)


def test_one_that_was_prepared_is_the_one_that_starts() -> None:
    stream = StreamProcess(echo)
    stream.prepare()
    prepared = stream.pid
    stream.start(1)
    assert received(stream, 1) == [1]
    assert stream.pid == prepared
    stream.start(2)
    assert received(stream, 1) == [2]
    assert stream.pid != prepared
    stream.close()


@pytest.mark.fails_on_purpose
def test_a_body_that_raises_is_told_and_ends(caplog: pytest.LogCaptureFixture) -> None:
    stream = StreamProcess(fail)
    stream.start("no such thing")
    wait(lambda: stream.messages()[1])
    assert "no such thing" in caplog.text
    stream.close()


@pytest.fixture
def begun(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> StreamProcess:
    """A process that waits for its request while what it has begun goes on."""
    monkeypatch.setenv(_FLAG, str(tmp_path))
    stream = StreamProcess(echo, begin=begin)
    stream.prepare()
    wait((tmp_path / "begun").exists)
    return stream


def test_what_was_begun_is_not_broken_off_by_closing(begun: StreamProcess, tmp_path: Path) -> None:
    threading.Timer(0.2, (tmp_path / "go").touch).start()
    begun.close(patience_s=30.0)
    assert (tmp_path / "done").exists()


def test_what_never_ends_is_killed_after_all(begun: StreamProcess, tmp_path: Path) -> None:
    begun.close(patience_s=0.1)
    assert not begun.running
    assert not (tmp_path / "done").exists()
