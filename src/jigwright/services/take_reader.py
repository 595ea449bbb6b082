"""One way from a take to a judgement.

Whoever wants figures – Desk, comparison, landings, Daybook, report, export, command line – asks
here, says against what (:class:`View`) and how deep, and gets the same answer for the same inputs:
nothing is cached but by all of them. What cannot be judged comes out as
:class:`~jigwright.core.values.Unmeasured` with its reason and never raises into a window.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal, TypeVar

from jigwright.core.errors import JigwrightError
from jigwright.core.follow.align import Pin, line_up
from jigwright.core.follow.doubts import decide, decided
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.values import LinedNote
from jigwright.core.gauge.two_strings import measure_double
from jigwright.core.gauge.values import BowChange, Double, Ring, Stroke
from jigwright.core.isolation import FAILED, isolated
from jigwright.core.jig.aims import OWN_BEST, Aim, aims_of
from jigwright.core.jig.derive import with_fitting_aims
from jigwright.core.jig.model import Jig
from jigwright.core.judge.analysis import Judged, judge_take
from jigwright.core.judge.findings import PastLanding
from jigwright.core.judge.judging import Context, JudgedNote, judge
from jigwright.core.judge.measured import MeasuredNote, measure_some, segment_of
from jigwright.core.judge.own_best import NO_BEST, OwnBest, PastBow, own_best
from jigwright.core.judge.playing import Playing, bow_of, measure_playing, room_tail_s, with_clicks
from jigwright.core.judge.resonance import ring_of, ring_place
from jigwright.core.judge.tuning import NO_TUNING
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import pure_strings
from jigwright.core.sound.heard import Heard, Pair, Segment
from jigwright.core.sound.ranges import is_room
from jigwright.core.values import Unmeasured
from jigwright.services.records import OwnedInstrument, TakeRecord
from jigwright.services.references import reference_or_equal
from jigwright.services.studio_port import StudioPort

Depth = Literal["pitches", "notes", "whole"]
"""How much is wanted: pitches only, every gauge of a note, or strokes, time and findings too."""
T = TypeVar("T")
NOT_HEARD = Unmeasured("not_analysed")
_MOST_SHALLOW, _MOST_DEEP = 4000, 24
MOST_PAST = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class View:
    """What figures are held against; ``None`` means as the take was played.

    ``aims`` are those somebody asks a finished take for; what it counts as stays what it was.
    """

    a4_hz: float | None = None
    reference: str | None = None
    tolerance_cents: float | None = None
    aims: tuple[Aim, ...] | None = None


AS_PLAYED = View()


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredTake:
    """Notes of a take lined up with its jig, and measured.

    Parameters
    ----------
    notes : tuple of MeasuredNote
    key_fifths : int
        Estimated, for takes without a jig.
    """

    notes: tuple[MeasuredNote, ...]
    key_fifths: int


def judge_heard(
    heard: Heard, jig: Jig | None, context: Context, *, pins: Sequence[Pin] = ()
) -> tuple[Judged, int]:
    """The whole recipe for a sound that was just heard; the Judged and the key's fifths."""
    heard = decided(heard, jig, a4_hz=context.a4_hz)
    measured = measure_heard(heard, jig, context.instrument_id, context.a4_hz, pins=pins)
    playing = _playing(heard, measured.notes, jig, context)
    judged = judge_take(
        measured.notes, jig, context, key_fifths=measured.key_fifths, playing=playing
    )
    return judged, measured.key_fifths


def measure_heard(
    heard: Heard, jig: Jig | None, instrument_id: str, a4_hz: float, *, pins: Sequence[Pin] = ()
) -> MeasuredTake:
    """Line what was heard up with its jig and run every gauge of every note."""
    key_fifths, rest = measuring(heard, jig, instrument_id, a4_hz, pins=pins)[1:]
    return MeasuredTake(notes=tuple(rest), key_fifths=key_fifths)


def measuring(
    heard: Heard, jig: Jig | None, instrument_id: str, a4_hz: float, *, pins: Sequence[Pin] = ()
) -> tuple[tuple[LinedNote, ...], int, Iterator[MeasuredNote]]:
    """As :func:`measure_heard`, note by note: what was lined up, the key, and the notes to come."""
    heard = decided(heard, jig, a4_hz=a4_hz)
    params = FollowParams(in_room=is_room(heard.segments, heard.tail_s))
    lined = line_up(heard.segments, jig, a4_hz=a4_hz, params=params, pairs=heard.pairs, pins=pins)
    return lined.notes, lined.key_fifths, measure_some(heard, lined.notes, instrument_id, jig)


def _playing(
    heard: Heard, notes: Sequence[MeasuredNote], jig: Jig | None, context: Context
) -> Playing:
    return measure_playing(heard, notes, jig, pure_strings(context.strings, context.a4_hz))


class TakeReader:
    """Reads takes of one studio.

    Parameters
    ----------
    studio : StudioPort
    """

    def __init__(self, studio: StudioPort) -> None:
        self._studio = studio
        self._shallow: OrderedDict[Hashable, Any] = OrderedDict()
        self._deep: OrderedDict[Hashable, Any] = OrderedDict()
        self._jigs: dict[tuple[str, int], Jig | None] = {}

    # what a take was played with -----------------------------------------------------------

    def jig_of(self, take: TakeRecord) -> Jig | None:
        """The revision of a jig that a take was played from; ``None`` without one."""
        if take.jig_id is None or take.jig_revision is None:
            return None
        key = (take.jig_id, take.jig_revision)
        if key not in self._jigs:
            try:
                self._jigs[key] = self._studio.jig(*key)
            except JigwrightError:
                self._jigs[key] = None
        return self._jigs[key]

    def owned_of(self, take: TakeRecord) -> OwnedInstrument | None:
        """The instrument a take was played on."""
        return next((i for i in self._studio.instruments() if i.id == take.instrument_id), None)

    def kind_of(self, take: TakeRecord) -> str:
        """Kind of the instrument a take was played on."""
        owned = self.owned_of(take)
        return owned.kind if owned is not None else "violin"

    def context(self, take: TakeRecord, view: View = AS_PLAYED) -> Context:
        """What a take's figures are held against."""
        owned = self.owned_of(take)
        kind = owned.kind if owned is not None else "violin"
        checked = {}
        if owned is not None:
            checked = self._studio.string_check(owned.id, take.day.isoformat())
        return Context(
            instrument_id=kind,
            strings=owned.strings if owned is not None else instrument(kind).strings,
            a4_hz=view.a4_hz or take.a4_hz,
            reference=reference_or_equal(view.reference or take.reference),
            tolerance_cents=view.tolerance_cents or take.tolerance_cents,
            checked_hz=checked,
            string_length_mm=owned.string_length_mm if owned is not None else None,
        )

    # what was heard ------------------------------------------------------------------------

    def heard(self, take: TakeRecord) -> Heard | None:
        """What was heard, curves and all; ``None`` when it cannot be read."""
        return self._once(
            self._deep, ("heard", *self._sound_key(take)), _MOST_DEEP,
            lambda: isolated(
                "reading what was heard", lambda: self._studio.heard(take.id), None
            ),
        )  # fmt: skip

    def pitches(self, take: TakeRecord) -> MeasuredTake:
        """Only the pitches, from the stored notes; every other gauge is refused as not needed."""
        nothing = MeasuredTake(notes=(), key_fifths=0)
        return self._once(
            self._shallow, ("pitches", *self._lined_key(take)), _MOST_SHALLOW,
            lambda: isolated("lining up", lambda: self._pitches(take), nothing),
        )  # fmt: skip

    def measured(self, take: TakeRecord) -> MeasuredTake | Unmeasured:
        """Every gauge of every note."""
        return self._once(
            self._deep, ("measured", *self._lined_key(take)), _MOST_DEEP,
            lambda: isolated("measuring a take", lambda: self._measured(take), FAILED),
        )  # fmt: skip

    def keep_measured(self, take: TakeRecord, measured: MeasuredTake) -> None:
        """Take over what was measured in portions."""
        self._deep[("measured", *self._lined_key(take))] = measured

    def rings(self, take: TakeRecord) -> tuple[Ring | Unmeasured, ...]:
        """Only what rang after each row of :meth:`pitches`, for figures over many takes."""
        nothing: tuple[Ring | Unmeasured, ...] = ()
        return self._once(
            self._shallow, ("rings", *self._lined_key(take)), _MOST_SHALLOW,
            lambda: isolated("what rang", lambda: self._rings(take), nothing),
        )  # fmt: skip

    def playing(self, take: TakeRecord) -> Playing | Unmeasured:
        """Strokes, changes, events and time: the same whatever they are held against."""
        return self._once(
            self._deep, ("playing", *self._lined_key(take)), _MOST_DEEP,
            lambda: isolated("playing", lambda: self._measure_playing(take), FAILED),
        )  # fmt: skip

    def strokes(self, take: TakeRecord) -> tuple[Stroke, ...]:
        """Only the strokes, for pictures of many takes."""
        return self.bow(take)[0]

    def bow(self, take: TakeRecord) -> tuple[tuple[Stroke, ...], tuple[BowChange, ...]]:
        """Strokes and changes, for pictures of many takes."""
        nothing: tuple[tuple[Stroke, ...], tuple[BowChange, ...]] = ((), ())

        def make() -> tuple[tuple[Stroke, ...], tuple[BowChange, ...]]:
            heard = self.heard(take)
            if heard is None:
                return nothing
            return bow_of(heard, self.pitches(take).notes, self.jig_of(take))

        return self._once(
            self._shallow, ("bow", *self._lined_key(take)), _MOST_SHALLOW,
            lambda: isolated("strokes", make, nothing),
        )  # fmt: skip

    # judgements ----------------------------------------------------------------------------

    def judged(
        self,
        take: TakeRecord,
        view: View = AS_PLAYED,
        depth: Depth = "whole",
        *,
        before: Sequence[TakeRecord] = (),
    ) -> Judged | Unmeasured:
        """Judge a take.

        Parameters
        ----------
        take : TakeRecord
        view : View
            What the figures are held against.
        depth : Depth
        before : sequence of TakeRecord
            Earlier takes of the same jig, whose landings make habits; for ``whole`` only.
        """
        context = self.context(take, view)
        key = (
            "judged", depth, *self._lined_key(take), _context_key(context), view.aims,
            tuple(self._lined_key(t) for t in before) if depth == "whole" else (),
            tuple(self._lined_key(t) for t in self._bests_of(take, view, depth)),
        )  # fmt: skip
        cache, most = (self._shallow, _MOST_SHALLOW) if depth == "pitches" else (
            self._deep, _MOST_DEEP
        )  # fmt: skip
        return self._once(
            cache, key, most,
            lambda: isolated(
                "judging a take",
                lambda: self._judge(take, view, context, depth, before), FAILED,
            ),
        )  # fmt: skip

    def first_look(
        self, take: TakeRecord, view: View = AS_PLAYED, *, before: Sequence[TakeRecord] = ()
    ) -> Judged | Unmeasured:
        """What can be said of a long take while it is still being measured: its pitches."""

        def look() -> Judged:
            measured = self._pitches(take, "not_yet")
            return judge_take(
                measured.notes, self.jig_of(take), self.context(take, view),
                key_fifths=measured.key_fifths, past=self.past(before, view),
            )  # fmt: skip

        return isolated("first look", look, FAILED)

    def landings(self, take: TakeRecord, view: View = AS_PLAYED) -> tuple[JudgedNote, ...]:
        """Pitch figures of a take; none when it cannot be judged."""
        judged = self.judged(take, view, "pitches")
        return () if isinstance(judged, Unmeasured) else judged.notes

    def print_of(
        self, take: TakeRecord, view: View = AS_PLAYED
    ) -> tuple[tuple[float | None, str], ...]:
        """Cents (``None`` when not heard) and standing of every note, for a take's print."""
        return tuple(
            (n.cents if n.standing != "wrong" else None, n.standing)
            for n in self.landings(take, view)
        )

    def past(self, takes: Sequence[TakeRecord], view: View = AS_PLAYED) -> tuple[PastLanding, ...]:
        """Landings of earlier takes, for habits: first attempts at notes of the jig."""
        return tuple(
            PastLanding(
                take_id=take.id, note_id=n.measured.lined.note_id, cents=n.cents,
                uncertainty_cents=n.uncertainty_cents,
            )
            for take in takes
            for n in self.landings(take, view)
            if n.cents is not None
            and n.measured.lined.note_id is not None
            and n.measured.lined.attempt == 1
        )  # fmt: skip

    def before(self, take: TakeRecord) -> tuple[TakeRecord, ...]:
        """Earlier takes of the same jig and player, the newest forty."""
        takes = [
            t for t in self._studio.takes(jig_id=take.jig_id, player_id=take.player_id)
            if t.recorded_utc < take.recorded_utc and t.is_own == take.is_own
        ]  # fmt: skip
        return tuple(takes[-MOST_PAST:])

    # making --------------------------------------------------------------------------------

    def _asked_jig(self, take: TakeRecord, view: View) -> Jig | None:
        jig = self.jig_of(take)
        if jig is None or view.aims is None:
            return jig
        return with_fitting_aims(replace(jig, aims=view.aims))

    def _bests_of(self, take: TakeRecord, view: View, depth: Depth) -> tuple[TakeRecord, ...]:
        """Takes whose best counts as a limit; none where no aim asks for it."""
        jig = self._asked_jig(take, view) if depth == "whole" else None
        if jig is None or not any(a.way == OWN_BEST for a in aims_of(jig)):
            return ()
        return tuple(t for t in self.before(take) if t.instrument_id == take.instrument_id)

    def _own_best(self, take: TakeRecord, view: View) -> OwnBest:
        past = [self._past_bow(one) for one in self._bests_of(take, view, "whole")]
        return own_best(past) if past else NO_BEST

    def _past_bow(self, take: TakeRecord) -> PastBow:
        def tail_s() -> float:
            heard = self.heard(take)
            return float("nan") if heard is None else room_tail_s(heard)

        strokes, changes = self.bow(take)
        lingers_s = self._once(
            self._shallow, ("tail", *self._sound_key(take)), _MOST_SHALLOW,
            lambda: isolated("tail of a take", tail_s, float("nan")),
        )  # fmt: skip
        return PastBow(strokes=strokes, changes=changes, tail_s=lingers_s)

    def _judge(
        self,
        take: TakeRecord,
        view: View,
        context: Context,
        depth: Depth,
        before: Sequence[TakeRecord],
    ) -> Judged | Unmeasured:
        jig = self._asked_jig(take, view)
        if depth == "pitches":
            notes = judge(self.pitches(take).notes, jig, context)
            return Judged(notes=notes, playing=None, tuning=NO_TUNING, findings=())
        measured = self.measured(take)
        if isinstance(measured, Unmeasured):
            return measured
        if depth == "notes":
            notes = judge(measured.notes, jig, context)
            return Judged(notes=notes, playing=None, tuning=NO_TUNING, findings=())
        playing = self.playing(take)
        return judge_take(
            measured.notes, jig, context, key_fifths=measured.key_fifths,
            past=self.past(before, view), best=self._own_best(take, view),
            playing=None if isinstance(playing, Unmeasured) else playing,
        )  # fmt: skip

    def _pitches(self, take: TakeRecord, reason: str = "not_needed") -> MeasuredTake:
        stored = self._studio.heard_notes(take.id)
        if stored is None:
            return MeasuredTake(notes=(), key_fifths=0)
        jig = self.jig_of(take)
        segments, _ = decide(
            stored.segments, stored.doubtful, jig, a4_hz=take.a4_hz, pairs=stored.pairs
        )
        pairs = stored.pairs
        params = FollowParams(in_room=is_room(segments, stored.tail_s))
        lined = line_up(
            segments, jig, a4_hz=take.a4_hz, params=params, pairs=pairs,
            pins=self._studio.corrections(take.id),
        )  # fmt: skip
        return MeasuredTake(
            notes=only_pitches(segments, pairs, lined.notes, reason),
            key_fifths=lined.key_fifths,
        )

    def _rings(self, take: TakeRecord) -> tuple[Ring | Unmeasured, ...]:
        heard = self.heard(take)
        if heard is None:
            return ()
        jig, notes = self.jig_of(take), self.pitches(take).notes
        heard = decided(heard, jig, a4_hz=take.a4_hz)
        place = ring_place(heard, [n.lined for n in notes], jig, self.kind_of(take))
        still = Unmeasured("not_needed")
        return tuple(
            still if n.segment is None else ring_of(place, n.lined, n.segment, jig, still)
            for n in notes
        )

    def _measured(self, take: TakeRecord) -> MeasuredTake | Unmeasured:
        heard = self.heard(take)
        if heard is None:
            return NOT_HEARD
        return measure_heard(
            heard, self.jig_of(take), self.kind_of(take), take.a4_hz,
            pins=self._studio.corrections(take.id),
        )  # fmt: skip

    def _measure_playing(self, take: TakeRecord) -> Playing | Unmeasured:
        heard, measured = self.heard(take), self.measured(take)
        if heard is None or isinstance(measured, Unmeasured):
            return NOT_HEARD
        context, jig = self.context(take), self.jig_of(take)
        heard = decided(heard, jig, a4_hz=take.a4_hz)  # the notes were lined up in these
        playing = _playing(heard, measured.notes, jig, context)
        return with_clicks(playing, measured.notes, jig, self._studio.beside(take.id).clicks)

    # keys ----------------------------------------------------------------------------------

    def _sound_key(self, take: TakeRecord) -> tuple[Hashable, ...]:
        return take.id, self._studio.heard_key(take.id)

    def _lined_key(self, take: TakeRecord) -> tuple[Hashable, ...]:
        """Everything that decides which sound is which note, and how it is measured."""
        return (
            *self._sound_key(take), take.jig_id, take.jig_revision, take.a4_hz, take.instrument_id,
            self._studio.corrections(take.id),
        )  # fmt: skip

    @staticmethod
    def _once(
        cache: OrderedDict[Hashable, Any], key: Hashable, most: int, make: Callable[[], T]
    ) -> T:
        if key in cache:
            cache.move_to_end(key)
            found: T = cache[key]
            return found
        made = make()
        cache[key] = made
        while len(cache) > most:
            cache.popitem(last=False)
        return made


def _context_key(context: Context) -> Hashable:
    return (
        context.instrument_id, context.strings, context.a4_hz, context.reference,
        context.tolerance_cents, tuple(sorted(context.checked_hz.items(), key=str)),
        context.string_length_mm,
    )  # fmt: skip


def only_pitches(
    segments: Sequence[Segment], pairs: Sequence[Pair], notes: Sequence[LinedNote], reason: str
) -> tuple[MeasuredNote, ...]:
    """Only the pitches of lined-up notes; everything else is refused with a reason."""
    skip = Unmeasured(reason)
    return tuple(
        MeasuredNote(
            lined=n,
            segment=segment_of(n, segments) if n.segments else None,
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
        return Unmeasured("hidden" if note.state == "uncertain" else "not_heard")
    segment = segment_of(note, segments)
    pair = pairs[segment.i_pair] if segment.i_pair >= 0 else None
    return measure_double(pair, segment, None)
