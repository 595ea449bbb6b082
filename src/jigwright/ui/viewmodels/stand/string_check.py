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

    What was found of a string stays until the string is heard again, or somebody else plays, or
    another instrument.

    Parameters
    ----------
    studio : StudioPort
    session : SessionModel
    """

    def __init__(self, studio: StudioPort, session: SessionModel) -> None:
        self._studio, self._session = studio, session
        self._newest: dict[Pitch, Segment] = {}
        self._whose = self._now_whose()
        self.clear()

    def clear(self) -> None:
        """Begin anew."""
        self._newest.clear()
        self.strings: tuple[StringFound, ...] = ()
        self.peg: PegAdvice | None = None
        self.neighbours: tuple[NeighboursFound, ...] = ()

    def follow(self) -> bool:
        """Begin anew if the player or the instrument is another; says whether it is."""
        whose = self._now_whose()
        if whose == self._whose:
            return False
        self._whose = whose
        self.clear()
        return True

    def hear(self, notes: Sequence[Segment], targets: Mapping[Pitch, float]) -> None:
        """Take the notes heard so far; the newest of each string counts."""
        for note in notes[-_MOST_NOTES:]:
            found = find_strings((note,), (), targets)
            if found:
                self._newest[found[0].string] = note
        was = self.strings
        self.strings = find_strings(tuple(self._newest.values()), (), targets)
        self.neighbours = neighbours(self.strings)
        self.peg = next_peg(self.strings)
        owned = self._session.now.instrument
        if self._studio.read_only or self.strings == was or owned is None:
            return
        found_hz = {s.string: s.f0_hz for s in self.strings}
        self._studio.set_string_check(owned.id, today().isoformat(), found_hz)

    def _now_whose(self) -> tuple[str | None, str | None]:
        now = self._session.now
        return (
            now.player.id if now.player is not None else None,
            now.instrument.id if now.instrument is not None else None,
        )
