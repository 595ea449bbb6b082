"""Exercises for pitch: scales, arpeggios, drone scale, hands, shifts (P4, P6, P8, P11, P12)."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from typing import cast

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import Aim, aims
from jigwright.core.jig.makers.spec import Count, Maker, Setting, SettingChoice, ladder, tonic_at
from jigwright.core.jig.model import Jig
from jigwright.core.jig.scales import scale_pitches
from jigwright.core.music.hands import Frame
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch

_OCTAVES = Count(id="octaves", low=1, high=4, default=1)
_SLUR = Count(id="notes_in_bow", low=1, high=16, default=1)
_VALUE = SettingChoice(id="note_value", options=("quarter", "half", "eighth", "sixteenth"))
_VALUES = {
    "half": Fraction(2), "quarter": Fraction(1), "eighth": Fraction(1, 2),
    "sixteenth": Fraction(1, 4),
}  # fmt: skip


def _checked(setting: Setting, pitches: list[Pitch]) -> list[Pitch]:
    top = max(p.midi for p in pitches)
    reach = instrument(setting.instrument_id).reach_semitones
    limit = setting.open_strings[-1].midi + reach
    if top > limit or min(p.midi for p in pitches) < setting.open_strings[0].midi:
        raise JigError(f"{pitches[0]} … goes beyond the {setting.instrument_id}'s range")
    return pitches


def _run(setting: Setting, pitches: list[Pitch]) -> Jig:
    d = setting.draft()
    slur = setting.number(_SLUR)
    value = _VALUES[setting.word(_VALUE)]
    for i, pitch in enumerate(_checked(setting, pitches)):
        d.note(pitch, value, slurred=i % slur > 0)
    jig = setting.finish(d, aims=aims("pitch", "every_note"))
    return setting.fingered(jig)


def scale(setting: Setting) -> Jig:
    """A scale up and down, open strings up and fourth fingers down (P11)."""
    octaves = setting.number(_OCTAVES)
    return _run(setting, list(scale_pitches(setting.key, tonic_at(setting), octaves)))


def arpeggio(setting: Setting) -> Jig:
    """Root, third, fifth, up and down."""
    octaves = setting.number(_OCTAVES)
    notes = ladder(setting, tonic_at(setting), 7 * octaves + 1)
    up = [p for i, p in enumerate(notes) if i % 7 in (0, 2, 4)]
    return _run(setting, [*up, *up[-2::-1]])


def chromatic(setting: Setting) -> Jig:
    """All semitones: sharps up, flats down."""
    start = tonic_at(setting)
    n = 12 * setting.number(_OCTAVES)
    up = [Pitch.from_midi(start.midi + i, fifths=3) for i in range(n + 1)]
    down = [Pitch.from_midi(start.midi + i, fifths=-4) for i in range(n - 1, -1, -1)]
    return _run(setting, [start, *up[1:-1], replace(start, octave=start.octave + n // 12), *down])


def drone_scale(setting: Setting) -> Jig:
    """A slow scale downwards over a drone, pure against it (P6)."""
    d = setting.draft()
    down = list(scale_pitches(setting.key, tonic_at(setting), 1))[7:]
    for pitch in _checked(setting, down):
        d.note(pitch, 4)
    jig = setting.finish(
        d, aims=aims("pitch", "second_arrival", "every_note"), reference=f"just:{setting.key.tonic}"
    )
    return setting.fingered(jig)


_FRAMES = SettingChoice(id="frame", options=("middle", "low_second", "wide", "lowered"))
_POSITION = Count(id="position", low=1, high=7, default=1)
_ON_STRING = Count(id="on_string", low=1, high=5, default=2)


_OCTAVE, _HIGHEST_WITHOUT_THUMB = 12, 5


# semitones of fingers above the place of an open string or of the first finger's lower neighbour
def hand_pattern(setting: Setting) -> Jig:
    """Every interval of one hand frame, three times each (P4, P8)."""
    d = setting.draft()
    frame = setting.word(_FRAMES)
    strings = setting.open_strings
    s = min(setting.number(_ON_STRING), len(strings)) - 1
    hand = setting.instrument.hand
    steps, fingers = hand.frames[cast("Frame", frame)], hand.frame_fingers
    up = (0, 2, 3, 5, 7, 9, 10)[setting.number(_POSITION) - 1]
    if hand.thumb_from and up + steps[-1] > _OCTAVE:
        raise JigError(
            f"on the {setting.instrument_id} the thumb comes up there; this hand goes up to "
            f"position {_HIGHEST_WITHOUT_THUMB}"
        )
    sharps = setting.key.fifths
    places = [
        (Pitch.from_midi(strings[s].midi + up + k, fifths=sharps), f)
        for k, f in zip(steps, fingers, strict=True)
    ]
    if up == 0:
        places.insert(0, (strings[s], 0))
    base = places[0]
    for other in places[1:]:
        for _ in range(3):
            d.note(base[0], 1, strings=(s,), fingers=(base[1],))
            d.note(other[0], 1, strings=(s,), fingers=(other[1],))
    for a, b in zip(places[1:], places[2:], strict=False):
        for _ in range(3):
            d.note(a[0], 1, strings=(s,), fingers=(a[1],))
            d.note(b[0], 1, strings=(s,), fingers=(b[1],))
    return setting.finish(d, aims=aims("hand_frame", "pitch", "every_note"), tolerance_cents=15.0)


_SIZE = SettingChoice(id="shift", options=("1-3", "1-2", "1-4", "1-5"))
_GLIDE = SettingChoice(id="glide", options=("slow", "hidden", "none"))


def shifts(setting: Setting) -> Jig:
    """Departure, guide note, arrival; the glide slow, then hidden, then none (P12)."""
    d = setting.draft()
    strings = setting.open_strings
    s = min(setting.number(_ON_STRING), len(strings)) - 1
    low, high = (int(v) for v in setting.word(_SIZE).split("-"))
    departure = _in_key(setting, strings[s], 1)
    guide = _in_key(setting, strings[s], 1 + high - low)
    upper = setting.instrument.hand.by_letter
    arrival = _in_key(setting, strings[s], 1 + high - low + (2 if upper else 1))
    whole = arrival.midi - guide.midi > 1
    finger = 3 if upper else setting.instrument.hand.whole_step if whole else 2
    glide = setting.word(_GLIDE) == "slow"
    for _ in range(4):
        d.note(departure, 1, strings=(s,), fingers=(1,))
        d.note(guide, 1, slurred=True, strings=(s,), fingers=(1,), glide=glide)
        d.note(arrival, 2, slurred=True, strings=(s,), fingers=(finger,))
    for _ in range(4):
        d.note(departure, 2, strings=(s,), fingers=(1,))
        d.note(arrival, 2, slurred=True, strings=(s,), fingers=(finger,), glide=glide)
    way = setting.word(_GLIDE)
    return setting.finish(d, aims=(Aim(kind="shift", way=way), *aims("pitch", "every_note")))


def _in_key(setting: Setting, string: Pitch, letters: int) -> Pitch:
    """The note of the key so many letters above an open string."""
    degrees = {c.step: c for c in setting.key.degrees()}
    wanted = string.diatonic + letters
    step = "CDEFGAB"[wanted % 7]
    return Pitch(step, degrees[step].alter, wanted // 7)


MAKERS: tuple[Maker, ...] = (
    Maker(id="scale", family="pitch", fields=(_OCTAVES, _SLUR, _VALUE), make=scale),
    Maker(id="arpeggio", family="pitch", fields=(_OCTAVES, _SLUR, _VALUE), make=arpeggio),
    Maker(id="chromatic", family="pitch", fields=(_OCTAVES, _SLUR, _VALUE), make=chromatic),
    Maker(id="drone_scale", family="pitch", fields=(), make=drone_scale),
    Maker(id="hand_pattern", family="pitch", fields=(_FRAMES, _POSITION, _ON_STRING),
          make=hand_pattern),
    Maker(id="shifts", family="pitch", fields=(_SIZE, _GLIDE, _ON_STRING), make=shifts),
)  # fmt: skip
