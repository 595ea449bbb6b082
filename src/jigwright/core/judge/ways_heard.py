"""Ways of doing the same, heard: their figures side by side; the player chooses (B9, B13, T5)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jigwright.core.gauge.values import Level, Start, Tone
from jigwright.core.jig.ways import Ways
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.trials import middle


@dataclass(frozen=True, slots=True, kw_only=True)
class WayFigures:
    """What was heard of a way, each figure the median of what could be measured.

    Parameters
    ----------
    n, n_missed : int
        Notes that were heard, and those left out.
    loudness_db : float or None
        Re the loudest way.
    brightness_ratio, noise_db, range_db : float or None
        Centroid over fundamental; harmonics over noise; unsteadiness of a note.
    attack_s : float or None
        How long a note takes to speak.
    off_cents : float or None
        Distance from the targets, of stopped notes only.
    """

    n: int
    n_missed: int
    loudness_db: float | None
    brightness_ratio: float | None
    noise_db: float | None
    range_db: float | None
    attack_s: float | None
    off_cents: float | None


def ways_heard(notes: Sequence[JudgedNote], ways: Ways) -> tuple[WayFigures, ...]:
    """Figures of every way, in their order."""
    members: list[list[JudgedNote]] = [[] for _ in ways.spans]
    missed = [0] * len(ways.spans)
    for note in notes:
        i = note.measured.lined.i_event
        if i is None:
            continue
        k = ways.way_of(i)
        if note.measured.segment is None:
            missed[k] += 1
        else:
            members[k].append(note)
    tones = [[n.measured.tone for n in row if isinstance(n.measured.tone, Tone)] for row in members]
    loud = [middle([t.loudness_db for t in row]) for row in tones]
    top = max((v for v in loud if v is not None), default=0.0)
    return tuple(
        WayFigures(
            n=len(row), n_missed=missed[k],
            loudness_db=None if loudness is None else loudness - top,
            brightness_ratio=middle([t.brightness_ratio for t in own]),
            noise_db=middle([t.hnr_db for t in own]),
            range_db=middle(
                [n.measured.level.range_db for n in row if isinstance(n.measured.level, Level)]
            ),
            attack_s=middle(
                [n.measured.start.attack_s for n in row if isinstance(n.measured.start, Start)]
            ),
            off_cents=middle([abs(n.cents) for n in row if n.cents is not None and n.finger]),
        )
        for k, (row, own, loudness) in enumerate(zip(members, tones, loud, strict=True))
    )  # fmt: skip
