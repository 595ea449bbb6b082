"""What the ring of a take says: a finger that lies beside a string, or a string that is out."""

from __future__ import annotations

from collections.abc import Sequence
from math import isfinite

from jigwright.core.jig.aims import aims_of
from jigwright.core.jig.model import Jig
from jigwright.core.judge.findings import Finding
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.sounding import StringCount, count_strings

_FEWEST = 4
_LOST_SHARE = 0.5
_LEAST_CENTS = 3.0
_OUT_CENTS = 5.0
_RANG_OUT = 3


def find_rings(notes: Sequence[JudgedNote], jig: Jig | None) -> list[Finding]:
    """Findings of the ring.

    That notes won little is said only where a jig asks for it; notes are not compared with each
    other, and a string that never rang in the take may be mute. That a string is out is said of
    any take, from the string's own sound.
    """
    counts = count_strings(notes)
    found = [f for c in counts if (f := _out(c)) is not None]
    if jig is not None and any(a.kind == "ring" for a in aims_of(jig)):
        found += [f for c in counts if (f := _beside(c)) is not None]
    return found


def _out(c: StringCount) -> Finding | None:
    if not c.is_out or c.n_rang < _RANG_OUT or abs(c.string_cents) < _OUT_CENTS:
        return None
    return Finding(
        id="string_out",
        severity=abs(c.string_cents) / 10.0,
        notes=c.notes[:1],
        values={"string": c.string, "cents": c.string_cents, "n": c.n_rang},
    )


def _beside(c: StringCount) -> Finding | None:
    """Silent after most notes, and those lay to one side of it."""
    lost = c.n_told - c.n_rang
    if c.n_told < _FEWEST or not c.n_rang or lost < _LOST_SHARE * c.n_told:
        return None
    far = isfinite(c.apart_cents) and abs(c.apart_cents) >= _LEAST_CENTS
    if not far or c.n_beside < _LOST_SHARE * lost:
        return None
    return Finding(
        id="ring_beside",
        severity=lost / c.n_told,
        notes=c.notes,
        values={
            "string": c.string,
            "n": c.n_rang,
            "of": c.n_told,
            "cents": c.apart_cents,
        },
    )
