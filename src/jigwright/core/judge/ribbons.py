"""Strokes as ribbons: level and roughness along each stroke, laid out from frog to tip.

The place on the bow is assumed from time: a stroke is taken to use the whole bow at one speed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.gauge.values import BowEvent, Stroke
from jigwright.core.sound.curves import frames_between, roughness_db
from jigwright.core.sound.heard import Contours, Pair
from jigwright.core.values import Floats

N_POINTS = 80


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Ribbon:
    """One stroke.

    Parameters
    ----------
    i_stroke : int
    direction : str
    level_db : ndarray, shape (N_POINTS,)
        Re the loudest stroke's middle, along the stroke.
    rough : ndarray, shape (N_POINTS,)
        0 … 1, how noisy.
    breaks : tuple of float
        Places 0 … 1 along the stroke where contact was lost.
    seconds : float
    """

    i_stroke: int
    direction: str
    level_db: Floats
    rough: Floats
    breaks: tuple[float, ...]
    seconds: float


def ribbons_of(
    contours: Contours,
    strokes: Sequence[Stroke],
    events: Sequence[BowEvent],
    *,
    pairs: Sequence[Pair] = (),
    shortest_s: float = 0.15,
) -> tuple[Ribbon, ...]:
    """Profiles of all strokes that are long enough.

    Parameters
    ----------
    contours : Contours
    strokes : sequence of Stroke
    events : sequence of BowEvent
    pairs : sequence of Pair
        Where two strings sound, one period does not fit: no roughness is shown.
    shortest_s : float
    """
    raw: list[tuple[int, Stroke, Floats, Floats]] = []
    for i, stroke in enumerate(strokes):
        if stroke.end_s - stroke.start_s < shortest_s:
            continue
        part = frames_between(contours, stroke.start_s, stroke.end_s)
        level, clarity = contours.level_db[part], contours.clarity[part]
        if len(level) < 8:
            continue
        at = np.linspace(0.0, len(level) - 1.0, N_POINTS)
        grid = np.arange(len(level))
        rough = np.clip((roughness_db(clarity) + 22.0) / 20.0, 0.0, 1.0)
        if any(p.onset_s < stroke.end_s and p.offset_s > stroke.start_s for p in pairs):
            rough = np.zeros_like(rough)
        raw.append((i, stroke, np.interp(at, grid, level), np.interp(at, grid, rough)))
    if not raw:
        return ()
    top = max(float(np.median(level)) for _, _, level, _ in raw)
    return tuple(
        Ribbon(
            i_stroke=i, direction=stroke.direction, level_db=level - top, rough=rough,
            breaks=tuple(
                (0.5 * (e.start_s + e.end_s) - stroke.start_s) / (stroke.end_s - stroke.start_s)
                for e in events
                if e.kind == "bounce" and stroke.start_s <= e.start_s <= stroke.end_s
            ),
            seconds=stroke.end_s - stroke.start_s,
        )
        for i, stroke, level, rough in raw
    )  # fmt: skip
