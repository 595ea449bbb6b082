"""Bringing sound files in: analysed in the worker, kept byte for byte."""

from __future__ import annotations

import uuid
from collections import deque
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from jigwright.core.errors import JigwrightError
from jigwright.core.follow.stretches import to_cut
from jigwright.core.jig.model import Jig
from jigwright.core.sound.heard import Heard
from jigwright.services.bin_contents import bring_back
from jigwright.services.exchange.bundle import SUFFIX, Bundle
from jigwright.services.jobs import GiveRequest, HearRequest, PartsRequest, TakeInRequest
from jigwright.services.moments import local_offset_min, utc_now
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.services.taking_in import is_here, keep_bundle
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence

_FEWEST_STRETCHES = 2


class ImportModel(QObject):
    """A queue of files to bring in under the present context.

    Signals
    -------
    progress_changed
        Read :attr:`current` and :attr:`share`.
    finished : str
        A sentence when a file is done, refused or cancelled.
    question : str, tuple of (str, callable)
        What is asked, and the answers.
    kept : str
        Id of a take that is on its shelf now.
    """

    progress_changed = pyqtSignal()
    finished = pyqtSignal(str)
    question = pyqtSignal(str, object)
    kept = pyqtSignal(str)

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        jobs: JobRunner,
        scratch: Path,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._studio, self._session, self._jobs = studio, session, jobs
        self._queue: deque[Path] = deque()
        self._scratch = scratch / "stretches"
        self._made: dict[Path, TakeRecord] = {}  # files of ours, and the take they were cut from
        self._job: int | None = None
        self.current: Path | None = None
        self.share = 0.0

    def add(self, paths: list[Path]) -> None:
        """Queue files."""
        if self._studio.read_only:
            self.finished.emit(
                tr("This studio is open in another window; takes can be added there.")
            )
            return
        self._queue.extend(paths)
        if self.current is None:
            self._next()

    def give_away(self, take: TakeRecord, jig: Jig | None, to: Path) -> None:
        """Write a take as a bundle."""
        studio = self._studio
        player = next((p for p in studio.players() if p.id == take.player_id), None)
        owned = next((i for i in studio.instruments() if i.id == take.instrument_id), None)
        if player is None or owned is None:
            return
        if not to.name.endswith(SUFFIX):
            to = to.with_name(to.name.removesuffix(".zip") + SUFFIX)
        request = GiveRequest(
            to=to, take=take, player=player, owned=owned, jig=jig,
            remarks=studio.remarks(take.id), audio=studio.audio_path(take),
        )  # fmt: skip
        self._jobs.run(
            "give_take", request,
            done=lambda _: self.finished.emit(tr("Saved as {name}.").format(name=to.name)),
            failed=lambda e: self.finished.emit(error_sentence(e)),
        )  # fmt: skip

    def take_in(self, path: Path, scratch: Path) -> None:
        """Bring in a bundle: who played, on what, the jig, the remarks and the sound."""
        if self._studio.read_only:
            self.finished.emit(
                tr("This studio is open in another window; takes can be added there.")
            )
            return
        self._jobs.run(
            "take_in", TakeInRequest(path=path, to=scratch / "bundles"), done=self._unpacked,
            failed=lambda e: self._failed_bundle(path, e),
        )  # fmt: skip

    def _failed_bundle(self, path: Path, error: Exception) -> None:
        self.finished.emit(
            tr("{name} could not be brought in. {why}").format(
                name=path.name, why=error_sentence(error)
            )
        )

    def _unpacked(self, bundle: Bundle) -> None:
        here = is_here(self._studio, bundle.take.id)
        if here == "no":
            self._hear_bundle(bundle, as_copy=False)
            return

        def back() -> None:
            bundle.audio.unlink(missing_ok=True)
            bring_back(self._studio, bundle.take.id)
            self.kept.emit(bundle.take.id)
            self.finished.emit(tr("The take is back from the bin."))

        def leave() -> None:
            bundle.audio.unlink(missing_ok=True)
            self.finished.emit(tr("Nothing was changed."))

        both = (tr("Keep both"), lambda: self._hear_bundle(bundle, as_copy=True))
        if here == "bin":
            self.question.emit(
                tr("This take lies in the bin."),
                ((tr("Bring it back"), back), both, (tr("Leave it there"), leave)),
            )
        else:
            self.question.emit(tr("This take is here already."), ((tr("Leave it so"), leave), both))

    def _hear_bundle(self, bundle: Bundle, *, as_copy: bool) -> None:
        request = HearRequest(
            path=bundle.audio, instrument_id=bundle.owned.kind, strings=bundle.owned.strings,
            a4_hz=bundle.take.a4_hz, jig=bundle.jig,
        )  # fmt: skip
        self._jobs.run(
            "hear", request, done=lambda heard: self._keep_bundle(bundle, heard, as_copy=as_copy),
            failed=lambda e: self._failed_bundle(bundle.audio, e),
        )  # fmt: skip

    def _keep_bundle(self, bundle: Bundle, heard: Heard, *, as_copy: bool) -> None:
        try:
            keep_bundle(self._studio, bundle, heard, utc=utc_now(), as_copy=as_copy)
        except JigwrightError as error:
            self._failed_bundle(bundle.audio, error)
            return
        finally:
            bundle.audio.unlink(missing_ok=True)
        self.finished.emit(
            tr("A take by {player} is here: choose the player at the top right to see it.").format(
                player=bundle.player.name
            )
        )

    def cancel(self) -> None:
        """Stop the running analysis and forget the rest; nothing was kept of them."""
        for path in [*self._queue, *([self.current] if self.current else [])]:
            self._forget(path)
        self._queue.clear()
        if self._job is not None:
            self._jobs.cancel(self._job)
        name = self.current.name if self.current else ""
        self._job, self.current, self.share = None, None, 0.0
        self.progress_changed.emit()
        self.finished.emit(tr("{name} was not brought in.").format(name=name))

    def _next(self) -> None:
        if not self._queue:
            self.current, self._job = None, None
            self.progress_changed.emit()
            return
        path = self._queue.popleft()
        self.current, self.share = path, 0.0
        self.progress_changed.emit()
        record, request = self._asked(path)
        self._job = self._jobs.run(
            "hear",
            request,
            done=lambda heard: self._done(record, path, heard),
            failed=lambda error: self._failed(path, error),
            progress=self._progress,
        )

    def _asked(self, path: Path) -> tuple[TakeRecord, HearRequest]:
        """The take to be and how it is heard: as the whole was, for what was cut from one."""
        whole = self._made.get(path)
        owned = next(
            (i for i in self._studio.instruments() if whole and i.id == whole.instrument_id), None
        )
        if whole is None or owned is None:
            context, record = self._session.context(), self._record(path)
            kind, strings, jig = context.instrument_id, context.strings, self._session.now.jig
        else:
            record = replace(
                whole, id=f"take-{uuid.uuid4().hex[:16]}", audio="", sha256="",
                source_name=path.name, duration_s=0.0,
            )  # fmt: skip
            kind, strings, jig = owned.kind, owned.strings, None
            if whole.jig_id is not None and whole.jig_revision is not None:
                jig = self._studio.jig(whole.jig_id, whole.jig_revision)
        return record, HearRequest(
            path=path, instrument_id=kind, strings=strings, a4_hz=record.a4_hz, jig=jig
        )

    def _forget(self, path: Path) -> None:
        """A file of ours is no longer needed."""
        if self._made.pop(path, None) is not None:
            path.unlink(missing_ok=True)
            with suppress(OSError):  # the others are still in it
                path.parent.rmdir()

    def _record(self, path: Path) -> TakeRecord:
        now = self._session.now
        assert now.player is not None
        assert now.instrument is not None
        jig, context = now.jig, now.context()
        return TakeRecord(
            id=f"take-{uuid.uuid4().hex[:16]}",
            jig_id=jig.id if jig else None,
            jig_revision=jig.revision if jig else None,
            player_id=now.player.id,
            instrument_id=now.instrument.id,
            recorded_utc=utc_now(),
            utc_offset_min=local_offset_min(),
            audio="",
            sha256="",
            source_name=path.name,
            duration_s=0.0,
            a4_hz=context.a4_hz,
            reference=context.reference.name,
            tolerance_cents=context.tolerance_cents,
            input_name=tr("file"),
        )

    def _progress(self, share: float) -> None:
        self.share = share
        self.progress_changed.emit()

    def _done(self, record: TakeRecord, path: Path, heard: Heard) -> None:
        try:
            kept = self._studio.add_take(replace(record, duration_s=heard.duration_s), path, heard)
        except JigwrightError as error:
            self._failed(path, error)
            return
        self.kept.emit(kept.id)
        was_cut = path in self._made
        self._forget(path)
        n = sum(not s.in_talk for s in heard.segments)
        self.finished.emit(
            tr("{name} is on the shelf: {n} notes were heard.").format(name=path.name, n=n)
            if n
            else tr("{name} is on the shelf, but no notes were heard in it.").format(name=path.name)
        )
        if not was_cut:
            self._ask_to_cut(kept, heard)
        self._next()

    def _ask_to_cut(self, take: TakeRecord, heard: Heard) -> None:
        """A recording with talk between what was played: each stretch may be a take."""
        spans = to_cut(heard)
        if not heard.talks or len(spans) < _FEWEST_STRETCHES:
            return
        words = tr("Somebody speaks between in {name}; {n} stretches were played.").format(
            name=take.source_name, n=len(spans)
        )
        cut = (tr("Make takes of them"), lambda: self._cut(take, heard, spans))
        self.question.emit(words, (cut, (tr("Leave it whole"), lambda: None)))

    def _cut(self, take: TakeRecord, heard: Heard, spans: tuple[tuple[float, float], ...]) -> None:
        """The whole stays on the shelf; what was played comes beside it."""
        request = PartsRequest(
            path=self._studio.audio_path(take), i_channel=heard.i_channel, spans=spans,
            to=self._scratch / take.id, name=Path(take.source_name).stem,
        )  # fmt: skip

        def made(paths: tuple[Path, ...]) -> None:
            self._made.update(dict.fromkeys(paths, take))
            self.add(list(paths))

        def failed(error: Exception) -> None:
            self.finished.emit(
                tr("No takes could be made of {name}; it stays whole. {why}").format(
                    name=take.source_name, why=error_sentence(error)
                )
            )

        self._jobs.run("cut_file", request, done=made, failed=failed)

    def _failed(self, path: Path, error: Exception) -> None:
        self._forget(path)
        self.finished.emit(
            tr("{name} could not be brought in. {why}").format(
                name=path.name, why=error_sentence(error)
            )
        )
        self._next()
