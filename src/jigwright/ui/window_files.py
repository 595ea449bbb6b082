"""Files that come into the window and leave it: asked for, dropped, given away, backed up."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QProcess
from PyQt6.QtWidgets import QFileDialog, QWidget

from jigwright.core.jig.model import Jig
from jigwright.services.exchange.bundle import SUFFIX
from jigwright.services.exchange.scores import SCORE_SUFFIXES
from jigwright.services.exchange.workfile import SUFFIX as WORK_SUFFIX
from jigwright.services.moments import today
from jigwright.services.records import TakeRecord
from jigwright.ui.outside import open_elsewhere
from jigwright.ui.viewmodels.importing import ImportModel
from jigwright.wording.catalogue import tr

SOUND_SUFFIXES = (".wav", ".flac", ".ogg", ".oga", ".aif", ".aiff", ".aifc", ".mp3")


class WindowFiles:
    """Asks for files and hands them on.

    Parameters
    ----------
    window : QWidget
        Owner of the dialogs.
    studio_folder : Path
    imports : ImportModel
    cache : Path
    go : callable
        Shows a place.
    say : callable
        Shows a message.
    take_score, take_work : callable
        Who takes a score or set work in.
    """

    def __init__(
        self,
        window: QWidget,
        studio_folder: Path,
        imports: ImportModel,
        cache: Path,
        *,
        go: Callable[[str], None],
        say: Callable[[str], None],
        take_score: Callable[[Path], object],
        take_work: Callable[[Path], object],
    ) -> None:
        self._window, self._folder, self._imports, self._cache = (
            window,
            studio_folder,
            imports,
            cache,
        )
        self._go, self._say = go, say
        self._take_score, self._take_work = take_score, take_work

    def choose(self) -> None:
        """Ask for sound files."""
        pattern = " ".join(f"*{s}" for s in (*SOUND_SUFFIXES, SUFFIX))
        names, _ = QFileDialog.getOpenFileNames(
            self._window, tr("Bring in recordings"), "",
            tr("Sound files ({pattern})").format(pattern=pattern),
        )  # fmt: skip
        if names:
            self.take([Path(n) for n in names])

    def choose_studio(self) -> None:
        """Ask for a studio folder and open it in a window of its own."""
        folder = QFileDialog.getExistingDirectory(self._window, tr("Another studio folder"))
        if folder:
            open_elsewhere(Path(folder))

    def give(self, take: TakeRecord, jig: Jig | None, number: int) -> None:
        """Ask where a take shall go as a bundle."""
        name, _ = QFileDialog.getSaveFileName(
            self._window, tr("Give this take away"), tr("take {n}").format(n=number) + SUFFIX,
            tr("Takes") + f" (*{SUFFIX})",
        )  # fmt: skip
        if name:
            self._imports.give_away(take, jig, Path(name))

    def take(self, paths: list[Path]) -> None:
        """Scores go to Jigs, set work to the Daybook, bundles and sounds to the shelf."""
        scores = [p for p in paths if p.suffix.lower() in SCORE_SUFFIXES]
        bundles = [p for p in paths if p.name.lower().endswith(SUFFIX)]
        works = [p for p in paths if p.name.lower().endswith(WORK_SUFFIX)]
        sounds = [p for p in paths if p not in scores and p not in bundles and p not in works]
        for path in works:
            self._take_work(path)
        for path in bundles:
            self._imports.take_in(path, self._cache)
        if scores:
            self._go("jigs")
            self._take_score(scores[0])
        if sounds:
            self.bring_in(sounds)

    def bring_in(self, paths: list[Path]) -> None:
        """Analyse and keep files under the present jig and instrument."""
        self._go("desk")
        self._imports.add(paths)

    def ask_backup(self) -> None:
        """Ask where the studio shall be copied to."""
        name, _ = QFileDialog.getSaveFileName(
            self._window, tr("Back this studio up"), tr("backup") + f"-{today().isoformat()}"
        )
        if name:
            self.back_up(Path(name))

    def back_up(self, to: Path) -> None:
        """Copy the studio to a new folder; a program of its own does it, nothing waits."""
        process = QProcess(self._window)
        process.setProgram(sys.executable)
        folder = str(self._folder)
        process.setArguments(["-m", "jigwright", "studio", "backup", folder, str(to)])

        def done(status: int, _how: QProcess.ExitStatus) -> None:
            if status == 0:
                self._say(tr("Saved as {name}. A backup is opened like any studio.").format(
                    name=to.name))  # fmt: skip
                return
            why = bytes(process.readAllStandardError().data()).decode(errors="replace").strip()
            self._say(why.removeprefix("jigwright: ") or tr("The backup could not be made."))

        process.finished.connect(done)
        process.start()
