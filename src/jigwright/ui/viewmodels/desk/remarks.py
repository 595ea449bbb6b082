"""Words left on notes, by the player or a teacher."""

from __future__ import annotations

import uuid
from dataclasses import replace

from jigwright.core.judge.judging import JudgedNote
from jigwright.services.moments import utc_now
from jigwright.services.records import Remark, TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.session_model import SessionModel

_MOST_LETTERS = 500


class Remarks:
    """Reads and leaves them, in the present player's name.

    Parameters
    ----------
    studio : StudioPort
    session : SessionModel
    """

    def __init__(self, studio: StudioPort, session: SessionModel) -> None:
        self._studio, self._session = studio, session

    def on(self, take_id: str, note_id: str | None) -> tuple[Remark, ...]:
        """Words left on a note of a take."""
        return tuple(r for r in self._studio.remarks(take_id) if r.note_id == note_id)

    def add(self, take_id: str, note: JudgedNote, words: str) -> None:
        """Leave words on a note."""
        words = " ".join(words.split())[:_MOST_LETTERS]
        if not words:
            return
        segment = note.measured.segment
        at_s = segment.onset_s if segment is not None else 0.0
        self.hold(take_id, at_s, words, note_id=note.measured.lined.note_id)

    def hold(
        self, take_id: str, at_s: float, words: str, *, note_id: str | None = None,
        spoken: str | None = None, who: str | None = None,
    ) -> None:  # fmt: skip
        """Leave words at a moment of a take.

        ``spoken`` is the take in which they are said; ``who`` else than the present player.
        """
        player = self._session.now.player
        if who is None:
            who = player.name if player is not None else ""
        self._studio.set_remark(
            Remark(
                id=f"remark-{uuid.uuid4().hex[:12]}", take_id=take_id, note_id=note_id, at_s=at_s,
                who=who, words=words, utc=utc_now(), spoken=spoken,
            )
        )  # fmt: skip

    def sound_of(self, remark: Remark) -> TakeRecord | None:
        """The take it was spoken in, unless that was thrown away."""
        return next((t for t in self._studio.takes() if t.id == remark.spoken), None)

    def remove(self, remark: Remark) -> None:
        """Take a remark away."""
        self._studio.set_remark(replace(remark, words=""))
