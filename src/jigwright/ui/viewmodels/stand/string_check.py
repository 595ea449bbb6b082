"""The string check: each string as it is bowed, neighbours, and which peg first (P1)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from jigwright.core.judge.open_strings import (
    NeighboursFound,
    PegAdvice,
    StringFound,
    find_strings,
    neighbours,
    next_peg,
)
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import Segment
from jigwright.services.moments import today
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.session_model import SessionModel

_MOST_NOTES = 12


class StringCheck:
    """What was found so far; kept with the day.

    Parameters
    ----------
    studio : StudioPort
    session : SessionModel
    """

    def __init__(self, studio: StudioPort, session: SessionModel) -> None:
        self._studio, self._session = studio, session
        self.strings: tuple[StringFound, ...] = ()
        self.peg: PegAdvice | None = None
        self.neighbours: tuple[NeighboursFound, ...] = ()

    def clear(self) -> None:
        """Begin anew."""
        self.strings, self.peg, self.neighbours = (), None, ()

    def hear(self, notes: Sequence[Segment], targets: Mapping[Pitch, float]) -> None:
        """Take the notes heard so far; the newest of each string counts."""
        newest: dict[Pitch, Segment] = {}
        for note in notes[-_MOST_NOTES:]:
            found = find_strings((note,), (), targets)
            if found:
                newest[found[0].string] = note
        self.strings = find_strings(tuple(newest.values()), (), targets)
        self.neighbours = neighbours(self.strings)
        self.peg = next_peg(self.strings)
        if not self._studio.read_only and self.strings and self._session.now.instrument is not None:
            found_hz = {s.string: s.f0_hz for s in self.strings}
            self._studio.set_string_check(
                self._session.now.instrument.id, today().isoformat(), found_hz
            )
