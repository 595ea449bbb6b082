"""An interruption is seen, can be held back, and is never lost."""

from __future__ import annotations

import signal
import sys
import time
from collections.abc import Iterator

import pytest

from jigwright.cli import main
from jigwright.commands.interruptions import INTERRUPTIONS, Interruptions


@pytest.fixture
def fresh() -> Iterator[Interruptions]:
    before, hook = signal.getsignal(signal.SIGINT), sys.unraisablehook
    signal.signal(signal.SIGINT, signal.default_int_handler)
    one = Interruptions()
    one.install()
    sys.unraisablehook = one.unraisable  # a test's own place for them is not in the way
    yield one
    signal.signal(signal.SIGINT, before)
    sys.unraisablehook = hook


def test_it_comes_at_once(fresh: Interruptions) -> None:
    assert not fresh.seen
    with pytest.raises(KeyboardInterrupt):
        signal.raise_signal(signal.SIGINT)  # to this very thread
    assert fresh.seen


def test_held_back_it_comes_after(fresh: Interruptions) -> None:
    reached = []

    def work() -> None:
        with fresh.held():
            signal.raise_signal(signal.SIGINT)  # to this very thread
            reached.append("end")

    with pytest.raises(KeyboardInterrupt):
        work()
    assert reached == ["end"]
    assert signal.SIGINT not in signal.pthread_sigmask(signal.SIG_BLOCK, ())


def test_nothing_came(fresh: Interruptions) -> None:
    with fresh.held():
        pass
    assert not fresh.seen


def test_who_wants_it_ignored_is_obeyed() -> None:
    before = signal.signal(signal.SIGINT, signal.SIG_IGN)
    Interruptions().install()
    assert signal.getsignal(signal.SIGINT) is signal.SIG_IGN
    signal.signal(signal.SIGINT, before)


def test_an_error_made_of_an_interruption_is_one_line(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    def broken(_: object) -> int:
        raise ImportError("initialization failed")

    monkeypatch.setattr("jigwright.cli._run", broken)
    with pytest.raises(ImportError):
        main(["jig", "list"])
    monkeypatch.setattr(INTERRUPTIONS, "seen", True)
    assert main(["jig", "list"]) == 130
    assert capsys.readouterr().err == "jigwright: interrupted; nothing was written half\n"


def test_one_that_falls_where_nothing_can_be_raised_comes_again(
    fresh: Interruptions, capsys: pytest.CaptureFixture[str]
) -> None:
    class Falling:
        def __del__(self) -> None:
            signal.raise_signal(signal.SIGINT)  # as in a callback of the interpreter

    def work() -> None:
        Falling()
        end = time.monotonic() + 30
        while time.monotonic() < end:
            pass

    with pytest.raises(KeyboardInterrupt):
        work()
    assert capsys.readouterr().err == ""


def test_other_errors_where_none_can_be_raised_are_told(
    fresh: Interruptions, capsys: pytest.CaptureFixture[str]
) -> None:
    told = []

    class Falling:
        def __del__(self) -> None:
            told.append("seen")
            raise ValueError("a fault of ours")

    Falling()
    assert told == ["seen"]
    assert "a fault of ours" in capsys.readouterr().err
