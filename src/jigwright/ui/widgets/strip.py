"""The strip at the foot of the window: a message for a while, and how far an import has come."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QHBoxLayout, QProgressBar, QPushButton, QWidget

from jigwright.ui.theme import sans
from jigwright.ui.viewmodels.importing import ImportModel
from jigwright.ui.widgets.labels import label
from jigwright.wording.catalogue import tr

_MESSAGE_MS = 9000


class Strip(QWidget):
    """Shows itself when there is something to say, and goes again.

    Parameters
    ----------
    imports : ImportModel
    """

    def __init__(self, imports: ImportModel) -> None:
        super().__init__()
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._imports = imports
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 5, 20, 5)
        self.message = label("", px=14, wrap=True)
        self.message.setAccessibleName(tr("Message"))
        self._bar = QProgressBar()
        self._bar.setTextVisible(False)
        self._bar.setMaximumWidth(260)
        self._bar.setRange(0, 100)
        self._cancel = QPushButton(tr("Cancel"))
        self._cancel.setFont(sans(13))
        self._cancel.clicked.connect(lambda: self._imports.cancel())
        row.addWidget(self.message, 1)
        row.addWidget(self._bar)
        row.addWidget(self._cancel)
        self._bar.hide()
        self._cancel.hide()
        self.hide()
        self._making: tuple[int, int] | None = None
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.setInterval(_MESSAGE_MS)
        self._quiet.timeout.connect(self._hush)
        imports.progress_changed.connect(self._show_progress)

    def show_making(self, made: int, total: int) -> None:
        """How far the demo class is recorded; gone when it is."""
        self._making = (made, total) if made < total else None
        if self._making is None:
            self._quiet.start()
            self._bar.setVisible(self._imports.current is not None)
        elif self._imports.current is None:
            self._show_made()

    def _show_made(self) -> None:
        if self._making is not None:
            made, total = self._making
            self._bar.setValue(round(100 * made / total))
            self._bar.show()
            self._cancel.hide()
            self.message.setText(
                tr("The demo class is being recorded: {n} of {total} takes.").format(
                    n=made, total=total
                )
            )
            self.show()
            self._quiet.stop()

    def say(self, sentence: str) -> None:
        """Show a message for a while."""
        self.message.setText(sentence)
        self.show()
        self._quiet.start()

    def close_down(self) -> None:
        """The window closes."""
        self._quiet.stop()

    def _hush(self) -> None:
        if self._making is not None and self._imports.current is None:
            self._show_made()
        elif self._imports.current is None:
            self.hide()

    def _show_progress(self) -> None:
        current = self._imports.current
        busy = current is not None
        self._bar.setVisible(busy)
        self._cancel.setVisible(busy)
        if current is not None:
            self._bar.setValue(round(100 * self._imports.share))
            self.message.setText(tr("Listening to {name} …").format(name=current.name))
            self.show()
            self._quiet.stop()
        else:
            self._quiet.start()
