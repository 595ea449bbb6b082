"""Making takes of stretches of a recording and keeping them in the studio."""

from __future__ import annotations

import json
import uuid
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from jigwright.core.music.pitch import Pitch
from jigwright.services.ports import StudioPort
from jigwright.services.recording import CutRequest, CutTake
from jigwright.services.records import TakeRecord
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.companions import Companions
from jigwright.ui.viewmodels.desk import DeskModel
from jigwright.ui.viewmodels.shown import utc_now


def keep_drone(studio: StudioPort, take_id: str, partials_hz: tuple[float, ...]) -> None:
    """Remember which drone sounded beside a take."""
    if partials_hz:
        studio.set_setting(f"drone:{take_id}", json.dumps([round(f, 6) for f in partials_hz]))


def drone_of(studio: StudioPort, take_id: str) -> tuple[float, ...]:
    """Partials of the drone that sounded beside a take; none without one."""
    try:
        return tuple(float(f) for f in json.loads(studio.setting(f"drone:{take_id}") or "[]"))
    except (ValueError, TypeError):
        return ()


class TakeKeeper:
    """Cuts in the worker; one keeper for one Stand.

    Parameters
    ----------
    desk : DeskModel
    jobs : JobRunner
    cache : Path
    companions : Companions
        Their drone is taken out of what is heard.
    """

    def __init__(
        self, desk: DeskModel, jobs: JobRunner, cache: Path, companions: Companions
    ) -> None:
        self._desk, self._jobs, self._cache, self._companions = desk, jobs, cache, companions
        self.n_cutting = 0

    def instrument(self) -> tuple[str, tuple[Pitch, ...]]:
        """Kind and strings of the instrument in the player's hands."""
        owned = self._desk.owned
        if owned is not None:
            return owned.kind, owned.strings
        context = self._desk.context()
        return context.instrument_id, context.strings

    def a4_hz(self) -> float:
        """The A that is in force."""
        return self._desk.view.a4_hz or self._desk.context().a4_hz

    def record(self, *, input_name: str, source: str, free: bool = False) -> TakeRecord:
        """A take to be; ``free`` leaves out the jig."""
        desk = self._desk
        assert desk.player is not None
        assert desk.owned is not None
        context = desk.context()
        offset = datetime.now(UTC).astimezone().utcoffset()
        jig = None if free else desk.jig
        return TakeRecord(
            id=f"take-{uuid.uuid4().hex[:16]}", jig_id=jig.id if jig else None,
            jig_revision=jig.revision if jig else None, player_id=desk.player.id,
            instrument_id=desk.owned.id, recorded_utc=utc_now(),
            utc_offset_min=round(offset.total_seconds() / 60) if offset else 0, audio="",
            sha256="", source_name=source, duration_s=0.0, a4_hz=self.a4_hz(),
            reference=context.reference.name, tolerance_cents=context.tolerance_cents,
            input_name=input_name,
        )  # fmt: skip

    def cut(
        self,
        path: Path,
        span: tuple[float, float],
        *,
        done: Callable[[CutTake], None],
        failed: Callable[[Exception], None],
    ) -> None:
        """Let the worker cut, check and hear a stretch of a growing file."""
        kind, strings = self.instrument()
        request = CutRequest(
            path=path, start_s=span[0], stop_s=span[1],
            to=self._cache / f"take-{uuid.uuid4().hex[:8]}.flac",
            instrument_id=kind, strings=strings, a4_hz=self.a4_hz(),
            drone_hz=self._companions.partials_hz(),
        )  # fmt: skip
        self._cache.mkdir(parents=True, exist_ok=True)
        self.n_cutting += 1

        def ready(cut: CutTake) -> None:
            self.n_cutting -= 1
            done(cut)

        def broken(error: Exception) -> None:
            self.n_cutting -= 1
            failed(error)

        self._jobs.run("cut_take", request, done=ready, failed=broken)

    def add(self, record: TakeRecord, cut: CutTake) -> TakeRecord:
        """Put a cut take into the studio.

        Raises
        ------
        JigwrightError
            If it cannot be kept; the cut file stays.
        """
        kept = self._desk.studio.add_take(
            replace(record, duration_s=cut.seconds), cut.path, cut.heard
        )
        cut.path.unlink(missing_ok=True)
        keep_drone(self._desk.studio, kept.id, self._companions.partials_hz())
        self._desk.refresh_takes()
        return kept
