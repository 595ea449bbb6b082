"""Words of writing a piece: marks, pick-ups, what can be laid over notes."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from jigwright.core.jig.model import Bar, Mark
from jigwright.core.jig.parallels import Parallel
from jigwright.wording.catalogue import tr, trn

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
        return tr("no pick-up")
    whole, rest = divmod(beats, 1)
    text = (str(whole) if whole else "") + _FRACTIONS.get(rest, "" if not rest else str(rest))
    return tr("1 beat") if beats == 1 else tr("{n} beats").format(n=text)


def tuplet_name(size: int) -> str:
    """What a tuplet is called."""
    return {
        3: tr("Three in the time of two"), 5: tr("Five in the time of four"),
        7: tr("Seven in the time of four"),
    }[size]  # fmt: skip


def bars_name(bars: Sequence[Bar], first: int, n: int) -> str:
    """Numbers of some bars."""
    a, b = bars[first].number, bars[first + n - 1].number
    return str(a) if a == b else f"{a}–{b}"


def parallel_sentence(pair: Parallel, bars: Sequence[Bar]) -> str:
    """Two places that move alike, how far apart in height, and where they differ."""
    text = tr("Bars {one} and {two} move alike").format(
        one=bars_name(bars, pair.first, pair.n_bars), two=bars_name(bars, pair.second, pair.n_bars)
    )
    if pair.steps:
        n = abs(pair.steps)
        text += ", " + (
            trn("{n} step higher", "{n} steps higher", n)
            if pair.steps > 0
            else trn("{n} step lower", "{n} steps lower", n)
        ).format(n=n)
    if pair.differ:
        numbers = ", ".join(str(bars[pair.second + k].number) for k in pair.differ)
        text += "; " + trn("bar {bars} differs", "bars {bars} differ", len(pair.differ)).format(
            bars=numbers
        )
    return text + "."
