"""One sentence after a take: the place first, the direction next time or on request.

Of all notes outside the tolerance beyond their uncertainty the one to work on is chosen: one that
was out in the takes before too comes first, then the one furthest out. At most three notes are
marked. What is never marked: open strings, notes with vibrato off by less than its own width, free
places, notes too short to be heard as out.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from jigwright.core.jig.model import Jig
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.music.pitch import Pitch

VerdictKind = Literal[
    "clean", "listen", "direction", "missed", "wrong", "nothing", "uneven", "unsure"
]
_MOST_MARKS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What is said after a take.

    Parameters
    ----------
    kind : VerdictKind
        ``clean``: nothing stood out; ``listen``: a place; ``direction``: the same place again, with
        its direction; ``missed``, ``wrong``: notes left out or taken for others; ``nothing``: no
        note of the jig was heard.
    row : int or None
        The note spoken of.
    pitch, coming_from : Pitch or None
    cents, uncertainty_cents : float
    again : int
        In how many takes before, running back from this one, it was out the same way.
    marks : tuple of int
        Rows marked on the notes, the one spoken of first.
    n_notes : int
    """

    kind: VerdictKind
    row: int | None = None
    pitch: Pitch | None = None
    coming_from: Pitch | None = None
    cents: float = 0.0
    uncertainty_cents: float = 0.0
    again: int = 0
    marks: tuple[int, ...] = ()
    n_notes: int = 0


def judge_at_once(
    notes: Sequence[JudgedNote], jig: Jig, *, before: Sequence[Mapping[str, float]] = ()
) -> Verdict:
    """Choose what to say.

    Parameters
    ----------
    notes : sequence of JudgedNote
    jig : Jig
    before : sequence of mapping of str to float
        Cents by note id in the takes of this session, newest first.
    """
    played = [i for i, n in enumerate(notes) if n.measured.lined.state == "played" and _heard(n)]
    if not played:
        return Verdict(kind="nothing")
    out = [i for i in played if _is_out(notes[i], jig)]
    missed = [
        i for i, n in enumerate(notes) if n.measured.lined.state == "missed" and not _free(n, jig)
    ]
    wrong = [i for i in out if notes[i].standing == "wrong"]
    if wrong:
        return _about("wrong", wrong, notes, played, 0)
    if len(missed) > 0:
        first = missed[0]
        return Verdict(
            kind="missed", row=first, pitch=notes[first].pitch, marks=tuple(missed[:_MOST_MARKS]),
            n_notes=len(played),
        )  # fmt: skip
    if not out:
        unsure = [i for i, n in enumerate(notes) if n.standing == "uncertain" and not _free(n, jig)]
        if unsure:  # nothing was heard that is off, and not everything was heard
            return Verdict(
                kind="unsure", row=unsure[0], pitch=notes[unsure[0]].pitch,
                marks=tuple(unsure[:_MOST_MARKS]), n_notes=len(played),
            )  # fmt: skip
        return Verdict(kind="clean", n_notes=len(played))
    ranked = sorted(
        out, key=lambda i: (-min(_again(notes[i], before), 2), -abs(notes[i].cents or 0.0))
    )
    again = _again(notes[ranked[0]], before)
    return _about("direction" if again else "listen", ranked, notes, played, again)


def _about(
    kind: VerdictKind,
    ranked: Sequence[int],
    notes: Sequence[JudgedNote],
    played: Sequence[int],
    again: int,
) -> Verdict:
    row = ranked[0]
    note = notes[row]
    earlier = [i for i in played if i < row]
    segment = note.measured.segment
    return Verdict(
        kind=kind, row=row, pitch=note.pitch,
        coming_from=notes[earlier[-1]].pitch if earlier else None, cents=note.cents or 0.0,
        uncertainty_cents=segment.uncertainty_cents if segment is not None else 0.0,
        again=again, marks=tuple(ranked[:_MOST_MARKS]), n_notes=len(played),
    )  # fmt: skip


def _heard(note: JudgedNote) -> bool:
    return note.cents is not None and note.measured.segment is not None


def _free(note: JudgedNote, jig: Jig) -> bool:
    i = note.measured.lined.i_event
    return i is not None and jig.events[i].free


def _is_out(note: JudgedNote, jig: Jig) -> bool:
    return note.standing in ("low", "high", "wrong") and not _free(note, jig)


def _again(note: JudgedNote, before: Sequence[Mapping[str, float]]) -> int:
    """Takes in a row before this one in which the note was out the same way."""
    note_id = note.measured.lined.note_id
    if note_id is None or note.cents is None:
        return 0
    count = 0
    for take in before:
        cents = take.get(note_id)
        if cents is None or cents * note.cents <= 0 or abs(cents) < 0.6 * abs(note.cents):
            break
        count += 1
    return count


def next_tolerance(spreads_cents: Sequence[float], tolerance_cents: float) -> float | None:
    """A tighter tolerance when the player's own spread has shrunk, else ``None``.

    Parameters
    ----------
    spreads_cents : sequence of float
        Offsets of landings of one place or finger, at least ten.
    tolerance_cents : float
        The present one.
    """
    if len(spreads_cents) < 10:
        return None
    ordered = sorted(abs(c) for c in spreads_cents)
    reached = ordered[min(len(ordered) - 1, int(0.9 * len(ordered)))]
    proposed = max(5.0, float(round(1.2 * reached)))
    return proposed if proposed <= tolerance_cents - 1.0 else None
