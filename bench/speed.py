"""Speed and memory: analysis, window, scrolling. Prints ratios to real time and peak memory.

python bench/speed.py [--minutes 10]
"""

from __future__ import annotations

import argparse
import os
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

CHILD = """
import resource, sys, time
import numpy as np
from jigwright.core.music.instruments import instrument
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
minutes = float(sys.argv[2])
one = np.fromfile(sys.argv[1], dtype=np.float32)
x = np.tile(one, int(np.ceil(minutes * 60 * 48000 / len(one))))[: int(minutes * 60 * 48000)]
inst = instrument("violin")
if len(sys.argv) > 3:
    hear(choose_signal(one, 48000), inst, lowest_open_hz=196.0)
start = time.perf_counter()
heard = hear(choose_signal(x, 48000), inst, lowest_open_hz=196.0)
follow_and_measure(heard, None, a4_hz=440.0, instrument_id="violin")
took = time.perf_counter() - start
peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
print(f"{minutes:g} min of scales: {minutes * 60 / took:.0f} x real time, peak {peak:.0f} MB, "
      f"{len(heard.segments)} notes")
"""


def analysis(minutes: float) -> None:
    from jigwright.core.jig.scales import make_scale
    from jigwright.core.music.keys import Key
    from jigwright.core.music.pitch import PitchClass
    from jigwright.core.player.faults import parse_faults
    from jigwright.core.player.play import play

    jig = make_scale(jig_id="b", instrument_id="violin", key=Key(PitchClass("D")), tempo_bpm=72.0)
    sound = play(jig, seed=1, faults=parse_faults("detune spread_cents=6")).sound.samples
    environment = {**os.environ, "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"}
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "x.f32"
        np.asarray(sound, dtype=np.float32).tofile(path)
        for length in (1.0, minutes):
            subprocess.run(
                [sys.executable, "-c", CHILD, str(path), str(length), "warm"],
                check=True, env=environment,
            )  # fmt: skip


def window() -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    start = time.perf_counter()
    from PyQt6.QtWidgets import QApplication

    from jigwright.audio.output import RecordingOutput
    from jigwright.core.sound.heard import Contours, Heard, Segment
    from jigwright.handlers import make_handlers
    from jigwright.services.records import OwnedInstrument, Player, TakeRecord
    from jigwright.store.opening import open_studio
    from jigwright.ui.app import Outside, make_window
    from jigwright.work.process import WorkerProcess

    app = QApplication.instance() or QApplication([])
    with tempfile.TemporaryDirectory() as folder:
        studio = open_studio(Path(folder) / "studio")
        studio.add_player(Player(id="p", name="p"))
        strings = (
            __import__("jigwright.core.music.instruments", fromlist=["instrument"])
            .instrument("violin")
            .strings
        )
        studio.add_instrument(OwnedInstrument(id="i", name="", kind="violin", strings=strings))
        n = 200 * 120
        rng = np.random.default_rng(0)
        f0 = 440 * 2 ** ((rng.integers(-12, 12, 480).repeat(50) * 100 + rng.normal(size=n)) / 1200)
        contours = Contours(
            f0_hz=f0,
            level_db=-20 + rng.normal(size=n),
            clarity=np.ones(n),
            centroid_hz=f0,
            loudness_db=np.zeros(n),
        )
        segments = tuple(
            Segment(
                onset_s=i * 0.25, offset_s=i * 0.25 + 0.25, core_start_s=i * 0.25 + 0.05,
                core_end_s=i * 0.25 + 0.2, f0_hz=float(f0[i * 50 + 20]), uncertainty_cents=0.5,
                spread_cents=1.0, drift_cents_per_s=0.0, level_dbfs=-20.0, attack_db=20.0,
                clarity=1.0, slurred=False,
            )
            for i in range(480)
        )  # fmt: skip
        heard = Heard(
            contours=contours, segments=segments, duration_s=120.0, sample_rate_hz=48_000,
            n_channels=1, i_channel=0, noise_dbfs=-70.0,
        )  # fmt: skip
        source = Path(folder) / "a.wav"
        source.write_bytes(b"x")
        record = TakeRecord(
            id="t", jig_id=None, jig_revision=None, player_id="p", instrument_id="i",
            recorded_utc="2026-11-01T10:00:00Z", utc_offset_min=0, audio="", sha256="",
            source_name="a.wav", duration_s=120.0, a4_hz=440.0, reference="equal",
            tolerance_cents=10.0, input_name="", mark="",
        )  # fmt: skip
        studio.add_take(record, source, heard)
        outside = Outside(
            studio=studio, worker=WorkerProcess(make_handlers), output=RecordingOutput,
            cache=Path(folder) / "cache",
        )  # fmt: skip
        made = make_window(outside)
        made.resize(1280, 800)
        made.show()
        app.processEvents()
        made.grab()
        print(f"window with a 2-minute take painted after {time.perf_counter() - start:.2f} s")
        view = made.desk.view
        for name, step in (("scroll", 1.0), ("zoom", 1.06)):
            view.zoom_by(6.0)
            times = []
            for i in range(60):
                began = time.perf_counter()
                if name == "zoom":
                    view.zoom_by(step if i < 30 else 1 / step)
                else:
                    view.across.setValue(view.across.value() + 37)
                view.page.repaint()
                times.append(1000 * (time.perf_counter() - began))
            middle, high = np.percentile(times, [50, 95])
            print(f"{name}: median {middle:.1f} ms, 95 % {high:.1f} ms a frame")
        view.zoom_by(1e-6)
        began = time.perf_counter()
        view.page.repaint()
        print(f"whole take on one page: {1000 * (time.perf_counter() - began):.1f} ms")
        made.close()
        studio.close()


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=10.0)
    options = parser.parse_args()
    window()
    analysis(options.minutes)
    print(f"this process: peak {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")
    return 0


if __name__ == "__main__":
    sys.exit(main())
