"""What the Stand has said since the player got ready: the verdict, and what it stands on."""

from __future__ import annotations

from collections.abc import Mapping

from jigwright.core.jig.model import Jig
from jigwright.core.judge.aims import met_or_not
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.verdict import Verdict, judge_at_once, next_tolerance

_ENOUGH_TAKES = 3
_IN_TUNE = ("pitch", "second_arrival")  # aims that a tolerance decides


class Told:
    """The newest verdict and the takes it looks back on.

    ``met``: whether each take met its aims, the newest last; ``None`` where it cannot be told.
    """

    def __init__(self) -> None:
        self.verdict: Verdict | None = None
        self.notes: tuple[JudgedNote, ...] = ()
        self.show_direction = False
        self.met: list[bool | None] = []
        self.proposed_tolerance: float | None = None
        self._before: list[Mapping[str, float]] = []

    def begin(self) -> None:
        """The player gets ready: what was said before is no longer looked back on."""
        self.verdict, self.met = None, []
        self._before = []

    @property
    def n_takes(self) -> int:
        """Takes since the player got ready."""
        return len(self.met)

    def kept(self) -> None:
        """A take is there; until it is judged it cannot be told whether it met its aims."""
        self.met.append(None)

    def judge(self, judged: Judged, jig: Jig, tolerance_cents: float) -> JudgedNote | None:
        """Say one thing about a take; the note it is about, if it is about one."""
        self.notes = judged.notes
        self.verdict = judge_at_once(judged.notes, jig, before=self._before, aims=judged.aims)
        if self.met:
            self.met[-1] = met_or_not(judged.aims)
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
        asks_pitch = any(r.aim.kind in _IN_TUNE for r in judged.aims)
        enough = asks_pitch and self.n_takes >= _ENOUGH_TAKES
        self.proposed_tolerance = next_tolerance(spread, tolerance_cents) if enough else None
        row = self.verdict.row
        of_pitch = self.verdict.aim is None  # the ear is asked about notes, not about the bow
        return judged.notes[row] if row is not None and of_pitch else None
