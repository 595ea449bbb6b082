"""A bow plan changed by hand: shares, start places, lifts, hooks, changes inside a slur."""

from __future__ import annotations

from dataclasses import replace

from jigwright.core.jig.edit import mark, one_bow, turn_bow
from jigwright.core.jig.model import Jig
from jigwright.core.jig.voices import strokes

LEAST_SHARE, MOST_SHARE = 0.02, 1.0


def set_share(jig: Jig, i: int, share: float | None) -> Jig:
    """Give a note a share of the usable hair; None leaves it to the plan.

    Parameters
    ----------
    jig : Jig
    i : int
        The event.
    share : float or None
        Kept within 0.02 … 1.
    """
    if share is not None:
        share = round(min(MOST_SHARE, max(LEAST_SHARE, share)), 3)
    return mark(jig, i, i, bow_share=share)


def set_place(jig: Jig, i: int, place: float | None) -> Jig:
    """Begin the stroke of a note at a place, 0 = frog, 1 = tip; None leaves it to the plan.

    It is kept at the first note of the stroke.
    """
    if place is not None:
        place = round(min(1.0, max(0.0, place)), 3)
    first = next(a for a, b in strokes(jig.events) if a <= i <= b)
    return mark(jig, first, first, bow_place=place)


def toggle_lift(jig: Jig, i: int) -> Jig:
    """Lift the bow before the stroke of a note, or leave it on the string.

    Nothing changes at the first stroke.
    """
    first = next(a for a, b in strokes(jig.events) if a <= i <= b)
    if first == 0:
        return jig
    before = jig.events[first - 1]
    done = mark(jig, first - 1, first - 1, lifted=not before.lifted)
    return done if not before.lifted else mark(done, first, first, bow_place=None)


def toggle_hook(jig: Jig, i: int) -> Jig:
    """Play the stroke of a note in the direction of the one before it, or turn it again.

    The strokes after it keep turning. Nothing changes at the first stroke.
    """
    first = next(a for a, b in strokes(jig.events) if a <= i <= b)
    return turn_bow(jig, first) if any(e.bow for e in jig.events[:first]) else jig


def change_at(jig: Jig, i: int) -> Jig:
    """Change the bow on a note of a slur; the strokes after it turn as before."""
    a, b = next(span for span in strokes(jig.events) if span[0] <= i <= span[1])
    if i == a:
        return jig
    return one_bow(jig, i, b)


def leave_to_the_plan(jig: Jig) -> Jig:
    """Take every share and place that was set away."""
    return replace(
        jig, events=tuple(replace(e, bow_share=None, bow_place=None) for e in jig.events)
    )


def with_plan_of(jig: Jig, other: Jig) -> Jig:
    """A jig with bows, lifts, shares and places of another that has the same events."""
    events = tuple(
        replace(
            mine, bow=its.bow, proposed_bow=its.proposed_bow, lifted=its.lifted,
            bow_share=its.bow_share, bow_place=its.bow_place,
        )
        for mine, its in zip(jig.events, other.events, strict=True)
    )  # fmt: skip
    return replace(jig, events=events, signs=other.signs)


def is_set(jig: Jig) -> bool:
    """Whether anything of the plan was set by hand."""
    return any(e.bow_share is not None or e.bow_place is not None for e in jig.events)
