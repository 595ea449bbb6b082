"""What lies in the bin: looked into, brought back, emptied for good."""

from __future__ import annotations

from dataclasses import dataclass

from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort


@dataclass(frozen=True, slots=True, kw_only=True)
class Binned:
    """A take in the bin.

    Parameters
    ----------
    take : TakeRecord
    title : str
        Of its jig; empty for free playing.
    player : str
    """

    take: TakeRecord
    title: str
    player: str


def in_the_bin(studio: StudioPort) -> tuple[Binned, ...]:
    """Everything in the bin, whoever played it, the newest first."""
    titles = {j.id: j.title for j in studio.jigs()}
    names = {p.id: p.name for p in studio.players()}
    return tuple(
        Binned(
            take=take, title=titles.get(take.jig_id or "", ""),
            player=names.get(take.player_id, ""),
        )
        for take in reversed(studio.takes(binned=True))
    )  # fmt: skip


def bring_back(studio: StudioPort, take_id: str) -> None:
    """Put a take back on its shelf; that can be taken back, too."""
    studio.change("restore_take", take_id, {"binned": 0})
