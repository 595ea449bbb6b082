"""What a teacher would set besides a pupil's own pieces: exercises by part, level and key.

Levels are those of players, not of exercises: *early* – the first position, one octave, few notes
in a bow; *settled* – two octaves, shifts, thirds and sixths, strokes off the string; *advanced* –
three octaves, octaves, harmonics, everything by every finger.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

Level = Literal["early", "settled", "advanced"]
LEVELS: tuple[Level, ...] = ("early", "settled", "advanced")


@dataclass(frozen=True, slots=True, kw_only=True)
class Offered:
    """An exercise that may be set.

    Parameters
    ----------
    maker_id : str
    values : mapping of str to str or int
        The maker's choices.
    tempo_bpm : float
    """

    maker_id: str
    values: Mapping[str, str | int] = field(default_factory=dict)
    tempo_bpm: float = 60.0

    @property
    def slug(self) -> str:
        """Short name of exercise and choices, fit for an identity."""
        return "-".join([self.maker_id, *(f"{k}.{v}" for k, v in self.values.items())])


def _set(maker_id: str, tempo: float = 60.0, **values: str | int) -> Offered:
    return Offered(maker_id=maker_id, values=values, tempo_bpm=tempo)


REPERTOIRE: dict[Level, tuple[Offered, ...]] = {
    "early": (
        _set("long_bows", beats_in_bow=4, repeats=1),
        _set("foundation_bow", start="start_middle", repeats=1),
        _set("foundation_bow", start="start_nearer", repeats=1),
        _set("growing_slur", most_notes=4), _set("crossings", 72, notes="open", repeats=1),
        _set("dividing", shares="halves"), _set("long_bows", beats_in_bow=6, repeats=1),
        _set("scale", 66, hand="first_position"),
        _set("scale", 60, hand="first_position", notes_in_bow=2),
        _set("drone_scale"), _set("arpeggio", 60, hand="first_position"),
        _set("hand_pattern"), _set("open_stopped"),
        _set("scale", 60, hand="first_position", rhythm="long_short"),
        _set("over_open"), _set("balance", leading="even", repeats=1),
        _set("clean_starts", repeats=1), _set("dotted", 66), _set("plucked"),
        _set("ring_scale", octaves=1), _set("echo", 72), _set("held", 72),
        _set("long_shapes", shape="swell"),
        _set("study", 60, study="running"), _set("study", 60, study="around"),
    ),
    "settled": (
        _set("long_bows", beats_in_bow=8, repeats=1),
        _set("foundation_bow", start="both_ways", repeats=1), _set("speed_series"),
        _set("slowest_bow", seconds=15), _set("many_notes", notes_in_bow="16", repeats=1),
        _set("bow_changes", repeats=1), _set("crossings", 80, notes="stopped", repeats=1),
        _set("soft_bows", beats_in_bow=6, repeats=1), _set("growing_slur"),
        _set("dividing", shares="little_much"),
        _set("scale", 80, octaves=2, notes_in_bow=2), _set("drone_scale"),
        _set("scale", 72, figure="thirds"), _set("arpeggio", 66, octaves=2, notes_in_bow=3),
        _set("hand_pattern", position=3), _set("frame_across"), _set("open_stopped"),
        _set("shifts", from_position=1, to_position=3),
        _set("shifts", from_position=1, to_position=4, fingers="2-2"),
        _set("chromatic", 66), _set("scale", 72, octaves=2, bowing="two_two"),
        _set("double_scale", 54, interval="thirds", steps=5),
        _set("double_scale", 54, interval="sixths", steps=5), _set("over_open"),
        _set("balance", leading="rocking", repeats=1),
        _set("off_string", 76, stage="on_then_off"), _set("dotted", 72, dotted_notes="tune"),
        _set("pairs", 72), _set("clean_starts", repeats=1), _set("plucked", 72),
        _set("ring_thrice"), _set("echo", 72, contrast="mf-pp"),
        _set("long_shapes", shape="swell", beats_in_bow=6), _set("vibrato"),
        _set("tune_on_strings", 66), _set("harmonics", highest_partial=4), _set("held", 80),
        _set("study", 76, study="broken_chords"), _set("even_run", 66, pick_up="two"),
        _set("study", 84, study="leaping"), _set("study", 80, study="around", notes_in_bow=2),
    ),
    "advanced": (
        _set("foundation_bow", start="weight", repeats=1),
        _set("long_bows", beats_in_bow=12, repeats=1),
        _set("slowest_bow", seconds=25), _set("speed_series", 54),
        _set("many_notes", notes_in_bow="32", repeats=1), _set("bow_changes", 54, repeats=1),
        _set("crossings", 96, notes="tune"), _set("soft_bows", beats_in_bow=8, repeats=1),
        _set("dividing", shares="much_little"),
        _set("scale", 96, octaves=3, notes_in_bow=4, note_value="eighth"), _set("drone_scale"),
        _set("scale", 84, octaves=2, figure="thirds", notes_in_bow=2),
        _set("scale", 72, which_string="third"), _set("chromatic", 96, octaves=2, notes_in_bow=4),
        _set("arpeggio", 84, octaves=3, notes_in_bow=3), _set("hand_pattern", position=4),
        _set("arpeggio", 80, octaves=2, chord="diminished_seventh", notes_in_bow=4),
        _set("frame_across", position=3), _set("shifts", from_position=3, to_position=5),
        _set("shifts", from_position=2, to_position=5, fingers="2-1"),
        _set("scale", 88, octaves=3, rhythm="long_two", bowing="three_one"),
        _set("double_scale", 60, interval="thirds"), _set("double_scale", 60, interval="sixths"),
        _set("octave_hand", 54), _set("octave_hand", 54, octave_fingers="fingered"),
        _set("double_scale", 54, interval="sixths", scale_in="upper", order="lower_upper_both"),
        _set("double_scale", 60, interval="fourths"), _set("balance", leading="upper", repeats=1),
        _set("off_string", 96, notes="scale"), _set("off_string", 88, notes="tune"),
        _set("dotted", 84, character="sharp"), _set("pairs", 84), _set("plucked", 84),
        _set("ring_scale", 72), _set("echo", 80, contrast="mf-pp"),
        _set("vibrato", 54, beats_in_bow=6),
        _set("long_shapes", shape="fade", beats_in_bow=8), _set("tune_on_strings", 72),
        _set("harmonics", highest_partial=6), _set("artificial_harmonics"),
        _set("even_run", 92, pick_up="two"),
        _set("study", 96, study="leaping", note_value="sixteenth"),
        _set("study", 88, study="rocking", note_value="sixteenth", notes_in_bow=8),
        _set("study", 100, study="broken_chords", note_value="sixteenth", notes_in_bow=4),
    ),
}  # fmt: skip
"""In the order in which they take turns."""

WARM_UPS: dict[Level, tuple[Offered, ...]] = {
    "early": (
        _set("long_bows", repeats=1), _set("off_string", string="third", repeats=1),
        _set("balance", repeats=1), _set("scale", hand="first_position"),
        _set("scale", 66, hand="first_position", notes_in_bow=2), _set("open_stopped"),
    ),
    "settled": (
        _set("long_bows", repeats=1), _set("off_string", 72, repeats=1),
        _set("balance", repeats=1), _set("scale", 72, octaves=2),
        _set("scale", 80, octaves=2, notes_in_bow=2), _set("scale", 88, octaves=2, notes_in_bow=4),
        _set("open_stopped"), _set("hand_pattern", 66, position=3),
    ),
    "advanced": (
        _set("long_bows", beats_in_bow=8, repeats=1), _set("off_string", 88, repeats=1),
        _set("double_scale", interval="sixths"), _set("scale", 80, octaves=3),
        _set("scale", 92, octaves=3, notes_in_bow=2), _set("scale", 104, octaves=3, notes_in_bow=4),
        _set("open_stopped", 66), _set("hand_pattern", 80, position=3),
    ),
}  # fmt: skip
"""Open strings whole bows, groups of eight off the string, two strings, a scale separate – two –
four with rising tempo, open strings up and fourth finger down, then third position."""

_KEYS: dict[Level, dict[str, tuple[str, ...]]] = {
    "early": {
        "violin": ("D", "A", "G"), "viola": ("G", "D", "C"), "cello": ("C", "G", "D"),
        "bass": ("F", "G", "A"),
    },
    "settled": dict.fromkeys(
        ("violin", "viola", "cello", "bass"), ("G", "D", "A", "C", "F", "Bb", "E", "Eb")
    ),
    "advanced": dict.fromkeys(
        ("violin", "viola", "cello", "bass"),
        ("G", "D", "A", "E", "B", "F#", "C", "F", "Bb", "Eb", "Ab", "Db"),
    ),
}  # fmt: skip


def key_of_day(level: Level, instrument_id: str, day: int) -> str:
    """The tonic that scales and studies stand on today: a level's keys in turn.

    Parameters
    ----------
    level : Level
    instrument_id : str
    day : int
        Number of the day.
    """
    keys = _KEYS[level][instrument_id]
    return keys[day % len(keys)]


def turn_of(i: int, n: int, day: int) -> float:
    """How much it is the turn of one of ``n`` things today: 1 the first, going down to 0.

    Every day the two that came first go to the end.
    """
    return 1.0 - ((i - 2 * day) % n) / n
