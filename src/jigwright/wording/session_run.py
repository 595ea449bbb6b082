"""What is said of a session while it runs, and when it is over."""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil

from jigwright.core.judge.plan import PlanItem
from jigwright.core.judge.session_run import Leg, SessionRun, SessionSum
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.daybook import part_name

_MOST_NAMED = 4


def left_text(seconds: float) -> str:
    """Time that is left: minutes, or seconds in the last one."""
    if seconds >= 60.0:
        n = round(seconds / 60.0)
        return trn("{n} minute left", "{n} minutes left", n).format(n=n)
    n = max(0, ceil(seconds))
    return trn("{n} second left", "{n} seconds left", n).format(n=n)


def item_name(item: PlanItem) -> str:
    """An item in a few words."""
    return item.title or part_name(item.part)


def leg_line(run: SessionRun) -> str:
    """Where one is."""
    leg = run.leg
    if leg is None:
        return ""
    parts = [left_text(leg.left_s)]
    if leg.is_played and leg.takes:
        parts.append(_met_text(leg))
    return " · ".join(parts)


def next_line(run: SessionRun) -> str:
    """What comes after the item in hand."""
    after = run.following
    if after is None:
        return tr("then it is done")
    return tr("then: {what}").format(what=item_name(after.item))


def _met_text(leg: Leg) -> str:
    return tr("{met} of {takes} met it").format(met=leg.met, takes=leg.takes)


def asked_line(run: SessionRun, *, strings_agree: bool = False) -> str:
    """That it is time to go on, and to what."""
    leg, after = run.leg, run.following
    if leg is None:
        return ""
    why = {
        "met": tr("Met often enough."),
        "played": tr("Played."),
        "time": tr("Its minutes are over."),
    }.get(leg.over, tr("The strings agree.") if strings_agree else "")
    then = (
        tr("Next: {what}.").format(what=item_name(after.item))
        if after is not None
        else tr("That was the last one.")
    )
    return f"{why} {then} {tr('Left stays.')}".strip()


def rest_words(leg: Leg) -> tuple[str, str]:
    """Word and line of an item in which nothing is played."""
    line = {
        "settle": tr("Shoulders, breath. A word for the sound you want today."),
        "break": tr("Put the instrument down. Look out of the window."),
        "close": tr("Play something you like. What will you do next time?"),
    }.get(leg.item.part, "")
    return part_name(leg.item.part), line


def sum_sentences(total: SessionSum) -> list[str]:
    """What a session came to, a sentence each."""
    minutes = trn("{n} minute", "{n} minutes", total.minutes).format(n=total.minutes)
    found = [
        trn(
            "{minutes}; {played} of {n} exercise played.",
            "{minutes}; {played} of {n} exercises played.",
            total.planned,
        ).format(minutes=minutes, played=total.played, n=total.planned)
    ]
    for items, text in (
        (total.met, tr("Met: {names}.")),
        (total.not_yet, tr("Not yet often enough: {names}.")),
        (total.left_out, tr("Left out: {names}.")),
    ):
        if items:
            found.append(text.format(names=_names(items)))
    return found


def remembered_sentence(day: str, total: SessionSum) -> str:
    """What is remembered of the last session."""
    open_items = (*total.not_yet, *total.left_out)
    if not open_items:
        return tr("{day}: everything that was played was met.").format(day=day)
    return tr("{day}: not yet {names}.").format(day=day, names=_names(open_items))


def due_sentence(rows: Sequence[tuple[str, str]]) -> str:
    """What is due, and when."""
    if not rows:
        return ""
    said = ", ".join(f"{title} ({when})" for title, when in rows[:_MOST_NAMED])
    return tr("Due: {what}.").format(what=said)


def again_sentence(rows: Sequence[tuple[str, str]]) -> str:
    """What comes again, and when: exercises of one day together.

    Parameters
    ----------
    rows : sequence of (str, str)
        Names and days, in order of time.
    """
    days = list(dict.fromkeys(day for _, day in rows))
    said = [f"{day}: {', '.join(title for title, when in rows if when == day)}" for day in days]
    return tr("Comes again {what}.").format(what="; ".join(said)) if said else ""


def _names(items: Sequence[PlanItem]) -> str:
    named = [item_name(i) for i in items[:_MOST_NAMED]]
    more = len(items) - len(named)
    if more:
        named.append(trn("{n} more", "{n} more", more).format(n=more))
    return "; ".join(named)
