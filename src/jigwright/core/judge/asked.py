"""Which findings an exercise asks for: what was not asked stands below what was.

A finding and an aim speak of one thing in two ways, the finding of where it shows, the aim of
whether it was met.
"""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.jig.aims import AimKind, aims_of, goes_back
from jigwright.core.jig.model import Jig
from jigwright.core.jig.phrases import under_hairpins, written_loudness
from jigwright.core.judge.judging import JudgedNote

_PITCH: frozenset[AimKind] = frozenset({"pitch", "hand_frame", "interval", "second_arrival"})
_BOW: frozenset[AimKind] = frozenset({"even_bow", "mirror", "soft", "duration", "direction"})
AIMS_OF: dict[str, frozenset[AimKind]] = {
    "note_habit": _PITCH, "finger_habit": _PITCH, "note_off": _PITCH, "wrong_note": _PITCH,
    "missed_notes": frozenset({"every_note", "even_run", "notes_in_bow"}),
    "slides": frozenset({"shift", "pitch", "hand_frame"}),
    "hunting": frozenset({"shift", "pitch", "hand_frame"}),
    "weak_note": frozenset({"every_note", "even_run", "notes_in_bow", "off_string", "pluck"}),
    "ring_beside": frozenset({"ring"}), "string_out": frozenset({"ring"}),
    "bow_bounce": _BOW, "bow_scratch": _BOW, "bow_shake": _BOW, "bow_whistle": _BOW | {"crossing"},
    "bow_neighbour_string": frozenset({"crossing", "even_bow"}),
    "bow_fold": frozenset({"partial"}),
}  # fmt: skip
_CORRECTED = ("slides", "hunting")


def is_asked(finding_id: str, jig: Jig | None) -> bool:
    """Whether a jig is for what a finding speaks of; without a jig everything is."""
    if jig is None:
        return True
    kinds = AIMS_OF.get(finding_id)
    return kinds is None or any(a.kind in kinds for a in aims_of(jig))


def is_wanted(finding_id: str, jig: Jig | None) -> bool:
    """Whether the exercise wants what a finding speaks of, or allows it at its stage.

    Finding a note by going back is the exercise where going back is asked for; a little scratch is
    allowed in the early stages of the foundation bow.
    """
    if jig is None:
        return False
    if finding_id == "bow_scratch":
        return any(a.way == "scratch_allowed" for a in jig.aims)
    return finding_id in _CORRECTED and goes_back(jig)


def loudness_marks(notes: Sequence[JudgedNote], jig: Jig | None) -> list[str]:
    """The mark of loudness that holds for every row; empty where none does.

    A mark holds until the next one. A note of a shape (a swell, a fade) or under a
    hairpin is of no loudness of its own: its mark is ``shape``, its row is compared with nothing.
    """
    if jig is None:
        return [""] * len(notes)
    held, now = [], ""
    moving = under_hairpins(jig)
    for i, mark in enumerate(written_loudness(jig)):
        now = mark or now
        held.append("shape" if i in moving else now)
    rows = [n.measured.lined.i_event for n in notes]
    return ["" if i is None else held[i] for i in rows]
