"""Requests and answers of the worker's jobs: frozen values, NumPy at most."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from jigwright.core.jig.model import Jig
from jigwright.core.music.pitch import Pitch
from jigwright.services.notation import EngraveRequest
from jigwright.services.records import OwnedInstrument, Player, Remark, TakeRecord


@dataclass(frozen=True, slots=True, kw_only=True)
class HearRequest:
    """Analyse a sound file (job ``hear``); the answer is a ``Heard``."""

    path: Path
    instrument_id: str
    strings: tuple[Pitch, ...]
    a4_hz: float
    drone_hz: tuple[float, ...] = ()  # partials that sounded beside it and are taken out
    jig: Jig | None = None  # what was to be played, if it is known


@dataclass(frozen=True, slots=True, kw_only=True)
class DecodeRequest:
    """Decode the measured channel for playing (job ``decode``) into a raw float32 file."""

    path: Path
    i_channel: int
    to: Path


@dataclass(frozen=True, slots=True, kw_only=True)
class PartsRequest:
    """Write stretches of a sound file as files (job ``cut_file``): a tuple of paths.

    Parameters
    ----------
    path : Path
    i_channel : int
        The one that is written.
    spans : tuple of (float, float)
        Seconds.
    to : Path
        Folder; made if it is not there.
    name : str
        Files are called ``{name} (1 of 7).flac`` and so on.
    """

    path: Path
    i_channel: int
    spans: tuple[tuple[float, float], ...]
    to: Path
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LoopRequest:
    """Find the probe in a recording (job ``loop_delay``): a ``LoopDelay`` or ``Unmeasured``."""

    path: Path
    played_at_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TouchRequest:
    """Compare a held note's stretches (job ``touch``): a ``TouchRing`` or ``Unmeasured``."""

    path: Path
    i_channel: int
    f0_hz: float
    onset_s: float
    offset_s: float
    open_hz: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PreviewRequest:
    """Let the simulated player play a jig (job ``preview``) into a raw float32 file."""

    jig: Jig
    a4_hz: float
    reference: str
    to: Path
    drone: bool = False
    click: bool = False
    cue: bool = False
    tries: tuple[str, ...] = ()  # faults of one rendition after the other, with gaps between
    lead_s: float = 0.8  # silence before the first rendition
    gap_s: float = 3.5


@dataclass(frozen=True, slots=True, kw_only=True)
class ScoreRequest:
    """Read a score file (job ``read_score``); the answer is an ``Imported``."""

    path: Path
    jig_id: str
    i_part: int | None = None
    instrument_id: str | None = None
    cue_part: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PagesRequest:
    """Engrave pages for paper (job ``engrave_pages``); the answer is a tuple of SVG texts."""

    engrave: EngraveRequest
    page_height: float


@dataclass(frozen=True, slots=True, kw_only=True)
class GiveRequest:
    """Write a bundle (job ``give_take``)."""

    to: Path
    take: TakeRecord
    player: Player
    owned: OwnedInstrument
    jig: Jig | None
    remarks: tuple[Remark, ...]
    audio: Path


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeInRequest:
    """Check and unpack a bundle (job ``take_in``); the answer is a ``Bundle``."""

    path: Path
    to: Path


@dataclass(frozen=True, slots=True, kw_only=True)
class SlowRequest:
    """Slow a stretch of a raw sound down at its pitch (job ``slow``): a ``RawSound``."""

    path: Path
    rate_hz: int
    first: int
    last: int
    factor: float
    to: Path


@dataclass(frozen=True, slots=True, kw_only=True)
class RawSound:
    """Mono float32 samples in a file."""

    path: Path
    rate_hz: int
    n_samples: int


@dataclass(frozen=True, slots=True, kw_only=True)
class DemoRequest:
    """Play and hear a take of the demo class.

    Parameters
    ----------
    jig_id : str
    i : int
    scratch : Path
        Folder for its sound.
    """

    jig_id: str
    i: int
    scratch: Path
