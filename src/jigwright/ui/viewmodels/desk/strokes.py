"""Strokes of all takes of a jig, and the player's own best long bow."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.gauge.values import Stroke
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.changes import Gathered, Place, best_of, courses_of, gather
from jigwright.core.judge.findings import Finding
from jigwright.core.judge.ribbons import Ribbon, ribbons_of
from jigwright.core.judge.strokes import LONG_S, Band, best_long, lay_over, same_part
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import TakeStore
from jigwright.services.take_reader import TakeReader

_MOST_TAKES = 40
_MOST_LONG_TAKES = 30
_AHEAD_MS = 15


class StrokeStore(TakeStore, Protocol):
    """Takes, and whether anything changed."""

    @property
    def stamp(self) -> tuple[int, int]:
        """Another value after every change."""


@dataclass(frozen=True, slots=True, kw_only=True)
class BestBow:
    """The steadiest long stroke a player has played on an instrument.

    Parameters
    ----------
    take : TakeRecord
    i_channel : int
    stroke : Stroke
    ribbon : Ribbon
    """

    take: TakeRecord
    i_channel: int
    stroke: Stroke
    ribbon: Ribbon


@dataclass(frozen=True, slots=True, kw_only=True)
class _Bowing:
    """What is remembered of a take."""

    strokes: tuple[Stroke, ...]
    ribbons: tuple[Ribbon, ...]
    changes: tuple[Gathered, ...]


class StrokesModel(QObject):
    """Reads takes from the studio a few at a time; remembers their strokes.

    Signals
    -------
    changed
        All strokes of the shelf are known now.
    """

    changed = pyqtSignal()

    def __init__(
        self,
        studio: StrokeStore,
        reader: TakeReader,
        shelf: Callable[[], Sequence[TakeRecord]],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._studio, self._reader, self._shelf = studio, reader, shelf
        self._timer = QTimer(self)
        self._timer.setInterval(_AHEAD_MS)
        self._timer.timeout.connect(self._read_ahead)
        self._known: dict[str, _Bowing] = {}
        self._best: tuple[object, BestBow | None] = (None, None)

    def bands(self) -> tuple[tuple[Band, ...], int]:
        """Strokes of the takes on the shelf over each other, the newest forty, and how many.

        Nothing as long as they are being read: ``changed`` tells when they are.
        """
        takes = self._takes()
        if len(takes) < 2:
            return (), len(takes)
        if any(take.id not in self._known for take in takes):
            if not self._timer.isActive():  # to start it again would put it off
                self._timer.start()
            return (), 0
        ribbons = [r for take in takes for r in self._of(take).ribbons]
        return lay_over(ribbons), len(takes)

    def best_changes(self, shown: TakeRecord, place: Place) -> tuple[TakeRecord, Gathered] | None:
        """The other take of the shelf whose changes of a place leave the smallest hole.

        ``None`` as long as the shelf is being read, or where no take has enough of them. Takes
        through another input, or on another instrument, are not compared.
        """
        takes = [
            t for t in self._takes()
            if t.id != shown.id and t.is_own == shown.is_own and t.input_name == shown.input_name
            and t.instrument_id == shown.instrument_id
        ]  # fmt: skip
        if any(take.id not in self._known for take in self._takes()):
            if not self._timer.isActive():
                self._timer.start()
            return None
        found = best_of([self._of(t).changes for t in takes], place)
        return None if found is None else (takes[found[0]], found[1])

    def _takes(self) -> list[TakeRecord]:
        return list(self._shelf())[-_MOST_TAKES:]

    def _read_ahead(self) -> None:
        for take in self._takes():
            if take.id not in self._known:
                self._of(take)
                return
        self._timer.stop()
        self.changed.emit()

    def close_down(self) -> None:
        """The studio is about to close."""
        self._timer.stop()

    def best(self, shown: TakeRecord) -> BestBow | None:
        """The best long bow of the player of a take on its instrument."""
        key = (shown.player_id, shown.instrument_id, self._studio.stamp)
        if self._best[0] != key:
            self._best = (key, self._search(shown))
        return self._best[1]

    def part_for(
        self, shown: TakeRecord, judged: Judged, finding: Finding
    ) -> tuple[BestBow, tuple[float, float]] | None:
        """What to hear beside a fault of the bow: the same part of the best long bow."""
        best, playing = self.best(shown), judged.playing
        if best is None or playing is None:
            return None
        kind = finding.id.removeprefix("bow_")
        for event in playing.events:
            if event.kind != kind or event.row != finding.notes[0]:
                continue
            middle = 0.5 * (event.start_s + event.end_s)
            for stroke in playing.strokes:
                if stroke.start_s <= middle <= stroke.end_s:
                    part = same_part((event.start_s, event.end_s), stroke, best.stroke)
                    return best, part
        return None

    def _search(self, shown: TakeRecord) -> BestBow | None:
        mine = [
            t for t in self._studio.takes(player_id=shown.player_id)
            if t.instrument_id == shown.instrument_id and t.is_own == shown.is_own
            and t.jig_id is not None and _has_long_strokes(self._reader.jig_of(t))
        ]  # fmt: skip
        found: list[tuple[TakeRecord, Stroke]] = []
        for take in sorted(mine, key=lambda t: t.recorded_utc)[-_MOST_LONG_TAKES:]:
            strokes = self._of(take).strokes
            i = best_long(strokes)
            if i is not None:
                found.append((take, strokes[i]))
        i = best_long([stroke for _, stroke in found])
        if i is None:
            return None
        take, stroke = found[i]
        heard = self._reader.heard(take)
        bowing = self._of(take)
        ribbons = [r for r in bowing.ribbons if bowing.strokes[r.i_stroke] == stroke]
        if heard is None or not ribbons:
            return None
        return BestBow(take=take, i_channel=heard.i_channel, stroke=stroke, ribbon=ribbons[0])

    def _of(self, take: TakeRecord) -> _Bowing:
        if take.id not in self._known:
            heard, (strokes, changes) = self._reader.heard(take), self._reader.bow(take)
            ribbons: tuple[Ribbon, ...] = ()
            gathered: tuple[Gathered, ...] = ()
            if heard is not None:
                ribbons = ribbons_of(heard.contours, strokes, ())
                gathered = gather(courses_of(heard.contours, changes))
            self._known[take.id] = _Bowing(strokes=strokes, ribbons=ribbons, changes=gathered)
        return self._known[take.id]


def _has_long_strokes(jig: Jig | None) -> bool:
    """Whether a jig's strokes are long bows: each in one direction on one note."""
    if jig is None:
        return False
    bows = [e for e in jig.events if e.bow is not None and not e.pluck and len(e.heads) == 1]
    time = WrittenTime(jig)
    lengths = [time.at(e.end_beats) - time.at(e.onset_beats) for e in bows]
    return bool(lengths) and min(lengths) >= LONG_S
