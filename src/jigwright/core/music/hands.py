"""How a hand lies on the strings of each kind of instrument: spans, frames, closings.

What two fingers reach at once is a matter of millimetres on the string in hand, not of semitones,
which shrink towards the bridge: :class:`Reach` says how near and how far two fingers lie of a hand
that fits a full-size instrument. No hands were measured for it: the limits are what usual positions
ask of one, reckoned on full-size strings – whole tones of a first position (32 mm between
neighbours on a violin, 36 on a viola; 34 for a cello's semitone, 53 for a bass's), octaves with
first and fourth finger (84 on a viola), a cello's extension (127), a bass's whole tone between
first and fourth (109 in half position), a minor tenth for a wide hand (108) – and a little more.
Semitones are counted from the first finger. Violin and viola stop one letter with each finger, so
their spans are middling widths of a frame; cello closes by semitones with an extension; bass takes
a whole tone between first and fourth finger. The prices are of one note taken so, shifts aside,
and only compared with each other.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

Frame = Literal["middle", "low_second", "wide", "lowered", "closed", "back", "forward"]
"""Violin and viola: half step between 2 and 3, between 1 and 2, on top, all lowered. Cello: closed,
the first finger back, the hand open forward. Bass: closed, which is all there is low down."""
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
class Reach:
    """How far apart two fingers may lie along the string.

    Parameters
    ----------
    least_mm, usual_mm, most_mm : float
        Nearest, as far as lies easily, and farthest.
    semitones : tuple of (int, int) or None
        How many semitones they close in, fewest and most; ``None`` for a hand that goes by letters.
    """

    least_mm: float
    usual_mm: float
    most_mm: float
    semitones: tuple[int, int] | None = None


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
    whole_step : int
        Finger a whole step above the first.
    reaches : mapping of (int, int) to Reach
        Of every pair of fingers that can lie at once, the one nearer the nut first.
    thumb_from : int
        Semitones above the open string from which the thumb lies with other fingers; 0: never.
    usual_length_mm : float
        Sounding length of the strings the spans are meant for.
    """

    by_letter: bool
    stoppings: tuple[Stopping, ...]
    thumb_stoppings: tuple[Stopping, ...]
    low_fingers: tuple[int, ...]
    high_fingers: tuple[int, ...]
    frames: Mapping[Frame, tuple[int, ...]]
    frame_fingers: tuple[int, ...]
    whole_step: int
    reaches: Mapping[tuple[int, int], Reach]
    thumb_from: int
    usual_length_mm: float

    def reach(self, first: int, second: int, *, string_length_mm: float) -> Reach | None:
        """How far two fingers lie apart on strings of a length; ``None``: not at once.

        A small instrument is for a small hand; on a large one the hand is what it was.

        Parameters
        ----------
        first, second : int
            The finger nearer the nut, and the other.
        string_length_mm : float
        """
        found = self.reaches.get((first, second))
        if found is None:
            return None
        size = min(1.0, string_length_mm / self.usual_length_mm)
        return Reach(
            least_mm=size * found.least_mm, usual_mm=size * found.usual_mm,
            most_mm=size * found.most_mm, semitones=found.semitones,
        )  # fmt: skip


def _stoppings(*rows: tuple[int, float, float]) -> tuple[Stopping, ...]:
    return tuple(Stopping(finger=f, span_semitones=s, price=p) for f, s, p in rows)


def _reaches(
    *rows: tuple[int, int, float, float, float, tuple[int, int] | None],
) -> dict[tuple[int, int], Reach]:
    return {
        (a, b): Reach(least_mm=least, usual_mm=usual, most_mm=most, semitones=semitones)
        for a, b, least, usual, most, semitones in rows
    }


_THUMB_POSITION = _stoppings((THUMB, -2.0, 1.0), (1, 0.0, 0.7), (2, 2.0, 0.7), (3, 3.0, 0.8))

UPPER_HAND = Hand(
    by_letter=True, stoppings=_stoppings((1, 0.0, 0.0), (2, 1.75, 0.0), (3, 3.4, 0.0),
                                         (4, 5.25, 0.5)),
    thumb_stoppings=(), low_fingers=(), high_fingers=(),
    frames={
        "middle": (2, 4, 5, 7), "low_second": (2, 3, 5, 7), "wide": (2, 4, 6, 7),
        "lowered": (1, 3, 5, 6),
    },
    frame_fingers=(1, 2, 3, 4), thumb_from=0, whole_step=2, usual_length_mm=328.0,
    reaches=_reaches(
        (1, 2, 0.0, 36.0, 45.0, None), (2, 3, 0.0, 32.0, 42.0, None),
        (3, 4, 0.0, 30.0, 42.0, None), (1, 3, 10.0, 64.0, 76.0, None),
        (2, 4, 10.0, 60.0, 72.0, None), (1, 4, 20.0, 85.0, 112.0, None),
    ),
)  # fmt: skip
CELLO_HAND = Hand(
    by_letter=False,
    stoppings=_stoppings((1, 0.0, 0.0), (2, 1.0, 0.0), (3, 2.0, 0.0), (4, 3.0, 0.05),
                         (4, 4.0, 0.6), (3, 3.0, 0.55), (2, 2.0, 0.5)),
    thumb_stoppings=_THUMB_POSITION, low_fingers=(0, 1, 1, 2, 3, 4, 4), high_fingers=(1, 2, 3, 4),
    frames={"closed": (2, 3, 4, 5), "back": (1, 3, 4, 5), "forward": (2, 4, 5, 6)},
    frame_fingers=(1, 2, 3, 4), thumb_from=5, whole_step=3, usual_length_mm=690.0,
    reaches=_reaches(
        (1, 2, 8.0, 40.0, 74.0, (1, 2)), (2, 3, 8.0, 38.0, 42.0, (1, 2)),
        (3, 4, 8.0, 38.0, 42.0, (1, 1)), (1, 3, 20.0, 76.0, 105.0, (2, 3)),
        (2, 4, 20.0, 72.0, 78.0, (2, 2)), (1, 4, 40.0, 105.0, 131.0, (3, 4)),
        (THUMB, 1, 10.0, 60.0, 78.0, (1, 3)), (THUMB, 2, 25.0, 85.0, 100.0, (3, 4)),
        (THUMB, 3, 40.0, 118.0, 130.0, (4, 6)),
    ),
)  # fmt: skip
BASS_HAND = Hand(
    by_letter=False, stoppings=_stoppings((1, 0.0, 0.0), (2, 1.0, 0.0), (4, 2.0, 0.05)),
    thumb_stoppings=_THUMB_POSITION, low_fingers=(0, 1, 1, 2, 4, 4, 4), high_fingers=(1, 2, 4),
    frames={"closed": (2, 3, 4)},
    frame_fingers=(1, 2, 4), thumb_from=9, whole_step=4, usual_length_mm=1060.0,
    reaches=_reaches(
        (1, 2, 10.0, 58.0, 66.0, (1, 1)), (2, 4, 10.0, 58.0, 66.0, (1, 1)),
        (1, 4, 30.0, 110.0, 118.0, (2, 2)), (2, 3, 10.0, 45.0, 60.0, (1, 2)),
        (1, 3, 25.0, 90.0, 110.0, (2, 3)), (THUMB, 1, 10.0, 65.0, 80.0, (1, 3)),
        (THUMB, 2, 25.0, 90.0, 105.0, (3, 4)), (THUMB, 3, 40.0, 118.0, 132.0, (4, 6)),
    ),
)  # fmt: skip
