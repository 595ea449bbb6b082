"""What the figures mean: a list, words, a picture, and both sounds from the simulated player."""

from __future__ import annotations

from fractions import Fraction
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QVBoxLayout, QWidget

from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.services.jobs import PreviewRequest, RawSound
from jigwright.ui.painting.help import paint_topic
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import Palette, sans
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.ui.widgets.labels import label, push_button
from jigwright.ui.widgets.painted import Painted
from jigwright.wording.errors import error_sentence
from jigwright.wording.help import Topic, help_words, topics

# what is played: a line of notes, and the faults of the bad example
_EXAMPLES = {
    "cents": ("D4:2 E4 F#4 G4", "detune notes=2 cents=-28"),
    "arrival": ("D4:2 E4 F#4", "slide notes=1,2 from_cents=-70 seconds=0.3"),
    "vibrato": ("A4:4", "vibrato extent_cents=70 rate_hz=4 irregularity=0.5"),
    "loudness": ("A4:4", "shape kind=dip db=14"),
    "shake": ("A4:4", "tremor rate_hz=6 depth_db=7"),
    "bounce": ("A4:4", "bounce at=0.4 depth_db=18 width_ms=45 times=2"),
    "change": ("A4:2 A4 A4", "bow_change gap_ms=90 dip_db=24"),
    "start": ("A4:2 r:1 A4:2", "scratch at=0.02 seconds=0.18 db=0"),
    "tone": ("A4:4", "scratch at=0.4 seconds=0.7 db=-3"),
    "ring": ("D5:1 r:3 G4:1 r:3", "detune cents=24"),
    "beats": ("G3+E4:4", "detune cents=18"),
    "even": ("D4:1/2 E4 F#4 G4 A4 B4 C#5 D5", "unsteady spread_ms=70; weak notes=3 db=12"),
}
_GOOD = {"vibrato": "vibrato extent_cents=36 rate_hz=5.6", "loudness": "shape kind=grow db=10",
         "ring": "sympathy coupling_db=-20"}  # fmt: skip
_EVER = {"ring": "sympathy coupling_db=-20"}


class HelpPage(QDialog):
    """The help, beside the window.

    Parameters
    ----------
    sound, jobs, cache
        For the examples.
    """

    def __init__(
        self, sound: SoundModel, jobs: JobRunner, cache: Path, palette: Palette, parent: QWidget
    ) -> None:
        super().__init__(parent)
        self._sound, self._jobs, self._cache, self._palette = sound, jobs, cache, palette
        words = help_words()
        self.setWindowTitle(words["title"])
        self.topics = topics()
        self._list = QListWidget()
        self._list.setFont(sans(14))
        self._list.setAccessibleName(words["title"])
        self._list.setMaximumWidth(240)
        self._list.addItems([t.title for t in self.topics])
        self._list.currentRowChanged.connect(self._show)
        self._title = label("", px=26, old_style=True)
        self._means, self._cannot = label("", px=15), label("", px=14, second=True)
        self._picture = Painted(self._paint, 190)
        self._said = label("", px=13, second=True)
        right = QVBoxLayout()
        for widget in (self._title, self._means, self._picture):
            right.addWidget(widget)
        row = QHBoxLayout()
        for text, good in ((words["right"], True), (words["other"], False)):
            row.addWidget(push_button(text, partial(self.hear, good=good)))
        row.addStretch(1)
        right.addLayout(row)
        right.addWidget(self._said)
        right.addWidget(self._cannot)
        right.addStretch(1)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(22, 20, 22, 20)
        whole.setSpacing(24)
        whole.addWidget(self._list, 1)
        whole.addLayout(right, 3)
        self.resize(880, 560)
        self._list.setCurrentRow(0)

    @property
    def topic(self) -> Topic:
        """What is explained."""
        return self.topics[max(0, self._list.currentRow())]

    def show_topic(self, topic_id: str) -> None:
        """Explain a figure."""
        ids = [t.id for t in self.topics]
        if topic_id in ids:
            self._list.setCurrentRow(ids.index(topic_id))

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self._picture.update()

    def hear(self, *, good: bool) -> None:
        """Play the example."""
        topic = self.topic
        faults = _GOOD.get(topic.id, "") if good else _EXAMPLES[topic.id][1]
        if not good and topic.id in _EVER:
            faults += "; " + _EVER[topic.id]
        self._cache.mkdir(parents=True, exist_ok=True)
        request = PreviewRequest(
            jig=example(topic.id), a4_hz=440.0, reference="just:G" if topic.id == "beats" else
            "equal", to=self._cache / "help.f32", tries=(faults,), lead_s=0.2, gap_s=0.2,
        )  # fmt: skip

        def done(sound: RawSound) -> None:
            self._sound.play_raw(sound, what=topic.title)

        self._jobs.run(
            "preview", request, done=done,
            failed=lambda e: self._said.setText(error_sentence(e)), key="help",
        )  # fmt: skip

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Space plays the example as it should be, Escape closes."""
        if event is not None and event.key() == Qt.Key.Key_Space:
            self.hear(good=True)
            return
        super().keyPressEvent(event)

    def _show(self, _row: int) -> None:
        topic = self.topic
        self._title.setText(topic.title)
        self._means.setText(topic.means)
        self._cannot.setText(f"{help_words()['cannot']} {topic.cannot}")
        self._said.setText("")
        self._picture.update()

    def _paint(self, painter: QPainter, rect: QRectF) -> None:
        paint_topic(painter, rect, self.topic.id, self._palette)


def example(topic_id: str) -> Jig:
    """The notes that are played for a figure."""
    line = _EXAMPLES[topic_id][0]
    jig = jig_from_line(
        line, jig_id=f"help-{topic_id}", instrument_id="violin", title=topic_id, tempo_bpm=80.0,
        key=Key(PitchClass("D")),
    )  # fmt: skip
    assert jig.length_beats > Fraction(0)
    return jig
