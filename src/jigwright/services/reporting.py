"""What a practice report says, without a page to draw it on."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from jigwright.core.jig.model import Jig
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.trend import ChangePoint
from jigwright.core.judge.verdict import bar_of
from jigwright.core.music.pitch import Pitch
from jigwright.core.values import Unmeasured
from jigwright.services.day_record import Day
from jigwright.services.pupils import WorkRow, still_open
from jigwright.services.records import TakeRecord
from jigwright.services.take_reader import TakeReader
from jigwright.services.trends import TrendPoint, change_in, jigs_played

MOST_DAYS, MOST_TRENDS, MOST_NEXT, MOST_SET = 10, 3, 3, 3
MOST_BARS = 8
LEAST_POINTS = 3
FIGURE = "off_cents"


@dataclass(frozen=True, slots=True, kw_only=True)
class NewestTake:
    """The newest take of a time, judged as it was played.

    Parameters
    ----------
    take : TakeRecord
    title : str
    judged : Judged
    strings : tuple of Pitch
    jig : Jig or None
    instrument : str
        Name of the instrument; empty where it is gone.
    """

    take: TakeRecord
    title: str
    judged: Judged
    strings: tuple[Pitch, ...]
    jig: Jig | None = None
    instrument: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ReportTrend:
    """How a jig went.

    Parameters
    ----------
    title : str
    points : tuple of TrendPoint
    change : ChangePoint or None
        What the newest uncut stretch supports.
    """

    title: str
    points: tuple[TrendPoint, ...]
    change: ChangePoint | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PracticeReport:
    """A report.

    Parameters
    ----------
    days : tuple of Day
        With takes, newest first.
    minutes : int
        Of sound on those days.
    newest : NewestTake or None
    trends : tuple of ReportTrend
    next_words : tuple of str
        What the player wanted to do next, newest first.
    set_work : tuple of WorkRow
        What was set and is not done.
    """

    days: tuple[Day, ...]
    minutes: int
    newest: NewestTake | None
    trends: tuple[ReportTrend, ...]
    next_words: tuple[str, ...]
    set_work: tuple[WorkRow, ...] = ()


def make_report(
    days: Sequence[Day],
    takes: Sequence[TakeRecord],
    titles: Mapping[str, str],
    reader: TakeReader,
    trend_of: Callable[[str], Sequence[TrendPoint]],
    *,
    first: str = "",
    last: str = "9999-12-31",
    work: Sequence[WorkRow] = (),
    instruments: Mapping[str, str] = MappingProxyType({}),
) -> PracticeReport:
    """Choose what a report about the days from ``first`` to ``last`` says.

    Parameters
    ----------
    days : sequence of Day
        Newest first.
    takes : sequence of TakeRecord
        The player's, oldest first.
    titles : mapping of str to str
        Of jigs, by id.
    reader : TakeReader
    trend_of : callable
        Points of a jig's trend.
    first, last : str
        ISO dates, both included.
    work : sequence of WorkRow
        Set work of the player.
    instruments : mapping of str to str
        Names, by id.
    """
    inside = [d for d in days if first <= d.day <= last]
    played = tuple(d for d in inside if d.n_takes)[:MOST_DAYS]
    newest = next(
        (
            t for t in reversed(takes)
            if t.jig_id is not None and first <= t.day.isoformat() <= last
        ),
        None,
    )  # fmt: skip
    trends = []
    for jig_id in jigs_played(takes)[:MOST_TRENDS]:
        points = tuple(trend_of(jig_id))
        if len(points) >= LEAST_POINTS:
            title = titles.get(jig_id, jig_id)
            trends.append(
                ReportTrend(
                    title=title, points=points, change=change_in(points, looked_at=MOST_TRENDS)
                )
            )
    return PracticeReport(
        days=played, minutes=round(sum(d.seconds for d in played) / 60),
        newest=_judged(newest, titles, reader, instruments) if newest is not None else None,
        trends=tuple(trends),
        next_words=tuple(d.note.next_time for d in inside if d.note.next_time)[:MOST_NEXT],
        set_work=still_open(work)[:MOST_SET],
    )  # fmt: skip


def bars_of_interest(newest: NewestTake) -> tuple[int, int] | None:
    """Bars that a page shows of a take's notes, first and one past the last: where findings lie.

    Parameters
    ----------
    newest : NewestTake

    Returns
    -------
    (int, int) or None
        ``None`` where there are no notes to show.
    """
    jig = newest.jig
    if jig is None or not jig.events:
        return None
    numbers, notes = [bar.number for bar in jig.bars()], newest.judged.notes
    n_bars = len(numbers)
    if n_bars <= MOST_BARS:
        return 0, n_bars
    named = [bar_of(row, notes, jig) for f in newest.judged.findings for row in f.notes]
    at = next((numbers.index(bar) for bar in named if bar is not None), 0)
    first = max(0, min(at - 1, n_bars - MOST_BARS))
    return first, first + MOST_BARS


def _judged(
    take: TakeRecord, titles: Mapping[str, str], reader: TakeReader,
    instruments: Mapping[str, str],
) -> NewestTake | None:  # fmt: skip
    judged = reader.judged(take, before=reader.before(take))
    if isinstance(judged, Unmeasured):
        return None
    return NewestTake(
        take=take, title=titles.get(take.jig_id or "", ""), judged=judged,
        strings=reader.context(take).strings, jig=reader.jig_of(take),
        instrument=instruments.get(take.instrument_id, ""),
    )  # fmt: skip
