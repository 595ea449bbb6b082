"""The references a note can be held against, and which pitch each holds still.

Equal temperament, Pythagorean and quarter-comma meantone chains by spelling from A4, just degrees
over a tonic or drone, *ring* tuning (open strings and their octaves, the rest Pythagorean) and
scale files. Ratios of the just scale: Barbour, *Tuning and Temperament* (1951), ch. 5.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from jigwright.core.errors import PitchNameError, TuningError
from jigwright.core.music.pitch import A4_MIDI, Pitch, PitchClass, cents_to_ratio, hz_to_cents

ReferenceKind = Literal["equal", "pythagorean", "just", "ring", "meantone", "scale"]
PURE_FIFTH_CENTS = 1200.0 * math.log2(3 / 2)
MEANTONE_FIFTH_CENTS = 300.0 * math.log2(5)
JUST_RATIOS: tuple[tuple[int, int], ...] = (
    (1, 1), (16, 15), (9, 8), (6, 5), (5, 4), (4, 3),
    (45, 32), (3, 2), (8, 5), (5, 3), (9, 5), (15, 8),
)  # fmt: skip
JUST_CENTS = tuple(1200.0 * math.log2(n / d) for n, d in JUST_RATIOS)


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
    octaves, degree = divmod(pitch.midi - tonic.midi, 12)
    if reference.drone_hz is None:
        base = _chain(tonic, PURE_FIFTH_CENTS)
    else:
        drone_cents = hz_to_cents(reference.drone_hz, a4_hz)
        nominal = 100.0 * (tonic.midi - A4_MIDI)
        base = drone_cents + 1200.0 * round((nominal - drone_cents) / 1200.0)
    return base + JUST_CENTS[degree] + 1200.0 * octaves


def _ring(pitch: Pitch, a4_hz: float, open_strings_hz: Mapping[Pitch, float]) -> float:
    same = [s for s in open_strings_hz if s.pitch_class == pitch.pitch_class]
    if not same:
        return _chain(pitch, PURE_FIFTH_CENTS)
    near = min(same, key=lambda s: abs(s.midi - pitch.midi))
    return hz_to_cents(open_strings_hz[near], a4_hz) + 100.0 * (pitch.midi - near.midi)


def _scale(reference: Reference, pitch: Pitch) -> float:
    tonic = Pitch.in_class(reference.tonic or PitchClass("C"), pitch.midi)
    base = 100.0 * (tonic.midi - A4_MIDI)
    octaves, rest = divmod(100.0 * (pitch.midi - tonic.midi), 1200.0)
    nearest = min((0.0, *reference.scale_cents), key=lambda c: abs(c - rest))
    return base + 1200.0 * octaves + nearest
