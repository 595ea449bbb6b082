"""Words about the bin."""

from __future__ import annotations

from typing import Protocol

from jigwright.wording.catalogue import tr, trn
from jigwright.wording.daybook import day_name


class BinnedTake(Protocol):
    """What the words need of a take."""

    @property
    def day(self) -> object:
        """The player's day."""

    @property
    def duration_s(self) -> float:
        """Its length."""


def bin_title(n: int) -> str:
    """How much lies in the bin."""
    if n == 0:
        return tr("The bin is empty")
    return trn("One take in the bin", "{n} takes in the bin", n).format(n=n)


def bin_row(take: BinnedTake, title: str, player: str) -> str:
    """A take in the bin: what, who, when, how long."""
    seconds = tr("{s} s").format(s=round(take.duration_s))
    parts = (title or tr("Free playing"), player, day_name(str(take.day)), seconds)
    return " · ".join(p for p in parts if p)


def really_words(n: int) -> str:
    """Asked before anything is deleted."""
    return trn(
        "Its sound, figures and remarks go for good and cannot be made again.",
        "The sounds, figures and remarks of {n} takes go for good and cannot be made again.", n,
    ).format(n=n)  # fmt: skip


def deleted_sentence(n: int) -> str:
    """What was deleted."""
    return trn("One take was deleted.", "{n} takes were deleted.", n).format(n=n)
