"""What of an exercise no hand can play as it is fingered, and why."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from jigwright.core.jig.model import Event, Jig, Notehead
from jigwright.core.music.hands import THUMB, Hand
from jigwright.core.music.instruments import Instrument, instrument
from jigwright.core.music.pitch import Pitch
from jigwright.core.music.spans import Finger, place_mm, strain

TroubleKind = Literal[
    "no_finger", "not_there", "out_of_reach", "not_neighbours", "too_wide", "harmonic_too_wide",
    "vibrato_on_open", "fourth_too_high", "first_to_fourth",
]  # fmt: skip
TOUCHED_SEMITONES = {2: 12, 3: 7, 4: 5, 5: 4, 6: 3}
"""Above the stopped note the place that lets its partial speak."""
_OCTAVE = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class HandTrouble:
    """One place that a hand cannot play.

    Parameters
    ----------
    i_event : int
    kind : TroubleKind
        ``no_finger``: none is written; ``not_there``: the string does not sound that note;
        ``out_of_reach``: beyond what exercises ask for; ``not_neighbours``: two strings with one
        between them; ``too_wide``: the fingers do not lie at once;
        ``harmonic_too_wide``: nor do those of an artificial harmonic; ``vibrato_on_open``: no
        finger is there to vibrate; ``fourth_too_high``: past the octave the thumb is up and the
        fourth finger too short; ``first_to_fourth``: these fingers for a step are a shift away
        from the note.
    """

    i_event: int
    kind: TroubleKind


def hand_troubles(
    jig: Jig, strings: Sequence[Pitch] | None = None, *, string_length_mm: float | None = None
) -> tuple[HandTrouble, ...]:
    """Say what cannot be played, in order.

    Parameters
    ----------
    jig : Jig
    strings : sequence of Pitch, optional
        Open strings if not the usual ones.
    string_length_mm : float, optional
        Sounding length of the open strings if not the usual one.
    """
    inst = instrument(jig.instrument_id)
    open_strings = tuple(strings or inst.strings)
    length_mm = string_length_mm or inst.string_length_mm
    found: list[HandTrouble] = []
    before: Event | None = None
    for i, event in enumerate(jig.events):
        kinds = list(dict.fromkeys(_of(event, open_strings, inst, length_mm)))
        if before is not None and _is_away(before, event, inst.hand):
            kinds.append("first_to_fourth")
        found += [HandTrouble(i_event=i, kind=kind) for kind in kinds]
        before = event
    return tuple(found)


def _of(
    event: Event, strings: tuple[Pitch, ...], inst: Instrument, length_mm: float
) -> Iterator[TroubleKind]:
    for head in event.heads:
        yield from _of_head(head, event, strings, inst, length_mm)
    plain = [h for h in event.heads if h.partial == 1 and h.stopped is None]
    if len(plain) < len(event.heads) or len(plain) < 2:
        return
    fingers = [
        Finger.on(strings[h.string], h.pitch, string=h.string, finger=h.finger)
        for h in sorted(plain, key=lambda h: -1 if h.string is None else h.string)
        if h.string is not None and h.finger is not None and h.string < len(strings)
    ]
    if len(fingers) < len(plain):
        return  # said of the head
    if any(b.string - a.string != 1 for a, b in zip(fingers, fingers[1:], strict=False)):
        yield "not_neighbours"
    elif strain(fingers, inst.hand, string_length_mm=length_mm) is None:
        yield "too_wide"


def _of_head(
    head: Notehead, event: Event, strings: tuple[Pitch, ...], inst: Instrument, length_mm: float
) -> Iterator[TroubleKind]:
    if head.stopped is not None:
        if not can_touch(head.stopped, head.partial, strings, inst.hand, length_mm, head.string):
            yield "harmonic_too_wide"
        return
    if head.partial > 1:
        return  # one finger touches
    if head.string is None or head.finger is None:
        yield "no_finger"
        return
    above = head.pitch.midi - strings[head.string].midi if head.string < len(strings) else -1
    if above < 0 or (above == 0) != (head.finger == 0):
        yield "not_there"
    elif above > inst.reach_semitones:
        yield "out_of_reach"
    elif head.finger == 4 and above > _OCTAVE and inst.hand.thumb_from:
        yield "fourth_too_high"
    if head.finger == 0 and event.vibrato:
        yield "vibrato_on_open"


def can_touch(
    stopped: Pitch,
    partial: int,
    strings: Sequence[Pitch],
    hand: Hand,
    length_mm: float,
    string: int | None = None,
) -> bool:
    """Whether a hand reaches from a stopped note to where its partial is touched.

    Parameters
    ----------
    stopped : Pitch
    partial : int
    strings : sequence of Pitch
    hand : Hand
    length_mm : float
        Sounding length of the open strings.
    string : int, optional
        The string it is to be on; otherwise any.
    """
    wanted = TOUCHED_SEMITONES.get(partial)
    if wanted is None:
        return False
    for i, open_string in enumerate(strings):
        above = stopped.midi - open_string.midi
        if above <= 0 or string not in (None, i):
            continue
        away = place_mm(above + wanted, length_mm) - place_mm(above, length_mm)
        pairs = [(1, 4), (1, 3)]
        if hand.thumb_from and above >= hand.thumb_from:
            pairs.append((THUMB, 3))
        reaches = [hand.reach(a, b, string_length_mm=length_mm) for a, b in pairs]
        if any(r is not None and away <= r.most_mm for r in reaches):
            return True
    return False


def _is_away(before: Event, event: Event, hand: Hand) -> bool:
    """Whether first and fourth finger follow each other for a step, the fourth on the higher."""
    if hand.by_letter or len(before.heads) > 1 or len(event.heads) > 1:
        return False
    a, b = sorted((before.heads[0], event.heads[0]), key=lambda h: h.pitch.midi)
    reach = hand.reaches.get((1, 4))
    if a.string is None or a.string != b.string or reach is None or reach.semitones is None:
        return False
    return (a.finger, b.finger) == (1, 4) and 0 < b.pitch.midi - a.pitch.midi < reach.semitones[0]
