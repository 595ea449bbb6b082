"""What a bow plan says in words."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.jig.bow_plan import PlannedStroke
from jigwright.core.jig.model import Jig
from jigwright.wording.catalogue import tr, trn


def bowing_sentence(jig: Jig) -> str:
    """Whether the directions that everything goes by were written; empty if all were."""
    bowed = [e for e in jig.events if e.bow is not None]
    n = sum(e.proposed_bow for e in bowed)
    if not n:
        return ""
    if n == len(bowed):
        return tr("The bows are a proposal; nobody wrote them.")
    return tr("Where no bow is written, one is proposed.")


def plan_sentence(strokes: Sequence[PlannedStroke]) -> str:
    """The first trouble and its remedy, or that the bow comes out even."""
    if not strokes:
        return ""
    first = next((k for k, s in enumerate(strokes) if s.trouble), None)
    if first is None:
        return trn(
            "Bow plan: the stroke has room, from length and marked loudness.",
            "Bow plan: all {n} strokes have room, from lengths and marked loudness.",
            len(strokes),
        ).format(n=len(strokes))
    stroke = strokes[first]
    count = sum(s.trouble is not None for s in strokes)
    if stroke.trouble == "runs_out":
        text = tr("Bow plan: stroke {n} wants {share} bows.").format(
            n=first + 1, share=f"{stroke.wanted:.1f}"
        )
    else:
        text = tr("Bow plan: stroke {n} begins at the wrong end of the bow.").format(n=first + 1)
    remedies = {
        "less_bow": tr("Take less bow before or in it."),
        "retake": tr("There is time to take the bow back before it."),
        "new_slur": tr("Change the bow once inside it."),
    }
    text += " " + remedies[stroke.remedy or "less_bow"]
    if count > 1:
        text += " " + trn("{n} stroke more is short.", "{n} strokes more are short.",
                          count - 1).format(n=count - 1)  # fmt: skip
    return text
