"""Comparisons between notes of one take: contrast, pairs, mirror, string balance, longest stroke.

Only differences within one take are formed; loudness follows hearing (:mod:`core.sound.colour`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.gauge.values import Level, Start, Stroke, Tone
from jigwright.core.jig.model import Jig
from jigwright.core.judge.measured import MeasuredNote
from jigwright.core.values import Unmeasured


@dataclass(frozen=True, slots=True, kw_only=True)
class Contrast:
    """Two statements of the same words.

    Parameters
    ----------
    loudness_db, level_db : float
        First less second, as heard and as energy.
    brightness_octaves : float
        Centroid over fundamental, first over second.
    uncertainty_db : float
        Half the 95 % range of ``loudness_db``.
    n_notes : int
    """

    loudness_db: float
    level_db: float
    brightness_octaves: float
    uncertainty_db: float
    n_notes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class SlurPair:
    """A slur of two: the first leads.

    Parameters
    ----------
    rows : tuple of (int, int)
    second_db : float
        Level of the second less the first; above 0 it sticks out.
    """

    rows: tuple[int, int]
    second_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class StringLevel:
    """How one string speaks.

    Parameters
    ----------
    string : int
        0 = lowest; that of the fingering.
    loudness_db : float
        Median of its notes re the median of the take.
    attack_s : float
        Median speaking time; NaN when none was measured.
    n_notes : int
    """

    string: int
    loudness_db: float
    attack_s: float
    n_notes: int


def measure_contrast(
    notes: Sequence[MeasuredNote], first: Sequence[int], second: Sequence[int]
) -> Contrast | Unmeasured:
    """Compare two statements note by note.

    Parameters
    ----------
    notes : sequence of MeasuredNote
    first, second : sequence of int
        Rows of the notes that answer each other, equally many.

    Returns
    -------
    Contrast or Unmeasured
        Reason: ``too_few``.
    """
    louder, higher, brighter = [], [], []
    for a, b in zip(first, second, strict=True):
        one, two = notes[a].tone, notes[b].tone
        if isinstance(one, Tone) and isinstance(two, Tone):
            louder.append(one.loudness_db - two.loudness_db)
            levels = notes[a].level, notes[b].level
            if isinstance(levels[0], Level) and isinstance(levels[1], Level):
                higher.append(levels[0].mean_dbfs - levels[1].mean_dbfs)
            brighter.append(np.log2(one.brightness_ratio / two.brightness_ratio))
    if len(louder) < 3:
        return Unmeasured("too_few")
    return Contrast(
        loudness_db=float(np.mean(louder)),
        level_db=float(np.mean(higher)) if higher else float("nan"),
        brightness_octaves=float(np.median(brighter)),
        uncertainty_db=float(1.96 * np.std(louder, ddof=1) / len(louder) ** 0.5),
        n_notes=len(louder),
    )


def measure_pairs(notes: Sequence[MeasuredNote], jig: Jig) -> tuple[SlurPair, ...]:
    """Slurs of exactly two notes that were both heard."""
    row_of = {
        n.lined.i_event: row
        for row, n in enumerate(notes)
        if n.lined.state == "played" and n.lined.i_event is not None
    }
    events = jig.events
    result = []
    for i in range(len(events) - 1):
        begins = events[i].bow is not None
        goes_on = events[i + 1].bow is None
        ends = i + 2 >= len(events) or events[i + 2].bow is not None
        rows = (row_of.get(i), row_of.get(i + 1))
        if begins and goes_on and ends and rows[0] is not None and rows[1] is not None:
            one, two = notes[rows[0]].level, notes[rows[1]].level
            if isinstance(one, Level) and isinstance(two, Level):
                result.append(
                    SlurPair(rows=(rows[0], rows[1]), second_db=two.mean_dbfs - one.mean_dbfs)
                )
    return tuple(result)


def measure_strings(notes: Sequence[MeasuredNote], jig: Jig) -> tuple[StringLevel, ...]:
    """Loudness and speaking time by string, for strings with three notes or more."""
    loud: dict[int, list[float]] = {}
    attack: dict[int, list[float]] = {}
    for n in notes:
        i = n.lined.i_event
        if i is None or n.lined.state != "played" or not isinstance(n.tone, Tone):
            continue
        string = jig.events[i].heads[-1].string
        if string is None or len(jig.events[i].heads) > 1:
            continue
        loud.setdefault(string, []).append(n.tone.loudness_db)
        if isinstance(n.start, Start):
            attack.setdefault(string, []).append(n.start.attack_s)
    everything = [v for values in loud.values() for v in values]
    if not everything:
        return ()
    usual = float(np.median(everything))
    return tuple(
        StringLevel(
            string=string, loudness_db=float(np.median(loud[string])) - usual,
            attack_s=float(np.median(attack[string])) if attack.get(string) else float("nan"),
            n_notes=len(loud[string]),
        )
        for string in sorted(loud)
        if len(loud[string]) >= 3
    )  # fmt: skip


def longest_stroke(strokes: Sequence[Stroke], direction: str | None = None) -> Stroke | None:
    """The stroke that lasted longest; its clock runs until the sound stops, not until it wavers."""
    chosen = [s for s in strokes if direction is None or s.direction == direction]
    return max(chosen, key=lambda s: s.end_s - s.start_s, default=None)
