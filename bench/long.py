"""A long recording through a sound server without hardware, with the ear listening.

Counts lost blocks, says how far the ear is behind and how much memory both processes take. With
``--pace`` the simulated player hands the same sound over faster than real time instead, for the
memory of very long recordings.

    python bench/long.py [--minutes 30] [--pace 3]
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import soundfile

from jigwright.audio.capture import capture
from jigwright.audio.lab import MICROPHONE, NoLabError, lab_environment, lab_server
from jigwright.core.jig.scales import make_scale
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play
from jigwright.listening import listen
from jigwright.services.recording import SIMULATED, CaptureRequest, EarRequest
from jigwright.work.stream import StreamProcess


def resident_mb(pid: int) -> float:
    for row in Path(f"/proc/{pid}/status").read_text().splitlines():
        if row.startswith("RssAnon"):  # without pages of files, which the system may drop
            return float(row.split()[1]) / 1024
    return float("nan")


def run(minutes: float, folder: Path, pace: float | None) -> None:
    jig = make_scale(jig_id="l", instrument_id="violin", key=Key(PitchClass("D")), tempo_bpm=72.0)
    sound = play(jig, seed=1, faults=parse_faults("detune spread_cents=6")).sound
    to = folder / "recorded.wav"
    times = int(np.ceil(minutes * 60 * sound.rate_hz / len(sound.samples))) + 1
    raw = folder / "play.raw"
    np.tile(sound.samples, times).astype("<f4").tofile(raw)
    player = None
    request = CaptureRequest(device_id=SIMULATED, to=to, play_raw=raw, speed=pace or 1.0)
    if pace is None:
        request = CaptureRequest(device_id=MICROPHONE, to=to)
        player = subprocess.Popen(
            ["pacat", "--raw", f"--rate={sound.rate_hz}", "--channels=1", "--format=float32le",
             str(raw)],
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
    recorder, ear = StreamProcess(capture), StreamProcess(listen)
    strings = instrument("violin").strings
    states, said, began = [], None, time.monotonic()
    try:
        recorder.start(request)
        ear.start(
            EarRequest(path=to, instrument_id="violin", strings=strings, a4_hz=440.0, jig=jig)
        )
        notes, behind, memory = 0, [], {"capture": 0.0, "ear": 0.0}
        while time.monotonic() - began < minutes * 60 / (pace or 1.0):
            states += recorder.messages()[0]
            states = states[-1:]
            for one in ear.messages()[0]:
                notes += len(one.notes)
                if one.frames:
                    said = one.frames[-1].time_s
            if states and said is not None:
                behind.append(states[-1].seconds - said)
                behind = behind[-200_000:]
            for name, stream in (("capture", recorder), ("ear", ear)):
                if stream.pid is not None:
                    memory[name] = max(memory[name], resident_mb(stream.pid))
            time.sleep(0.05)
    finally:
        ear.close()
        recorder.close()
        if player is not None:
            player.terminate()
            player.wait(5)
    took = time.monotonic() - began
    recorded = soundfile.info(to).duration
    print(
        f"{took / 60:.1f} min: {recorded:.1f} s recorded, {states[-1].n_overflows} blocks lost, "
        f"{notes} notes decided, the ear {np.median(behind):.2f} s behind (95 %: "
        f"{np.percentile(behind, 95):.2f}), memory {memory}"
    )


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=30.0)
    parser.add_argument("--pace", type=float, help="times real time, without a sound server")
    arguments = parser.parse_args()
    if arguments.pace is not None:
        with tempfile.TemporaryDirectory() as folder:
            run(arguments.minutes, Path(folder), arguments.pace)
        return 0
    lab = Path(os.environ.get("TMPDIR", "/tmp")) / f"jwl-{os.getpid()}"
    os.environ |= lab_environment(lab)
    try:
        with lab_server(lab, dict(os.environ)), tempfile.TemporaryDirectory() as folder:
            run(arguments.minutes, Path(folder), None)
    except NoLabError as why:
        print(why, file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
