"""What real playing has besides faults: nothing here is to be found wanting.

Notes: :class:`Wander` (pitch and pressure drift as 1/f noise; Prame 1994 for the size in strings),
:class:`Uneven` changes, :class:`Overlap` of strings at a crossing, :class:`Wolf`,
:class:`Subharmonic`, :class:`Portamento`, :class:`Trill`, :class:`Grace`.

Places: :class:`Body` (dense resonances: a vibrato moves each partial's level),
:class:`TempoDrift`, :class:`Talk`, :class:`Clicks`, :class:`OtherPlayer`, :class:`Microphone`.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jigwright.core.player.chosen import Chosen


@dataclass(frozen=True, slots=True, kw_only=True)
class Wander(Chosen):
    """Pitch and level drift slowly: standard deviations of 1/f noise, 0.2 … 8 Hz."""

    cents: float = 2.0
    level_db: float = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Uneven(Chosen):
    """Every change of bow is another one: ``dip_db`` and ``gap_ms`` are drawn down to ``least``."""

    dip_db: float = 25.0
    least_db: float = 6.0
    gap_ms: float = 60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Overlap(Chosen):
    """The note before rings on for ``seconds`` (60 dB), ``level_db`` re the note it was."""

    seconds: float = 0.8
    level_db: float = -8.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Wolf(Chosen):
    """A stuttering note: the level swings by ``depth_db`` at ``rate_hz``, unevenly."""

    rate_hz: float = 6.0
    depth_db: float = 14.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Subharmonic(Chosen):
    """A strong undertone: partials at odd multiples of half the frequency, ``level_db`` re it."""

    level_db: float = -18.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Portamento(Chosen):
    """Slurred notes slide in from the one before within ``seconds``; wanted, so no fault."""

    seconds: float = 0.12


@dataclass(frozen=True, slots=True, kw_only=True)
class Trill(Chosen):
    """Between the note and its neighbour above at ``rate_hz`` (pairs of notes a second)."""

    semitones: int = 2
    rate_hz: float = 6.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Grace(Chosen):
    """A short note before the note, on its time."""

    semitones: int = 2
    seconds: float = 0.09


@dataclass(frozen=True, slots=True, kw_only=True)
class Body:
    """Dense resonances of the body: with pitch each partial's level moves by ``ripple_db``."""

    ripple_db: float = 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class TempoDrift:
    """The beat wanders slowly by up to ``percent``."""

    percent: float = 8.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Talk:
    """Somebody speaks from ``from_s`` to ``to_s``, ``level_db`` re the playing."""

    from_s: float = 0.0
    to_s: float = 2.0
    level_db: float = -12.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Clicks:
    """Thumps and clicks: chairs, feet, a bow on the stand."""

    per_min: float = 20.0
    level_db: float = -6.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Ticks:
    """Somebody's metronome; every so many-th tick is higher (0: none)."""

    bpm: float = 80.0
    every: int = 0
    level_db: float = -6.0
    from_s: float = 0.3


@dataclass(frozen=True, slots=True, kw_only=True)
class OtherPlayer:
    """Somebody plays slow notes of the key next door, ``level_db`` re the playing."""

    level_db: float = -25.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Microphone:
    """What it is recorded with: band, automatic gain, clipping, a codec's missing treble."""

    kind: Literal["studio", "laptop", "phone"] = "laptop"
    clip_db: float = 0.0


Real = Wander | Uneven | Overlap | Wolf | Subharmonic | Portamento | Trill | Grace
Place = Body | TempoDrift | Talk | Clicks | Ticks | OtherPlayer | Microphone
OfNote = Wander | Overlap | Wolf | Subharmonic | Portamento | Trill | Grace
"""Kinds that a played note carries with it."""
REAL: dict[str, type[Real | Place]] = {
    "wander": Wander, "uneven": Uneven, "overlap": Overlap, "wolf": Wolf,
    "subharmonic": Subharmonic, "portamento": Portamento, "trill": Trill, "grace": Grace,
    "body": Body, "tempo_drift": TempoDrift, "talk": Talk, "clicks": Clicks,
    "ticks": Ticks,
    "other_player": OtherPlayer, "microphone": Microphone,
}  # fmt: skip
