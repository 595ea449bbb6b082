"""A double stop against its references: which note is out, which may move, what conflicts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from jigwright.core.gauge.values import Double
from jigwright.core.music.pitch import Pitch, hz_to_cents
from jigwright.core.music.references import PURE_FIFTH_CENTS, GoodPlace, pure_interval_cents

Voice = Literal["lower", "upper"]
Mover = Literal["upper", "lower", "neither", "both"]


_PURE_CENTS = 1.0  # of rounding, and of strings that were tuned a little off pure


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedDouble:
    """A double stop held against its targets.

    Parameters
    ----------
    lower_cents, upper_cents : float
        From the targets of the chosen reference.
    interval_error_cents : float
        Against the interval of the chosen reference; + is wide.
    against : tuple of (str, float)
        The same against ``equal``, ``pythagorean`` and ``pure``.
    mover : Mover
        Which note can be moved: an open string cannot; of two stopped notes the upper is fitted to
        the lower; a fifth under one finger moves both.
    lower_answer, upper_answer : GoodPlace or None
        Which of several good places of a degree was played; ``None``: it has one.
    upper_target_hz : float
        Where the upper note is asked to be.
    purer : (str, GoodPlace) or None
        Voice (``lower``, ``upper``) and the other good place of it that would make the interval
        pure where these two do not.
    """

    lower_cents: float
    upper_cents: float
    interval_error_cents: float
    against: tuple[tuple[str, float], ...]
    mover: Mover
    upper_target_hz: float = 0.0
    lower_answer: GoodPlace | None = None
    upper_answer: GoodPlace | None = None
    purer: tuple[Voice, GoodPlace] | None = None


Target = tuple[float, GoodPlace | None]


def nearest_answers(
    pure_cents: float, double: Double, lower: Sequence[Target], upper: Sequence[Target]
) -> tuple[Target, Target]:
    """Of the good places of both notes those that were meant.

    The usual places of both, or any two that make the interval pure: of these the two that the
    stop as a whole is nearest to. Another place that leaves it impure is for melodies.
    """
    ways = [
        (low, high) for low in lower for high in upper
        if (low == lower[0] and high == upper[0]) or _is_pure(low, high, pure_cents)
    ]  # fmt: skip
    return min(
        ways,
        key=lambda p: max(
            abs(hz_to_cents(double.lower_hz, p[0][0])), abs(hz_to_cents(double.upper_hz, p[1][0]))
        ),
    )


def _is_pure(low: Target, high: Target, pure_cents: float) -> bool:
    return abs(hz_to_cents(high[0], low[0]) - pure_cents) < _PURE_CENTS


def purer_place(
    pure_cents: float,
    taken: tuple[Target, Target],
    lower: Sequence[Target],
    upper: Sequence[Target],
) -> tuple[Voice, GoodPlace] | None:
    """Which other good place of one voice makes pure what the two that were taken do not."""
    low, high = taken
    if _is_pure(low, high, pure_cents):
        return None
    for other in lower:
        if other[1] is not None and _is_pure(other, high, pure_cents):
            return "lower", other[1]
    for other in upper:
        if other[1] is not None and _is_pure(low, other, pure_cents):
            return "upper", other[1]
    return None


def judge_double(
    double: Double,
    *,
    lower: Pitch,
    upper: Pitch,
    lower_places: Sequence[Target],
    upper_places: Sequence[Target],
    fingers: tuple[int | None, int | None] = (None, None),
) -> JudgedDouble:
    """Hold a measured double stop against the good places of its notes, and against intervals."""
    pure = pure_interval_cents(lower, upper)
    taken = nearest_answers(pure, double, lower_places, upper_places)
    (lower_target_hz, lower_answer), (upper_target_hz, upper_answer) = taken
    semitones = upper.midi - lower.midi
    fifths = upper.pitch_class.fifths - lower.pitch_class.fifths
    chain = fifths * PURE_FIFTH_CENTS
    pythagorean = chain + 1200.0 * round((100.0 * semitones - chain) / 1200.0)
    wanted = hz_to_cents(upper_target_hz, lower_target_hz)
    against = (
        ("equal", double.interval_cents - 100.0 * semitones),
        ("pythagorean", double.interval_cents - pythagorean),
        ("pure", double.interval_cents - pure),
    )
    return JudgedDouble(
        lower_cents=hz_to_cents(double.lower_hz, lower_target_hz),
        upper_cents=hz_to_cents(double.upper_hz, upper_target_hz),
        interval_error_cents=double.interval_cents - wanted,
        against=against,
        mover=_mover(fingers, semitones),
        upper_target_hz=upper_target_hz,
        lower_answer=lower_answer,
        upper_answer=upper_answer,
        purer=purer_place(pure, taken, lower_places, upper_places),
    )


def _mover(fingers: tuple[int | None, int | None], semitones: int) -> Mover:
    low_open, high_open = fingers[0] == 0, fingers[1] == 0
    if low_open and high_open:
        return "neither"
    if high_open:
        return "lower"
    if not low_open and fingers[0] is not None and fingers[0] == fingers[1] and semitones == 7:
        return "both"
    return "upper"


@dataclass(frozen=True, slots=True, kw_only=True)
class OtherAnswer:
    """What a pure interval with one open string costs against the other.

    Parameters
    ----------
    conflict : Conflict
    taken : Pitch or None
        The open string whose answer was played; ``None``: neither, or it cannot be told.
    middle : bool
        Whether the middle way was played.
    heard_cents : float
        From the note's equal-tempered place, as the answers.
    """

    conflict: Conflict
    taken: Pitch | None
    middle: bool
    heard_cents: float


_TAKEN_CENTS = 4.0  # from an answer, beyond the measure's own range: nobody tunes finer


def other_answer(
    double: Double,
    stopped: tuple[Pitch, int],
    with_open: int,
    open_hz: Mapping[Pitch, float],
    *,
    a4_hz: float,
) -> OtherAnswer | None:
    """The two pure answers of a stopped note that sounds with an open string, and which was taken.

    Parameters
    ----------
    double : Double
    stopped : tuple of (Pitch, int)
        The stopped note and its string.
    with_open : int
        The open string beside it that sounds too.
    open_hz : mapping of Pitch to float
        The strings as they are, low to high.
    a4_hz : float

    Returns
    -------
    OtherAnswer or None
        ``None`` where no other open string lies beside it, or both answers are the same.
    """
    pitch, string = stopped
    strings = list(open_hz)
    other = 2 * string - with_open
    if abs(string - with_open) != 1 or not 0 <= other < len(strings):
        return None
    conflict = find_conflict(pitch, (strings[with_open], strings[other]), open_hz, a4_hz=a4_hz)
    if conflict is None:
        return None
    is_lower = string < with_open
    heard_hz = double.lower_hz if is_lower else double.upper_hz
    range_cents = double.lower_uncertainty_cents if is_lower else double.upper_uncertainty_cents
    heard = hz_to_cents(heard_hz, a4_hz * 2.0 ** ((pitch.midi - 69) / 12.0))
    ways = (
        (conflict.first_cents, conflict.first), (conflict.second_cents, conflict.second),
        (0.5 * (conflict.first_cents + conflict.second_cents), None),
    )  # fmt: skip
    near = [(c, s) for c, s in ways if abs(heard - c) <= _TAKEN_CENTS + range_cents]
    sure = len(near) == 1
    return OtherAnswer(
        conflict=conflict, taken=near[0][1] if sure else None,
        middle=sure and near[0][1] is None, heard_cents=heard,
    )  # fmt: skip


def conflicts(open_hz: Mapping[Pitch, float], *, fifths: int, a4_hz: float) -> list[Conflict]:
    """Every note that a finger can stop between two open strings, where their answers differ.

    Only a string with a neighbour on either side has such notes: an E on a violin's D string sounds
    with the open G or with the open A, a B on its A string with the open D or the open E.

    Parameters
    ----------
    open_hz : mapping of Pitch to float
        The strings as they are, low to high.
    fifths : int
        Signature to spell notes in.
    a4_hz : float
    """
    strings = list(open_hz)
    found = []
    for below, own, above in zip(strings, strings[1:], strings[2:], strict=False):
        for midi in range(own.midi + 1, own.midi + 13):
            pitch = Pitch.from_midi(midi, fifths=fifths)
            conflict = find_conflict(pitch, (below, above), open_hz, a4_hz=a4_hz)
            if conflict is not None:
                found.append(conflict)
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class Conflict:
    """A note with two pure answers.

    Parameters
    ----------
    pitch, first, second : Pitch
        The note, and the two neighbours it is pure with.
    first_cents, second_cents : float
        The two answers, from the note's equal-tempered place over ``first`` and ``second``.
    """

    pitch: Pitch
    first: Pitch
    second: Pitch
    first_cents: float
    second_cents: float

    @property
    def apart_cents(self) -> float:
        """How far the answers lie apart; + when the second is higher."""
        return self.second_cents - self.first_cents


def find_conflict(
    pitch: Pitch, neighbours: Sequence[Pitch], open_hz: Mapping[Pitch, float], *, a4_hz: float
) -> Conflict | None:
    """The widest conflict between the pure answers over two open strings, or ``None``.

    Parameters
    ----------
    pitch : Pitch
    neighbours : sequence of Pitch
        Open strings the note sounds with.
    open_hz : mapping of Pitch to float
        The strings as they are.
    a4_hz : float
    """
    plain_hz = a4_hz * 2.0 ** ((pitch.midi - 69) / 12.0)
    answers: list[tuple[float, Pitch]] = []
    for string in neighbours:
        below = pitch.midi < string.midi
        pure = -pure_interval_cents(pitch, string) if below else pure_interval_cents(string, pitch)
        answers.append((hz_to_cents(open_hz[string], plain_hz) + pure, string))
    if len(answers) < 2:
        return None
    low, high = min(answers, key=lambda a: a[0]), max(answers, key=lambda a: a[0])
    if high[0] - low[0] < 2.0:
        return None
    return Conflict(
        pitch=pitch, first=low[1], second=high[1], first_cents=low[0], second_cents=high[0]
    )
