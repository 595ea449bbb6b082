"""An interruption is seen, can be held back, and is never lost."""

from __future__ import annotations

import signal
from collections.abc import Iterator

import pytest

from jigwright.cli import main
from jigwright.commands.interruptions import INTERRUPTIONS, Interruptions


@pytest.fixture
def fresh() -> Iterator[Interruptions]:
    before = signal.getsignal(signal.SIGINT)
    signal.signal(signal.SIGINT, signal.default_int_handler)
    one = Interruptions()
    one.install()
    yield one
    signal.signal(signal.SIGINT, before)


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
