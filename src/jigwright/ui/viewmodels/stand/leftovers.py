"""What an interrupted sitting left behind: offered one by one, kept as takes, or discarded."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from jigwright.core.errors import JigwrightError
from jigwright.core.isolation import note_failure
from jigwright.core.sound.heard import Heard
from jigwright.services.growing import Growing, record_of
from jigwright.services.jobs import HearRequest
from jigwright.services.recordings import (
    FOLDER,
    Leftover,
    RecordingNote,
    bring_back,
    discard,
    find_leftovers,
    free_note,
    remove_recording,
)
from jigwright.services.records import OwnedInstrument, Player, TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.take_keeper import TakeKeeper, new_take_id
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence
from jigwright.wording.leftovers import done_sentence, left_sentence


class Leftovers(QObject):
    """The queue of what was left behind.

    Remarks that somebody spoke are not asked about: they become remarks by themselves.

    Parameters
    ----------
    studio : StudioPort
    session : SessionModel
    jobs : JobRunner
    keeper : TakeKeeper
    cache : Path
        Where earlier versions left cut sound.
    spoken : callable
        Holds a remark that is a take now to what it speaks about.

    Signals
    -------
    changed
        Another one is offered, or none; or one is being worked on.
    message : str
    """

    changed = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        jobs: JobRunner,
        keeper: TakeKeeper,
        cache: Path,
        parent: QObject | None = None,
        *,
        spoken: Callable[[RecordingNote, TakeRecord], None] = lambda *_: None,
    ) -> None:
        super().__init__(parent)
        self._spoken = spoken
        self._studio, self._session, self._jobs = studio, session, jobs
        self._keeper, self._cache = keeper, cache
        self._later: set[Path] = set()
        self._silent: set[Path] = set()  # nothing like playing was found in these
        self._n_before = 0
        self.waiting: tuple[Leftover, ...] = ()
        self.busy: Leftover | None = None
        self.discarded: Path | None = None
        keeper.over = self._over

    @property
    def offered(self) -> Leftover | None:
        """The one that is asked about now."""
        return next(
            (o for o in self.waiting if o.path not in self._later and not _is_remark(o)), None
        )

    @property
    def found_silent(self) -> bool:
        """Whether nothing like playing was found in the offered one."""
        return self.offered is not None and self.offered.path in self._silent

    def look(self) -> None:
        """Look what lies in the folder of recordings."""
        studio = self._studio
        if studio.read_only:
            return
        try:
            self.waiting = find_leftovers(
                studio.folder / FOLDER, kept_of=studio.cut_spans, is_kept=studio.holds_sound,
                but=self._keeper.busy_paths, older=sorted(self._cache.glob("take-*.flac")),
            )  # fmt: skip
        except (JigwrightError, OSError) as error:
            note_failure("leftovers", error)
            self.message.emit(error_sentence(error))
        for one in self.waiting:
            if _is_remark(one) and one.path not in self._later:
                self._keep_remark(one)
        self.changed.emit()

    def _keep_remark(self, one: Leftover) -> None:
        """What somebody said before an interruption becomes the remark it was meant to be."""
        try:
            note = self._owners(one)
        except JigwrightError as error:
            self._failed(one, error)
            return
        growing = Growing.of_leftover(one, note)
        for span in growing.whole_parts():
            self._keeper.cut(
                growing, span, record=record_of(note, span, take_id=new_take_id()),
                done=partial(self._spoken, note), failed=lambda _: None,
            )  # fmt: skip

    def later(self) -> None:
        """Ask about this one at the next start."""
        if self.offered is not None:
            self._later.add(self.offered.path)
            self.changed.emit()

    def discard(self) -> None:
        """The player does not want it: it is put aside."""
        one = self.offered
        if one is None or self.busy is not None:
            return
        try:
            self.discarded = discard(one)
        except OSError as error:
            self.message.emit(error_sentence(error))
            return
        self.look()

    def bring_back(self) -> None:
        """Undo the last discarding."""
        if self.discarded is None:
            return
        try:
            bring_back(self.discarded)
        except OSError as error:
            self.message.emit(error_sentence(error))
            return
        self.discarded = None
        self.look()

    def keep(self) -> None:
        """Cut the offered one into takes, under the player and jig it was played with."""
        self._keep(whole=False)

    def keep_whole(self) -> None:
        """Keep all of the offered one, playing or not."""
        self._keep(whole=True)

    def _keep(self, *, whole: bool) -> None:
        one = self.offered
        if one is None or self.busy is not None or self._session.now.player is None:
            return
        self.busy, self.discarded = one, None
        self._n_before = len(self._studio.takes())
        try:
            note = self._owners(one)
        except JigwrightError as error:
            self._failed(one, error)
            return
        self.changed.emit()
        if not one.growing:
            self._hear(one, note)
            return
        if whole:
            note = replace(free_note(note), keeps="whole")
        growing = Growing.of_leftover(one, note)
        if growing.note.keeps != "whole":
            self._keeper.settle(growing)
            return
        for span in growing.whole_parts():
            self._keeper.cut(
                growing, span, record=record_of(note, span, take_id=new_take_id()),
                done=lambda _: None, failed=lambda _: None,
            )  # fmt: skip

    def _over(self, growing: Growing, trouble: Exception | None) -> None:
        """Nothing more is done about a recording: say what came of it."""
        one, path = self.busy, growing.path
        mine = one is not None and one.path == path
        if mine:
            self.busy = None
        if trouble is not None:
            self._later.add(path)
            self.message.emit(left_sentence(path.name, trouble))
        elif growing.silent and growing.asks:
            self._silent.add(path)
        elif mine and one is not None:
            n = len(self._studio.takes()) - self._n_before
            self.message.emit(done_sentence(n, one.note.player if one.note else ""))
        self.look()

    def _owners(self, one: Leftover) -> RecordingNote:
        """Make sure that player, instrument and jig of a leftover are in the studio."""
        studio, note = self._studio, one.note
        if note is None:
            source = tr("left behind")
            return self._keeper.note(
                one.path.stem, input_name="", source=source, keeps="takes", free=True
            )
        if not any(p.id == note.player_id for p in studio.players()):
            studio.add_player(Player(id=note.player_id, name=note.player))
        if not any(i.id == note.instrument_id for i in studio.instruments()):
            studio.add_instrument(
                OwnedInstrument(
                    id=note.instrument_id, name="", kind=note.kind, strings=note.strings
                )
            )
        return note if self._keeper.jig_of(note) is not None else free_note(note)

    def _hear(self, one: Leftover, note: RecordingNote) -> None:
        """A take that was cut but never kept."""
        request = HearRequest(
            path=one.path, instrument_id=note.kind, strings=note.strings, a4_hz=note.a4_hz,
            drone_hz=note.drone_hz, jig=self._keeper.jig_of(note),
        )  # fmt: skip

        def done(heard: Heard) -> None:
            record = record_of(note, (0.0, heard.duration_s), take_id=new_take_id())
            try:
                self._studio.add_take(record, one.path, heard)
            except JigwrightError as error:
                self._failed(one, error)
                return
            remove_recording(one.path)
            self.busy = None
            self.message.emit(done_sentence(1, one.note.player if one.note else ""))
            self.look()

        self._jobs.run("hear", request, done=done, failed=lambda e: self._failed(one, e))

    def _failed(self, one: Leftover, error: Exception) -> None:
        self.busy = None
        self._later.add(one.path)
        self.message.emit(left_sentence(one.path.name, error))
        self.changed.emit()


def _is_remark(one: Leftover) -> bool:
    return one.growing and one.note is not None and one.note.about is not None
