"""What was taken back, or done again."""

from __future__ import annotations

from jigwright.wording.catalogue import tr


def replayed_sentence(name: str | None, *, redo: bool) -> str:
    """What became of asking for undo or redo; ``None``: there was nothing."""
    if name is None:
        return tr("There is nothing to do again.") if redo else tr("There is nothing to take back.")
    said = tr("Done again: {what}.") if redo else tr("Taken back: {what}.")
    return said.format(what=operation_name(name))


def operation_name(name: str) -> str:
    """What an operation of the journal is called."""
    names = {
        "set_mark": tr("marking a take"), "bin_take": tr("putting a take into the bin"),
        "restore_take": tr("bringing a take back"), "set_take": tr("a change of a take"),
        "correct": tr("which note was which"), "choose": tr("a choice between two takes"),
        "remark": tr("a remark"), "work": tr("set work"), "day": tr("the words of a day"),
        "player": tr("a player"), "instrument": tr("an instrument"), "jig": tr("a jig"),
        "strings": tr("a check of the strings"), "ladder": tr("a ladder"),
        "contact": tr("a choice of the contact point"),
    }  # fmt: skip
    return names.get(name, tr("a change"))
