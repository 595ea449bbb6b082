"""Figures of a take against A, reference and tolerance: a pure function, never stored."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from jigwright.core.gauge.values import Double
from jigwright.core.jig.model import Jig, Notehead
from jigwright.core.judge.balance import NO_BALANCE, StringBalance, alone_levels, balance_of
from jigwright.core.judge.doubles import JudgedDouble, judge_double
from jigwright.core.judge.measured import MeasuredNote
from jigwright.core.music.instruments import instrument, millimetres
from jigwright.core.music.pitch import Pitch, hz_to_cents
from jigwright.core.music.references import GoodPlace, Reference, pure_strings, targets_hz
from jigwright.core.values import Unmeasured

Standing = Literal["in", "low", "high", "missed", "extra", "wrong", "uncertain"]
WRONG_NOTE_CENTS = 65.0
_HIDDEN_SPREADS = 2.0
_SAME_NOTE_CENTS = 60.0  # partial 11 lies 49 cents from the note it is called by


@dataclass(frozen=True, slots=True, kw_only=True)
class Context:
    """What every figure depends on besides the sound.

    Parameters
    ----------
    instrument_id : str
    strings : tuple of Pitch
    a4_hz : float
    reference : Reference
    tolerance_cents : float
    checked_hz : mapping of Pitch to float
        Open strings as they were measured that day; those not in it count as tuned in pure
        fifths (fourths) from A.
    string_length_mm : float or None
        Of this very instrument; ``None``: as a full-size one of its kind.
    """

    instrument_id: str
    strings: tuple[Pitch, ...]
    a4_hz: float
    reference: Reference
    tolerance_cents: float
    checked_hz: Mapping[Pitch, float] = field(default_factory=dict, hash=False)
    string_length_mm: float | None = None

    @property
    def length_mm(self) -> float:
        """Sounding string length from nut to bridge."""
        return self.string_length_mm or instrument(self.instrument_id).string_length_mm

    @property
    def open_hz(self) -> dict[Pitch, float]:
        """The open strings as well as they are known."""
        pure = pure_strings(self.strings, self.a4_hz)
        return {s: self.checked_hz.get(s, hz) for s, hz in pure.items()}


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedNote:
    """A measured note held against its target.

    Parameters
    ----------
    measured : MeasuredNote
    target_hz : float
    cents : float or None
        From the target, + is high; ``None`` when not heard.
    uncertainty_cents : float
        Half the 95 % range; 0 when not heard.
    standing : Standing
        ``low`` or ``high`` only when the uncertainty leaves no doubt; ``uncertain``: whether it
        was played cannot be told.
    string, finger : int or None
        Of the jig's fingering.
    off_mm : float or None
        How far along the string the finger would move to be right (+ towards the bridge).
    double : JudgedDouble or None
        Both voices of a double stop; ``cents`` is then the upper one's.
    balance : StringBalance
        Which string of a double stop leads.
    answer : GoodPlace or None
        Which of several good places of a degree ``target_hz`` is, the one nearest to what was
        played; ``None``: it has one.
    """

    measured: MeasuredNote
    target_hz: float
    cents: float | None
    uncertainty_cents: float
    standing: Standing
    string: int | None
    finger: int | None
    off_mm: float | None
    double: JudgedDouble | None = None
    balance: StringBalance = NO_BALANCE
    answer: GoodPlace | None = None

    @property
    def pitch(self) -> Pitch:
        """Written sounding pitch."""
        return self.measured.lined.pitch


def judge(
    measured: Sequence[MeasuredNote], jig: Jig | None, context: Context
) -> tuple[JudgedNote, ...]:
    """Hold every note against its target in the chosen reference."""
    open_hz = context.open_hz
    alone = alone_levels(measured)
    return tuple(
        replace(_judge_one(m, jig, context, open_hz), balance=balance_of(m, alone))
        for m in measured
    )


def _judge_one(
    m: MeasuredNote, jig: Jig | None, context: Context, open_hz: Mapping[Pitch, float]
) -> JudgedNote:
    heads = () if jig is None or m.lined.i_event is None else jig.events[m.lined.i_event].heads
    string, finger = (heads[-1].string, heads[-1].finger) if heads else (None, None)
    places = _places(m.lined.pitch, heads[-1] if heads else None, context, open_hz)
    under = heads[0] if heads else None
    lower = m.lined.lower
    below = () if lower is None else _places(lower, under, context, open_hz)
    if m.segment is None:
        return JudgedNote(
            measured=m, target_hz=places[0][0], cents=None, uncertainty_cents=0.0,
            standing="uncertain" if m.lined.state == "uncertain" else "missed",
            string=string, finger=finger, off_mm=None,
        )  # fmt: skip
    double = None
    if isinstance(m.double, Double) and lower is not None:
        double = judge_double(
            m.double, lower=lower, upper=m.lined.pitch, lower_places=below,
            upper_places=places,
            fingers=(heads[0].finger, heads[-1].finger) if heads else (None, None),
        )  # fmt: skip
        wanted, answer, cents = double.upper_target_hz, double.upper_answer, double.upper_cents
    else:
        wanted, answer = min(places, key=lambda p: abs(_cents(m, p[0], below)))
        cents = _cents(m, wanted, below)
    unsure = m.segment.uncertainty_cents + _hidden_cents(m)
    if double is not None and isinstance(m.double, Double):
        unsure = m.double.upper_uncertainty_cents
    return JudgedNote(
        measured=m,
        target_hz=wanted,
        cents=cents,
        uncertainty_cents=unsure,
        standing=_standing(m, cents, unsure, context.tolerance_cents),
        string=string,
        finger=finger,
        off_mm=_off_mm(cents, wanted, string, finger, context, open_hz),
        double=double,
        answer=answer,
    )


_Places = tuple[tuple[float, GoodPlace | None], ...]


def _places(
    pitch: Pitch, head: Notehead | None, context: Context, open_hz: Mapping[Pitch, float]
) -> _Places:
    """Where a note is in tune; a natural harmonic is what its string gives, whatever the scale."""
    usual = targets_hz(context.reference, pitch, context.a4_hz, open_strings_hz=open_hz)
    if head is None or head.partial < 2 or head.stopped is not None or head.string is None:
        return usual
    if head.string >= len(context.strings):
        return usual
    given = head.partial * open_hz[context.strings[head.string]]
    # one written for strings tuned otherwise is no partial of this one
    return ((given, None),) if abs(hz_to_cents(given, usual[0][0])) < _SAME_NOTE_CENTS else usual


def _cents(m: MeasuredNote, wanted_hz: float, below: _Places) -> float:
    """Cents from the target; of a stop whose two notes were not told, of the nearer one.

    Parameters
    ----------
    m : MeasuredNote
    wanted_hz : float
    below : tuple
        Places of the lower note of a stop; empty for a single note.
    """
    assert m.segment is not None
    if isinstance(m.double, Double):
        voices = (m.double.lower_hz, m.double.upper_hz)
        return min((hz_to_cents(v, wanted_hz) for v in voices), key=abs)
    cents = hz_to_cents(m.segment.f0_hz, wanted_hz)
    return min((cents, *(hz_to_cents(m.segment.f0_hz, f) for f, _ in below)), key=abs)


def _hidden_cents(m: MeasuredNote) -> float:
    """How far either of two fused notes may lie from the one pitch that is heard of them.

    A steady octave or unison is parted from a few cents on; under vibrato one that is thirty cents
    out stays one sound, somewhere between its two.
    """
    fused = isinstance(m.double, Unmeasured) and m.double.reason == "fused"
    return _HIDDEN_SPREADS * m.segment.spread_cents if fused and m.segment is not None else 0.0


def _standing(m: MeasuredNote, cents: float, unsure: float, tolerance: float) -> Standing:
    if m.lined.state == "extra":
        return "extra"
    if abs(cents) > WRONG_NOTE_CENTS:
        return "wrong"
    sure = abs(cents) - unsure > tolerance
    if not sure:
        return "in"
    return "low" if cents < 0 else "high"


def _off_mm(
    cents: float,
    wanted_hz: float,
    string: int | None,
    finger: int | None,
    context: Context,
    open_hz: Mapping[Pitch, float],
) -> float | None:
    if string is None or not finger or string >= len(context.strings):
        return None
    if abs(cents) > WRONG_NOTE_CENTS:
        return None
    string_hz = open_hz[context.strings[string]]
    length = context.length_mm
    return millimetres(-cents, wanted_hz, string_hz, length)
