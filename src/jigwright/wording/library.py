"""Words of the shelf of jigs."""

from __future__ import annotations

from jigwright.core.jig.aims import aims_of
from jigwright.core.jig.model import Jig
from jigwright.wording.aims import aim_name
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.makers import key_name, kind_name


def card_line(jig: Jig, n_takes: int, days: int | None, *, depth: int = 0) -> str:
    """Instrument (of a piece, not of its spots), takes, and how long ago the last was."""
    parts = [] if depth else [kind_name(jig.instrument_id)]
    if not n_takes or days is None:
        parts.append(tr("not played yet"))
    else:
        parts.append(trn("one take", "{n} takes", n_takes).format(n=n_takes))
        ago = trn("yesterday", "{n} days ago", days).format(n=days)
        parts.append(ago if days > 0 else tr("today"))
    return " · ".join(parts)


def searched_text(jig: Jig) -> str:
    """Everything by which a jig can be found."""
    aims = " ".join(aim_name(a.kind) for a in aims_of(jig))
    return " ".join(
        (jig.title, kind_name(jig.instrument_id), key_name(jig.key), f"{jig.tempo_bpm:.0f}", aims)
    )


def in_the_bin(title: str) -> str:
    """What was done with a jig."""
    return tr("“{title}” is in the bin.").format(title=title)
