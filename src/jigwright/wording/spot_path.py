"""Words about a weak place and the steps back into the piece."""

from __future__ import annotations

from jigwright.core.jig.model import Jig
from jigwright.core.jig.spot_path import StepKind, WeakPlace
from jigwright.wording.catalogue import tr, trn


def bars_name(piece: Jig, place: WeakPlace) -> str:
    """``bar 9``, ``bars 9 to 12``: by the numbers that are printed."""
    bars = piece.bars()
    first, last = bars[place.first_bar].number, bars[place.last_bar].number
    if first == last:
        return tr("bar {n}").format(n=first)
    return tr("bars {first} to {last}").format(first=first, last=last)


def step_name(kind: StepKind) -> str:
    """What a step is."""
    return {
        "beat": tr("a beat alone"), "next_beat": tr("the next beat alone"),
        "both": tr("both beats"), "landing": tr("both beats and where they land"),
        "shape": tr("the notes sounded together"), "stopped": tr("very short stopped bows"),
        "slow": tr("slowly"), "written": tr("as it is written"),
        "context": tr("with the bars around it"), "whole": tr("the piece again"),
    }[kind]  # fmt: skip


def step_title(piece: Jig, place: WeakPlace, kind: StepKind) -> str:
    """Title of a step's jig."""
    return tr("{title}, {bars}: {step}").format(
        title=piece.title, bars=bars_name(piece, place), step=step_name(kind)
    )


def offer_sentence(piece: Jig, place: WeakPlace) -> str:
    """That a place could be worked on."""
    return trn(
        "{n} note went wrong in {bars}. Down arrow: work on it.",
        "{n} notes went wrong in {bars}. Down arrow: work on it.",
        place.n_off,
    ).format(n=place.n_off, bars=bars_name(piece, place))


def left_off_sentence(piece: Jig, place: WeakPlace, kind: StepKind) -> str:
    """Where the work on a place was left."""
    return tr("You left off in {bars}: {step}. Down arrow goes on.").format(
        bars=bars_name(piece, place), step=step_name(kind)
    )


def where_sentence(i: int, n: int, good: int, of: int) -> str:
    """Which step it is, and what passes it; its name stands in its title."""
    said = tr("step {i} of {n}").format(i=i + 1, n=n)
    if of > 1:
        said += " · " + trn("{good} good take of {of}", "{good} good takes of {of}", good).format(
            good=good, of=of
        )
    return said


def passed_sentence(kind: StepKind) -> str:
    """That a step was passed, and what comes next."""
    return tr("Good. Next: {step}.").format(step=step_name(kind))


def helped_sentence(piece: Jig, place: WeakPlace, off: int, told: int) -> str:
    """What the place was like before and after: counts only, of one take each."""
    if not told:
        return tr("The place could not be told this time.")
    if not place.n_told:  # nobody counted before
        return tr("{bars}: {n} of {of} notes off.").format(
            bars=_begun(bars_name(piece, place)), n=off, of=told
        )
    return tr("{bars}: {before} of {n_before} notes off before, {after} of {n_after} now.").format(
        bars=_begun(bars_name(piece, place)), before=place.n_off, n_before=place.n_told,
        after=off, n_after=told,
    )  # fmt: skip


def _begun(text: str) -> str:
    return text[:1].upper() + text[1:]
