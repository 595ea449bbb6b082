"""Exercises for the bow (B1 … B12): mostly open strings, so that nothing else is in the way."""

from __future__ import annotations

from fractions import Fraction

from jigwright.core.jig.aims import OWN_BEST, Aim, aims
from jigwright.core.jig.makers.lines import NOTES, lowest_note, tune_pitches, tune_string
from jigwright.core.jig.makers.spec import Count, Maker, Setting, SettingChoice, ladder, tonic_at
from jigwright.core.jig.model import Jig
from jigwright.core.music.pitch import Pitch

FOUNDATION_STAGES = (
    "start_middle", "start_nearer", "start_hand_away", "start_frog", "both_ways", "weight",
)  # fmt: skip
_STRING = SettingChoice(id="string", options=("each", "lowest", "second", "third", "highest"))
_REPEATS = Count(id="repeats", low=1, high=8, default=2)


def _strings(setting: Setting) -> list[tuple[int, Pitch]]:
    """Chosen open strings, high to low when each is taken."""
    every = list(enumerate(setting.open_strings))
    word = setting.word(_STRING)
    if word == "each":
        return every[::-1]
    index = {"lowest": 0, "second": 1, "third": 2, "highest": len(every) - 1}[word]
    return [every[min(index, len(every) - 1)]]


_BEATS = Count(id="beats_in_bow", low=1, high=16, default=4)
_PLACE = SettingChoice(id="start_place", options=("frog", "balance", "middle", "tip"))
_STARTS = {"frog": 0.0, "balance": 0.25, "middle": 0.5, "tip": 1.0}
"""Of the usable hair."""


def long_bows(setting: Setting) -> Jig:
    """Long bows on open strings from a place of the bow, down and up as mirror images (B1)."""
    d = setting.draft()
    beats = setting.number(_BEATS)
    place = setting.word(_PLACE)
    for s, pitch in _strings(setting):
        d.next_bow("up" if place == "tip" else "down")
        for i in range(2 * setting.number(_REPEATS)):
            d.note(
                pitch, beats, strings=(s,), fingers=(0,), shape="level",
                bow_place=_STARTS[place] if i == 0 and place != "frog" else None,
            )  # fmt: skip
    return setting.finish(d, aims=aims("even_bow", "left_over", "mirror"))


_START = SettingChoice(id="start", options=FOUNDATION_STAGES)
_START_PLACES = {
    "start_middle": 0.5,
    "start_nearer": 0.25,
    "start_hand_away": 0.13,
    "start_frog": 0.0,
}  # of the usable hair; a hand is some 8 cm wide
_SCRATCH_MAY_BE = ("start_middle", "start_nearer", "start_hand_away", "start_frog")


def foundation_bow(setting: Setting) -> Jig:
    """The bow's own weight on an open string, from start places ever nearer the frog (B1).

    The first four stages draw down bows from one start place and lift back to it; a little scratch
    near the frog is allowed there. Then both ways as mirror images, then with weight.
    """
    d = setting.draft()
    stage = setting.word(_START)
    beats = 4 if stage == "start_middle" else 6
    for s, pitch in _strings(setting):
        for _ in range(2 * setting.number(_REPEATS)):
            if stage in _SCRATCH_MAY_BE:
                d.note(
                    pitch, beats, bow="down", strings=(s,), fingers=(0,), shape="level",
                    bow_place=_START_PLACES[stage],
                )  # fmt: skip
                d.rest(2)
            else:
                loud = "f" if stage == "weight" else None
                d.note(pitch, beats, strings=(s,), fingers=(0,), shape="level", dynamic=loud)
    if stage in _SCRATCH_MAY_BE:
        return setting.finish(d, aims=(Aim(kind="even_bow", way="scratch_allowed"),))
    return setting.finish(d, aims=aims("even_bow", "mirror", "left_over"))


_SERIES = SettingChoice(id="series", options=("8-4-3-2-1", "4-3-2"))


def speed_series(setting: Setting) -> Jig:
    """The same pulse, whole bows of 8, 4, 3, 2 and 1 beats, or of 4, 3 and 2 (B2)."""
    d = setting.draft()
    for s, pitch in _strings(setting):
        for beats in map(int, setting.word(_SERIES).split("-")):
            for _ in range(2):
                d.note(pitch, beats, strings=(s,), fingers=(0,))
    return setting.finish(d, aims=aims("left_over", "even_bow"))


_SECONDS = Count(id="seconds", low=5, high=40, default=15)


def slowest_bow(setting: Setting) -> Jig:
    """One stroke as long as it stays clear, down and up (B3)."""
    d = setting.draft()
    beats = Fraction(round(setting.number(_SECONDS) * setting.tempo_bpm / 60))
    for s, pitch in _strings(setting):
        for _ in range(2):
            d.note(pitch, max(beats, Fraction(1)), strings=(s,), fingers=(0,), shape="level")
            d.rest(2)
    longest = Aim(kind="duration", way=OWN_BEST)
    return setting.finish(d, aims=(longest, *aims("even_bow")))


_IN_BOW = SettingChoice(id="notes_in_bow", options=("8", "16", "32", "64"))


def many_notes(setting: Setting) -> Jig:
    """The bow's time stays, the notes in it double: tonic and its neighbour in turn (B4)."""
    d = setting.draft()
    n = int(setting.word(_IN_BOW))
    low, high = ladder(setting, tonic_at(setting, lowest=1), 2)
    length = Fraction(8, n)
    for _ in range(2 * setting.number(_REPEATS)):
        for i in range(n):
            d.note(low if i % 2 == 0 else high, length, slurred=i > 0)
    jig = setting.finish(d, aims=aims("every_note", "notes_in_bow", "left_over"))
    return setting.fingered(jig)


_MOST = Count(id="most_notes", low=2, high=8, default=8)


def growing_slur(setting: Setting) -> Jig:
    """One note in a bow, then two … eight at one pulse, each time from the first note (B5)."""
    d = setting.draft()
    most = setting.number(_MOST)
    notes = ladder(setting, tonic_at(setting, lowest=1), most)
    for n in range(1, most + 1):
        for i in range(n):
            d.note(notes[i], 1, slurred=i > 0)
        d.to_bar(4)
        d.rest(4)  # a counted bar
    jig = setting.finish(d, aims=aims("every_note", "notes_in_bow", "pitch"))
    return setting.fingered(jig)


_SHARES = SettingChoice(id="shares", options=("halves", "quarters", "little_much", "much_little"))


def dividing(setting: Setting) -> Jig:
    """Equal shares of the bow, or little then much (B6)."""
    d = setting.draft()
    parts = {
        "halves": (2, 2), "quarters": (1, 1, 1, 1), "little_much": (1, 3), "much_little": (3, 1)
    }[setting.word(_SHARES)]  # fmt: skip
    notes = ladder(setting, tonic_at(setting, lowest=1), len(parts))
    for _ in range(2 * setting.number(_REPEATS)):
        for i, beats in enumerate(parts):
            share = beats / sum(parts)
            d.note(notes[i], beats, slurred=i > 0, bow_share=share)
    jig = setting.finish(d, aims=aims("every_note", "left_over", "bow_share"))
    return setting.fingered(jig)


def bow_changes(setting: Setting) -> Jig:
    """Changes that cannot be heard: the same note on and on, at frog and at tip (B7)."""
    d = setting.draft()
    for s, pitch in _strings(setting):
        for _ in range(8 * setting.number(_REPEATS)):
            d.note(pitch, 2, strings=(s,), fingers=(0,))
    return setting.finish(d, aims=aims("bow_change", "even_bow"))


_SECOND, _THIRD = 2, 4
_PATTERN = SettingChoice(id="pattern", options=("pairs", "over_and_back", "skipping"))


def crossings(setting: Setting) -> Jig:
    """From string to string without the neighbour and without a hole (B8).

    On open strings; between two fingers; or a tune that crosses to the open string below it on
    every beat.
    """
    notes = setting.word(NOTES)
    if notes == "tune":
        return _tune_over_open(setting)
    d = setting.draft()
    strings = list(enumerate(setting.open_strings))
    last = len(strings) - 1
    word = setting.word(_PATTERN)
    for _ in range(setting.number(_REPEATS)):
        if word == "pairs":
            order = [k for i in range(last) for k in (i, i + 1) * 4]
        elif word == "over_and_back":
            order = [*range(last + 1), *range(last - 1, 0, -1)] * 2
        else:
            order = [k for i in range(last - 1) for k in (i, i + 2) * 4]
        for i, k in enumerate(order):
            if notes == "open":
                d.note(strings[k][1], Fraction(1, 2), strings=(k,), fingers=(0,))
            else:
                upper = (k if word == "over_and_back" else i) % 2 == 1
                finger, pitch = _stopped(setting, strings[k][1], upper=upper)
                d.note(pitch, Fraction(1, 2), strings=(k,), fingers=(finger,))
    return setting.finish(d, aims=aims("crossing", "every_note"))


def _stopped(setting: Setting, open_string: Pitch, *, upper: bool) -> tuple[int, Pitch]:
    """What the first finger stops, or the one that stops a third above the string."""
    hand = setting.instrument.hand
    steps = dict(zip(hand.frames[next(iter(hand.frames))], hand.frame_fingers, strict=True))
    semitones = _THIRD if upper else _SECOND
    pitch = Pitch.from_midi(open_string.midi + semitones, fifths=setting.key.fifths)
    return steps[semitones], pitch


def _tune_over_open(setting: Setting) -> Jig:
    """A tune whose every beat goes to the open string below and comes back."""
    d = setting.draft()
    s = tune_string(setting)
    below, half = setting.open_strings[s - 1], Fraction(1, 2)
    for pitch, beats in tune_pitches(setting.key, lowest_note(setting, 1, on_string=s)):
        for _ in range(max(1, int(beats))):
            d.note(pitch, half, strings=(s,))
            d.note(below, half, strings=(s - 1,), fingers=(0,))
    made = setting.finish(d, aims=aims("crossing", "every_note"))
    return setting.fingered(made)


def contact_trial(setting: Setting) -> Jig:
    """The same strokes in three lanes between fingerboard and bridge, on each string (B9)."""
    d = setting.draft()
    for s, pitch in _strings(setting):
        for _lane in range(3):
            for _ in range(2):
                d.note(pitch, 4, strings=(s,), fingers=(0,), shape="level")
            d.rest(4)
    return setting.finish(d, aims=aims("lanes"))


def soft_bows(setting: Setting) -> Jig:
    """Soft long bows without shaking (B10)."""
    d = setting.draft()
    beats = setting.number(_BEATS)
    for s, pitch in _strings(setting):
        for i in range(2 * setting.number(_REPEATS)):
            d.note(
                pitch, beats, strings=(s,), fingers=(0,), shape="level",
                dynamic="pp" if i == 0 else None,
            )  # fmt: skip
    return setting.finish(d, aims=aims("soft", "even_bow", "left_over"))


_STAGE = SettingChoice(id="stage", options=("groups_of_eight", "on_then_off", "lowered"))
_OFF_NOTES = SettingChoice(id="notes", options=("open", "scale", "tune"))


def off_string(setting: Setting) -> Jig:
    """From détaché on the string to the same motion off it; groups of eight (B11).

    On open strings; on the notes of a scale, four strokes each; or a tune, one stroke each half
    beat.
    """
    notes = setting.word(_OFF_NOTES)
    if notes != "open":
        return _off_string_line(setting, tune=notes == "tune")
    d = setting.draft()
    word = setting.word(_STAGE)
    quarter = Fraction(1, 4)
    for s, pitch in _strings(setting):
        if word == "groups_of_eight":
            for _ in range(2 * setting.number(_REPEATS)):
                for _i in range(8):
                    d.note(pitch, quarter, strings=(s,), fingers=(0,), lifted=True)
                d.rest(2)
        elif word == "on_then_off":
            for lifted in (False, True):
                for _ in range(16):
                    d.note(pitch, quarter, strings=(s,), fingers=(0,), lifted=lifted)
        else:  # air strokes are silent: rests stand for them
            for sounding in (0, 1, 2, 4, 8):
                d.rest(quarter * (8 - sounding))
                for _ in range(sounding):
                    d.note(pitch, quarter, strings=(s,), fingers=(0,), lifted=True)
    return setting.finish(d, aims=aims("off_string", "every_note"))


def _off_string_line(setting: Setting, *, tune: bool) -> Jig:
    """A scale or a tune off the string; first on it where the stage asks for that."""
    d = setting.draft()
    start = tonic_at(setting, lowest=1)
    if tune:
        half = Fraction(1, 2)
        line = [
            (p, half) for p, beats in tune_pitches(setting.key, start)
            for _ in range(int(beats / half))
        ]  # fmt: skip
    else:
        up = ladder(setting, start, 8)
        line = [(p, Fraction(1, 4)) for p in [*up, *up[-2::-1]] for _ in range(4)]
    stages = (False, True) if setting.word(_STAGE) == "on_then_off" else (True,)
    for lifted in stages:
        for pitch, beats in line:
            d.note(pitch, beats, lifted=lifted)
        d.to_bar(4)
    made = setting.finish(d, aims=aims("off_string", "every_note"))
    return setting.fingered(made)


def clean_starts(setting: Setting) -> Jig:
    """Start from the string, full tone at once, no accent (B12)."""
    d = setting.draft()
    for s, pitch in _strings(setting):
        for _ in range(4 * setting.number(_REPEATS)):
            d.note(pitch, 1, strings=(s,), fingers=(0,), lifted=True)
            d.rest(1)
    return setting.finish(d, aims=aims("start", "every_note"))


MAKERS: tuple[Maker, ...] = (
    Maker(id="long_bows", family="bow", fields=(_STRING, _PLACE, _BEATS, _REPEATS),
          made_by=long_bows, uses_key=False),
    Maker(id="foundation_bow", family="bow", fields=(_STRING, _START, _REPEATS),
          made_by=foundation_bow, uses_key=False),
    Maker(id="speed_series", family="bow", fields=(_STRING, _SERIES), made_by=speed_series,
          uses_key=False),
    Maker(id="slowest_bow", family="bow", fields=(_STRING, _SECONDS), made_by=slowest_bow,
          uses_key=False),
    Maker(id="many_notes", family="bow", fields=(_IN_BOW, _REPEATS), made_by=many_notes),
    Maker(id="growing_slur", family="bow", fields=(_MOST,), made_by=growing_slur),
    Maker(id="dividing", family="bow", fields=(_SHARES, _REPEATS), made_by=dividing),
    Maker(id="bow_changes", family="bow", fields=(_STRING, _REPEATS), made_by=bow_changes,
          uses_key=False),
    Maker(id="crossings", family="bow", fields=(NOTES, _PATTERN, _REPEATS), made_by=crossings),
    Maker(id="contact_trial", family="bow", fields=(_STRING,), made_by=contact_trial,
          uses_key=False),
    Maker(id="soft_bows", family="bow", fields=(_STRING, _BEATS, _REPEATS), made_by=soft_bows,
          uses_key=False),
    Maker(id="off_string", family="bow", fields=(_OFF_NOTES, _STRING, _STAGE, _REPEATS),
          made_by=off_string),
    Maker(id="clean_starts", family="bow", fields=(_STRING, _REPEATS), made_by=clean_starts,
          uses_key=False),
)  # fmt: skip
