"""A teacher's lesson by keys and sound alone: two pupils, one after the other.

A real window and a sound server of its own, as in ``evening.py``. During the week both pupils have
played their scale. At the lesson the teacher hears what is new with one key, opens a take, begins
a lesson with F8, plays and speaks; the pupil plays with a note out of tune; the phrase is kept, a
spoken remark held to it, the lesson ended, work set, and the next pupil comes. No mouse; places
and pages are gone to by call. What is said is written down with its second, every step is a
picture, and at the end what was kept is counted. Judge the rest by reading and looking.

python bench/lesson.py --pictures FOLDER [--instrument violin]
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication, QWidget

from evening import Evening, move_calendar
from jigwright.audio.files import SndFiles
from jigwright.audio.lab import MICROPHONE, lab_environment, lab_server
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play
from jigwright.services.moments import utc_now
from jigwright.services.recording import InputDevice
from jigwright.services.records import Player
from talk import RATE, voice

PUPILS = ("Nell Harbour", "Jory Vane")
_ROOM = "noise snr_db=45; room rt60_s=0.3 wet_db=-8 n_early=6"
_LINES = {
    "violin": "D4 E4 F#4 G4 A4 B4 C#5 D5", "viola": "D4 E4 F#4 G4 A4 B4 C#5 D5",
    "cello": "D3 E3 F#3 G3 A3 B3 C#4 D4", "bass": "A1 B1 C#2 D2 E2 F#2 G#2 A2",
}  # fmt: skip
_ACCESSIBLE_TABS = 60


class Lesson(Evening):
    """The window of a teacher."""

    def __init__(self, app: QApplication, scratch: Path, options: argparse.Namespace) -> None:
        super().__init__(app, scratch, options)
        self.rng = np.random.default_rng(5)
        for i, name in enumerate(PUPILS):
            if all(p.name != name for p in self.studio.players()):
                self.studio.add_player(Player(id=f"pupil{i}", name=name))

    def player(self, name: str) -> Player:
        return next(p for p in self.studio.players() if p.name == name)

    def key(self, key: Qt.Key, said: str = "") -> None:
        self.tell(f"[{said or Qt.Key(key).name}]")
        QTest.keyClick(QApplication.focusWidget() or self.window, key)
        self.live(0.4)

    def tab_to(self, name: str) -> QWidget | None:
        """Go on with the tab key until what has a name or a text is reached."""
        for _ in range(_ACCESSIBLE_TABS):
            at = QApplication.focusWidget()
            words = "" if at is None else at.accessibleName()
            if isinstance(at, QAbstractButton):
                words = words or at.text()
            if at is not None and name in words:
                return at
            QTest.keyClick(at or self.window, Qt.Key.Key_Tab)
            self.app.processEvents()
        self.tell(f"    !! {name!r} is not reached by the keyboard")
        return None

    def phrase(self, jig: Jig, fault: str, seed: int) -> None:
        """Somebody plays, nobody waits for a verdict."""
        made = play(jig, seed=seed, faults=parse_faults("; ".join(t for t in (fault, _ROOM) if t)))
        self._send(made.sound.samples, made.sound.rate_hz, f"(plays{fault and ': ' + fault})")

    def speak(self, seconds: float) -> None:
        """Somebody speaks."""
        words = 0.03 * voice(self.rng, seconds)
        self._send(words[:, None].astype(np.float32), RATE, "(speaks)")

    def _send(self, samples: np.ndarray, rate_hz: int, said: str) -> None:
        path = self.scratch / "played.wav"
        SndFiles().write_wav(path, samples, rate_hz)
        self.tell(said)
        player = subprocess.Popen(["paplay", "--device=hall", str(path)])
        self.live(120.0, lambda: player.poll() is not None)
        self.live(2.5)

    def practise(self, name: str, jig: Jig, fault: str, seed: int) -> None:
        """A pupil plays at home."""
        self.window.session.set_player(self.player(name))
        self.window.session.set_jig(jig)
        self.window.go("stand")
        self.live(0.5)
        self.window.stand_model.begin()
        self.live(40.0, lambda: self.window.stand_model.state == "waiting")
        self.play_once(jig, fault, seed)
        self.window.stand_model.stop()
        self.live(1.0)

    def hear_what_is_new(self, name: str) -> None:
        """With one key, from the page of pupils; then the newest at the Desk."""
        self.window.go("daybook")
        self.window.daybook.turn("pupils")
        self.live(0.8)
        board = self.window.daybook.pupils.board
        self.tab_to(board.accessibleName())
        while board.views[board.at[0]].row.player.name != name:
            self.key(Qt.Key.Key_Down)
        self.tell(board.said())
        self.picture(f"{name.split()[0]}_pupils")
        n_new = board.views[board.at[0]].n_new
        for _ in range(n_new):
            self.key(Qt.Key.Key_Space)
            self.live(20.0, lambda: self.window.sound.playing)
            self.live(0.5)
        if board.views[board.at[0]].n_new:
            self.tell("    !! not all was heard")
        self.picture(f"{name.split()[0]}_heard")
        self.key(Qt.Key.Key_Return)
        self.live(20.0, lambda: self.window.model.judged is not None)
        self.window.sound.stop()
        self.picture(f"{name.split()[0]}_desk")

    def give(self, name: str, jig: Jig, number: int) -> None:
        """Begin, play, speak, keep, remark, end."""
        stand = self.window.stand_model
        before = {t.id for t in self.studio.takes()}
        self.key(Qt.Key.Key_F8, "F8")
        self.live(40.0, lambda: stand.listening and stand.state == "waiting")
        self.picture(f"{name.split()[0]}_lesson")
        self.phrase(jig, "", 10 * number)
        self.speak(5.0)
        self.phrase(jig, "detune notes=5 cents=-28", 10 * number + 1)
        self.key(Qt.Key.Key_PageDown, "right pedal")
        self.live(20.0, lambda: stand.lesson is not None and stand.lesson.kept_take_id is not None)
        self.picture(f"{name.split()[0]}_phrase_kept")
        kept = stand.lesson.kept_take_id if stand.lesson else None
        self.key(Qt.Key.Key_PageUp, "left pedal")
        self.picture(f"{name.split()[0]}_speaking")
        self.speak(4.0)
        self.key(Qt.Key.Key_PageUp, "left pedal")
        self.live(3.0)
        self.key(Qt.Key.Key_F8, "F8")
        self.live(60.0, lambda: not self.window.jobs.busy)
        made = [t for t in self.studio.takes() if t.id not in before]
        for take in made:
            self.tell(f"    kept: {take.source_name}, {take.duration_s:.1f} s, "
                      f"{self.player_of(take.player_id)}")  # fmt: skip
        remarks = self.studio.remarks(kept) if kept else ()
        self.tell(f"    remarks on the phrase: {[r.words for r in remarks]}")
        if len(made) != 3 or not remarks:
            self.tell("    !! a phrase, a remark and the whole lesson were to be kept")

    def player_of(self, player_id: str) -> str:
        return next(p.name for p in self.studio.players() if p.id == player_id)

    def look_at_lesson(self, name: str) -> None:
        """The newest free take at the Desk: the whole lesson, cut into what happened."""
        self.window.run_command("free")
        self.live(3.0)
        self.live(60.0, lambda: not self.window.jobs.busy)
        self.picture(f"{name.split()[0]}_lesson_at_desk")

    def set_work(self, name: str) -> None:
        """By keyboard, on the page of pupils."""
        self.window.go("daybook")
        self.window.daybook.turn("pupils")
        self.live(0.6)
        before = len(self.studio.works())
        if (words := self.tab_to("what to mind")) is not None:
            QTest.keyClicks(words, "Slowly: listen to the B.")
        if (button := self.tab_to("Set this work")) is not None:
            QTest.keyClick(button, Qt.Key.Key_Space)
        self.live(0.6)
        works = self.studio.works()
        if len(works) != before + 1 or self.player_of(works[-1].player_id) != name:
            self.tell("    !! the work was not set")
        self.picture(f"{name.split()[0]}_work_set")

    def write_page(self, name: str) -> None:
        """The lesson's page, from the record of days."""
        self.window.daybook.turn("record")
        self.live(1.0)
        self.picture(f"{name.split()[0]}_record")


def main() -> int:
    """Live through it."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pictures", type=Path, default=None)
    parser.add_argument("--instrument", default="violin")
    options = parser.parse_args()
    if options.pictures is not None:
        options.pictures.mkdir(parents=True, exist_ok=True)
    kind = options.instrument
    with tempfile.TemporaryDirectory(prefix="jl", dir="/tmp") as folder:
        scratch = Path(folder)
        hall = scratch / "h"
        with lab_server(hall, {**os.environ, **lab_environment(hall)}):
            os.environ.update(lab_environment(hall))
            app = QApplication([])
            jig = jig_from_line(
                _LINES[kind], jig_id="lesson-scale", instrument_id=kind, title="Quay scale",
                key=Key(PitchClass("D" if kind != "bass" else "A"), "major"), tempo_bpm=80.0,
            )  # fmt: skip
            for name, days in (("week", 0.0), ("lesson", 3.0)):
                print(f"\n{name}", flush=True)
                move_calendar(days)
                lesson = Lesson(app, scratch, options)
                lesson.window.stand_model.choose_device(InputDevice(id=MICROPHONE, name=MICROPHONE))
                if name == "week":
                    lesson.studio.add_jig(jig, utc=utc_now())
                    for n, pupil in enumerate(PUPILS):
                        lesson.practise(pupil, jig, "detune notes=5 cents=-25", 3 * n)
                        lesson.practise(pupil, jig, "", 3 * n + 1)
                else:
                    for n, pupil in enumerate(PUPILS):
                        lesson.tell(f"== {pupil}, {kind}, {len(instrument(kind).strings)} strings")
                        lesson.hear_what_is_new(pupil)
                        lesson.give(pupil, jig, n + 1)
                        lesson.look_at_lesson(pupil)
                        lesson.set_work(pupil)
                    lesson.write_page(PUPILS[-1])
                lesson.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
