"""Exercises for two strings at once (D1, D4, D6, D8).

Which interval stands where follows the scale: both voices are notes of the key, so thirds and
sixths come out major and minor in their right order, in every mode and, in melodic minor,
differently going down.
"""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import Aim, aims
from jigwright.core.jig.fingering import placings, taken_together
from jigwright.core.jig.makers.hand import OCTAVES
from jigwright.core.jig.makers.spec import Count, Maker, Setting, SettingChoice, tonic_at
from jigwright.core.jig.model import Jig
from jigwright.core.jig.scales import scale_pitches
from jigwright.core.music.pitch import Pitch

_INTERVALS = (
    "thirds", "sixths", "octaves", "fifths", "fourths", "seconds", "sevenths", "tenths", "unisons"
)  # fmt: skip
_INTERVAL = SettingChoice(
    id="interval", options=_INTERVALS,
    by_kind={
        "cello": tuple(i for i in _INTERVALS if i != "tenths"),
        "bass": tuple(i for i in _INTERVALS if i not in ("octaves", "tenths")),
    },
)  # fmt: skip
_LETTERS = {
    "unisons": 0, "seconds": 1, "thirds": 2, "fourths": 3, "fifths": 4, "sixths": 5, "sevenths": 6,
    "octaves": 7, "tenths": 9,
}  # fmt: skip
_ORDER = SettingChoice(
    id="order", options=("together", "lower_upper_both", "long_short", "long_short_short")
)
_VOICE = SettingChoice(id="scale_in", options=("lower", "upper"))
_NOTES = Count(id="steps", low=3, high=8, default=8)


def _other(pitch: Pitch, letters: int, setting: Setting, *, descending: bool) -> Pitch:
    """The note of the key so many letters above (below when negative)."""
    degrees = {c.step: c for c in setting.key.degrees(descending=descending)}
    wanted = pitch.diatonic + letters
    step = "CDEFGAB"[wanted % 7]
    return Pitch(step, degrees[step].alter, wanted // 7)


def double_scale(setting: Setting) -> Jig:
    """A scale in double stops."""
    letters = _LETTERS[setting.word(_INTERVAL)]
    lower_carries = setting.word(_VOICE) == "lower"
    n = setting.number(_NOTES)
    for start in _starts(setting):
        up = list(scale_pitches(setting.key, start, 1))[:n]
        down = list(scale_pitches(setting.key, start, 1))[15 - n :]
        stops = [
            _stop(p, letters, setting, lower_carries=lower_carries, descending=i >= len(up))
            for i, p in enumerate([*up, *down[1:]])
        ]
        if all(_reachable(a, b, setting) for a, b in stops):
            return _written(setting, stops)
    raise JigError(
        f"no place on the {setting.instrument_id} where these "
        f"{setting.word(_INTERVAL)} can be reached in {setting.key}"
    )


def _starts(setting: Setting) -> list[Pitch]:
    first = tonic_at(setting)
    return [Pitch(first.step, first.alter, first.octave + k) for k in range(3)]


def _stop(
    pitch: Pitch, letters: int, setting: Setting, *, lower_carries: bool, descending: bool
) -> tuple[Pitch, Pitch]:
    if lower_carries:
        return pitch, _other(pitch, letters, setting, descending=descending)
    return _other(pitch, -letters, setting, descending=descending), pitch


def _reachable(lower: Pitch, upper: Pitch, setting: Setting) -> bool:
    """Whether one hand can take both on neighbouring strings."""
    strings, inst = setting.open_strings, setting.instrument
    single = [placings(p, strings, inst.id, with_others=True) for p in (lower, upper)]
    return bool(
        taken_together((lower, upper), single, strings, inst.hand, length_mm=setting.length_mm)
    )


def _written(setting: Setting, stops: list[tuple[Pitch, Pitch]]) -> Jig:
    d = setting.draft()
    order = setting.word(_ORDER)
    for lower, upper in stops:
        both = (lower, upper)
        if order == "lower_upper_both":
            d.note(lower, 1)
            d.note(upper, 1)
            d.note(both, 2)
        elif order == "long_short":
            for _ in range(4):
                d.note(both, Fraction(3, 4))
                d.note(both, Fraction(1, 4))
        elif order == "long_short_short":
            for _ in range(2):
                d.note(both, 1)
                d.note(both, Fraction(1, 2))
                d.note(both, Fraction(1, 2))
        else:
            d.note(both, 2)
    jig = setting.finish(
        d,
        aims=aims("interval", "both_sound", "every_note"),
        reference=f"just:{setting.key.tonic}",
        tolerance_cents=8.0,
    )
    return setting.fingered(jig)


def over_open(setting: Setting) -> Jig:
    """Notes of the key over the open string below: what is pure there can be heard at once."""
    d = setting.draft()
    strings = setting.open_strings
    for s in range(len(strings) - 1):
        above = [
            Pitch(c.step, c.alter, octave)
            for octave in range(9)
            for c in setting.key.degrees()
            if 1 <= Pitch(c.step, c.alter, octave).midi - strings[s + 1].midi <= 5
        ]
        for pitch in sorted(above, key=lambda p: p.midi):
            d.note((strings[s], pitch), 2, strings=(s, s + 1), fingers=(0, None))
    jig = setting.finish(
        d, aims=aims("interval", "both_sound", "every_note"), reference="ring", tolerance_cents=8.0
    )
    return setting.fingered(jig)


_LEADING = SettingChoice(id="leading", options=("even", "lower", "upper", "rocking"))
_PAIRS = SettingChoice(id="balance_notes", options=("open", "stopped"))
_BALANCE_REPEATS = Count(id="repeats", low=1, high=8, default=2)


def balance(setting: Setting) -> Jig:
    """Two strings alone and together: even, one leading, or rocking from one to the other (D5).

    Each string alone first, which is what the two are held against.
    """
    d = setting.draft()
    strings = setting.open_strings
    leading = setting.word(_LEADING)
    led: dict[str, list[int]] = {"lower": [], "upper": []}
    stopped = setting.word(_PAIRS) == "stopped"
    for s in range(len(strings) - 1):
        lower, upper = strings[s], strings[s + 1]
        if stopped:  # the first finger across both: a pure fifth or fourth moves as one
            lower, upper = (
                Pitch.from_midi(p.midi + 2, fifths=setting.key.fifths) for p in (lower, upper)
            )
        finger = 1 if stopped else 0
        d.note(lower, 4, strings=(s,), fingers=(finger,))
        d.note(upper, 4, strings=(s + 1,), fingers=(finger,))
        for i in range(2 * setting.number(_BALANCE_REPEATS)):
            way = ("lower", "upper")[i % 2] if leading == "rocking" else leading
            if way in led:
                led[way].append(len(d.events))
            d.note((lower, upper), 4, strings=(s, s + 1), fingers=(finger, finger))
    made = setting.finish(d, reference="ring", tolerance_cents=8.0)
    found = [
        Aim(kind="balance", way=way, places=tuple(made.events[i].id for i in where))
        for way, where in led.items()
        if where
    ]
    first = found or [Aim(kind="balance", way="even")]
    return replace(made, aims=(*first, *aims("both_sound")))


MAKERS: tuple[Maker, ...] = (
    Maker(id="double_scale", family="two_strings", fields=(_INTERVAL, _VOICE, _ORDER, _NOTES),
          made_by=double_scale),
    Maker(id="over_open", family="two_strings", fields=(), made_by=over_open),
    Maker(id="balance", family="two_strings", fields=(_LEADING, _PAIRS, _BALANCE_REPEATS),
          made_by=balance, uses_key=False),
    OCTAVES,
)  # fmt: skip
