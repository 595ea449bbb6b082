"""The two or three things worth saying, only where the numbers support them.

A finding is an identifier with typed values; the wording package makes the sentence. Single notes
are reported when they are out beyond doubt; a *habit* needs several landings of one finger on one
string, or of one note over several takes, whose mean lies outside the tolerance by more than its
own 95 % range.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from math import comb

import numpy as np

from jigwright.core.gauge.values import Arrival, Level
from jigwright.core.isolation import isolated
from jigwright.core.jig.model import Jig
from jigwright.core.judge.asked import is_asked, is_wanted, loudness_marks
from jigwright.core.judge.habits import find_habits
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.music.pitch import Pitch
from jigwright.core.student import student_limit

_MOST_SINGLE = 2
_SCRAP_S = 0.07  # of so short a piece nothing is said
_ROOM_RANGES = 2.0  # a single note's own ranges by which it must be out in a room
_ROOM_SHORT_S = 0.15  # and shorter ones are half what lingers
_FALSE_SLIDES = {False: 0.005, True: 0.02}  # of 627 and 1,441 clean arrivals, dry and in rooms
_CHANCE = 0.01
_LEAST_WEAK_DB = {False: 8.0, True: 12.0}  # a room's modes lift and sink single notes


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """Something to say about a take.

    Parameters
    ----------
    id : str
        ``note_habit``, ``finger_habit``, ``note_off``, ``wrong_note``, ``missed_notes``,
        ``slides``, ``hunting``, ``weak_note``; of the bow ``bow_bounce``, ``bow_shake``,
        ``bow_scratch``, ``bow_neighbour_string``, ``bow_fold``.
    severity : float
        For ranking; about 1 when it just matters.
    notes : tuple of int
        Row indices.
    pitch : Pitch or None
    values : mapping of str to float
        Numbers for the sentence.
    """

    id: str
    severity: float
    notes: tuple[int, ...]
    pitch: Pitch | None = None
    values: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class PastLanding:
    """The same note in an earlier take, judged in today's reference.

    Parameters
    ----------
    take_id : str
    note_id : str
    cents : float
    uncertainty_cents : float
    """

    take_id: str
    note_id: str
    cents: float
    uncertainty_cents: float


def find(
    notes: Sequence[JudgedNote],
    *,
    tolerance_cents: float,
    past: Sequence[PastLanding] = (),
    further: Sequence[Finding] = (),
    jig: Jig | None = None,
    in_room: bool = False,
    most: int = 3,
) -> tuple[Finding, ...]:
    """Return at most ``most`` findings: what the jig is for before the rest, then the weightiest.

    Parameters
    ----------
    notes : sequence of JudgedNote
    tolerance_cents : float
    past : sequence of PastLanding
    further : sequence of Finding
        Others that compete with them.
    jig : Jig or None
        Its marks and aims: soft where *p* stands is nobody's fault, a correction is none where
        going back is asked for.
    in_room : bool
        Tails and waves of a room look like slides and soft notes now and then: more of them are
        needed before they are the player's.
    most : int
    """
    found: list[Finding] = list(further)
    kinds: tuple[tuple[str, Callable[[set[int]], list[Finding]]], ...] = (
        ("note habits", lambda _: _note_habits(notes, past, tolerance_cents)),
        ("finger habits", lambda told: _finger_habits(notes, tolerance_cents, told)),
        ("single notes", lambda told: _single_notes(notes, tolerance_cents, told, in_room)),
        ("wrong and missed", lambda _: _wrong_and_missed(notes)),
        ("arrivals", lambda _: _arrivals(notes, in_room)),
        ("weak notes", lambda _: _weak(notes, jig, in_room)),
    )
    for name, look in kinds:
        told = _told(notes, found)
        found += isolated(f"finding {name}", partial(look, told), [])
    found = [f for f in found if not is_wanted(f.id, jig)]
    found.sort(key=lambda f: (not is_asked(f.id, jig), -f.severity))
    return tuple(_placed(f, notes, jig) for f in found[:most])


def _placed(found: Finding, notes: Sequence[JudgedNote], jig: Jig | None) -> Finding:
    """The same with the bar of its first note, where that is written."""
    if jig is None or not found.notes:
        return found
    i = notes[found.notes[0]].measured.lined.i_event
    if i is None:
        return found
    bar, _ = jig.bar_of(jig.events[i])
    return replace(found, values={**found.values, "bar": bar})


def _told(notes: Sequence[JudgedNote], found: Sequence[Finding]) -> set[int]:
    """Rows a finding speaks of, and those of the same pitch that are out the same way."""
    named = {i for f in found for i in f.notes}
    same = {(notes[i].pitch, notes[i].standing) for i in named}
    return named | {i for i, n in enumerate(notes) if (n.pitch, n.standing) in same}


def mean_with_range(values: Sequence[float]) -> tuple[float, float]:
    """Mean and half its 95 % range (Student)."""
    n = len(values)
    mean = float(np.mean(values))
    if n < 2:
        return mean, float("inf")
    return mean, student_limit(0.05, n - 1) * float(np.std(values, ddof=1)) / float(np.sqrt(n))


def _note_habits(
    notes: Sequence[JudgedNote], past: Sequence[PastLanding], tolerance: float
) -> list[Finding]:
    written = {
        n.measured.lined.note_id: (n.pitch, n.string)
        for n in notes
        if n.measured.lined.note_id is not None and n.finger != 0
    }  # an open string is as it was tuned: never the player's fault
    rows: dict[str, int] = {}
    today: dict[str, float] = {}
    for i, note in enumerate(notes):
        note_id = note.measured.lined.note_id
        if note_id not in written or note.cents is None or note.measured.lined.attempt != 1:
            continue
        rows[note_id], today[note_id] = i, note.cents
    takes: dict[str, dict[str, float]] = {}
    for landing in past:
        if landing.note_id in written:
            takes.setdefault(landing.take_id, {})[landing.note_id] = landing.cents
    places = {note_id: place for note_id, place in written.items() if note_id is not None}
    result = []
    for habit in find_habits([*takes.values(), today], tolerance_cents=tolerance, places=places):
        heard = sorted(rows[note_id] for note_id in habit.note_ids if note_id in rows)
        if not heard:
            continue
        first = notes[heard[0]]
        result.append(
            Finding(
                id="note_habit",
                severity=1.6 * abs(habit.cents) / tolerance,
                notes=tuple(heard),
                pitch=first.pitch,
                values=_with_place(
                    first,
                    {
                        "cents": habit.cents,
                        "half_range": habit.half_range,
                        "n_off": habit.n_off,
                        "n_takes": habit.n_takes,
                    },
                ),
            )
        )
    return _one_per_pitch(result)


def _one_per_pitch(found: list[Finding]) -> list[Finding]:
    kept: dict[Pitch | None, Finding] = {}
    for f in sorted(found, key=lambda f: -f.severity):
        kept.setdefault(f.pitch, f)
    return list(kept.values())


def _with_place(note: JudgedNote, values: dict[str, float]) -> dict[str, float]:
    if note.string is not None and note.finger is not None:
        values |= {"string": note.string, "finger": note.finger}
    if note.off_mm is not None and note.cents:
        values["mm"] = note.off_mm / note.cents * values["cents"]
    return values


def _finger_habits(notes: Sequence[JudgedNote], tolerance: float, told: set[int]) -> list[Finding]:
    groups: dict[tuple[int, int], list[int]] = {}
    for i, note in enumerate(notes):
        if i in told or note.standing not in ("in", "low", "high"):
            continue
        if note.finger and note.string is not None:
            groups.setdefault((note.string, note.finger), []).append(i)
    result = []
    for (string, finger), members in groups.items():
        cents = [notes[i].cents or 0.0 for i in members]
        if len(members) < 3:
            continue
        mean, half = mean_with_range(cents)
        if abs(mean) - half > 0.5 * tolerance and abs(mean) > tolerance:
            result.append(
                Finding(
                    id="finger_habit",
                    severity=1.3 * abs(mean) / tolerance,
                    notes=tuple(members),
                    pitch=None,
                    values={
                        "cents": mean, "half_range": half, "n_notes": len(members),
                        "string": string, "finger": finger,
                    },
                )
            )  # fmt: skip
    return result


def _single_notes(
    notes: Sequence[JudgedNote], tolerance: float, told: set[int], in_room: bool
) -> list[Finding]:
    out = [
        i
        for i, n in enumerate(notes)
        if n.standing in ("low", "high")
        and i not in told
        and n.finger != 0
        and not (in_room and _room_may_bend(n, tolerance))
    ]
    out.sort(key=lambda i: -abs(notes[i].cents or 0.0))
    result: list[Finding] = []
    said: set[tuple[Pitch, str]] = set()
    for i in out:
        note = notes[i]
        assert note.cents is not None
        if (note.pitch, note.standing) in said or len(result) == _MOST_SINGLE:
            continue  # said once of a note it need not be said again of the same note
        said.add((note.pitch, note.standing))
        result.append(
            Finding(
                id="note_off",
                severity=abs(note.cents) / tolerance,
                notes=(i,),
                pitch=note.pitch,
                values=_with_place(
                    note, {"cents": note.cents, "uncertainty": note.uncertainty_cents}
                ),
            )
        )
    return result


def _room_may_bend(note: JudgedNote, tolerance: float) -> bool:
    """Whether what lingers may have led a single note out: one of twenty lies beyond its range.

    Of 2,138 clean notes in 120 rooms eleven were out by more than their range, one by twice it that
    was no scrap.
    """
    assert note.cents is not None
    sure = abs(note.cents) - _ROOM_RANGES * note.uncertainty_cents > tolerance
    return not sure or _length_s(note) < _ROOM_SHORT_S


def _wrong_and_missed(notes: Sequence[JudgedNote]) -> list[Finding]:
    result = []
    said: set[tuple[Pitch, int]] = set()
    for i, note in enumerate(notes):
        if note.standing == "wrong" and note.cents is not None and _length_s(note) > _SCRAP_S:
            heard = (note.pitch, round(note.cents / 100.0))
            if heard in said:
                continue
            said.add(heard)
            result.append(
                Finding(
                    id="wrong_note", severity=4.0, notes=(i,), pitch=note.pitch,
                    values={"cents": note.cents},
                )
            )  # fmt: skip
    missed = tuple(i for i, n in enumerate(notes) if n.standing == "missed")
    if missed and len(missed) < len(notes):
        result.append(
            Finding(
                id="missed_notes", severity=3.0, notes=missed, pitch=notes[missed[0]].pitch,
                values={"n": len(missed)},
            )
        )  # fmt: skip
    return result


def _arrivals(notes: Sequence[JudgedNote], in_room: bool) -> list[Finding]:
    told = [
        (i, n.measured.arrival)
        for i, n in enumerate(notes)
        if isinstance(n.measured.arrival, Arrival)
    ]
    up, down, hunted = (
        [i for i, a in told if a.kind == kind] for kind in ("slid_up", "slid_down", "hunted")
    )
    slid = max(up, down, key=len)
    result = []
    if _more_than_chance(len(slid), len(told), _FALSE_SLIDES[in_room]):
        result.append(_arrival("slides", slid, notes))
    if hunted:
        result.append(_arrival("hunting", hunted, notes))
    return result


def _more_than_chance(n: int, of: int, rate: float) -> bool:
    """Whether so many are more than a gauge finds where there are none (binomial)."""
    if n < 2:
        return False  # one alone may be chance
    fewer = sum(comb(of, k) * rate**k * (1.0 - rate) ** (of - k) for k in range(n))
    return 1.0 - fewer < _CHANCE


def _arrival(kind: str, members: Sequence[int], notes: Sequence[JudgedNote]) -> Finding:
    arrivals = [notes[i].measured.arrival for i in members]
    settle = float(np.median([a.settle_s for a in arrivals if isinstance(a, Arrival)]))
    sizes = [a.first_cents for a in arrivals if isinstance(a, Arrival)]
    known = [size for size in sizes if np.isfinite(size)]
    values = {"n": float(len(members)), "settle_s": settle}
    if known:
        values["first_cents"] = float(np.median(known))
    return Finding(
        id=kind, severity=0.7 + 0.15 * len(members), notes=tuple(members),
        pitch=notes[members[0]].pitch, values=values,
    )  # fmt: skip


def _weak(notes: Sequence[JudgedNote], jig: Jig | None, in_room: bool) -> list[Finding]:
    """Notes far softer than the others of their mark."""
    marks = loudness_marks(notes, jig)
    groups: dict[str, list[tuple[int, float]]] = {}
    for i, (n, mark) in enumerate(zip(notes, marks, strict=True)):
        if (
            isinstance(n.measured.level, Level)
            and n.measured.lined.state == "played"
            and _length_s(n) > _SCRAP_S
        ):
            groups.setdefault(mark, []).append((i, n.measured.level.mean_dbfs))
    groups.pop("shape", None)
    return [
        f for levels in groups.values() for f in _weak_among(notes, levels, _LEAST_WEAK_DB[in_room])
    ]


def _length_s(note: JudgedNote) -> float:
    s = note.measured.segment
    return 0.0 if s is None else s.offset_s - s.onset_s


def _weak_among(
    notes: Sequence[JudgedNote], levels: Sequence[tuple[int, float]], least_db: float
) -> list[Finding]:
    if len(levels) < 6:
        return []
    values = np.array([v for _, v in levels])
    middle = float(np.median(values))
    spread = 1.48 * float(np.median(np.abs(values - middle)))
    result = []
    for i, value in levels:
        below = middle - value
        if below > max(least_db, 4.0 * spread):
            result.append(
                Finding(
                    id="weak_note", severity=below / 5.0, notes=(i,), pitch=notes[i].pitch,
                    values={"db": below},
                )
            )  # fmt: skip
    return result
