"""Bow changes in words."""

from __future__ import annotations

from collections.abc import Sequence
from math import isfinite

from jigwright.core.gauge.values import BowChange
from jigwright.core.judge.changes import Gathered, Place, place_of, rougher
from jigwright.wording.catalogue import tr, trn

_LEAST_BUMP_DB, _LEAST_JOLT_CENTS = 1.5, 8.0


def place_name(place: Place) -> str:
    """Where on the bow, as a heading."""
    return {
        "frog": tr("At the frog"), "tip": tr("At the tip"),
        "unknown": tr("Changes, place not written"),
    }[place]  # fmt: skip


def at_place(place: Place) -> str:
    """Where on the bow, inside a sentence; empty where it is not known."""
    return {"frog": tr("at the frog"), "tip": tr("at the tip"), "unknown": ""}[place]


def heard_way_text(change: BowChange) -> str:
    """Whether the bow was heard to turn, beside what is written; empty where it was not heard."""
    known = "unknown" not in (change.from_direction, change.to_direction)
    turns = change.from_direction != change.to_direction
    if change.heard_way == "unknown":
        return ""
    if change.heard_way == "turned":
        if known and not turns:
            return tr("the bow was heard to turn, though the bowing goes on the same way")
        return tr("the bow was heard to turn")
    if known and turns:
        return tr("the bow was heard to go on the same way, though the bowing turns it")
    return tr("the bow was heard to go on the same way")


def change_text(change: BowChange) -> str:
    """One change: how deep and long the hole is, and what came with it."""
    parts = []
    where = at_place(place_of(change))
    if change.gap_ms > 0.0:
        parts.append(
            tr("{db} dB deep, {ms} ms long").format(
                db=round(change.dip_db), ms=round(change.gap_ms)
            )
        )
    else:
        parts.append(tr("{db} dB deep, no hole").format(db=round(change.dip_db)))
    if where and change.heard_way == "unknown":
        where = tr("{where}, by the bowing").format(where=where)
    if where:
        parts[0] += f" ({where})"
    if isfinite(change.bump_db) and change.bump_db >= _LEAST_BUMP_DB:
        parts.append(tr("a bump of {db} dB after it").format(db=f"{change.bump_db:.1f}"))
    if isfinite(change.pitch_jolt_cents) and abs(change.pitch_jolt_cents) >= _LEAST_JOLT_CENTS:
        way = tr("up") if change.pitch_jolt_cents > 0 else tr("down")
        parts.append(
            tr("the pitch jolts {way} by {cents} cents").format(
                way=way, cents=round(abs(change.pitch_jolt_cents))
            )
        )
    said = heard_way_text(change)
    return ", ".join([*parts, said] if said else parts)


def gathered_text(now: Gathered) -> str:
    """The middle of the changes of one place."""
    text = trn(
        "{n} change: {db} dB, {ms} ms", "{n} changes: {db} dB, {ms} ms", now.n
    ).format(n=now.n, db=round(now.dip_db), ms=round(now.gap_ms))  # fmt: skip
    if isfinite(now.bump_db) and now.bump_db >= _LEAST_BUMP_DB:
        text += ", " + tr("bump {db} dB").format(db=f"{now.bump_db:.1f}")
    if isfinite(now.jolt_cents) and now.jolt_cents >= _LEAST_JOLT_CENTS:
        text += ", " + tr("jolt {cents} cents").format(cents=round(now.jolt_cents))
    return text


def changes_sentence(gathered: Sequence[tuple[Gathered, Gathered | None]], *, room: bool) -> str:
    """What the changes of a take say: against the own best where it is known.

    Parameters
    ----------
    gathered : sequence of (Gathered, Gathered or None)
        Of each place, and the best of other takes there.
    room : bool
        The room fills holes.
    """
    if not gathered:
        return ""
    if room:
        return tr("The room rings on: holes at the changes look smaller than they are.")
    worse = [(now, best) for now, best in gathered if best is not None and rougher(now, best)]
    if worse:
        now, best = max(worse, key=lambda pair: pair[0].gap_ms - pair[1].gap_ms)
        said = tr("The changes {where} leave a hole of {ms} ms; at your best it was {best} ms.")
        if now.place == "unknown":
            said = tr("The changes leave a hole of {ms} ms; at your best it was {best} ms.")
        return said.format(where=at_place(now.place), ms=round(now.gap_ms), best=round(best.gap_ms))
    places = {now.place: now for now, _ in gathered}
    if "frog" in places and "tip" in places:
        frog, tip = places["frog"], places["tip"]
        apart = frog.gap_ms - tip.gap_ms
        if abs(apart) > frog.gap_spread_ms + tip.gap_spread_ms + 10.0:
            where = at_place("frog" if apart > 0 else "tip")
            return tr("The changes {where} leave the longer hole.").format(where=where)
    return ""
