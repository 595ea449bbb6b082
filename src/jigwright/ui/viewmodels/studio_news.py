"""What became different in the studio, told to whoever shows it."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from jigwright.services.records import Changed
from jigwright.services.studio_port import Writing


class StudioNews(QObject):
    """Passes on every change of the studio.

    Parameters
    ----------
    studio : Writing

    Signals
    -------
    changed : Changed
        After every change.
    replayed : Changed
        Only when something was taken back or done again: whoever did it first is not asked.
    """

    changed = pyqtSignal(object)
    replayed = pyqtSignal(object)

    def __init__(self, studio: Writing, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._stop = studio.watch(self._tell)

    def _tell(self, changed: Changed) -> None:
        self.changed.emit(changed)
        if changed.by != "do":
            self.replayed.emit(changed)

    def close_down(self) -> None:
        """Hear nothing more."""
        self._stop()
