"""A session laid out from the minutes there are, in the order players work (L1).

Settle and strings, long bows, pitch, two strings, a stroke, a passage, close; a break after
about twenty minutes. Schools differ: *foundation first* gives the bow and pitch most of the time
and keeps to one exercise of each; *rotating* interleaves shorter pieces of more exercises, because
what is taken up again sticks better. What was never played, is due, or has gone stale comes first.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime, whole_seconds
from jigwright.core.jig.phrases import written_loudness

Part = Literal[
    "settle", "strings", "bow", "pitch", "two_strings", "stroke", "passage", "break", "close"
]
School = Literal["foundation", "rotating"]
_STALE_DAYS = 10
_BREAK_EVERY = 20
_SHARES: dict[School, dict[Part, float]] = {
    "foundation": {"bow": 0.3, "pitch": 0.3, "two_strings": 0.14, "stroke": 0.1, "passage": 0.16},
    "rotating": {"bow": 0.18, "pitch": 0.22, "two_strings": 0.2, "stroke": 0.16, "passage": 0.24},
}

_OCTAVE, _SLOW_BOW_S = 12, 8.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A jig that may be practised.

    Parameters
    ----------
    jig : Jig
    last_day : int or None
        Number of the day it was last played, counted as ``today`` is.
    inside : float or None
        Share of its notes inside the tolerance in the last take.
    theme : bool
        Whether it belongs to the week's theme.
    due : bool
        Whether somebody set it.
    """

    jig: Jig
    last_day: int | None
    inside: float | None
    theme: bool = False
    due: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanItem:
    """One part of a session.

    Parameters
    ----------
    part : Part
    minutes : int
    jig_id : str or None
    title : str
    why : str
        ``new``, ``stale``, ``weak``, ``theme``, ``due``, ``heavy`` or empty.
    repetitions : int
    """

    part: Part
    minutes: int
    jig_id: str | None = None
    title: str = ""
    why: str = ""
    repetitions: int = 0


def part_of(jig: Jig) -> Part:
    """Where in a session a jig belongs, from its notes."""
    if any(len(e.heads) > 1 for e in jig.events):
        return "two_strings"
    if sum(e.lifted for e in jig.events) > 0.5 * len(jig.events):
        return "stroke"
    heads = [e.heads[0] for e in jig.events]
    if all(h.finger == 0 for h in heads):
        return "bow"
    steps = [
        abs(b.pitch.diatonic - a.pitch.diatonic) for a, b in zip(heads, heads[1:], strict=False)
    ]
    by_step = sum(s <= 2 for s in steps) >= 0.85 * max(1, len(steps))
    plain = not any(written_loudness(jig))
    even = plain and len({e.length_beats for e in jig.events}) <= 2
    return "pitch" if by_step and even else "passage"


def is_heavy(jig: Jig) -> bool:
    """Whether a jig tires: plucking, very slow bows, octaves and wider on two strings."""
    events = jig.events
    if not events:
        return False
    wide = sum(e.heads[-1].pitch.midi - e.heads[0].pitch.midi >= _OCTAVE for e in events)
    plucked = sum(e.pluck for e in events)
    bows = [e.onset_beats for e in events if e.bow is not None] + [jig.length_beats]
    time = WrittenTime(jig)
    strokes = [time.at(b) - time.at(a) for a, b in pairwise(bows)]
    slow = sum(s >= _SLOW_BOW_S for s in strokes)
    return 2 * max(wide, plucked) > len(events) or (bool(strokes) and 2 * slow > len(strokes))


def lay_out(
    minutes: int, candidates: Sequence[Candidate], *, school: School, today: int
) -> tuple[PlanItem, ...]:
    """Lay a session out.

    Parameters
    ----------
    minutes : int
        5 … 240.
    candidates : sequence of Candidate
    school : School
    today : int
        Number of the day.
    """
    minutes = min(240, max(5, minutes))
    frame = 2 if minutes < 20 else 4
    close = 1 if minutes < 20 else 3
    work = minutes - frame - close
    breaks = max(0, (work - 5) // _BREAK_EVERY)
    work -= 3 * breaks
    by_part: dict[Part, list[Candidate]] = {}
    for one in candidates:
        by_part.setdefault(part_of(one.jig), []).append(one)
    shares = {p: s for p, s in _SHARES[school].items() if by_part.get(p)}
    while len(shares) > max(1, work // 2):  # too short for everything: the least share waits
        shares.pop(min(shares, key=lambda p: shares[p]))
    items: list[PlanItem] = []
    total = sum(shares.values())
    per_part = 1 if school == "foundation" or minutes < 25 else 2
    for part, share in shares.items():
        slot = work * share / total
        ranked = sorted(by_part[part], key=lambda c: _urgency(c, today), reverse=True)
        chosen = ranked[: max(1, min(per_part, int(slot // 4) or 1))]
        for c in chosen:
            length = max(2, round(slot / len(chosen)))
            once = whole_seconds(c.jig) + 8.0
            items.append(
                PlanItem(
                    part=part, minutes=length, jig_id=c.jig.id, title=c.jig.title,
                    why=_why(c, today), repetitions=max(1, min(12, int(60 * length / once))),
                )
            )  # fmt: skip
    if school == "rotating":
        items = _interleaved(items)
    items = _fitted(items, work)
    with_breaks: list[PlanItem] = []
    since = 0
    for item in items:
        if since >= _BREAK_EVERY and breaks:
            with_breaks.append(PlanItem(part="break", minutes=3))
            since, breaks = 0, breaks - 1
        with_breaks.append(item)
        since += item.minutes
    if breaks and with_breaks:  # no place for a break: its minutes go to the longest item
        k = max(range(len(with_breaks)), key=lambda i: with_breaks[i].minutes)
        more = with_breaks[k].minutes + 3 * breaks
        with_breaks[k] = replace(with_breaks[k], minutes=more)
    return (
        PlanItem(part="settle", minutes=max(1, frame // 2)),
        PlanItem(part="strings", minutes=max(1, frame - frame // 2)),
        *with_breaks,
        PlanItem(part="close", minutes=close),
    )


def _fitted(items: list[PlanItem], work: int) -> list[PlanItem]:
    """Give or take minutes at the longest items until the sum fits."""
    made = list(items)
    while made and sum(i.minutes for i in made) != work:
        over = sum(i.minutes for i in made) > work
        k = max(range(len(made)), key=lambda i: made[i].minutes)
        if over and made[k].minutes <= 1:
            break
        made[k] = replace(made[k], minutes=made[k].minutes + (-1 if over else 1))
    return made


def _interleaved(items: list[PlanItem]) -> list[PlanItem]:
    """First pieces of every part, then the second ones."""
    seen: dict[str, int] = {}
    keyed = []
    for item in items:
        round_ = seen.get(item.part, 0)
        seen[item.part] = round_ + 1
        keyed.append((round_, item))
    return [item for _, item in sorted(keyed, key=lambda k: k[0])]


def _days(c: Candidate, today: int) -> int | None:
    return None if c.last_day is None else today - c.last_day


def _urgency(c: Candidate, today: int) -> float:
    days = _days(c, today)
    score = 3.0 if c.due else 2.0 if c.theme else 0.0
    score += 1.2 if days is None else min(2.0, days / _STALE_DAYS)
    if c.inside is not None:
        score += 1.5 * (1.0 - c.inside)
    return score


def _why(c: Candidate, today: int) -> str:
    days = _days(c, today)
    if c.due:
        return "due"
    if c.theme:
        return "theme"
    if days is None:
        return "new"
    if days >= _STALE_DAYS:
        return "stale"
    if c.inside is not None and c.inside < 0.75:
        return "weak"
    return ""
