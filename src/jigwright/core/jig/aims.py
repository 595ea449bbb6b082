"""What an exercise is for: aims, the limits they begin with, and those that marks ask for.

Everything that speaks or counts follows a jig's aims, the first one being what the exercise is
*for*. A limit is only a start: whoever sets the exercise changes it.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING, Literal

from jigwright.core.errors import JigError
from jigwright.core.jig.pace import written_seconds
from jigwright.core.jig.phrases import (
    crossing_runs,
    dotted_pairs,
    echoes,
    slurs_of_two,
    under_hairpins,
    written_loudness,
    written_shapes,
)

if TYPE_CHECKING:
    from jigwright.core.jig.model import Jig

AimKind = Literal[
    "every_note", "pitch", "hand_frame", "second_arrival", "shift", "interval", "both_sound",
    "balance", "even_bow", "mirror", "left_over", "bow_change", "crossing", "duration",
    "notes_in_bow", "bow_share", "off_string", "start", "soft", "direction", "contrast", "pairs",
    "held", "dotted", "vibrato", "partial", "pluck", "ring", "even_run", "entry", "lanes",
]  # fmt: skip
Sense = Literal["most", "least"]
MOST_AIMS = 12
LISTENED_FOR = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """What an aim begins with.

    Parameters
    ----------
    value : float or None
        ``None``: it comes from the jig (its tolerance, its written lengths).
    unit : str
        ``c``, ``dB``, ``ms``, ``s``, ``%``, ``share``, ``ratio``, ``notes``.
    sense : Sense
        Whether it is the most or the least that is asked.
    low, high : float
        What may be chosen.
    reason : str
        Where it comes from.
    """

    value: float | None
    unit: str
    sense: Sense
    low: float
    high: float
    reason: str


LIMITS: dict[AimKind, Limit] = {
    "every_note": Limit(value=0, unit="notes", sense="most", low=0, high=100,
                        reason="a note left out is a note left out"),
    "pitch": Limit(value=None, unit="c", sense="most", low=1, high=100,
                   reason="the jig's own tolerance"),
    "hand_frame": Limit(value=8, unit="c", sense="most", low=2, high=40,
                        reason="spread of one finger's landings that a hand frame is known by"),
    "second_arrival": Limit(value=None, unit="c", sense="most", low=1, high=100,
                            reason="the jig's own tolerance"),
    "shift": Limit(value=15, unit="c", sense="most", low=3, high=100,
                   reason="first pitch after a shift; a slide beyond it is heard as one"),
    "interval": Limit(value=8, unit="c", sense="most", low=1, high=50,
                      reason="3 to 8 cents are heard as pure by most; set by the player's own ear"),
    "both_sound": Limit(value=0.95, unit="share", sense="least", low=0.3, high=1,
                        reason="a moment of one string alone is heard"),
    "balance": Limit(value=3, unit="dB", sense="most", low=1, high=15,
                     reason="less is heard as even"),
    "even_bow": Limit(value=2, unit="dB", sense="most", low=0.5, high=10,
                      reason="a body's resonances under a vibrato reach 1 to 2 dB by themselves"),
    "mirror": Limit(value=3, unit="dB", sense="most", low=1, high=15,
                    reason="the least that is heard from stroke to stroke in the worst tenth"),
    "left_over": Limit(value=2, unit="dB", sense="most", low=0.5, high=10,
                       reason="a swell of the last eighth that is heard"),
    "bow_change": Limit(value=60, unit="ms", sense="most", low=10, high=300,
                        reason="a longer hole is heard as a stop; rooms fill it"),
    "crossing": Limit(value=5, unit="dB", sense="most", low=1, high=15,
                      reason="a crossing unlike the others of the same two strings"),
    "duration": Limit(value=None, unit="s", sense="least", low=1, high=120,
                      reason="the written length of the stroke"),
    "notes_in_bow": Limit(value=8, unit="%", sense="most", low=2, high=40,
                          reason="spacing of notes that is heard as even"),
    "bow_share": Limit(value=None, unit="share", sense="most", low=0, high=1,
                       reason="shown, not judged"),
    "off_string": Limit(value=8, unit="%", sense="most", low=2, high=40,
                        reason="spacing of strokes that is heard as even"),
    "start": Limit(value=None, unit="ms", sense="most", low=10, high=300,
                   reason="40 to 80 ms to the full tone, by instrument"),
    "soft": Limit(value=3.6, unit="dB", sense="most", low=1, high=12,
                  reason="a bow that only wanders in its pressure stays below"),
    "direction": Limit(value=6, unit="dB", sense="least", low=2, high=30,
                       reason="a change along a note that is heard as meant"),
    "contrast": Limit(value=8, unit="dB", sense="least", low=2, high=30,
                      reason="one step of loudness is heard as about twice as loud or half"),
    "pairs": Limit(value=1, unit="dB", sense="most", low=-6, high=6,
                   reason="the second is not heard as louder than the first"),
    "held": Limit(value=0.9, unit="share", sense="least", low=0.3, high=1,
                  reason="less is heard as a gap"),
    "dotted": Limit(value=3.3, unit="ratio", sense="least", low=1.5, high=8,
                    reason="sharp from 3.3 : 1, singing 2.7 to 3.3 : 1"),
    "vibrato": Limit(value=0, unit="notes", sense="most", low=0, high=100,
                     reason="there where it is asked for, absent where it is not"),
    "partial": Limit(value=0, unit="notes", sense="most", low=0, high=100,
                     reason="another partial is another note"),
    "pluck": Limit(value=6, unit="dB", sense="most", low=1, high=15,
                   reason="plucked notes of several strings differ by 4 to 5 dB by themselves"),
    "ring": Limit(value=0.6, unit="share", sense="least", low=0.1, high=1,
                  reason="rings won of those that were to be had; a finger may lean on a string"),
    "even_run": Limit(value=8, unit="%", sense="most", low=2, high=40,
                      reason="spacing of fast notes that is heard as even"),
    "entry": Limit(value=60, unit="ms", sense="most", low=10, high=500,
                   reason="an entry that is heard as late or early"),
    "lanes": Limit(value=None, unit="", sense="most", low=0, high=0,
                   reason="nothing is passed: the player chooses"),
}  # fmt: skip
AIM_KINDS: tuple[AimKind, ...] = tuple(LIMITS)
START_MS = {"violin": 40.0, "viola": 50.0, "cello": 60.0, "bass": 80.0}
OWN_BEST = "own_best"
WAYS: dict[AimKind, tuple[str, ...]] = {
    "duration": (OWN_BEST,),
    "bow_change": (OWN_BEST,),
    "dotted": ("sharp", "singing"),
    "balance": ("even", "lower", "upper"),
    "shift": ("slow", "hidden", "none"),
    "even_bow": ("scratch_allowed",),
}
_LONG_SHARE = 0.95  # of the written length: nobody counts seconds more exactly
SINGING_RATIO, SINGING_WIDTH = 3.0, 0.3
FEWEST_DOTTED = 3
FEWEST_HELD = 3
FEWEST_PAIRS = 4
PAIRS_SHARE = 0.4  # of all notes: slurs of two here and there are no study of them
SHORTEST_MOVING_S = 1.5
SHOWN_ONLY: frozenset[AimKind] = frozenset({"bow_share", "lanes"})


@dataclass(frozen=True, slots=True, kw_only=True)
class Aim:
    """One thing an exercise is for.

    Parameters
    ----------
    kind : AimKind
    places : tuple of str
        Ids of the events it holds for; empty for the whole jig.
    limit : float or None
        In the kind's unit; ``None``: what it begins with.
    way : str
        Which of several characters is meant, for kinds that have them.
    """

    kind: AimKind
    places: tuple[str, ...] = ()
    limit: float | None = None
    way: str = ""

    def __post_init__(self) -> None:
        if self.kind not in LIMITS:
            raise JigError(f"unknown aim {self.kind!r}")
        start = LIMITS[self.kind]
        if self.limit is not None and not start.low <= self.limit <= start.high:
            raise JigError(
                f"the limit of {self.kind} lies between {start.low:g} and {start.high:g} "
                f"{start.unit}: {self.limit:g}"
            )
        if self.way and self.way not in WAYS.get(self.kind, ()):
            raise JigError(f"{self.kind} has no way {self.way!r}")


def aims(*kinds: AimKind) -> tuple[Aim, ...]:
    """Aims of the whole jig with the limits they begin with."""
    return tuple(Aim(kind=k) for k in kinds)


def limit_of(aim: Aim, jig: Jig) -> float | None:
    """The limit that holds: the aim's own, the jig's, or what the kind begins with."""
    if aim.limit is not None:
        return aim.limit
    if aim.kind in ("pitch", "second_arrival"):
        return jig.tolerance_cents
    if aim.kind == "start":
        return START_MS.get(jig.instrument_id, 60.0)
    if aim.kind == "duration":
        longest = max((e.length_beats for e in jig.events), default=0)
        return _LONG_SHARE * float(longest) * jig.seconds_per_beat or None
    return LIMITS[aim.kind].value


def aims_of(jig: Jig) -> tuple[Aim, ...]:
    """The aims of a jig; one without any is for every note, its pitch, and what is marked."""
    return jig.aims or implied_aims(jig)


def goes_back(jig: Jig) -> bool:
    """Whether going back to a note that was off is part of the exercise."""
    return any(a.kind == "second_arrival" for a in jig.aims)


@lru_cache(maxsize=32)
def implied_aims(jig: Jig) -> tuple[Aim, ...]:
    """Every note heard and in tune, and what the marks ask for."""
    only_open = all(h.finger == 0 for e in jig.events for h in e.heads)
    # open strings are as they were tuned: what is left to listen for is the bow
    found = list(aims("every_note", "even_bow" if only_open and jig.events else "pitch"))

    def add(kind: AimKind, places: list[str]) -> None:
        if places:
            found.append(Aim(kind=kind, places=tuple(places)))

    events = jig.events
    add("interval", [e.id for e in events if len(e.heads) > 1])
    add("direction", _moving_notes(jig))
    add("vibrato", [e.id for e in events if e.vibrato is not None])
    add("partial", [e.id for e in events if any(h.partial > 1 for h in e.heads)])
    if len({mark for mark in written_loudness(jig) if mark is not None}) > 1:
        said_twice = {i for pair in echoes(jig) for half in pair for i in half}
        add("contrast", [events[i].id for i in sorted(said_twice)])
    tenuto = [e.id for e in events if "tenuto" in e.marks and not e.lifted]
    add("held", tenuto if len(tenuto) >= FEWEST_HELD else [])
    marks, moving = written_loudness(jig), under_hairpins(jig)
    # where a mark asks for the second note to stand out, it may
    pairs = [i for i in slurs_of_two(jig) if marks[i + 1] is None and i + 1 not in moving]
    if 2 * len(pairs) >= max(2 * FEWEST_PAIRS, PAIRS_SHARE * len(events)):
        add("pairs", [events[i].id for i in pairs])
    add("crossing", [events[i].id for i in crossing_runs(jig)])
    dotted = dotted_pairs(jig)
    if len(dotted) >= FEWEST_DOTTED:
        # on a line, as written: whoever wants them sharp says so
        places = tuple(events[i].id for i in dotted)
        found.append(Aim(kind="dotted", way="singing", places=places))
    return tuple(found[:MOST_AIMS])


def _moving_notes(jig: Jig) -> list[str]:
    """Notes that are meant to move, by themselves or by a hairpin, and long enough to be heard."""
    lengths = written_seconds(jig)
    return [
        e.id
        for e, shape, seconds in zip(jig.events, written_shapes(jig), lengths, strict=True)
        if shape in ("grow", "fade", "swell", "dip")
        and (e.shape is not None or seconds >= SHORTEST_MOVING_S)
    ]
