"""What melodic exercises are made of: rows of notes, rhythms, bowings, tunes of our own."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import cycle, islice
from typing import Any

from jigwright.core.errors import JigError
from jigwright.core.jig.draft import Draft
from jigwright.core.jig.makers.spec import Setting, SettingChoice
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass

VALUES = {
    "half": Fraction(2), "quarter": Fraction(1), "eighth": Fraction(1, 2),
    "sixteenth": Fraction(1, 4),
}  # fmt: skip
VALUE = SettingChoice(id="note_value", options=("quarter", "half", "eighth", "sixteenth"))
RHYTHM = SettingChoice(
    id="rhythm", options=("even", "long_short", "short_long", "long_two", "two_long", "gallop")
)
BOWING = SettingChoice(
    id="bowing", options=("counted", "two_two", "one_three", "three_one", "two_one", "hooked")
)
FIGURE = SettingChoice(id="figure", options=("steps", "thirds", "fours", "triads", "returning"))
NOTES = SettingChoice(id="notes", options=("open", "stopped", "tune"))

_RHYTHMS = {
    "even": (Fraction(1),),
    "long_short": (Fraction(3, 2), Fraction(1, 2)),
    "short_long": (Fraction(1, 2), Fraction(3, 2)),
    "long_two": (Fraction(1), Fraction(1, 2), Fraction(1, 2)),
    "two_long": (Fraction(1, 2), Fraction(1, 2), Fraction(1)),
    "gallop": (Fraction(1, 2), Fraction(1, 4), Fraction(1, 4)),
}
"""Lengths in the note value, over and over."""
_BOWINGS = {
    "two_two": (2, 1, 1), "one_three": (1, 3), "three_one": (3, 1), "two_one": (2, 1),
    "hooked": (1, 1),
}  # fmt: skip
"""Notes in each stroke, over and over."""


def note_at(key: Key, diatonic: int, *, descending: bool = False) -> Pitch:
    """The note of a key with a letter.

    Parameters
    ----------
    key : Key
    diatonic : int
        Letters above C0.
    descending : bool
        As the scale comes down: melodic minor.
    """
    step = "CDEFGAB"[diatonic % 7]
    alter = {c.step: c.alter for c in key.degrees(descending=descending)}[step]
    return Pitch(step, alter, diatonic // 7)


def figured(line: Sequence[int], figure: str) -> list[tuple[int, bool]]:
    """A row of letters played as a figure on each of its steps.

    Parameters
    ----------
    line : sequence of int
        Letters of a scale going up and then down by steps, the top once.
    figure : str
        ``steps``: as it is; ``thirds``: 1 3, 2 4 …; ``fours``: 1 2 3 4, 2 3 4 5 …; ``triads``:
        1 3 5, 2 4 6 …; ``returning``: 1 2 1, 2 3 2 …; mirrored on the way down.

    Returns
    -------
    list of (int, bool)
        Letters, and whether they belong to the way down.

    Raises
    ------
    JigError
        If the row is too short for the figure.
    """
    shape = {
        "steps": (0,), "thirds": (0, 2), "fours": (0, 1, 2, 3), "triads": (0, 2, 4),
        "returning": (0, 1, 0),
    }[figure]  # fmt: skip
    top = max(range(len(line)), key=lambda i: line[i])
    reach = max(shape)
    starts = line[: top + 1 - reach], line[top + (reach == 0) : len(line) - reach]
    if not all(starts):
        raise JigError("a figure needs more notes than these")
    found = [(first + k, False) for first in starts[0] for k in shape]
    found += [(first - k, True) for first in starts[1] for k in shape]
    return found if found[-1][0] == line[-1] else [*found, (line[-1], True)]


@dataclass(frozen=True, slots=True, kw_only=True)
class LineManner:
    """How a row of notes is played.

    Parameters
    ----------
    value : Fraction
        Quarter notes of an even note.
    rhythm, bowing : str
    slur : int
        Notes in a bow where the bowing is ``counted``.
    """

    value: Fraction = Fraction(1)
    rhythm: str = "even"
    bowing: str = "counted"
    slur: int = 1

    def lengths(self, n: int) -> list[Fraction]:
        """Lengths of ``n`` notes in quarter notes; the last one fills what it began."""
        shares = _RHYTHMS[self.rhythm]
        found = [self.value * s for s in islice(cycle(shares), n)]
        left = (len(shares) - n) % len(shares)
        if left and n:
            found[-1] += self.value * sum(shares[len(shares) - left :], Fraction(0))
        return found

    def strokes(self, n: int) -> Iterator[tuple[bool, bool]]:
        """For each of ``n`` notes whether the stroke before goes on, and whether it is hooked on.

        A hooked note is a stroke of its own in the direction of the one before.
        """
        sizes = _BOWINGS.get(self.bowing, (self.slur,))
        places = cycle([k for size in sizes for k in range(size)])
        for i, k in enumerate(islice(places, n)):
            yield k > 0, self.bowing == "hooked" and i % 2 == 1


def write_line(
    draft: Draft, pitches: Sequence[Pitch], manner: LineManner, *, strings: Sequence[int] = (),
    **marks: Any,
) -> None:  # fmt: skip
    """Write a row of notes.

    Parameters
    ----------
    draft : Draft
    pitches : sequence of Pitch
    manner : LineManner
    strings : sequence of int
        The string of each note; empty: free.
    **marks
        Of every note.
    """
    n = len(pitches)
    lengths = manner.lengths(n)
    for i, (slurred, hooked) in enumerate(manner.strokes(n)):
        if hooked:
            draft.next_bow(draft.last_bow)
        draft.note(
            pitches[i], lengths[i], slurred=slurred,
            strings=(strings[i],) if strings else (), **marks,
        )  # fmt: skip


def chord_pitches(root: Pitch, chord: str, octaves: int) -> list[Pitch]:
    """A chord up from its root, spelled in thirds, with the root on top.

    Parameters
    ----------
    root : Pitch
    chord : str
        One of :data:`CHORDS`.
    octaves : int
    """
    sizes = CHORDS[chord]
    found = []
    for octave in range(octaves):
        for k, semitones in enumerate(sizes):
            letter = root.diatonic + 7 * octave + 2 * k
            found.append(_spelled(letter, root.midi + 12 * octave + semitones))
    return [*found, Pitch(root.step, root.alter, root.octave + octaves)]


CHORDS = {
    "major": (0, 4, 7), "minor": (0, 3, 7), "diminished": (0, 3, 6), "augmented": (0, 4, 8),
    "dominant_seventh": (0, 4, 7, 10), "major_seventh": (0, 4, 7, 11),
    "minor_seventh": (0, 3, 7, 10), "half_diminished": (0, 3, 6, 10),
    "diminished_seventh": (0, 3, 6, 9),
}  # fmt: skip
"""Semitones above the root."""


def _spelled(diatonic: int, midi: int) -> Pitch:
    """The note of a letter that sounds so; where that takes a double sign, an easier name."""
    step, octave = "CDEFGAB"[diatonic % 7], diatonic // 7
    alter = midi - Pitch(step, 0, octave).midi
    if abs(alter) > 1:
        return Pitch.from_midi(midi, fifths=-2 if alter < 0 else 2)
    return Pitch(step, alter, octave)


def chromatic_pitches(key: Key, start: Pitch, semitones: int) -> list[Pitch]:
    """All semitones up from a note of a key and down again, spelled as players read them.

    Notes of the key are spelled by it. The others are raised going up and lowered coming down,
    unless that makes an E♯, B♯, C♭ or F♭ or a double sign, which nobody reads there.
    """
    low = start.midi
    up = [_chromatic(key, m, up=True) for m in range(low, low + semitones + 1)]
    down = [_chromatic(key, m, up=False) for m in range(low + semitones - 1, low - 1, -1)]
    return [start, *up[1:], *down[:-1], start]


_HARD = frozenset({("E", 1), ("B", 1), ("C", -1), ("F", -1)})


def _chromatic(key: Key, midi: int, *, up: bool) -> Pitch:
    degrees = key.degrees(descending=not up)
    own = [c for c in degrees if c.semitone == midi % 12]
    if own:
        return Pitch.in_class(own[0], midi)
    raised = [PitchClass(c.step, c.alter + 1) for c in degrees]
    lowered = [PitchClass(c.step, c.alter - 1) for c in degrees]
    fitting = [
        c for c in ((*raised, *lowered) if up else (*lowered, *raised)) if c.semitone == midi % 12
    ]
    easy = [c for c in fitting if abs(c.alter) < 2 and (c.step, c.alter) not in _HARD]
    if easy:
        return Pitch.in_class(easy[0], midi)
    return Pitch.from_midi(midi, fifths=0)  # between E♯ and F𝄪: as on white keys


def lowest_note(setting: Setting, degree: int, *, on_string: int | None = None) -> Pitch:
    """The lowest note of a degree of the key: of all strings, or of one.

    Parameters
    ----------
    setting : Setting
    degree : int
        1 … 7.
    on_string : int or None
    """
    wanted = setting.key.degrees()[degree - 1]
    open_string = setting.open_strings[on_string or 0]
    octave = 0
    while Pitch(wanted.step, wanted.alter, octave).midi < open_string.midi:
        octave += 1
    return Pitch(wanted.step, wanted.alter, octave)


TUNE: tuple[tuple[int, Fraction], ...] = tuple(
    (degree, Fraction(beats))
    for degree, beats in (
        (0, "1"), (2, "1"), (1, "1/2"), (2, "1/2"), (3, "1"), (4, "2"), (3, "1"), (2, "1"),
        (1, "1"), (3, "1/2"), (2, "1/2"), (1, "1"), (0, "1"), (1, "2"), (2, "1"), (4, "1"),
        (3, "1/2"), (4, "1/2"), (3, "1"), (2, "2"), (3, "1"), (1, "1"), (0, "1"), (2, "1"),
        (1, "2"), (2, "1"), (1, "1"), (0, "3"),
    )
)  # fmt: skip
"""A tune of our own in a fifth: steps above its first note, and lengths; eight bars of four."""


def tune_pitches(key: Key, start: Pitch) -> list[tuple[Pitch, Fraction]]:
    """The tune from a note of a key."""
    return [(note_at(key, start.diatonic + k), beats) for k, beats in TUNE]


def tune_string(setting: Setting) -> int:
    """The string on which the tune lies nearest the nut: not the lowest, of several the highest."""
    strings = range(len(setting.open_strings) - 1, 0, -1)
    return min(
        strings,
        key=lambda s: lowest_note(setting, 1, on_string=s).midi - setting.open_strings[s].midi,
    )
