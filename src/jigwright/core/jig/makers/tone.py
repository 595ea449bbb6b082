"""Exercises for tone, shape and time (T3, T4, T6 … T11, S3)."""

from __future__ import annotations

from fractions import Fraction
from typing import cast

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import Aim, aims
from jigwright.core.jig.hand_check import can_touch
from jigwright.core.jig.makers.lines import tune_pitches
from jigwright.core.jig.makers.spec import Count, Maker, Setting, SettingChoice, ladder, tonic_at
from jigwright.core.jig.makers.tunes import with_second_like_first
from jigwright.core.jig.model import Jig, Shape
from jigwright.core.music.harmonics import harmonic, sounding_pitch
from jigwright.core.music.pitch import Pitch
from jigwright.core.music.references import pure_strings

_SHAPE = SettingChoice(id="shape", options=("swell", "grow", "fade", "level"))
_BEATS = Count(id="beats_in_bow", low=2, high=12, default=4)


def long_shapes(setting: Setting) -> Jig:
    """Long notes that go somewhere, in loudness and in colour (T3)."""
    d = setting.draft()
    shape = cast("Shape", setting.word(_SHAPE))
    for pitch in ladder(setting, tonic_at(setting, lowest=1), 5):
        d.note(pitch, setting.number(_BEATS), shape=shape)
    # a level note goes nowhere: what it asks for is an even bow
    first = aims("even_bow" if shape == "level" else "direction")
    return setting.fingered(setting.finish(d, aims=(*first, *aims("pitch"))))


_CONTRAST = SettingChoice(id="contrast", options=("f-p", "mf-pp", "p-f"))


def echo(setting: Setting) -> Jig:
    """The same words twice, loud then soft, with the same bows and fingers (T4)."""
    d = setting.draft()
    first, second = setting.word(_CONTRAST).split("-")
    words = ladder(setting, tonic_at(setting, lowest=1), 5)
    line = [(words[0], 1), (words[2], 1), (words[1], 1), (words[3], 1), (words[4], 3)]
    for dynamic in (first, second):
        for i, (pitch, beats) in enumerate(line):
            d.note(pitch, beats, dynamic=dynamic if i == 0 else None)
        d.rest(1)
    made = setting.fingered(setting.finish(d, aims=aims("contrast", "every_note", "pitch")))
    return with_second_like_first(made, len(line))


def pairs(setting: Setting) -> Jig:
    """Slurs of two: the first leads, the second must not stick out (T6)."""
    d = setting.draft()
    notes = ladder(setting, tonic_at(setting, lowest=1), 8)
    for a, b in [
        *zip(notes, notes[1:], strict=False),
        *zip(notes[:0:-1], notes[-2::-1], strict=False),
    ]:
        d.note(b if b.midi > a.midi else a, 1)
        d.note(a if b.midi > a.midi else b, 1, slurred=True)
    return setting.fingered(setting.finish(d, aims=aims("pairs", "every_note", "pitch")))


def held(setting: Setting) -> Jig:
    """Notes held to their full value before a rest (T7)."""
    d = setting.draft()
    for pitch in ladder(setting, tonic_at(setting, lowest=1), 8):
        d.note(pitch, 3)
        d.rest(1)
    return setting.fingered(setting.finish(d, aims=aims("held", "every_note", "pitch")))


_CHARACTER = SettingChoice(id="character", options=("on_a_line", "sharp"))
_DOTTED_NOTES = SettingChoice(id="dotted_notes", options=("scale", "tune"))


def dotted(setting: Setting) -> Jig:
    """Dotted pairs on a scale or in a tune: the short note belongs to the next (T8)."""
    d = setting.draft()
    lifted = setting.word(_CHARACTER) == "sharp"
    start = tonic_at(setting, lowest=1)
    if setting.word(_DOTTED_NOTES) == "tune":
        line = [p for p, _ in tune_pitches(setting.key, start)]
    else:
        notes = ladder(setting, start, 8)
        line = [*notes, *notes[-2::-1]]
    for i, pitch in enumerate(line):
        long = i % 2 == 0
        last = long and i == len(line) - 1  # nothing short follows: a whole beat
        d.note(pitch, 1 if last else Fraction(3 if long else 1, 4), lifted=lifted and long)
    if len(line) % 2 == 0:
        d.note(line[-1], 1)
    character = Aim(kind="dotted", way="sharp" if lifted else "singing")
    made = setting.finish(d, aims=(character, *aims("every_note", "pitch")))
    return setting.fingered(made)


def vibrato(setting: Setting) -> Jig:
    """Each note plain, then with vibrato (T9)."""
    d = setting.draft()
    low = tonic_at(setting, lowest=1)
    lowest = setting.open_strings[0]
    for pitch in [p for p in ladder(setting, low, 5)[1:] if p.midi != lowest.midi]:
        d.note(pitch, setting.number(_BEATS), vibrato=False)
        d.note(pitch, setting.number(_BEATS), vibrato=True)
    return setting.fingered(setting.finish(d, aims=aims("vibrato", "pitch")))


_HIGHEST = Count(id="highest_partial", low=2, high=8, default=5)


_HARMONIC = SettingChoice(id="harmonic", options=("single", "double"))


def harmonics(setting: Setting) -> Jig:
    """Natural harmonics up each string or on two, down and up bow on each (T10)."""
    if setting.word(_HARMONIC) == "double":
        return _double_harmonics(setting)
    d = setting.draft()
    strings = pure_strings(setting.open_strings, 440.0)
    for s, (string, hz) in enumerate(strings.items()):
        for n in range(2, setting.number(_HIGHEST) + 1):
            sounding = harmonic(
                string, hz, n, string_length_mm=setting.instrument.string_length_mm, a4_hz=440.0
            ).sounding
            if not _is_reached(sounding, setting):
                continue
            for _ in range(2):
                d.note(sounding, 2, strings=(s,), partial=n)
    return setting.finish(
        d,
        aims=aims("partial", "every_note", "pitch"),
        reference="just:" + str(setting.open_strings[1].pitch_class),
    )


_MOST_TOUCHED, _FEWEST_TOUCHED = 7, 3


def artificial_harmonics(setting: Setting) -> Jig:
    """A scale of stopped notes, each touched a fourth above: two octaves higher (T10)."""
    d = setting.draft()
    strings = setting.open_strings
    up = [p for p in ladder(setting, tonic_at(setting), 15) if p not in strings]
    places = {
        p: i for p in up if _is_reached(sounding_pitch(p, 4), setting)
        if (i := _touched_on(p, setting)) is not None
    }  # fmt: skip
    stopped = list(places)[:_MOST_TOUCHED]
    if len(stopped) < _FEWEST_TOUCHED:
        raise JigError(
            f"on the {setting.instrument_id} no hand reaches from a stopped note to the fourth "
            f"above it in {setting.key}"
        )
    for pitch in [*stopped, *stopped[-2::-1]]:
        d.note(sounding_pitch(pitch, 4), 2, strings=(places[pitch],), partial=4, stopped=pitch)
    return setting.finish(d, aims=aims("partial", "every_note", "pitch"))


def _touched_on(stopped: Pitch, setting: Setting) -> int | None:
    """The highest string on which a hand reaches from a stopped note to the fourth above it."""
    inst, strings = setting.instrument, setting.open_strings
    length_mm = setting.length_mm
    for i in reversed(range(len(strings))):
        if can_touch(stopped, 4, strings, inst.hand, length_mm, i):
            return i
    return None


def _double_harmonics(setting: Setting) -> Jig:
    """The same partial on two neighbouring strings."""
    d = setting.draft()
    hz = pure_strings(setting.open_strings, 440.0)
    length_mm = setting.instrument.string_length_mm
    for s, pair in enumerate(zip(hz, list(hz)[1:], strict=False)):
        for n in range(2, setting.number(_HIGHEST) + 1):
            sounding = [
                harmonic(p, hz[p], n, string_length_mm=length_mm, a4_hz=440.0).sounding
                for p in pair
            ]
            if all(_is_reached(p, setting) for p in sounding):
                for _ in range(2):
                    d.note(sounding, 2, strings=(s, s + 1), partial=n)
    return setting.finish(
        d,
        aims=aims("partial", "every_note", "pitch"),
        reference="just:" + str(setting.open_strings[1].pitch_class),
    )


def _is_reached(pitch: Pitch, setting: Setting) -> bool:
    return 440.0 * 2 ** ((pitch.midi - 69) / 12) <= setting.instrument.highest_hz


def plucked(setting: Setting) -> Jig:
    """Plucked scale: ring, evenness, no thud (T11)."""
    d = setting.draft()
    up = ladder(setting, tonic_at(setting), 8)
    for pitch in [*up, *up[-2::-1]]:
        d.note(pitch, 1, pluck=True)
    return setting.fingered(setting.finish(d, aims=aims("pluck", "every_note", "pitch")))


_ACCENT = SettingChoice(id="pick_up", options=("two", "one", "none", "three"))


def even_run(setting: Setting) -> Jig:
    """Sixteenths with the beat displaced: two notes of pick-up, one, as written, three (S3)."""
    d = setting.draft()
    notes = ladder(setting, tonic_at(setting), 8)
    if len(notes) < 2:
        raise JigError("a run needs notes")
    before = {"two": 2, "one": 1, "none": 0, "three": 3}[setting.word(_ACCENT)]
    if before:
        d.rest(1 - Fraction(before, 4))
    for pitch in [*notes, *notes[-2:0:-1]] * 2:
        d.note(pitch, Fraction(1, 4))
    d.note(notes[0], 1 + -d.at_beats % 1)
    return setting.fingered(setting.finish(d, aims=aims("even_run", "every_note", "pitch")))


MAKERS: tuple[Maker, ...] = (
    Maker(id="long_shapes", family="tone", fields=(_SHAPE, _BEATS), made_by=long_shapes),
    Maker(id="echo", family="tone", fields=(_CONTRAST,), made_by=echo),
    Maker(id="pairs", family="tone", fields=(), made_by=pairs),
    Maker(id="vibrato", family="tone", fields=(_BEATS,), made_by=vibrato),
    Maker(id="harmonics", family="tone", fields=(_HARMONIC, _HIGHEST), made_by=harmonics,
          uses_key=False),
    Maker(id="artificial_harmonics", family="tone", fields=(), made_by=artificial_harmonics),
    Maker(id="plucked", family="tone", fields=(), made_by=plucked),
    Maker(id="held", family="time", fields=(), made_by=held),
    Maker(id="dotted", family="time", fields=(_CHARACTER, _DOTTED_NOTES), made_by=dotted),
    Maker(id="even_run", family="time", fields=(_ACCENT,), made_by=even_run),
)  # fmt: skip
