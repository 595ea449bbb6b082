"""Values of recording: what to capture, what comes back, what the ear says."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from jigwright.core.jig.model import Jig
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import Heard, Now, PairNow, RingNow, Segment

RATE_HZ = 48_000
SIMULATED = "simulated"
HEADER_BYTES = 44  # of a growing recording: 32-bit float samples follow


@dataclass(frozen=True, slots=True, kw_only=True)
class InputDevice:
    """Something to record from.

    Parameters
    ----------
    id : str
        ``simulated``, or the sound server's name of the source; empty for the default.
    name : str
        For people.
    """

    id: str
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CaptureRequest:
    """Record into a growing file.

    Parameters
    ----------
    device_id : str
    to : Path
        A file that does not exist yet.
    rate_hz : int
    play_raw : Path or None
        For the simulated player: raw float32 samples to hand over in real time.
    speed : float
        1 is real time; the simulated player may hurry in tests.
    """

    device_id: str
    to: Path
    rate_hz: int = RATE_HZ
    play_raw: Path | None = None
    speed: float = 1.0


CaptureTrouble = Literal["no_device", "lost_device", "disk_full", "disk", "failed"]


@dataclass(frozen=True, slots=True, kw_only=True)
class CaptureState:
    """How the recording goes.

    Parameters
    ----------
    running : bool
    seconds : float
    peak, rms : float
        Of the newest tenth of a second, full scale 1.
    room : float
        Least such RMS of the last three seconds: what the room does while nobody plays.
    n_overflows : int
        Blocks lost so far.
    zero_s : float or None
        Monotonic time of the recording's first sample, as far as it is known.
    trouble : CaptureTrouble or None
        Why it ended by itself; what was recorded is kept.
    detail : str
    """

    running: bool
    seconds: float
    peak: float = 0.0
    rms: float = 0.0
    room: float = 0.0
    n_overflows: int = 0
    zero_s: float | None = None
    trouble: CaptureTrouble | None = None
    detail: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Accompaniment:
    """What our own loudspeaker plays while somebody plays.

    Parameters
    ----------
    drone_hz, clicks_hz : tuple of float
        Partials of the drone, pitches of the clicks.
    since_s : float
        Of the recording: until shortly after, a drone cannot be told from playing.
    """

    drone_hz: tuple[float, ...] = ()
    clicks_hz: tuple[float, ...] = ()
    since_s: float = 0.0


SILENT = Accompaniment()


@dataclass(frozen=True, slots=True, kw_only=True)
class EarRequest:
    """Listen to a growing file.

    Parameters
    ----------
    path : Path
    instrument_id : str
    strings : tuple of Pitch
    a4_hz : float
    jig : Jig or None
        To follow; ``None`` for open strings and free playing.
    from_s : float
        Where in the file to begin: an ear that takes over from one that died goes on.
    beside : Accompaniment
        What sounds from the loudspeaker meanwhile.
    signals : bool
        Whether plucks of the lowest string are signals.
    """

    path: Path
    instrument_id: str
    strings: tuple[Pitch, ...]
    a4_hz: float
    jig: Jig | None
    from_s: float = 0.0
    beside: Accompaniment = SILENT
    signals: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class FindRequest:
    """Listen to a stretch afterwards and find the takes in it (job ``find_takes``).

    Parameters
    ----------
    ear : EarRequest
        From where, and what to follow.
    stop_s : float
    at_end : bool
        Nothing follows: a take that is being played there ends with it.
    """

    ear: EarRequest
    stop_s: float
    at_end: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundTakes:
    """Takes in a stretch, and from where to listen on."""

    spans: tuple[tuple[float, float], ...]
    heard_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class EarSays:
    """What the ear heard since it last spoke.

    Parameters
    ----------
    frames : tuple of Now
    notes : tuple of Segment
    i_event : int or None
        Event of the jig that was decided last.
    take : tuple of (float, float) or None
        Start and end of a take that has just ended.
    since_s : float or None
        Where the take that is being played began; ``None`` while nobody plays.
    pair : PairNow or None
        Two notes, where the jig asks for them.
    ring : RingNow or None
        The string that the note just left has woken, while it rings.
    talking : bool
        Somebody speaks: nothing begins now.
    signal : int
        How often the lowest string was plucked as a signal, 2 or 3; 0 where it was not.
    """

    frames: tuple[Now, ...]
    notes: tuple[Segment, ...]
    i_event: int | None
    take: tuple[float, float] | None
    since_s: float | None = None
    pair: PairNow | None = None
    ring: RingNow | None = None
    talking: bool = False
    signal: int = 0

    @property
    def playing(self) -> bool:
        """Whether somebody plays."""
        return self.since_s is not None


@dataclass(frozen=True, slots=True, kw_only=True)
class CutRequest:
    """Make a take of a stretch of a recording (job ``cut_take``).

    Parameters
    ----------
    path : Path
    start_s, stop_s : float
    to : Path
        FLAC, 24 bit; appears complete or not at all.
    instrument_id, strings, a4_hz
        As for hearing a file.
    drone_hz : tuple of float
        Partials of a drone that sounded.
    jig : Jig or None
        What was to be played, if it is known.
    """

    path: Path
    start_s: float
    stop_s: float
    to: Path
    instrument_id: str
    strings: tuple[Pitch, ...]
    a4_hz: float
    drone_hz: tuple[float, ...] = ()
    jig: Jig | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class CutTake:
    """A take that was cut: its checked file and what was heard in it."""

    path: Path
    heard: Heard
    seconds: float
