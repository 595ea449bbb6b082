"""The echo test (T2)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jigwright.core.gauge.values import Ring
from jigwright.core.gauge_maths import middle
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.music.pitch import Pitch
from jigwright.core.values import Unmeasured


@dataclass(frozen=True, slots=True, kw_only=True)
class Echo:
    """One note of the echo test over its tries.

    Parameters
    ----------
    pitch : Pitch
    n_tries, n_rang : int
        Tries that could be measured, and those after which an open string rang.
    ring_db, decay_s : float or None
        Medians where it rang.
    cents : float or None
        Where the note lay, median.
    why : str or None
        Why nothing can be told, when no try could be measured.
    """

    pitch: Pitch
    n_tries: int
    n_rang: int
    ring_db: float | None
    decay_s: float | None
    cents: float | None
    why: str | None


def echoes(notes: Sequence[JudgedNote]) -> tuple[Echo, ...]:
    """What rang after each note of an echo test, in the order of the notes."""
    by_pitch: dict[Pitch, list[JudgedNote]] = {}
    for note in notes:
        if note.measured.lined.i_event is not None and note.measured.segment is not None:
            by_pitch.setdefault(note.pitch, []).append(note)
    found = []
    for pitch, tries in by_pitch.items():
        rings = [n.measured.ring for n in tries]
        told = [r for r in rings if isinstance(r, Ring)]
        rang = [r for r in told if r.rang]
        why = next((r.reason for r in rings if isinstance(r, Unmeasured)), None)
        found.append(
            Echo(
                pitch=pitch, n_tries=len(told), n_rang=len(rang),
                ring_db=middle([r.ring_db for r in rang]),
                decay_s=middle([r.decay_s for r in rang]),
                cents=middle([n.cents for n in tries if n.cents is not None]),
                why=why if not told else None,
            )
        )  # fmt: skip
    return tuple(found)
