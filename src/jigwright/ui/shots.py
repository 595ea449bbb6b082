"""One picture per main view, from the demo studio, without a monitor."""

from __future__ import annotations

import time
from pathlib import Path

from PyQt6.QtWidgets import QApplication

from jigwright.ui.main_window import MainWindow
from jigwright.ui.theme import DARK, LIGHT

_LOOKS = 20


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
    for page in ("landings", "bow", "shape", "compare"):
        window.desk.turn(page)
        shot(f"desk-{page}")
    window.desk.turn("take")
    stops = [j for j in window.studio.jigs() if all(len(e.heads) > 1 for e in j.events)]
    scale = window.session.now.jig
    if stops:
        window.session.set_jig(stops[0])
        settle(window)
        window.desk.turn("two_strings")
        shot("desk-two-strings")
        window.desk.turn("take")
        window.session.set_jig(scale)
    answering = [j for j in window.studio.jigs() if any(a.kind == "ring" for a in j.aims)]
    if answering:
        window.session.set_jig(answering[0])
        settle(window)
        window.desk.turn("ring")
        shot("desk-ring")
        window.desk.turn("take")
        window.session.set_jig(scale)
    window.go("jigs")
    waltz = next((j for j in window.studio.jigs() if j.id == "demo-waltz"), None)
    if waltz is not None:
        window.session.set_jig(waltz)
        window.jigs.refresh()
        window.jigs.below.turn_to_map.click()
        settle(window, 4.0)
    shot("jigs")
    window.jigs.below.turn_to_plan.click()
    window.session.set_jig(scale)
    window.jigs.refresh()
    window.jigs.write_notes()
    window.jigs.score.choose(3, 3)
    shot("jigs-write")
    window.jigs.make("double_scale")
    shot("jigs-maker")
    window.go("tables")
    window.tables.turn(2)
    shot("tables")
    window.go("daybook")
    settle(window, 0.8)
    for page in ("today", "trends", "pupils"):
        window.daybook.turn(page)
        shot(f"daybook-{page}")
    window.explain("change")
    settle(window)
    if window.figures is not None:
        window.figures.grab().save(str(folder / "help.png"))
        window.figures.close()
    _at_the_stand(window, folder)
    window.go("desk")
    window.close()
    return 0


def _at_the_stand(window: MainWindow, folder: Path) -> None:
    """A take of the simulated player, heard and spoken of; one slow bow while it lasts."""
    window.go("stand")
    stand = window.stand_model
    if not stand.can_record:
        return
    stand.speed = 2.0  # slow enough to be spoken to between two takes
    stand.toggle()
    limit = time.monotonic() + 60.0
    while time.monotonic() < limit:
        if stand.told.verdict is not None and stand.state == "waiting":
            break
        settle(window, 0.05, limit_s=0.1)
    window.grab().save(str(folder / "stand.png"))  # what is said of the first take
    stand.stop()
    settle(window)
    stand.set_mode("slowest")
    stand.toggle()
    limit = time.monotonic() + 30.0
    while time.monotonic() < limit:
        settle(window, 0.02, limit_s=0.05)
        if stand.guided is not None and stand.guided.bow.seconds > 4.5:
            break
    window.grab().save(str(folder / "stand-slowest.png"))
    stand.stop()
    stand.set_mode("jig")
    _in_a_session(window, folder)
    settle(window)
    for print_ in window.model.prints:  # the demo studio stays as it was made
        if not print_.take.is_own:
            window.model.show_take(print_.take.id)
            window.model.bin_take()


def _in_a_session(window: MainWindow, folder: Path) -> None:
    """A planned session under way: some takes of its first exercise, the next one named."""
    model, walk = window.daybook_model, window.stand_model.walk
    first = next((i for i, item in enumerate(model.items) if item.part == "bow"), None)
    if first is None:
        return
    walk.start(model.items, model.jig_of, first)
    window.stand_model.stop()
    jig = window.session.now.jig
    if jig is not None:
        for met in (True, False, True, True):
            walk.heard(jig, met)
    for _ in range(_LOOKS):  # until the microphone is open
        settle(window)
        if window.stand_model.state == "waiting":
            break
    window.grab().save(str(folder / "stand-session.png"))
    walk.leave()
    model.start_over()
