"""Scores in and out of files: asks for names, reads in the worker, writes whole or not at all."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from jigwright.core.jig.imported import Imported
from jigwright.core.jig.model import Jig
from jigwright.services.exchange.scores import SCORE_SUFFIXES, left_behind, score_bytes
from jigwright.services.jobs import ScoreRequest
from jigwright.ui.printing import print_jig
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.jigs.jig_tools import fresh_id
from jigwright.ui.widgets.score_choice import ScoreChoice
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence
from jigwright.wording.scores import saved_sentence


class ScoreFiles(QWidget):
    """Asks, reads and writes for the place that owns it; it shows nothing itself.

    Signals
    -------
    brought_in : object
        What was read (:class:`~jigwright.core.jig.imported.Imported`).
    message : str
    """

    brought_in = pyqtSignal(object)
    message = pyqtSignal(str)

    def __init__(self, owner: QWidget, jobs: JobRunner) -> None:
        super().__init__(owner)
        self._jobs = jobs
        self.choice: ScoreChoice | None = None
        self.hide()

    def ask_export(self, jig: Jig | None, *, proposed: bool = False) -> None:
        """Ask for a name and write the jig there; proposals only as written if asked."""
        if jig is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Save as a score file"), f"{jig.title}.musicxml",
            tr("Scores") + " (*.musicxml *.mid *.json)",
        )  # fmt: skip
        if name:
            self.export_to(jig, Path(name), proposed=proposed)

    def export_to(self, jig: Jig, path: Path, *, proposed: bool = False) -> None:
        """Write a jig to a file, complete or not at all.

        Raises
        ------
        OSError
        """
        if not path.suffix:
            path = path.with_suffix(".musicxml")
        content = score_bytes(jig, path.suffix, proposed=proposed)
        part = path.with_name(f".{path.name}.part")
        part.write_bytes(content)
        part.replace(path)
        self.message.emit(saved_sentence(path.name, left_behind(jig, path.suffix)))

    def ask_print(self, jig: Jig | None) -> None:
        """Ask for a name and write a PDF there."""
        if jig is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Save as PDF"), f"{jig.title}.pdf", "PDF (*.pdf)"
        )
        if name:
            print_jig(self._jobs, jig, Path(name), said=self.message.emit)

    def ask_score(self) -> None:
        """Ask for a score and read it."""
        pattern = " ".join(f"*{s}" for s in SCORE_SUFFIXES)
        name, _ = QFileDialog.getOpenFileName(
            self, tr("Bring in a score"), "", tr("Scores") + f" ({pattern})"
        )
        if name:
            self.bring_in(Path(name))

    def bring_in(self, path: Path, i_part: int | None = None) -> None:
        """Read a score in the worker; ask where there is more than one part, or no instrument."""
        self._read(path, i_part, None, done=lambda got: self._came(path, got, asked=i_part))

    def _read(
        self, path: Path, i_part: int | None, kind: str | None, cue: int | None = None, *,
        done: Callable[[Imported], None],
    ) -> None:  # fmt: skip
        request = ScoreRequest(
            path=path, jig_id=fresh_id(), i_part=i_part, instrument_id=kind, cue_part=cue
        )

        def failed(error: Exception) -> None:
            said = error_sentence(error)
            if self.choice is not None:
                self.choice.show_failure(said)
            else:
                self.message.emit(said)

        self._jobs.run("read_score", request, done=done, failed=failed, key="score-file")

    def _came(self, path: Path, got: Imported, *, asked: int | None) -> None:
        if got.sure and (len(got.parts) < 2 or asked is not None):
            self.brought_in.emit(got)
            return

        def again(i_part: int, kind: str | None, cue: int | None) -> None:
            self._read(path, i_part, kind, cue, done=shown)

        def shown(better: Imported) -> None:
            if self.choice is not None:
                self.choice.show_result(better)

        choice = ScoreChoice(got, again, self.window() or self)
        self.choice = choice
        choice.taken.connect(self.brought_in)
        choice.finished.connect(self._asked)
        choice.open()

    def _asked(self) -> None:
        if self.choice is not None:
            self.choice.deleteLater()
            self.choice = None
