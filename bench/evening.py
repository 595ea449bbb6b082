"""An evening, the next morning and the week after, by a pedal and by sound alone.

A real window and a sound server of its own. The session of an empty studio is begun by the right
pedal and led through as the Stand leads: every exercise is played by the simulated player, once
with one note out of tune, then clean, until the session goes on by itself. Then the window is
closed, the calendar moved, and the window opened again. What is said is written down with its
second, every step is a picture. Judge it by reading and looking.

python bench/evening.py --pictures FOLDER [--minutes 20] [--instrument violin]
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import tempfile
import time
from collections import Counter
from datetime import datetime, timedelta
from pathlib import Path

if not os.environ.get("DISPLAY"):
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from jigwright.audio.capture import capture
from jigwright.audio.files import SndFiles
from jigwright.audio.lab import MICROPHONE, lab_environment, lab_server
from jigwright.audio.output import RecordingOutput
from jigwright.audio.portaudio import begin_portaudio
from jigwright.core.jig.model import Jig
from jigwright.core.judge.plan import WORKED
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import parse_reference, pure_strings
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play
from jigwright.handlers import make_handlers
from jigwright.listening import listen
from jigwright.services import moments, sitting
from jigwright.services.recording import InputDevice
from jigwright.services.records import OwnedInstrument, Player
from jigwright.store.opening import open_studio
from jigwright.ui.app import Outside, make_window
from jigwright.ui.viewmodels.stand import after_take
from jigwright.ui.widgets import today_page
from jigwright.work.process import WorkerProcess
from jigwright.work.stream import StreamProcess

_ROOM = "noise snr_db=45; room rt60_s=0.3 wet_db=-8 n_early=6"
_OFF = "detune notes={n} cents=-28"
_RIGHT, _LEFT = Qt.Key.Key_PageDown, Qt.Key.Key_PageUp
_BREAK_S = 6.0
_LONGEST_ITEM_S = 900.0


def move_calendar(days: float) -> None:
    """From now on every moment the program asks for lies so many days later."""

    class Later(datetime):
        @classmethod
        def now(cls, tz=None):
            return datetime.now(tz) + timedelta(days=days)

    for module in (moments, sitting, after_take, today_page):
        module.datetime = Later  # type: ignore[attr-defined]


class Evening:
    """One window, and what is seen in it."""

    def __init__(self, app: QApplication, scratch: Path, options: argparse.Namespace) -> None:
        self.app, self.options = app, options
        self.studio = open_studio(scratch / "studio")
        if not self.studio.players():
            self.studio.add_player(Player(id="p", name="Nell Harbour"))
            kind = options.instrument
            self.studio.add_instrument(
                OwnedInstrument(id="i", name="", kind=kind, strings=instrument(kind).strings)
            )
        self.window = make_window(
            Outside(
                studio=self.studio, worker=WorkerProcess(make_handlers), output=RecordingOutput,
                cache=scratch / "cache",
                capture=lambda: StreamProcess(capture, begin=begin_portaudio),
                ear=lambda: StreamProcess(listen, modules=("jigwright.services.ear",)),
            )
        )  # fmt: skip
        self.window.resize(1280, 800)
        self.window.show()
        self.window.activateWindow()
        self.scratch = scratch
        self.began = time.monotonic()
        self._words: tuple[str, str] | None = None
        self._n_pictures = 0

    @property
    def walk(self):
        return self.window.stand_model.walk

    def tell(self, text: str) -> None:
        print(f"{time.monotonic() - self.began:7.1f}  {text}", flush=True)

    def picture(self, name: str) -> None:
        self._n_pictures += 1
        self.live(0.3)
        if self.options.pictures is not None:
            path = self.options.pictures / f"{name}.png"
            self.window.grab().save(str(path))

    def press(self, key: Qt.Key) -> None:
        self.tell(f"[{'right' if key == _RIGHT else 'left'} pedal]")
        QTest.keyClick(QApplication.focusWidget() or self.window, key)

    def look(self) -> None:
        """Write down what the Stand says when it says something else."""
        if self.window._places.currentWidget() is not self.window.stand:
            return
        words = self.window.stand.words()
        if any(words) and words != self._words:
            self._words = words
            self.tell(" – ".join(w for w in words if w))

    def live(self, seconds: float, until=lambda: False) -> bool:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            self.app.processEvents()
            self.look()
            if until():
                return True
            time.sleep(0.01)
        return until()

    def wait_beyond(self, at: int, seconds: float) -> bool:
        """Whether the session has gone on by itself within so many seconds."""
        return self.live(seconds, lambda: self.walk.run is None or self.walk.run.at != at)

    def today(self) -> None:
        """What the page of today says."""
        self.window.go("daybook")
        self.window.daybook.turn("today")
        self.live(0.5)
        for item in self.window.daybook_model.items:
            self.tell(f"    {item.minutes:4.1f} min  {item.part}  {item.jig_id or item.title}  "
                      f"{item.why}")  # fmt: skip

    def sound(self, jig: Jig | None, fault: str, seed: int) -> Path:
        path = self.scratch / "played.wav"
        if jig is None:  # the open strings, one after the other
            strings = pure_strings(instrument(self.options.instrument).strings, 440.0).values()
            t = np.arange(round(2.5 * 48_000)) / 48_000
            edge = np.clip(np.minimum(t, t[::-1]) / 0.05, 0.0, 1.0)
            parts = [
                0.1 * edge * sum(np.sin(2 * np.pi * k * f * t + k * k) / k for k in range(1, 12))
                for f in strings
            ]
            silence = np.zeros(round(0.7 * 48_000))
            x = np.concatenate([np.concatenate([p, silence]) for p in parts])
            SndFiles().write_wav(path, x[:, None].astype(np.float32), 48_000)
            return path
        fault = fault.replace("{n}", str(max(1, len(jig.events) // 2)))
        made = play(
            jig, seed=seed, faults=parse_faults("; ".join(t for t in (fault, _ROOM) if t)),
            reference=parse_reference(jig.reference),
        )  # fmt: skip
        SndFiles().write_wav(path, made.sound.samples, made.sound.rate_hz)
        return path

    def play_once(self, jig: Jig | None, fault: str, seed: int) -> None:
        stand = self.window.stand_model
        before = len(self.studio.takes())
        path = self.sound(jig, fault, seed)
        self.tell(f"(plays{': ' + fault if fault else ', clean'})")
        player = subprocess.Popen(["paplay", "--device=hall", str(path)])
        self.live(400.0, lambda: player.poll() is not None)
        if jig is not None:
            self.live(15.0, lambda: stand.state == "waiting" and stand.told.verdict is not None
                      and len(self.studio.takes()) > before)  # fmt: skip
            made = len(self.studio.takes()) - before
            if made != 1:
                self.tell(f"    !! {made} takes of it")
        self.live(2.0)

    def lead(self, name: str, *, most_items: int = 99) -> None:
        """Through a session, as it leads."""
        stand, seen, takes = self.window.stand_model, -1, Counter[int]()
        while self.walk.run is not None and self.walk.leg is not None:
            at, leg = self.walk.run.at, self.walk.leg
            if at != seen:
                seen = at
                if at >= most_items:
                    return
                self.tell(f"== {leg.item.part} ({leg.item.minutes:g} min) {self.walk.line}")
                self.live(2.0)
                self.picture(f"{name}_{at}_{leg.item.part}")
                entered = time.monotonic()
            if time.monotonic() - entered > _LONGEST_ITEM_S:
                self.tell("    !! it never ended")
                return
            if leg.item.part == "strings":
                self.live(40.0, lambda: stand.listening)
                self.play_once(None, "", 0)
                self.wait_beyond(at, 8.0)
            elif leg.item.part in WORKED and self.window.session.now.jig is not None:
                if self.walk.asks:
                    self.picture(f"{name}_{at}_asks")
                    self.wait_beyond(at, 8.0)
                    continue
                self.live(40.0, lambda: stand.state == "waiting")
                jig = self.window.session.now.jig
                self.play_once(jig, _OFF if not takes[at] else "", 100 * at + takes[at])
                takes[at] += 1
                if takes[at] <= 2:
                    self.picture(f"{name}_{at}_take{takes[at]}")
            else:
                if not self.wait_beyond(at, _BREAK_S):
                    self.press(_RIGHT)
                self.live(1.0)
        self.live(1.0)

    def close(self) -> None:
        self.window.stand_model.stop()
        self.live(20.0, lambda: not self.window.jobs.busy)
        self.window.close()
        self.studio.close()


def main() -> int:
    """Live through it."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pictures", type=Path, default=None)
    parser.add_argument("--minutes", type=int, default=20)
    parser.add_argument("--instrument", default="violin")
    options = parser.parse_args()
    if options.pictures is not None:
        options.pictures.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="je", dir="/tmp") as folder:
        scratch = Path(folder)
        hall = scratch / "h"
        with lab_server(hall, {**os.environ, **lab_environment(hall)}):
            os.environ.update(lab_environment(hall))
            app = QApplication([])
            for name, days in (("evening", 0.0), ("morning", 0.6), ("week", 7.6)):
                print(f"\n{name}")
                move_calendar(days)
                evening = Evening(app, scratch, options)
                evening.window.stand_model.choose_device(
                    InputDevice(id=MICROPHONE, name=MICROPHONE)
                )
                if name == "evening":
                    model = evening.window.daybook_model
                    model.load()
                    model.set_plan(minutes=options.minutes)
                evening.today()
                evening.picture(f"{name}_today")
                if name != "week":
                    evening.press(_RIGHT)
                    evening.live(1.0)
                    evening.lead(name, most_items=99 if name == "evening" else 2)
                if name == "morning":
                    QTest.keyClick(evening.window.stand.sheet, Qt.Key.Key_Escape)
                    evening.live(1.0)
                evening.picture(f"{name}_end")
                evening.today()
                evening.picture(f"{name}_after")
                evening.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
