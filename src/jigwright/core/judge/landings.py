"""Where the fingers land: over takes, by string, finger and place, in millimetres.

String and finger are those of the fingering chosen for the take; a microphone cannot hear them. A
bias is claimed from ten landings on (P4), when as many on one side would come by chance in fewer
than one map of a hundred: an exact sign test, divided by the number of spots looked at
(Bonferroni), which supposes nothing about the spread.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import comb

import numpy as np

from jigwright.core.judge.judging import JudgedNote
from jigwright.core.music.instruments import millimetres
from jigwright.core.music.pitch import Pitch

LEAST_FOR_A_CLAIM = 10
_CHANCE = 0.01


@dataclass(frozen=True, slots=True, kw_only=True)
class Landing:
    """One landing of a finger.

    Parameters
    ----------
    take : int
        Number of the take, in order of time.
    string, finger : int
    pitch : Pitch
    target_mm : float
        From the nut to the true spot.
    off_mm : float
        Where the finger was, + towards the bridge (high).
    cents : float
    rising : bool or None
        Whether the note before was lower; ``None`` at the beginning.
    new_string : bool
        Whether the string changed before it.
    """

    take: int
    string: int
    finger: int
    pitch: Pitch
    target_mm: float
    off_mm: float
    cents: float
    rising: bool | None
    new_string: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Spot:
    """All landings of one finger on one note of one string.

    Parameters
    ----------
    string, finger : int
    pitch : Pitch
    target_mm : float
    n : int
    bias_mm, bias_cents : float
        Median.
    low_mm, high_mm : float
        Middle two thirds.
    claimed : bool
        Whether the numbers support the bias.
    same_way : int
        Landings on the side of the bias.
    """

    string: int
    finger: int
    pitch: Pitch
    target_mm: float
    n: int
    bias_mm: float
    bias_cents: float
    low_mm: float
    high_mm: float
    claimed: bool
    same_way: int


def landings_of(
    notes: Sequence[JudgedNote],
    *,
    take: int,
    open_hz: Sequence[float],
    string_length_mm: float,
) -> list[Landing]:
    """Landings of one take; open strings, harmonics and notes without a fingering are left out.

    Parameters
    ----------
    notes : sequence of JudgedNote
    take : int
    open_hz : sequence of float
        Strings low to high.
    string_length_mm : float
    """
    found: list[Landing] = []
    before: JudgedNote | None = None
    for note in notes:
        usable = (
            note.cents is not None
            and note.standing in ("in", "low", "high")
            and note.string is not None
            and note.finger
            and note.string < len(open_hz)
            and note.measured.lined.state == "played"
        )
        if usable:
            assert note.string is not None
            assert note.finger is not None
            assert note.cents is not None
            open_string_hz = open_hz[note.string]
            found.append(
                Landing(
                    take=take, string=note.string, finger=note.finger, pitch=note.pitch,
                    target_mm=string_length_mm * (1.0 - open_string_hz / note.target_hz),
                    off_mm=millimetres(
                        note.cents, note.target_hz, open_string_hz, string_length_mm
                    ),
                    cents=note.cents,
                    rising=None if before is None else before.pitch.midi < note.pitch.midi,
                    new_string=before is not None and before.string != note.string,
                )
            )  # fmt: skip
        if note.cents is not None:
            before = note
    return found


def spots_of(landings: Sequence[Landing]) -> tuple[Spot, ...]:
    """Landings gathered by string, finger and note, from the nut to the bridge."""
    groups: dict[tuple[int, int, int], list[Landing]] = {}
    for one in landings:
        groups.setdefault((one.string, one.finger, one.pitch.midi), []).append(one)
    chance = _CHANCE / max(1, len(groups))
    spots = [_spot(members, chance) for members in groups.values()]
    return tuple(sorted(spots, key=lambda s: (s.string, s.target_mm)))


def _spot(members: Sequence[Landing], chance: float) -> Spot:
    off = np.array([m.off_mm for m in members])
    bias = float(np.median(off))
    n = len(off)
    same_way = int(np.count_nonzero(np.sign(off) == np.sign(bias)))
    by_chance = 2.0 * sum(comb(n, k) for k in range(same_way, n + 1)) / 2.0**n
    claimed = n >= LEAST_FOR_A_CLAIM and by_chance < chance and abs(bias) > 0.3
    low, high = np.percentile(off, [100 / 6, 500 / 6])
    first = members[0]
    return Spot(
        string=first.string, finger=first.finger, pitch=first.pitch, target_mm=first.target_mm,
        n=n, bias_mm=bias, bias_cents=float(np.median([m.cents for m in members])),
        low_mm=float(low), high_mm=float(high), claimed=claimed,
        same_way=same_way,
    )  # fmt: skip


def worst_spot(spots: Sequence[Spot]) -> Spot | None:
    """The claimed bias that is largest in cents, or ``None``."""
    claimed = [s for s in spots if s.claimed]
    return max(claimed, key=lambda s: abs(s.bias_cents), default=None)


def share_back(landings: Sequence[Landing], *, least_cents: float = 5.0) -> float | None:
    """After a miss on either side: the share of the way back that would be right (P9).

    Parameters
    ----------
    landings : sequence of Landing
        Of one finger on one note, in order of time.
    least_cents : float
        Nearer is no miss.

    Returns
    -------
    float or None
        Of the distance between the last two landings; ``None`` unless they lie on either side.
    """
    if len(landings) < 2:
        return None
    return share_between(landings[-2].cents, landings[-1].cents, least_cents=least_cents)


def share_between(before: float, last: float, *, least_cents: float) -> float | None:
    """The share of the way back from the last of two misses that lie on either side.

    Parameters
    ----------
    before, last : float
        Cents from where it should be.
    least_cents : float
        Nearer is no miss.

    Returns
    -------
    float or None
        Of the distance between the two; ``None`` unless they lie on either side.
    """
    if before * last >= 0 or min(abs(before), abs(last)) < least_cents:
        return None
    return abs(last) / (abs(before) + abs(last))
