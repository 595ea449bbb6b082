"""The references a note can be held against, and which pitch each holds still.

Equal temperament, Pythagorean and quarter-comma meantone chains by spelling from A4, just degrees
over a tonic or drone, *ring* tuning (open strings and their octaves, the rest Pythagorean) and
scale files. Just ratios go by spelling: those of the scale (Barbour, *Tuning and Temperament*,
1951, ch. 5), and every note further out as a pure semitone (16 : 15) from the scale's note it
leads to: G♯ over C leads to the A (25 : 16, 773 cents), A♭ is a minor sixth (8 : 5, 814). Degrees
with two good answers – second, sixth, sevenths, tritone – have a second ratio: the chain's for
those whose first is pure, and the small second (10 : 9), which a pure third below the fourth needs.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from jigwright.core.errors import PitchNameError, TuningError
from jigwright.core.music.pitch import A4_MIDI, Pitch, PitchClass, cents_to_ratio, hz_to_cents

ReferenceKind = Literal["equal", "pythagorean", "just", "ring", "meantone", "scale"]
PURE_FIFTH_CENTS = 1200.0 * math.log2(3 / 2)
MEANTONE_FIFTH_CENTS = 300.0 * math.log2(5)
Ratio = tuple[int, int]
_JUST: dict[int, Ratio] = {
    -6: (64, 45), -5: (16, 15), -4: (8, 5), -3: (6, 5), -2: (9, 5), -1: (4, 3), 0: (1, 1),
    1: (3, 2), 2: (9, 8), 3: (5, 3), 4: (5, 4), 5: (15, 8), 6: (45, 32),
}  # fmt: skip
_ALSO: dict[int, Ratio] = {
    -6: (1024, 729),
    -2: (16, 9),
    2: (10, 9),
    3: (27, 16),
    5: (243, 128),
    6: (729, 512),
}
_FIFTH_NEAR_CENTS = 25.0


@dataclass(frozen=True, slots=True, kw_only=True)
class GoodPlace:
    """A ratio over a tonic that is a good one for a degree.

    Parameters
    ----------
    ratio : (int, int)
        Within an octave above the tonic.
    fifths : int
        The degree, on the line of fifths from the tonic.
    is_first : bool
        Whether it is the one that is shown before anything is heard.
    """

    ratio: Ratio
    fifths: int
    is_first: bool

    @property
    def cents(self) -> float:
        """Size above the tonic."""
        n, d = self.ratio
        return 1200.0 * math.log2(n / d)


def just_ratio(fifths: int) -> Ratio:
    """Pure ratio, 1 … 2, of an interval by its place on the line of fifths.

    Parameters
    ----------
    fifths : int
        Of the upper note from the lower: 4 is a third, 8 an augmented fifth, -4 a minor sixth.
    """
    if fifths in _JUST:
        return _JUST[fifths]
    down = fifths > 0  # a sharp leads up and lies a semitone below its note, a flat above
    n, d = just_ratio(fifths - 5 if down else fifths + 5)
    return _in_octave(Fraction(n, d) * (Fraction(15, 16) if down else Fraction(16, 15)))


def just_answers(fifths: int) -> tuple[GoodPlace, ...]:
    """The good ratios of a degree over its tonic, the usual one first."""
    first = GoodPlace(ratio=just_ratio(fifths), fifths=fifths, is_first=True)
    if fifths not in _ALSO:
        return (first,)
    return (first, GoodPlace(ratio=_ALSO[fifths], fifths=fifths, is_first=False))


def pure_interval_cents(lower: Pitch, upper: Pitch) -> float:
    """Size of the pure interval between two spelled pitches, compound ones by octaves."""
    n, d = just_ratio(upper.pitch_class.fifths - lower.pitch_class.fifths)
    size = 1200.0 * math.log2(n / d)
    return size + 1200.0 * round((100.0 * (upper.midi - lower.midi) - size) / 1200.0)


def _in_octave(ratio: Fraction) -> Ratio:
    while ratio < 1:
        ratio *= 2
    while ratio >= 2:
        ratio /= 2
    return ratio.numerator, ratio.denominator


@dataclass(frozen=True, slots=True, kw_only=True)
class Reference:
    """A rule that gives every spelled pitch its target frequency.

    Parameters
    ----------
    kind : ReferenceKind
    tonic : PitchClass or None
        Degree 1 of ``just`` and of a ``scale``.
    drone_hz : float or None
        For ``just``: the drone that sounds; the tonic then stands where the drone stands.
    scale_cents : tuple of float
        For ``scale``: degrees above the tonic, the last one the octave (1200).
    scale_name : str
    """

    kind: ReferenceKind
    tonic: PitchClass | None = None
    drone_hz: float | None = None
    scale_cents: tuple[float, ...] = ()
    scale_name: str = ""

    @property
    def name(self) -> str:
        """Name as on the command line, for instance ``just:D``."""
        if self.kind == "just":
            return f"just:{self.tonic}"
        if self.kind == "scale":
            return self.scale_name if self.tonic is None else f"{self.scale_name}:{self.tonic}"
        return self.kind


EQUAL = Reference(kind="equal")
PYTHAGOREAN = Reference(kind="pythagorean")
MEANTONE = Reference(kind="meantone")
RING = Reference(kind="ring")


def just(tonic: PitchClass, *, drone_hz: float | None = None) -> Reference:
    """Just degrees over a tonic."""
    return Reference(kind="just", tonic=tonic, drone_hz=drone_hz)


def parse_reference(text: str) -> Reference:
    """Read ``equal``, ``pythagorean``, ``just:D``, ``ring`` or ``meantone``.

    Raises
    ------
    TuningError
        If the text is none of these.
    """
    head, _, tail = text.strip().partition(":")
    plain = {"equal": EQUAL, "pythagorean": PYTHAGOREAN, "meantone": MEANTONE, "ring": RING}
    if head in plain and not tail:
        return plain[head]
    if head == "just":
        if not tail:
            raise TuningError("a just reference needs its tonic, for instance just:D")
        try:
            return just(PitchClass.parse(tail))
        except PitchNameError as error:
            raise TuningError(f"not a tonic: {tail!r} in {text!r}") from error
    raise TuningError(
        f"unknown reference {text!r}: equal, pythagorean, just:TONIC, ring, meantone or FILE.scl"
    )


def parse_scale(text: str, *, name: str, tonic: PitchClass | None = None) -> Reference:
    """Read the text of a Scala scale file.

    Parameters
    ----------
    text : str
        Content of the ``.scl`` file.
    name : str
        File name, for display.
    tonic : PitchClass, optional
        Where degree 0 stands; C at its equal place by default.

    Raises
    ------
    TuningError
        If the file is malformed or its scale does not close on the octave.
    """
    lines = [line.strip() for line in text.splitlines() if not line.startswith("!")]
    if len(lines) < 2:
        raise TuningError(f"{name}: not a scale file (no description and count of degrees)")
    try:
        count = int(lines[1].split()[0])
    except (ValueError, IndexError):
        raise TuningError(f"{name}: the count of degrees is not a number: {lines[1]!r}") from None
    rows = [line for line in lines[2:] if line][:count]
    if not 1 <= count <= 1200 or len(rows) < count:
        raise TuningError(f"{name}: {count} degrees announced, {len(rows)} found")
    degrees = tuple(_degree_cents(row, name) for row in rows)
    if abs(degrees[-1] - 1200.0) > 0.01:
        raise TuningError(
            f"{name}: the scale ends at {degrees[-1]:.1f} cents, not at the octave; "
            "only scales that repeat at the octave can be used"
        )
    return Reference(kind="scale", tonic=tonic, scale_cents=degrees, scale_name=name)


def _degree_cents(row: str, name: str) -> float:
    token = row.split()[0]
    try:
        if "." in token:
            return float(token)
        top, _, bottom = token.partition("/")
        ratio = int(top) / int(bottom or "1")
        return 1200.0 * math.log2(ratio)
    except (ValueError, ZeroDivisionError):
        raise TuningError(f"{name}: not a degree: {row!r}") from None


def target_hz(
    reference: Reference,
    pitch: Pitch,
    a4_hz: float,
    *,
    open_strings_hz: Mapping[Pitch, float] | None = None,
) -> float:
    """Frequency that a spelled pitch should have.

    Parameters
    ----------
    reference : Reference
    pitch : Pitch
        Sounding pitch.
    a4_hz : float
        Frequency of the tuning A, 380 … 470 Hz.
    open_strings_hz : mapping of Pitch to float, optional
        For ``ring``: the open strings, as measured or as tuned (see :func:`pure_strings`).

    Returns
    -------
    float
        Target in Hz.
    """
    return a4_hz * cents_to_ratio(_cents_from_a4(reference, pitch, a4_hz, open_strings_hz))


def targets_hz(
    reference: Reference,
    pitch: Pitch,
    a4_hz: float,
    *,
    open_strings_hz: Mapping[Pitch, float] | None = None,
) -> tuple[tuple[float, GoodPlace | None], ...]:
    """Every frequency that is a good one for a spelled pitch, the usual one first.

    Only degrees over a tonic have two; parameters and errors as of :func:`target_hz`.
    """
    first = target_hz(reference, pitch, a4_hz, open_strings_hz=open_strings_hz)
    if reference.kind != "just" or reference.tonic is None:
        return ((first, None),)
    answers = just_answers(pitch.pitch_class.fifths - reference.tonic.fifths)
    if len(answers) == 1:
        return ((first, None),)
    return tuple((first * cents_to_ratio(a.cents - answers[0].cents), a) for a in answers)


def over_sounding(reference: Reference, drone: PitchClass | None) -> Reference:
    """The reference that holds while a drone sounds: just degrees are over that note."""
    return just(drone) if reference.kind == "just" and drone is not None else reference


def pure_strings(strings: tuple[Pitch, ...], a4_hz: float) -> dict[Pitch, float]:
    """Open strings in pure fifths (fourths) from A4."""
    return {s: a4_hz * cents_to_ratio(_chain(s, PURE_FIFTH_CENTS)) for s in strings}


def holds_still(reference: Reference) -> str:
    """Which pitch the reference holds still: ``A``, ``drone``, ``tonic`` or ``strings``."""
    if reference.kind == "just":
        return "drone" if reference.drone_hz is not None else "tonic"
    if reference.kind == "scale":
        return "tonic"
    return "strings" if reference.kind == "ring" else "A"


def _cents_from_a4(
    reference: Reference,
    pitch: Pitch,
    a4_hz: float,
    open_strings_hz: Mapping[Pitch, float] | None,
) -> float:
    match reference.kind:
        case "equal":
            return 100.0 * (pitch.midi - A4_MIDI)
        case "pythagorean":
            return _chain(pitch, PURE_FIFTH_CENTS)
        case "meantone":
            return _chain(pitch, MEANTONE_FIFTH_CENTS)
        case "just":
            return _just(reference, pitch, a4_hz)
        case "ring":
            return _ring(pitch, a4_hz, open_strings_hz or {})
        case "scale":
            return _scale(reference, pitch)


def _chain(pitch: Pitch, fifth_cents: float) -> float:
    """Cents from A4 along a chain of equal fifths, by spelling."""
    fifths = pitch.pitch_class.fifths - PitchClass("A").fifths
    octaves = (pitch.midi - A4_MIDI - 7 * fifths) // 12
    return fifths * fifth_cents + 1200.0 * octaves


def _just(reference: Reference, pitch: Pitch, a4_hz: float) -> float:
    assert reference.tonic is not None
    tonic = Pitch.in_class(reference.tonic, pitch.midi)
    if reference.drone_hz is None:
        base = _chain(tonic, PURE_FIFTH_CENTS)
    else:
        drone_cents = hz_to_cents(reference.drone_hz, a4_hz)
        nominal = 100.0 * (tonic.midi - A4_MIDI)
        base = drone_cents + 1200.0 * round((nominal - drone_cents) / 1200.0)
    return base + pure_interval_cents(tonic, pitch)


def _ring(pitch: Pitch, a4_hz: float, open_strings_hz: Mapping[Pitch, float]) -> float:
    same = [s for s in open_strings_hz if s.pitch_class == pitch.pitch_class]
    if not same:
        return _chain(pitch, PURE_FIFTH_CENTS)
    near = min(same, key=lambda s: abs(s.midi - pitch.midi))
    return hz_to_cents(open_strings_hz[near], a4_hz) + 100.0 * (pitch.midi - near.midi)


def _scale(reference: Reference, pitch: Pitch) -> float:
    tonic = Pitch.in_class(reference.tonic or PitchClass("C"), pitch.midi)
    base = 100.0 * (tonic.midi - A4_MIDI)
    semitones = pitch.midi - tonic.midi
    if len(reference.scale_cents) == 12:  # one degree to a key, however it is spelled
        octaves, degree = divmod(semitones, 12)
        ladder = (0.0, *sorted(reference.scale_cents))
        return base + 1200.0 * octaves + ladder[degree]
    whole, rest = divmod(_spelled_cents(reference, tonic, pitch), 1200.0)
    nearest = min((0.0, *reference.scale_cents), key=lambda c: abs(c - rest))
    return base + 1200.0 * whole + nearest


def _spelled_cents(reference: Reference, tonic: Pitch, pitch: Pitch) -> float:
    """About where a spelled note lies in a scale: along the scale's own fifth, if it has one."""
    plain = 100.0 * (pitch.midi - tonic.midi)
    fifth = min(reference.scale_cents, key=lambda c: abs(c - PURE_FIFTH_CENTS))
    if abs(fifth - PURE_FIFTH_CENTS) > _FIFTH_NEAR_CENTS:
        return plain
    along = fifth * (pitch.pitch_class.fifths - tonic.pitch_class.fifths)
    return along + 1200.0 * round((plain - along) / 1200.0)
