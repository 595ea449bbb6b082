"""Two takes of one jig, note by note (B9, T5, L3).

Loudness and brightness (centroid over fundamental) are compared only when the microphone may have
stood in the same place. Notes are matched by their ids, so
that another revision of the jig does no harm.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.gauge.values import Tone
from jigwright.core.judge.aims import AimResult
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.music.pitch import Pitch

_LEAST_CENTS = 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class NotePair:
    """One note in both takes.

    Parameters
    ----------
    note_id : str
    pitch : Pitch
    one_cents, two_cents : float or None
        From the target; ``None`` where it was not heard.
    louder_db : float or None
        Second minus first; ``None`` when that may not be compared.
    brighter : float or None
        Second over first, 1 = alike.
    """

    note_id: str
    pitch: Pitch
    one_cents: float | None
    two_cents: float | None
    louder_db: float | None
    brighter: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared:
    """What can be said of the two as a whole.

    Parameters
    ----------
    n : int
        Notes heard in both.
    n_nearer : int
        Of those, notes that lie nearer in the second by 3 cents and more than the uncertainty.
    n_farther : int
    louder_db, brighter : float or None
        Medians.
    """

    n: int
    n_nearer: int
    n_farther: int
    louder_db: float | None
    brighter: float | None


def compare_takes(
    one: Sequence[JudgedNote], two: Sequence[JudgedNote], *, levels: bool
) -> tuple[tuple[NotePair, ...], Compared]:
    """Compare first attempts of the notes of two takes.

    Parameters
    ----------
    one, two : sequence of JudgedNote
    levels : bool
        Whether levels may be compared.
    """
    firsts = [
        {
            n.measured.lined.note_id: n
            for n in reversed(notes)
            if n.measured.lined.note_id is not None and n.measured.lined.attempt == 1
        }
        for notes in (one, two)
    ]
    pairs: list[NotePair] = []
    nearer = farther = 0
    for note in one:
        key = note.measured.lined.note_id
        if key is None or firsts[0].get(key) is not note or key not in firsts[1]:
            continue
        other = firsts[1][key]
        louder, brighter = _tones(note, other) if levels else (None, None)
        pairs.append(
            NotePair(
                note_id=key, pitch=note.pitch, one_cents=note.cents, two_cents=other.cents,
                louder_db=louder, brighter=brighter,
            )
        )  # fmt: skip
        if note.cents is None or other.cents is None:
            continue
        change = abs(other.cents) - abs(note.cents)
        sure = float(np.hypot(note.uncertainty_cents, other.uncertainty_cents))
        sure = max(sure, _LEAST_CENTS)
        nearer += change < -sure
        farther += change > sure
    heard = [p for p in pairs if p.one_cents is not None and p.two_cents is not None]
    return tuple(pairs), Compared(
        n=len(heard), n_nearer=nearer, n_farther=farther,
        louder_db=_middle([p.louder_db for p in pairs]),
        brighter=_middle([p.brighter for p in pairs]),
    )  # fmt: skip


def _tones(note: JudgedNote, other: JudgedNote) -> tuple[float | None, float | None]:
    a, b = note.measured.tone, other.measured.tone
    if not isinstance(a, Tone) or not isinstance(b, Tone) or a.brightness_ratio <= 0:
        return None, None
    return b.loudness_db - a.loudness_db, b.brightness_ratio / a.brightness_ratio


def _middle(values: Sequence[float | None]) -> float | None:
    good = [v for v in values if v is not None and np.isfinite(v)]
    return float(np.median(good)) if len(good) >= 3 else None


@dataclass(frozen=True, slots=True, kw_only=True)
class AimPair:
    """One aim in both takes.

    Parameters
    ----------
    one, two : AimResult
    """

    one: AimResult
    two: AimResult

    @property
    def clearly(self) -> bool:
        """Whether the figures differ by more than both their uncertainties."""
        a, b = self.one, self.two
        if a.figure is None or b.figure is None:
            return False
        return abs(b.figure - a.figure) > float(np.hypot(a.uncertainty, b.uncertainty))

    @property
    def told(self) -> str:
        """``met`` or ``lost``: what became of it; ``moved``: the figure; else nothing."""
        states = (self.one.state, self.two.state)
        if states == ("not_met", "met"):
            return "met"
        if states == ("met", "not_met"):
            return "lost"
        return "moved" if self.clearly and "not_asked" not in states else ""


def compare_aims(one: Sequence[AimResult], two: Sequence[AimResult]) -> tuple[AimPair, ...]:
    """The aims that both takes were judged by, in the order of the second."""
    first = {r.aim: r for r in reversed(one)}
    return tuple(AimPair(one=first[r.aim], two=r) for r in two if r.aim in first)
