"""Where a harmonic is touched, in a sentence."""

from __future__ import annotations

from jigwright.core.jig.harmonic_ways import HarmonicWay, apart_mm, by_one_finger
from jigwright.wording.catalogue import tr
from jigwright.wording.notes import pitch_name, string_name

_OUT_CENTS = 3.0


def way_sentence(way: HarmonicWay) -> str:
    """String, partial, place, what is off about it, and how easily it folds."""
    string, touched = string_name(way.string), pitch_name(way.touched)
    mm = round(way.touched_mm)
    if way.stopped is None:
        parts = [
            tr("{string}, partial {n}: touch {mm} mm from the nut, where {note} would be.").format(
                string=string, n=way.partial, mm=mm, note=touched
            )
        ]
    else:
        parts = [
            tr("{string}: stop {stopped}, touch {note} ({mm} mm from the nut).").format(
                string=string, stopped=pitch_name(way.stopped), note=touched, mm=mm
            )
        ]
    if abs(way.cents) >= _OUT_CENTS:
        out = tr("It sounds {c} c low.") if way.cents < 0 else tr("It sounds {c} c high.")
        parts.append(out.format(c=round(abs(way.cents))))
    parts.append(_folding(way))
    return " ".join(parts)


def pair_sentence(pair: tuple[HarmonicWay, HarmonicWay]) -> str:
    """Two strings touched at once: partial and place on each, and by which fingers."""
    places = [
        tr("{string}, partial {n}, {mm} mm from the nut").format(
            string=string_name(way.string), n=way.partial, mm=round(way.touched_mm)
        )
        for way in pair
    ]
    if by_one_finger(pair):
        hand = tr("One finger touches both.")
    else:
        hand = tr("Two fingers, {mm} mm apart.").format(mm=round(apart_mm(pair)))
    weaker = min(pair, key=lambda way: way.margin_mm)
    return f"{places[0]}; {places[1]}. {hand} {string_name(weaker.string)}: {_folding(weaker)}"


def _folding(way: HarmonicWay) -> str:
    if way.folding == "hardly":
        return tr("It hardly folds.")
    lower = tr("partial {n}").format(n=way.folds_to)
    other = tr("the plain note") if way.folds_to == 1 else lower
    text = (
        tr("It folds to {other} if the finger is {mm} mm off.")
        if way.folding == "sometimes"
        else tr("It folds easily: {other} lies {mm} mm away.")
    )
    return text.format(other=other, mm=round(way.margin_mm))
