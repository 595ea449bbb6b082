"""Ask for a sounding note: every place that gives it as a harmonic, on the strings themselves."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from jigwright.core.errors import PitchNameError
from jigwright.core.jig.harmonic_ways import HarmonicWay, ways_to_sound, with_spelling
from jigwright.core.music.instruments import Instrument
from jigwright.core.music.pitch import Pitch
from jigwright.ui.painting.harmonic_string import Neck, paint_harmonic_strings
from jigwright.ui.theme import Palette, sans
from jigwright.ui.widgets.labels import label
from jigwright.ui.widgets.own_keys import claims
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.harmonic_ways import way_sentence

_PICTURE_PX = 190
_KEYS = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Return, Qt.Key.Key_Enter)


class HarmonicFinder(QWidget):
    """A note to ask for, and the strings with its places.

    Signals
    -------
    heard : float, str
        Frequency and name of what is to sound.
    """

    heard = pyqtSignal(float, str)

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self._open_hz: dict[Pitch, float] = {}
        self._inst: Instrument | None = None
        self._length_mm, self._a4_hz = 328.0, 440.0
        self.ways: tuple[HarmonicWay, ...] = ()
        self.chosen: int | None = None
        self.wanted = QLineEdit("A5")
        self.wanted.setFont(sans(16))
        self.wanted.setMaximumWidth(110)
        self.wanted.setAccessibleName(tr("Wanted note"))
        self.wanted.setPlaceholderText(tr("for instance B♭5"))
        self.wanted.textChanged.connect(self._search)
        self.said = label("", px=15)
        line = QHBoxLayout()
        line.addWidget(label(tr("Wanted note"), px=14, second=True, wrap=False))
        line.addWidget(self.wanted)
        line.addSpacing(12)
        line.addWidget(self.said, 1)
        self.picture = _Strings(self)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(line)
        column.addWidget(self.picture)

    @property
    def palette_now(self) -> Palette:
        """The theme."""
        return self._palette

    @property
    def strings(self) -> tuple[Pitch, ...]:
        """Open strings, low to high."""
        return tuple(self._open_hz)

    @property
    def length_mm(self) -> float:
        """Sounding length of the strings."""
        return self._length_mm

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.picture.update()

    def set_strings(
        self, open_hz: dict[Pitch, float], inst: Instrument, *, length_mm: float, a4_hz: float
    ) -> None:
        """Search on other strings."""
        self._open_hz, self._inst = dict(open_hz), inst
        self._length_mm, self._a4_hz = length_mm, a4_hz
        self._search()

    def _search(self) -> None:
        self.ways, self.chosen = (), None
        try:
            wanted = Pitch.parse(self.wanted.text())
        except PitchNameError:
            self.said.setText(tr("A note with its octave is meant: A5, B♭4, F#6."))
            self.picture.update()
            return
        if self._inst is not None:
            found = ways_to_sound(
                wanted, self._open_hz, self._inst, string_length_mm=self._length_mm,
                a4_hz=self._a4_hz,
            )  # fmt: skip
            self.ways = with_spelling(found, wanted)
        self.chosen = 0 if self.ways else None
        self._say()

    def choose(self, k: int, *, sound: bool = False) -> None:
        """Choose one of the ways."""
        if 0 <= k < len(self.ways):
            self.chosen = k
            self._say()
            if sound:
                self.hear()

    def hear(self) -> None:
        """Sound what is chosen."""
        if self.chosen is not None:
            self.heard.emit(self.ways[self.chosen].f_hz, self.wanted.text())

    def _say(self) -> None:
        if self.chosen is None:
            self.said.setText(tr("No string gives that as a harmonic."))
        else:
            n = len(self.ways)
            count = trn("{n} place.", "{n} places.", n).format(n=n)
            self.said.setText(f"{count} {way_sentence(self.ways[self.chosen])}")
        self.picture.setAccessibleDescription(self.said.text())
        self.picture.update()


class _Strings(QWidget):
    """The picture."""

    def __init__(self, finder: HarmonicFinder) -> None:
        super().__init__()
        self._finder = finder
        self.setFixedHeight(_PICTURE_PX)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Places on the strings"))

    def neck(self) -> Neck:
        """Where the strings lie."""
        finder = self._finder
        return Neck(
            rect=QRectF(self.rect()), n_strings=max(2, len(finder.strings)),
            length_mm=finder.length_mm,
        )  # fmt: skip

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw it."""
        finder = self._finder
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_harmonic_strings(
            painter, self.neck(), finder.strings, finder.ways, finder.chosen, finder.palette_now
        )
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """A place is chosen and heard."""
        if event is None:
            return
        k = self.neck().way_at(self._finder.ways, event.position())
        if k is not None:
            self._finder.choose(k, sound=True)

    def event(self, event: QEvent | None) -> bool:
        """Its own keys come here, not to the window's commands."""
        return claims(event, _KEYS) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Arrows go from place to place, Return sounds one."""
        if event is None or event.key() not in _KEYS:
            super().keyPressEvent(event)
            return
        finder, n = self._finder, len(self._finder.ways)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            finder.hear()
        elif finder.chosen is not None:
            by = 1 if event.key() == Qt.Key.Key_Right else -1
            finder.choose((finder.chosen + by) % n)
