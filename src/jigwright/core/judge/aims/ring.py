"""The aim *ring*: rings won of rings that were to be had."""

from __future__ import annotations

from jigwright.core.gauge.values import Ring
from jigwright.core.jig.aims import Aim
from jigwright.core.judge.aims.outcome import AimResult, Evidence, cannot_tell, held_against
from jigwright.core.judge.sounding import could_ring

FEWEST = 3
_LEAST_TOLD = 0.4  # of the notes that can ring


def ring(evidence: Evidence, aim: Aim) -> AimResult:
    """Share of the notes that woke a string, of those that could and of which it can be told.

    A note without sympathetic help counts for nothing; the aim is refused where less than two
    fifths of the others can be told.
    """
    told, lost, first_lost = 0, 0, None
    unknown = 0
    for row in evidence.rows(aim, again=True):
        found = evidence.notes[row].measured.ring
        if not isinstance(found, Ring):
            unknown += found.reason != "nothing_shared"
            continue
        if not could_ring(evidence.notes[row]):
            continue
        told += 1
        if not found.rang:
            lost += 1
            first_lost = row if first_lost is None else first_lost
    if told < FEWEST or told < _LEAST_TOLD * (told + unknown):
        return cannot_tell(aim, "ring_not_told")
    result = AimResult(
        aim=aim, state="met", figure=(told - lost) / told, uncertainty=0.0, row=first_lost
    )
    return held_against(result, evidence.limit(aim))
