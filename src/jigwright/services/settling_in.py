"""Players and instruments that somebody adds; the first ones of an empty studio."""

from __future__ import annotations

import uuid

from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.services.records import OwnedInstrument, Player
from jigwright.services.studio_port import StudioPort
from jigwright.wording.catalogue import tr


def add_player(studio: StudioPort, name: str) -> Player:
    """Add a player and return it."""
    player = Player(id=f"player-{uuid.uuid4().hex[:8]}", name=name[:80])
    studio.add_player(player)
    return player


def add_instrument(
    studio: StudioPort,
    kind: str,
    name: str,
    strings: tuple[Pitch, ...],
    *,
    string_length_mm: float | None = None,
) -> OwnedInstrument:
    """Add an instrument and return it."""
    owned = OwnedInstrument(
        id=f"instrument-{uuid.uuid4().hex[:8]}", name=name[:80], kind=kind, strings=strings,
        string_length_mm=string_length_mm,
    )  # fmt: skip
    studio.add_instrument(owned)
    return owned


def settle_in(studio: StudioPort) -> None:
    """Give an empty studio one player and one violin, so that a first take has an owner."""
    if studio.read_only:
        return
    fresh = not studio.players() and not studio.instruments()
    if not studio.players():
        add_player(studio, tr("Me"))
    if not studio.instruments():
        add_instrument(studio, "violin", "", instrument("violin").strings)
    if fresh:
        studio.settle()  # nobody did that: it is nothing to take back
