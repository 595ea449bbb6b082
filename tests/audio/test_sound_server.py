"""A real sound server without hardware: a known take is played into it and recorded from it."""

from __future__ import annotations

import os
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import pytest
import soundfile

from jigwright.audio.capture import capture, server_sources
from jigwright.audio.lab import NoLabError, lab_environment, lab_server
from jigwright.core.delay_sweep import LoopDelay, probe
from jigwright.core.music.instruments import instrument
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.sound.loop_delay import find_delay
from jigwright.services.recording import CaptureRequest, CaptureState
from jigwright.work.stream import StreamProcess
from signals import perform, scale


@pytest.fixture
def server(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    folder = Path(os.environ.get("TMPDIR", "/tmp")) / f"jw-{os.getpid()}"
    for name, value in lab_environment(folder).items():
        monkeypatch.setenv(name, value)
    try:
        with lab_server(folder, dict(os.environ)):
            yield folder
    except NoLabError as why:
        pytest.skip(str(why))


def wait_for(stream: StreamProcess, seen: list[CaptureState], what, limit_s: float = 20.0) -> None:
    end = time.monotonic() + limit_s
    while time.monotonic() < end:
        states, ended = stream.messages()
        seen += states
        if what(seen) or ended:
            return
        time.sleep(0.02)


@contextmanager
def recording(to: Path) -> Iterator[tuple[StreamProcess, list[CaptureState]]]:
    """The application's recorder at work on the server's microphone."""
    quiet = subprocess.Popen(  # a null sink without a player works in blocks of seconds
        ["pacat", "--raw", "--rate=48000", "--channels=1", "/dev/zero"],
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    stream = StreamProcess(capture)
    seen: list[CaptureState] = []
    try:
        stream.start(CaptureRequest(device_id="microphone", to=to))
        wait_for(stream, seen, lambda s: bool(s) and (s[-1].seconds > 0.3 or not s[-1].running))
        if seen and seen[-1].trouble:
            pytest.skip(f"the recorder cannot reach the sound server here: {seen[-1].detail}")
        yield stream, seen
    finally:
        stream.close()
        quiet.terminate()
        quiet.wait(5)


def test_what_is_played_into_the_server_is_what_is_recorded(server: Path, tmp_path: Path) -> None:
    assert "microphone" in [name for name, _ in server_sources() or []]
    performance = perform(scale(tempo=150), "detune spread_cents=6")
    wav, to = tmp_path / "play.wav", tmp_path / "recorded.wav"
    soundfile.write(wav, performance.sound.samples, performance.sound.rate_hz, subtype="FLOAT")
    with recording(to) as (stream, seen):
        subprocess.run(["paplay", str(wav)], check=True, timeout=60)
        length = len(performance.sound.samples) / performance.sound.rate_hz
        wait_for(stream, seen, lambda s: s[-1].seconds > length + 0.3)
    assert seen[-1].n_overflows == 0
    x, rate = soundfile.read(to, dtype="float32", always_2d=True)
    heard = hear(choose_signal(x, rate), instrument("violin"), lowest_open_hz=196.0)
    truth = performance.notes
    assert len(heard.segments) == len(truth)
    for segment, note in zip(heard.segments, truth, strict=True):
        assert abs(1200 * np.log2(segment.f0_hz / note.f0_hz)) < 1.5
    gaps = np.diff([s.onset_s for s in heard.segments]) - np.diff([n.onset_s for n in truth])
    assert np.max(np.abs(gaps)) < 0.03


def test_a_source_that_is_pulled_out_ends_the_recording_with_a_word(
    server: Path, tmp_path: Path
) -> None:
    to = tmp_path / "recorded.wav"
    with recording(to) as (stream, seen):
        subprocess.run(["pactl", "unload-module", "module-remap-source"], check=True, timeout=10)
        wait_for(stream, seen, lambda s: not s[-1].running)
    assert seen[-1].trouble == "lost_device"
    assert soundfile.info(to).duration > 0.2


def test_the_probe_is_found_on_its_way_through_the_server(server: Path, tmp_path: Path) -> None:
    wav, to = tmp_path / "probe.wav", tmp_path / "recorded.wav"
    soundfile.write(wav, probe(48_000), 48_000, subtype="FLOAT")
    with recording(to) as (stream, seen):
        zero_s = seen[-1].zero_s
        assert zero_s is not None
        played_at_s = time.monotonic() - zero_s
        subprocess.run(["paplay", str(wav)], check=True, timeout=60)
        wait_for(stream, seen, lambda s: s[-1].seconds > played_at_s + 4.0)
    x, rate = soundfile.read(to, dtype="float32")
    found = find_delay(x, rate, played_at_s)
    assert isinstance(found, LoopDelay)
    assert 0.0 < found.seconds < 1.5
    assert found.uncertainty_s < 1e-3
