"""Pupils and set work as the window shows them, and the exchange by folder (L5)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.model import Jig
from jigwright.core.judge.season import SeasonRow
from jigwright.core.judge.work import Progress, SetWork
from jigwright.services import moments
from jigwright.services.exchange.workfile import WorkFile, write_work
from jigwright.services.hearing_round import PupilView, mark_heard, pupil_view
from jigwright.services.pupils import (
    PupilRow,
    WorkRow,
    progress_on,
    pupil_rows,
    set_work,
    still_open,
    take_work_in,
    work_rows,
)
from jigwright.services.records import TakeRecord
from jigwright.services.seasons import season_of
from jigwright.services.studio_port import StudioPort
from jigwright.services.summaries import Summaries
from jigwright.services.take_reader import TakeReader
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence

Print = tuple[tuple[float | None, str], ...]


class PupilsModel(QObject):
    """Reads takes once for all players; keeps set work.

    Signals
    -------
    changed
    message : str
    """

    changed = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        reader: TakeReader,
        summaries: Summaries,
        jobs: JobRunner,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._studio, self._session, self._reader = studio, session, reader
        self._summaries, self._jobs = summaries, jobs

    def _progress(self, today: date) -> Callable[[SetWork], Progress]:
        return lambda work: progress_on(
            self._studio, work, today, self._summaries.now, self._reader.jig_of
        )

    def rows(self, today: date | None = None) -> tuple[PupilRow, ...]:
        """All players, those with something due first."""
        today = today or moments.today()
        return pupil_rows(self._studio, today, self._progress(today))

    def views(self, today: date | None = None) -> tuple[PupilView, ...]:
        """All players with their latest takes and what is set, those with something due first."""
        return tuple(
            pupil_view(self._studio, row, still_open(self.work_of(row.player.id, today)))
            for row in self.rows(today)
        )

    def notes(self, take: TakeRecord) -> Print:
        """Cents (``None`` when not heard) and standing of every note, for a take's print."""
        return self._reader.print_of(take)

    def heard(self, take: TakeRecord) -> None:
        """A take was heard."""
        if not self._studio.read_only and mark_heard(self._studio, take):
            self.changed.emit()

    def channel_of(self, take: TakeRecord) -> int:
        """Which channel of a take was listened to."""
        found = self._reader.heard(take)
        return 0 if found is None else found.i_channel

    def work_of(self, player_id: str, today: date | None = None) -> tuple[WorkRow, ...]:
        """Set work of a player with its progress and the jig's title."""
        return work_rows(self._studio, player_id, self._progress(today or moments.today()))

    def season_of(self, player_id: str) -> tuple[date, tuple[SeasonRow, ...]]:
        """The last weeks of a player: their first Monday, and a row for each jig."""
        takes = [t for t in self._studio.takes(player_id=player_id) if t.is_own]
        return season_of(takes, self._summaries.known, moments.today())

    def open_work_of_player(self) -> tuple[WorkRow, ...]:
        """What the present player still has to do."""
        player = self._session.now.player
        return () if player is None else still_open(self.work_of(player.id))

    def set_work(
        self, player_id: str, jig: Jig, *, due: date, good_takes: int, words: str, who: str
    ) -> SetWork:
        """Set a jig until a day.

        Raises
        ------
        JigwrightError
            If it cannot be kept.
        """
        work = set_work(
            self._studio, player_id, jig, due=due, good_takes=good_takes, words=words, who=who,
            utc=self._session.now.clock(),
        )  # fmt: skip
        self.changed.emit()
        return work

    def close(self, work: SetWork) -> None:
        """Put work away, or take it out again."""
        self._studio.set_work(replace(work, closed=not work.closed))
        self.changed.emit()

    def remove(self, work: SetWork) -> None:
        """Take work back."""
        self._studio.remove_work(work.id)
        self.changed.emit()

    def give(self, work: SetWork, path: Path) -> None:
        """Write work as a file for the pupil.

        Raises
        ------
        JigwrightError, OSError
        """
        jig = self._studio.jig(work.jig_id, work.jig_revision)
        name = next((p.name for p in self._studio.players() if p.id == work.player_id), "")
        write_work(path, work, jig, name)

    def take_in(self, path: Path) -> None:
        """Bring in work that a teacher gave."""

        def done(found: WorkFile) -> None:
            try:
                self.message.emit(self._keep(found))
            except JigwrightError as error:
                self.message.emit(error_sentence(error))
            self.changed.emit()

        def failed(error: Exception) -> None:
            why = error_sentence(error)
            self.message.emit(
                tr("{name} could not be brought in. {why}").format(name=path.name, why=why)
            )

        self._jobs.run("read_work", path, done=done, failed=failed)

    def _keep(self, found: WorkFile) -> str:
        taken = take_work_in(self._studio, found, self._session.now)
        match taken.outcome:
            case "here":
                return tr("This work is here already.")
            case "nobody":
                return tr("There is no player yet to set it for.")
        return tr("{title} is set for {name} until {due}. It is part of today's plan.").format(
            title=found.jig.title, name=taken.player, due=found.work.due
        )

    # exchange folder ----------------------------------------------------------------------

    @property
    def folder(self) -> Path | None:
        """The folder through which files are exchanged; any folder that both sides see."""
        text = self._studio.setting("exchange_folder")
        return Path(text) if text else None

    def choose_folder(self, folder: Path) -> None:
        """Exchange through another folder."""
        self._studio.set_setting("exchange_folder", str(folder))
        self.changed.emit()

    def new_files(self) -> tuple[Path, ...]:
        """Files in the folder that were not brought in or written by this studio.

        Raises
        ------
        OSError
            If the folder cannot be read.
        """
        if self.folder is None:
            return ()
        seen = self._studio.seen_files()
        return tuple(
            p for p in sorted(self.folder.iterdir())
            if p.name.endswith((".take.zip", ".work.zip")) and _mark(p) not in seen
        )  # fmt: skip

    def fetch(self, bring_in: Callable[[Path], None]) -> int:
        """Bring in what is new in the folder; takes go to ``bring_in``. Returns how many.

        Raises
        ------
        OSError
        """
        found = self.new_files()
        for path in found:
            self.mark_seen(path)
            if path.name.endswith(".work.zip"):
                self.take_in(path)
            else:
                bring_in(path)
        return len(found)

    def mark_seen(self, path: Path) -> None:
        """Remember a file of the folder."""
        self._studio.add_seen_file(_mark(path))


def _mark(path: Path) -> str:
    """Name and size: a file that was still being copied is another one when it is whole."""
    return f"{path.name}:{path.stat().st_size}"
