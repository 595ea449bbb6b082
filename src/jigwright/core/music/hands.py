"""How a hand lies on the strings of each kind of instrument: spans, frames, closings.

Semitones are counted from the first finger. Violin and viola stop one letter with each finger, so
their spans are middling widths of a frame; cello closes by semitones with an extension; bass takes
a whole tone between first and fourth finger. The prices are of one note taken so, shifts aside,
and only compared with each other.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

Frame = Literal["middle", "low_second", "wide", "lowered"]
THUMB = 5
"""The thumb as a finger."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Stopping:
    """A finger that may stop a note.

    Parameters
    ----------
    finger : int
    span_semitones : float
        Above the first finger.
    price : float
    """

    finger: int
    span_semitones: float
    price: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Hand:
    """A hand.

    Parameters
    ----------
    by_letter : bool
        One finger to a letter, as on violin and viola.
    stoppings : tuple of Stopping
        Below the thumb positions.
    thumb_stoppings : tuple of Stopping
        From the octave up; empty where there is no thumb position.
    low_fingers : tuple of int
        Finger of every semitone above the open string in the lowest position; empty for hands that
        go by letters.
    high_fingers : tuple of int
        Fingers that follow each other further up.
    frames : mapping of Frame to tuple of int
        Semitones above the open string of a hand in first position.
    frame_fingers : tuple of int
        Fingers of a frame.
    widest_pair_semitones : float
        How far apart two hands may be that take both notes of a double stop.
    """

    by_letter: bool
    stoppings: tuple[Stopping, ...]
    thumb_stoppings: tuple[Stopping, ...]
    low_fingers: tuple[int, ...]
    high_fingers: tuple[int, ...]
    frames: Mapping[Frame, tuple[int, ...]]
    frame_fingers: tuple[int, ...]
    widest_pair_semitones: float


def _stoppings(*rows: tuple[int, float, float]) -> tuple[Stopping, ...]:
    return tuple(Stopping(finger=f, span_semitones=s, price=p) for f, s, p in rows)


_THUMB_POSITION = _stoppings((THUMB, -2.0, 1.0), (1, 0.0, 0.7), (2, 2.0, 0.7), (3, 3.0, 0.8))

UPPER_HAND = Hand(
    by_letter=True, stoppings=_stoppings((1, 0.0, 0.0), (2, 1.75, 0.0), (3, 3.4, 0.0),
                                         (4, 5.25, 0.5)),
    thumb_stoppings=(), low_fingers=(), high_fingers=(),
    frames={
        "middle": (2, 4, 5, 7), "low_second": (2, 3, 5, 7), "wide": (2, 4, 6, 7),
        "lowered": (1, 3, 5, 6),
    },
    frame_fingers=(1, 2, 3, 4), widest_pair_semitones=2.6,
)  # fmt: skip
CELLO_HAND = Hand(
    by_letter=False,
    stoppings=_stoppings((1, 0.0, 0.0), (2, 1.0, 0.0), (3, 2.0, 0.0), (4, 3.0, 0.05),
                         (4, 4.0, 0.6), (3, 3.0, 0.55), (2, 2.0, 0.5)),
    thumb_stoppings=_THUMB_POSITION, low_fingers=(0, 1, 1, 2, 3, 4, 4), high_fingers=(1, 2, 3, 4),
    frames={
        "middle": (2, 3, 4, 5), "low_second": (2, 3, 4, 5), "wide": (2, 4, 5, 6),
        "lowered": (1, 3, 4, 5),
    },
    frame_fingers=(1, 2, 3, 4), widest_pair_semitones=1.2,
)  # fmt: skip
BASS_HAND = Hand(
    by_letter=False, stoppings=_stoppings((1, 0.0, 0.0), (2, 1.0, 0.0), (4, 2.0, 0.05)),
    thumb_stoppings=_THUMB_POSITION, low_fingers=(0, 1, 1, 2, 4, 4, 4), high_fingers=(1, 2, 4),
    frames={
        "middle": (2, 3, 4), "low_second": (2, 3, 4), "wide": (2, 3, 4), "lowered": (1, 2, 3),
    },
    frame_fingers=(1, 2, 4), widest_pair_semitones=1.2,
)  # fmt: skip
