"""Writing events one after another: what every maker of exercises needs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any

from jigwright.core.errors import JigError
from jigwright.core.jig.model import BowDirection, Event, Jig, Notehead
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch

Beats = Fraction | int


class Draft:
    """A growing list of events with running time, bow and ids.

    Parameters
    ----------
    jig_id : str
        Ids of events and noteheads are built on it.
    """

    def __init__(self, jig_id: str) -> None:
        self._id = jig_id
        self._events: list[Event] = []
        self._at = Fraction(0)
        self._bow: BowDirection = "up"

    @property
    def events(self) -> tuple[Event, ...]:
        """What is written so far."""
        return tuple(self._events)

    @property
    def at_beats(self) -> Fraction:
        """Where the next event will stand."""
        return self._at

    def note(
        self,
        pitches: Pitch | Sequence[Pitch],
        beats: Beats,
        *,
        slurred: bool = False,
        bow: BowDirection | None = None,
        strings: Sequence[int | None] = (),
        fingers: Sequence[int | None] = (),
        partial: int = 1,
        stopped: Pitch | None = None,
        **marks: Any,
    ) -> None:
        """Add a note or a double stop.

        Parameters
        ----------
        pitches : Pitch or sequence of Pitch
            Low to high.
        beats : Fraction or int
        slurred : bool
            The stroke before goes on.
        bow : BowDirection, optional
            Otherwise the strokes alternate from a down bow.
        strings, fingers : sequence of int or None
            One for each pitch.
        partial : int
            Of a harmonic.
        stopped : Pitch, optional
            Of an artificial harmonic.
        **marks
            Further fields of :class:`~jigwright.core.jig.model.Event`.
        """
        chord = (pitches,) if isinstance(pitches, Pitch) else tuple(pitches)
        i = len(self._events)
        heads = tuple(
            Notehead(
                id=f"{self._id}.n{i}" if len(chord) == 1 else f"{self._id}.n{i}.{k}",
                pitch=pitch,
                string=strings[k] if k < len(strings) else None,
                finger=fingers[k] if k < len(fingers) else None,
                partial=partial,
                stopped=stopped,
            )
            for k, pitch in enumerate(chord)
        )
        direction: BowDirection | None = None
        if not slurred and not marks.get("pluck"):
            direction = bow or ("down" if self._bow == "up" else "up")
            self._bow = direction
        self._events.append(
            Event(
                id=f"{self._id}.e{i}", onset_beats=self._at, length_beats=Fraction(beats),
                heads=heads, bow=direction, **marks,
            )
        )  # fmt: skip
        self._at += Fraction(beats)

    def rest(self, beats: Beats) -> None:
        """Leave time."""
        self._at += Fraction(beats)

    def to_bar(self, bar_beats: Beats) -> None:
        """Rest until the next bar line."""
        over = self._at % Fraction(bar_beats)
        if over:
            self._at += Fraction(bar_beats) - over

    @property
    def last_bow(self) -> BowDirection:
        """The way of the last stroke."""
        return self._bow

    def next_bow(self, direction: BowDirection) -> None:
        """Let the next stroke go this way."""
        self._bow = "up" if direction == "down" else "down"

    def finish(
        self,
        *,
        title: str,
        instrument_id: str,
        key: Key,
        tempo_bpm: float,
        beats_per_bar: int = 4,
        beat_unit: int = 4,
        reference: str = "equal",
        tolerance_cents: float = 10.0,
    ) -> Jig:
        """Make the jig.

        Raises
        ------
        JigError
            If nothing was written.
        """
        if not self._events:
            raise JigError("an exercise needs at least one note")
        return Jig(
            id=self._id, title=title, instrument_id=instrument_id, key=key, tempo_bpm=tempo_bpm,
            beats_per_bar=beats_per_bar, beat_unit=beat_unit, reference=reference,
            tolerance_cents=tolerance_cents, events=tuple(self._events),
        )  # fmt: skip


def renamed(jig: Jig, jig_id: str) -> Jig:
    """The same exercise under a new identity, with new ids throughout."""
    events = tuple(
        replace(
            e, id=f"{jig_id}.e{i}",
            heads=tuple(replace(h, id=f"{jig_id}.n{i}.{k}") for k, h in enumerate(e.heads)),
        )
        for i, e in enumerate(jig.events)
    )  # fmt: skip
    new_id = {old.id: new.id for old, new in zip(jig.events, events, strict=True)}
    aims = tuple(
        replace(a, places=tuple(new_id[p] for p in a.places if p in new_id)) for a in jig.aims
    )
    return replace(jig, id=jig_id, revision=1, events=events, aims=aims)
