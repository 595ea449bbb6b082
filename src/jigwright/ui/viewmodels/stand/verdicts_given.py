"""What the Stand has said since the player got ready: the verdict, and what it stands on."""

from __future__ import annotations

from collections.abc import Mapping

from jigwright.core.jig.model import Jig
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.verdict import Verdict, judge_at_once, next_tolerance

_ENOUGH_TAKES = 3


class Told:
    """The newest verdict and the takes it looks back on."""

    def __init__(self) -> None:
        self.verdict: Verdict | None = None
        self.notes: tuple[JudgedNote, ...] = ()
        self.show_direction = False
        self.n_takes = 0
        self.proposed_tolerance: float | None = None
        self._before: list[Mapping[str, float]] = []

    def begin(self) -> None:
        """The player gets ready: what was said before is no longer looked back on."""
        self.verdict, self.n_takes = None, 0
        self._before = []

    def judge(self, judged: Judged, jig: Jig, tolerance_cents: float) -> JudgedNote | None:
        """Say one thing about a take; the note it is about, if it is about one."""
        self.notes = judged.notes
        self.verdict = judge_at_once(judged.notes, jig, before=self._before, aims=judged.aims)
        self.show_direction = self.verdict.kind == "direction"
        self._before.insert(
            0,
            {
                n.measured.lined.note_id: n.cents
                for n in judged.notes
                if n.measured.lined.note_id is not None and n.cents is not None
            },
        )
        spread = [c for take in self._before for c in take.values()]
        self.proposed_tolerance = (
            next_tolerance(spread, tolerance_cents) if self.n_takes >= _ENOUGH_TAKES else None
        )
        row = self.verdict.row
        of_pitch = self.verdict.aim is None  # the ear is asked about notes, not about the bow
        return judged.notes[row] if row is not None and of_pitch else None
