"""Words of the shelf of jigs."""

from __future__ import annotations

from jigwright.core.jig.aims import aims_of
from jigwright.core.jig.model import Jig
from jigwright.wording.aims import aim_name
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.daybook import last_played_text
from jigwright.wording.makers import key_name, kind_name


def card_line(jig: Jig, n_takes: int, days: int | None) -> str:
    """Instrument, takes and how long ago the last was, under a title."""
    kind = kind_name(jig.instrument_id)
    if not n_takes:
        return tr("{kind} · not played yet").format(kind=kind)
    return trn("{kind} · one take, {day}", "{kind} · {n} takes, {day}", n_takes).format(
        kind=kind, n=n_takes, day=last_played_text(days)
    )


def searched_text(jig: Jig) -> str:
    """Everything by which a jig can be found."""
    aims = " ".join(aim_name(a.kind) for a in aims_of(jig))
    return " ".join(
        (jig.title, kind_name(jig.instrument_id), key_name(jig.key), f"{jig.tempo_bpm:.0f}", aims)
    )


def in_the_bin(title: str) -> str:
    """What was done with a jig."""
    return tr("“{title}” is in the bin.").format(title=title)
