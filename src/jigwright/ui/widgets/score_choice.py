"""Which part of a score, and for which instrument: asked once, with what would be read."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QHBoxLayout,
    QListWidget,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.jig.imported import Imported
from jigwright.core.music.instruments import INSTRUMENTS
from jigwright.ui.theme import sans
from jigwright.ui.widgets.labels import label, push_button
from jigwright.wording.catalogue import tr
from jigwright.wording.makers import kind_name
from jigwright.wording.scores import import_summary


class ScoreChoice(QDialog):
    """Shows what was read of a file; another part or instrument reads it again.

    Parameters
    ----------
    got : Imported
    again : callable
        Reads the file for another part and instrument (``None``: as it says itself), with a part
        as accompaniment (``None``: without).

    Signals
    -------
    taken : object
        What is to be brought in.
    """

    taken = pyqtSignal(object)

    def __init__(
        self, got: Imported, again: Callable[[int, str | None, int | None], object], parent: QWidget
    ) -> None:
        super().__init__(parent)
        self._again = again
        self._got = got
        self._asked: str | None = None
        self.setWindowTitle(tr("Bring in a score"))
        self.title = label(got.jig.title, px=22, old_style=True)
        self.parts = QListWidget()
        self.parts.setFont(sans(15))
        self.parts.setAccessibleName(tr("Parts of the score"))
        self.parts.addItems([" ".join(p.split()) for p in got.parts])
        self.parts.setCurrentRow(got.i_part)
        self.parts.setVisible(len(got.parts) > 1)
        self.parts.currentRowChanged.connect(self._other_part)
        self.parts.itemActivated.connect(lambda _: self._take())
        self.question = label("", px=15, bold=True)
        self.kinds: dict[str, QPushButton] = {}
        row = QHBoxLayout()
        for kind in INSTRUMENTS:
            button = QPushButton(kind_name(kind))
            button.setProperty("kind", "turn")
            button.setFont(sans(15))
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, k=kind: self._other_kind(k))
            row.addWidget(button)
            self.kinds[kind] = button
        row.addStretch(1)
        self.cue = QComboBox()
        self.cue.setFont(sans(14))
        self.cue.setAccessibleName(tr("Another part as accompaniment"))
        self.cue.currentIndexChanged.connect(lambda _: self._read())
        self._offer_cues()
        self.about = label("", px=14, second=True)
        self.take = push_button(tr("Bring it in"), self._take, first=True)
        self.take.setDefault(True)
        self.leave = push_button(tr("Not now"), self.reject)
        foot = QHBoxLayout()
        foot.addWidget(self.take)
        foot.addWidget(self.leave)
        foot.addStretch(1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(24, 20, 24, 20)
        whole.setSpacing(12)
        for widget in (self.title, self.parts, self.question):
            whole.addWidget(widget)
        whole.addLayout(row)
        whole.addWidget(self.cue)
        whole.addWidget(self.about, 0, Qt.AlignmentFlag.AlignTop)
        whole.addStretch(1)
        whole.addLayout(foot)
        self.resize(560, 460 if len(got.parts) > 1 else 260)
        self.show_result(got)

    def show_result(self, got: Imported) -> None:
        """What was read for the part and instrument chosen."""
        self._got = got
        self.take.setEnabled(True)
        for kind, button in self.kinds.items():
            button.setChecked(kind == got.jig.instrument_id)
        self.question.setText(
            tr("For which instrument?")
            if got.sure
            else tr("The file does not say for which instrument. Which one is it?")
        )
        self.about.setText(import_summary(got))

    def show_failure(self, said: str) -> None:
        """Why the part chosen cannot be read."""
        self.take.setEnabled(False)
        self.about.setText(said)

    def _offer_cues(self) -> None:
        """Every other part may sound beside the one that is played."""
        mine = max(0, self.parts.currentRow())
        self.cue.blockSignals(True)
        self.cue.clear()
        self.cue.addItem(tr("No accompaniment"), None)
        for i, name in enumerate(self._got.parts):
            if i != mine:
                text = tr("{part} as accompaniment").format(part=" ".join(name.split()))
                self.cue.addItem(text, i)
        self.cue.setVisible(self.cue.count() > 1)
        self.cue.blockSignals(False)

    def _other_part(self, row: int) -> None:
        if row >= 0:
            self._asked = None
            self._offer_cues()
            self._read()

    def _other_kind(self, kind: str) -> None:
        self._asked = kind
        self._read()

    def _read(self) -> None:
        self.take.setEnabled(False)
        self._again(max(0, self.parts.currentRow()), self._asked, self.cue.currentData())

    def _take(self) -> None:
        if self.take.isEnabled():
            self.accept()
            self.taken.emit(self._got)
