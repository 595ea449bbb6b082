"""What mending a damaged studio saved, and each thing that is not as it was."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from jigwright.wording.catalogue import tr, trn

_MOST_NAMES = 12


def mended_sentence(
    kept: Mapping[str, int], losses: Sequence[tuple[str, str, int]], copy: str
) -> str:
    """What mending saved and what was lost, a line for each kind of loss.

    Parameters
    ----------
    kept : mapping of str to int
        Rows of each table.
    losses : sequence of (kind, subject, n)
    copy : str
        Name of the copy of the damaged database.
    """
    lines = [
        tr("Saved: {takes} takes, {jigs} jigs, {players} players.").format(
            takes=kept.get("take", 0), jigs=kept.get("jig", 0), players=kept.get("player", 0)
        )
    ]
    by_kind: dict[str, list[tuple[str, int]]] = {}
    for kind, subject, n in losses:
        by_kind.setdefault(kind, []).append((subject, n))
    lines += [_line(kind, some) for kind, some in by_kind.items()]
    lines.append(tr("The damaged database lies beside it as {name}.").format(name=copy))
    return "\n".join(lines)


def _line(kind: str, some: Sequence[tuple[str, int]]) -> str:
    n = sum(count for _, count in some)
    names = ", ".join(subject for subject, _ in some[:_MOST_NAMES] if subject)
    if len(some) > _MOST_NAMES:
        names += " …"
    match kind:
        case "unreadable":
            said = tr("Not everything could be read of: {names}.")
        case "from_note":
            said = trn(
                "One take came back from its sound and the note beside it, perhaps without its "
                "mark and corrections: {names}.",
                "{n} takes came back from their sounds and the notes beside them, perhaps without "
                "their marks and corrections: {names}.", n,
            )  # fmt: skip
        case "from_sound":
            said = trn(
                "One take came back from its sound alone; who played it, and what, is not known: "
                "{names}.",
                "{n} takes came back from their sounds alone; who played them, and what, is not "
                "known: {names}.", n,
            )  # fmt: skip
        case "no_sound":
            said = trn(
                "The sound of one take is lost: {names}.",
                "The sounds of {n} takes are lost: {names}.", n,
            )  # fmt: skip
        case "no_jig":
            said = trn(
                "One take has lost its jig: {names}.", "{n} takes have lost their jig: {names}.", n
            )
        case "bad_jig":
            said = trn(
                "One jig could not be read: {names}.", "{n} jigs could not be read: {names}.", n
            )
        case "stand_in":
            said = tr("Nobody knows these any more; they have a stand-in: {names}.")
        case "to_hear_again":
            said = trn("One take is heard anew.", "{n} takes are heard anew.", n)
        case "orphans":
            said = trn(
                "One entry was left out because what it belongs to is lost.",
                "{n} entries were left out because what they belong to is lost.", n,
            )  # fmt: skip
        case _:
            said = tr("What was done before can no longer be taken back.")
    return said.format(n=n, names=names)
