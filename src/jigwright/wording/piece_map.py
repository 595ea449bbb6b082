"""Words of the map of a piece."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.judge.piece_map import BarCell, Said
from jigwright.wording.catalogue import tr, trn

_MOST_SAID = 2


def map_sentence(cells: Sequence[BarCell], worst: BarCell | None, *, reading: bool) -> str:
    """What the whole map says, or that there is nothing yet."""
    n_takes = len({t.take_id for c in cells for t in c.threads})
    if not n_takes:
        return (
            tr("Reading the takes …")
            if reading
            else tr("Nobody has played this yet: every bar waits for its first take.")
        )
    played = [c for c in cells if c.threads]
    silent = sum(c.span is not None and not c.threads for c in cells)
    text = trn("One take, {bars} of {of} bars.", "{n} takes, {bars} of {of} bars.", n_takes).format(
        n=n_takes, bars=len(played), of=sum(c.span is not None for c in cells)
    )
    if worst is not None:
        text += " " + tr("Bar {bar} went worst.").format(bar=worst.number)
    elif silent == 0 and not reading:
        text += " " + tr("No bar went wrong more often than not.")
    return text


def bar_sentence(cells: Sequence[BarCell]) -> str:
    """What the takes of some bars say."""
    first, last = cells[0].number, cells[-1].number
    name = (
        tr("Bar {bar}").format(bar=first)
        if first == last
        else tr("Bars {a} to {b}").format(a=first, b=last)
    )
    threads = [t for c in cells for t in c.threads if t.share is not None]
    said = "".join(f" {_remark(s)}" for c in cells for s in c.said[-_MOST_SAID:])
    if not threads:
        return tr("{bars}: nobody has played it yet.").format(bars=name) + said
    days = sorted({t.day for t in threads})
    takes = {t.take_id for t in threads}
    right = takes - {t.take_id for c in cells for t in c.threads if t.n_not_met or t.n_unknown}
    text = trn(
        "{bars}: every note was right in {right} of the last {n} take",
        "{bars}: every note was right in {right} of the last {n} takes", len(takes),
    ).format(bars=name, right=len(right), n=len(takes))  # fmt: skip
    if days[0] != days[-1]:
        return text + ", " + tr("{first} to {last}.").format(first=days[0], last=days[-1]) + said
    return text + ", " + tr("on {day}.").format(day=days[0]) + said


def _remark(said: Said) -> str:
    """A remark with who left it and when."""
    return tr("{who}, {day}: “{words}”").format(who=said.who, day=said.day, words=said.words)
