"""One picture per main view, from the demo studio, without a monitor."""

from __future__ import annotations

import time
from pathlib import Path

from PyQt6.QtWidgets import QApplication

from jigwright.ui.main_window import MainWindow
from jigwright.ui.theme import DARK, LIGHT


def settle(window: MainWindow, seconds: float = 0.6, *, limit_s: float = 30.0) -> None:
    """Let events and worker jobs finish."""
    end = time.monotonic() + seconds
    limit = time.monotonic() + limit_s
    while time.monotonic() < end or (window.jobs.busy and time.monotonic() < limit):
        QApplication.processEvents()
        time.sleep(0.005)


def write_shots(window: MainWindow, folder: Path) -> int:
    """Write the pictures; returns 0."""
    folder.mkdir(parents=True, exist_ok=True)
    window.resize(1280, 800)
    window.show()
    settle(window)

    def shot(name: str) -> None:
        settle(window)
        window.grab().save(str(folder / f"{name}.png"))

    window.set_palette(LIGHT)
    shot("desk-light")
    window.set_palette(DARK)
    shot("desk-dark")
    window.set_palette(LIGHT)
    window.run_command("form")
    shot("desk-by-time")
    window.run_command("form")
    stops = [j for j in window.model.studio.jigs() if any(len(e.heads) > 1 for e in j.events)]
    if stops:
        scale = window.model.jig
        window.model.set_jig(stops[0])
        settle(window)
        window.model.select(1)
        shot("desk-two-strings")
        window.model.set_jig(scale)
    window.go("jigs")
    shot("jigs")
    window.jigs.make("double_scale")
    shot("jigs-maker")
    window.go("tables")
    window.tables.turn(2)
    shot("tables")
    window.go("desk")
    window.close()
    return 0
