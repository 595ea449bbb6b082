"""Making takes of stretches of a recording; the one place where recorded sound is let go.

See :mod:`jigwright.services.ledger` for the rule. Whatever fails here, the recording stays.
"""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.model import Jig
from jigwright.core.music.pitch import Pitch
from jigwright.services.growing import Growing, record_of
from jigwright.services.ledger import Keeps, Span
from jigwright.services.moments import local_offset_min, utc_now
from jigwright.services.recording import (
    Accompaniment,
    CutRequest,
    CutTake,
    EarRequest,
    FindRequest,
    FoundTakes,
)
from jigwright.services.recordings import (
    RecordingNote,
    cut_name,
    remove_recording,
    remove_unfinished,
)
from jigwright.services.records import Beside, TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.companions import Companions

_ENDED = ("worker", "too_long")  # errors with which the worker has gone
_TRIES = 2  # a worker that died is started anew once


def new_take_id() -> str:
    """An id for a take."""
    return f"take-{uuid.uuid4().hex[:16]}"


class TakeKeeper:
    """Cuts in the worker, keeps in the studio, lets recordings go that owe nothing.

    Parameters
    ----------
    studio : StudioPort
    session : SessionModel
    jobs : JobRunner
    companions : Companions
        Their drone is taken out of what is heard.
    """

    def __init__(
        self, studio: StudioPort, session: SessionModel, jobs: JobRunner, companions: Companions
    ) -> None:
        self._studio, self._session, self._jobs = studio, session, jobs
        self._companions = companions
        self.alive: list[Growing] = []
        self.over: Callable[[Growing, Exception | None], object] = lambda *_: None
        """Called when nothing more is done about a recording: it has gone, or it stays."""

    def instrument(self) -> tuple[str, tuple[Pitch, ...]]:
        """Kind and strings of the instrument in the player's hands."""
        return self._session.now.kind, self._session.now.strings

    def a4_hz(self) -> float:
        """The A that is in force."""
        return self._session.now.a4_hz

    @property
    def n_cutting(self) -> int:
        """Takes that are being made."""
        return sum(g.n_cutting for g in self.alive)

    def note(
        self, recording_id: str, *, input_name: str, source: str, keeps: Keeps, free: bool
    ) -> RecordingNote:
        """Who plays what now, for a recording that begins; ``free`` leaves out the jig."""
        now = self._session.now
        assert now.player is not None
        assert now.instrument is not None
        context = now.context()
        jig = None if free else now.jig
        kind, strings = self.instrument()
        return RecordingNote(
            id=recording_id, started_utc=utc_now(),
            utc_offset_min=local_offset_min(),
            player_id=now.player.id, player=now.player.name, instrument_id=now.instrument.id,
            kind=kind, strings=strings, jig_id=jig.id if jig else None,
            jig_revision=jig.revision if jig else None, title=jig.title if jig else "",
            a4_hz=self.a4_hz(), reference=context.reference.name,
            tolerance_cents=context.tolerance_cents, input_name=input_name, source=source,
            keeps=keeps, drone_hz=self._companions.partials_hz(),
        )  # fmt: skip

    def record(self, *, input_name: str, source: str, free: bool = False) -> TakeRecord:
        """A take to be, of what has just been played; ``free`` leaves out the jig."""
        now = self.note("", input_name=input_name, source=source, keeps="takes", free=free)
        return record_of(now, (0.0, 0.0), take_id=new_take_id())

    def cut(
        self,
        growing: Growing,
        span: Span,
        *,
        record: TakeRecord,
        done: Callable[[TakeRecord], None],
        failed: Callable[[Exception], None],
        clicks: tuple[float, float] | None = None,
    ) -> None:
        """Make a take of a stretch: cut, decode, compare, hear, keep.

        The stretch counts as played from now on: until its take is committed, it is owed.
        """
        growing.ledger = growing.ledger.was_played(span)
        growing.n_cutting += 1
        if growing not in self.alive:
            self.alive.append(growing)
        live = not growing.ended
        beside = Beside(
            drone_hz=self._companions.partials_hz() if live else growing.note.drone_hz,
            first_click_s=clicks[0] if clicks else None, click_bpm=clicks[1] if clicks else None,
        )  # fmt: skip
        request = CutRequest(
            path=growing.path, start_s=span[0], stop_s=span[1],
            to=growing.path.parent / cut_name(growing.path.stem, span),
            instrument_id=growing.note.kind, strings=growing.note.strings, a4_hz=record.a4_hz,
            drone_hz=beside.drone_hz, jig=self.jig_of(growing.note),
        )  # fmt: skip

        def ready(cut: CutTake) -> None:
            growing.n_cutting -= 1
            try:
                kept = self._commit(growing, span, record, cut, beside)
            except JigwrightError as error:
                failed(error)
                self.settle(growing, error)
                return
            growing.ledger = growing.ledger.is_kept(span)
            done(kept)
            self.settle(growing)

        def broken(error: Exception, n_tries: int) -> None:
            kind = getattr(error, "kind", "")
            if kind in _ENDED:  # and with the worker whatever it was writing
                remove_unfinished(growing.path.parent)
            if kind == "worker" and n_tries < _TRIES:
                submit(n_tries + 1)
                return
            growing.n_cutting -= 1
            failed(error)
            self.settle(growing, error)

        def submit(n_tries: int) -> None:
            self._jobs.run("cut_take", request, done=ready, failed=lambda e: broken(e, n_tries))

        submit(1)

    def _commit(
        self,
        growing: Growing,
        span: Span,
        record: TakeRecord,
        cut: CutTake,
        beside: Beside,
    ) -> TakeRecord:
        kept = self._studio.add_take(
            replace(record, duration_s=cut.seconds), cut.path, cut.heard,
            cut=growing.cut_from(span), beside=beside,
        )  # fmt: skip
        cut.path.unlink(missing_ok=True)
        return kept

    def settle(self, growing: Growing, trouble: Exception | None = None) -> None:
        """A recording that has ended goes when it owes nothing; what nobody heard is heard now."""
        if not growing.ended or growing.n_cutting or growing.searching:
            return
        if growing not in self.alive:
            self.alive.append(growing)
        stretch = growing.next_search()
        if stretch is not None and trouble is None:
            self._search(growing, stretch)
            return
        self.alive.remove(growing)
        if growing.may_go:
            remove_recording(growing.path)
        self.over(growing, trouble)

    def _search(self, growing: Growing, stretch: Span) -> None:
        """Listen to what the ear has missed, and make takes of what was played in it."""
        note = growing.note
        ear = EarRequest(
            path=growing.path, instrument_id=note.kind, strings=note.strings, a4_hz=note.a4_hz,
            jig=self.jig_of(note), from_s=stretch[0],
            beside=Accompaniment(drone_hz=note.drone_hz, since_s=stretch[0]),
        )  # fmt: skip
        at_end = stretch[1] >= growing.seconds - 0.01
        growing.searching = True

        def done(found: FoundTakes) -> None:
            growing.searching = False
            growing.searched(stretch, found.spans, found.heard_s)
            for span in found.spans:
                self.cut(
                    growing, span, record=record_of(note, span, take_id=new_take_id()),
                    done=lambda _: None, failed=lambda _: None,
                )  # fmt: skip
            self.settle(growing)

        def failed(error: Exception) -> None:
            growing.searching = False
            self.settle(growing, error)

        self._jobs.run(
            "find_takes", FindRequest(ear=ear, stop_s=stretch[1], at_end=at_end), done=done,
            failed=failed,
        )  # fmt: skip

    def jig_of(self, note: RecordingNote) -> Jig | None:
        """The jig a recording was played from, if the studio still has it."""
        if note.jig_id is None or note.jig_revision is None:
            return None
        try:
            return self._studio.jig(note.jig_id, note.jig_revision)
        except JigwrightError:
            return None

    @property
    def busy_paths(self) -> tuple[Path, ...]:
        """Recordings that are written or cut now."""
        return tuple(g.path for g in self.alive)
