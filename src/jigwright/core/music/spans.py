"""Whether one hand can take two or more notes at once: fingers, strings and millimetres."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from jigwright.core.music.hands import THUMB, Hand, Reach
from jigwright.core.music.pitch import Pitch

_FRAME = 2.4  # strain of a letter or a semitone out of the frame
_WIDE_FRAME = 2  # tenths: the whole hand opens
_ACROSS_MM = 3.0  # one finger that lies across two strings can lean so far


@dataclass(frozen=True, slots=True, kw_only=True)
class Finger:
    """One finger on one string.

    Parameters
    ----------
    string : int
        0 = lowest.
    finger : int
        0 open, 1 … 4, 5 thumb.
    semitones, letters : int
        Above the open string.
    """

    string: int
    finger: int
    semitones: int
    letters: int

    @classmethod
    def on(cls, open_string: Pitch, pitch: Pitch, *, string: int, finger: int) -> Finger:
        """A finger that stops a pitch on a string."""
        return cls(
            string=string, finger=finger, semitones=pitch.midi - open_string.midi,
            letters=pitch.diatonic - open_string.diatonic,
        )  # fmt: skip

    @property
    def position(self) -> int:
        """Letter of the first finger above the nut, of a hand that goes by letters."""
        return self.letters - self.finger + 1


def place_mm(semitones: float, string_length_mm: float) -> float:
    """Distance of a stopped note from the nut.

    Parameters
    ----------
    semitones : float
        Above the open string.
    string_length_mm : float
    """
    return string_length_mm * (1.0 - float(2.0 ** (-semitones / 12.0)))


def strain(fingers: Sequence[Finger], hand: Hand, *, string_length_mm: float) -> float | None:
    """How hard it is to hold all at once: 0 easy, 1 as far as the hand goes; ``None``: impossible.

    Parameters
    ----------
    fingers : sequence of Finger
        By string, low to high.
    hand : Hand
    string_length_mm : float
        Sounding length of the open strings.
    """
    if any(b.string - a.string != 1 for a, b in pairwise(fingers)):
        return None
    stopped = [f for f in fingers if f.finger]
    worst = 0.0
    for i, a in enumerate(stopped):
        for b in stopped[i + 1 :]:
            one = _pair(a, b, hand, string_length_mm)
            if one is None:
                return None
            worst = max(worst, one)
    return worst


def _pair(a: Finger, b: Finger, hand: Hand, string_length_mm: float) -> float | None:
    away = place_mm(b.semitones, string_length_mm) - place_mm(a.semitones, string_length_mm)
    if a.finger == b.finger:
        across = abs(away) <= _ACROSS_MM and abs(a.string - b.string) == 1
        return 0.3 if across else None
    if _rank(a.finger) > _rank(b.finger):
        a, b, away = b, a, -away
    reach = hand.reach(a.finger, b.finger, string_length_mm=string_length_mm)
    if reach is None or not reach.least_mm <= away <= reach.most_mm:
        return None
    if THUMB in (a.finger, b.finger) and a.semitones < hand.thumb_from:
        return None
    hard = max(0.0, (away - reach.usual_mm) / (reach.most_mm - reach.usual_mm))
    out = _out_of_frame(a, b, reach)
    widest = _WIDE_FRAME if (a.finger, b.finger) == (1, 4) else 1
    return None if out > widest else hard + _FRAME * out


def _out_of_frame(a: Finger, b: Finger, reach: Reach) -> int:
    """Letters or semitones by which two fingers lie otherwise than a hand closes."""
    if reach.semitones is None:
        return abs(a.position - b.position)
    fewest, most = reach.semitones
    return max(fewest - (b.semitones - a.semitones), (b.semitones - a.semitones) - most, 0)


def _rank(finger: int) -> int:
    """Order of the fingers from the nut; the thumb lies behind the first."""
    return 0 if finger == THUMB else finger
