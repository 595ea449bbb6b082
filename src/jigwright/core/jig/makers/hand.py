"""Exercises for the left hand: frames, open against stopped, shifts, octaves (P8, P11, P12, D8)."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from typing import cast

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import Aim, aims
from jigwright.core.jig.makers.lines import lowest_note, note_at
from jigwright.core.jig.makers.spec import Count, Maker, Setting, SettingChoice
from jigwright.core.jig.model import Jig
from jigwright.core.jig.scales import scale_pitches
from jigwright.core.music.hands import THUMB, Frame
from jigwright.core.music.pitch import Pitch

_FRAMES = SettingChoice(
    id="frame", options=("middle", "low_second", "wide", "lowered"),
    by_kind={"cello": ("closed", "back", "forward"), "bass": ("closed",)},
)  # fmt: skip
_POSITION = Count(
    id="position", low=0, high=7, default=1, by_kind={"cello": (0, 5), "bass": (0, 5)}
)
_ON_STRING = Count(id="on_string", low=1, high=5, default=2)
_LOWER_STRING = Count(id="lower_string", low=1, high=4, default=2)
_SEMITONES_UP = (-1, 0, 2, 3, 5, 7, 9, 10)
"""Of half position, first position … above the first."""
_OCTAVE, _HIGHEST_WITHOUT_THUMB = 12, 5
_MINOR_SIXTH, _FIFTH = 8, 7
_TIMES = 3
_EASY = 4  # signs: with more, chromatic notes would take double ones


def hand_pattern(setting: Setting) -> Jig:
    """Every interval of one hand frame on one string, three times each (P4, P8)."""
    d = setting.draft()
    s = _string(setting, _ON_STRING)
    places = _framed(setting, s)
    if setting.number(_POSITION) == 1:
        places.insert(0, (setting.open_strings[s], 0))
    pairs = [(places[0], other) for other in places[1:]]
    pairs += list(pairwise(places[1:]))
    for low, high in pairs:
        for _ in range(_TIMES):
            for pitch, finger in (low, high):
                d.note(pitch, 1, strings=(s,), fingers=(finger,))
    return setting.finish(d, aims=aims("hand_frame", "pitch", "every_note"), tolerance_cents=15.0)


def frame_across(setting: Setting) -> Jig:
    """Intervals of one hand frame over two strings, three times each, then a check note (P8).

    Sixths to octaves on strings in fifths; on strings in fourths every one there is.
    """
    d = setting.draft()
    s = min(setting.number(_LOWER_STRING), len(setting.open_strings) - 1) - 1
    low, high = _framed(setting, s), _framed(setting, s + 1)
    in_fifths = setting.open_strings[s + 1].midi - setting.open_strings[s].midi >= _FIFTH
    pairs = sorted(
        (
            (lower, upper)
            for lower in low
            for upper in high
            if (_MINOR_SIXTH if in_fifths else 0) <= upper[0].midi - lower[0].midi <= _OCTAVE
            and lower[1] != upper[1]
        ),
        key=lambda p: p[1][0].midi - p[0][0].midi,
    )
    for lower, upper in pairs:
        for _ in range(_TIMES):
            d.note(lower[0], 1, strings=(s,), fingers=(lower[1],))
            d.note(upper[0], 1, strings=(s + 1,), fingers=(upper[1],))
        beneath = [p for p in high if p[0].midi < upper[0].midi]
        check = beneath[-1] if beneath else (setting.open_strings[s + 1], 0)
        for pitch, finger in (check, upper):
            d.note(pitch, 1, strings=(s + 1,), fingers=(finger,))
    return setting.finish(d, aims=aims("hand_frame", "pitch", "every_note"), tolerance_cents=15.0)


def _string(setting: Setting, count: Count) -> int:
    return min(setting.number(count), len(setting.open_strings)) - 1


def _framed(setting: Setting, s: int) -> list[tuple[Pitch, int]]:
    """What the fingers of a frame stop on a string, and which they are."""
    hand, open_string = setting.instrument.hand, setting.open_strings[s]
    steps = hand.frames[cast("Frame", setting.word(_FRAMES))]
    position = setting.number(_POSITION)
    up = _SEMITONES_UP[position]
    if hand.thumb_from and up + steps[-1] > _OCTAVE:
        raise JigError(
            f"on the {setting.instrument_id} the thumb comes up there; this hand goes up to "
            f"position {_HIGHEST_WITHOUT_THUMB}"
        )
    if up + steps[0] <= 0:
        raise JigError("this frame begins at the nut in half position: the first finger is open")
    letters = max(0, position - 1)
    found = []
    for semitones, finger in zip(steps, hand.frame_fingers, strict=True):
        midi = open_string.midi + up + semitones
        if hand.by_letter:
            pitch = _of_letter(open_string.diatonic + letters + finger, midi)
        else:
            pitch = Pitch.from_midi(midi, fifths=max(-_EASY, min(_EASY, setting.key.fifths)))
        found.append((pitch, finger))
    return found


def _of_letter(diatonic: int, midi: int) -> Pitch:
    """One finger, one letter: its name, unless that takes a double sign."""
    step, octave = "CDEFGAB"[diatonic % 7], diatonic // 7
    alter = midi - Pitch(step, 0, octave).midi
    return Pitch(step, alter, octave) if abs(alter) <= 1 else Pitch.from_midi(midi)


def open_stopped(setting: Setting) -> Jig:
    """The same pitch open and stopped: open going up, stopped coming down, then in turn (P11)."""
    d = setting.draft()
    strings = setting.open_strings
    for s in range(len(strings) - 1):
        same = strings[s + 1]
        below, above = (_beside(setting, same, by) for by in (-1, 1))
        d.note(below, 1, strings=(s,))
        d.note(same, 1, strings=(s + 1,), fingers=(0,))
        d.note(above, 1, strings=(s + 1,))
        d.note(above, 1, strings=(s + 1,))
        d.note(same, 1, strings=(s,))
        d.note(below, 1, strings=(s,))
        d.rest(2)
        for _ in range(2):
            d.note(same, 2, strings=(s + 1,), fingers=(0,))
            d.note(same, 2, strings=(s,))
    made = setting.fingered(setting.finish(d, aims=aims("pitch", "every_note")))
    return _with_one_finger(made, {p.midi for p in strings})


def _with_one_finger(jig: Jig, compared: set[int]) -> Jig:
    """The same with one finger for every time a pitch that is compared is stopped."""
    first: dict[int, int | None] = {}
    events = []
    for event in jig.events:
        head = event.heads[0]
        if head.finger and head.pitch.midi in compared:
            head = replace(head, finger=first.setdefault(head.pitch.midi, head.finger))
        events.append(replace(event, heads=(head,)))
    return replace(jig, events=tuple(events))


def _beside(setting: Setting, pitch: Pitch, by: int) -> Pitch:
    """The neighbour of an open string in the key."""
    found = note_at(setting.key, pitch.diatonic + by)
    if (found.midi - pitch.midi) * by > 0:
        return found
    return Pitch.from_midi(pitch.midi + 2 * by, fifths=setting.key.fifths)


def _finger_pairs(fingers: str, first: str) -> tuple[str, ...]:
    every = [f"{a}-{b}" for a in fingers for b in fingers]
    return (first, *(p for p in every if p != first))


_FINGERS = SettingChoice(
    id="fingers", options=_finger_pairs("1234", "1-3"),
    by_kind={"cello": _finger_pairs("1234", "1-4"), "bass": _finger_pairs("124", "1-4")},
)  # fmt: skip
_FROM = Count(
    id="from_position", low=1, high=7, default=1, by_kind={"cello": (1, 5), "bass": (1, 6)}
)
_TO = Count(id="to_position", low=1, high=8, default=3, by_kind={"cello": (1, 6), "bass": (1, 7)})
_GLIDE = SettingChoice(id="glide", options=("slow", "hidden", "none"))


def shifts(setting: Setting) -> Jig:
    """Departure, guide note, arrival, from any position to any other, by any two fingers (P12)."""
    start, end = setting.number(_FROM), setting.number(_TO)
    if start == end:
        raise JigError(f"a shift leads to another position: from {start} to {end}")
    d = setting.draft()
    s = _string(setting, _ON_STRING)
    leaves, lands = (int(f) for f in setting.word(_FINGERS).split("-"))
    departure = _finger_note(setting, s, start, leaves)
    guide = _finger_note(setting, s, end, leaves)
    arrival = _finger_note(setting, s, end, lands)
    if departure.midi == arrival.midi:
        raise JigError(f"finger {leaves} and finger {lands} stop the same note there")
    way = setting.word(_GLIDE)
    for _ in range(4):
        if leaves == lands:
            d.note(departure, 2, strings=(s,), fingers=(leaves,))
            d.note(arrival, 2, slurred=True, strings=(s,), fingers=(lands,), glide=way == "slow")
        else:
            d.note(departure, 1, strings=(s,), fingers=(leaves,))
            d.note(guide, 1, slurred=True, strings=(s,), fingers=(leaves,), glide=way == "slow")
            d.note(arrival, 2, slurred=True, strings=(s,), fingers=(lands,))
    for _ in range(4):
        d.note(departure, 2, strings=(s,), fingers=(leaves,))
        d.note(arrival, 2, slurred=True, strings=(s,), fingers=(lands,), glide=way == "slow")
    made = setting.finish(d, aims=(Aim(kind="shift", way=way), *aims("pitch", "every_note")))
    return setting.playable(made)


def _finger_note(setting: Setting, s: int, position: int, finger: int) -> Pitch:
    """What a finger stops in a position: of the key where the hand reaches it."""
    key, open_string, hand = setting.key, setting.open_strings[s], setting.instrument.hand
    if hand.by_letter:
        return note_at(key, open_string.diatonic + position + finger - 1)
    first = note_at(key, open_string.diatonic + position)
    if finger == 1:
        return first
    reach = hand.reaches[1, finger].semitones
    assert reach is not None  # hands that go by semitones say how they close
    near = [first.midi + k for k in range(reach[0], reach[1] + 1)]
    for midi in near:
        own = [c for c in key.degrees() if c.semitone == midi % 12]
        if own:
            return Pitch.in_class(own[0], midi)
    return Pitch.from_midi(near[0], fifths=key.fifths)


_OCTAVE_FINGERS = SettingChoice(
    id="octave_fingers", options=("first_fourth", "fingered"), by_kind={"cello": ("thumb",)}
)
_HANDS = {"first_fourth": ((1, 4),), "fingered": ((1, 3), (2, 4)), "thumb": ((THUMB, 3),)}


def octave_hand(setting: Setting) -> Jig:
    """A scale in octaves with one hand: first and fourth, fingered, or the thumb (D8)."""
    if setting.instrument_id not in OCTAVES.kinds:
        raise JigError(
            f"on the {setting.instrument_id} no hand reaches an octave on neighbouring strings"
        )
    hands = _HANDS[setting.word(_OCTAVE_FINGERS)]
    strings = setting.open_strings
    troubles: list[str] = []
    lowest = [lowest_note(setting, 1, on_string=s) for s in range(len(strings) - 1)]
    ways = [
        (s, Pitch(p.step, p.alter, p.octave + up)) for s, p in enumerate(lowest) for up in (0, 1)
    ]
    # nearest the nut first; where two are as near, on the higher strings
    for s, start in sorted(ways, key=lambda w: (w[1].midi - strings[w[0]].midi, -w[0])):
        d = setting.draft()
        for i, pitch in enumerate(scale_pitches(setting.key, start, 1)):
            above = Pitch(pitch.step, pitch.alter, pitch.octave + 1)
            # the same hand for the same note, up and down
            fingers = hands[min(i, 14 - i) % len(hands)]
            d.note((pitch, above), 2, strings=(s, s + 1), fingers=fingers)
        made = setting.finish(
            d, aims=aims("interval", "both_sound", "every_note"),
            reference=f"just:{setting.key.tonic}", tolerance_cents=8.0,
        )  # fmt: skip
        try:
            return setting.playable(made)
        except JigError as error:
            troubles.append(str(error))
    raise JigError(troubles[0])


MAKERS: tuple[Maker, ...] = (
    Maker(id="hand_pattern", family="pitch", fields=(_FRAMES, _POSITION, _ON_STRING),
          made_by=hand_pattern),
    Maker(id="frame_across", family="pitch", fields=(_FRAMES, _POSITION, _LOWER_STRING),
          made_by=frame_across),
    Maker(id="open_stopped", family="pitch", fields=(), made_by=open_stopped),
    Maker(id="shifts", family="pitch", fields=(_FROM, _TO, _FINGERS, _GLIDE, _ON_STRING),
          made_by=shifts),
)  # fmt: skip
OCTAVES: Maker = Maker(
    id="octave_hand", family="two_strings", fields=(_OCTAVE_FINGERS,), made_by=octave_hand,
    kinds=("violin", "viola", "cello"),
)  # fmt: skip
