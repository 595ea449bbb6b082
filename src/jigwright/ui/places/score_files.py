"""Scores in and out of files: asks for names, reads in the worker, writes whole or not at all."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from jigwright.core.jig.model import Jig
from jigwright.services.exchange.scores import SCORE_SUFFIXES, score_bytes
from jigwright.services.jobs import ScoreRequest
from jigwright.ui.printing import print_jig
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.jigs.jig_tools import fresh_id
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence


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
        self.hide()

    def ask_export(self, jig: Jig | None) -> None:
        """Ask for a name and write the jig there."""
        if jig is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Save as a score file"), f"{jig.title}.musicxml",
            tr("Scores") + " (*.musicxml *.mid *.json)",
        )  # fmt: skip
        if name:
            self.export_to(jig, Path(name))

    def export_to(self, jig: Jig, path: Path) -> None:
        """Write a jig to a file, complete or not at all.

        Raises
        ------
        OSError
        """
        if not path.suffix:
            path = path.with_suffix(".musicxml")
        content = score_bytes(jig, path.suffix)
        part = path.with_name(f".{path.name}.part")
        part.write_bytes(content)
        part.replace(path)
        self.message.emit(tr("Saved as {name}.").format(name=path.name))

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
        """Read a score in the worker."""
        request = ScoreRequest(path=path, jig_id=fresh_id(), i_part=i_part)
        self._jobs.run(
            "read_score", request, done=self.brought_in.emit,
            failed=lambda e: self.message.emit(error_sentence(e)), key="score-file",
        )  # fmt: skip
