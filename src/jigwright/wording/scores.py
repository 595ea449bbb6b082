"""Sentences about score files: what is wrong, what was kept."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.errors import ScoreError
from jigwright.core.jig.imported import MARK_LOSSES, Imported, ImportLoss
from jigwright.wording.catalogue import tr, trn

_MOST_BARS = 4


def score_error(error: ScoreError) -> str:
    """Why a score cannot be used, and what to do."""
    texts = {
        "not_a_score": tr("This is not a score file ({detail}). Use MusicXML or MIDI."),
        "too_large": tr("This score is too large ({detail}). Export the part you need."),
        "hostile": tr("This file was refused: {detail}. Ask for a plain MusicXML file."),
        "timewise": tr(
            "This score lists {detail}, which is rarely used. Export it again as part by part."
        ),
        "no_notes": tr("No notes could be read ({detail}). Choose another part or export again."),
        "no_part": tr("There is no such part ({detail})."),
        "refused": tr("This file was refused ({detail}). Nothing of it was taken in."),
        "damaged": tr("This file is damaged ({detail}). Export it again."),
    }
    return texts.get(error.reason, "{detail}").format(detail=error.detail)


def loss_sentence(loss: ImportLoss) -> str:
    """What of a file is not in the jig."""
    texts = {
        "broken": tr("Bar {bar} could not be read; the bars before it were kept."),
        "other_voice": tr("Bar {bar}: a fifth voice was left out."),
        "other_staff": tr("Bar {bar}: a second staff was left out."),
        "five_notes": tr("Bar {bar}: a chord of more than four notes was cut."),
        "unpitched": tr("Bar {bar}: a note without pitch was left out."),
        "out_of_range": tr("Some notes lie below the lowest string."),
    }
    if not loss.bar and loss.what == "other_voice":
        return tr("Overlapping notes were cut short.")
    return texts.get(loss.what, loss.what).format(bar=loss.bar)


def saved_sentence(name: str, left: Sequence[str]) -> str:
    """That a file was written, and what it does not hold."""
    said = tr("Saved as {name}.").format(name=name)
    if not left:
        return said
    names = {
        "aims": tr("what it is for"), "cue": tr("the accompaniment"), "bows": tr("bows"),
        "fingers": tr("fingers"), "marks": tr("marks and words"),
    }  # fmt: skip
    return (
        said
        + " "
        + tr("Not in it, only in the jig: {what}.").format(what=", ".join(names[w] for w in left))
    )


def _marks_sentence(losses: Sequence[ImportLoss]) -> str:
    """Marks of one kind that have no place, with the first bars they stood in."""
    names = {
        "tie": tr("ties that lead nowhere"), "slur": tr("slurs that lead nowhere"),
        "graces": tr("grace notes without a note"),
        "grace_chord": tr("chords of grace notes, read one after the other"),
        "grace_marks": tr("marks of grace notes"), "cue": tr("cue notes"),
        "odd_key": tr("unusual key signatures"), "other_mark": tr("other marks"),
    }  # fmt: skip
    bars = [x.bar for x in losses if x.bar]
    some = ", ".join(bars[:_MOST_BARS]) + (" …" if len(bars) > _MOST_BARS else "")
    return trn(
        "Left out in {n} bar: {what} ({bars}).", "Left out in {n} bars: {what} ({bars}).", len(bars)
    ).format(n=len(bars), what=names[losses[0].what], bars=some)


def import_summary(imported: Imported) -> str:
    """One or two sentences about an import."""
    n = len(imported.jig.events)
    text = trn("{n} note was read.", "{n} notes were read.", n).format(n=n)
    if len(imported.parts) > 1:
        text += " " + tr("Part: {part}.").format(part=imported.parts[imported.i_part])
    losses = [x for x in imported.losses if x.what not in MARK_LOSSES]
    shown = losses[:3]
    text += "".join(" " + loss_sentence(x) for x in shown)
    if len(losses) > len(shown):
        more = len(losses) - len(shown)
        text += " " + trn("{n} more.", "{n} more.", more).format(n=more)
    if not imported.sure:
        text += " " + tr("Which instrument it is for is a guess from its range.")
    for what in MARK_LOSSES:
        of_kind = [x for x in imported.losses if x.what == what]
        if of_kind:
            text += " " + _marks_sentence(of_kind)
    return text
