"""A lesson: all is recorded; one press keeps the last phrase, one holds a remark to it (L5)."""

from __future__ import annotations

from dataclasses import dataclass

from jigwright.services.recording import EarSays
from jigwright.services.records import TakeRecord
from jigwright.wording.catalogue import tr, trn

_LEAST_REMARK_S = 0.7
_LEAST_LESSON_S = 5.0
_PART_S = 600.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Cut:
    """A stretch of the lesson that is to be kept.

    Parameters
    ----------
    start_s, stop_s : float
    spoken : bool
        A remark, to be held to the phrase that was kept last.
    """

    start_s: float
    stop_s: float
    spoken: bool = False


class Lesson:
    """What has been heard of a lesson and what was kept of it."""

    def __init__(self) -> None:
        self.phrase: tuple[float, float] | None = None
        self.n_phrases = self.n_kept = self.n_remarks = 0
        self.kept_take_id: str | None = None
        self.speaking_since: float | None = None
        self._kept_phrase: tuple[float, float] | None = None

    def hear(self, says: EarSays) -> bool:
        """Take what the ear says; says whether a phrase has ended."""
        if says.take is None or self.speaking_since is not None:
            return False
        self.phrase = says.take
        self.n_phrases += 1
        return True

    def keep(self) -> Cut | None:
        """The last phrase, unless it is kept already."""
        if self.phrase is None or self.phrase == self._kept_phrase:
            return None
        self._kept_phrase = self.phrase
        self.n_kept += 1
        return Cut(start_s=self.phrase[0], stop_s=self.phrase[1])

    def speak(self, now_s: float) -> Cut | None:
        """Begin a spoken remark, or end it."""
        if self.speaking_since is None:
            self.speaking_since = now_s
            return None
        start, self.speaking_since = self.speaking_since, None
        if now_s - start < _LEAST_REMARK_S:
            return None
        self.n_remarks += 1
        return Cut(start_s=start, stop_s=now_s, spoken=True)

    def whole(self, seconds: float) -> tuple[Cut, ...]:
        """Everything, when the lesson is over, in parts that fit into memory."""
        if seconds < _LEAST_LESSON_S:
            return ()
        n = max(1, round(seconds / _PART_S))
        edges = [seconds * k / n for k in range(n + 1)]
        return tuple(Cut(start_s=a, stop_s=b) for a, b in zip(edges, edges[1:], strict=False))

    def kept(self, take: TakeRecord, cut: Cut) -> tuple[str, str] | None:
        """A stretch was kept; for a spoken remark the take it is held to, and words for it."""
        if not cut.spoken:
            self.kept_take_id = take.id
            return None
        if self.kept_take_id is None:
            return None
        words = tr("Spoken remark of {s} s, kept {day}").format(
            s=round(cut.stop_s - cut.start_s), day=take.recorded_utc[:16].replace("T", " ")
        )
        return self.kept_take_id, words

    def words(self, *, listening: bool) -> tuple[str, str]:
        """The word and the line below it."""
        keys = tr("→ keeps the last phrase, ← begins and ends a spoken remark.")
        if not listening:
            return tr("Lesson"), tr("Space: everything is recorded.") + " " + keys
        if self.speaking_since is not None:
            return tr("Speak"), tr("← ends the remark.")
        if self.phrase is None:
            return tr("Everything is recorded"), keys
        seconds = self.phrase[1] - self.phrase[0]
        last = tr("The last phrase: {s} s.").format(s=round(seconds))
        if self.phrase == self._kept_phrase:
            last = tr("The last phrase is kept.")
        kept = trn("{n} phrase kept", "{n} phrases kept", self.n_kept).format(n=self.n_kept)
        return kept if self.n_kept else tr("A phrase was heard"), f"{last} {keys}"
