"""What the Desk's close looks say in words."""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil, isfinite

from jigwright.core.gauge.values import AgainstClicks
from jigwright.core.judge.compare import AimPair, Compared
from jigwright.core.judge.landings import Spot
from jigwright.core.judge.mirror import Mirror
from jigwright.core.judge.phrasing import StringLevel
from jigwright.core.music.pitch import Pitch
from jigwright.core.values import Unmeasured
from jigwright.wording.aims import aim_name, bare_figure
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.notes import class_name, finger_name_start, string_name

_MIRROR_DB, _ALIKE_DB = 1.5, 3.0
_MOST_AIMS = 2
_FEWEST_STRINGS, _WEAK_STRING_DB, _LATE_STRING_S = 2, 4.0, 0.02


def rung_name(name: str) -> str:
    """Short name of a rung."""
    return {"equal": tr("equal"), "pythagorean": tr("Pyth.")}.get(name, name)


def stop_takes_text(first: int, last: int) -> str:
    """What the row of a stop over takes is."""
    return tr("takes {first} to {last}").format(first=first, last=last)


def way_back_sentence(note: str, share: float) -> str:
    """Between two misses on either side lies the place."""
    shares = (
        (0.25, tr("a quarter of the way")), (1 / 3, tr("a third of the way")),
        (0.5, tr("half the way")), (2 / 3, tr("two thirds of the way")),
        (0.75, tr("three quarters of the way")),
    )  # fmt: skip
    words = min(shares, key=lambda s: abs(s[0] - share))[1]
    return tr("The last two {note} missed on either side: go back about {share}.").format(
        note=note, share=words
    )


def landing_sentence(spot: Spot | None, n_landings: int, strings: Sequence[Pitch]) -> str:
    """The bias the numbers support, or why none is claimed."""
    if not n_landings:
        return tr("No stopped notes with a fingering were heard: give the jig fingers in Jigs.")
    if spot is None:
        return tr(
            "No habit that {n} landings support. A finger and place needs ten landings "
            "before anything is said of it."
        ).format(n=n_landings)
    way = tr("short") if spot.bias_mm < 0 else tr("far")
    return tr(
        "{finger} on the {string}, {note}: {mm} mm {way} ({cents} cents), {same} of {n} landings. "
        "Was the hand a little open there, or closed?"
    ).format(
        finger=finger_name_start(spot.finger), string=string_name(strings[spot.string]),
        note=class_name(spot.pitch), mm=f"{abs(spot.bias_mm):.1f}", way=way,
        cents=round(abs(spot.bias_cents)), same=spot.same_way, n=spot.n,
    )  # fmt: skip


def mirror_sentence(mirror: Mirror | Unmeasured, n_breaks: int, n_strokes: int) -> str:
    """Down against up, and contact lost."""
    parts = []
    if n_breaks:
        parts.append(
            trn(
                "The bow lost the string in {n} stroke of {of}.",
                "The bow lost the string in {n} strokes of {of}.", n_breaks,
            ).format(n=n_breaks, of=n_strokes)
        )  # fmt: skip
    if isinstance(mirror, Unmeasured):
        parts.append(tr("Too few long strokes with a written direction to compare down with up."))
        return " ".join(parts)
    size, range_db = abs(mirror.difference_db), mirror.uncertainty_db
    where = {
        "frog": tr("at the frog"), "tip": tr("at the tip"),
        "middle_of_bow": tr("in the middle of the bow"),
    }[mirror.part]  # fmt: skip
    if size - range_db >= _MIRROR_DB:
        louder = tr("Down") if mirror.louder == "down" else tr("Up")
        parts.append(
            tr("{which} strokes are {db} ± {u} dB louder {where}.").format(
                which=louder, db=f"{size:.1f}", u=f"{range_db:.1f}", where=where
            )
        )
    elif size + range_db <= _ALIKE_DB:
        parts.append(
            tr("Down and up are alike within {db} dB all along the bow.").format(
                db=max(1, ceil(size + range_db))
            )
        )
    else:
        parts.append(
            tr(
                "Whether down and up are alike cannot be told: "
                "they differ by {db} ± {u} dB {where}."
            ).format(db=f"{size:.1f}", u=f"{range_db:.1f}", where=where)
        )
    return " ".join(parts)


def compare_sentence(c: Compared) -> str:
    """What the second of two takes does otherwise."""
    if not c.n:
        return tr("No note was heard in both.")
    parts = [
        tr("The second lies nearer on {n} of {of} notes, farther on {m}.").format(
            n=c.n_nearer, of=c.n, m=c.n_farther
        )
    ]
    if c.louder_db is not None and abs(c.louder_db) >= 1.0:
        how = tr("louder") if c.louder_db > 0 else tr("softer")
        parts.append(tr("It is {db} dB {how}.").format(db=round(abs(c.louder_db)), how=how))
    if c.brighter is not None and abs(c.brighter - 1.0) >= 0.05:
        how = tr("brighter") if c.brighter > 1 else tr("darker")
        percent = round(100 * abs(c.brighter - 1.0))
        parts.append(tr("It is {n} % {how}.").format(n=percent, how=how))
    return " ".join(parts)


def compare_aims_sentence(pairs: Sequence[AimPair]) -> str:
    """What became of what the exercise is for: states first, then figures, two at most."""
    order = {"met": 0, "lost": 0, "moved": 1}
    told = sorted((p for p in pairs if p.told), key=lambda p: order[p.told])
    said = {
        "met": tr("{aim}: met in the second."), "lost": tr("{aim}: met in the first only."),
        "moved": tr("{aim}: {one}, then {two}."),
    }  # fmt: skip
    parts = []
    for pair in told[:_MOST_AIMS]:
        name = aim_name(pair.two.aim.kind)
        parts.append(
            said[pair.told].format(
                aim=name[:1].upper() + name[1:], one=bare_figure(pair.one),
                two=bare_figure(pair.two),
            )
        )  # fmt: skip
    return " ".join(parts)


def strings_sentence(levels: Sequence[StringLevel], strings: Sequence[Pitch]) -> str:
    """The string that is weak beside the others, and whether it speaks late; else nothing."""
    if len(levels) < _FEWEST_STRINGS:
        return ""
    weakest = min(levels, key=lambda s: s.loudness_db)
    if weakest.loudness_db > -_WEAK_STRING_DB or weakest.string >= len(strings):
        return ""
    said = tr("The {string} sounds {db} dB below the middle of the take.").format(
        string=string_name(strings[weakest.string]), db=round(-weakest.loudness_db)
    )
    others = [s.attack_s for s in levels if s is not weakest and isfinite(s.attack_s)]
    if others and isfinite(weakest.attack_s):
        late_s = weakest.attack_s - sorted(others)[len(others) // 2]
        if late_s >= _LATE_STRING_S:
            said += " " + tr("It speaks {ms} ms later than the others.").format(
                ms=round(1000 * late_s)
            )
    return said


def click_sentence(found: AgainstClicks | Unmeasured) -> str:
    """How the notes lay against the metronome."""
    if isinstance(found, Unmeasured):
        return tr("A metronome sounded, but the notes do not follow it.")
    late = tr("{ms} ms behind the metronome in the middle, half of the notes within ± {s} ms")
    early = tr("{ms} ms before the metronome in the middle, half of the notes within ± {s} ms")
    return (late if found.centre_ms >= 0 else early).format(
        ms=round(abs(found.centre_ms)), s=max(1, round(0.67 * found.spread_ms))
    )
