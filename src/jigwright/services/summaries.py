"""Summaries of takes: made once, kept in the studio, made anew when what they are of changes."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Collection, Sequence
from dataclasses import asdict
from typing import Protocol

from jigwright.core.isolation import isolated
from jigwright.core.judge.playing import timing_of
from jigwright.core.judge.summary import (
    SUMMARY_VERSION,
    TakeSummary,
    summarise,
    with_aims,
    with_changes,
    with_lengths,
    with_playing,
    with_rings,
)
from jigwright.core.sound.heard import METHOD_VERSION
from jigwright.core.values import Unmeasured
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import HeardStore, PracticeStore, TakeStore
from jigwright.services.take_reader import TakeReader


class SummaryStore(PracticeStore, HeardStore, TakeStore, Protocol):
    """What summaries need of a studio."""

    @property
    def read_only(self) -> bool:
        """Whether another window is the writer."""


class Summaries:
    """Figures of takes, as far as they are made.

    Parameters
    ----------
    studio : SummaryStore
    reader : TakeReader
    """

    def __init__(self, studio: SummaryStore, reader: TakeReader) -> None:
        self._studio, self._reader = studio, reader
        self._made: dict[str, TakeSummary] = {}
        self._parts: dict[tuple[str, str], TakeSummary] = {}
        self._methods: dict[str, int] = {}
        self._stored: dict[str, tuple[str, str]] = {}
        self._corrected: frozenset[str] = frozenset()
        self._was_read = False

    def reread(self) -> None:
        """Read what the studio keeps; what was heard anew is forgotten."""
        self._was_read = True
        self._stored = self._studio.summaries()
        self._corrected = self._studio.corrected()
        methods = self._studio.methods()
        if methods != self._methods:
            changed = {t for t, m in methods.items() if self._methods.get(t) != m}
            self._made = {t: s for t, s in self._made.items() if t not in changed}
            self._methods = methods
            self._parts.clear()

    def forget(self, take_ids: Collection[str] | None = None) -> None:
        """Make some anew when they are wanted next; ``None``: all of them."""
        gone = set(self._made if take_ids is None else take_ids)
        self._corrected = self._studio.corrected()
        self._methods = self._studio.methods()
        self._made = {t: s for t, s in self._made.items() if t not in gone}
        self._parts = {k: s for k, s in self._parts.items() if k[0] not in gone}

    def known(self, take: TakeRecord) -> TakeSummary | None:
        """Figures of a take as far as they were ever made."""
        if take.id not in self._made:
            self._read_once()
            inputs, body = self._stored.get(take.id, ("", ""))
            if inputs == self.inputs(take):
                with contextlib.suppress(ValueError, TypeError):
                    self._made[take.id] = TakeSummary(**json.loads(body))
        return self._made.get(take.id)

    def now(self, take: TakeRecord) -> TakeSummary:
        """Figures of a take, made when they are not there."""
        found = self.known(take)
        if found is None:
            found = self._made[take.id] = self._make(take)
        return found

    def make(self, takes: Sequence[TakeRecord]) -> None:
        """Make the summaries of some takes and keep them."""
        self._read_once()
        rows: dict[str, tuple[str, str]] = {}
        for take in takes:
            summary = self._made[take.id] = self._make(take)
            rows[take.id] = (self.inputs(take), json.dumps(asdict(summary)))
        if rows and not self._studio.read_only:
            self._studio.keep_summaries(rows)

    def missing(self, takes: Sequence[TakeRecord]) -> list[TakeRecord]:
        """Takes whose summary is not made."""
        return [t for t in takes if self.known(t) is None]

    def of_part(self, take: TakeRecord, part: str) -> TakeSummary:
        """Figures of one finger, string or note: ``finger:2``, ``string:0``, ``note:A4``."""
        key = (take.id, part)
        if key not in self._parts:
            kind, _, which = part.partition(":")
            notes = [
                n for n in self._reader.landings(take)
                if (kind == "finger" and str(n.finger) == which)
                or (kind == "string" and str(n.string) == which)
                or (kind == "note" and str(n.pitch) == which)
            ]  # fmt: skip
            summary = summarise(notes)
            if kind == "string":
                rows = self._rows_on(take, int(which))
                own = [s for s in self._reader.strokes(take) if rows.issuperset(s.rows)]
                summary = with_lengths(summary, own)
            self._parts[key] = summary
        return self._parts[key]

    def _rows_on(self, take: TakeRecord, string: int) -> set[int]:
        """Rows of a take that lie on one string."""
        judged = self._reader.judged(take, depth="pitches")
        notes = () if isinstance(judged, Unmeasured) else judged.notes
        return {i for i, n in enumerate(notes) if n.string == string}

    def is_of_now(self, take: TakeRecord) -> bool:
        """Whether a take was heard by the present method; older figures are not compared."""
        self._read_once()
        return self._methods.get(take.id) == METHOD_VERSION

    def inputs(self, take: TakeRecord) -> str:
        """What the summary of a take depends on; corrections by hand count."""
        pins = self._studio.corrections(take.id) if take.id in self._corrected else ()
        return (
            f"{SUMMARY_VERSION}|{take.sha256[:16]}|{take.a4_hz:g}|{take.reference}|"
            f"{take.tolerance_cents:g}|{self._methods.get(take.id, 0)}"
        ) + (f"|{[(p.at_s, p.i_event) for p in pins]}" if pins else "")

    def _read_once(self) -> None:
        if not self._was_read:
            self.reread()

    def _make(self, take: TakeRecord) -> TakeSummary:
        def made() -> TakeSummary:
            notes, strokes = self._reader.landings(take), self._reader.strokes(take)
            timing = timing_of([n.measured for n in notes], self._reader.jig_of(take))
            judged = self._reader.judged(take)
            summary = with_playing(summarise(notes), timing, strokes)
            if isinstance(judged, Unmeasured):
                return summary
            playing = judged.playing
            if playing is not None:
                summary = with_changes(summary, playing.changes, tail_s=playing.tail_s)
            return with_aims(with_rings(summary, judged.notes), judged.aims)

        return isolated("summary", made, summarise(()))
