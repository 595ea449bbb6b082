"""What the simulated player may do besides playing the jig as written.

Each fault is a frozen value with plain fields; adding one means adding a class here and a branch
where it acts (:mod:`performance` for what changes notes, :mod:`synthesis` for what changes
sound). ``parse_faults`` reads a short text such as
``"detune finger=2 cents=-14; vibrato notes=3,4 rate_hz=5.5 extent_cents=40"`` or the same as JSON.
"""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass
from typing import Any, Literal

from jigwright.core.checking import read_json
from jigwright.core.errors import FaultError, FieldError
from jigwright.core.player.chosen import Chosen
from jigwright.core.player.real import REAL, Microphone, Place, Real


@dataclass(frozen=True, slots=True, kw_only=True)
class Detune(Chosen):
    """A constant offset and a random spread (standard deviation) in cents."""

    cents: float = 0.0
    spread_cents: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Slide(Chosen):
    """Begin ``from_cents`` away and reach the note after ``seconds``."""

    from_cents: float = -60.0
    seconds: float = 0.15


@dataclass(frozen=True, slots=True, kw_only=True)
class Hunt(Chosen):
    """Overshoot to and fro before settling: ``swings`` reversals of decreasing size."""

    size_cents: float = 40.0
    seconds: float = 0.4
    swings: int = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class VibratoFault(Chosen):
    """Vibrato; ``extent_cents`` peak to peak.

    ``irregularity`` is a relative spread from cycle to cycle; ``wander`` one of rate and width that
    changes slowly (1/f), as an arm does; ``arm_s`` is how long the width takes to grow.
    """

    rate_hz: float = 5.5
    extent_cents: float = 30.0
    start_s: float = 0.0
    irregularity: float = 0.0
    wander: float = 0.0
    arm_s: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Wrong(Chosen):
    """Play another note, ``semitones`` away."""

    semitones: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Miss(Chosen):
    """Leave the note out; its time stays silent or is closed up."""

    closed_up: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Extra(Chosen):
    """Play one more note, ``semitones`` away, after the chosen one."""

    semitones: int = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class Repeat(Chosen):
    """Play the chosen note again ``times`` times, each in its own bow."""

    times: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class BackOne(Chosen):
    """After the chosen note go back one note and come again.

    ``first_cents`` is the error of the first try.
    """

    first_cents: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Weak(Chosen):
    """Play the note ``db`` weaker."""

    db: float = 15.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape(Chosen):
    """Level shape over the note: ``grow``, ``fade``, ``swell`` or ``dip`` by ``db``."""

    kind: Literal["grow", "fade", "swell", "dip"] = "grow"
    db: float = 9.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Unsteady(Chosen):
    """Onsets spread by ``spread_ms`` (standard deviation)."""

    spread_ms: float = 20.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Pause(Chosen):
    """Stop for ``seconds`` before the chosen note."""

    seconds: float = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class BowChangeFault(Chosen):
    """How strokes join: the level dips by ``dip_db`` for about ``gap_ms``."""

    dip_db: float = 18.0
    gap_ms: float = 30.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Lower(Chosen):
    """The lower string of double stops: out by ``cents``, ``balance_db`` softer than the upper."""

    cents: float = 0.0
    balance_db: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Neighbour(Chosen):
    """The open string below sounds too, ``balance_db`` softer."""

    balance_db: float = 10.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Bounce(Chosen):
    """The bow loses the string ``times`` times: noisy dips of ``depth_db`` for ``width_ms``."""

    at: float = 0.5
    depth_db: float = 12.0
    width_ms: float = 30.0
    times: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Scratch(Chosen):
    """Noise ``db`` re the tone for ``seconds``, beginning at the share ``at`` of the note."""

    at: float = 0.4
    seconds: float = 0.12
    db: float = -6.0


@dataclass(frozen=True, slots=True, kw_only=True)
class WhistleFault(Chosen):
    """The string turns and whistles for ``seconds`` from the share ``at`` of the note.

    A line at ``f_hz``, ``db`` re the tone, which falls by ``loss_db``.
    """

    at: float = 0.3
    seconds: float = 0.25
    f_hz: float = 4800.0
    db: float = -4.0
    loss_db: float = 16.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Tremor(Chosen):
    """A shaking bow: the level swings by ``depth_db`` peak to peak, the pitch stays."""

    rate_hz: float = 6.5
    depth_db: float = 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Hurry(Chosen):
    """Left-over bow used up at the end: the last eighth swells by ``db``."""

    db: float = 6.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Lift(Chosen):
    """The bow leaves the string when ``share`` of the written length has sounded."""

    share: float = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class PluckFault(Chosen):
    """Plucked: decays by 60 dB in ``t60_s`` after a thud ``thud_db`` re the tone."""

    t60_s: float = 1.4
    thud_db: float = -16.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Fold(Chosen):
    """A harmonic folds: from the share ``at`` the string sounds another partial."""

    from_partial: int = 4
    to_partial: int = 3
    at: float = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Sympathy:
    """Open strings ring along: resonators at their partials, ``coupling_db`` below the note.

    ``muted`` strings (indices, 0 = lowest) are silent; string ``i`` is ``i * step_db`` weaker than
    the lowest, partial ``k`` weaker by ``slope_db`` an octave. ``out_string`` is ``out_cents`` off
    (+ is high). A string that was bowed open rings on by ``own_db`` re its note when the bow
    leaves it.
    """

    coupling_db: float = -26.0
    t60_s: float = 2.0
    muted: tuple[int, ...] = ()
    step_db: float = 0.0
    slope_db: float = 0.0
    out_string: int = 0
    out_cents: float = 0.0
    own_db: float = -12.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Touch:
    """A finger damps an open string from ``from_s`` to ``to_s`` after the first onset."""

    string: int = 0
    from_s: float = 2.5
    to_s: float = 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Drone:
    """A drone leaks into the microphone, ``db`` re the playing."""

    f_hz: float = 220.0
    db: float = -30.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Room:
    """A room: decay time, reverberant level re direct, and that of ``n_early`` reflections.

    ``high`` is the decay time at 8 kHz as a share of that at 500 Hz; 1: the same everywhere.
    """

    rt60_s: float = 0.25
    wet_db: float = -16.0
    n_early: int = 0
    early_db: float = -6.0
    high: float = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Noise:
    """Microphone noise ``snr_db`` below the playing; ``hum_hz`` adds mains hum at that level."""

    snr_db: float = 50.0
    hum_hz: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Gain:
    """Level of the whole take."""

    db: float = 0.0


MOST_FAULTS = 500
RANGES: tuple[tuple[str, tuple[float, float]], ...] = (
    ("spread_cents", (0.0, 1200.0)), ("extent_cents", (0.0, 1200.0)),
    ("cents", (-4800.0, 4800.0)),
    ("_db", (-120.0, 120.0)), ("db", (-120.0, 120.0)),
    ("rt60_s", (0.01, 20.0)), ("t60_s", (0.01, 60.0)), ("hum_hz", (0.0, 1000.0)),
    ("rate_hz", (0.1, 40.0)), ("f_hz", (10.0, 20_000.0)), ("_ms", (0.0, 5000.0)),
    ("seconds", (0.0, 600.0)), ("_s", (0.0, 3600.0)), ("semitones", (-48, 48)),
    ("times", (0, 50)), ("swings", (0, 50)), ("share", (0.01, 1.0)), ("at", (0.0, 1.0)),
    ("irregularity", (0.0, 1.0)), ("wander", (0.0, 1.0)), ("high", (0.05, 1.0)),
    ("partial", (1, 32)), ("finger", (0, 9)), ("string", (0, 9)), ("n_early", (0, 40)),
    ("per_min", (0.0, 200.0)), ("percent", (0.0, 60.0)),
)  # fmt: skip
"""What a field may hold, by the end of its name, the first that fits."""
CHOICES: dict[type, tuple[str, ...]] = {
    Shape: ("grow", "fade", "swell", "dip"),
    Microphone: ("studio", "laptop", "phone"),
}
Fault = (
    Detune | Slide | Hunt | VibratoFault | Wrong | Miss | Extra | Repeat | BackOne | Weak | Shape
    | Unsteady | Pause | BowChangeFault | Lower | Neighbour | Bounce | Scratch | WhistleFault
    | Tremor | Hurry | Lift | PluckFault | Fold | Sympathy | Touch | Drone | Room | Noise | Gain
    | Real | Place
)  # fmt: skip
KINDS: dict[str, type[Fault]] = {
    "detune": Detune, "slide": Slide, "hunt": Hunt, "vibrato": VibratoFault, "wrong": Wrong,
    "miss": Miss, "extra": Extra, "repeat": Repeat, "back_one": BackOne, "weak": Weak,
    "shape": Shape, "unsteady": Unsteady, "pause": Pause, "bow_change": BowChangeFault,
    "room": Room, "noise": Noise, "gain": Gain, "lower": Lower, "neighbour": Neighbour,
    "bounce": Bounce,
    "scratch": Scratch, "whistle": WhistleFault, "tremor": Tremor, "hurry": Hurry, "lift": Lift,
    "sympathy": Sympathy, "touch": Touch, "drone": Drone, "pluck": PluckFault, "fold": Fold,
    **REAL,
}  # fmt: skip


def parse_faults(text: str) -> tuple[Fault, ...]:
    """Read a fault list from a short text or from JSON.

    Raises
    ------
    FaultError
        If a fault or field is unknown or a value does not fit.
    """
    text = text.strip()
    if not text:
        return ()
    if text.startswith(("[", "{")):
        try:
            rows = read_json(text, what="fault list")
        except FieldError as error:
            raise FaultError(str(error)) from None
        rows = rows if isinstance(rows, list) else [rows]
        return _enough(tuple(_from_dict(r) for r in rows))
    faults = []
    for part in text.split(";"):
        words = part.split()
        if not words:
            continue
        row: dict[str, Any] = {"fault": words[0]}
        for word in words[1:]:
            name, equals, value = word.partition("=")
            if not equals:
                raise FaultError(f"write name=value, got {word!r} in {part.strip()!r}")
            row[name] = value
        faults.append(_from_dict(row))
    return _enough(tuple(faults))


def _enough(faults: tuple[Fault, ...]) -> tuple[Fault, ...]:
    if len(faults) > MOST_FAULTS:
        raise FaultError(f"{len(faults)} faults; at most {MOST_FAULTS} are planted at once")
    return faults


def _from_dict(row: Any) -> Fault:
    name = row.get("fault") if isinstance(row, dict) else None
    if not isinstance(name, str) or name not in KINDS:
        raise FaultError(f"unknown fault in {row!r:.80}: one of {', '.join(KINDS)}")
    kind = KINDS[row["fault"]]
    known = {f.name: f.default for f in dataclasses.fields(kind)}
    values: dict[str, Any] = {}
    for name, value in row.items():
        if name == "fault":
            continue
        if name not in known:
            raise FaultError(f"{row['fault']}: unknown field {name!r}: one of {', '.join(known)}")
        try:
            values[name] = _coerce(value, known[name])
            _check_range(name, values[name])
        except (TypeError, ValueError, OverflowError) as error:
            why = f": {error}" if isinstance(error, OutOfRangeError) else ""
            raise FaultError(f"{row['fault']}: {name}={value!r:.40} does not fit{why}") from None
    if "kind" in values and values["kind"] not in CHOICES[kind]:
        raise FaultError(f"{row['fault']}: unknown kind {values['kind']!r}")
    return kind(**values)


class OutOfRangeError(ValueError):
    """A number that no player could mean."""


def _check_range(name: str, value: Any) -> None:
    """See that a field's value can be played at all; names carry the unit.

    Raises
    ------
    OutOfRangeError
    """
    if not isinstance(value, (int, float)) or isinstance(value, bool):
        if isinstance(value, tuple) and any(not 0 <= i < 100_000 for i in value):
            raise OutOfRangeError("places run from 0 to 99999")
        return
    low, high = next(
        (span for end, span in RANGES if name == end or name.endswith(end)), (-1e4, 1e4)
    )
    if not low <= value <= high:  # false for NaN, too
        raise OutOfRangeError(f"{name} runs from {low:g} to {high:g}")


def _coerce(value: Any, default: Any) -> Any:
    if isinstance(default, tuple):
        parts = value.split(",") if isinstance(value, str) else value
        return tuple(int(p) for p in parts)
    if isinstance(default, bool):
        return value in (True, "true", "yes", "1")
    if isinstance(default, str):
        return str(value)
    if isinstance(default, int) or default is None:
        return int(value)
    return float(value)
