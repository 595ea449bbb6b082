"""Where strings answer the fingers of a jig most, read from its takes a few at a time."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.judge.judging import JudgedNote
from jigwright.services.records import TakeRecord
from jigwright.services.resonating import (
    TUNED_BY,
    Answer,
    OverTakes,
    RingTableRow,
    WokenRow,
    answer_to,
    over_takes,
    ring_table,
    woken,
)
from jigwright.services.take_reader import TakeReader, View

_MOST_TAKES = 20
_AHEAD_MS = 15


class AnswersModel(QObject):
    """Reads what the takes on the shelf woke.

    Signals
    -------
    changed
        All of them are known now.
    """

    changed = pyqtSignal()

    def __init__(
        self,
        reader: TakeReader,
        shelf: Callable[[], Sequence[TakeRecord]],
        view: Callable[[], View],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._reader, self._shelf, self._view = reader, shelf, view
        self._timer = QTimer(self)
        self._timer.setInterval(_AHEAD_MS)
        self._timer.timeout.connect(self._read_ahead)
        self._known: dict[tuple[str, View], tuple[WokenRow, ...]] = {}

    def answer(self, shown: TakeRecord, note: JudgedNote) -> Answer | None:
        """Where a string answers a note's finger most; ``None`` while takes are being read.

        Only on violin and viola, and over takes on the same instrument through the same input.
        """
        if self._reader.kind_of(shown) not in TUNED_BY or note.finger == 0:
            return None
        return answer_to(self._rows(shown), note.pitch, note.finger, note.string)

    def history(self, shown: TakeRecord, note: JudgedNote) -> tuple[OverTakes, ...]:
        """How often each string rang after a note; empty while the takes are being read."""
        return over_takes(self._rows(shown), note.pitch, note.finger, note.string)

    def table(self, shown: TakeRecord) -> tuple[tuple[RingTableRow, ...], tuple[str, ...]]:
        """Notes by takes, and the ids of those takes; empty while they are being read."""
        takes = self._rows(shown)
        ids = tuple(t.id for t in self._takes() if _alike(t, shown))
        return ring_table(takes), ids if takes else ()

    def _rows(self, shown: TakeRecord) -> list[tuple[WokenRow, ...]]:
        takes = [t for t in self._takes() if _alike(t, shown)]
        if any(self._key(t) not in self._known for t in takes):
            if not self._timer.isActive():
                self._timer.start()
            return []
        return [self._known[self._key(t)] for t in takes]

    def close_down(self) -> None:
        """The studio is about to close."""
        self._timer.stop()

    def _takes(self) -> list[TakeRecord]:
        return list(self._shelf())[-_MOST_TAKES:]

    def _key(self, take: TakeRecord) -> tuple[str, View]:
        return take.id, self._view()

    def _read_ahead(self) -> None:
        for take in self._takes():
            if self._key(take) not in self._known:
                self._known[self._key(take)] = woken(self._reader, take, self._view())
                return
        self._timer.stop()
        self.changed.emit()


def _alike(take: TakeRecord, shown: TakeRecord) -> bool:
    return (take.instrument_id, take.input_name, take.is_own) == (
        shown.instrument_id, shown.input_name, shown.is_own,
    )  # fmt: skip
