"""What practice so far says: where takes went wrong, how long somebody worked on what tires."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from jigwright.core.gauge.values import Double
from jigwright.core.jig.model import Jig
from jigwright.core.judge.judging import Context, JudgedNote, judge
from jigwright.core.judge.plan import is_heavy
from jigwright.services.records import TakeRecord
from jigwright.services.references import reference_or_equal
from jigwright.services.take_reader import AS_PLAYED, TakeReader, View

ENOUGH_MINUTES = 10.0
PURE_ENOUGH_CENTS = 3.0
LAST_TAKES = 5
_LAST = timedelta(hours=12)


@dataclass(frozen=True, slots=True, kw_only=True)
class PastNote:
    """A note in one take.

    Parameters
    ----------
    take_id : str
    number : int
        Of the take on its shelf, from 1.
    cents, uncertainty_cents : float
    standing : str
    """

    take_id: str
    number: int
    cents: float
    uncertainty_cents: float
    standing: str


def heavy_minutes(
    takes: Sequence[TakeRecord], jig_of: Callable[[TakeRecord], Jig | None], now: datetime
) -> float:
    """Minutes of takes of tiring exercises that a player made in the last twelve hours.

    Only what sounded is counted, so it is less than what was played.

    Parameters
    ----------
    takes : sequence of TakeRecord
        The player's, oldest first.
    jig_of : callable
    now : datetime
        In UTC.
    """
    since = (now - _LAST).strftime("%Y-%m-%dT%H:%M:%SZ")
    seconds = 0.0
    for take in reversed(takes):
        if take.recorded_utc < since:
            break
        jig = jig_of(take)
        if jig is not None and is_heavy(jig):
            seconds += take.duration_s
    return seconds / 60.0


def troubled_events(
    takes: Sequence[TakeRecord], reader: TakeReader, jig: Jig
) -> tuple[dict[int, int], int]:
    """In how many of the last takes each event was out, wrong or missing, and how many those are.

    Events of earlier revisions are found again by their ids.
    """
    at = {e.id: i for i, e in enumerate(jig.events)}
    count: Counter[int] = Counter()
    n_heard = 0
    for take in takes[-LAST_TAKES:]:
        notes, was = reader.landings(take, AS_PLAYED), reader.jig_of(take)
        if not notes or was is None:
            continue
        n_heard += 1
        bad = {
            was.events[n.measured.lined.i_event].id
            for n in notes
            if n.measured.lined.i_event is not None
            and n.standing in ("low", "high", "wrong", "missed")
        }
        count.update(at[e] for e in bad if e in at)
    return dict(count), n_heard


def past_of_note(
    note_id: str, numbered: Sequence[tuple[int, TakeRecord]], reader: TakeReader, view: View
) -> tuple[PastNote, ...]:
    """A note in several takes, its first attempt in each."""
    result = []
    for number, take in numbered:
        for n in reader.landings(take, view):
            if n.cents is not None and n.measured.lined.note_id == note_id:
                result.append(
                    PastNote(
                        take_id=take.id, number=number, cents=n.cents,
                        uncertainty_cents=n.uncertainty_cents, standing=n.standing,
                    )
                )  # fmt: skip
                break
    return tuple(result)


def past_of_stop(
    note_id: str, numbered: Sequence[tuple[int, TakeRecord]], reader: TakeReader, view: View
) -> tuple[PastNote, ...]:
    """How wide of pure a double stop was in several takes, its first attempt in each."""
    result = []
    for number, take in numbered:
        for n in reader.landings(take, view):
            if n.double is None or n.measured.lined.note_id != note_id:
                continue
            assert isinstance(n.measured.double, Double)
            wide, unsure = dict(n.double.against)["pure"], n.measured.double.uncertainty_cents
            off = abs(wide) > PURE_ENOUGH_CENTS + unsure
            result.append(
                PastNote(
                    take_id=take.id, number=number, cents=wide, uncertainty_cents=unsure,
                    standing=("high" if wide > 0 else "low") if off else "in",
                )
            )  # fmt: skip
            break
    return tuple(result)


def against_references(
    note: JudgedNote, jig: Jig | None, context: Context
) -> tuple[tuple[str, float], ...]:
    """A note against several references at once, the one in force first."""
    if note.cents is None:
        return ()
    tonic = jig.key.tonic if jig is not None else None
    usual = ["equal", "pythagorean", *([f"just:{tonic}"] if tonic else []), "ring", "meantone"]
    here = context.reference.name
    result = []
    for name in (here, *(n for n in usual if n != here)):
        reference = context.reference if name == here else reference_or_equal(name)
        one = judge([note.measured], jig, replace(context, reference=reference))[0]
        if one.cents is not None:
            result.append((name, one.cents))
    return tuple(result)
