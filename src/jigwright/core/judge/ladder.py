"""Ladders: rungs of exercises with a pass rule, tightened from the player's own takes.

A rung is passed when enough of the last takes on it are good. Several takes in a row that are not
good step back one rung. Where on the ladder a player stands is computed from the takes, never
stored: a take that is binned, or brought back, moves it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.draft import renamed
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.makers.bow import FOUNDATION_STAGES
from jigwright.core.jig.model import Jig
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass

MOST_RUNGS = 20


@dataclass(frozen=True, slots=True, kw_only=True)
class PassRule:
    """So many good takes out of the last so many.

    Parameters
    ----------
    good, of : int
    back_after : int
        Takes in a row that are not good before stepping back.
    """

    good: int = 3
    of: int = 5
    back_after: int = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """One exercise of a ladder.

    Parameters
    ----------
    maker_id : str
    values : mapping
        The maker's choices.
    tempo_bpm, tolerance_cents : float
    """

    maker_id: str
    values: Mapping[str, str | int]
    tempo_bpm: float
    tolerance_cents: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Ladder:
    """A row of rungs.

    Parameters
    ----------
    id : str
    rungs : tuple of Rung
    rule : PassRule
    heavy : bool
        Short doses: long slow bows, stretches, octaves.
    title : str
        Of a ladder somebody made; ready-made ones are named by the wording.
    jig : (str, int) or None
        Jig and revision that a ladder of one's own climbs through tempi and tolerances.
    """

    id: str
    rungs: tuple[Rung, ...]
    rule: PassRule = PassRule()
    heavy: bool = False
    title: str = ""
    jig: tuple[str, int] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """Where a player stands.

    Parameters
    ----------
    rung : int
        To be worked on; equal to the number of rungs when all are passed.
    good, of : int
        Good takes among the last that count on this rung.
    stepped_back : bool
    """

    rung: int
    good: int
    of: int
    stepped_back: bool


def rung_jig_id(ladder: Ladder, i: int, instrument_id: str, tonic: str) -> str:
    """Identity of a rung's jig; the same choice gives the same jig."""
    return f"ladder-{ladder.id}-{instrument_id}-{tonic}-{i}"


def rung_of(jig_id: str, ladder: Ladder, instrument_id: str) -> int | None:
    """Which rung a jig is, in whatever key; ``None``: none of this ladder on this instrument."""
    prefix = f"ladder-{ladder.id}-{instrument_id}-"
    _, _, last = jig_id.rpartition("-")
    if not jig_id.startswith(prefix) or not last.isdecimal() or int(last) >= len(ladder.rungs):
        return None
    tonic = jig_id[len(prefix) : -len(last) - 1]
    return int(last) if tonic and "-" not in tonic else None


def own_ladder(
    ladder_id: str, jig: Jig, *, from_bpm: float, to_bpm: float, n_rungs: int,
    tolerance_cents: tuple[float, float], rule: PassRule,
) -> Ladder:  # fmt: skip
    """A ladder of one's own: one jig, faster and narrower from rung to rung.

    Parameters
    ----------
    ladder_id : str
    jig : Jig
    from_bpm, to_bpm : float
        20 … 300; equal ratios between.
    n_rungs : int
        2 … 20.
    tolerance_cents : (float, float)
        First and last rung, 3 … 50; never under what a note can be measured to.
    rule : PassRule

    Raises
    ------
    JigwrightError
        If a number is out of range.
    """
    if not (20 <= from_bpm <= 300 and 20 <= to_bpm <= 300):
        raise JigwrightError("a ladder's tempi lie between 20 and 300")
    if not 2 <= n_rungs <= MOST_RUNGS:
        raise JigwrightError(f"a ladder has 2 to {MOST_RUNGS} rungs")
    if not all(3.0 <= t <= 50.0 for t in tolerance_cents):
        raise JigwrightError("a ladder's tolerances lie between 3 and 50 cents")
    if not 1 <= rule.good <= rule.of <= 20:
        raise JigwrightError("so many good takes of so many cannot be")
    share = [i / (n_rungs - 1) for i in range(n_rungs)]
    first, last = tolerance_cents
    return Ladder(
        id=ladder_id, title=jig.title, jig=(jig.id, jig.revision), rule=rule,
        rungs=tuple(
            Rung(
                maker_id="", values={}, tempo_bpm=float(round(from_bpm * (to_bpm / from_bpm) ** s)),
                tolerance_cents=round(first + (last - first) * s, 1),
            )
            for s in share
        ),
    )  # fmt: skip


def own_rung_jig(ladder: Ladder, i: int, jig: Jig, *, instrument_id: str, tonic: str) -> Jig:
    """A rung of a ladder of one's own: the jig at the rung's tempo and tolerance."""
    rung = ladder.rungs[i]
    made = renamed(jig, rung_jig_id(ladder, i, instrument_id, tonic))
    return replace(
        made, tempo_bpm=rung.tempo_bpm, tolerance_cents=rung.tolerance_cents,
        title=f"{jig.title}: {rung.tempo_bpm:.0f}", derived_from=(jig.id, jig.revision),
    )  # fmt: skip


def rung_jig(ladder: Ladder, i: int, *, instrument_id: str, tonic: str, title: str) -> Jig:
    """Make a rung's jig.

    Raises
    ------
    JigError
        If the instrument cannot play it.
    """
    rung = ladder.rungs[i]
    setting = Setting(
        instrument_id=instrument_id, key=Key(PitchClass.parse(tonic)), tempo_bpm=rung.tempo_bpm,
        values=rung.values, jig_id=rung_jig_id(ladder, i, instrument_id, tonic), title=title,
    )  # fmt: skip
    return replace(maker(rung.maker_id).make(setting), tolerance_cents=rung.tolerance_cents)


def standing(ladder: Ladder, takes: Sequence[tuple[int, bool]]) -> Standing:
    """Walk the takes in order of time.

    Parameters
    ----------
    ladder : Ladder
    takes : sequence of (int, bool)
        Rung of each take and whether it was good.
    """
    at, back = 0, False
    recent: list[bool] = []
    for rung, good in takes:
        if rung != at:
            continue  # tried out of turn, or passed long ago and played again: it does not count
        recent.append(good)
        window = recent[-ladder.rule.of :]
        if sum(window) >= ladder.rule.good:
            at, recent, back = at + 1, [], False
            if at >= len(ladder.rungs):
                return Standing(rung=at, good=0, of=0, stepped_back=False)
        elif len(recent) >= ladder.rule.back_after and not any(recent[-ladder.rule.back_after :]):
            at, recent, back = max(0, at - 1), [], True
    window = recent[-ladder.rule.of :]
    return Standing(rung=at, good=sum(window), of=len(window), stepped_back=back)


def _bows(maker_id: str, name: str, steps: Sequence[str | int], tempo: float) -> tuple[Rung, ...]:
    return tuple(
        Rung(maker_id=maker_id, values={name: v}, tempo_bpm=tempo, tolerance_cents=15.0)
        for v in steps
    )


def _scales(
    maker_id: str, steps: Sequence[tuple[float, float]], **values: str | int
) -> tuple[Rung, ...]:
    return tuple(
        Rung(maker_id=maker_id, values=values, tempo_bpm=tempo, tolerance_cents=tolerance)
        for tempo, tolerance in steps
    )


READY_MADE: tuple[Ladder, ...] = (
    Ladder(id="foundation", rungs=_bows("foundation_bow", "start", FOUNDATION_STAGES, 60.0),
           heavy=True),
    Ladder(id="bow_speed", rungs=_scales("speed_series", ((60, 20), (66, 20), (72, 15)))),
    Ladder(id="notes_in_a_bow", rungs=_bows("many_notes", "notes_in_bow", ("8", "16", "32"), 60.0)),
    Ladder(id="drone_scale", rungs=_scales("drone_scale", ((60, 20), (60, 15), (60, 10), (60, 7)))),
    Ladder(id="hand_pattern", rungs=_scales("hand_pattern", ((60, 20), (72, 15), (72, 10)))),
    Ladder(id="scale", rungs=_scales("scale", ((60, 20), (80, 15), (100, 12), (120, 10)))),
    Ladder(id="thirds", rungs=_scales("double_scale", ((48, 20), (60, 15), (60, 10)),
                                      interval="thirds")),
    Ladder(id="sixths", rungs=_scales("double_scale", ((48, 20), (60, 15), (60, 10)),
                                      interval="sixths")),
    Ladder(id="octaves", rungs=_scales("double_scale", ((48, 20), (60, 12), (60, 8)),
                                       interval="octaves"), heavy=True),
    Ladder(id="shifts", rungs=tuple(
        Rung(maker_id="shifts", values={"from_position": 1, "to_position": p}, tempo_bpm=60.0,
             tolerance_cents=15.0)
        for p in (2, 3, 4, 5))),
    Ladder(id="off_string", rungs=_bows("off_string", "stage",
                                        ("on_then_off", "lowered", "groups_of_eight"), 66.0)),
    Ladder(id="evenness", rungs=tuple(
        Rung(maker_id="even_run", values={"pick_up": p}, tempo_bpm=t, tolerance_cents=20.0)
        for t in (60.0, 76.0, 92.0) for p in ("two", "none"))),
    Ladder(id="soft_bows", rungs=_bows("soft_bows", "beats_in_bow", (4, 6, 8), 60.0), heavy=True),
    Ladder(id="vibrato", rungs=_bows("vibrato", "beats_in_bow", (4, 6), 60.0)),
)  # fmt: skip


def ladder_by_id(ladder_id: str) -> Ladder:
    """A ready-made ladder.

    Raises
    ------
    JigwrightError
        If there is none of that name.
    """
    for one in READY_MADE:
        if one.id == ladder_id:
            return one
    raise JigwrightError(f"unknown ladder {ladder_id!r}")
