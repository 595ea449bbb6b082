"""The bin: what lies in it, to be heard, brought back, or deleted for good."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QPushButton, QVBoxLayout, QWidget

from jigwright.core.errors import JigwrightError
from jigwright.services.bin_contents import Binned, bring_back, in_the_bin
from jigwright.services.studio_port import StudioPort
from jigwright.ui.theme import sans
from jigwright.ui.widgets.labels import label, push_button
from jigwright.wording.bin import bin_row, bin_title, deleted_sentence, really_words
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence


class BinPage(QDialog):
    """A list beside the window; deleting asks once more, in its place.

    Parameters
    ----------
    studio : StudioPort
    hear : callable
        Plays a take.

    Signals
    -------
    message : str
    brought_back : str
        Id of the take.
    """

    message = pyqtSignal(str)
    brought_back = pyqtSignal(str)

    def __init__(
        self, studio: StudioPort, hear: Callable[[Binned], object], parent: QWidget
    ) -> None:
        super().__init__(parent)
        self._studio, self._hear = studio, hear
        self.rows: tuple[Binned, ...] = ()
        self.setWindowTitle(tr("The bin"))
        self.title = label("", px=22, old_style=True)
        self.about = label("", px=14, second=True)
        self.list = QListWidget()
        self.list.setFont(sans(14))
        self.list.setAccessibleName(tr("Takes in the bin"))
        self.list.itemActivated.connect(lambda _: self._bring_back())
        self.back = push_button(tr("Bring it back"), self._bring_back, first=True)
        self.play = push_button(tr("Hear it"), self._play)
        self.empty = push_button(tr("Delete all of them for good …"), partial(self._ask, True))
        self.sure = push_button(tr("Delete for good"), self._delete)
        self.keep = push_button(tr("Keep them"), partial(self._ask, False), first=True)
        self._ordinary = (self.back, self.play, self.empty)
        self._asked = (self.keep, self.sure)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(22, 20, 22, 20)
        whole.setSpacing(12)
        for widget in (self.title, self.about, self.list):
            whole.addWidget(widget)
        buttons = QHBoxLayout()
        for button in (self.back, self.play, self.keep):
            buttons.addWidget(button)
        buttons.addStretch(1)
        for button in (self.empty, self.sure):
            buttons.addWidget(button)
        whole.addLayout(buttons)
        self.resize(620, 420)
        self.refresh()

    def refresh(self) -> None:
        """Read the bin again."""
        at = self.list.currentRow()
        self.rows = in_the_bin(self._studio)
        self.list.clear()
        self.list.addItems([bin_row(r.take, r.title, r.player) for r in self.rows])
        if self.rows:
            self.list.setCurrentRow(min(max(at, 0), len(self.rows) - 1))
        self._ask(False)

    def _ask(self, asking: bool) -> None:
        n = len(self.rows)
        self.title.setText(bin_title(n))
        self.about.setText(
            really_words(n) if asking else
            tr("What is put here stays until it is deleted by hand.")
        )  # fmt: skip
        writable = not self._studio.read_only
        for button in self._ordinary:
            button.setVisible(not asking)
            button.setEnabled(bool(n) and (writable or button is self.play))
        for button in self._asked:
            button.setVisible(asking)
        self.list.setEnabled(not asking)
        (self.keep if asking else self.list).setFocus(Qt.FocusReason.OtherFocusReason)

    def _chosen(self) -> Binned | None:
        at = self.list.currentRow()
        return self.rows[at] if 0 <= at < len(self.rows) else None

    def _play(self) -> None:
        one = self._chosen()
        if one is not None:
            self._try(lambda: self._hear(one))

    def _bring_back(self) -> None:
        one = self._chosen()
        if one is not None and not self._studio.read_only:
            self._try(lambda: bring_back(self._studio, one.take.id))
            self.refresh()
            self.brought_back.emit(one.take.id)

    def _delete(self) -> None:
        def delete() -> None:
            n = self._studio.empty_bin()
            self.message.emit(deleted_sentence(n))

        self._try(delete)
        self.refresh()

    def _try(self, run: Callable[[], object]) -> None:
        try:
            run()
        except JigwrightError as error:
            self.message.emit(error_sentence(error))

    def button_texts(self) -> tuple[str, ...]:
        """What can be pressed now."""
        buttons: tuple[QPushButton, ...] = (*self._ordinary, *self._asked)
        return tuple(b.text() for b in buttons if not b.isHidden() and b.isEnabled())
