"""What a studio holds, as values."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Literal

from jigwright.core.music.pitch import Pitch
from jigwright.services.moments import local_day, local_time
from jigwright.services.recording import SIMULATED

Mark = Literal["", "liked", "kept"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Player:
    """Somebody who plays."""

    id: str
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DayNote:
    """What a player wrote about a day.

    Parameters
    ----------
    player_id : str
    day : str
        ISO date, local.
    word : str
        A word for the sound.
    liking : int
        1 … 5; 0 for none given.
    notes, next_time : str
    """

    player_id: str
    day: str
    word: str = ""
    liking: int = 0
    notes: str = ""
    next_time: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Remark:
    """Words left at a moment of a take, by the player or a teacher.

    Parameters
    ----------
    id, take_id : str
    note_id : str or None
        The note it belongs to.
    at_s : float
    who, words : str
    utc : str
    spoken : str or None
        The take it was spoken in.
    """

    id: str
    take_id: str
    note_id: str | None
    at_s: float
    who: str
    words: str
    utc: str
    spoken: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnedInstrument:
    """An instrument with its own strings.

    Parameters
    ----------
    id, name : str
    kind : str
        ``violin``, ``viola``, ``cello`` or ``bass``.
    strings : tuple of Pitch
    string_length_mm : float or None
        Measured from nut to bridge; ``None`` while nobody has said it.
    """

    id: str
    name: str
    kind: str
    strings: tuple[Pitch, ...]
    string_length_mm: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside:
    """What our own loudspeaker played while a take was recorded.

    Parameters
    ----------
    drone_hz : tuple of float
        Partials of the drone; none without one.
    first_click_s, click_bpm : float or None
        The metronome: its first click in seconds of the take, and beats a minute.
    """

    drone_hz: tuple[float, ...] = ()
    first_click_s: float | None = None
    click_bpm: float | None = None

    @property
    def clicks(self) -> tuple[float, float] | None:
        """First click and beats a minute; ``None`` when there was no metronome."""
        if self.first_click_s is None or self.click_bpm is None:
            return None
        return self.first_click_s, self.click_bpm


@dataclass(frozen=True, slots=True, kw_only=True)
class Liking:
    """Which of two takes was liked, heard without knowing which was which.

    Parameters
    ----------
    take_id, against_id : str
    liked_id : str or None
        ``None``: no difference.
    utc : str
    """

    take_id: str
    against_id: str
    liked_id: str | None
    utc: str


What = Literal[
    "takes", "heard", "corrections", "choices", "remarks", "jigs", "players", "instruments",
    "strings", "works", "ladders", "days", "settings",
]  # fmt: skip
"""Kinds of things a studio holds, as a change names them."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Changed:
    """What became different in a studio.

    Parameters
    ----------
    what : frozenset of What
    take_ids : frozenset of str
        Takes concerned; empty when it is not about takes.
    name : str
        Of the operation; empty when it has none.
    by : "do", "undo" or "redo"
    """

    what: frozenset[What]
    take_ids: frozenset[str] = frozenset()
    name: str = ""
    by: Literal["do", "undo", "redo"] = "do"


@dataclass(frozen=True, slots=True, kw_only=True)
class CutFrom:
    """The stretch of a growing recording that a take was cut from.

    Parameters
    ----------
    recording : str
        Its id.
    start_s, stop_s : float
    """

    recording: str
    start_s: float
    stop_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeRecord:
    """One take with the context it was played under.

    Parameters
    ----------
    id : str
    jig_id : str or None
    jig_revision : int or None
    player_id, instrument_id : str
    recorded_utc : str
        ISO 8601 in UTC.
    utc_offset_min : int
        Local time then.
    audio : str
        Path inside the studio.
    sha256 : str
        Of the audio file, byte for byte.
    source_name : str
        Name of the file it came from; ``simulated`` for the simulated player at the Stand.
    duration_s : float
    a4_hz : float
    reference : str
    tolerance_cents : float
    input_name : str
    mark : Mark
    binned : bool
    """

    id: str
    jig_id: str | None
    jig_revision: int | None
    player_id: str
    instrument_id: str
    recorded_utc: str
    utc_offset_min: int
    audio: str
    sha256: str
    source_name: str
    duration_s: float
    a4_hz: float
    reference: str
    tolerance_cents: float
    input_name: str
    mark: Mark = ""
    binned: bool = False

    @property
    def is_own(self) -> bool:
        """Whether somebody played it; what the simulated player tries out counts for nobody."""
        return self.source_name != SIMULATED

    @property
    def day(self) -> date:
        """The player's day it was played on."""
        return local_day(self.recorded_utc, self.utc_offset_min)

    @property
    def time_of_day(self) -> str:
        """When on that day, as ``16:05``."""
        return local_time(self.recorded_utc, self.utc_offset_min)
