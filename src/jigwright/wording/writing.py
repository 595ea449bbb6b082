"""Words of writing a piece: marks, pick-ups, what can be laid over notes."""

from __future__ import annotations

from fractions import Fraction

from jigwright.core.jig.model import Mark
from jigwright.wording.catalogue import tr

_FRACTIONS = {Fraction(1, 4): "¼", Fraction(1, 2): "½", Fraction(3, 4): "¾"}


def mark_name(mark: Mark) -> str:
    """A mark over a note."""
    return {
        "accent": tr("Accent"), "marcato": tr("Strong accent"), "tenuto": tr("Broad"),
        "portato": tr("Broad and apart"), "staccatissimo": tr("Very short"),
        "spiccato": tr("Off the string"), "fermata": tr("Hold"), "breath": tr("Breath"),
        "pause": tr("Break"), "rolled": tr("Rolled"), "snap": tr("Snapped against the board"),
        "inverted": tr("Ornament turned over"), "delayed": tr("Ornament later"),
        "long_graces": tr("Long grace notes"), "slash1": tr("Tremolo in eighths"),
        "slash2": tr("Tremolo in sixteenths"), "slash4": tr("Tremolo in sixty-fourths"),
    }[mark]  # fmt: skip


def pickup_name(beats: Fraction) -> str:
    """Length of a pick-up in beats."""
    if not beats:
        return tr("none")
    whole, rest = divmod(beats, 1)
    text = (str(whole) if whole else "") + _FRACTIONS.get(rest, "" if not rest else str(rest))
    return tr("1 beat") if beats == 1 else tr("{n} beats").format(n=text)


def tuplet_name(size: int) -> str:
    """What a tuplet is called."""
    return {
        3: tr("Three in the time of two"), 5: tr("Five in the time of four"),
        7: tr("Seven in the time of four"),
    }[size]  # fmt: skip
