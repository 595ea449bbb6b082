"""Aims in words: what is listened for, what was not met, what could not be told."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from jigwright.core.jig.aims import LIMITS, LISTENED_FOR, OWN_BEST, Aim, AimKind
from jigwright.core.judge.aims import AimResult, AimState
from jigwright.wording.catalogue import tr


def aim_name(kind: AimKind) -> str:
    """What is listened for, as it stands in a line of several."""
    return {
        "every_note": tr("every note heard"), "pitch": tr("in tune"),
        "hand_frame": tr("the hand alike each time"),
        "second_arrival": tr("the note after going back"), "shift": tr("shifts that arrive"),
        "interval": tr("pure intervals"), "both_sound": tr("both strings sounding"),
        "balance": tr("balance of two strings"), "even_bow": tr("an even bow, contact kept"),
        "mirror": tr("down like up"), "left_over": tr("bow used up at the end"),
        "bow_change": tr("changes without a hole"), "crossing": tr("clean crossings"),
        "duration": tr("long strokes"), "notes_in_bow": tr("even notes in the bow"),
        "bow_share": tr("shares of the bow"), "off_string": tr("even strokes off the string"),
        "start": tr("clean starts"), "soft": tr("soft without shaking"),
        "direction": tr("long notes with a direction"), "contrast": tr("loud against soft"),
        "pairs": tr("the second of two lighter"), "held": tr("notes held to their end"),
        "dotted": tr("dotted notes in their character"),
        "vibrato": tr("vibrato where it is asked for"), "partial": tr("the right harmonic"),
        "pluck": tr("even plucking"), "ring": tr("strings that ring along"),
        "even_run": tr("an even run"),
        "entry": tr("entries on time"), "lanes": tr("lanes beside each other"),
    }[kind]  # fmt: skip


def state_name(state: AimState) -> str:
    """Met, not met, cannot be told, not asked."""
    return {
        "met": tr("met"), "not_met": tr("not met"), "cannot_tell": tr("cannot be told"),
        "not_asked": tr("shown, not judged"),
    }[state]  # fmt: skip


def listening_for(aims: Sequence[Aim]) -> str:
    """One line: the three aims that are listened for."""
    names = " · ".join(aim_name(a.kind) for a in aims[:LISTENED_FOR])
    return tr("Listening for: {aims}").format(aims=names)


def aim_word(result: AimResult) -> str:
    """The main word about an aim that was not met."""
    return {
        "even_bow": {
            "bounce": tr("The bow let go"), "scratch": tr("The bow scratched"),
            "whistle": tr("The string whistled instead"), "shake": tr("The bow shook"),
            "wavers": tr("The tone wavered"),
        },
        "mirror": {
            "frog": tr("Down and up differ at the frog"),
            "tip": tr("Down and up differ at the tip"),
            "middle_of_bow": tr("Down and up differ in the middle of the bow"),
        },
        "bow_change": {
            "frog": tr("A hole at the frog"), "tip": tr("A hole at the tip"),
            "": tr("A hole at the changes"),
        },
        "crossing": {
            "neighbour_string": tr("A neighbour string sounded too"),
            "level": tr("A note was lost in a crossing"),
        },
        "direction": {
            "grow": tr("The long note did not grow"), "fade": tr("The long note did not fade"),
            "swell": tr("The long note did not swell"),
            "dip": tr("The long note did not sink and rise"),
        },
        "dotted": {
            "lazy": tr("The short note came too early"),
            "snapped": tr("The short note came too late"),
        },
        "vibrato": {
            "missing": tr("Where was the vibrato?"), "unasked": tr("Vibrato where none is asked"),
        },
        "entry": {
            "late": tr("You came in late"), "early": tr("You came in early"),
            "late_by_click": tr("You came in after the click"),
            "early_by_click": tr("You came in before the click"),
        },
        "balance": {
            "upper": tr("The upper string led"), "lower": tr("The lower string led"),
            "": tr("The other string led"),
        },
    }.get(result.aim.kind, {}).get(_which(result), _plain_word(result.aim.kind))  # fmt: skip


def _which(result: AimResult) -> str:
    return result.part if result.aim.kind in ("mirror", "bow_change") else result.detail


# faults by themselves: their strength is not what the limit speaks of
_OF_ITSELF = ("bounce", "scratch", "whistle", "shake", "neighbour_string")


def _plain_word(kind: AimKind) -> str:
    return {
        "left_over": tr("Bow was left over"), "duration": tr("The bow ended early"),
        "notes_in_bow": tr("The notes in the bow were uneven"),
        "off_string": tr("The strokes came unevenly"), "start": tr("The tone came late"),
        "soft": tr("The soft bow shook"), "contrast": tr("Loud and soft were close together"),
        "pairs": tr("The second note stuck out"), "held": tr("Notes were let go early"),
        "partial": tr("Another harmonic spoke"), "pluck": tr("One plucked note stood out"),
        "even_run": tr("The run was uneven"), "ring": tr("The strings seldom answered"),
        "hand_frame": tr("The hand did not come down alike"),
        "second_arrival": tr("The second arrival was off too"),
        "shift": tr("The shift did not arrive"), "interval": tr("Listen to the stop"),
        "both_sound": tr("One string fell silent"), "pitch": tr("Not everything was in tune"),
        "every_note": tr("Notes were left out"),
    }.get(kind, aim_name(kind))  # fmt: skip


def aim_line(result: AimResult, bar: int | None, *, figures: bool) -> str:
    """The second line: where, and on request how much."""
    parts = []
    if bar is not None and result.aim.kind not in ("mirror", "contrast"):
        parts.append(tr("bar {bar}").format(bar=bar))
    where = _stroke_words(result)
    if where:
        parts.append(where)
    if figures and result.figure is not None:
        parts.append(figure_words(result))
    return ", ".join(parts) if parts else aim_name(result.aim.kind)


def _stroke_words(result: AimResult) -> str:
    if result.aim.kind == "mirror":
        louder = tr("the down strokes are louder there")
        return louder if result.direction == "down" else tr("the up strokes are louder there")
    if result.aim.kind == "left_over":
        ends = {
            "down": tr("at the end of the down strokes"), "up": tr("at the end of the up strokes"),
        }  # fmt: skip
        return ends.get(result.direction, tr("at the end of the strokes"))
    inside = {
        ("beginning", "down"): tr("in the first third of the down stroke"),
        ("middle", "down"): tr("in the middle of the down stroke"),
        ("end", "down"): tr("in the last third of the down stroke"),
        ("beginning", "up"): tr("in the first third of the up stroke"),
        ("middle", "up"): tr("in the middle of the up stroke"),
        ("end", "up"): tr("in the last third of the up stroke"),
        ("", "down"): tr("in the down stroke"), ("", "up"): tr("in the up stroke"),
    }  # fmt: skip
    return inside.get((result.part, result.direction), "")


def limit_words(aim: Aim, limit: float | None) -> str:
    """A limit with its sense and unit; empty where there is none to speak of."""
    start = LIMITS[aim.kind]
    if aim.way == OWN_BEST:
        return way_name(aim.way)
    if not limit or start.unit in ("notes", ""):
        return way_name(aim.way) if aim.way else ""
    if start.unit == "ratio":
        return tr("from {x} : 1").format(x=f"{limit:g}")
    scale, name = {"share": (100.0, "%"), "c": (1.0, tr("cents"))}.get(
        start.unit, (1.0, start.unit)
    )
    said = tr("at most {x} {unit}") if start.sense == "most" else tr("at least {x} {unit}")
    text = said.format(x=f"{scale * limit:.3g}", unit=name)
    return f"{way_name(aim.way)}, {text}" if aim.way else text


def bars_words(bars: tuple[int, int] | None) -> str:
    """Where an aim is asked for; empty for the whole exercise."""
    if bars is None:
        return ""
    first, last = bars
    if first == last:
        return tr("bar {bar}").format(bar=first)
    return tr("bars {first}–{last}").format(first=first, last=last)


def way_name(way: str) -> str:
    """A character of an aim."""
    return {
        "sharp": tr("sharply dotted"), "singing": tr("singing"), "even": tr("both alike"),
        "lower": tr("lower string leads"), "upper": tr("upper string leads"),
        "slow": tr("a slow slide is wanted"), "hidden": tr("the slide hidden"),
        "none": tr("no slide"), "scratch_allowed": tr("a little scratch is allowed"),
        OWN_BEST: tr("as at your own best"),
    }.get(way, way)  # fmt: skip


def bare_figure(result: AimResult) -> str:
    """The figure with its uncertainty, without the limit."""
    return figure_words(replace(result, limit=None))


def figure_words(result: AimResult) -> str:
    """The figure with its uncertainty and the limit."""
    if result.figure is None:
        return ""
    unit = result.unit
    if unit == "notes":
        return f"{result.figure:.0f}"
    if unit == "ratio":
        return tr("{x} ± {u} : 1").format(x=f"{result.figure:.1f}", u=f"{result.uncertainty:.1f}")
    scale, digits, name = {
        "share": (100.0, 0, "%"), "c": (1.0, 0, tr("cents")), "dB": (1.0, 1, "dB"),
        "ms": (1.0, 0, "ms"), "s": (1.0, 1, "s"), "%": (1.0, 0, "%"),
    }.get(unit, (1.0, 1, unit))  # fmt: skip
    text = f"{scale * result.figure:.{digits}f}"
    if result.uncertainty > 0.0:
        text += f" ± {max(scale * result.uncertainty, 10.0**-digits):.{digits}f}"
    text = f"{text} {name}"
    if result.limit is None or result.detail in _OF_ITSELF:
        return text
    return tr("{figure} (limit {limit})").format(
        figure=text, limit=f"{scale * result.limit:.3g}"
    )  # fmt: skip


def untold_line(result: AimResult) -> str:
    """Which aim could not be told, and why."""
    return tr("{aim} could not be told: {reason}").format(
        aim=_capital(aim_name(result.aim.kind)), reason=why_untold(result.reason)
    )


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def why_untold(reason: str) -> str:
    """Why an aim could not be told."""
    return {
        "near_limit": tr("it lies too near to the limit"),
        "room_rings": tr("the room rings on"),
        "changes_hidden": tr("where the strokes change was not heard"),
        "too_short": tr("the strokes were too short"),
        "too_few": tr("there were too few notes"),
        "ring_not_told": tr("of too few notes it can be told what rang after them"),
        "too_few_strokes": tr("there were too few strokes"),
        "too_few_landings": tr("there were too few landings"),
        "not_heard": tr("these notes were not heard"),
        "hidden_note": tr("a note may be hidden in another"),
        "notes_missing": tr("not every note was heard"),
        "pitch_unclear": tr("too many notes were unclear"),
        "arrivals_unclear": tr("how the notes were reached was unclear"),
        "stops_unclear": tr("the two strings could not be parted"),
        "balance_unclear": tr("the two strings could not be parted"),
        "vibrato_unclear": tr("too many notes were unclear"),
        "not_gone_back": tr("nobody went back to the note"),
        "no_stops": tr("there are no double stops"),
        "no_shapes": tr("no shape is marked"),
        "no_statements": tr("there are no two statements"),
        "no_marks": tr("nothing is marked"),
        "no_rests": tr("there are no rests"),
        "two_notes": tr("two strings sounded"),
    }.get(reason, tr("it was not measured"))  # fmt: skip


def aim_sentence(result: AimResult, bar: int | None) -> str:
    """A whole sentence about one aim."""
    name = _capital(aim_name(result.aim.kind))
    if result.state == "met":
        return tr("{aim}: met.").format(aim=name)
    if result.state == "not_asked":
        return tr("{aim}: shown, not judged.").format(aim=name)
    if result.state == "cannot_tell":
        return untold_line(result) + "."
    where = aim_line(result, bar, figures=True)
    return f"{aim_word(result)} ({where})."
