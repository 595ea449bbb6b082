"""Words of a score that say in which part of the bow to play."""

from __future__ import annotations

import re
from bisect import bisect_right

from jigwright.core.jig.model import Jig
from jigwright.core.jig.voices import strokes

FROG, LOWER, MIDDLE, UPPER, TIP = 0.12, 0.25, 0.5, 0.75, 0.88
"""Middles of the parts of the bow, 0 = frog, 1 = tip of the usable hair."""
_WORDS: tuple[tuple[str, float | None], ...] = (
    (r"upper half|moiti[ée] sup|ob(\.|ere) h[äa]lfte|met[àa] superiore", UPPER),
    (r"lower half|moiti[ée] inf|unt(\.|ere) h[äa]lfte|met[àa] inferiore", LOWER),
    (r"\b(frog|heel|talon|tallone|frosch)\b", FROG),
    (r"\b(tip|punta|pointe|spitze)\b|at the point", TIP),
    (r"middle of the bow|middle\b|\bmilieu\b|\bmitte\b|met[àa] (dell')?arco", MIDDLE),
    (r"\bord(\.|in)|\bnorm(al|\.)|\bnat(\.|ur)|whole bow|ganze[rn]? bogen|tout l'archet", None),
)


def part_of_bow(words: str) -> tuple[bool, float | None]:
    """Whether words speak of a part of the bow, and which.

    Parameters
    ----------
    words : str
        As printed in a score, in English, French, German or Italian.

    Returns
    -------
    tuple of (bool, float or None)
        The middle of the part; None gives the bow free again.
    """
    for pattern, place in _WORDS:
        if re.search(pattern, words, re.IGNORECASE):
            return True, place
    return False, None


def places_written(jig: Jig) -> list[float | None]:
    """For each bowed stroke, as :func:`~jigwright.core.jig.voices.strokes` gives them, its part.

    Words hold until others take their place.
    """
    at, places = [], []
    for sign in jig.signs:
        if sign.kind == "words":
            speaks, place = part_of_bow(sign.text)
            if speaks:
                at.append(sign.at_beats)
                places.append(place)
    found: list[float | None] = []
    for a, _ in strokes(jig.events):
        if not jig.events[a].pluck:
            i = bisect_right(at, jig.events[a].onset_beats) - 1
            found.append(places[i] if i >= 0 else None)
    return found
