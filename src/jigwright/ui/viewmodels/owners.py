"""Players, instruments and their strings as checked; the first ones of an empty studio."""

from __future__ import annotations

import json
import uuid
from collections.abc import Mapping

from jigwright.core.checking import number
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.services.ports import StudioPort
from jigwright.services.records import OwnedInstrument, Player
from jigwright.services.remembered import remembered
from jigwright.wording.catalogue import tr


def add_player(studio: StudioPort, name: str) -> Player:
    """Add a player and return it."""
    player = Player(id=f"player-{uuid.uuid4().hex[:8]}", name=name[:80])
    studio.add_player(player)
    return player


def add_instrument(
    studio: StudioPort, kind: str, name: str, strings: tuple[Pitch, ...]
) -> OwnedInstrument:
    """Add an instrument and return it."""
    owned = OwnedInstrument(
        id=f"instrument-{uuid.uuid4().hex[:8]}", name=name[:80], kind=kind, strings=strings
    )
    studio.add_instrument(owned)
    return owned


def settle_in(studio: StudioPort) -> None:
    """Give an empty studio one player and one violin, so that a first take has an owner."""
    if studio.read_only:
        return
    if not studio.players():
        add_player(studio, tr("Me"))
    if not studio.instruments():
        add_instrument(studio, "violin", "", instrument("violin").strings)


def keep_strings(
    studio: StudioPort, owned_id: str, day: str, open_hz: Mapping[Pitch, float]
) -> None:
    """Keep what a string check found, for takes of that day (UTC, ``YYYY-MM-DD``)."""
    text = json.dumps({"day": day, "hz": {str(s): hz for s, hz in open_hz.items()}})
    studio.set_setting(f"strings:{owned_id}", text)
    studio.set_setting(f"strings:{owned_id}:{day}", text)


def strings_of_day(studio: StudioPort, owned_id: str, day: str) -> dict[Pitch, float]:
    """Open strings as checked on a day in Hz; empty without a check."""
    nothing: dict[Pitch, float] = {}
    return remembered(
        studio, f"strings:{owned_id}:{day}",
        lambda kept: {
            Pitch.parse(name): number(f, name, 10, 5000) for name, f in kept["hz"].items()
        },
        nothing,
    )  # fmt: skip
