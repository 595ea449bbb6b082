"""Exercises for pitch: scales, arpeggios, drone scale (P4, P6, P10, P11)."""

from __future__ import annotations

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import aims
from jigwright.core.jig.makers.lines import (
    BOWING,
    CHORDS,
    FIGURE,
    RHYTHM,
    VALUE,
    VALUES,
    LineManner,
    chord_pitches,
    chromatic_pitches,
    figured,
    lowest_note,
    note_at,
    write_line,
)
from jigwright.core.jig.makers.spec import Count, Maker, Setting, SettingChoice, tonic_at
from jigwright.core.jig.model import Jig
from jigwright.core.jig.scales import scale_pitches
from jigwright.core.music.pitch import Pitch

_OCTAVES = Count(id="octaves", low=1, high=4, default=1, by_kind={"viola": (1, 3), "bass": (1, 3)})
_SLUR = Count(id="notes_in_bow", low=1, high=16, default=1)
_DEGREE = Count(id="from_degree", low=1, high=7, default=1)
ANY_STRING = SettingChoice(
    id="which_string", options=("any", "lowest", "second", "third", "highest")
)
_HAND = SettingChoice(id="hand", options=("free", "first_position"))
_CHORD = SettingChoice(id="chord", options=("of_key", *CHORDS))


def one_string(setting: Setting) -> int | None:
    """Index of the string that everything is to be played on; ``None``: any."""
    word = setting.word(ANY_STRING)
    last = len(setting.open_strings) - 1
    return {"any": None, "lowest": 0, "second": 1, "third": 2, "highest": last}[word]


def _in_range(setting: Setting, pitches: list[Pitch], string: int | None = None) -> list[Pitch]:
    low = setting.open_strings[string or 0].midi
    high = setting.open_strings[-1 if string is None else string].midi
    outside = [p for p in pitches if not low <= p.midi <= high + setting.instrument.reach_semitones]
    if outside:
        where = "range" if string is None else "string"
        raise JigError(f"{outside[0]} lies beyond the {setting.instrument_id}'s {where}")
    return pitches


def _manner(setting: Setting) -> LineManner:
    return LineManner(
        value=VALUES[setting.word(VALUE)], rhythm=setting.word(RHYTHM),
        bowing=setting.word(BOWING), slur=setting.number(_SLUR),
    )  # fmt: skip


def _line(setting: Setting, pitches: list[Pitch], string: int | None = None) -> Jig:
    d = setting.draft()
    on = [string] * len(pitches) if string is not None else []
    write_line(d, _in_range(setting, pitches, string), _manner(setting), strings=on)
    made = setting.finish(d, aims=aims("pitch", "every_note"))
    return setting.fingered(made, first_position=setting.word(_HAND) == "first_position")


def scale(setting: Setting) -> Jig:
    """A scale up and down, from any degree, on all strings or one, plain or in a figure.

    Open strings up and fourth fingers down (P11).
    """
    string = one_string(setting)
    start = lowest_note(setting, setting.number(_DEGREE), on_string=string)
    top = 7 * setting.number(_OCTAVES)
    letters = [start.diatonic + k for k in (*range(top + 1), *range(top - 1, -1, -1))]
    pitches = [
        note_at(setting.key, letter, descending=down)
        for letter, down in figured(letters, setting.word(FIGURE))
    ]
    return _line(setting, pitches, string)


def arpeggio(setting: Setting) -> Jig:
    """A chord up and down: the key's own, or any on its tonic."""
    octaves, chord = setting.number(_OCTAVES), setting.word(_CHORD)
    if chord == "of_key":
        degrees = setting.key.degrees()
        third = (degrees[2].semitone - degrees[0].semitone) % 12
        chord = "major" if third == 4 else "minor"
    up = chord_pitches(tonic_at(setting), chord, octaves)
    return _line(setting, [*up, *up[-2::-1]])


def chromatic(setting: Setting) -> Jig:
    """All semitones: raised going up, lowered coming down."""
    n = 12 * setting.number(_OCTAVES)
    return _line(setting, chromatic_pitches(setting.key, tonic_at(setting), n))


def drone_scale(setting: Setting) -> Jig:
    """A slow scale downwards over a drone, pure against it (P6)."""
    d = setting.draft()
    down = list(scale_pitches(setting.key, tonic_at(setting), 1))[7:]
    for pitch in _in_range(setting, down):
        d.note(pitch, 4)
    jig = setting.finish(
        d, aims=aims("pitch", "second_arrival", "every_note"), reference=f"just:{setting.key.tonic}"
    )
    return setting.fingered(jig)


_PLAYED = (_SLUR, VALUE, RHYTHM, BOWING, _HAND)

MAKERS: tuple[Maker, ...] = (
    Maker(id="scale", family="pitch", made_by=scale,
          fields=(_OCTAVES, _DEGREE, FIGURE, ANY_STRING, *_PLAYED)),
    Maker(id="arpeggio", family="pitch", fields=(_OCTAVES, _CHORD, *_PLAYED), made_by=arpeggio),
    Maker(id="chromatic", family="pitch", fields=(_OCTAVES, *_PLAYED), made_by=chromatic),
    Maker(id="drone_scale", family="pitch", fields=(), made_by=drone_scale),
)  # fmt: skip
