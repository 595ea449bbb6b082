"""A take beside another: which one, whether levels may be compared, blind listening (L3)."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.compare import AimPair, Compared, NotePair, compare_aims, compare_takes
from jigwright.core.values import Unmeasured
from jigwright.services.records import TakeRecord
from jigwright.services.take_reader import TakeReader, View

_LEAST_GAIN, _MOST_GAIN = 0.05, 1.0


def to_compare_with(others: Sequence[TakeRecord], chosen: str | None) -> TakeRecord | None:
    """The take that was chosen, else the newest reference take, else the newest one."""
    picked = next((t for t in others if t.id == chosen), None)
    kept = next((t for t in reversed(others) if t.mark == "kept"), None)
    return picked or kept or (others[-1] if others else None)


def same_place(one: TakeRecord, two: TakeRecord) -> bool:
    """Whether levels may be compared: one input, one day."""
    return one.input_name == two.input_name and one.day == two.day


def compare(
    reader: TakeReader, one: TakeRecord, two: TakeRecord, judged: Judged, view: View
) -> tuple[tuple[NotePair, ...], Compared] | Unmeasured:
    """Both takes note by note, both against the same A, reference and tolerance.

    Parameters
    ----------
    reader : TakeReader
    one, two : TakeRecord
    judged : Judged
        The second, as it is shown.
    view : View
        What the second is shown against.
    """
    first = reader.judged(one, view, "notes")
    if isinstance(first, Unmeasured):
        return first
    return compare_takes(first.notes, judged.notes, levels=same_place(one, two))


def compare_by_aims(
    reader: TakeReader, one: TakeRecord, judged: Judged, view: View
) -> tuple[AimPair, ...]:
    """What became of each aim from the first take to the second, as it is shown."""
    first = reader.judged(one, view)
    return () if isinstance(first, Unmeasured) else compare_aims(first.aims, judged.aims)


def level_dbfs(reader: TakeReader, take: TakeRecord) -> float:
    """Level of the middle note of a take; 0 when nothing was heard."""
    heard = reader.heard(take)
    levels = sorted(s.level_dbfs for s in heard.segments) if heard is not None else []
    return levels[len(levels) // 2] if levels else 0.0


def matching_gain(levels_dbfs: tuple[float, float], i: int) -> float:
    """Factor that brings one of two takes to the level of the quieter one."""
    gain: float = 10.0 ** ((min(levels_dbfs) - levels_dbfs[i]) / 20.0)
    return min(_MOST_GAIN, max(_LEAST_GAIN, gain))
