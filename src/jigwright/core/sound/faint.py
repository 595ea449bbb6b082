"""Notes that have next to no share of the sound.

A contour follows the strongest periodicity, and for a moment that can be the common period of two
notes, a partial that a voice lifts, or what is left of a note long over. Divided among all the
pitches that sound (:mod:`activations`), the spectrum then gives such a note next to nothing, while
another pitch explains it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from jigwright.core.sound.activations import ACTIVATION_HOP_S, Activations
from jigwright.core.sound.heard import Segment

_OWN_CENTS = 70.0
_SETTLES_S = 0.02  # of a note that its edges take
_NOTHING = 0.05  # of the loud parts: 37 dB below them
_LITTLE = 0.15  # 24 dB below
_SHARE = 0.3  # of the strongest other pitch: 15 dB below
_LESS, _SHORT_S = 0.8, 0.5  # 3 dB below it; what is longer is judged by what was to be played
_SOFT = 0.12  # 26 dB below the loud parts, where nothing else sounds either


def marked_faint(segments: Sequence[Segment], sounding: Activations) -> tuple[Segment, ...]:
    """The same, those marked that hardly sound, and those that another pitch outsounds.

    Parameters
    ----------
    segments : sequence of Segment
        Double stops are not looked at.
    sounding : Activations
        Of everything that was heard; a note without a pitch of its own there is not looked at.
    """
    return tuple(_marked(s, sounding) for s in segments)


def _marked(s: Segment, sounding: Activations) -> Segment:
    if s.i_pair >= 0 or not sounding.pitches_hz:
        return s
    off = np.abs(1200.0 * np.log2(np.array(sounding.pitches_hz) / s.f0_hz))
    i = int(np.argmin(off))
    lo = round((s.onset_s + _SETTLES_S) / ACTIVATION_HOP_S)
    hi = max(lo + 1, round((s.offset_s - _SETTLES_S) / ACTIVATION_HOP_S))
    shares = sounding.values[:, lo:hi]
    if off[i] > _OWN_CENTS or not shares.size:
        return s
    mean = shares.mean(axis=1)
    own, other = float(mean[i]), float(np.max(np.delete(mean, i), initial=0.0))
    return replace(
        s,
        faint=own < _NOTHING or (own < _LITTLE and own < _SHARE * other),
        outsounded=own < max(_LESS * other, _SOFT) and s.offset_s - s.onset_s < _SHORT_S,
    )
