"""A studio of many players and takes: how long each view of the Daybook takes from stored results.

python bench/daybook.py [--players 40] [--takes 10000]
"""

from __future__ import annotations

import argparse
import json
import os
import random
import sys
import tempfile
import time
from dataclasses import asdict, replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtWidgets import QApplication

from jigwright.audio.output import RecordingOutput
from jigwright.core.jig.makers import MAKERS, Setting
from jigwright.core.judge.summary import SUMMARY_VERSION, TakeSummary
from jigwright.core.judge.work import SetWork
from jigwright.core.music.instruments import instrument
from jigwright.core.sound.heard import METHOD_VERSION
from jigwright.handlers import make_handlers
from jigwright.services.records import OwnedInstrument, Player, TakeRecord
from jigwright.store.opening import open_studio
from jigwright.store.studio import Studio
from jigwright.ui.app import Outside, make_window
from jigwright.work.process import WorkerProcess


def fill(studio: Studio, n_players: int, n_takes: int) -> None:
    """Rows as they are after years; sound files are not needed for the Daybook."""
    rng = random.Random(1)
    jigs = []
    for i, maker in enumerate(MAKERS[:20]):
        try:
            jig = maker.make(Setting(instrument_id="violin", jig_id=f"jig-{i}"))
        except Exception as error:
            print(f"{maker.id}: {error}")
            continue
        jigs.append(jig)
        studio.add_jig(jig, utc="2026-01-01T00:00:00Z")
    studio.add_instrument(
        OwnedInstrument(id="v", name="", kind="violin", strings=instrument("violin").strings)
    )
    for i in range(n_players):
        studio.add_player(Player(id=f"p{i:02}", name=f"Player {i:02}"))
        studio.set_work(
            SetWork(
                id=f"w{i}", player_id=f"p{i:02}", jig_id=jigs[i % len(jigs)].id, jig_revision=1,
                words="slowly", due="2026-12-01", good_takes=3, who="W",
                set_utc=(datetime.now(UTC) - timedelta(days=6)).strftime("%Y-%m-%dT%H:%M:%SZ"),
            )
        )  # fmt: skip
    now, heard, summaries, takes = datetime.now(UTC), [], [], []
    for i in range(n_takes):
        jig = rng.choice(jigs)
        when = now - timedelta(hours=rng.random() * 24 * 700)
        take = TakeRecord(
            id=f"t{i}", jig_id=jig.id, jig_revision=1, player_id=f"p{rng.randrange(n_players):02}",
            instrument_id="v", recorded_utc=when.strftime("%Y-%m-%dT%H:%M:%SZ"),
            utc_offset_min=60, audio=f"audio/t{i}.flac", sha256=f"{i:064x}", source_name="Stand",
            duration_s=20.0 + 60 * rng.random(), a4_hz=440.0, reference="equal",
            tolerance_cents=10.0, input_name="microphone",
        )  # fmt: skip
        takes.append(take)
        heard.append((take.id, METHOD_VERSION, "", 48000, 1, 0, -70.0, take.duration_s, "[]"))
        inputs = (
            f"{SUMMARY_VERSION}|{take.sha256[:16]}|{take.a4_hz:g}|{take.reference}|"
            f"{take.tolerance_cents:g}|{METHOD_VERSION}"
        )
        summary = TakeSummary(
            n_notes=15, n_missed=0, inside=rng.random(), off_cents=5 + 5 * rng.random(),
            bias_cents=rng.gauss(0, 4), spread_cents=3 + 3 * rng.random(),
        )  # fmt: skip
        summaries.append((take.id, inputs, json.dumps(asdict(summary))))
    columns = list(asdict(takes[0]))
    with studio._change():
        studio._db.executemany(
            f"INSERT INTO take ({', '.join(columns)}) VALUES ({', '.join('?' * len(columns))})",
            [tuple(asdict(replace(t)).values()) for t in takes],
        )
        studio._db.executemany(f"INSERT INTO heard VALUES ({', '.join('?' * 9)})", heard)
        studio._db.executemany("INSERT INTO summary VALUES (?, ?, ?)", summaries)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--players", type=int, default=40)
    parser.add_argument("--takes", type=int, default=10_000)
    options = parser.parse_args()
    app = QApplication.instance() or QApplication([])
    with tempfile.TemporaryDirectory() as name:
        studio = open_studio(Path(name) / "studio")
        fill(studio, options.players, options.takes)
        outside = Outside(
            studio=studio, worker=WorkerProcess(make_handlers), output=RecordingOutput,
            cache=Path(name) / "cache",
        )  # fmt: skip
        start = time.perf_counter()
        window = make_window(outside)
        window.resize(1280, 800)
        window.show()
        app.processEvents()
        print(f"window on {options.takes} takes: {1000 * (time.perf_counter() - start):.0f} ms")
        start = time.perf_counter()
        window.go("daybook")
        app.processEvents()
        print(f"Daybook opened: {1000 * (time.perf_counter() - start):.0f} ms")
        for page in ("ladders", "trends", "record", "pupils", "today"):
            took = []
            for _ in range(3):
                window.daybook.turn("today" if page != "today" else "ladders")
                app.processEvents()
                start = time.perf_counter()
                window.daybook.turn(page)
                app.processEvents()
                took.append(1000 * (time.perf_counter() - start))
            print(f"{page}: first {took[0]:.0f} ms, again {np.median(took[1:]):.0f} ms")
        window.close()
        studio.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
