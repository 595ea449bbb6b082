"""Changing what a jig is for: one step each, on the aims it has or those its marks ask for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import (
    AIM_KINDS,
    LIMITS,
    MOST_AIMS,
    SHOWN_ONLY,
    WAYS,
    Aim,
    AimKind,
    aims_of,
    limit_of,
)
from jigwright.core.jig.model import Jig

_MOST_BARS = 20_000
_STEPS = (0.5, 0.75, 1.0, 1.5, 2.0)  # of the limit that holds now
_DOUBLE: frozenset[AimKind] = frozenset({"interval", "both_sound", "balance"})
_ASKED_BY_MARKS: frozenset[AimKind] = frozenset(
    {"direction", "contrast", "dotted", "partial", "pluck", "entry", "bow_share", "lanes"}
)


def fitting_kinds(jig: Jig) -> tuple[AimKind, ...]:
    """Kinds that can be added: not there yet, and something in the jig they could be judged by.

    What needs marks or a form of its own (two statements, a shape, harmonics, lanes) is set by its
    maker or by the marks and cannot be added by itself.
    """
    there = {a.kind for a in aims_of(jig)}
    double = any(len(e.heads) > 1 for e in jig.events)
    plucked = bool(jig.events) and all(e.pluck for e in jig.events)
    slurred = any(e.bow is None for e in jig.events[1:]) and any(e.bow for e in jig.events)

    def fits(kind: AimKind) -> bool:
        if kind in there or kind in _ASKED_BY_MARKS:
            return False
        if kind in _DOUBLE:
            return double
        if plucked:
            return kind in ("every_note", "pitch", "hand_frame", "even_run", "second_arrival")
        if kind in ("notes_in_bow", "pairs", "shift"):
            return slurred
        return True

    return tuple(k for k in AIM_KINDS if fits(k))


def with_kind(jig: Jig, kind: AimKind) -> Jig:
    """The same, one more thing listened for, after the others.

    Raises
    ------
    JigError
        If it is there already, or there are too many.
    """
    now = aims_of(jig)
    if any(a.kind == kind and not a.places for a in now):
        raise JigError(f"{kind} is among the aims already")
    if len(now) >= MOST_AIMS:
        raise JigError(f"a jig has at most {MOST_AIMS} aims")
    return replace(jig, aims=(*now, Aim(kind=kind)))


def without(jig: Jig, i: int) -> Jig:
    """The same without one of its aims.

    Raises
    ------
    JigError
        If it is the only one.
    """
    now = aims_of(jig)
    if len(now) < 2:
        raise JigError("a jig is for something: its only aim cannot be taken away")
    return replace(jig, aims=(*now[:i], *now[i + 1 :]))


def put_first(jig: Jig, i: int) -> Jig:
    """The same, for one of its aims before all others."""
    now = aims_of(jig)
    return replace(jig, aims=(now[i], *now[:i], *now[i + 1 :]))


def with_limit(jig: Jig, i: int, limit: float | None) -> Jig:
    """The same, one limit changed; ``None``: what the kind begins with.

    Raises
    ------
    JigError
        If the limit lies outside what may be chosen.
    """
    return _changed(jig, i, replace(aims_of(jig)[i], limit=limit))


def with_way(jig: Jig, i: int, way: str) -> Jig:
    """The same, one aim of another character (dotted sharp or singing, which string leads)."""
    return _changed(jig, i, replace(aims_of(jig)[i], way=way, limit=None))


def with_places(jig: Jig, i: int, places: Sequence[str]) -> Jig:
    """The same, one aim for these events only; none: for the whole jig again.

    Raises
    ------
    JigError
        If an event is none of the jig's.
    """
    there = {e.id for e in jig.events}
    if not there.issuperset(places):
        raise JigError("an aim can only be for notes that are there")
    return _changed(jig, i, replace(aims_of(jig)[i], places=tuple(places)))


def events_in_bars(jig: Jig, text: str) -> tuple[str, ...]:
    """Ids of the events that begin in some bars: ``3``, ``3-6``, ``1, 3-6``.

    Raises
    ------
    JigError
        If the text says no bars, or nothing begins in them.
    """
    asked: set[int] = set()
    for part in text.replace("–", "-").split(","):
        first, dash, last = (word.strip() for word in part.partition("-"))
        if not first.isdecimal() or (dash and not last.isdecimal()):
            raise JigError(f"write bars as 3 or 3-6: {text.strip()!r}")
        start, stop = int(first), int(last or first)
        if stop < start or stop - start > _MOST_BARS:
            raise JigError(f"write bars as 3 or 3-6: {text.strip()!r}")
        asked.update(range(start, stop + 1))
    found = tuple(e.id for e in jig.events if jig.bar_of(e)[0] in asked)
    if not found:
        raise JigError(f"nothing begins in bars {text.strip()}")
    return found


def bars_of(aim: Aim, jig: Jig) -> tuple[int, int] | None:
    """First and last bar of an aim's places; ``None`` where it is for the whole jig."""
    asked = set(aim.places)
    bars = [jig.bar_of(e)[0] for e in jig.events if e.id in asked]
    return (min(bars), max(bars)) if bars else None


def as_marked(jig: Jig) -> Jig:
    """The same, for every note, its pitch and what is marked."""
    return replace(jig, aims=())


def limit_choices(aim: Aim, jig: Jig) -> tuple[float, ...]:
    """Limits to choose from, about the one that holds; none where nothing can be chosen."""
    now, start = limit_of(aim, jig), LIMITS[aim.kind]
    if not now or aim.kind in SHOWN_ONLY or start.unit == "notes":
        return ()
    if start.unit == "share":
        steps = [now + d for d in (-0.1, -0.05, 0.0, 0.05, 0.1)]
    elif start.unit == "ratio":
        steps = [now + d for d in (-0.6, -0.3, 0.0, 0.3, 0.6)]
    else:
        steps = [now * s for s in _STEPS]
    inside = [round(min(start.high, max(start.low, s)), 2) for s in steps]
    return tuple(sorted(set(inside)))


def ways_of(aim: Aim) -> tuple[str, ...]:
    """Characters an aim may have."""
    return WAYS.get(aim.kind, ())


def _changed(jig: Jig, i: int, aim: Aim) -> Jig:
    now = aims_of(jig)
    return replace(jig, aims=(*now[:i], aim, *now[i + 1 :]))
