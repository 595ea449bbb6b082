"""The signature a blind take is spelled in."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jigwright.core.values import Floats

_DIATONIC = (0, 2, 4, 5, 7, 9, 11)


def estimate_signature(midi: Sequence[int], lengths_s: Floats) -> int:
    """Signature (sharps positive, -5 … +6) whose scale holds most of the sounding time.

    Ties go to the signature with the fewest accidentals.
    """
    if not len(midi):
        return 0
    weight = np.zeros(12)
    for key, length in zip(midi, lengths_s, strict=True):
        weight[key % 12] += min(float(length), 1.0)
    best, best_score = 0, -1.0
    for fifths in sorted(range(-5, 7), key=abs):
        tonic = (7 * fifths) % 12
        inside = sum(weight[(tonic + d) % 12] for d in _DIATONIC)
        ends = 0.15 * weight[tonic]
        score = inside + ends - 1e-3 * abs(fifths)
        if score > best_score + 1e-9:
            best, best_score = fifths, score
    return best
