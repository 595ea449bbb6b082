"""Ring to be had: which open strings a note can wake, and how much of it where it lies.

A string answers at each of its partials like a resonator of half-width 3 ln 10 / (2 pi T60) Hz,
about 1900 / (f T60) cents. What a note leaves on the string falls with the distance of its partial
as the response of that resonator (Fletcher & Rossing 1998, 1.6); under a vibrato the partial is a
carrier and side bands, each with the response at its own place (Chowning 1973 for their levels).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log, log10, pi

import numpy as np

from jigwright.core.music.pitch import cents_to_ratio, hz_to_cents

MOST_PARTIAL = 8
MOST_PRODUCT = 20  # of the two partials that meet first: a major third's 5 and 4
SHARED_CENTS = 30.0
OPEN_T60_S = {"violin": 1.5, "viola": 1.8, "cello": 2.5, "bass": 3.5}
USUAL_T60_S = 2.0
_UNISON_CENTS = 60.0
_PHASES = 256
_LEAST_SHARE = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class PitchSwing:
    """A vibrato as far as a string feels it.

    Parameters
    ----------
    rate_hz : float
    half_extent_cents : float
    """

    rate_hz: float
    half_extent_cents: float


def shared_partials(
    f0_hz: float, string_hz: float, *, within_cents: float = SHARED_CENTS
) -> tuple[tuple[int, int], ...]:
    """Pairs (partial of the note, partial of the string) that lie together."""
    found = []
    for m in range(1, MOST_PARTIAL + 1):
        k = round(m * string_hz / f0_hz)
        if 1 <= k <= MOST_PARTIAL:
            off = hz_to_cents(m * string_hz, k * f0_hz)
            if abs(off) <= within_cents:
                found.append((k, m))
    return tuple(found)


def is_unison(f0_hz: float, string_hz: float) -> bool:
    """Whether a note is the open string's own."""
    return abs(hz_to_cents(f0_hz, string_hz)) < _UNISON_CENTS


def half_width_cents(f_hz: float, t60_s: float) -> float:
    """How far from a string's partial its response falls by 3 dB."""
    return 1200.0 / log(2.0) * half_width_hz(t60_s) / f_hz


def half_width_hz(t60_s: float) -> float:
    """Half-width of the resonance of something that falls by 60 dB in ``t60_s``."""
    return 3.0 * log(10.0) / (2.0 * pi * t60_s)


def share_db(
    apart_cents: float, f_hz: float, t60_s: float, swing: PitchSwing | None = None
) -> float:
    """What a distance leaves of the ring that a still note in tune would wake, dB (0 or less).

    Parameters
    ----------
    apart_cents : float
        The note's partial less the string's.
    f_hz : float
        Of the string's partial.
    t60_s : float
        Decay of the open string there.
    swing : PitchSwing or None
        The note's vibrato.
    """
    width_hz = half_width_hz(t60_s)
    apart_hz = f_hz * (cents_to_ratio(apart_cents) - 1.0)
    if swing is None or swing.half_extent_cents <= 0.0 or swing.rate_hz <= 0.0:
        share = 1.0 / (1.0 + (apart_hz / width_hz) ** 2)
    else:
        depth = f_hz * (cents_to_ratio(swing.half_extent_cents) - 1.0) / swing.rate_hz
        phase = 2.0 * pi * np.arange(_PHASES) / _PHASES
        bands = np.abs(np.fft.fft(np.exp(1j * depth * np.sin(phase)))) / _PHASES
        at_hz = apart_hz + np.fft.fftfreq(_PHASES, 1.0 / _PHASES) * swing.rate_hz
        share = float(np.sum(bands**2 / (1.0 + (at_hz / width_hz) ** 2)))
    return 10.0 * log10(max(share, _LEAST_SHARE))


def strings_that_may_hold(f0_hz: float, open_hz: Sequence[float]) -> tuple[int, ...]:
    """Strings a stopped or open note may be played on, the likeliest (the highest) first."""
    return tuple(
        j for j in reversed(range(len(open_hz))) if hz_to_cents(f0_hz, open_hz[j]) > -SHARED_CENTS
    )
