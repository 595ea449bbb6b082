"""Every way to sound a wanted pitch as a harmonic, natural or artificial, and how easily it folds.

A finger touches over its own width, so a partial is in danger where a node of a lower partial lies
within it: the string then sounds that one ("folds"). The nodes of partial ``n`` lie at ``k/n`` of
the string; how far the nearest node ``j/m`` of a lower partial lies, in millimetres on this string,
says how exact the finger has to be. The bow must not lie on a node either, so higher partials want
it nearer the bridge; that is left to the player.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import gcd, log2
from typing import Literal

from jigwright.core.jig.hand_check import can_touch
from jigwright.core.music.harmonics import ARTIFICIAL_PARTIALS, harmonic, touched_pitch
from jigwright.core.music.instruments import Instrument
from jigwright.core.music.pitch import A4_MIDI, Pitch
from jigwright.core.music.spans import place_mm

HIGHEST_SEARCHED = 10
SAME_CENTS = 42.0
"""Partial 7 lies 31 cents under the note it is called by, a C string some six under an equal C."""
EASY_MM, CLOSE_MM = 20.0, 10.0
"""A finger's pad is some ten millimetres wide: nearer than that it may take either node."""

Kind = Literal["natural", "artificial"]
Folding = Literal["hardly", "sometimes", "easily"]


@dataclass(frozen=True, slots=True, kw_only=True)
class HarmonicWay:
    """One place that sounds the wanted pitch.

    Parameters
    ----------
    kind : Kind
    i_string : int
        0 = lowest.
    string : Pitch
    partial : int
        Of the open string, or of what is stopped.
    stopped : Pitch or None
        Of an artificial one.
    stopped_mm : float
        From the nut; 0 for a natural one.
    touched : Pitch
        The note that would sound if the string were stopped where it is touched.
    touched_mm : float
        From the nut.
    f_hz, cents : float
        What sounds, and how far that lies from the wanted pitch in equal temperament.
    margin_mm : float
        To the nearest node of a lower partial; infinite where there is none.
    folds_to : int
        That partial; 1: the plain note.
    """

    kind: Kind
    i_string: int
    string: Pitch
    partial: int
    stopped: Pitch | None
    stopped_mm: float
    touched: Pitch
    touched_mm: float
    f_hz: float
    cents: float
    margin_mm: float
    folds_to: int

    @property
    def folding(self) -> Folding:
        """How easily it folds."""
        if self.margin_mm >= EASY_MM:
            return "hardly"
        return "sometimes" if self.margin_mm >= CLOSE_MM else "easily"


def ways_to_sound(
    wanted: Pitch,
    open_hz: Mapping[Pitch, float],
    inst: Instrument,
    *,
    string_length_mm: float,
    a4_hz: float,
) -> tuple[HarmonicWay, ...]:
    """All places on all strings, the lowest partial and the surest place first.

    Parameters
    ----------
    wanted : Pitch
        Sounding.
    open_hz : mapping of Pitch to float
        Open strings as they are, low to high.
    inst : Instrument
        Whose hand stops and touches.
    string_length_mm, a4_hz : float
    """
    found: list[HarmonicWay] = []
    for i, (string, hz) in enumerate(open_hz.items()):
        found += _natural(wanted, i, string, hz, string_length_mm, a4_hz)
        found += _artificial(wanted, i, string, hz, tuple(open_hz), inst, string_length_mm, a4_hz)
    return tuple(
        sorted(found, key=lambda w: (w.kind == "artificial", w.partial, -w.margin_mm, -w.i_string))
    )


def _natural(
    wanted: Pitch, i: int, string: Pitch, hz: float, length_mm: float, a4_hz: float
) -> list[HarmonicWay]:
    found = []
    for n in range(2, HIGHEST_SEARCHED + 1):
        cents = _from_equal(n * hz, wanted, a4_hz)
        if abs(cents) > SAME_CENTS:
            continue
        for place in harmonic(string, hz, n, string_length_mm=length_mm, a4_hz=a4_hz).places:
            margin, folds_to = nearest_node(place.numerator, n, length_mm)
            found.append(
                HarmonicWay(
                    kind="natural", i_string=i, string=string, partial=n, stopped=None,
                    stopped_mm=0.0, touched=place.touched, touched_mm=place.from_nut_mm,
                    f_hz=n * hz, cents=cents, margin_mm=margin, folds_to=folds_to,
                )
            )  # fmt: skip
    return found


def _artificial(
    wanted: Pitch, i: int, string: Pitch, hz: float, strings: tuple[Pitch, ...],
    inst: Instrument, length_mm: float, a4_hz: float,
) -> list[HarmonicWay]:  # fmt: skip
    """A stopped note whose touched partial is the wanted one; stopped as the wanted is spelled."""
    found = []
    for n in ARTIFICIAL_PARTIALS:
        semitones = 12.0 * log2(_equal_hz(wanted, a4_hz) / n / hz)
        if semitones < 0.5 or semitones > inst.reach_semitones:
            continue
        stopped = _spelled_below(wanted, string, round(semitones))
        if not can_touch(stopped, n, strings, inst.hand, length_mm, i):
            continue
        stopped_mm = place_mm(semitones, length_mm)
        rest = length_mm - stopped_mm
        margin, folds_to = nearest_node(1, n, rest)
        found.append(
            HarmonicWay(
                kind="artificial", i_string=i, string=string, partial=n, stopped=stopped,
                stopped_mm=stopped_mm, touched=touched_pitch(stopped, n),
                touched_mm=stopped_mm + rest / n, f_hz=_equal_hz(wanted, a4_hz), cents=0.0,
                margin_mm=margin, folds_to=folds_to,
            )
        )  # fmt: skip
    return found


_ONE_FINGER_MM = 9.0  # a pad lies on two strings as wide as it is


def pairs_to_sound(
    low: Pitch,
    high: Pitch,
    open_hz: Mapping[Pitch, float],
    inst: Instrument,
    *,
    string_length_mm: float,
    a4_hz: float,
) -> tuple[tuple[HarmonicWay, HarmonicWay], ...]:
    """Two natural harmonics at once, on neighbouring strings and within one hand.

    Touched by one finger across both strings where they lie side by side, else by two fingers as
    far apart as the hand reaches. Those that one finger touches come first, then low partials.

    Parameters
    ----------
    low, high : Pitch
        Sounding.
    open_hz : mapping of Pitch to float
        Open strings as they are, low to high.
    inst : Instrument
        Whose hand touches.
    string_length_mm, a4_hz : float

    Returns
    -------
    tuple of (HarmonicWay, HarmonicWay)
        The way of ``low`` and that of ``high``; either may lie on the lower string.
    """
    each = [
        [
            way
            for i, (string, hz) in enumerate(open_hz.items())
            for way in _natural(wanted, i, string, hz, string_length_mm, a4_hz)
        ]
        for wanted in (low, high)
    ]
    hand = inst.hand
    reaches = (hand.reach(*fingers, string_length_mm=string_length_mm) for fingers in hand.reaches)
    most_mm = max(r.most_mm for r in reaches if r is not None)
    pairs = [
        (a, b)
        for a in each[0]
        for b in each[1]
        if abs(a.i_string - b.i_string) == 1 and apart_mm((a, b)) <= most_mm
    ]
    return tuple(
        sorted(
            pairs,
            key=lambda pair: (
                not by_one_finger(pair), pair[0].partial + pair[1].partial,
                -min(w.margin_mm for w in pair), apart_mm(pair), pair[0].i_string,
            ),
        )
    )  # fmt: skip


def apart_mm(pair: tuple[HarmonicWay, HarmonicWay]) -> float:
    """How far apart along the strings two places are touched."""
    return abs(pair[0].touched_mm - pair[1].touched_mm)


def by_one_finger(pair: tuple[HarmonicWay, HarmonicWay]) -> bool:
    """Whether one finger across both strings touches both."""
    return apart_mm(pair) <= _ONE_FINGER_MM


def nearest_node(k: int, n: int, length_mm: float) -> tuple[float, int]:
    """Distance from a node ``k/n`` to the nearest node of a lower partial, and which that is.

    The ends of the string count as nodes of partial 1.
    """
    at = k / n
    best, whose = min(at, 1.0 - at), 1
    for m in range(2, n):
        for j in range(1, m):
            if gcd(j, m) == 1 and abs(j / m - at) < best:
                best, whose = abs(j / m - at), m
    return best * length_mm, whose


def _spelled_below(wanted: Pitch, string: Pitch, semitones: int) -> Pitch:
    """A stopped note in the wanted one's manner of spelling."""
    return Pitch.from_midi(string.midi + semitones, fifths=_manner(wanted))


def _manner(wanted: Pitch) -> int:
    """A signature in which notes are named as the wanted one is, without E♯, B♯, C♭ or F♭."""
    return -2 if wanted.alter < 0 else 2 if wanted.alter > 0 else 0


def with_spelling(ways: tuple[HarmonicWay, ...], wanted: Pitch) -> tuple[HarmonicWay, ...]:
    """The same with touched notes named in the manner of the wanted one."""
    fifths = _manner(wanted)
    return tuple(replace(w, touched=Pitch.from_midi(w.touched.midi, fifths=fifths)) for w in ways)


def _equal_hz(pitch: Pitch, a4_hz: float) -> float:
    return float(a4_hz * 2.0 ** ((pitch.midi - A4_MIDI) / 12.0))


def _from_equal(f_hz: float, pitch: Pitch, a4_hz: float) -> float:
    return float(1200.0 * log2(f_hz / _equal_hz(pitch, a4_hz)))
