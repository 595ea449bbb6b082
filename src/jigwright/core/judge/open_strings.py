"""The strings as they are: cents, fifths and beats, and which peg to turn.

Each open string is taken from notes that were bowed on it alone (or from both notes of a bowed
pair); what stands between neighbours is given in cents from pure and in beats of the partials that
should coincide (3:2 for fifths, 4:3 for fourths).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import log2

import numpy as np

from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import Pair, Segment
from jigwright.core.values import median

_NEAR_CENTS = 160.0
_LEAST_S = 0.4


@dataclass(frozen=True, slots=True, kw_only=True)
class StringFound:
    """One open string as heard.

    Parameters
    ----------
    string : Pitch
        What it should be.
    f0_hz : float
    cents : float
        From its target; + is high.
    uncertainty_cents : float
        Half the 95 % range.
    n_heard : int
        Notes it was taken from.
    """

    string: Pitch
    f0_hz: float
    cents: float
    uncertainty_cents: float
    n_heard: int


@dataclass(frozen=True, slots=True, kw_only=True)
class NeighboursFound:
    """Two neighbouring strings.

    Parameters
    ----------
    lower, upper : Pitch
    error_cents : float
        Size of the interval less the wanted one; + is wide.
    beats_hz : float
        Of the lowest partials that would coincide if it were pure.
    """

    lower: Pitch
    upper: Pitch
    error_cents: float
    beats_hz: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PegAdvice:
    """What to turn next.

    Parameters
    ----------
    string : Pitch
    cents : float
        How far the string must rise (+) or fall (−).
    """

    string: Pitch
    cents: float


def find_strings(
    segments: Sequence[Segment], pairs: Sequence[Pair], targets_hz: Mapping[Pitch, float]
) -> tuple[StringFound, ...]:
    """Open strings among what was heard, low to high; strings not heard are left out.

    Parameters
    ----------
    segments, pairs
        What was heard while open strings were bowed.
    targets_hz : mapping of Pitch to float
        What the strings should be.
    """
    heard: dict[Pitch, list[tuple[float, float]]] = {}
    single = [
        (s.f0_hz, s.uncertainty_cents)
        for s in segments
        if s.i_pair < 0 and s.offset_s - s.onset_s >= _LEAST_S
    ]
    double = [
        pair
        for p in pairs
        if p.offset_s - p.onset_s >= _LEAST_S
        for pair in (
            (p.lower_hz, p.lower_uncertainty_cents),
            (p.upper_hz, p.upper_uncertainty_cents),
        )
    ]
    for f_hz, uncertainty in (*single, *double):
        string, off = min(
            ((s, 1200.0 * log2(f_hz / hz)) for s, hz in targets_hz.items()), key=lambda q: abs(q[1])
        )
        if abs(off) <= _NEAR_CENTS:
            heard.setdefault(string, []).append((off, max(uncertainty, 0.05)))
    return tuple(
        _found(string, targets_hz[string], heard[string])
        for string in sorted(heard, key=lambda s: s.midi)
    )


def _found(string: Pitch, target_hz: float, offs: list[tuple[float, float]]) -> StringFound:
    cents = float(np.median([c for c, _ in offs]))
    own = float(np.median([u for _, u in offs]))
    spread = float(np.std([c for c, _ in offs])) if len(offs) > 1 else 0.0
    return StringFound(
        string=string, f0_hz=target_hz * 2.0 ** (cents / 1200.0), cents=cents,
        uncertainty_cents=own + 1.96 * spread / len(offs) ** 0.5, n_heard=len(offs),
    )  # fmt: skip


def neighbours(
    found: Sequence[StringFound], *, narrow_cents: float = 0.0
) -> tuple[NeighboursFound, ...]:
    """Intervals between neighbouring strings that were both heard.

    Parameters
    ----------
    found : sequence of StringFound
    narrow_cents : float
        How much narrower than pure the player wants fifths (and wider fourths).
    """
    result = []
    for a, b in zip(found, found[1:], strict=False):
        steps = b.string.midi - a.string.midi
        if steps not in (5, 7):
            continue
        over, under = (3, 2) if steps == 7 else (4, 3)
        wanted = 1200.0 * log2(over / under) + (-narrow_cents if steps == 7 else narrow_cents)
        result.append(
            NeighboursFound(
                lower=a.string,
                upper=b.string,
                error_cents=1200.0 * log2(b.f0_hz / a.f0_hz) - wanted,
                beats_hz=abs(over * a.f0_hz - under * b.f0_hz),
            )
        )
    return tuple(result)


def next_peg(found: Sequence[StringFound], *, tolerance_cents: float = 2.0) -> PegAdvice | None:
    """The string to turn next: the A first, then the one furthest out; ``None`` when all are right.

    Turning one peg moves the others, so the first string is to be heard again last.
    """
    out = [s for s in found if abs(s.cents) > tolerance_cents + s.uncertainty_cents]
    if not out:
        return None
    first = [s for s in out if s.string.midi % 12 == 9]
    worst = first[0] if first else max(out, key=lambda s: abs(s.cents))
    return PegAdvice(string=worst.string, cents=-worst.cents)


_LEAST_DRIFT_CENTS = 5.0
_LEAST_OPEN_NOTES = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class StringDrift:
    """A string that no longer sounds as it did.

    Parameters
    ----------
    string : Pitch
    cents : float
        From before, + is higher.
    uncertainty_cents : float
        Half the 95 % range.
    """

    string: Pitch
    cents: float
    uncertainty_cents: float


def drifted(
    played: Mapping[Pitch, Sequence[tuple[float, float]]], before_hz: Mapping[Pitch, float]
) -> tuple[StringDrift, ...]:
    """Strings whose newest open notes lie clearly beside what was heard before.

    Parameters
    ----------
    played : mapping of Pitch to sequence of (Hz, cents)
        Open notes of each string, the newest last, with half the 95 % range of each.
    before_hz : mapping of Pitch to float
        As checked, or as heard when the session began.

    Returns
    -------
    tuple of StringDrift
        The farthest first; a string needs three notes that agree in direction, and a middle of
        more than 5 cents beyond its uncertainty. A bow that presses raises an open string by a
        cent or two, never by that much.
    """
    found = []
    for string, notes in played.items():
        newest = list(notes)[-_LEAST_OPEN_NOTES:]
        if len(newest) < _LEAST_OPEN_NOTES or string not in before_hz:
            continue
        off = np.array([1200.0 * np.log2(hz / before_hz[string]) for hz, _ in newest])
        unsure = max(median([u for _, u in newest]), 1.48 * median(np.abs(off - median(off))))
        middle = median(off)
        one_way = np.all(off > 0) or np.all(off < 0)
        if one_way and abs(middle) > _LEAST_DRIFT_CENTS + unsure:
            found.append(StringDrift(string=string, cents=middle, uncertainty_cents=unsure))
    return tuple(sorted(found, key=lambda d: -abs(d.cents)))
