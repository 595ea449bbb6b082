"""The selected note looked at closely: in other takes, and against other references."""

from __future__ import annotations

from dataclasses import replace

from jigwright.core.judge.judging import judge
from jigwright.services.references import reference_or_equal
from jigwright.ui.viewmodels.desk import DeskModel
from jigwright.ui.viewmodels.shown import PastNote

_MOST_BEFORE, _MOST_AFTER = 40, 10


def past_of_selected(desk: DeskModel) -> tuple[PastNote, ...]:
    """The same note in the takes of the shelf about the shown one, and in that one."""
    note_id = desk.selected_note_id()
    if note_id is None:
        return ()
    result = []
    at = (desk.take_number() or len(desk.prints)) - 1
    for p in desk.prints[max(0, at - _MOST_BEFORE) : at + _MOST_AFTER]:
        for n in desk.landings(p.take):
            if n.cents is not None and n.measured.lined.note_id == note_id:
                result.append(
                    PastNote(
                        take_id=p.take.id, number=p.number, cents=n.cents,
                        uncertainty_cents=n.uncertainty_cents, standing=n.standing,
                    )
                )  # fmt: skip
                break
    return tuple(result)


def against_references(desk: DeskModel) -> tuple[tuple[str, float], ...]:
    """The selected note against several references at once."""
    note = desk.selected_note()
    if note is None or desk.selected is None or note.cents is None:
        return ()
    context = desk.context()
    jig = desk.take_jig()
    tonic = jig.key.tonic if jig else None
    names = ["equal", "pythagorean", *([f"just:{tonic}"] if tonic else []), "ring", "meantone"]
    if context.reference.name not in names:
        names.insert(0, context.reference.name)
    else:
        names.remove(context.reference.name)
        names.insert(0, context.reference.name)
    result = []
    for name in names:
        reference = reference_or_equal(name)
        one = judge([note.measured], jig, replace(context, reference=reference))[0]
        assert one.cents is not None
        result.append((name, one.cents))
    return tuple(result)
