"""What is said of ways of doing the same: their names, what to do, their figures."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.jig.ways import MOST_NOTES, OF_A_JIG, WAYS, Ways, WaysKind
from jigwright.core.judge.ways_heard import WayFigures
from jigwright.wording.catalogue import tr, trn


def ways_title(kind: WaysKind) -> str:
    """Name of a comparison."""
    return {
        "lanes": tr("Three lanes of contact"),
        "lanes_all": tr("Three lanes on every string"),
        "bows": tr("Half, whole and slow bows"), "two_ways": tr("Two ways of bowing it"),
        "fingering": tr("Two fingerings"), "bowing": tr("Two bowings"),
        "string": tr("On the string below"),
    }[kind]  # fmt: skip


def way_name(kind: WaysKind, way: int) -> str:
    """Name of one way, as it stands in a sentence."""
    lanes = (tr("near the fingerboard"), tr("in the middle"), tr("near the bridge"))
    return {
        "lanes": lanes, "lanes_all": lanes,
        "bows": (tr("half bows"), tr("whole bows"), tr("bows of eight beats")),
        "two_ways": (tr("one way"), tr("the other way")),
        "fingering": (tr("fingered as it is"), tr("fingered otherwise")),
        "bowing": (tr("bowed as it is"), tr("bowed otherwise")),
        "string": (tr("on its own strings"), tr("each on the string below")),
    }[kind][way]  # fmt: skip


def ways_to_do(kind: WaysKind) -> str:
    """What the player is to do."""
    return {
        "lanes": tr("Two slow bows near the fingerboard, in the middle, by the bridge."),
        "lanes_all": tr("Two slow bows on each string, in one lane after the other."),
        "bows": tr("Half bows in two beats, whole bows in four, whole bows in eight."),
        "two_ways": tr("Two slow bows one way, then two another: weight, speed, what you like."),
        "fingering": tr("Once as it is fingered, then once otherwise, as it is written."),
        "bowing": tr("Once as it is bowed, then once otherwise, as it is written."),
        "string": tr("Once on its own strings, then each note on the string below."),
    }[kind]  # fmt: skip


def ways_question(kind: WaysKind) -> tuple[str, str]:
    """Which way was liked, asked before there are figures."""
    word = tr("Which did you like?")
    if len(WAYS[kind]) > 2:
        return word, tr("← the first, ↓ the middle one, → the last. Then the figures.")
    return word, tr("← the first, → the second, ↓ no difference. Then the figures.")


def ways_choice(kind: WaysKind, liked: int | None) -> str:
    """The player's choice in words; ``None`` for no difference."""
    return tr("no difference") if liked is None else way_name(kind, liked)


def ways_error(why: str) -> str:
    """Why nothing can be compared."""
    return {
        "length": tr(
            "To compare ways of it there must be a jig of {n} notes at most: choose a passage."
        ).format(n=MOST_NOTES),
        "fingering": tr("No other fingering of it was found."),
        "lowest": tr("A note of it lies on the lowest string already."),
        "high": tr("On the string below it would lie too high."),
    }[why]


def way_lines(ways: Ways, found: Sequence[WayFigures]) -> list[str]:
    """The ways side by side."""
    lines = []
    for k, one in enumerate(found):
        name = way_name(ways.kind, k).capitalize()
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
