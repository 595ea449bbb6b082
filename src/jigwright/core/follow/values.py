"""Which segment is which note: values only (the second stratum)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jigwright.core.jig.model import Ornament
from jigwright.core.music.pitch import Pitch

NoteState = Literal["played", "missed", "extra", "retry", "uncertain"]
Part = Literal["lower", "upper"]
HeardOrnament = Ornament | Literal["grace"]


@dataclass(frozen=True, slots=True, kw_only=True)
class LinedNote:
    """One row of a lined-up take.

    Parameters
    ----------
    state : NoteState
    pitch : Pitch
        Written sounding pitch; for extra and blind notes the nearest spelled pitch.
    i_event : int or None
        0-based event of the jig.
    note_id : str or None
        Id of the notehead.
    attempt : int
        1, 2 … for the same event.
    segments : tuple of int
        Segments that make up the note, in time order; empty when missed.
    lower : Pitch or None
        Lower note of a double stop; ``pitch`` is then the upper one.
    part : Part or None
        One voice of a written double stop tried alone (lower, upper, then both): ``pitch`` is then
        that voice's.
    ornament : HeardOrnament or None
        Written over the note, or heard: a trill, or a grace note before it.
    main : tuple of int
        Segments of an ornament that are the note itself; empty: all are.
    """

    state: NoteState
    pitch: Pitch
    i_event: int | None
    note_id: str | None
    attempt: int
    segments: tuple[int, ...]
    lower: Pitch | None = None
    part: Part | None = None
    ornament: HeardOrnament | None = None
    main: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class LinedUp:
    """A take lined up with its jig.

    Parameters
    ----------
    notes : tuple of LinedNote
        In time order; missed notes keep their place.
    offset_cents : float
        The player's own A against the nominal one, from all played notes.
    key_fifths : int
        Signature used to spell notes.
    """

    notes: tuple[LinedNote, ...]
    offset_cents: float
    key_fifths: int
