"""What rang after a note in a sentence: what was won, what was to be had, why none can tell."""

from __future__ import annotations

import math
from collections.abc import Sequence

from jigwright.core.gauge.values import Meeting, Ring, StringRing
from jigwright.core.judge.sounding import StringCount, fits
from jigwright.core.music.pitch import Pitch
from jigwright.core.values import Unmeasured
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.measures import Text, cannot_tell
from jigwright.wording.notes import pitch_name, string_name

FULL_SHARE_DB = -3.0  # what is left of the ring when the note lies half a width beside
LEAST_APART_CENTS = 1.5
_MOST_SAID = 2


def ring_text(
    ring: Ring | Unmeasured, strings: Sequence[Pitch], cents: float | None = None
) -> Text:
    """What open strings did after a note, and whether that is measured.

    Parameters
    ----------
    ring : Ring or Unmeasured
    strings : sequence of Pitch
        Open strings, low to high.
    cents : float or None
        Where the note lay, from its target.
    """
    if isinstance(ring, Unmeasured):
        return cannot_tell(ring)
    rang = sorted(
        (s for s in ring.strings if s.state == "rang"), key=lambda s: -s.level_db
    )  # fmt: skip
    if rang:
        return "; ".join(_rang(s, strings) for s in rang[:_MOST_SAID]), True
    quiet = [s for s in ring.strings if s.state == "silent"]
    silent = next((s for s in quiet if fits(s, cents)), None)
    if silent is None and quiet:
        return _far(quiet[0], strings), True
    if silent is None:
        return cannot_tell(Unmeasured(ring.strings[0].reason))
    return _silent(silent, strings), True


def _rang(one: StringRing, strings: Sequence[Pitch]) -> str:
    name, db = string_name(strings[one.meeting.string]), round(-one.level_db)
    if math.isfinite(one.decay_s):
        return tr("woke the {string}: {db} dB under the note, for {s} s").format(
            string=name, db=db, s=f"{one.decay_s:.1f}"
        )
    return tr("woke the {string}: {db} dB under the note").format(string=name, db=db)


def _far(one: StringRing, strings: Sequence[Pitch]) -> str:
    """A third, say: in tune it meets no string."""
    return tr("lies {c} cents from a partial of the {string}: in tune it does not wake it").format(
        c=round(abs(one.meeting.apart_cents)), string=string_name(strings[one.meeting.string])
    )


def _silent(one: StringRing, strings: Sequence[Pitch]) -> str:
    name, apart = string_name(strings[one.meeting.string]), one.meeting.apart_cents
    if one.meeting.share_db >= FULL_SHARE_DB or abs(apart) < LEAST_APART_CENTS:
        return tr(
            "could wake the {string}, and it was silent. Is a finger leaning on it, or is it mute?"
        ).format(string=name)
    said = (
        tr("could wake the {string}; you were {c} cents high, {share} of it was there")
        if apart > 0
        else tr("could wake the {string}; you were {c} cents low, {share} of it was there")
    )
    return said.format(string=name, c=round(abs(apart)), share=share_text(one.meeting.share_db))


def meeting_text(met: Meeting, string: Pitch) -> str:
    """Which partials meet, and what is left of the ring where they lie apart."""
    text = tr("{string} ({n}:{k})").format(
        string=pitch_name(string), n=met.string_partial, k=met.note_partial
    )
    if abs(met.apart_cents) < LEAST_APART_CENTS:
        return text
    return tr("{meets} {c} c apart: {share}").format(
        meets=text, c=round(abs(met.apart_cents)), share=share_text(met.share_db)
    )


def share_text(share_db: float) -> str:
    """A share of the full ring in words."""
    for least_db, text in (
        (-1.5, tr("nearly all")), (-4.5, tr("half")), (-8.0, tr("a quarter")),
        (-11.5, tr("a tenth")), (-15.0, tr("a twentieth")), (-18.5, tr("a fiftieth")),
    ):  # fmt: skip
        if share_db >= least_db:
            return text
    return tr("less than a fiftieth")


def ring_sentence(counts: Sequence[StringCount], strings: Sequence[Pitch]) -> str:
    """How often strings rang in a take, of the notes of which it can be told."""
    n, of = sum(c.n_rang for c in counts), sum(c.n_told for c in counts)
    if not of:
        return tr(
            "Nothing can be told of the ring in this take: the next note sounds where the strings "
            "would, or the room rings as long as they do."
        )
    said = trn(
        "{n} ring won, of {of} that were to be had.", "{n} rings won, of {of} that were to be had.",
        n,
    ).format(n=n, of=of)  # fmt: skip
    out = [string_out_text(c, strings) for c in counts]
    return " ".join([said, *(t for t in out if t)])


def answer_text(
    string: int, cents: float, uncertainty_cents: float, n_takes: int, strings: Sequence[Pitch],
    note: Pitch,
) -> str:  # fmt: skip
    """Where a string answers a note's finger most, beside the reference's target."""
    way = tr("high") if cents > 0 else tr("low")
    where = tr("on the target")
    if abs(cents) > uncertainty_cents and round(abs(cents)):
        where = tr("{c} cents {way} of the target").format(c=round(abs(cents)), way=way)
    return trn(
        "The {string} answers {note} most {where}, give or take {u} ({n} take).",
        "The {string} answers {note} most {where}, give or take {u} ({n} takes).", n_takes,
    ).format(
        string=string_name(strings[string]), note=pitch_name(note), where=where,
        u=max(1, round(uncertainty_cents)), n=n_takes,
    )  # fmt: skip


def over_takes_text(
    string: int, n_rang: int, n_told: int, n_takes: int, strings: Sequence[Pitch], note: Pitch
) -> str:
    """How often a string rang after one note, over takes."""
    return tr("{note} over {takes} takes: the {string} rang {n} of {of} times.").format(
        note=pitch_name(note), takes=n_takes, string=string_name(strings[string]), n=n_rang,
        of=n_told,
    )  # fmt: skip


def string_out_text(count: StringCount, strings: Sequence[Pitch]) -> str:
    """That a string sounds beside its place, where its own ring says so."""
    if not count.is_out:
        return ""
    cents = round(abs(count.string_cents))
    name = string_name(strings[count.string])
    if count.string_cents > 0:
        return tr("The {string} itself sounds {c} cents high.").format(string=name, c=cents)
    return tr("The {string} itself sounds {c} cents low.").format(string=name, c=cents)
