"""What asks for places on the drawn strings: the strings, their length, the picture of them."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtWidgets import QWidget

from jigwright.core.music.pitch import Pitch
from jigwright.ui.painting.harmonic_string import Neck
from jigwright.ui.theme import Palette

_PICTURE_PX = 190


class OnStrings(QWidget):
    """A question about places on strings.

    Parameters
    ----------
    palette : Palette
    """

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self._open_hz: dict[Pitch, float] = {}
        self._length_mm = 328.0
        self.picture: StringsPicture

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


class StringsPicture(QWidget):
    """Strings from nut to bridge, to be pointed at.

    Parameters
    ----------
    owner : OnStrings
        Whose strings they are.
    name : str
        What it is called aloud.
    """

    def __init__(self, owner: OnStrings, name: str) -> None:
        super().__init__()
        self._owner = owner
        self.setFixedHeight(_PICTURE_PX)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)

    def neck(self) -> Neck:
        """Where the strings lie."""
        return Neck(
            rect=QRectF(self.rect()), n_strings=max(2, len(self._owner.strings)),
            length_mm=self._owner.length_mm,
        )  # fmt: skip
