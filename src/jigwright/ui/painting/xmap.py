"""Where a moment lies on the page: one monotone, two-way map for score and lanes.

*By note*: every event owns a column, time runs linearly inside it; further attempts lie in the
same column; extra notes get a narrow column between. *By time*: linear seconds.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class MapColumn:
    """A stretch of the page that belongs to a row.

    Parameters
    ----------
    row : int
        Index of the judged note.
    x0, x1 : float
        Pixels.
    start_s, end_s : float or None
        Time shown in it; ``None`` for a missed note.
    """

    row: int
    x0: float
    x1: float
    start_s: float | None
    end_s: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class XMap:
    """Columns in order of rows, and the whole width.

    Parameters
    ----------
    columns : tuple of MapColumn
        One per row.
    width : float
        Pixels.
    by_time : bool
    px_per_s : float
        For the form by time.
    left : float
        Where second 0 lies in the form by time.
    """

    columns: tuple[MapColumn, ...]
    width: float
    by_time: bool
    px_per_s: float = 0.0
    left: float = 0.0

    def x_in(self, row: int, time_s: float) -> float:
        """Page place of a moment inside a row's column."""
        c = self.columns[row]
        if self.by_time or c.start_s is None or c.end_s is None:
            return self.left + time_s * self.px_per_s if self.by_time else c.x0
        share = (time_s - c.start_s) / max(c.end_s - c.start_s, 1e-6)
        return c.x0 + min(max(share, 0.0), 1.0) * (c.x1 - c.x0)

    def x_at(self, time_s: float) -> float:
        """Page place of any moment of the take."""
        if self.by_time:
            return self.left + time_s * self.px_per_s
        timed = [c for c in self.columns if c.start_s is not None]
        if not timed:
            return 0.0
        i = bisect_right([c.start_s or 0.0 for c in timed], time_s) - 1
        return self.x_in(timed[max(i, 0)].row, time_s)

    def time_at(self, x: float) -> float:
        """Moment at a page place."""
        if self.by_time:
            return max(0.0, (x - self.left) / max(self.px_per_s, 1e-9))
        row = self.row_at(x)
        c = self.columns[row] if row is not None else None
        if c is None or c.start_s is None or c.end_s is None:
            return 0.0
        share = (x - c.x0) / max(c.x1 - c.x0, 1e-6)
        return c.start_s + min(max(share, 0.0), 1.0) * (c.end_s - c.start_s)

    def row_at(self, x: float) -> int | None:
        """Row whose column holds a page place; the last attempt wins; the nearest otherwise."""
        inside = [c for c in self.columns if c.x0 <= x < c.x1]
        if inside:
            return inside[-1].row
        if not self.columns:
            return None
        return min(self.columns, key=lambda c: min(abs(c.x0 - x), abs(c.x1 - x))).row


Span = tuple[float, float] | None


def by_note(
    rows: Sequence[tuple[str | None, Span]], heads: Sequence[tuple[str, float]], width: float
) -> XMap:
    """Build the form by note.

    Parameters
    ----------
    rows : sequence of (note id or None, (start, end) seconds or None)
        In time order.
    heads : sequence of (note id, x of the notehead's middle)
        In score order.
    width : float
        Page width in pixels.
    """
    named = {note_id for note_id, _ in rows}
    heads = [h for h in heads if h[0] in named]  # the other heads of a chord stand in its column
    borders = _borders([x for _, x in heads], width)
    place = {note_id: borders[i] for i, (note_id, _) in enumerate(heads)}
    columns = []
    at = borders[0][0] if borders else 0.0
    for i, (note_id, span) in enumerate(rows):
        if note_id is not None and note_id in place:
            x0, x1 = place[note_id]
            at = x1
        else:
            x0, x1 = at - 9.0, at + 9.0
        start, end = span if span is not None else (None, None)
        columns.append(MapColumn(row=i, x0=x0, x1=x1, start_s=start, end_s=end))
    return XMap(columns=tuple(columns), width=width, by_time=False)


def _borders(middles: Sequence[float], width: float) -> list[tuple[float, float]]:
    if not middles:
        return []
    if len(middles) == 1:
        return [(max(0.0, middles[0] - 30), min(width, middles[0] + 30))]
    gaps = [b - a for a, b in zip(middles, middles[1:], strict=False)]
    cuts = [0.5 * (a + b) for a, b in zip(middles, middles[1:], strict=False)]
    first = max(0.0, middles[0] - 0.5 * gaps[0])
    last = min(width, middles[-1] + 0.5 * min(gaps[-1], 60.0))
    edges = [first, *cuts, last]
    return list(zip(edges, edges[1:], strict=False))


def by_time(
    spans: Sequence[Span], duration_s: float, px_per_s: float, *, left: float = 0.0
) -> XMap:
    """Build the form by time."""
    columns = []
    before = 0.0
    for i, span in enumerate(spans):
        start, end = span if span is not None else (before, before)
        before = end
        columns.append(
            MapColumn(
                row=i, x0=left + start * px_per_s, x1=left + end * px_per_s,
                start_s=None if span is None else start, end_s=None if span is None else end,
            )
        )  # fmt: skip
    return XMap(
        columns=tuple(columns), width=left + duration_s * px_per_s + 12.0, by_time=True,
        px_per_s=px_per_s, left=left,
    )  # fmt: skip
