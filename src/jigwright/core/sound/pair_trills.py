"""A trill is two pitches in every window longer than its turns, and no double stop."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.music.pitch import hz_to_cents
from jigwright.core.sound.heard import Pair

_STEP_CENTS = 230.0  # a whole tone, and what a trill is out by
_SHORT_S = 0.5
_WRITTEN_CENTS = 80.0


def without_trills(
    pairs: Sequence[Pair], stops_hz: Sequence[tuple[float, float]]
) -> tuple[Pair, ...]:
    """Double stops without those that a trill leaves where its turns are too fast to be parted.

    A second that is written is one; one that sounds for half a second is none of a trill, which
    would have been heard as steps for part of that time.

    Parameters
    ----------
    pairs : sequence of Pair
    stops_hz : sequence of (float, float)
        Both notes of every stop that is written.
    """
    return tuple(p for p in pairs if not _may_turn(p) or _is_written(p, stops_hz))


def _may_turn(pair: Pair) -> bool:
    short = pair.offset_s - pair.onset_s < _SHORT_S
    return short and hz_to_cents(pair.upper_hz, pair.lower_hz) < _STEP_CENTS


def _is_written(pair: Pair, stops_hz: Sequence[tuple[float, float]]) -> bool:
    return any(
        abs(hz_to_cents(pair.lower_hz, low)) < _WRITTEN_CENTS
        and abs(hz_to_cents(pair.upper_hz, up)) < _WRITTEN_CENTS
        for low, up in stops_hz
    )
