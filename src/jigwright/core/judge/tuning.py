"""Which tuning is the player in? Residuals against each reference, the player's own A fitted.

Confidence by bootstrap over notes: how often the best reference stays the best. References that
the played notes cannot tell apart count as one.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.judge.judging import JudgedNote
from jigwright.core.music.pitch import Pitch, PitchClass, hz_to_cents
from jigwright.core.music.references import (
    EQUAL,
    MEANTONE,
    PYTHAGOREAN,
    RING,
    Reference,
    just,
    pure_strings,
    target_hz,
)
from jigwright.core.values import Floats

_LEAST_NOTES = 6
_N_BOOTSTRAP = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class TuningEstimate:
    """The player's own A and the reference nearest to what was played.

    Parameters
    ----------
    estimated_a4_hz : float or None
    best_reference : str or None
        ``None``: no preference, the notes do not tell.
    confidence : float
        Share of resamples that agree, 0 … 1.
    n_telling : int
        Notes on which the references differ by more than 4 cents.
    by_reference : tuple of (str, float)
        Root mean square residual in cents, best first.
    """

    estimated_a4_hz: float | None
    best_reference: str | None
    confidence: float
    n_telling: int
    by_reference: tuple[tuple[str, float], ...]


NO_TUNING = TuningEstimate(
    estimated_a4_hz=None, best_reference=None, confidence=0.0, n_telling=0, by_reference=()
)


def estimate_tuning(
    notes: Sequence[JudgedNote],
    *,
    a4_hz: float,
    strings: tuple[Pitch, ...],
    tonic: PitchClass | None,
) -> TuningEstimate:
    """Compare the steady notes with each reference.

    Parameters
    ----------
    notes : sequence of JudgedNote
    a4_hz : float
        Nominal A.
    strings : tuple of Pitch
    tonic : PitchClass or None
        Tonic of the just scale; left out when not known.
    """
    steady = [n for n in notes if n.cents is not None and abs(n.cents) < 60 and _usable(n)]
    if len(steady) < _LEAST_NOTES:
        return NO_TUNING
    references: list[Reference] = [EQUAL, PYTHAGOREAN, MEANTONE, RING]
    if tonic is not None:
        references.insert(2, just(tonic))
    open_hz = pure_strings(strings, a4_hz)
    heard = np.array([_heard_hz(n) for n in steady])
    residual = np.array(
        [
            [
                hz_to_cents(h, target_hz(r, n.pitch, a4_hz, open_strings_hz=open_hz))
                for n, h in zip(steady, heard, strict=True)
            ]
            for r in references
        ]
    )
    offset = _centre(residual)
    centred = residual - offset
    rms = np.sqrt(np.mean(centred**2, axis=1))
    order = np.argsort(rms, kind="stable")
    best = int(order[0])
    n_telling = int(np.count_nonzero(np.ptp(centred, axis=0) > 4.0))
    confidence = _bootstrap(residual, best, [n.pitch.pitch_class for n in steady])
    same = [i for i in range(len(references)) if np.max(np.abs(centred[i] - centred[best])) < 0.5]
    named = references[min(same, key=lambda i: references[i].kind == "ring")].name
    clear = confidence >= 0.8 and n_telling >= 3 and rms[best] < 15.0
    return TuningEstimate(
        estimated_a4_hz=float(a4_hz * 2 ** (float(offset[best, 0]) / 1200)),
        best_reference=named if clear else None,
        confidence=confidence,
        n_telling=n_telling,
        by_reference=tuple((references[i].name, float(rms[i])) for i in order),
    )


def _centre(residual: Floats) -> Floats:
    """Mean of what lies within 20 cents of the median: less scatter than the median alone.

    Where two camps leave nothing near the median, the median stands.
    """
    middle = np.median(residual, axis=-1, keepdims=True)
    near = np.abs(residual - middle) <= 20.0
    n_near = np.sum(near, axis=-1, keepdims=True)
    mean = np.sum(residual * near, axis=-1, keepdims=True) / np.maximum(n_near, 1)
    return np.asarray(np.where(n_near > 0, mean, middle))


def _usable(note: JudgedNote) -> bool:
    segment = note.measured.segment
    return segment is not None and segment.core_end_s - segment.core_start_s > 0.1


def _heard_hz(note: JudgedNote) -> float:
    """Of a double stop the voice that was held against the target."""
    assert note.cents is not None
    return note.target_hz * float(2.0 ** (note.cents / 1200.0))


def _bootstrap(residual: Floats, best: int, names: Sequence[PitchClass]) -> float:
    """Share of resamples in which a reference indistinguishable from ``best`` wins.

    Whole pitch classes are drawn: a finger that always falls short is a habit, and must not pass
    for many notes that agree on a tuning.
    """
    rng = np.random.default_rng(7)
    groups = [
        np.array([i for i, name in enumerate(names) if name == one]) for one in dict.fromkeys(names)
    ]
    wins = 0
    for _ in range(_N_BOOTSTRAP):
        pick = np.concatenate([groups[k] for k in rng.integers(0, len(groups), len(groups))])
        drawn = residual[:, pick]
        rms = np.sqrt(np.mean((drawn - _centre(drawn)) ** 2, axis=1))
        wins += bool(rms[best] <= rms.min() + 0.05)
    return wins / _N_BOOTSTRAP
