"""The notes of an instrument on its own strings: where each is stopped, and what a slip costs."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QVBoxLayout

from jigwright.core.music.pitch import Pitch
from jigwright.core.music.tables import DistanceRow, distance_table
from jigwright.ui.painting.neck_notes import note_at, paint_neck
from jigwright.ui.theme import Palette
from jigwright.ui.widgets.labels import label
from jigwright.ui.widgets.on_strings import OnStrings, StringsPicture
from jigwright.ui.widgets.own_keys import claims
from jigwright.wording.catalogue import tr
from jigwright.wording.neck import place_sentence

_STEPS = {
    Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Up: (1, 0),
    Qt.Key.Key_Down: (-1, 0),
}  # fmt: skip
_ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class NeckFinder(OnStrings):
    """Strings from nut to bridge with their notes; one is told.

    Signals
    -------
    heard : float, str
        Frequency and name of a note that is to sound.
    asked : int
        The string that is told of, 0 = lowest.
    """

    heard = pyqtSignal(float, str)
    asked = pyqtSignal(int)

    def __init__(self, palette: Palette) -> None:
        super().__init__(palette)
        self.rows: tuple[tuple[DistanceRow, ...], ...] = ()
        self.chosen: tuple[int, int] | None = None
        self.said = label("", px=15)
        self.picture = _Strings(self)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.said)
        column.addWidget(self.picture)

    def set_strings(
        self, open_hz: dict[Pitch, float], *, length_mm: float, fifths: int, string: int
    ) -> None:
        """Show other strings, the note chosen on one of them.

        Parameters
        ----------
        open_hz : dict of Pitch to float
            Low to high.
        length_mm : float
        fifths : int
            Signature that notes are named by.
        string : int
        """
        self._open_hz, self._length_mm = dict(open_hz), length_mm
        self.rows = tuple(
            distance_table(s, string_length_mm=length_mm, fifths=fifths) for s in open_hz
        )
        row = 0 if self.chosen is None else self.chosen[1]
        self.chosen = (string, row) if 0 <= string < len(self.rows) else None
        self._say()

    def choose(self, string: int, row: int, *, sound: bool = False) -> None:
        """Tell of a note."""
        if not (0 <= string < len(self.rows) and 0 <= row < len(self.rows[string])):
            return
        other = self.chosen is None or self.chosen[0] != string
        self.chosen = (string, row)
        self._say()
        if other:
            self.asked.emit(string)
        if sound:
            self.hear()

    def hear(self) -> None:
        """Sound what is told."""
        if self.chosen is None:
            return
        string, k = self.chosen
        row = self.rows[string][k]
        open_hz = self._open_hz[self.strings[string]]
        self.heard.emit(open_hz * 2.0 ** (row.semitones / 12.0), str(row.pitch))

    def _say(self) -> None:
        if self.chosen is not None:
            string, k = self.chosen
            self.said.setText(place_sentence(self.strings[string], self.rows[string][k]))
        self.picture.setAccessibleDescription(self.said.text())
        self.picture.update()


class _Strings(StringsPicture):
    """The picture."""

    def __init__(self, finder: NeckFinder) -> None:
        super().__init__(finder, tr("Notes on the strings"))
        self._finder = finder

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw it."""
        finder = self._finder
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_neck(
            painter, self.neck(), finder.strings, finder.rows, finder.chosen, finder.palette_now
        )
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """A note is told and heard."""
        if event is None:
            return
        found = note_at(self.neck(), self._finder.rows, event.position())
        if found is not None:
            self._finder.choose(*found, sound=True)

    def event(self, event: QEvent | None) -> bool:
        """Its own keys come here, not to the window's commands."""
        return claims(event, (*_STEPS, *_ENTER)) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Arrows go along a string and from string to string, Return sounds."""
        if event is None:
            return
        key, chosen = Qt.Key(event.key()), self._finder.chosen
        if key in _ENTER:
            self._finder.hear()
        elif key in _STEPS and chosen is not None:
            across, along = _STEPS[key]
            self._finder.choose(chosen[0] + across, chosen[1] + along)
        else:
            super().keyPressEvent(event)
