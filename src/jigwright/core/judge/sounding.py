"""Which strings rang how often in a take, and why those that were silent may have been."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import hypot, isfinite, nan

from jigwright.core.gauge.values import Ring, StringRing
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.values import median

OUT_CENTS = 3.0
FITS_CENTS = 7.0  # of a written note from a string in equal temperament
_LEAST_SHARE_DB = -3.0
_LEAST_RANG = 2
_LEAST_OTHERS = 2


def fits(one: StringRing, cents: float | None) -> bool:
    """Whether a note played where it belongs would wake a string.

    A third lies 14 to 22 cents from the string's partial in most tunings: in tune it wakes nothing,
    and nobody is asked why.

    Parameters
    ----------
    one : StringRing
    cents : float or None
        Where the note lay, from its target.
    """
    met = one.meeting
    return abs(met.apart_cents + met.string_cents - (cents or 0.0)) <= FITS_CENTS


def could_ring(note: JudgedNote) -> bool:
    """Whether a note could wake a string and of one of these it can be told."""
    ring = note.measured.ring
    if not isinstance(ring, Ring):
        return False
    return any(s.state != "unknown" and fits(s, note.cents) for s in ring.strings)


@dataclass(frozen=True, slots=True, kw_only=True)
class StringCount:
    """What one open string did in a take.

    Parameters
    ----------
    string : int
        0 = lowest.
    n_rang, n_told : int
        Notes after which it rang, of those that would wake it in tune and of which it can be told.
    n_beside : int
        Silent after notes that lay so far beside it that less than half was to be had.
    apart_cents : float
        Middle of how far those lay from the string; + is high. NaN without any.
    string_cents, uncertainty_cents : float
        Where the string itself sounded, from what the others say of the player's tuning; NaN where
        it rang too seldom, or fewer than two others did.
    notes : tuple of int
        Rows that could wake it and of which it can be told.
    """

    string: int
    n_rang: int
    n_told: int
    n_beside: int
    apart_cents: float
    string_cents: float
    uncertainty_cents: float
    notes: tuple[int, ...]

    @property
    def is_out(self) -> bool:
        """Whether it surely sounds beside its tuning."""
        return (
            isfinite(self.string_cents)
            and abs(self.string_cents) > OUT_CENTS + self.uncertainty_cents
        )


def count_strings(notes: Sequence[JudgedNote]) -> tuple[StringCount, ...]:
    """Count what every string did, the lowest first; those no note could wake are left out."""
    seen: dict[int, list[tuple[int, StringRing]]] = {}
    for row, note in enumerate(notes):
        ring = note.measured.ring
        if not isinstance(ring, Ring):
            continue
        for one in ring.strings:
            if one.state != "unknown" and fits(one, note.cents):
                seen.setdefault(one.meeting.string, []).append((row, one))
    counts = tuple(_count(string, seen[string]) for string in sorted(seen))
    return tuple(_among(c, counts) for c in counts)


def _among(count: StringCount, counts: Sequence[StringCount]) -> StringCount:
    """The same with its place from the others': an A that is set otherwise moves them all."""
    others = [
        c.string_cents for c in counts if c.string != count.string and isfinite(c.string_cents)
    ]
    usual = median(others) if len(others) >= _LEAST_OTHERS else nan
    return replace(count, string_cents=count.string_cents - usual)


def _count(string: int, told: Sequence[tuple[int, StringRing]]) -> StringCount:
    rang = [one for _, one in told if one.state == "rang"]
    beside = [
        one for _, one in told
        if one.state == "silent" and one.meeting.share_db < _LEAST_SHARE_DB
    ]  # fmt: skip
    places = [one.string_cents for one in rang if isfinite(one.string_cents)]
    middle = median(places) if len(places) >= _LEAST_RANG else nan
    spread = 1.48 * median([abs(p - middle) for p in places]) if len(places) >= _LEAST_RANG else nan
    unsure = hypot(1.0, 2.0 * spread / max(1, len(places)) ** 0.5)
    return StringCount(
        string=string, n_rang=len(rang), n_told=len(told), n_beside=len(beside),
        apart_cents=median([one.meeting.apart_cents for one in beside]) if beside else nan,
        string_cents=middle, uncertainty_cents=unsure,
        notes=tuple(row for row, _ in told),
    )  # fmt: skip
