"""Which clef is printed where: what the score says, else what a player would expect."""

from __future__ import annotations

from fractions import Fraction

from jigwright.core.jig.model import Jig
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch

BOTTOM_LINES = {
    "G2": Pitch("E", 0, 4), "C3": Pitch("F", 0, 3), "C4": Pitch("D", 0, 3), "F4": Pitch("G", 0, 2),
}  # fmt: skip
"""Written note on the lowest line of the staff."""
_AHEAD = 2  # bars that must lie high before the clef changes
# clefs an instrument reads, low to high, and the written note above which a bar calls for the next
_LADDERS: dict[str, tuple[tuple[str, Pitch | None], ...]] = {
    "violin": (("G2", None),),
    "viola": (("C3", Pitch("E", 0, 5)), ("G2", None)),
    "cello": (("F4", Pitch("E", 0, 4)), ("C4", Pitch("A", 0, 4)), ("G2", None)),
    "bass": (("F4", Pitch("F", 0, 4)), ("C4", Pitch("C", 0, 5)), ("G2", None)),
}
_LOWEST = {"G2": Pitch("A", 0, 3), "C4": Pitch("A", 0, 2), "C3": Pitch("C", 0, 3)}


def clef_changes(jig: Jig) -> tuple[tuple[Fraction, str], ...]:
    """Moments in beats from which a clef holds; the instrument's usual one holds before.

    A score that has clefs keeps them. Otherwise the clef goes up where the middle note of a bar,
    and that of the bar after it, lies above its upper ledger lines, as far as both of them ask for
    it, and comes down likewise; never where a note would lie far below the staff.

    Returns
    -------
    tuple of (Fraction, str)
        Sign and line, such as ``C4``.
    """
    written = tuple((s.at_beats, s.text) for s in jig.signs if s.kind == "clef")
    ladder = _LADDERS[jig.instrument_id]
    if written or len(ladder) == 1:
        return written
    up = instrument(jig.instrument_id).written_octaves_up
    bars = jig.bars()
    heights: list[list[int]] = [[] for _ in bars]
    i = 0
    for event in jig.events:
        while i + 1 < len(bars) and bars[i + 1].start_beats <= event.onset_beats:
            i += 1
        heights[i] += [(h.stopped or h.pitch).diatonic + 7 * up for h in event.heads]
    found: list[tuple[Fraction, str]] = []
    now = 0
    for k, bar in enumerate(bars):
        rungs = [_rung(notes, ladder) for notes in heights[k : k + _AHEAD] if notes]
        if not rungs:
            continue
        wanted = min(rungs) if min(rungs) > now else min(now, max(rungs))
        if wanted != now:
            now = wanted
            found.append((bar.start_beats, ladder[now][0]))
    return tuple(found)


def _rung(notes: list[int], ladder: tuple[tuple[str, Pitch | None], ...]) -> int:
    """The clef that a bar calls for."""
    middle = sorted(notes)[len(notes) // 2]
    rung = sum(limit is not None and middle >= limit.diatonic for _, limit in ladder)
    while rung and min(notes) < _LOWEST[ladder[rung][0]].diatonic:
        rung -= 1
    return rung
