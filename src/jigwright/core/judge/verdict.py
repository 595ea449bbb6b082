"""One sentence after a take: the place first, the direction next time or on request.

The first aim of the jig that was not met is spoken of; "nothing to mend" is said only when every
aim was measured and met. Of notes outside the tolerance beyond their uncertainty the one to work
on is chosen: one that was out in the takes before too comes first, then the one furthest out. At
most three notes are marked. What is never marked stands in :mod:`core.judge.marking`.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from jigwright.core.jig.aims import AimKind, goes_back
from jigwright.core.jig.model import Jig
from jigwright.core.judge.aims import AimResult
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.marking import came_again, is_free, is_off
from jigwright.core.music.pitch import Pitch

VerdictKind = Literal[
    "clean", "listen", "direction", "missed", "wrong", "nothing", "unsure", "aim", "untold", "shown"
]
_MOST_MARKS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What is said after a take.

    Parameters
    ----------
    kind : VerdictKind
        ``clean``: every aim was met; ``listen``: a place; ``direction``: the same place again, with
        its direction; ``missed``, ``wrong``: notes left out or taken for others; ``nothing``: no
        note of the jig was heard; ``unsure``: whether a note was played cannot be told; ``aim``:
        another aim was not met; ``untold``: an aim could not be told; ``shown``: nothing is passed
        here, the player compares.
    row : int or None
        The note spoken of.
    pitch, coming_from : Pitch or None
    cents, uncertainty_cents : float
    again : int
        In how many takes before, running back from this one, it was out the same way.
    marks : tuple of int
        Rows marked on the notes, the one spoken of first.
    n_notes : int
    n_missed : int
        All notes left out, marked or not.
    bar : int or None
        Of the note spoken of.
    aim : AimResult or None
        The aim spoken of.
    met : tuple of AimKind
        Aims that were met, for the kind word.
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
    n_missed: int = 0
    bar: int | None = None
    aim: AimResult | None = None
    met: tuple[AimKind, ...] = ()


def judge_at_once(
    notes: Sequence[JudgedNote],
    jig: Jig,
    *,
    before: Sequence[Mapping[str, float]] = (),
    aims: Sequence[AimResult] = (),
) -> Verdict:
    """Choose what to say.

    Parameters
    ----------
    notes : sequence of JudgedNote
    jig : Jig
    before : sequence of mapping of str to float
        Cents by note id in the takes of this session, newest first.
    aims : sequence of AimResult
        In the jig's order; without any the notes alone are judged, all of them and their pitch.
    """
    played = [i for i, n in enumerate(notes) if n.measured.lined.state == "played" and _heard(n)]
    if not played:
        return Verdict(kind="nothing")
    verdict = _by_aims(notes, jig, played, before, aims) if aims else None
    if verdict is None and not aims:
        verdict = _off(notes, jig, played, before, wrong_only=True)
        verdict = verdict or _missed(notes, jig, played) or _off(notes, jig, played, before)
        verdict = verdict or _unsure(notes, jig, played)
    shown = bool(aims) and all(a.state == "not_asked" for a in aims)
    verdict = verdict or Verdict(kind="shown" if shown else "clean", n_notes=len(played))
    met = tuple(a.aim.kind for a in aims if a.state == "met")
    return replace(verdict, met=met, bar=bar_of(verdict.row, notes, jig))


def _by_aims(
    notes: Sequence[JudgedNote],
    jig: Jig,
    played: Sequence[int],
    before: Sequence[Mapping[str, float]],
    aims: Sequence[AimResult],
) -> Verdict | None:
    """The first aim that was not met, else the first that cannot be told, if any."""
    for state in ("not_met", "cannot_tell"):
        for result in aims:
            if result.state != state:
                continue
            verdict = None
            if result.aim.kind == "pitch" and state == "not_met":
                verdict = _off(notes, jig, played, before)
            elif result.aim.kind == "every_note":
                look = _missed if state == "not_met" else _unsure
                verdict = look(notes, jig, played)
            return verdict or _of_aim(result, notes, played)
    return None


def _of_aim(result: AimResult, notes: Sequence[JudgedNote], played: Sequence[int]) -> Verdict:
    row = result.row
    return Verdict(
        kind="aim" if result.state == "not_met" else "untold", row=row,
        pitch=notes[row].pitch if row is not None else None,
        marks=(row,) if row is not None and result.state == "not_met" else (),
        n_notes=len(played), aim=result,
    )  # fmt: skip


def bar_of(row: int | None, notes: Sequence[JudgedNote], jig: Jig | None) -> int | None:
    """Bar of a row's written note, if it has one."""
    if jig is None or row is None or (i := notes[row].measured.lined.i_event) is None:
        return None
    return jig.bar_of(jig.events[i])[0]


def _missed(notes: Sequence[JudgedNote], jig: Jig, played: Sequence[int]) -> Verdict | None:
    missed = [
        i for i, n in enumerate(notes) if n.measured.lined.state == "missed" and not is_free(n, jig)
    ]
    if not missed:
        return None
    return Verdict(
        kind="missed", row=missed[0], pitch=notes[missed[0]].pitch,
        marks=tuple(missed[:_MOST_MARKS]), n_notes=len(played), n_missed=len(missed),
    )  # fmt: skip


def _unsure(notes: Sequence[JudgedNote], jig: Jig, played: Sequence[int]) -> Verdict | None:
    """Nothing was heard that is off, and not everything was heard."""
    unsure = [i for i, n in enumerate(notes) if n.standing == "uncertain" and not is_free(n, jig)]
    if not unsure:
        return None
    return Verdict(
        kind="unsure", row=unsure[0], pitch=notes[unsure[0]].pitch,
        marks=tuple(unsure[:_MOST_MARKS]), n_notes=len(played),
    )  # fmt: skip


def _off(
    notes: Sequence[JudgedNote],
    jig: Jig,
    played: Sequence[int],
    before: Sequence[Mapping[str, float]],
    *,
    wrong_only: bool = False,
) -> Verdict | None:
    out = [i for i in played if is_off(notes[i], jig)]
    if goes_back(jig):
        out = [i for i in out if not came_again(i, notes)]
    wrong = [i for i in out if notes[i].standing == "wrong"]
    if wrong:
        return _about("wrong", wrong, notes, played, 0)
    if wrong_only or not out:
        return None
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
