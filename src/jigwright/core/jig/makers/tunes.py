"""A tune on two strings, studies through the chords of a key (T5, S3, P10)."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import aims
from jigwright.core.jig.makers.lines import (
    VALUES,
    lowest_note,
    note_at,
    tune_pitches,
    tune_string,
)
from jigwright.core.jig.makers.spec import Count, Maker, Setting, SettingChoice, tonic_at
from jigwright.core.jig.model import Jig
from jigwright.core.music.pitch import Pitch

_FIRST_ON = SettingChoice(
    id="first_on", options=("easiest", "highest", "second_highest", "third_highest")
)


def tune_on_strings(setting: Setting) -> Jig:
    """A tune on one string, then the same notes on the string below it (T5)."""
    d = setting.draft()
    word = setting.word(_FIRST_ON)
    if word == "easiest":
        s = tune_string(setting)
    else:
        from_top = ("highest", "second_highest", "third_highest").index(word)
        s = max(1, len(setting.open_strings) - 1 - from_top)
    line = tune_pitches(setting.key, lowest_note(setting, 1, on_string=s))
    reach = setting.instrument.reach_semitones
    highest = max(p.midi for p, _ in line)
    if highest > setting.open_strings[s - 1].midi + reach:
        raise JigError(f"the tune goes beyond the {setting.instrument_id}'s range")
    for string in (s, s - 1):
        d.next_bow("down")
        for pitch, beats in line:
            d.note(pitch, beats, strings=(string,))
        d.to_bar(4)
    return setting.fingered(setting.finish(d, aims=aims("pitch", "every_note")))


_STUDY = SettingChoice(
    id="study", options=("around", "broken_chords", "leaping", "running", "rocking")
)
_SHAPES: dict[str, tuple[int, ...]] = {
    "around": (0, 1, 0, -1, 0, 2, 4, 2),
    "broken_chords": (0, 2, 4, 2, 7, 4, 2, 4),
    "leaping": (0, 4, 2, 7, 4, 2, 4, 0),
    "running": (0, 1, 2, 3, 4, 3, 2, 1),
    "rocking": (0, 4, 0, 4, 2, 4, 2, 4),
}
"""Steps above the root of a chord, one bar of eight notes."""
_ROOTS = (0, 3, -3, 0, -2, 1, -3, 0)
"""Steps from the tonic to the roots of eight bars: I IV V I VI II V I."""
_IN_BOW = Count(id="notes_in_bow", low=1, high=8, default=1)
_STUDY_VALUE = SettingChoice(id="note_value", options=("eighth", "sixteenth"))


def study(setting: Setting) -> Jig:
    """A pattern through the chords of the key, an eight-bar study (S3)."""
    d = setting.draft()
    shape = _SHAPES[setting.word(_STUDY)]
    value, slur = VALUES[setting.word(_STUDY_VALUE)], setting.number(_IN_BOW)
    tonic, lowest = tonic_at(setting), min(shape) + min(_ROOTS)
    if note_at(setting.key, tonic.diatonic + lowest).midi < setting.open_strings[0].midi:
        tonic = Pitch(tonic.step, tonic.alter, tonic.octave + 1)
    per_bar = int(4 / value)
    for root in _ROOTS:
        for i in range(per_bar):
            letter = tonic.diatonic + root + shape[i % len(shape)]
            d.note(note_at(setting.key, letter), value, slurred=i % slur > 0)
    d.note(tonic, Fraction(4))
    return setting.fingered(setting.finish(d, aims=aims("even_run", "every_note", "pitch")))


def with_second_like_first(jig: Jig, n: int) -> Jig:
    """The same, events ``n`` … taken with the strings, fingers and bows of the first ``n``."""
    first = jig.events[:n]
    second = tuple(
        replace(
            e, bow=a.bow, proposed_bow=a.proposed_bow,
            heads=tuple(
                replace(h, string=b.string, finger=b.finger)
                for h, b in zip(e.heads, a.heads, strict=True)
            ),
        )
        for a, e in zip(first, jig.events[n:], strict=True)
    )  # fmt: skip
    return replace(jig, events=(*first, *second))


MAKERS: tuple[Maker, ...] = (
    Maker(id="tune_on_strings", family="tone", fields=(_FIRST_ON,), made_by=tune_on_strings),
    Maker(id="study", family="time", fields=(_STUDY, _STUDY_VALUE, _IN_BOW), made_by=study),
)  # fmt: skip
