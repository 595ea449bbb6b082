"""The pitches and double stops of a jig."""

from __future__ import annotations

from jigwright.core.jig.model import Jig
from jigwright.core.music.references import EQUAL, target_hz


def written_stops_hz(jig: Jig | None, a4_hz: float) -> tuple[tuple[float, float], ...]:
    """Lower and upper note of every double stop that is written, each once, in order.

    Equal-tempered: where a stop is looked for need not be where it is asked to be. Chords of three
    and more are left out.

    Parameters
    ----------
    jig : Jig or None
    a4_hz : float
    """
    found: dict[tuple[float, float], None] = {}
    for event in jig.events if jig is not None else ():
        if len(event.heads) == 2:
            low, up = sorted(target_hz(EQUAL, h.pitch, a4_hz) for h in event.heads)
            found[(low, up)] = None
    return tuple(found)


def written_pitches_hz(jig: Jig | None, a4_hz: float) -> tuple[float, ...]:
    """Every pitch that is written, each once, from the lowest on; equal-tempered.

    Parameters
    ----------
    jig : Jig or None
    a4_hz : float
    """
    heads = [h for event in (jig.events if jig is not None else ()) for h in event.heads]
    return tuple(sorted({target_hz(EQUAL, h.pitch, a4_hz) for h in heads}))
