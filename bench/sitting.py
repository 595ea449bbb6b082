"""A sitting in a window of its own process, for ``bench/faults.py`` to disturb; and its recovery.

sitting.py play STUDIO CACHE --mode jig|lesson --speed 4 [--device NAME]
    says a line of JSON every few hundredths of a second; takes ``stop`` and ``close``
sitting.py recover STUDIO CACHE
    opens the window again, makes takes of all that was left behind, says what it found
"""

from __future__ import annotations

import argparse
import json
import os
import sys
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QSocketNotifier, QTimer
from PyQt6.QtWidgets import QApplication

from jigwright.audio.capture import capture
from jigwright.audio.output import RecordingOutput
from jigwright.audio.portaudio import begin_portaudio
from jigwright.handlers import make_handlers
from jigwright.listening import listen
from jigwright.services.failure_log import FailureLog
from jigwright.services.recording import SIMULATED, InputDevice
from jigwright.store.opening import open_studio
from jigwright.ui.app import Outside, _install_hook, make_window
from jigwright.work.process import WorkerProcess
from jigwright.work.stream import StreamProcess

_IDLE_S = 1.5
_LIMIT_S = 3600.0


def _window(options: argparse.Namespace):
    studio = open_studio(options.studio)
    log = FailureLog(options.studio)
    outside = Outside(
        studio=studio, worker=WorkerProcess(make_handlers), output=RecordingOutput,
        cache=options.cache, capture=lambda: StreamProcess(capture, begin=begin_portaudio),
        ear=lambda: StreamProcess(listen, modules=("jigwright.services.ear",)),
    )  # fmt: skip
    window = make_window(outside)
    window.show()
    return studio, window, log


def _say(**what: object) -> None:
    sys.stdout.write(json.dumps(what) + "\n")
    sys.stdout.flush()


def play(options: argparse.Namespace) -> None:
    app = QApplication([])
    _install_hook()
    studio, window, log = _window(options)
    window.go("stand")
    stand = window.stand_model
    device = options.device or SIMULATED
    stand.choose_device(InputDevice(id=device, name=device))
    stand.speed = options.speed
    if options.mode == "lesson":
        stand.set_mode("lesson")
    stand.toggle()

    def status() -> None:
        open_now = stand._streams._open
        worker = window.jobs._worker._process
        _say(
            state=stand.state, listening=stand.listening, seconds=stand.live.level.seconds,
            recording=stand.growing.path.stem if stand.growing is not None else None,
            recorder=open_now[0].pid if open_now else None,
            ear=open_now[1].pid if open_now else None,
            worker=worker.pid if worker is not None else None,
            busy=bool(stand.keeper.alive) or window.jobs.busy, takes=len(studio.takes()),
            message=window.strip.message.text(),
        )  # fmt: skip

    def heed(_: object) -> None:
        # all that has come: what Python's own buffer held back would wake nobody
        words = os.read(sys.stdin.fileno(), 4096).decode().split() or ["close"]
        for word in words:
            if (word == "stop" and stand.listening) or (word == "begin" and not stand.listening):
                stand.toggle()
            elif word == "close":
                window.close()
                app.quit()

    notifier = QSocketNotifier(sys.stdin.fileno(), QSocketNotifier.Type.Read)
    notifier.activated.connect(heed)
    timer = QTimer()
    timer.timeout.connect(status)
    timer.start(40)
    app.exec()
    studio.close()
    log.close()


def recover(options: argparse.Namespace) -> None:
    app = QApplication([])
    _install_hook()
    studio, window, log = _window(options)
    left, began, idle = window.leftovers, time.monotonic(), [time.monotonic()]
    offered = [one.path.name for one in left.waiting]

    def go_on() -> None:
        busy = left.busy is not None or window.jobs.busy or window.stand_model.keeper.alive
        if not busy and left.offered is not None:
            (left.keep_whole if left.found_silent else left.keep)()
            busy = True
        now = time.monotonic()
        idle[0] = now if busy else idle[0]
        if now - idle[0] > _IDLE_S or now - began > _LIMIT_S:
            app.quit()

    timer = QTimer()
    timer.timeout.connect(go_on)
    timer.start(30)
    app.exec()
    cuts = [list(r) for r in studio._db.execute("SELECT recording, start_s, stop_s FROM cut")]
    folder = options.studio / "recording"
    stays = sorted(p.name for p in folder.iterdir()) if folder.is_dir() else []
    _say(
        offered=offered, cuts=cuts, takes=len(studio.takes()), stays=stays,
        problems=studio.check(), seconds=time.monotonic() - began,
    )  # fmt: skip
    window.close()
    studio.close()
    log.close()


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("what", choices=("play", "recover"))
    parser.add_argument("studio", type=Path)
    parser.add_argument("cache", type=Path)
    parser.add_argument("--mode", default="jig")
    parser.add_argument("--speed", type=float, default=1.0)
    parser.add_argument("--device", default="")
    options = parser.parse_args()
    (play if options.what == "play" else recover)(options)


if __name__ == "__main__":
    main()
