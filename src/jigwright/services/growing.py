"""A recording that somebody plays into, its ledger, and what becomes of it."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path

from jigwright.services.ledger import PART_S, Ledger, Span, parts_of
from jigwright.services.recordings import Leftover, RecordingNote, seconds_of
from jigwright.services.records import CutFrom, TakeRecord


class Growing:
    """One recording: its file, who plays, and what of it is owed.

    Parameters
    ----------
    path : Path
    note : RecordingNote
    ledger : Ledger, optional
    ended : bool
        Nothing is appended any more.
    """

    def __init__(
        self, path: Path, note: RecordingNote, ledger: Ledger | None = None, *, ended: bool = False
    ) -> None:
        self.path, self.note = path, note
        self.ledger = ledger or Ledger(keeps=note.keeps)
        self.ended = ended
        self.n_cutting = 0
        self.searching = False
        self.asks = False  # nothing found in it is a question to the player, not an answer

    @classmethod
    def of_leftover(cls, leftover: Leftover, note: RecordingNote) -> Growing:
        """What was left behind, to be cut: nothing of it was heard, some of it may be kept."""
        made = cls(leftover.path, note, Ledger(keeps=note.keeps, kept=leftover.kept), ended=True)
        made.asks = not leftover.kept
        return made

    @property
    def seconds(self) -> float:
        """Length by the file's size; 0 when it is not there."""
        try:
            return seconds_of(self.path)
        except OSError:
            return 0.0

    @property
    def owed(self) -> list[Span]:
        """Stretches somebody played that are no takes yet."""
        return self.ledger.owed(self.seconds)

    @property
    def silent(self) -> bool:
        """Whether it was listened to and nothing like playing was found."""
        return not self.ledger.played and not self.ledger.kept and not self.owed

    @property
    def may_go(self) -> bool:
        """Whether the recording itself is no longer needed."""
        return self.ledger.may_go(self.seconds) and not (self.asks and self.silent)

    def cut_from(self, span: Span) -> CutFrom:
        """What the studio writes down beside the take."""
        return CutFrom(recording=self.path.stem, start_s=span[0], stop_s=span[1])

    def next_search(self) -> Span | None:
        """The next stretch to be listened to afterwards, at most ten minutes of it."""
        unheard = self.ledger.unheard(self.seconds)
        if not unheard:
            return None
        return parts_of(unheard[0])[0] if unheard[0][1] - unheard[0][0] > PART_S else unheard[0]

    def searched(self, span: Span, found: tuple[Span, ...], heard_s: float) -> None:
        """A stretch was listened to: takes found in it, and from where to go on."""
        for one in found:
            self.ledger = self.ledger.was_played(one)
        self.ledger = self.ledger.was_heard(max(heard_s, span[0] + 0.5))

    def whole_parts(self) -> list[Span]:
        """Everything that is no take yet, in parts that fit into memory."""
        return [part for span in self.owed for part in parts_of(span)]


def record_of(note: RecordingNote, span: Span, *, take_id: str) -> TakeRecord:
    """Make the take of a stretch, as it was played: by whom, on what, when, against which A.

    Parameters
    ----------
    note : RecordingNote
    span : (float, float)
    take_id : str
    """
    try:
        began = datetime.strptime(note.started_utc, "%Y-%m-%dT%H:%M:%SZ").replace(tzinfo=UTC)
        when = (began + timedelta(seconds=span[0])).strftime("%Y-%m-%dT%H:%M:%SZ")
    except (ValueError, OverflowError):
        when = note.started_utc
    return TakeRecord(
        id=take_id, jig_id=note.jig_id, jig_revision=note.jig_revision, player_id=note.player_id,
        instrument_id=note.instrument_id, recorded_utc=when, utc_offset_min=note.utc_offset_min,
        audio="", sha256="", source_name=note.source, duration_s=span[1] - span[0],
        a4_hz=note.a4_hz, reference=note.reference, tolerance_cents=note.tolerance_cents,
        input_name=note.input_name,
    )  # fmt: skip
