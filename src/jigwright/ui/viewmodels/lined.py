"""Takes of a shelf lined up with their jig from stored notes, a few at a time ahead of need."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence

from PyQt6.QtCore import QObject, QTimer

from jigwright.core.follow.align import FollowParams, line_up
from jigwright.core.follow.values import LinedNote
from jigwright.core.gauge.two_strings import measure_double
from jigwright.core.gauge.values import Double
from jigwright.core.isolation import isolated
from jigwright.core.jig.model import Jig
from jigwright.core.judge.findings import PastLanding
from jigwright.core.judge.judging import Context, JudgedNote, judge
from jigwright.core.judge.measured import MeasuredNote, merge_segments
from jigwright.core.sound.heard import Pair, Segment
from jigwright.core.values import Unmeasured
from jigwright.services.ports import StudioPort
from jigwright.services.records import TakeRecord
from jigwright.ui.viewmodels.pins import pins_of

Print = tuple[tuple[float | None, str], ...]
_AHEAD_MS, _AHEAD_WORK_MS = 25, 8
PORTION_WORK_MS = 12


class LinedTakes(QObject):
    """Pitches of any take, remembered.

    Parameters
    ----------
    studio : StudioPort
    jig_of : callable
        The revision of a jig that a take was played from.
    context_of : callable
        What a take's figures are held against now.
    """

    def __init__(
        self,
        studio: StudioPort,
        jig_of: Callable[[TakeRecord], Jig | None],
        context_of: Callable[[TakeRecord], Context],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._studio, self._jig_of, self._context_of = studio, jig_of, context_of
        self._measured: dict[str, tuple[MeasuredNote, ...]] = {}
        self._printed: dict[str, Print] = {}
        self._shelf: tuple[TakeRecord, ...] = ()
        self._ahead = QTimer(self)
        self._ahead.setInterval(_AHEAD_MS)
        self._ahead.timeout.connect(self._line_up_ahead)

    def set_shelf(self, takes: Sequence[TakeRecord]) -> None:
        """Line these up while nothing else is to do, so that pages open at once."""
        self._shelf = tuple(takes)
        self._printed.clear()
        if not self._ahead.isActive():
            self._ahead.start()

    def close_down(self) -> None:
        """The studio is about to close."""
        self._ahead.stop()

    def forget(self, take_id: str) -> None:
        """What was kept of a take is out of date."""
        self._measured.pop(take_id, None)
        self._printed.pop(take_id, None)

    def measured(self, take: TakeRecord) -> tuple[MeasuredNote, ...]:
        """Pitches of a take lined up with its jig; everything else is refused."""
        if take.id not in self._measured:
            nothing: tuple[MeasuredNote, ...] = ()
            self._measured[take.id] = isolated("lining up", lambda: self._line_up(take), nothing)
        return self._measured[take.id]

    def _line_up(self, take: TakeRecord) -> tuple[MeasuredNote, ...]:
        notes = self._studio.heard_notes(take.id)
        if notes is None:
            return ()
        segments, pairs = notes
        lined = line_up(
            segments, self._jig_of(take), a4_hz=take.a4_hz, params=FollowParams(), pairs=pairs,
            pins=pins_of(self._studio, take.id),
        )  # fmt: skip
        return only_pitches(segments, pairs, lined.notes, "not_needed")

    def judged(self, take: TakeRecord) -> tuple[JudgedNote, ...]:
        """Pitch figures of a take in the present context."""
        nothing: tuple[JudgedNote, ...] = ()
        return isolated(
            "judging pitches",
            lambda: judge(self.measured(take), self._jig_of(take), self._context_of(take)),
            nothing,
        )

    def print_notes(self, take: TakeRecord) -> Print:
        """Cents (``None`` when not heard) and standing of every note."""
        if take.id not in self._printed:
            self._printed[take.id] = tuple(
                (n.cents if n.standing != "wrong" else None, n.standing) for n in self.judged(take)
            )
        return self._printed[take.id]

    def past(self, takes: Sequence[TakeRecord]) -> list[PastLanding]:
        """Landings of earlier takes, for habits."""
        return [
            PastLanding(
                take_id=take.id, note_id=n.measured.lined.note_id, cents=n.cents,
                uncertainty_cents=n.uncertainty_cents,
            )
            for take in takes
            for n in self.judged(take)
            if n.cents is not None
            and n.measured.lined.note_id is not None
            and n.measured.lined.attempt == 1
        ]  # fmt: skip

    def _line_up_ahead(self) -> None:
        until = time.monotonic() + 0.001 * _AHEAD_WORK_MS
        for take in reversed(self._shelf):
            if take.id not in self._measured:
                self.measured(take)
                if time.monotonic() > until:
                    return
        self._ahead.stop()


class Portions(QObject):
    """Works through something long while the window stays alive.

    Parameters
    ----------
    done : callable
        Takes all results once there are no more.
    """

    def __init__(
        self, done: Callable[[tuple[MeasuredNote, ...]], None], parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._done = done
        self._rest: Iterator[MeasuredNote] = iter(())
        self._found: list[MeasuredNote] = []
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._go_on)

    @property
    def running(self) -> bool:
        """Whether something is still to do."""
        return self._timer.isActive()

    def begin(self, rest: Iterator[MeasuredNote]) -> None:
        """Work through results as they are made."""
        self._rest, self._found = rest, []
        self._timer.start()

    def stop(self) -> None:
        """Give it up."""
        self._timer.stop()
        self._rest = iter(())

    def _go_on(self) -> None:
        until = time.monotonic() + 0.001 * PORTION_WORK_MS
        for one in self._rest:
            self._found.append(one)
            if time.monotonic() > until:
                return
        self._timer.stop()
        self._done(tuple(self._found))


def only_pitches(
    segments: Sequence[Segment], pairs: Sequence[Pair], notes: Sequence[LinedNote], reason: str
) -> tuple[MeasuredNote, ...]:
    """Only the pitches of lined-up notes; everything else is refused with a reason."""
    skip = Unmeasured(reason)
    return tuple(
        MeasuredNote(
            lined=n,
            segment=merge_segments([segments[i] for i in n.segments]) if n.segments else None,
            arrival=skip, vibrato=skip, level=skip, tone=skip, start=skip,
            double=_double(segments, pairs, n), ring=skip, pluck=skip,
        )
        for n in notes
    )  # fmt: skip


def _double(
    segments: Sequence[Segment], pairs: Sequence[Pair], note: LinedNote
) -> Double | Unmeasured:
    """Both voices of a double stop, for the same note in other takes."""
    if not note.segments:
        return Unmeasured("not_heard")
    segment = merge_segments([segments[i] for i in note.segments])
    pair = pairs[segment.i_pair] if segment.i_pair >= 0 else None
    return measure_double(pair, segment, None)
