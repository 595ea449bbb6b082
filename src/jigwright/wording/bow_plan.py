"""What a bow plan says in words."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.jig.bow_advice import Advice
from jigwright.core.jig.bow_plan import Begin, PlannedNote, PlannedStroke
from jigwright.core.jig.model import Event, Jig
from jigwright.core.jig.signs import DYNAMICS
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.notes import letter_name

_MOST_NAMES = 4


def bowing_sentence(jig: Jig) -> str:
    """Whether the directions that everything goes by were written; empty if all were."""
    bowed = [e for e in jig.events if e.bow is not None]
    n = sum(e.proposed_bow for e in bowed)
    if not n:
        return ""
    if n == len(bowed):
        return tr("The bows are a proposal; nobody wrote them.")
    return tr("Where no bow is written, one is proposed.")


def plan_sentence(strokes: Sequence[PlannedStroke], advice: Sequence[Advice]) -> str:
    """How many strokes there are, and whether the bow comes out."""
    if not strokes:
        return ""
    if advice:
        return trn(
            "Bow plan: {strokes} strokes, one place to think about.",
            "Bow plan: {strokes} strokes, {n} places to think about.",
            len(advice),
        ).format(n=len(advice), strokes=len(strokes))
    return trn(
        "Bow plan: the stroke has room, from length and marked loudness.",
        "Bow plan: all {n} strokes have room, from lengths and marked loudness.",
        len(strokes),
    ).format(n=len(strokes))


def advice_sentence(jig: Jig, stroke: PlannedStroke, advice: Advice) -> str:
    """One place and what would help, as a teacher says it."""
    event = jig.events[advice.i_event]
    note, bar = event_name(event), jig.bar_of(event)[0]
    loud = max((n.dynamic for n in stroke.notes), key=DYNAMICS.index)
    match advice.kind:
        case "too_much_set":
            return tr("Bar {bar}: the shares up to {note} are more than the bow has there.").format(
                bar=bar, note=note
            )
        case "change_here" if advice.inside:
            return tr(
                "Bar {bar}: {s} seconds of {loud} on one {note}. Change the bow in it, unheard."
            ).format(bar=bar, s=round(stroke.seconds), loud=loud, note=note)
        case "change_here":
            return tr(
                "Bar {bar}: a slur of {s} seconds in {loud}. Change the bow on this {note}."
            ).format(bar=bar, s=round(stroke.seconds), loud=loud, note=note)
        case "quick_and_light":
            return tr(
                "Bar {bar}: {note} gives back what the long bow before it took. More bow, quick "
                "and light, or hook it."
            ).format(bar=bar, note=note)
        case "save":
            return tr(
                "Bar {bar}: little bow is left for {note}. Travel further in the note before it."
            ).format(bar=bar, note=note)


def begin_name(begins: Begin) -> str:
    """How a stroke takes over from the one before it."""
    return {
        "first": tr("the first stroke"), "turned": tr("turned"), "hooked": tr("hooked"),
        "again": tr("taken back"), "lifted": tr("put down anew"),
    }[begins]  # fmt: skip


def note_sentence(jig: Jig, stroke: PlannedStroke, note: PlannedNote) -> str:
    """One note of a plan: its share and where it lies."""
    event = jig.events[note.i_event]
    place = part_name(0.5 * (note.start + note.end))
    text = tr("Bar {bar}, {note}: {share} % of the bow, {place}, {begins}").format(
        bar=jig.bar_of(event)[0], note=event_name(event), place=place,
        share=round(100 * abs(note.end - note.start)), begins=begin_name(stroke.begins),
    )  # fmt: skip
    return text + (tr(" (set by you)") if note.is_set or stroke.is_set else "")


def part_name(place: float) -> str:
    """The part of the bow a place lies in."""
    if place < 0.2:
        return tr("at the frog")
    if place < 0.42:
        return tr("in the lower half")
    if place <= 0.58:
        return tr("in the middle")
    return tr("in the upper half") if place <= 0.8 else tr("at the tip")


def event_name(event: Event) -> str:
    """The notes of an event, low to high."""
    return "+".join(letter_name(h.pitch) for h in event.heads)


def stroke_notes(jig: Jig, stroke: PlannedStroke) -> str:
    """Names of the notes of a stroke; of a long one the first and the last."""
    names = [event_name(jig.events[n.i_event]) for n in stroke.notes]
    if len(names) > _MOST_NAMES:
        names = [*names[: _MOST_NAMES - 2], "…", names[-1]]
    return " ".join(names)
