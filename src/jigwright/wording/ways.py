"""What is said of ways of doing the same: their names, what to do, their figures."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.jig.ways import MOST_NOTES, MOST_NOTES_OF_SEVERAL, OF_A_JIG, Ways, WaysKind
from jigwright.core.judge.ways_heard import WayFigures
from jigwright.wording.catalogue import tr, trn


def ways_title(kind: WaysKind) -> str:
    """Name of a comparison."""
    return {
        "lanes": tr("Three lanes of contact"),
        "lanes_all": tr("Three lanes on every string"),
        "bows": tr("Half, whole and slow bows"), "two_ways": tr("Two ways of bowing it"),
        "fingering": tr("Two fingerings"), "bowing": tr("Two bowings"),
        "fingerings": tr("Several fingerings"), "bowings": tr("Several bowings"),
        "string": tr("On the string below"),
    }[kind]  # fmt: skip


def way_name(kind: WaysKind, name: str) -> str:
    """Name of one way, as it stands in a sentence."""
    lanes = {
        "fingerboard": tr("near the fingerboard"), "middle": tr("in the middle"),
        "bridge": tr("near the bridge"),
    }  # fmt: skip
    return {
        "lanes": lanes, "lanes_all": lanes,
        "bows": {
            "half": tr("half bows"), "whole": tr("whole bows"), "eight": tr("bows of eight beats"),
        },
        "two_ways": {"one": tr("one way"), "other": tr("the other way")},
        "fingering": {
            "as_it_is": tr("fingered as it is"), "otherwise": tr("fingered otherwise"),
        },
        "fingerings": {
            "as_it_is": tr("fingered as it is"), "second": tr("the second fingering"),
            "third": tr("the third fingering"), "fourth": tr("the fourth fingering"),
        },
        "bowing": {"as_it_is": tr("bowed as it is"), "otherwise": tr("bowed otherwise")},
        "bowings": {
            "as_it_is": tr("bowed as it is"), "apart": tr("a bow to every note"),
            "twos": tr("slurred in twos"), "fours": tr("slurred in fours"),
            "across": tr("one alone, then slurred in twos"),
        },
        "string": {
            "as_it_is": tr("on its own strings"), "lower": tr("each on the string below"),
        },
    }[kind][name]  # fmt: skip


def ways_to_do(kind: WaysKind) -> str:
    """What the player is to do."""
    return {
        "lanes": tr("Two slow bows near the fingerboard, in the middle, by the bridge."),
        "lanes_all": tr("Two slow bows on each string, in one lane after the other."),
        "bows": tr("Half bows in two beats, whole bows in four, whole bows in eight."),
        "two_ways": tr("Two slow bows one way, then two another: weight, speed, what you like."),
        "fingering": tr("Once as it is fingered, then once otherwise, as it is written."),
        "fingerings": tr("Once with each fingering, as they are written."),
        "bowing": tr("Once as it is bowed, then once otherwise, as it is written."),
        "bowings": tr("Once with each bowing, as they are written."),
        "string": tr("Once on its own strings, then each note on the string below."),
    }[kind]  # fmt: skip


def ways_question(ways: Ways, shown: int) -> tuple[str, str]:
    """Which way was liked, asked before there are figures.

    Parameters
    ----------
    ways : Ways
    shown : int
        Of more than three, the one that can be taken now; one past the last: no difference.
    """
    word = tr("Which did you like?")
    n = len(ways.names)
    if n > 3:
        name = None if shown == n else ways.names[shown]
        return ways_choice(ways.kind, name).capitalize(), tr(
            "Which did you like? ← → go through them, ↓ takes this one. Then the figures."
        )
    if n == 3:
        return word, tr("← the first, ↓ the middle one, → the last. Then the figures.")
    return word, tr("← the first, → the second, ↓ no difference. Then the figures.")


def ways_choice(kind: WaysKind, name: str | None) -> str:
    """The player's choice in words; ``None`` for no difference."""
    return tr("no difference") if name is None else way_name(kind, name)


REASONS = ("sound", "hand", "sure")


def reason_question() -> tuple[str, str]:
    """Why that way, asked after the choice."""
    return tr("Why?"), tr("← it sounds better, ↓ it lies better, → it is surer.")


def choice_for(choice: str, reason: str) -> str:
    """A choice with its reason, as it stands in a sentence."""
    said = {
        "sound": tr("{way}, since it sounds better"), "hand": tr("{way}, since it lies better"),
        "sure": tr("{way}, since it is surer"),
    }.get(reason, "{way}")  # fmt: skip
    return said.format(way=choice)


def ways_error(why: str) -> str:
    """Why nothing can be compared."""
    return {
        "length": tr(
            "To compare ways of it there must be a jig of {n} notes at most: choose a passage."
        ).format(n=MOST_NOTES),
        "length_of_several": tr(
            "To compare several ways there must be a jig of {n} notes at most: choose a passage."
        ).format(n=MOST_NOTES_OF_SEVERAL),
        "fewer": tr("There are not three ways of it that differ."),
        "fingering": tr("No other fingering of it was found."),
        "lowest": tr("A note of it lies on the lowest string already."),
        "high": tr("On the string below it would lie too high."),
    }[why]


def way_lines(ways: Ways, found: Sequence[WayFigures]) -> list[str]:
    """The ways side by side."""
    lines = []
    for k, one in enumerate(found):
        name = way_name(ways.kind, ways.names[k]).capitalize()
        parts = [
            *_how_right(one, ways.kind),
            *_how_loud(one, ways.kind, found),
            *_tone(one),
        ]
        if ways.kind not in OF_A_JIG and one.attack_s is not None:
            parts.append(tr("speaks in {ms} ms").format(ms=round(one.attack_s * 1000)))
        said = ", ".join(parts) if parts else tr("cannot tell")
        lines.append(f"{name}: {said}" if one.n else tr("{way}: not heard").format(way=name))
    return lines


def _how_right(one: WayFigures, kind: WaysKind) -> list[str]:
    parts = []
    if one.n_missed:
        parts.append(
            trn("{n} note not heard", "{n} notes not heard", one.n_missed).format(n=one.n_missed)
        )
    if kind in OF_A_JIG and one.off_cents is not None:
        cents = round(one.off_cents)
        parts.append(trn("{c} cent off", "{c} cents off", cents).format(c=cents))
    return parts


def _how_loud(one: WayFigures, kind: WaysKind, found: Sequence[WayFigures]) -> list[str]:
    """A faster bow is louder by itself: lengths of bow are not held against each other so (B2)."""
    if one.loudness_db is None or one.is_softer is None or kind == "bows":
        return []
    if one.is_softer:
        return [tr("{db} dB softer").format(db=round(-one.loudness_db))]
    others = [w.is_softer for w in found if w is not one]
    if False in others:
        return [tr("as loud as any")]
    return [tr("the loudest")] if all(others) else []


def _tone(one: WayFigures) -> list[str]:
    parts = []
    if one.brightness_ratio is not None:
        parts.append(tr("brightness {r} × the note").format(r=f"{one.brightness_ratio:.1f}"))
    if one.noise_db is not None:
        parts.append(tr("{db} dB above its noise").format(db=round(one.noise_db)))
    if one.range_db is not None:
        parts.append(tr("moves by {db} dB").format(db=f"{max(0.1, one.range_db):.1f}"))
    return parts
