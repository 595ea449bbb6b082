"""A session while it runs: where one is, what was played, when it is time to go on (L1).

Nothing here knows of a clock or a window: time and takes are handed in, and every step gives a new
state. An item counts when something was played in it; one goes on when its aim was met often
enough, or its minutes are over, whichever comes first. Somebody who stays gets half as much again.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from jigwright.core.judge.plan import WORKED, PlanItem

MET_ENOUGH = 3
"""Takes that meet an item's aims; fewer where its minutes hold fewer."""
STAY_SHARE = 0.5
"""Of an item's minutes, each time somebody stays."""

Over = Literal["", "met", "played", "time"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Leg:
    """One item of a session and what became of it.

    Parameters
    ----------
    item : PlanItem
    spent_s : float
        Time at it.
    takes, met, told : int
        Takes; those that met its aims; those of which it could be told.
    stays : int
        How often somebody stayed when asked to go on.
    """

    item: PlanItem
    spent_s: float = 0.0
    takes: int = 0
    met: int = 0
    told: int = 0
    stays: int = 0

    @property
    def is_played(self) -> bool:
        """Whether it is something to play."""
        return self.item.part in WORKED

    @property
    def counts(self) -> bool:
        """Whether it was done: played, or for what is not played, been there."""
        return self.takes > 0 if self.is_played else self.spent_s > 0

    @property
    def seconds(self) -> float:
        """What it may last."""
        return 60.0 * self.item.minutes * (1.0 + STAY_SHARE * self.stays)

    @property
    def left_s(self) -> float:
        """What is left of that; never less than nothing."""
        return max(0.0, self.seconds - self.spent_s)

    @property
    def needed(self) -> int:
        """Takes that have to meet its aims; 0 for what is not played, or only so often."""
        if not self.is_played or self.item.by_times:
            return 0
        return max(1, min(MET_ENOUGH, self.item.repetitions)) * (1 + self.stays)

    @property
    def over(self) -> Over:
        """Why one would go on."""
        if self.item.by_times and self.takes >= max(1, self.item.repetitions) * (1 + self.stays):
            return "played"
        if self.needed and self.met >= self.needed:
            return "met"
        return "time" if self.spent_s >= self.seconds else ""


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionRun:
    """A session on its way.

    Parameters
    ----------
    legs : tuple of Leg
    at : int
        The one in hand; their number when it is over.
    """

    legs: tuple[Leg, ...]
    at: int = 0

    @property
    def leg(self) -> Leg | None:
        """The one in hand."""
        return self.legs[self.at] if self.at < len(self.legs) else None

    @property
    def following(self) -> Leg | None:
        """What comes next."""
        return self.legs[self.at + 1] if self.at + 1 < len(self.legs) else None

    @property
    def is_over(self) -> bool:
        """Whether everything is behind."""
        return self.at >= len(self.legs)

    @property
    def left_s(self) -> float:
        """What is left of the whole session, as it is planned."""
        now = self.leg
        rest = sum(60.0 * g.item.minutes for g in self.legs[self.at + 1 :])
        return rest + (now.left_s if now is not None else 0.0)


def begin(items: Sequence[PlanItem], at: int = 0) -> SessionRun:
    """A session from its first item, or from another."""
    legs = tuple(Leg(item=i) for i in items)
    return SessionRun(legs=legs, at=min(max(0, at), len(legs)))


def passed(run: SessionRun, seconds: float) -> SessionRun:
    """Time went by at the item in hand."""
    leg = run.leg
    if leg is None or seconds <= 0.0:
        return run
    return _with(run, replace(leg, spent_s=leg.spent_s + seconds))


def heard(run: SessionRun, jig_id: str, met: bool | None) -> SessionRun:
    """A take was judged; one of another jig is not of this item.

    Parameters
    ----------
    run : SessionRun
    jig_id : str
    met : bool or None
        Whether it met its aims; ``None``: cannot be told.
    """
    leg = run.leg
    if leg is None or leg.item.jig_id != jig_id:
        return run
    told = met is not None
    return _with(
        run,
        replace(leg, takes=leg.takes + 1, met=leg.met + bool(met), told=leg.told + told),
    )


def stay(run: SessionRun) -> SessionRun:
    """Not yet: half as long again, as many good takes again."""
    leg = run.leg
    return run if leg is None else _with(run, replace(leg, stays=leg.stays + 1))


def on(run: SessionRun) -> SessionRun:
    """To the next item; behind the last one the session is over."""
    return replace(run, at=min(len(run.legs), run.at + 1))


def back(run: SessionRun) -> SessionRun:
    """To the item before, with half of its time again if it was used up."""
    if run.at == 0:
        return run
    before = replace(run, at=run.at - 1)
    return stay(before) if before.leg is not None and before.leg.over else before


def rearranged(run: SessionRun, items: Sequence[PlanItem]) -> SessionRun:
    """The same session with its items in another order, longer, shorter, or fewer.

    What was done stays with its item; the one in hand stays in hand, or what comes in its place.
    """
    left = list(run.legs)
    now = run.leg
    legs, at = [], None
    for item in items:
        same = next((g for g in left if _is_same(g.item, item)), None)
        if same is None:
            legs.append(Leg(item=item))
            continue
        left.remove(same)
        if same is now:
            at = len(legs)
        legs.append(replace(same, item=item))
    return SessionRun(legs=tuple(legs), at=min(run.at, len(legs)) if at is None else at)


def _is_same(one: PlanItem, other: PlanItem) -> bool:
    return (one.part, one.jig_id, one.title) == (other.part, other.jig_id, other.title)


def _with(run: SessionRun, leg: Leg) -> SessionRun:
    return replace(run, legs=(*run.legs[: run.at], leg, *run.legs[run.at + 1 :]))


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionSum:
    """What a session came to.

    Parameters
    ----------
    minutes : int
        Spent, breaks included.
    played, planned : int
        Items with something to play: those that count, and all.
    met : tuple of PlanItem
        Whose aims were met often enough.
    not_yet : tuple of PlanItem
        Played, not met often enough.
    left_out : tuple of PlanItem
        Planned, nothing was played.
    """

    minutes: int
    played: int
    planned: int
    met: tuple[PlanItem, ...]
    not_yet: tuple[PlanItem, ...]
    left_out: tuple[PlanItem, ...]


def summed_up(run: SessionRun) -> SessionSum:
    """What a session came to so far."""
    legs = [g for g in run.legs if g.is_played]
    met = [g for g in legs if g.counts and g.met >= max(1, min(MET_ENOUGH, g.item.repetitions))]
    return SessionSum(
        minutes=round(sum(g.spent_s for g in run.legs) / 60.0),
        played=sum(g.counts for g in legs), planned=len(legs),
        met=tuple(g.item for g in met),
        not_yet=tuple(g.item for g in legs if g.counts and g not in met),
        left_out=tuple(g.item for g in legs if not g.counts),
    )  # fmt: skip
