"""Ask for a sounding note: every place that gives it as a harmonic, on the strings themselves."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout

from jigwright.core.errors import PitchNameError
from jigwright.core.jig.harmonic_ways import (
    HarmonicWay,
    pairs_to_sound,
    ways_to_sound,
    with_spelling,
)
from jigwright.core.music.instruments import Instrument
from jigwright.core.music.pitch import Pitch
from jigwright.ui.painting.harmonic_string import paint_harmonic_strings
from jigwright.ui.theme import Palette, sans
from jigwright.ui.widgets.labels import label
from jigwright.ui.widgets.on_strings import OnStrings, StringsPicture
from jigwright.ui.widgets.own_keys import claims
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.harmonic_ways import pair_sentence, way_sentence
from jigwright.wording.notes import read_pitch, typed_name

_KEYS = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Return, Qt.Key.Key_Enter)


class HarmonicFinder(OnStrings):
    """A note to ask for, and the strings with its places.

    Signals
    -------
    heard : tuple of float, str
        Frequencies and name of what is to sound.
    """

    heard = pyqtSignal(object, str)

    def __init__(self, palette: Palette) -> None:
        super().__init__(palette)
        self._inst: Instrument | None = None
        self._a4_hz = 440.0
        self._two = False
        self.ways: tuple[HarmonicWay, ...] = ()
        self.pairs: tuple[tuple[int, int], ...] = ()
        self.chosen: int | None = None
        self.wanted = QLineEdit(typed_name(Pitch("A", 0, 5)))
        self.wanted.setFont(sans(16))
        self.wanted.setMaximumWidth(130)
        self.wanted.setAccessibleName(tr("Wanted note"))
        self.wanted.setPlaceholderText(tr("for instance B♭5"))
        self.wanted.setToolTip(tr("One note, or two to sound at once: D5 A5"))
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

    def set_strings(
        self, open_hz: dict[Pitch, float], inst: Instrument, *, length_mm: float, a4_hz: float
    ) -> None:
        """Search on other strings."""
        self._open_hz, self._inst = dict(open_hz), inst
        self._length_mm, self._a4_hz = length_mm, a4_hz
        self._search()

    @property
    def n_choices(self) -> int:
        """Ways of one note, or pairs of two."""
        return len(self.pairs) if self.pairs else len(self.ways)

    @property
    def shown(self) -> tuple[int, ...]:
        """Which ways are chosen: one, or both of a pair."""
        if self.chosen is None:
            return ()
        return self.pairs[self.chosen] if self.pairs else (self.chosen,)

    def _search(self) -> None:
        self.ways, self.pairs, self.chosen = (), (), None
        try:
            wanted = [read_pitch(word) for word in self.wanted.text().split()]
        except PitchNameError:
            wanted = []
        if len(wanted) not in (1, 2):
            self.said.setText(tr("A note with its octave is meant: A5, B♭4, F#6."))
            self.picture.update()
            return
        if self._inst is not None and len(wanted) == 1:
            found = ways_to_sound(
                wanted[0], self._open_hz, self._inst, string_length_mm=self._length_mm,
                a4_hz=self._a4_hz,
            )  # fmt: skip
            self.ways = with_spelling(found, wanted[0])
        elif self._inst is not None:
            self._search_pairs(*sorted(wanted, key=lambda p: p.midi))
        self._two = len(wanted) == 2
        self.chosen = 0 if self.n_choices else None
        self._say()

    def _search_pairs(self, low: Pitch, high: Pitch) -> None:
        assert self._inst is not None
        pairs = pairs_to_sound(
            low, high, self._open_hz, self._inst, string_length_mm=self._length_mm,
            a4_hz=self._a4_hz,
        )  # fmt: skip
        self.ways = tuple(dict.fromkeys(way for pair in pairs for way in pair))
        at = {way: k for k, way in enumerate(self.ways)}
        self.pairs = tuple((at[a], at[b]) for a, b in pairs)

    def choose_way(self, k: int, *, sound: bool = False) -> None:
        """Choose a way, or the next pair that it is part of."""
        if not self.pairs:
            self.choose(k, sound=sound)
            return
        first = 0 if self.chosen is None else self.chosen + 1
        order = [(first + i) % len(self.pairs) for i in range(len(self.pairs))]
        self.choose(next(i for i in order if k in self.pairs[i]), sound=sound)

    def choose(self, k: int, *, sound: bool = False) -> None:
        """Choose one of the ways."""
        if 0 <= k < self.n_choices:
            self.chosen = k
            self._say()
            if sound:
                self.hear()

    def hear(self) -> None:
        """Sound what is chosen."""
        if self.chosen is not None:
            self.heard.emit(tuple(self.ways[k].f_hz for k in self.shown), self.wanted.text())

    def _say(self) -> None:
        n = self.n_choices
        if self.chosen is None:
            self.said.setText(
                tr("No hand reaches both as harmonics of neighbouring strings.")
                if self._two
                else tr("No string gives that as a harmonic.")
            )
        elif self.pairs:
            a, b = (self.ways[k] for k in self.shown)
            count = trn("{n} way.", "{n} ways.", n).format(n=n)
            self.said.setText(f"{count} {pair_sentence((a, b))}")
        else:
            count = trn("{n} place.", "{n} places.", n).format(n=n)
            self.said.setText(f"{count} {way_sentence(self.ways[self.chosen])}")
        self.picture.setAccessibleDescription(self.said.text())
        self.picture.update()


class _Strings(StringsPicture):
    """The picture."""

    def __init__(self, finder: HarmonicFinder) -> None:
        super().__init__(finder, tr("Places on the strings"))
        self._finder = finder

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw it."""
        finder = self._finder
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_harmonic_strings(
            painter, self.neck(), finder.strings, finder.ways, finder.shown, finder.palette_now
        )
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """A place is chosen and heard."""
        if event is None:
            return
        k = self.neck().way_at(self._finder.ways, event.position())
        if k is not None:
            self._finder.choose_way(k, sound=True)

    def event(self, event: QEvent | None) -> bool:
        """Its own keys come here, not to the window's commands."""
        return claims(event, _KEYS) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Arrows go from place to place, Return sounds one."""
        if event is None or event.key() not in _KEYS:
            super().keyPressEvent(event)
            return
        finder, n = self._finder, self._finder.n_choices
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            finder.hear()
        elif finder.chosen is not None:
            by = 1 if event.key() == Qt.Key.Key_Right else -1
            finder.choose((finder.chosen + by) % n)
