"""Signals that are plucked on the instrument: whether they are wished, and learning them."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from jigwright.core.music.pitch import Pitch
from jigwright.services.studio_port import SettingStore
from jigwright.wording.catalogue import tr
from jigwright.wording.notes import string_name

_SETTING = "plucked_signals"
GO_ON, BACK = 2, 3
"""Plucks that stand for the right and for the left pedal."""


class PluckedSignals(QObject):
    """Two plucks of the lowest open string are the right pedal, three the left one.

    Parameters
    ----------
    studio : SettingStore
        Remembers whether they are wished.
    strings : callable
        Open strings in the player's hands.

    Signals
    -------
    changed
        They were asked for, learnt, or let go.
    given : int
        A signal that is to be acted on.
    """

    changed = pyqtSignal()
    given = pyqtSignal(int)

    def __init__(
        self, studio: SettingStore, strings: Callable[[], tuple[Pitch, ...]],
        parent: QObject | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._studio, self._strings = studio, strings
        self.asks: int | None = None
        """The signal that is being learnt; ``None`` when none is."""

    @property
    def on(self) -> bool:
        """Whether they are wished."""
        return self._studio.setting(_SETTING) == "1"

    def toggle(self) -> None:
        """Heed them from now on, after each was tried once; or no longer."""
        wished = not self.on
        self._studio.set_setting(_SETTING, "1" if wished else "")
        self.asks = GO_ON if wished else None
        self.changed.emit()

    def learnt(self) -> bool:
        """Leave the trial; says whether there was one."""
        was, self.asks = self.asks is not None, None
        if was:
            self.changed.emit()
        return was

    def heard(self, plucks: int) -> None:
        """A signal came from the ear: it is tried, or acted on."""
        if not self.on or not plucks:
            return
        if self.asks is None:
            self.given.emit(plucks)
        elif plucks == self.asks:
            self.asks = BACK if self.asks == GO_ON else None
            self.changed.emit()

    def words(self) -> tuple[str, str]:
        """What stands large while they are learnt, and the line under it."""
        name = string_name(self._strings()[0])
        if self.asks == BACK:
            return tr("Now three times"), tr(
                "Three plucks are the left pedal: stay, low, the direction."
            )
        return tr("Pluck the {string} twice").format(string=name), tr(
            "Two plucks, then quiet, are the right pedal: go on."
        )
