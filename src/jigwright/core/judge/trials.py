"""Guided trials: three lanes of contact (B9), and the echo test (T2)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.gauge.values import Level, Ring, Tone
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.music.pitch import Pitch
from jigwright.core.values import Unmeasured

LANES = 3
STROKES = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class Lane:
    """The strokes of one lane, each figure the median of what could be measured.

    Parameters
    ----------
    n : int
        Strokes that were heard.
    loudness_db, brightness_ratio, noise_db, range_db : float or None
        Loudness re the loudest lane; centroid over fundamental; harmonics re noise; unsteadiness.
    """

    n: int
    loudness_db: float | None
    brightness_ratio: float | None
    noise_db: float | None
    range_db: float | None


def contact_lanes(notes: Sequence[JudgedNote], *, strokes: int = STROKES) -> tuple[Lane, ...]:
    """Compare lanes: the jig's strokes in order, ``strokes`` to a lane."""
    members: list[list[JudgedNote]] = [[] for _ in range(LANES)]
    for note in notes:
        i = note.measured.lined.i_event
        if i is not None and note.measured.segment is not None and i // strokes < LANES:
            members[i // strokes].append(note)
    tones = [
        [n.measured.tone for n in lane if isinstance(n.measured.tone, Tone)] for lane in members
    ]
    loud = [_middle([t.loudness_db for t in lane]) for lane in tones]
    top = max((v for v in loud if v is not None), default=0.0)
    return tuple(
        Lane(
            n=len(lane),
            loudness_db=None if loudness is None else loudness - top,
            brightness_ratio=_middle([t.brightness_ratio for t in own]),
            noise_db=_middle([t.hnr_db for t in own]),
            range_db=_middle(
                [n.measured.level.range_db for n in lane if isinstance(n.measured.level, Level)]
            ),
        )
        for lane, own, loudness in zip(members, tones, loud, strict=True)
    )


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
                ring_db=_middle([r.ring_db for r in rang]),
                decay_s=_middle([r.decay_s for r in rang]),
                cents=_middle([n.cents for n in tries if n.cents is not None]),
                why=why if not told else None,
            )
        )  # fmt: skip
    return tuple(found)


def _middle(values: Sequence[float]) -> float | None:
    good = [v for v in values if np.isfinite(v)]
    return float(np.median(good)) if good else None
