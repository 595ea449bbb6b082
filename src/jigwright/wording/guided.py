"""What is said in the guided trials at the Stand."""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil

from jigwright.core.judge.long_bow import LongBow, LongStroke
from jigwright.core.judge.touch_trial import TouchClock
from jigwright.core.judge.trials import Echo
from jigwright.core.sound.touch import N_STRETCHES, TouchRing
from jigwright.core.values import Unmeasured
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.findings import reason_text
from jigwright.wording.notes import pitch_name


def bow_clock(bow: LongBow) -> tuple[str, str]:
    """The running clock, or the last stroke, with the best so far."""
    best = bow.best
    said = "" if best is None else tr("Best so far {s} s.").format(s=f"{best.seconds:.1f}")
    if bow.running:
        n = len(bow.wavers_s)
        if n:
            said = trn("It wavered once.", "It wavered {n} times.", n).format(n=n) + " " + said
        return tr("{s} s").format(s=int(bow.seconds)), said.strip()  # a second is over or it is not
    if not bow.strokes:
        return tr("As long as it stays clear"), tr("One slow bow. The clock ends with the sound.")
    return tr("{s} s").format(s=f"{bow.strokes[-1].seconds:.1f}"), stroke_line(
        bow.strokes[-1], said
    )


def stroke_line(stroke: LongStroke, best: str) -> str:
    """How a long stroke went."""
    if not stroke.wavers_s:
        said = tr("Clear from end to end, steady within {db} dB.").format(
            db=f"{max(0.1, stroke.spread_db):.1f}"
        )
    else:
        said = trn(
            "It wavered once, at {at} s; {clear} s of it were clear.",
            "It wavered {n} times, first at {at} s; the longest clear part was {clear} s.",
            len(stroke.wavers_s),
        ).format(
            n=len(stroke.wavers_s), at=f"{stroke.wavers_s[0]:.1f}", clear=f"{stroke.clear_s:.1f}"
        )
    return f"{said} {best}".strip()


def touch_word(clock: TouchClock, string: str, note: str | None) -> tuple[str, str]:
    """What it is time for, and how long for; ``note`` is held next, if any."""
    stretch = clock.stretch
    if stretch is None:
        if note is None:
            return tr("Enough"), ""
        return tr("Hold {note}").format(note=note), tr("without vibrato")
    words = (
        tr("Hold {note}"), tr("Touch the {string}"), tr("Let it go"), tr("Touch it again"),
        tr("Let it go"), tr("Enough"),
    )  # fmt: skip
    word = words[stretch].format(string=string, note=note or "")
    if stretch >= N_STRETCHES:
        return word, tr("Stop the bow.")
    return word, tr("{s} s").format(s=ceil(clock.left_s))


def touch_lines(found: Sequence[tuple[str, str, TouchRing | Unmeasured]]) -> list[str]:
    """What each string gave: its name, the note's name, what was found."""
    reasons = {
        "too_short": tr("the note was not held long enough"),
        "nothing_shared": tr("the note has no partial of that string"),
        "all_shared": tr("every partial of the note is that string's too"),
        "restless": tr("the bow or the finger moved too much"),
    }
    lines = []
    for string, note, ring in found:
        if isinstance(ring, Unmeasured):
            why = reasons.get(ring.reason, tr("the note was not heard"))
            lines.append(
                tr("{string} under {note}: cannot tell, {why}").format(
                    string=string, note=note, why=why
                )
            )
        elif ring.rang:
            lines.append(
                tr("{string} under {note}: rang along, {db} dB below the note").format(
                    string=string, note=note, db=round(-ring.ring_db)
                )
            )
        else:
            lines.append(
                tr("{string} under {note}: nothing louder than {db} dB below the note").format(
                    string=string, note=note, db=round(-ring.limit_db)
                )
            )
    return lines


def echo_lines(found: Sequence[Echo]) -> list[str]:
    """What rang, note by note."""
    lines = []
    for one in found:
        name = pitch_name(one.pitch)
        if one.why is not None or not one.n_tries:
            why = reason_text(one.why or "not_heard")
            lines.append(tr("{note}: cannot tell, {why}").format(note=name, why=why))
        elif one.n_rang:
            said = tr("{note}: rang {n} of {of}").format(note=name, n=one.n_rang, of=one.n_tries)
            if one.ring_db is not None:
                said += tr(", {db} dB below the note").format(db=round(-one.ring_db))
            if one.decay_s is not None:
                said += tr(", for {s} s").format(s=f"{one.decay_s:.1f}")
            lines.append(said)
        else:
            said = tr("{note}: nothing rang").format(note=name)
            if one.cents is not None and abs(one.cents) >= 2.0:
                side = tr("high") if one.cents > 0 else tr("low")
                said += tr(" ({c} cents {side})").format(c=round(abs(one.cents)), side=side)
            lines.append(said)
    return lines
