"""What is never marked, at the Stand and at the Desk alike (practice: what is no fault)."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.gauge.values import Vibrato
from jigwright.core.jig.model import Jig
from jigwright.core.judge.judging import JudgedNote


def is_free(note: JudgedNote, jig: Jig | None) -> bool:
    """Whether it stands at a place where extra notes and choices are nobody's mistake."""
    i = note.measured.lined.i_event
    return jig is not None and i is not None and jig.events[i].free


def is_excused(note: JudgedNote, jig: Jig | None) -> bool:
    """Whether a note that is off is no fault: tuned by choice, inside its vibrato, a free place."""
    if is_free(note, jig) or note.finger == 0:
        return True
    vibrato = note.measured.vibrato
    if isinstance(vibrato, Vibrato) and vibrato.present and note.cents is not None:
        return abs(note.cents) < 0.5 * vibrato.extent_cents
    return False


def is_off(note: JudgedNote, jig: Jig | None, *, tolerance_cents: float | None = None) -> bool:
    """Whether a note that was played is off beyond tolerance and doubt, and may be marked.

    ``tolerance_cents``: another one than it was judged by.
    """
    if note.standing == "wrong":
        return not is_free(note, jig)
    off = note.standing in ("low", "high")
    if tolerance_cents is not None and note.cents is not None and note.standing != "extra":
        off = abs(note.cents) - note.uncertainty_cents > tolerance_cents
    return off and not is_excused(note, jig)


def came_again(row: int, notes: Sequence[JudgedNote]) -> bool:
    """Whether the player went back to a note: a later attempt at it was heard."""
    i = notes[row].measured.lined.i_event
    return i is not None and any(
        n.measured.lined.i_event == i and n.measured.lined.attempt > 1 and n.cents is not None
        for n in notes[row + 1 :]
    )
