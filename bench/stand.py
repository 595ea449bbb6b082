"""The Stand as a player meets it: a real window, a sound server, and each sentence as it appears.

A server without hardware is started, its microphone hears what is played into it; the window runs
on the display there is (``xvfb-run`` makes one) or without. Every exercise below is made by its
maker, played by the simulated player with the fault named – or without one – through a room, and
what the Stand says is written down with its second. Judge it by reading.

python bench/stand.py [--only NAME,NAME] [--instrument violin] [--pictures FOLDER]
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

if not os.environ.get("DISPLAY"):
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PyQt6.QtWidgets import QApplication

from aims import dotted_as, filled, same, without_dynamics
from jigwright.audio.capture import capture
from jigwright.audio.files import SndFiles
from jigwright.audio.lab import MICROPHONE, lab_environment, lab_server
from jigwright.audio.output import RecordingOutput
from jigwright.audio.portaudio import begin_portaudio
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.model import Jig
from jigwright.core.judge.analysis import Judged
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import parse_reference, target_hz
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play
from jigwright.handlers import make_handlers
from jigwright.listening import listen
from jigwright.services.recording import InputDevice
from jigwright.services.records import OwnedInstrument, Player
from jigwright.store.opening import open_studio
from jigwright.ui.app import Outside, make_window
from jigwright.ui.main_window import MainWindow
from jigwright.wording.measures import double_texts
from jigwright.work.process import WorkerProcess
from jigwright.work.stream import StreamProcess

_ROOM = "noise snr_db=45; room rt60_s=0.3 wet_db=-8 n_early=6"
_LEAST_S, _AFTER_S = 4.0, 14.0
TONICS = {"violin": "D", "viola": "C", "cello": "C", "bass": "A"}


def second_half_softer(db: float) -> str:
    """Faults of an echo so much softer; nothing else of it is played softly."""
    return f"weak notes={{later}} db={db:g}"


@dataclass(frozen=True, kw_only=True)
class Scenario:
    """One exercise, and what is done wrong in it."""

    maker_id: str
    fault: str = ""
    values: Mapping[str, str | int] = field(default_factory=dict)
    tempo: float = 60.0
    kind: str = ""
    played: Callable[[Jig], Jig] = same
    tonic: str = ""
    line: str = ""
    overshoot: bool = False


SCENARIOS: dict[str, Scenario] = {
    "foundation": Scenario(maker_id="foundation_bow", values={"repeats": 2}),
    "foundation skitter": Scenario(
        maker_id="foundation_bow", values={"repeats": 2},
        fault="bounce notes=2 depth_db=16 width_ms=40",
    ),
    "growing slur": Scenario(maker_id="growing_slur", values={"most_notes": 5}),
    "three lanes": Scenario(maker_id="contact_trial", tempo=80.0),
    "cello thirds": Scenario(
        maker_id="double_scale", values={"interval": "thirds"}, kind="cello"
    ),
    "cello thirds one wide": Scenario(
        maker_id="double_scale", values={"interval": "thirds"}, kind="cello",
        fault="lower notes={n} cents=-30",
    ),
    "echo 4 dB": Scenario(
        maker_id="echo", played=without_dynamics, fault=second_half_softer(4.0)
    ),
    "echo 12 dB": Scenario(
        maker_id="echo", played=without_dynamics, fault=second_half_softer(12.0)
    ),
    "dotted 2.4": Scenario(
        maker_id="dotted", values={"character": "sharp"}, played=dotted_as(2.4)
    ),
    "dotted 3.6": Scenario(
        maker_id="dotted", values={"character": "sharp"}, played=dotted_as(3.6)
    ),
    "drone scale corrected": Scenario(
        maker_id="drone_scale", fault="back_one notes={n} first_cents=-25"
    ),
    "drone scale off again": Scenario(
        maker_id="drone_scale",
        fault="detune notes={n} cents=-25; back_one notes={n} first_cents=-30",
    ),
    "cello sixths searched": Scenario(
        maker_id="double_scale", values={"interval": "sixths"}, kind="cello", overshoot=True
    ),
    "cello octaves searched": Scenario(
        maker_id="double_scale", values={"interval": "octaves"}, kind="cello", overshoot=True
    ),
    "D and F over pure C": Scenario(
        maker_id="", line="C4+E4:2 D4+F4:2 E4+G4:2 D4+F4:2 C4+E4:4", tonic="C"
    ),
    "drone scale in E flat": Scenario(maker_id="drone_scale", tonic="Eb"),
}  # fmt: skip


def two_voices(jig: Jig, rate_hz: int = 48_000) -> np.ndarray:
    """Stops by another maker: saw-like voices, each interval 18 cents wide, 14 narrow, then right.

    Every stop lasts its written length but for 80 ms; both voices start together.
    """
    beat_s = 60.0 / jig.tempo_bpm
    reference = parse_reference(jig.reference)
    out = np.zeros(round((float(jig.events[-1].end_beats) * beat_s + 1.0) * rate_hz))
    for i, event in enumerate(jig.events):
        n = round((float(event.length_beats) * beat_s - 0.08) * rate_hz)
        t = np.arange(n) / rate_hz
        way = np.interp(t, [0.0, 0.3, 0.38, 0.7, 0.8], [18.0, 18.0, -14.0, -14.0, 2.0])
        sound = np.zeros(n)
        heads = sorted(event.heads, key=lambda h: h.pitch.midi)
        for head in heads:
            f_hz = target_hz(reference, head.pitch, 440.0)
            moved = way if head is heads[-1] and len(heads) > 1 else np.zeros(n)
            phase = 2 * np.pi * np.cumsum(f_hz * 2 ** (moved / 1200.0)) / rate_hz
            for k in range(1, int(9000 / f_hz) + 1):
                sound += np.sin(k * phase + 1.7 * k * k + i) / k
        edge = np.clip(np.minimum(t, t[::-1]) / 0.03, 0.0, 1.0)
        at = round(float(event.onset_beats) * beat_s * rate_hz)
        out[at : at + n] += 0.08 * sound * edge
    return out + np.random.default_rng(3).normal(0.0, 2e-4, len(out))


def sound_of(scenario: Scenario, kind: str, folder: Path) -> tuple[Jig, Path]:
    """The exercise, and how it was played."""
    key = Key(PitchClass.parse(scenario.tonic or TONICS[kind]))
    if scenario.line:
        jig = jig_from_line(
            scenario.line, jig_id="line", instrument_id=kind, title="line", key=key,
            tempo_bpm=scenario.tempo,
        )  # fmt: skip
        jig = replace(jig, reference=f"just:{key.tonic}")
    else:
        jig = maker(scenario.maker_id).make(
            Setting(
                instrument_id=kind, key=key, tempo_bpm=scenario.tempo,
                values=dict(scenario.values), title=scenario.maker_id, jig_id=scenario.maker_id,
            )
        )  # fmt: skip
    if scenario.overshoot:
        path = folder / "played.wav"
        SndFiles().write_wav(path, two_voices(jig)[:, None].astype(np.float32), 48_000)
        return jig, path
    later = range(len(jig.events) // 2, len(jig.events))
    fault = scenario.fault.replace("{later}", ",".join(map(str, later)))
    text, _ = filled("; ".join(t for t in (fault, _ROOM) if t), jig)
    made = play(
        scenario.played(jig), seed=5, faults=parse_faults(text),
        reference=parse_reference(jig.reference),
    )  # fmt: skip
    path = folder / "played.wav"
    SndFiles().write_wav(path, made.sound.samples, made.sound.rate_hz)
    return jig, path


def wait(
    app: QApplication, until: Callable[[], bool], limit_s: float, watch: Callable[[], None]
) -> bool:
    """Let the window live until something is true."""
    began = time.monotonic()
    while time.monotonic() - began < limit_s:
        app.processEvents()
        watch()
        if until():
            return True
        time.sleep(0.01)
    return False


def run(
    app: QApplication, window: MainWindow, name: str, kind: str, options: argparse.Namespace
) -> None:
    """Play one scenario and write down what is said."""
    stand = window.stand_model
    with tempfile.TemporaryDirectory() as folder:
        jig, path = sound_of(SCENARIOS[name], kind, Path(folder))
        known = [j for j in window.studio.jigs() if j.id == jig.id]
        if known:
            jig = window.session.revise_jig(replace(jig, revision=known[-1].revision))
        else:
            window.studio.add_jig(jig, utc="2026-11-30T10:00:00Z")
        window.session.set_jig(jig)
        window.go("stand")
        stand.choose_device(InputDevice(id=MICROPHONE, name=MICROPHONE))
        said: list[tuple[str, str]] = []
        takes = len(window.studio.takes())
        began = time.monotonic()

        def watch() -> None:
            words = window.stand.words()
            if any(words) and (not said or said[-1] != words):
                said.append(words)
                at_s = time.monotonic() - began
                print(f"  {at_s:6.1f}  " + " – ".join(w for w in words if w), flush=True)

        print(f"\n{name} ({kind})")
        stand.begin()
        wait(app, lambda: stand.state == "waiting", 40.0, watch)
        wait(app, lambda: False, 1.0, watch)
        player = subprocess.Popen(["paplay", "--device=hall", str(path)])
        wait(app, lambda: player.poll() is not None, 300.0, watch)
        wait(app, lambda: stand.state == "waiting" and stand.told.verdict is not None,
             _AFTER_S, watch)  # fmt: skip
        wait(app, lambda: False, _LEAST_S, watch)
        stand.stop()
        wait(app, lambda: not stand.listening and not window.jobs.busy, 20.0, watch)
        for take in window.studio.takes()[takes:]:
            judged = window.reader.judged(take)
            found = judged.aims if isinstance(judged, Judged) else ()
            aims = ", ".join(
                f"{r.aim.kind} {r.state} {r.detail or r.reason}".strip() for r in found
            )
            print(f"  a take of {take.duration_s:.1f} s: {aims}", flush=True)
            for note in judged.notes if isinstance(judged, Judged) else ():
                rows = double_texts(note.measured.double, note.double, tonic=jig.key.tonic)
                said_of = "; ".join(f"{name} {text}" for name, text, _ in rows[:5])
                if rows:
                    print(f"      {note.measured.lined.lower}+{note.pitch}: {said_of}", flush=True)
        if options.pictures is not None:
            options.pictures.mkdir(parents=True, exist_ok=True)
            window.grab().save(str(options.pictures / f"{name.replace(' ', '_')}.png"))


def main() -> int:
    """Run the scenarios."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--only", default="")
    parser.add_argument("--instrument", default="violin", choices=sorted(TONICS))
    parser.add_argument("--pictures", type=Path, default=None)
    options = parser.parse_args()
    asked = [n.strip() for n in options.only.split(",") if n.strip()] or list(SCENARIOS)
    with tempfile.TemporaryDirectory(prefix="jl", dir="/tmp") as scratch:
        hall = Path(scratch) / "h"
        environment = {**os.environ, **lab_environment(hall)}
        with lab_server(hall, environment):
            os.environ.update(lab_environment(hall))
            app = QApplication([])
            studio = open_studio(Path(scratch) / "studio")
            studio.add_player(Player(id="p", name="Nell Harbour"))
            for kind in TONICS:
                studio.add_instrument(
                    OwnedInstrument(id=kind, name="", kind=kind, strings=instrument(kind).strings)
                )
            window = make_window(
                Outside(
                    studio=studio, worker=WorkerProcess(make_handlers), output=RecordingOutput,
                    cache=Path(scratch) / "cache",
                    capture=lambda: StreamProcess(capture, begin=begin_portaudio),
                    ear=lambda: StreamProcess(listen, modules=("jigwright.services.ear",)),
                )
            )  # fmt: skip
            window.resize(1280, 800)
            window.show()
            for name in asked:
                kind = SCENARIOS[name].kind or options.instrument
                window.session.set_instrument(next(i for i in studio.instruments() if i.id == kind))
                run(app, window, name, kind, options)
            window.close()
            studio.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
