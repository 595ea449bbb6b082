"""What an exercise maker is: choices in, a jig out."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import Aim
from jigwright.core.jig.draft import Draft
from jigwright.core.jig.fingering import propose_fingering
from jigwright.core.jig.hand_check import hand_troubles
from jigwright.core.jig.model import Jig
from jigwright.core.music.instruments import Instrument, instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass

Family = Literal["bow", "pitch", "two_strings", "tone", "time"]
FAMILIES: tuple[Family, ...] = ("bow", "pitch", "two_strings", "tone", "time")


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingChoice:
    """One of several words.

    Parameters
    ----------
    id : str
    options : tuple of str
        The first is taken unless another is given.
    by_kind : mapping of str to tuple of str
        Options on instruments that have others.
    """

    id: str
    options: tuple[str, ...]
    by_kind: Mapping[str, tuple[str, ...]] = field(default_factory=dict)

    def on(self, instrument_id: str) -> SettingChoice:
        """The choice as it is on an instrument."""
        options = self.by_kind.get(instrument_id, self.options)
        return SettingChoice(id=self.id, options=options)

    @property
    def default(self) -> str:
        """What is taken when nothing is said."""
        return self.options[0]


@dataclass(frozen=True, slots=True, kw_only=True)
class Count:
    """A whole number.

    Parameters
    ----------
    id : str
    low, high, default : int
    by_kind : mapping of str to (int, int)
        Lowest and highest on instruments that have others.
    """

    id: str
    low: int
    high: int
    default: int
    by_kind: Mapping[str, tuple[int, int]] = field(default_factory=dict)

    def on(self, instrument_id: str) -> Count:
        """The number as it is on an instrument."""
        low, high = self.by_kind.get(instrument_id, (self.low, self.high))
        return Count(id=self.id, low=low, high=high, default=min(high, max(low, self.default)))


Field = SettingChoice | Count


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """For whom and with what an exercise is made.

    Parameters
    ----------
    instrument_id : str
    key : Key
    tempo_bpm : float
    values : mapping of str to str or int
        The maker's own fields; missing ones take their default.
    jig_id : str
    title : str
        Written by the caller, in the player's language.
    strings : tuple of Pitch
        Empty for the usual ones.
    string_length_mm : float or None
        Sounding length of the strings; ``None`` for the usual one.
    """

    instrument_id: str
    key: Key = field(default_factory=lambda: Key(PitchClass("D")))
    tempo_bpm: float = 60.0
    values: Mapping[str, str | int] = field(default_factory=dict)
    jig_id: str = "new"
    title: str = "exercise"
    strings: tuple[Pitch, ...] = ()
    string_length_mm: float | None = None

    @property
    def instrument(self) -> Instrument:
        """The instrument's record."""
        return instrument(self.instrument_id)

    @property
    def open_strings(self) -> tuple[Pitch, ...]:
        """Low to high."""
        return self.strings or self.instrument.strings

    @property
    def length_mm(self) -> float:
        """Sounding length of the strings."""
        return self.string_length_mm or self.instrument.string_length_mm

    def fingered(self, jig: Jig, *, first_position: bool = False) -> Jig:
        """The same with fingers for these strings.

        Raises
        ------
        JigError
            If only the first position is asked for and a note lies beyond it.
        """
        made = propose_fingering(
            jig, self.open_strings, string_length_mm=self.length_mm, as_written=True,
            first_position=first_position,
        )  # fmt: skip
        beyond = [
            h.pitch for e in made.events for h in e.heads
            if h.finger is None and h.partial == 1
        ]  # fmt: skip
        if first_position and beyond:
            raise JigError(f"{beyond[0]} lies beyond the first position")
        return made

    def playable(self, jig: Jig) -> Jig:
        """The same, if a hand can play it as it is fingered.

        Raises
        ------
        JigError
            If it cannot.
        """
        found = hand_troubles(jig, self.open_strings, string_length_mm=self.length_mm)
        if found:
            event = jig.events[found[0].i_event]
            notes = " and ".join(str(h.pitch) for h in event.heads)
            raise JigError(
                f"no hand of the {self.instrument_id} takes {notes} so ({found[0].kind})"
            )
        return jig

    def word(self, choice: SettingChoice) -> str:
        """The chosen word.

        Raises
        ------
        JigError
            If it is none of those of the instrument.
        """
        here = choice.on(self.instrument_id)
        value = self.values.get(choice.id, here.default)
        if value not in here.options:
            raise JigError(f"{choice.id}={value!r}: one of {', '.join(here.options)}")
        return str(value)

    def number(self, count: Count) -> int:
        """The chosen number.

        Raises
        ------
        JigError
            If it lies outside what the instrument has.
        """
        here = count.on(self.instrument_id)
        value = int(self.values.get(count.id, here.default))
        if not here.low <= value <= here.high:
            raise JigError(f"{count.id}={value}: {here.low} to {here.high}")
        return value

    def draft(self) -> Draft:
        """An empty exercise."""
        return Draft(self.jig_id)

    def finish(
        self, draft: Draft, *, beats_per_bar: int = 4, reference: str = "equal",
        tolerance_cents: float = 10.0, aims: tuple[Aim, ...] = (),
    ) -> Jig:  # fmt: skip
        """Close an exercise; the first aim is what it is for."""
        made = draft.finish(
            title=self.title, instrument_id=self.instrument_id, key=self.key,
            tempo_bpm=self.tempo_bpm, beats_per_bar=beats_per_bar, reference=reference,
            tolerance_cents=tolerance_cents,
        )  # fmt: skip
        return replace(made, aims=aims)


_NO_SIGNATURE = Key(PitchClass("C"))


@dataclass(frozen=True, slots=True, kw_only=True)
class Maker:
    """A kind of exercise.

    Parameters
    ----------
    id : str
    family : Family
    fields : tuple of Field
    made_by : callable
        Setting to jig; raises JigError when the instrument cannot play it.
    uses_key : bool
        Whether the key matters; exercises on open strings and the like have no signature.
    kinds : tuple of str
        Instruments that can play it at all.
    """

    id: str
    family: Family
    fields: tuple[Field, ...]
    made_by: Callable[[Setting], Jig]
    uses_key: bool = True
    kinds: tuple[str, ...] = ("violin", "viola", "cello", "bass")

    def make(self, setting: Setting) -> Jig:
        """Make the exercise.

        Raises
        ------
        JigError
            When the instrument cannot play it.
        """
        return self.made_by(setting if self.uses_key else replace(setting, key=_NO_SIGNATURE))

    def fields_on(self, instrument_id: str) -> tuple[Field, ...]:
        """The choices there are on an instrument; those of one word only are left out."""
        found = [f.on(instrument_id) for f in self.fields]
        return tuple(
            f for f in found
            if (len(f.options) > 1 if isinstance(f, SettingChoice) else f.high > f.low)
        )  # fmt: skip


def tonic_at(setting: Setting, *, lowest: int = 0) -> Pitch:
    """The lowest tonic not below string ``lowest``."""
    tonic = setting.key.tonic
    octave = 0
    while Pitch(tonic.step, tonic.alter, octave).midi < setting.open_strings[lowest].midi:
        octave += 1
    return Pitch(tonic.step, tonic.alter, octave)


def ladder(setting: Setting, start: Pitch, n: int) -> list[Pitch]:
    """``n`` notes of the scale upwards from a tonic."""
    degrees = setting.key.degrees()
    tonic = Pitch(degrees[0].step, degrees[0].alter, start.octave)
    return [
        Pitch(degrees[i % 7].step, degrees[i % 7].alter, (tonic.diatonic + i) // 7)
        for i in range(n)
    ]
