"""What a teacher would say of a bow plan: at most three places, never against the exercise.

Three things go wrong when lengths and loudness are laid into a bow: a stroke that no bow can hold
at its loudness, a short note that must give back what a long one took, and a long note for which
too little was left. Shares somebody set that the bow does not have are said first.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import log2
from typing import Literal

from jigwright.core.jig.aims import AimKind, aims_of
from jigwright.core.jig.bow_plan import PlannedStroke
from jigwright.core.jig.model import Jig
from jigwright.core.jig.signs import DYNAMICS, Dynamic

AdviceKind = Literal["too_much_set", "change_here", "quick_and_light", "save"]
MOST_PLACES = 3
LONGEST_S: dict[Dynamic, float] = {
    "ppp": 20.0, "pp": 18.0, "p": 14.0, "mp": 11.0, "mf": 9.0, "f": 6.0, "ff": 4.0, "fff": 3.5,
}  # fmt: skip
"""One bow at its loudness, in seconds: fifteen to twenty are what a slow soft bow can reach."""
_AGAINST: dict[AdviceKind, frozenset[AimKind]] = {
    "too_much_set": frozenset(),
    "change_here": frozenset(
        {"even_bow", "mirror", "duration", "left_over", "notes_in_bow", "bow_share", "direction",
         "soft", "vibrato", "balance", "both_sound", "lanes"}
    ),
    "quick_and_light": frozenset(
        {"even_bow", "mirror", "duration", "left_over", "notes_in_bow", "bow_share", "bow_change"}
    ),
    "save": frozenset({"even_bow", "mirror", "duration", "left_over", "notes_in_bow",
                       "bow_share", "bow_change"}),
}  # fmt: skip
_HURRY = 1.6  # a short stroke goes so much faster than the long one whose bow it gives back
_SHORT = 0.62  # of the long one
_STARVED = 0.55  # of the hair a stroke wants is too little
_TOO_MUCH = 1.02


@dataclass(frozen=True, slots=True, kw_only=True)
class Advice:
    """One place of a bow plan and what would help.

    Parameters
    ----------
    kind : AdviceKind
    stroke : int
        From 0.
    i_event : int
        Where it is done: the note on which to change, the short note, the one before a long one.
    inside : bool
        For ``change_here``: within that note, for the stroke has no other.
    weight : float
        How much it matters; the most is said first.
    """

    kind: AdviceKind
    stroke: int
    i_event: int
    inside: bool = False
    weight: float


def advise(jig: Jig, plan: Sequence[PlannedStroke]) -> tuple[Advice, ...]:
    """What to do about a plan.

    Parameters
    ----------
    jig : Jig
    plan : sequence of PlannedStroke
        As :func:`~jigwright.core.jig.bow_plan.plan_bow` lays it out.

    Returns
    -------
    tuple of Advice
        At most three, by place in the jig; the same place only once, and of a pattern that comes
        again only its first place.
    """
    aims = {a.kind for a in aims_of(jig)}
    found: list[Advice] = []
    for k in range(len(plan)):
        for kind, look in _LOOKS:
            advice = None if aims & _AGAINST[kind] else look(jig, plan, k)
            if advice is not None:
                found.append(advice)
                break
    first_of: dict[tuple[object, ...], Advice] = {}
    for advice in found:
        first_of.setdefault((advice.kind, *_rhythm(jig, plan, advice.stroke)), advice)
    kept = sorted(first_of.values(), key=lambda a: (-a.weight, a.stroke))[:MOST_PLACES]
    return tuple(sorted(kept, key=lambda a: a.stroke))


def _rhythm(jig: Jig, plan: Sequence[PlannedStroke], k: int) -> tuple[object, ...]:
    around = plan[max(0, k - 1) : k + 1]
    return tuple(tuple(jig.events[n.i_event].length_beats for n in s.notes) for s in around)


def _too_much(jig: Jig, plan: Sequence[PlannedStroke], k: int) -> Advice | None:
    """Shares that were set and that the bow has not got at that place."""
    stroke = plan[k]
    shares = [jig.events[n.i_event].bow_share for n in stroke.notes]
    asked = sum(s for s in shares if s is not None)
    if not asked or asked <= stroke.spent * _TOO_MUCH + 1 / 64:
        return None
    last = max(n.i_event for n in stroke.notes if n.is_set)
    return Advice(kind="too_much_set", stroke=k, i_event=last, weight=10.0 + asked)


def _change(jig: Jig, plan: Sequence[PlannedStroke], k: int) -> Advice | None:
    """A stroke longer than a bow can last at its loudness."""
    stroke = plan[k]
    loudest = max((n.dynamic for n in stroke.notes), key=DYNAMICS.index)
    over = stroke.seconds / LONGEST_S[loudest]
    if over <= 1.0:
        return None
    i, inside = _where_to_change(jig, stroke)
    return Advice(kind="change_here", stroke=k, i_event=i, inside=inside, weight=3.0 + log2(over))


def _where_to_change(jig: Jig, stroke: PlannedStroke) -> tuple[int, bool]:
    """The note of a slur on which a new bow is least in the way: on a bar line, near the middle."""
    events = jig.events
    later = [
        n.i_event for n in stroke.notes[1:] if not any(h.held for h in events[n.i_event].heads)
    ]
    if not later:
        return stroke.notes[0].i_event, True
    first, last = events[stroke.notes[0].i_event], events[stroke.notes[-1].i_event]
    middle = (first.onset_beats + last.end_beats) / 2
    half = (last.end_beats - first.onset_beats) / 2

    def cost(i: int) -> float:
        on_the_bar = jig.bar_of(events[i])[1] == 0
        return abs(float((events[i].onset_beats - middle) / half)) + (0.0 if on_the_bar else 0.4)

    return min(later, key=cost), False


def _light(_jig: Jig, plan: Sequence[PlannedStroke], k: int) -> Advice | None:
    """A short stroke that gives back what the long one before it took."""
    if k == 0:
        return None
    stroke, before = plan[k], plan[k - 1]
    gives_back = stroke.begins == "turned" and before.direction != stroke.direction
    if not gives_back or stroke.seconds > _SHORT * before.seconds or _chosen(stroke):
        return None
    hurry = (stroke.spent / stroke.wanted) / (before.spent / before.wanted)
    if hurry < _HURRY or stroke.seconds < 0.1:
        return None
    return Advice(
        kind="quick_and_light",
        stroke=k,
        i_event=stroke.notes[0].i_event,
        weight=1.0 + min(1.5, log2(hurry)),
    )


def _chosen(stroke: PlannedStroke) -> bool:
    """Whether somebody gave its notes their bow: that is meant."""
    return any(n.is_set for n in stroke.notes)


def _save(_jig: Jig, plan: Sequence[PlannedStroke], k: int) -> Advice | None:
    """A long stroke for which too little bow was left."""
    stroke = plan[k]
    if k == 0 or stroke.begins != "turned" or stroke.haste > _STARVED or stroke.seconds < 1.0:
        return None
    if _chosen(stroke):
        return None
    return Advice(
        kind="save",
        stroke=k,
        i_event=stroke.notes[0].i_event,
        weight=1.5 + min(1.5, -log2(stroke.haste)),
    )


_Look = Callable[[Jig, Sequence[PlannedStroke], int], Advice | None]
_LOOKS: tuple[tuple[AdviceKind, _Look], ...] = (
    ("too_much_set", _too_much), ("change_here", _change), ("quick_and_light", _light),
    ("save", _save),
)  # fmt: skip
