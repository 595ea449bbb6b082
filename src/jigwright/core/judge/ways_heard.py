"""Ways of doing the same, heard: their figures side by side; the player chooses (B9, B13, T5)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import isfinite

from jigwright.core.gauge.values import Level, Start, Tone
from jigwright.core.gauge_maths import middle, middle_with_range
from jigwright.core.jig.ways import Ways
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.values import median

AS_LOUD_DB = 0.5
"""Less than that is not heard as a difference of loudness."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WayFigures:
    """What was heard of a way, each figure the median of what could be measured.

    Parameters
    ----------
    n, n_missed : int
        Notes that were heard, and those left out.
    loudness_db, loudness_uncertainty_db : float or None
        From the loudest way, stroke by stroke, and half the 95 % range; infinite from one stroke.
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
    loudness_uncertainty_db: float | None
    brightness_ratio: float | None
    noise_db: float | None
    range_db: float | None
    attack_s: float | None
    off_cents: float | None

    @property
    def is_softer(self) -> bool | None:
        """Whether it is softer than the loudest; ``None``: cannot be told."""
        if self.loudness_db is None or self.loudness_uncertainty_db is None:
            return None
        if not isfinite(self.loudness_uncertainty_db):
            return None
        return self.loudness_db < -max(AS_LOUD_DB, self.loudness_uncertainty_db)


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
    loud = [_loudness(row, first) for row, (first, _) in zip(members, ways.spans, strict=True)]
    softer = _from_the_loudest(loud)
    return tuple(
        WayFigures(
            n=len(row), n_missed=missed[k],
            loudness_db=loudness_db, loudness_uncertainty_db=uncertainty_db,
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
        for k, (row, own, (loudness_db, uncertainty_db)) in enumerate(
            zip(members, tones, softer, strict=True)
        )
    )  # fmt: skip


def _loudness(row: Sequence[JudgedNote], first: int) -> dict[int, float]:
    """Loudness of the strokes of a way, by their place in it."""
    return {
        n.measured.lined.i_event - first: n.measured.tone.loudness_db
        for n in row
        if isinstance(n.measured.tone, Tone) and n.measured.lined.i_event is not None
    }


def _from_the_loudest(
    loud: Sequence[dict[int, float]],
) -> list[tuple[float | None, float | None]]:
    """Each way against the loudest, stroke by stroke, since notes differ by themselves."""
    heard = [k for k, strokes in enumerate(loud) if strokes]
    if not heard:
        return [(None, None)] * len(loud)
    top = max(heard, key=lambda k: median(list(loud[k].values())))
    found: list[tuple[float | None, float | None]] = []
    for k, strokes in enumerate(loud):
        steps = [db - loud[top][i] for i, db in strokes.items() if i in loud[top]]
        found.append(
            (0.0, 0.0) if k == top else middle_with_range(steps) if steps else (None, None)
        )
    return found
