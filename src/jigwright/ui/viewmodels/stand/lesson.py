"""A lesson: all is recorded; one press keeps the last phrase, one holds a remark to it (L5)."""

from __future__ import annotations

from dataclasses import dataclass

from jigwright.services.recording import EarSays
from jigwright.services.records import TakeRecord
from jigwright.wording.catalogue import tr, trn

_LEAST_REMARK_S = 0.7
_LEAST_PHRASE_S = 3.0  # who keeps while somebody has played so long means what is played now
_SAME_S = 0.5
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
        self.keeps_next = False
        self._playing_since: float | None = None
        self._kept_phrase: tuple[float, float] | None = None

    def hear(self, says: EarSays) -> tuple[bool, Cut | None]:
        """Take what the ear says.

        Returns
        -------
        (bool, Cut or None)
            Whether a phrase has ended, and what is to be kept of it.
        """
        self._playing_since = says.since_s
        take, speaking = says.take, self.speaking_since
        if take is None or (speaking is not None and take[0] >= speaking):
            return False, None
        if self._kept_phrase is not None and abs(take[0] - self._kept_phrase[0]) < _SAME_S:
            return False, None  # kept before the ear knew that it was over
        self.phrase = take
        self.n_phrases += 1
        wanted, self.keeps_next = self.keeps_next, False
        return True, self._kept() if wanted else None

    def keep(self, now_s: float) -> Cut | None:
        """The last phrase, unless it is kept already.

        The ear knows that a phrase is over some two seconds after its last sound: what is being
        played, or was until just now, is meant, and kept when it ends.
        """
        since = self._playing_since
        if since is not None and now_s - since >= _LEAST_PHRASE_S:
            self.keeps_next = True
            return None
        if self.phrase is None or self.phrase == self._kept_phrase:
            return None
        return self._kept()

    def _kept(self) -> Cut:
        assert self.phrase is not None
        self._kept_phrase = self.phrase
        self.n_kept += 1
        return Cut(start_s=self.phrase[0], stop_s=self.phrase[1])

    def wished(self, now_s: float) -> Cut | None:
        """What was to be kept when it ends, if it has to end now."""
        if not self.keeps_next or self._playing_since is None:
            return None
        self.phrase, self.keeps_next = (self._playing_since, now_s), False
        self.n_phrases += 1
        return self._kept()

    def speak(self, now_s: float) -> Cut | None:
        """Begin a spoken remark, or end it; what was to be kept is over where one begins."""
        if self.speaking_since is None:
            self.speaking_since = now_s
            return self.wished(now_s)
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
        if self.keeps_next:
            return tr("It is kept when it ends"), keys
        if self.phrase is None:
            return tr("Everything is recorded"), keys
        seconds = self.phrase[1] - self.phrase[0]
        last = tr("The last phrase: {s} s.").format(s=round(seconds))
        if self.phrase == self._kept_phrase:
            last = tr("The last phrase is kept.")
        kept = trn("{n} phrase kept", "{n} phrases kept", self.n_kept).format(n=self.n_kept)
        return kept if self.n_kept else tr("A phrase was heard"), f"{last} {keys}"
