"""Small values of what the Desk shows."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime

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


@dataclass(frozen=True, slots=True, kw_only=True)
class PastNote:
    """The selected note in one take."""

    take_id: str
    number: int
    cents: float
    uncertainty_cents: float
    standing: str


def utc_now() -> str:
    """Wall time in UTC, to the second."""
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
