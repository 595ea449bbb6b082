"""A session laid out from the minutes there are, in the order players work (L1).

Settle and strings, the bow, pitch, two strings, a stroke, tone and shape, a passage, close; breaks
after about twenty minutes. Schools differ: *foundation first* gives the bow and pitch most of the
time and keeps to few exercises; *rotating* interleaves shorter pieces of more exercises, because
what is taken up again sticks better (interleaved practice: Shea & Morgan 1979; Carter & Grahn 2016
for music). What somebody set, what is due, weak, or has gone stale comes first.

Minutes follow from what one would do in them: so many times through with a moment to think between,
never more than the dose of work that tires. What nothing fills is left for playing at the end.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import ceil
from typing import Literal

from jigwright.core.jig.aims import AimKind
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime, whole_seconds
from jigwright.core.jig.phrases import written_loudness
from jigwright.core.jig.voices import strokes

Part = Literal[
    "settle",
    "strings",
    "warm_up",
    "bow",
    "pitch",
    "two_strings",
    "stroke",
    "tone",
    "passage",
    "break",
    "close",
]
WORKED: tuple[Part, ...] = ("bow", "pitch", "two_strings", "stroke", "tone", "passage")
"""Parts with something to play, in their order."""
School = Literal["foundation", "rotating"]
Why = Literal["", "new", "stale", "weak", "theme", "due", "again", "turn"]

STALE_DAYS = 10
BREAK_AFTER = 26
"""Minutes of work at most, about, between two breaks."""
THINK_S = 20.0
"""Between two times through: hear it, judge it, set the bow again."""
MOST_TIMES = 10
SHORTEST_ITEM = 2
_SHORTEST_MORE = 3
_MINUTES_A_PART = 4.6
LONGEST_PASSAGE = 20
LEAST_MINUTES, MOST_MINUTES = 5, 240
_SHARES: dict[School, dict[Part, float]] = {
    "foundation": {"bow": 0.26, "pitch": 0.26, "two_strings": 0.1, "stroke": 0.08, "tone": 0.08,
                   "passage": 0.22},
    "rotating": {"bow": 0.16, "pitch": 0.2, "two_strings": 0.13, "stroke": 0.12, "tone": 0.13,
                 "passage": 0.26},
}  # fmt: skip
_PART_OF_AIM: dict[AimKind, Part] = {
    "even_bow": "bow", "mirror": "bow", "left_over": "bow", "bow_change": "bow", "crossing": "bow",
    "duration": "bow", "notes_in_bow": "bow", "bow_share": "bow", "lanes": "bow", "soft": "bow",
    "pitch": "pitch", "hand_frame": "pitch", "second_arrival": "pitch", "shift": "pitch",
    "interval": "two_strings", "both_sound": "two_strings", "balance": "two_strings",
    "off_string": "stroke", "start": "stroke", "dotted": "stroke", "pluck": "stroke",
    "pairs": "stroke", "held": "tone", "ring": "tone", "contrast": "tone", "direction": "tone",
    "vibrato": "tone", "partial": "tone", "even_run": "passage",
}  # fmt: skip
_DOSES: dict[AimKind, int] = {"duration": 5, "pluck": 5, "soft": 8, "shift": 10, "partial": 8}
_DOSE, _HEAVY_DOSE = 12, 8
"""Minutes of one exercise; of one that tires."""
_OCTAVE, _SLOW_BOW_S = 12, 8.0
_FEWEST_BARS = 8  # of what is worked on as a piece rather than as an exercise


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
    offered : bool
        Ready made, not one of the player's own.
    turn : float
        0 … 1: how much it is its turn among what is offered.
    again : int or None
        Days since it was due again; ``None``: it is not yet.
    """

    jig: Jig
    last_day: int | None
    inside: float | None
    theme: bool = False
    due: bool = False
    offered: bool = False
    turn: float = 0.0
    again: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanItem:
    """One part of a session.

    Parameters
    ----------
    part : Part
    minutes : int
    jig_id : str or None
    title : str
    why : Why
        Why it is there.
    repetitions : int
        Times through that fit the minutes; 0 where nothing is repeated.
    heavy : bool
        Whether it tires.
    aim : AimKind or None
        What it is for first of all.
    by_times : bool
        Over when it was played so often, met or not: a step of a warm-up.
    """

    part: Part
    minutes: int
    jig_id: str | None = None
    title: str = ""
    why: Why = ""
    repetitions: int = 0
    heavy: bool = False
    aim: AimKind | None = None
    by_times: bool = False


def part_of(jig: Jig) -> Part:
    """Where in a session a jig belongs: by what it is for, else from its notes."""
    for aim in jig.aims:
        if aim.kind in _PART_OF_AIM:
            return _PART_OF_AIM[aim.kind]
    if any(len(e.heads) > 1 for e in jig.events):
        return "two_strings" if len(jig.bars()) < _FEWEST_BARS else "passage"
    if sum(e.lifted for e in jig.events) > 0.5 * len(jig.events):
        return "stroke"
    heads = [e.heads[0] for e in jig.events]
    if all(h.finger == 0 for h in heads):
        return "bow"
    steps = [abs(b.pitch.diatonic - a.pitch.diatonic) for a, b in pairwise(heads)]
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
    time = WrittenTime(jig)
    lengths = [
        time.at(events[b].end_beats) - time.at(events[a].onset_beats)
        for a, b in strokes(events)
        if events[a].bow is not None
    ]
    slow = sum(s >= _SLOW_BOW_S for s in lengths)
    return 2 * max(wide, plucked) > len(events) or (bool(lengths) and 2 * slow > len(lengths))


def dose_minutes(jig: Jig) -> int:
    """The most minutes of a session for one jig."""
    if part_of(jig) == "passage":
        return LONGEST_PASSAGE
    dose = _DOSES.get(jig.aims[0].kind, _DOSE) if jig.aims else _DOSE
    return min(dose, _HEAVY_DOSE) if is_heavy(jig) else dose


def once_minutes(jig: Jig) -> float:
    """Minutes for one time through, with a moment to think."""
    return (whole_seconds(jig) + THINK_S) / 60.0


def most_minutes(jig: Jig) -> int:
    """Minutes that a jig can sensibly fill: its dose, and no more than so many times through."""
    return max(SHORTEST_ITEM, min(dose_minutes(jig), round(MOST_TIMES * once_minutes(jig))))


def lay_out(
    minutes: int, candidates: Sequence[Candidate], *, school: School, today: int,
    warm_up: PlanItem | None = None,
) -> tuple[PlanItem, ...]:  # fmt: skip
    """Lay a session out; its minutes add up to those there are.

    Parameters
    ----------
    minutes : int
        5 … 240.
    candidates : sequence of Candidate
    school : School
    today : int
        Number of the day.
    warm_up : PlanItem, optional
        Comes first, where the rest has room beside it.
    """
    minutes = min(MOST_MINUTES, max(LEAST_MINUTES, minutes))
    settle = 1 if minutes < 20 else 2
    close = 1 if minutes < 20 else 2 if minutes < 60 else 3
    work = minutes - 2 * settle - close
    first = [warm_up] if warm_up is not None and 2 * warm_up.minutes <= work else []
    work -= sum(i.minutes for i in first)
    pause = 5 if minutes >= 120 else 3
    breaks = ceil(work / BREAK_AFTER) - 1
    items = _worked(work - pause * breaks, candidates, school=school, today=today)
    if school == "rotating":
        items = _interleaved(items)
    rows = first + _with_breaks(items, breaks, pause)
    left = minutes - 2 * settle - sum(i.minutes for i in rows)
    return (
        PlanItem(part="settle", minutes=settle),
        PlanItem(part="strings", minutes=settle),
        *rows,
        PlanItem(part="close", minutes=max(close, left)),
    )


def _worked(
    work: int, candidates: Sequence[Candidate], *, school: School, today: int
) -> list[PlanItem]:
    """What is played, in the order of the parts."""
    by_part: dict[Part, list[Candidate]] = {}
    for one in sorted(candidates, key=lambda c: urgency(c, today), reverse=True):
        by_part.setdefault(part_of(one.jig), []).append(one)
    shares = {p: s for p, s in _SHARES[school].items() if by_part.get(p)}
    while len(shares) > max(1, round(work / _MINUTES_A_PART)):
        # too short for everything: the least share waits; of equal ones, now this, now that
        waits = min(
            shares, key=lambda p: (_is_wanted(by_part[p]), shares[p], (WORKED.index(p) + today) % 2)
        )
        shares.pop(waits)
    total = sum(shares.values())
    chosen: dict[Part, list[tuple[Candidate, int]]] = {}
    left = work
    for part, share in shares.items():
        slot = min(left, max(SHORTEST_ITEM, round(work * share / total)))
        chosen[part] = _filled(by_part[part], slot, several=school == "rotating")
        left -= sum(m for _, m in chosen[part])
    # what is left goes to passages, then to whatever has more to offer
    for part in sorted(shares, key=lambda p: (p != "passage", -shares[p])):
        used = {c.jig.id for c, _ in chosen[part]}
        left = _stretched(chosen[part], left)
        more = [c for c in by_part[part] if c.jig.id not in used]
        extra = _filled(more, left, several=False) if left >= _SHORTEST_MORE else []
        if extra and extra[-1][1] < _SHORTEST_MORE:
            extra.pop()
        chosen[part] += extra
        left -= sum(m for _, m in extra)
    return [
        _item(part, c, length, today)
        for part in WORKED
        for c, length in chosen.get(part, ())
    ]  # fmt: skip


def _is_wanted(candidates: Sequence[Candidate]) -> bool:
    return any(c.due or c.theme for c in candidates)


def _filled(
    candidates: Sequence[Candidate], slot: int, *, several: bool
) -> list[tuple[Candidate, int]]:
    """The most urgent ones and their minutes, until a slot is full."""
    found: list[tuple[Candidate, int]] = []
    left = slot
    for c in candidates:
        if left < (_SHORTEST_MORE if found else SHORTEST_ITEM):
            break
        most = most_minutes(c.jig)
        if several and slot >= 3 * SHORTEST_ITEM and len(candidates) > 1:
            most = min(most, max(SHORTEST_ITEM + 1, slot // 2))  # room for a second one
        length = min(left, most)
        if left - length == 1:  # a minute is no time for anything
            length = length + 1 if length < dose_minutes(c.jig) else length - 1
        length = max(SHORTEST_ITEM, length)
        found.append((c, length))
        left -= length
    return found


def _stretched(chosen: list[tuple[Candidate, int]], left: int) -> int:
    """Give what is left to what is there, as far as it can use it; what is left then."""
    for i, (c, length) in enumerate(chosen):
        more = max(0, min(left, most_minutes(c.jig) - length))
        chosen[i] = (c, length + more)
        left -= more
    return left


def _item(part: Part, c: Candidate, length: int, today: int) -> PlanItem:
    times = round(length / once_minutes(c.jig))
    return PlanItem(
        part=part, minutes=length, jig_id=c.jig.id, title=c.jig.title, why=_why(c, today),
        repetitions=max(1, min(MOST_TIMES, times)), heavy=is_heavy(c.jig),
        aim=c.jig.aims[0].kind if c.jig.aims else None,
    )  # fmt: skip


def _with_breaks(items: list[PlanItem], breaks: int, pause: int) -> list[PlanItem]:
    """Breaks where the work is divided most evenly; none at either end."""
    total = sum(i.minutes for i in items)
    ends = [0]
    for item in items:
        ends.append(ends[-1] + item.minutes)
    inner = range(1, len(items))
    places: set[int] = set()
    for k in range(1, breaks + 1):
        free = [i for i in inner if i not in places]
        if free:
            places.add(min(free, key=lambda i: abs(ends[i] - k * total / (breaks + 1))))
    rows: list[PlanItem] = []
    for i, item in enumerate(items):
        if i in places:
            rows.append(PlanItem(part="break", minutes=pause))
        rows.append(item)
    return rows


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


def urgency(c: Candidate, today: int) -> float:
    """How much a jig wants to be played today; only compared with others."""
    days = _days(c, today)
    score = 3.0 if c.due else 2.0 if c.theme else 0.0
    score += 1.2 if days is None else min(2.0, days / STALE_DAYS)
    if c.inside is not None:
        score += 1.5 * (1.0 - c.inside)
    if c.again is not None:
        score += 1.4 + 0.5 * min(1.0, c.again / 7)
    if c.offered:  # what a player has comes first; among what is offered they take turns
        score += c.turn - 1.2
    return score


def _why(c: Candidate, today: int) -> Why:
    days = _days(c, today)
    if c.due:
        return "due"
    if c.theme:
        return "theme"
    if days is None:
        return "turn" if c.offered else "new"
    if days >= STALE_DAYS:
        return "stale"
    if c.again is not None:
        return "again"
    if c.inside is not None and c.inside < 0.75:
        return "weak"
    return "turn" if c.offered else ""
