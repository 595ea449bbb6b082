"""Which instrument a part is for: by its name, else by its range, else nobody knows."""

from __future__ import annotations

import re

from jigwright.core.music.instruments import INSTRUMENTS, InstrumentId

_NAMES: tuple[tuple[InstrumentId, str], ...] = (
    ("cello", r"(violon)?cell(o|i|e|es)|violoncelle?|vlc|vcl?|celli"),
    ("bass", r"contrabass(o|i|e)?|contrebasses?|kontrab(a|ä)(ss|ß)e?|violone|cb|kb|db"),
    ("bass", r"(double|string|upright) ?bass(es)?"),
    ("viola", r"viola[s]?|viole|violen|bratschen?|altos?|vla|va|br"),
    ("violin", r"violins?|violon|violons|violin[oi]|violine[n]?|vln|vl|vn|vni|fiddle|geige[n]?"),
)  # fmt: skip
_OTHERS = re.compile(
    r"\b(clarinet\w*|klarinet\w*|sax\w*|flute|flöte|fl[uû]te|recorder|trombone|posaune|tuba|drum|"
    r"guitar|gitarre|voice|voix|choir|chorus|bassoon|fagott\w*|basson|horn|oboe|hautbois|trumpet|"
    r"trompete|organ|orgel|organo|piano|gamba|da gamba|lute|laute|harp\w*|continuo|banjo|bugle|"
    r"d'amore|d'amour|marimba|vocal\w*|singer)\b",
    re.IGNORECASE,
)  # fmt: skip
_SINGERS = re.compile(
    r"^\W*(soprano?|alto?|contralto|tenore?|bass|basso|baritone?)\W*\d*\W*$", re.IGNORECASE
)


def guess_instrument(name: str, span: tuple[int, int] | None = None) -> InstrumentId | None:
    """The bowed instrument of a part.

    Parameters
    ----------
    name : str
        As printed; a part of a choir, a wind or a keyboard is none, whatever else is in the name.
    span : (int, int), optional
        Lowest and highest sounding note as MIDI numbers; used when the name says nothing.

    Returns
    -------
    InstrumentId or None
        None: neither tells.
    """
    words = name.strip()
    strings_too = re.search(r"viol(?!a d)", words, re.IGNORECASE) is not None
    if not _SINGERS.match(words) and not (_OTHERS.search(words) and not strings_too):
        for kind, pattern in _NAMES:
            if re.search(rf"(?<![^\W\d_])({pattern})(?![^\W\d_])", words, re.IGNORECASE):
                return kind
    if span is None:
        return None
    fitting = [
        kind
        for kind, inst in INSTRUMENTS.items()
        if inst.strings[0].midi <= span[0]
        and span[1] <= inst.strings[-1].midi + inst.reach_semitones
    ]
    return fitting[0] if fitting else None  # type: ignore[return-value]
