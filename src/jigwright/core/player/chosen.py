"""Which notes of a jig something is done to."""

from __future__ import annotations

from dataclasses import dataclass

from jigwright.core.jig.model import Event


@dataclass(frozen=True, slots=True, kw_only=True)
class Chosen:
    """Which events a fault touches; an empty choice means all.

    Parameters
    ----------
    notes : tuple of int
        0-based events of the jig.
    finger, string : int or None
    """

    notes: tuple[int, ...] = ()
    finger: int | None = None
    string: int | None = None

    def touches(self, i_event: int, event: Event) -> bool:
        """Whether this event is chosen."""
        head = event.heads[0]
        return (
            (not self.notes or i_event in self.notes)
            and (self.finger is None or head.finger == self.finger)
            and (self.string is None or head.string == self.string)
        )
