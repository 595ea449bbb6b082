"""Words about instruments."""

from __future__ import annotations

from typing import Protocol

from jigwright.core.music.instruments import instrument
from jigwright.wording.catalogue import tr


class KnownInstrument(Protocol):
    """What the words need of an instrument."""

    @property
    def kind(self) -> str:
        """``violin``, ``viola``, ``cello`` or ``bass``."""

    @property
    def string_length_mm(self) -> float | None:
        """As it was measured."""


def length_words(owned: KnownInstrument) -> str:
    """The entry under which a string length is said."""
    if owned.string_length_mm is not None:
        return tr("String length: {mm} mm …").format(mm=f"{owned.string_length_mm:g}")
    usual = instrument(owned.kind).string_length_mm
    return tr("String length: {mm} mm as usual; say yours …").format(mm=f"{usual:g}")


def ask_length_words() -> str:
    """What is asked."""
    return tr("Millimetres from nut to bridge")


def usual_length_words() -> str:
    """Said beside millimetres that stand on the usual length."""
    return tr("This is the usual length; yours can be said under the instrument, top right.")
