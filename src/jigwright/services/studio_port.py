"""What the use cases need of a studio, table by table.

Errors are :class:`~jigwright.core.errors.StoreError`. Whoever needs one table asks for one.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any, Protocol

from jigwright.core.follow.align import Pin
from jigwright.core.jig.model import Jig
from jigwright.core.judge.ladder import Ladder
from jigwright.core.judge.work import SetWork
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import Heard, HeardNotes
from jigwright.services.records import (
    Beside,
    Changed,
    CutFrom,
    DayNote,
    Liking,
    OwnedInstrument,
    Player,
    Remark,
    TakeRecord,
)


class Writing(Protocol):
    """Whether and when a studio changes."""

    @property
    def read_only(self) -> bool:
        """Whether another window is the writer."""

    @property
    def stamp(self) -> tuple[int, int]:
        """Another value after every change."""

    def watch(self, watcher: Callable[[Changed], None]) -> Callable[[], None]:
        """Tell somebody what became different, after every change; returns how to stop it."""

    def undo(self) -> Changed | None:
        """Take the last operation back."""

    def redo(self) -> Changed | None:
        """Do it again."""

    def settle(self) -> None:
        """What was done so far can no longer be taken back."""


class SettingStore(Protocol):
    """Preferences, as plain words; nothing of the studio's content."""

    @property
    def read_only(self) -> bool:
        """Whether another window is the writer."""

    def setting(self, name: str, default: str = "") -> str:
        """A remembered value."""

    def set_setting(self, name: str, value: str) -> None:
        """Remember a value."""

    def input_delay(self, device_id: str) -> tuple[float, float] | None:
        """Delay measured of an input, and its uncertainty, in seconds."""

    def set_input_delay(self, device_id: str, seconds: float, uncertainty_s: float) -> None:
        """Keep the delay of an input."""

    def seen_files(self) -> frozenset[str]:
        """Files of the folder of exchange that were brought in."""

    def add_seen_file(self, mark: str) -> None:
        """Remember a file of the folder of exchange."""


class PeopleStore(Protocol):
    """Players and instruments."""

    def players(self) -> tuple[Player, ...]:
        """All players."""

    def instruments(self) -> tuple[OwnedInstrument, ...]:
        """All instruments."""

    def add_player(self, player: Player) -> None:
        """Add or rename a player."""

    def add_instrument(self, owned: OwnedInstrument) -> None:
        """Add or change an instrument."""

    def string_check(self, instrument_id: str, day: str) -> dict[Pitch, float]:
        """Open strings as checked on a local day in Hz; empty without a check."""

    def set_string_check(
        self, instrument_id: str, day: str, open_hz: Mapping[Pitch, float]
    ) -> None:
        """Keep what a string check found, for takes of that day."""

    def contact(self, instrument_id: str, string: str) -> int | None:
        """The lane between bridge and fingerboard that was liked on a string."""

    def set_contact(self, instrument_id: str, string: str, lane: int, day: str) -> None:
        """Keep it."""

    def best_bow_s(self, instrument_id: str) -> float:
        """The longest good bow there was, in seconds; 0 when there was none."""

    def set_best_bow(self, instrument_id: str, seconds: float, day: str) -> None:
        """Keep a longest bow."""

    def ear_score(self, player_id: str) -> tuple[int, int]:
        """How often a player's ear was right, and how often it was asked."""

    def add_ear_answer(self, player_id: str, *, right: bool) -> None:
        """Count an answer of a player's ear."""


class JigStore(Protocol):
    """Jigs in all their revisions."""

    def jigs(self) -> tuple[Jig, ...]:
        """Newest revision of every jig."""

    def jig(self, jig_id: str, revision: int) -> Jig:
        """One revision."""

    def add_jig(self, jig: Jig, *, utc: str) -> None:
        """Keep a revision."""


class TakeStore(Protocol):
    """Takes, their sounds and what somebody said of them."""

    def take(self, take_id: str) -> TakeRecord | None:
        """One take, in the bin or not."""

    def takes(
        self, *, jig_id: str | None = None, player_id: str | None = None, binned: bool = False
    ) -> tuple[TakeRecord, ...]:
        """Takes in order of time."""

    def activity(self, since_day: str) -> dict[str, tuple[str, int, float]]:
        """Of every player: local day of the last take; number and seconds of takes since a day."""

    def audio_path(self, take: TakeRecord) -> Path:
        """Where the sound lies."""

    def add_take(
        self,
        take: TakeRecord,
        source: Path,
        heard: Heard | None,
        *,
        cut: CutFrom | None = None,
        beside: Beside | None = None,
        remarks: Sequence[Remark] = (),
    ) -> TakeRecord:
        """Keep a sound file and its take."""

    def beside(self, take_id: str) -> Beside:
        """What our own loudspeaker played while a take was recorded."""

    def change(self, name: str, take_id: str, values: Mapping[str, Any]) -> None:
        """Change columns of a take; it can be taken back."""

    def corrections(self, take_id: str) -> tuple[Pin, ...]:
        """What somebody said the notes of a take were."""

    def corrected(self) -> frozenset[str]:
        """Takes of which somebody said what a note was."""

    def set_corrections(self, take_id: str, pins: Sequence[Pin]) -> None:
        """Keep what somebody said, in place of what was said before."""

    def choice(self, take_id: str) -> Liking | None:
        """Which of two takes was liked when this one was heard blind against another."""

    def set_choice(self, choice: Liking) -> None:
        """Keep a liking."""

    def cut_spans(self, recording: str) -> tuple[tuple[float, float], ...]:
        """Stretches of a growing recording that became takes."""

    def holds_sound(self, path: Path) -> bool:
        """Whether a take has this very file as its sound."""

    def empty_bin(self) -> int:
        """Delete binned takes and their sound for good; returns how many."""


class HeardStore(Protocol):
    """What was heard in takes."""

    def heard(self, take_id: str) -> Heard | None:
        """What was heard."""

    def set_heard(self, take_id: str, heard: Heard) -> None:
        """Keep a newer analysis."""

    def heard_key(self, take_id: str) -> str:
        """Another text whenever a take was heard anew; empty while it was not."""

    def heard_notes(self, take_id: str) -> HeardNotes | None:
        """Only the notes of what was heard."""

    def methods(self) -> dict[str, int]:
        """Version of the hearing of every analysed take."""


class PracticeStore(Protocol):
    """What players and teachers write down."""

    def day_notes(self, player_id: str) -> tuple[DayNote, ...]:
        """What was written about a player's days."""

    def set_day_note(self, note: DayNote) -> None:
        """Write about a day."""

    def spoken_takes(self) -> frozenset[str]:
        """Takes that are the sound of a remark."""

    def remarks(self, take_id: str) -> tuple[Remark, ...]:
        """Words left in a take, in order of time."""

    def set_remark(self, remark: Remark) -> None:
        """Leave or change a remark; one without words goes."""

    def works(self) -> tuple[SetWork, ...]:
        """Work that was set."""

    def set_work(self, work: SetWork) -> None:
        """Set work, or change it."""

    def remove_work(self, work_id: str) -> None:
        """Take work back."""

    def ladders(self) -> tuple[Ladder, ...]:
        """Ladders somebody made, in the order they were made."""

    def set_ladder(self, ladder: Ladder) -> None:
        """Keep a ladder, or change it."""

    def remove_ladder(self, ladder_id: str) -> None:
        """Forget a ladder; its takes stay."""

    def summaries(self) -> dict[str, tuple[str, str]]:
        """Stored summaries by take."""

    def keep_summaries(self, rows: dict[str, tuple[str, str]]) -> None:
        """Store summaries."""


class StudioPort(
    Writing, SettingStore, PeopleStore, JigStore, TakeStore, HeardStore, PracticeStore, Protocol
):
    """An open studio."""

    folder: Path
