"""What was said of a take, spoken: for eyes that are on the page. Off until asked for.

While it speaks nothing that sounds is taken for playing; it never speaks while somebody plays.
"""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

from PyQt6.QtCore import QLocale, QObject, QTimer, pyqtSignal

from jigwright.services.studio_port import SettingStore
from jigwright.wording.catalogue import language_now
from jigwright.wording.speaking import no_voice_sentence, spoken

if TYPE_CHECKING:
    from PyQt6.QtTextToSpeech import QTextToSpeech

_SETTING = "speak"
_STAND_IN = "mock"
_LONGEST_MS = 15_000
"""A voice that does not come to its end is not waited for."""


class Speaking(QObject):
    """Speaks sentences.

    Parameters
    ----------
    studio : SettingStore
        Remembers whether it is wished.
    engine : str
        Of the toolkit; by default what the system has, the toolkit's own stand-in in tests.

    Signals
    -------
    over
        What was being said is said.
    message : str
    """

    over = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(
        self, studio: SettingStore, parent: QObject | None = None, *, engine: str | None = None
    ) -> None:
        super().__init__(parent)
        self._studio = studio
        self._engine = engine or os.environ.get("JIGWRIGHT_VOICE", "")
        self._voice: QTextToSpeech | None = None
        self._busy = False
        self.said = ""
        self._late = QTimer(self)
        self._late.setSingleShot(True)
        self._late.setInterval(_LONGEST_MS)
        self._late.timeout.connect(self._end)

    @property
    def on(self) -> bool:
        """Whether it is wished."""
        return self._studio.setting(_SETTING) == "1"

    @property
    def busy(self) -> bool:
        """Whether it is speaking."""
        return self._busy

    def toggle(self) -> None:
        """Speak from now on, or be silent; without a voice it says so and stays silent."""
        wished = not self.on
        if wished and not self._ready():
            self.message.emit(no_voice_sentence())
            return
        self._studio.set_setting(_SETTING, "1" if wished else "")
        if not wished:
            self.stop()

    def say(self, *sentences: str) -> bool:
        """Say something; says whether it is being said."""
        text = spoken(*sentences)
        if not self.on or not text or not self._ready() or self._voice is None:
            return False
        self.said, self._busy = text, True
        self._voice.setLocale(QLocale(language_now()))
        self._voice.say(text)
        self._late.start()
        return True

    def stop(self) -> None:
        """Be silent at once."""
        if self._voice is not None and self._busy:
            self._voice.stop()
        self._end()

    def _ready(self) -> bool:
        from PyQt6.QtTextToSpeech import QTextToSpeech  # costs a start that stays silent nothing

        if self._voice is None:
            engines = [e for e in QTextToSpeech.availableEngines() if e != _STAND_IN]
            engine = self._engine or next(iter(engines), "")
            if not engine:
                return False
            self._voice = QTextToSpeech(engine, self)
            self._voice.stateChanged.connect(self._state)
        return self._voice.state() != QTextToSpeech.State.Error

    def _state(self, state: QTextToSpeech.State) -> None:
        if state.name in ("Ready", "Error") and self._busy:
            self._end()

    def _end(self) -> None:
        self._late.stop()
        was, self._busy = self._busy, False
        if was:
            self.over.emit()
