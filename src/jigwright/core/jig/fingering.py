"""Fingerings proposed by a small optimiser; any of it can be overridden.

Every note offers candidates: string, finger and the place of the hand (semitones of the first
finger above the nut). A dynamic programme takes the cheapest way through them. Prices: a shift by
its size, less when an open string covers it; changing and skipping strings; stretches; high
positions; fourth fingers only where the way up or down asks for them (P11: open strings up, fourth
fingers down). Cello and bass hands close by semitones with an extension (cello) and no third finger
low down (bass); above the octave node the thumb (5) comes up.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise, product
from typing import Literal

from jigwright.core.jig.model import Event, Jig
from jigwright.core.music.hands import THUMB, Hand
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.core.music.spans import Finger, strain


@dataclass(frozen=True, slots=True, kw_only=True)
class Placing:
    """Where one note is taken.

    Parameters
    ----------
    string : int
        0 = lowest.
    finger : int
        0 open, 1 … 4, 5 thumb.
    hand : float
        Semitones of the first finger above the nut; the hand of the neighbours for an open string.
    price : float
        Of taking this note so, shifts aside.
    """

    string: int
    finger: int
    hand: float
    price: float


def placings(
    pitch: Pitch, strings: Sequence[Pitch], instrument_id: str, *, with_others: bool = False
) -> tuple[Placing, ...]:
    """All reasonable ways to take one pitch.

    Parameters
    ----------
    pitch : Pitch
    strings : sequence of Pitch
    instrument_id : str
    with_others : bool
        Of a double stop: the thumb lies on the string earlier then.
    """
    inst = instrument(instrument_id)
    found: list[Placing] = []
    for s, open_string in enumerate(strings):
        above = pitch.midi - open_string.midi
        if above < 0 or above > inst.reach_semitones:
            continue
        if above == 0:
            found.append(Placing(string=s, finger=0, hand=float("nan"), price=0.0))
            continue
        if inst.hand.by_letter:
            found += _by_letters(s, above, pitch.diatonic - open_string.diatonic, inst.hand)
        else:
            found += _by_semitones(s, above, inst.hand, with_others=with_others)
    return tuple(found)


def _by_letters(string: int, above: int, letters: int, hand: Hand) -> list[Placing]:
    """Violin and viola: one finger to a letter."""
    found = []
    for one in hand.stoppings:
        position = letters - one.finger + 1  # letters of the first finger above the nut
        if position < 1:
            if letters == 0 and one.finger == 1:  # a raised open string: half position
                position = 1
            else:
                continue
        # to a raised open string the first finger reaches back: the hand stays
        first = above - one.span_semitones if letters else _REACHED_BACK
        price = 0.05 * max(0.0, first - 2.0) + one.price
        price += 0.25 * max(0, position - 1) ** 0.5
        found.append(Placing(string=string, finger=one.finger, hand=first, price=price))
    return found


def _by_semitones(string: int, above: int, hand: Hand, *, with_others: bool) -> list[Placing]:
    """Cello and bass: the hand closes by semitones; the thumb from the octave up."""
    found = []
    ways = hand.thumb_stoppings if above >= _OCTAVE - 1 else hand.stoppings
    if with_others and hand.thumb_from <= above < _OCTAVE - 1:
        early = [replace(t, price=t.price + 0.5) for t in hand.thumb_stoppings]
        ways = (*ways, *(t for t in early if t.finger == THUMB or above > hand.thumb_from))
    for one in ways:
        first = above - one.span_semitones
        if first < 1:
            continue
        price = one.price + 0.04 * max(0.0, first - 2.0)
        found.append(Placing(string=string, finger=one.finger, hand=first, price=price))
    return found


Taste = Literal["usual", "low", "few_open", "few_crossings"]
TASTES: tuple[Taste, ...] = ("usual", "low", "few_open", "few_crossings")
_OCTAVE = 12
_SAME_FINGER, _SLID = 0.9, 0.25  # for another note; a semitone: as chromatic scales are fingered
_REACHED_BACK = 1.6
_FIRST_HAND = 2.0  # semitones of the first finger above the nut
_STRAIN = 1.5  # price of a hand as wide as it goes
_OPEN_AND_HIGH = 0.8  # an open string beside a hand that has left the nut
_AGAINST, _LEANS = 2.5, 0.6
_EXTRA_OPEN = 1.5
_EXTRA_HIGH = 0.25
_EXTRA_CROSSING = 0.8


def propose_fingering(
    jig: Jig,
    strings: Sequence[Pitch] | None = None,
    *,
    keep_given: bool = True,
    taste: Taste = "usual",
    string_length_mm: float | None = None,
    as_written: bool = False,
    first_position: bool = False,
) -> Jig:
    """Fill in strings and fingers.

    Parameters
    ----------
    jig : Jig
    strings : sequence of Pitch, optional
        Open strings if not the usual ones.
    keep_given : bool
        Leave strings and fingers that are already written.
    taste : Taste
        What to avoid: nothing in particular, high positions, open strings, or crossings.
    string_length_mm : float, optional
        Sounding length of the open strings if not the usual one.
    as_written : bool
        They belong to the exercise; otherwise they are marked as proposals.
    first_position : bool
        The hand stays where a beginner has it.

    Returns
    -------
    Jig
        The same revision with fingers; notes that cannot be taken keep none.
    """
    open_strings = tuple(strings or instrument(jig.instrument_id).strings)
    inst = instrument(jig.instrument_id)
    length_mm = string_length_mm or inst.string_length_mm
    ways = [
        _ways(
            e,
            open_strings,
            jig.instrument_id,
            keep_given=keep_given,
            length_mm=length_mm,
            first_position=first_position,
        )
        for e in jig.events
    ]
    chosen = _cheapest(jig.events, ways, loose=inst.hand.by_letter, taste=taste)
    events = tuple(
        e if way is None else _fingered(e, way, proposed=not as_written)
        for e, way in zip(jig.events, chosen, strict=True)
    )
    return replace(jig, events=events)


def _ways(
    event: Event,
    strings: tuple[Pitch, ...],
    instrument_id: str,
    *,
    keep_given: bool,
    length_mm: float,
    first_position: bool,
) -> list[tuple[Placing, ...]]:
    """Ways to take all noteheads of an event together."""
    hand = instrument(instrument_id).hand
    if any(h.partial > 1 for h in event.heads):
        return []
    single = []
    for head in event.heads:
        options = placings(head.pitch, strings, instrument_id, with_others=len(event.heads) > 1)
        if event.vibrato is not None and (stopped := tuple(p for p in options if p.finger)):
            options = stopped  # an open string has no finger to vibrate
        if first_position:
            options = tuple(p for p in options if _in_first_position(p, head.pitch, strings, hand))
        if keep_given and head.string is not None:
            options = tuple(p for p in options if p.string == head.string)
        if keep_given and head.finger is not None:
            options = tuple(p for p in options if p.finger == head.finger)
        single.append(options)
    if len(single) == 1:
        return [(p,) for p in single[0]]
    pitches = [h.pitch for h in event.heads]
    return taken_together(pitches, single, strings, hand, length_mm=length_mm)


def _in_first_position(
    placing: Placing, pitch: Pitch, strings: Sequence[Pitch], hand: Hand
) -> bool:
    """Whether the first finger lies on the first letter, or a semitone or two above the nut."""
    if not placing.finger:
        return True
    if not hand.by_letter:
        return placing.finger != THUMB and placing.hand <= _FIRST_HAND
    letters = pitch.diatonic - strings[placing.string].diatonic
    return letters == placing.finger


def taken_together(
    pitches: Sequence[Pitch],
    single: Sequence[Sequence[Placing]],
    strings: Sequence[Pitch],
    hand: Hand,
    *,
    length_mm: float,
) -> list[tuple[Placing, ...]]:
    """Ways to hold several notes at once, what they strain the hand in the price of the first.

    Parameters
    ----------
    pitches : sequence of Pitch
        Low to high.
    single : sequence of sequence of Placing
        Ways to take each of them.
    strings : sequence of Pitch
    hand : Hand
    length_mm : float
        Sounding length of the open strings.
    """
    found: dict[tuple[tuple[int, int], ...], tuple[Placing, ...]] = {}
    options = [
        [(p, Finger.on(strings[p.string], pitch, string=p.string, finger=p.finger)) for p in ways]
        for ways, pitch in zip(single, pitches, strict=True)
    ]
    for pairs in product(*options):
        if any(b[0].string - a[0].string != 1 for a, b in pairwise(pairs)):
            continue
        way, fingers = [p for p, _ in pairs], [f for _, f in pairs]
        hard = strain(fingers, hand, string_length_mm=length_mm)
        if hard is None:
            continue
        far = hand.by_letter and any(not f.finger for f in fingers)
        far = far and any(f.finger and f.position > 1 for f in fingers)
        first = replace(way[0], price=way[0].price + _STRAIN * hard + _OPEN_AND_HIGH * far)
        key = tuple((p.string, p.finger) for p in way)
        priced = (first, *way[1:])
        if key not in found or _price(priced) < _price(found[key]):
            found[key] = priced
    return list(found.values())


def _price(way: Sequence[Placing]) -> float:
    return sum(p.price for p in way)


def _hand(way: Sequence[Placing]) -> float | None:
    """Where the hand lies: by the stopping finger that is nearest the nut."""
    stopped = [p for p in way if p.finger]
    if not stopped:
        return None
    return min(stopped, key=lambda p: 0 if p.finger == THUMB else p.finger).hand


_Here = tuple[int, int, int, int]
"""String, finger, key number and letter of a note that is taken."""


@dataclass(frozen=True, slots=True, kw_only=True)
class _State:
    price: float
    hand: float
    string: float
    back: int
    way: int
    last: tuple[_Here, ...] = ()


def _cheapest(
    events: Sequence[Event], ways: list[list[tuple[Placing, ...]]], *, loose: bool, taste: Taste
) -> list[tuple[Placing, ...] | None]:
    rows: list[list[_State]] = [[_State(price=0.0, hand=2.0, string=-1.0, back=-1, way=-1)]]
    rising = _rising(events)
    for i, options in enumerate(ways):
        before = rows[-1]
        if not options:
            rows.append([replace(s, back=k, way=-1) for k, s in enumerate(before)])
            continue
        states = []
        cheap_first = sorted(range(len(before)), key=lambda k: before[k].price)
        for w, way in enumerate(options):
            own = _price(way) + _open_price(way, up=rising[i])
            own += _dislike(way, taste)
            here = tuple(
                (p.string, p.finger, h.pitch.midi, h.pitch.diatonic)
                for p, h in zip(way, events[i].heads, strict=True)
            )
            hand = _hand(way)
            string = sum(p.string for p in way) / len(way)
            best, via = float("inf"), 0
            for k in cheap_first:
                s = before[k]
                if s.price + own > best:
                    break  # nothing makes a way cheaper than where it came from
                price = s.price + own
                if hand is not None:
                    price += _shift_price(hand - s.hand, way[-1].finger, loose=loose)
                price += 0.0 if loose else _AGAINST * _goes_against(here, s, hand)
                price += sum(
                    _SLID if loose and _slides(a, b) else _SAME_FINGER
                    for a in here
                    for b in s.last
                    if a[:2] == b[:2] and a[1] and a != b
                )
                if s.string >= 0:
                    price += 0.12 * max(0.0, abs(string - s.string) - 0.5)
                    if taste == "few_crossings":
                        price += _EXTRA_CROSSING * abs(string - s.string)
                if price < best or (price == best and k < via):
                    best, via = price, k
            states.append(
                _State(
                    price=best, hand=before[via].hand if hand is None else hand, string=string,
                    back=via, way=w, last=here,
                )
            )  # fmt: skip
        rows.append(states)
    at = min(range(len(rows[-1])), key=lambda k: rows[-1][k].price)
    chosen: list[tuple[Placing, ...] | None] = []
    for i in range(len(ways) - 1, -1, -1):
        state = rows[i + 1][at]
        chosen.append(ways[i][state.way] if state.way >= 0 else None)
        at = state.back
    return chosen[::-1]


def _slides(here: _Here, before: _Here) -> bool:
    """Whether one finger takes both notes of a semitone, as in chromatic scales.

    The same letter altered, or the first finger beside the nut.
    """
    return abs(here[2] - before[2]) == 1 and (here[3] == before[3] or here[1] == 1)


def _goes_against(here: Sequence[_Here], before: _State, hand: float | None) -> bool:
    """Whether the hand goes down a string for a higher note of it, or up for a lower one.

    Fingers 1 and 4 for a whole step on a cello do: they look like the next finger, and are a shift
    away from the note.
    """
    if hand is None or abs(hand - before.hand) <= _LEANS:
        return False
    way = hand - before.hand
    return any(
        a[0] == b[0] and a[1] and b[1] and (a[2] - b[2]) * way < 0
        for a in here
        for b in before.last
    )


def _dislike(way: Sequence[Placing], taste: Taste) -> float:
    if taste == "few_open":
        return _EXTRA_OPEN * sum(p.finger == 0 for p in way)
    if taste == "low":
        return _EXTRA_HIGH * sum(max(0.0, p.hand - 3.0) for p in way if p.finger)
    return 0.0


def _shift_price(by: float, finger: int, *, loose: bool) -> float:
    """Price of moving the hand; a violin hand leans a semitone without a shift."""
    semitones = abs(by)
    if semitones <= 0.2 or (loose and semitones <= 1.3):
        return 0.05 * semitones
    landing = 0.2 * max(0, min(finger, 4) - 1) if by > 0 else 0.0
    return 0.7 + 0.12 * semitones + landing


def _open_price(way: Sequence[Placing], *, up: bool) -> float:
    """Open strings on the way up, fourth fingers on the way down."""
    opens = sum(p.finger == 0 for p in way)
    fourths = sum(p.finger == 4 for p in way)
    return (0.0 if up else 0.75 * opens) + (0.3 * fourths if up else 0.0)


def _rising(events: Sequence[Event]) -> list[bool]:
    """For each event whether it is not on the way down.

    On the way down is what was come down to and is gone down from, with repeats of it; a lower
    note between two higher ones turns round, and its open string costs no crossing there and back.
    """
    tops = [e.heads[-1].pitch.midi for e in events]
    came = _nearest_other(tops)
    goes = _nearest_other(tops[::-1])[::-1]
    return [
        not (goes_to is not None and goes_to < top and (came_from is None or came_from > top))
        for top, came_from, goes_to in zip(tops, came, goes, strict=True)
    ]


def _nearest_other(tops: Sequence[int]) -> list[int | None]:
    """For each note the last one before it that is another."""
    found: list[int | None] = []
    for i, top in enumerate(tops):
        if i and tops[i - 1] != top:
            found.append(tops[i - 1])
        else:
            found.append(found[i - 1] if i else None)
    return found


def _fingered(event: Event, way: Sequence[Placing], *, proposed: bool) -> Event:
    heads = tuple(
        h
        if (h.string, h.finger) == (p.string, p.finger)
        else replace(h, string=p.string, finger=p.finger, proposed=proposed)
        for h, p in zip(event.heads, way, strict=True)
    )
    return replace(event, heads=heads)
