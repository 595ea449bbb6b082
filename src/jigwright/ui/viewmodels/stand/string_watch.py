"""Open strings that are played during a session, watched for drift (P1)."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.open_strings import StringDrift, drifted
from jigwright.core.music.pitch import Pitch
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.wording.verdicts import drift_sentence

_FIRST_NOTES = 3


class StringWatch:
    """Remembers open notes since the bow was taken up; says when one has moved.

    Parameters
    ----------
    studio : StudioPort
    session : SessionModel
    """

    def __init__(self, studio: StudioPort, session: SessionModel) -> None:
        self._studio, self._session = studio, session
        self._played: dict[Pitch, list[tuple[float, float]]] = defaultdict(list)
        self._owned_id = ""
        self.drift: StringDrift | None = None
        self.is_news = False  # first said after the newest take

    def heard(self, notes: Sequence[JudgedNote], day: str) -> None:
        """Take the open strings of a take in.

        Parameters
        ----------
        notes : sequence of JudgedNote
            Only what the fingering calls open is taken for an open string.
        day : str
            Of the take, ``YYYY-MM-DD`` in UTC.
        """
        owned = self._session.now.instrument
        if owned is None:
            return
        if owned.id != self._owned_id:
            self.clear()
            self._owned_id = owned.id
        for note in notes:
            segment = note.measured.segment
            open_one = note.finger == 0 and note.string is not None and note.double is None
            if not open_one or segment is None or note.cents is None or note.string is None:
                continue
            if note.string < len(owned.strings) and owned.strings[note.string] == note.pitch:
                self._played[note.pitch].append((segment.f0_hz, note.uncertainty_cents))
        before = {
            string: sorted(hz for hz, _ in heard[:_FIRST_NOTES])[len(heard[:_FIRST_NOTES]) // 2]
            for string, heard in self._played.items()
        }
        before |= self._studio.string_check(owned.id, day)
        found = drifted(self._played, before)
        told = self.drift.string if self.drift is not None else None
        self.drift = found[0] if found else None
        self.is_news = self.drift is not None and self.drift.string != told

    def clear(self) -> None:
        """Begin anew, for instance after the strings were checked."""
        self._played.clear()
        self.drift, self.is_news = None, False

    @property
    def sentence(self) -> str:
        """What is said of it; empty when nothing has moved."""
        return drift_sentence(self.drift) if self.drift is not None else ""
