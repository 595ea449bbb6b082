"""A take on the shelf, and what others may ask of the take that is shown."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from jigwright.core.jig.model import Jig
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.judging import Context
from jigwright.services.records import TakeRecord


@dataclass(frozen=True, slots=True, kw_only=True)
class TakePrint:
    """A take on the shelf.

    Parameters
    ----------
    take : TakeRecord
    number : int
        1, 2 … in order of time.
    """

    take: TakeRecord
    number: int


class ShownTake(Protocol):
    """The take that is shown, for those who only look."""

    take: TakeRecord | None
    judged: Judged | None

    def take_jig(self) -> Jig | None:
        """The jig revision it was played from."""

    def context(self) -> Context:
        """What its figures are held against."""
