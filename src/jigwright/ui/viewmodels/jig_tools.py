"""What can be made out of a jig, with the sentence that says so."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from jigwright.core.jig.derive import DISPLACEMENTS, as_double_stops, displaced, rebuilt
from jigwright.core.jig.derive import spot as make_spot
from jigwright.core.jig.fingering import propose_fingering
from jigwright.core.jig.model import Jig, revise
from jigwright.wording.catalogue import tr

Span = tuple[int, int] | None
_MOST_STEPS = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Derived:
    """New jigs and what is said of them; nothing when they cannot be made."""

    jigs: tuple[Jig, ...] = ()
    said: str = ""


def fresh_id() -> str:
    """Identity for a new jig."""
    return f"jig-{uuid.uuid4().hex[:12]}"


def spot(jig: Jig, span: Span) -> Derived:
    """The chosen notes as an exercise of their own."""
    if span is None:
        return Derived()
    bar = jig.bar_of(jig.events[span[0]])[0]
    title = tr("{title}: spot in bar {bar}").format(title=jig.title, bar=bar)
    made = make_spot(jig, *span, jig_id=fresh_id(), title=title)
    return Derived(jigs=(made,), said=tr("The spot is a jig now."))


def rebuild(jig: Jig, span: Span) -> Derived:
    """The chosen notes taken apart and put together again."""
    if span is None:
        return Derived()
    titles = [tr("{title}: step {n}").format(title=jig.title, n=k + 1) for k in range(40)]
    made = rebuilt(jig, *span, jig_id=fresh_id(), titles=titles)[:_MOST_STEPS]
    return Derived(jigs=tuple(made), said=tr("{n} small steps were made.").format(n=len(made)))


def displace(jig: Jig, _span: Span) -> Derived:
    """The beat moved through a passage."""
    made = tuple(
        displaced(
            jig, k, jig_id=fresh_id(),
            title=tr("{title}: {n} before the beat").format(title=jig.title, n=k),
        )
        for k in DISPLACEMENTS
        if k < len(jig.events)
    )  # fmt: skip
    return Derived(jigs=made, said=tr("The beat was moved {n} ways.").format(n=len(made)))


def double(jig: Jig, _span: Span) -> Derived:
    """Neighbouring notes sounded together."""
    title = tr("{title}: as double stops").format(title=jig.title)
    made = as_double_stops(jig, jig_id=fresh_id(), title=title)
    return Derived(jigs=(made,), said=tr("Neighbouring notes sound together now."))


def finger(jig: Jig, _span: Span) -> Derived:
    """Fingers proposed anew; a kept jig gets a new revision."""
    made = propose_fingering(jig, keep_given=False)
    kept = made if jig.id == "new" else revise(made)
    return Derived(jigs=(kept,), said=tr("Fingers were proposed anew."))
