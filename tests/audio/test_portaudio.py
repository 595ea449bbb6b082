from __future__ import annotations

import sys
import threading
from pathlib import Path

import pytest

from jigwright.audio import capture as capture_module
from jigwright.audio import output as output_module
from jigwright.audio.output import RecordingOutput, open_output
from jigwright.audio.portaudio import NoSoundSystemError, PortAudio, default_input
from jigwright.services.recording import CaptureRequest, CaptureState


class Pipe:
    """The window's end of a recorder's pipe."""

    def __init__(self) -> None:
        self.sent: list[CaptureState] = []

    def poll(self, _timeout: float = 0.0) -> bool:
        return False

    def send(self, state: CaptureState) -> None:
        self.sent.append(state)


@pytest.fixture
def dumb():
    """A sound system that gives no answer until the test is over."""
    over = threading.Event()
    yield PortAudio(lambda: over.wait(60), limit_s=0.05)
    over.set()


def test_the_library_is_loaded_once_and_by_whoever_needs_it_first() -> None:
    n = []
    here = PortAudio(lambda: n.append(1) or "library", limit_s=20.0)
    here.begin(lasting=True)
    assert (here.library(), here.library()) == ("library", "library")
    assert n == [1]


def test_a_library_that_does_not_start_says_why_each_time() -> None:
    def fail() -> None:
        raise OSError("PortAudio library not found")

    here = PortAudio(fail, limit_s=20.0)
    for _ in range(2):
        with pytest.raises(NoSoundSystemError, match="PortAudio library not found"):
            here.library()


def test_a_sound_system_without_an_answer_is_waited_for_no_longer_than_the_limit(dumb) -> None:
    with pytest.raises(NoSoundSystemError, match=r"no answer within 0\.05 s"):
        dumb.library()


def test_what_is_begun_to_last_holds_its_process_and_nothing_else_does() -> None:
    over, before = threading.Event(), set(threading.enumerate())
    lasting, passing = PortAudio(lambda: over.wait(60)), PortAudio(lambda: over.wait(60), 0.01)
    lasting.begin(lasting=True)
    passing.begin(lasting=False)
    threads = set(threading.enumerate()) - before
    assert sorted(t.daemon for t in threads) == [False, True]
    over.set()
    for thread in threads:
        thread.join(20)


def test_recording_from_it_ends_with_a_word_and_an_empty_file(
    dumb, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setattr(capture_module, "PORTAUDIO", dumb)
    pipe = Pipe()
    capture_module.capture(pipe, CaptureRequest(device_id="", to=tmp_path / "a.wav"))  # type: ignore[arg-type]
    assert [s.running for s in pipe.sent] == [False]
    assert pipe.sent[0].trouble == "no_device"
    assert "no answer" in pipe.sent[0].detail
    assert (tmp_path / "a.wav").exists()


def test_the_window_plays_into_the_stand_in_then(dumb, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(output_module, "PORTAUDIO", dumb)
    assert isinstance(open_output(), RecordingOutput)


@pytest.mark.parametrize(
    ("program", "name"),
    [
        ("print('a warning'); print('Desk microphone')", "Desk microphone"),
        ("print('')", ""),
        ("print('a warning'); print('')", ""),
        ("import sys; sys.stdout.buffer.write('Flügel'.encode())", "Flügel"),
        ("import sys; sys.stdout.buffer.write(b'caf\\xe9')", "caf\ufffd"),
        ("print('Desk microphone'); raise SystemExit(1)", ""),
        ("raise ImportError", ""),
    ],
)
def test_the_default_input_is_asked_for_outside(program: str, name: str) -> None:
    assert default_input((sys.executable, "-c", program), limit_s=30.0) == name


def test_no_answer_and_no_program_are_no_input() -> None:
    assert default_input((sys.executable, "-c", "input()"), limit_s=30.0) == ""  # nobody types
    assert default_input(("sh", "-c", "read x < /dev/zero"), limit_s=0.05) == ""
    assert default_input(("/nowhere/at/all",)) == ""


def test_inputs_are_the_servers_own_else_the_default_one(monkeypatch: pytest.MonkeyPatch) -> None:
    listed = [("hall.monitor", "Monitor"), ("desk", "Desk microphone")]
    monkeypatch.setattr(capture_module, "server_sources", lambda: listed)
    monkeypatch.setattr(capture_module, "default_input", lambda: "never asked")
    assert [(i.id, i.name) for i in capture_module.list_inputs()] == [("desk", "Desk microphone")]
    monkeypatch.setattr(capture_module, "server_sources", lambda: None)
    monkeypatch.setattr(capture_module, "default_input", lambda: "Built-in")
    assert [(i.id, i.name) for i in capture_module.list_inputs()] == [("", "Built-in")]
    monkeypatch.setattr(capture_module, "default_input", lambda: "")
    assert capture_module.list_inputs() == ()
