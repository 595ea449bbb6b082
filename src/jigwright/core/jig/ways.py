"""Two to five ways of doing the same, one after the other, as one exercise (B9, B13, T5).

Each way is the same notes; between two ways there is a bar to change over. Which notes belong to
which way is told by spans of events, so that what was heard can be laid side by side.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Literal

from jigwright.core.errors import JigError, WaysError
from jigwright.core.jig.draft import Draft
from jigwright.core.jig.fingering import TASTES, propose_fingering
from jigwright.core.jig.model import Event, Jig
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch

WaysKind = Literal[
    "lanes", "lanes_all", "bows", "two_ways", "fingering", "fingerings", "bowing", "bowings",
    "string",
]  # fmt: skip
WAYS_KINDS: tuple[WaysKind, ...] = (
    "lanes", "lanes_all", "bows", "two_ways", "fingering", "fingerings", "bowing", "bowings",
    "string",
)  # fmt: skip
_LANES = ("fingerboard", "middle", "bridge")
WAYS: dict[WaysKind, tuple[str, ...]] = {
    "lanes": _LANES, "lanes_all": _LANES, "bows": ("half", "whole", "eight"),
    "two_ways": ("one", "other"),
    "fingering": ("as_it_is", "otherwise"), "bowing": ("as_it_is", "otherwise"),
    "fingerings": ("as_it_is", "second", "third", "fourth"),
    "bowings": ("as_it_is", "apart", "twos", "fours", "across"),
    "string": ("as_it_is", "lower"),
}  # fmt: skip
"""Of kinds that compare several, those that differ from what is there."""
OF_A_JIG: frozenset[WaysKind] = frozenset(
    {"fingering", "fingerings", "bowing", "bowings", "string"}
)
SEVERAL: frozenset[WaysKind] = frozenset({"fingerings", "bowings"})
"""Kinds that compare ways of playing the jig in hand; the others are of open strings."""
MOST_NOTES, MOST_NOTES_OF_SEVERAL = 32, 16
_FEWEST_OF_SEVERAL = 3
_SLURS: dict[str, tuple[int, ...]] = {
    "apart": (1,), "twos": (2,), "fours": (4,), "across": (1, 2)
}  # fmt: skip
STROKES = 2
_BEATS = {"half": 2, "eight": 8}
_USUAL_BEATS = _CHANGE_OVER_BEATS = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Ways:
    """A comparison.

    Parameters
    ----------
    kind : WaysKind
    jig : Jig
    names : tuple of str
        Of the ways, in their order.
    spans : tuple of (int, int)
        First event of each way, and the one after its last.
    """

    kind: WaysKind
    jig: Jig
    names: tuple[str, ...]
    spans: tuple[tuple[int, int], ...]

    def way_of(self, i_event: int) -> int:
        """Which way an event belongs to."""
        return sum(i_event >= first for first, _ in self.spans[1:])


def open_ways(
    kind: WaysKind, instrument_id: str, strings: Sequence[Pitch], which: Sequence[int], *,
    jig_id: str, title: str,
) -> Ways:  # fmt: skip
    """Ways of bowing open strings: lanes of contact, lengths of bow, or one way and another.

    Parameters
    ----------
    kind : WaysKind
    instrument_id : str
    strings : sequence of Pitch
    which : sequence of int
        Indices of those that are bowed, the same strokes in each way.
    jig_id, title : str

    Raises
    ------
    JigError
        If the kind is of a jig, or no string is bowed.
    """
    if kind in OF_A_JIG or not which:
        raise JigError(f"{kind} compares ways of a jig, or no string is bowed")
    d = Draft(jig_id)
    spans = []
    for name in WAYS[kind]:
        if d.events:
            d.rest(_CHANGE_OVER_BEATS)
            d.next_bow("down")
        first = len(d.events)
        beats = _BEATS.get(name, _USUAL_BEATS)
        for string in which:
            for _ in range(STROKES):
                d.note(strings[string], beats, strings=(string,), fingers=(0,))
        spans.append((first, len(d.events)))
    made = d.finish(
        title=title, instrument_id=instrument_id, key=Key(strings[which[0]].pitch_class),
        tempo_bpm=80.0,
    )  # fmt: skip
    return Ways(kind=kind, jig=made, names=WAYS[kind], spans=tuple(spans))


def ways_of_jig(
    kind: WaysKind, jig: Jig, strings: Sequence[Pitch], *, jig_id: str, title: str
) -> Ways:
    """The jig in hand as it is and otherwise: another fingering, bowing or string.

    Raises
    ------
    WaysError
        If it is too long to be compared, or cannot be played otherwise.
    JigError
        If the kind is not of a jig.
    """
    if kind not in OF_A_JIG:
        raise JigError(f"{kind} is no way of playing a jig")
    most = MOST_NOTES_OF_SEVERAL if kind in SEVERAL else MOST_NOTES
    if not 0 < len(jig.events) <= most:
        raise WaysError("length_of_several" if kind in SEVERAL else "length")
    first = propose_fingering(jig, strings)
    if kind in SEVERAL:
        return _several(kind, first, strings, jig_id, title)
    other = {
        "fingering": _otherwise_fingered, "bowing": _otherwise_bowed, "string": _lower
    }[kind](first, strings)  # fmt: skip
    return Ways(
        kind=kind, names=WAYS[kind], jig=_one_after_the_other((first, other), jig_id, title),
        spans=_spans(len(first.events), 2),
    )  # fmt: skip


def _spans(n_notes: int, n_ways: int) -> tuple[tuple[int, int], ...]:
    return tuple((k * n_notes, (k + 1) * n_notes) for k in range(n_ways))


def _several(kind: WaysKind, first: Jig, strings: Sequence[Pitch], jig_id: str, title: str) -> Ways:
    """All fingerings, or all bowings, that differ from each other."""
    found: list[tuple[str, Jig]] = [(WAYS[kind][0], first)]
    if kind == "fingerings":
        made = [
            propose_fingering(first, strings, keep_given=False, taste=taste) for taste in TASTES
        ]
        for jig in made:
            if all(_places(jig) != _places(other) for _, other in found):
                found.append((WAYS[kind][len(found)], jig))
    else:
        for name in WAYS[kind][1:]:
            jig = _bowed(first, _SLURS[name])
            if all(_bows(jig) != _bows(other) for _, other in found):
                found.append((name, jig))
    if len(found) < _FEWEST_OF_SEVERAL:
        raise WaysError("fewer")
    return Ways(
        kind=kind, names=tuple(name for name, _ in found),
        jig=_one_after_the_other([jig for _, jig in found], jig_id, title),
        spans=_spans(len(first.events), len(found)),
    )  # fmt: skip


def _bows(jig: Jig) -> list[bool]:
    """Where a bow begins."""
    return [e.bow is not None for e in jig.events]


def _places(jig: Jig) -> list[tuple[int | None, int | None]]:
    return [(h.string, h.finger) for e in jig.events for h in e.heads]


def _otherwise_fingered(jig: Jig, strings: Sequence[Pitch]) -> Jig:
    for taste in TASTES[1:]:
        made = propose_fingering(jig, strings, keep_given=False, taste=taste)
        if _places(made) != _places(jig):
            return made
    raise WaysError("fingering")


def _otherwise_bowed(jig: Jig, strings: Sequence[Pitch]) -> Jig:  # noqa: ARG001
    """Slurred in twos where it was apart, apart where it was slurred."""
    slurred = any(e.bow is None for e in jig.events)
    return _bowed(jig, (1,) if slurred else (2,))


def _bowed(jig: Jig, lengths: Sequence[int]) -> Jig:
    """So many notes to each bow in turn, the last number for all that follow."""
    begins, k = set(), 0
    at = 0
    while at < len(jig.events):
        begins.add(at)
        at += lengths[min(k, len(lengths) - 1)]
        k += 1
    way, events = "down", []
    for i, event in enumerate(jig.events):
        new = i in begins
        events.append(replace(event, bow=way if new else None, proposed_bow=True))  # type: ignore[arg-type]
        if new:
            way = "up" if way == "down" else "down"
    return replace(jig, events=tuple(events))


def _lower(jig: Jig, strings: Sequence[Pitch]) -> Jig:
    """Every note on the string below the one it is on."""
    events = []
    for event in jig.events:
        heads = []
        for head in event.heads:
            if not head.string:
                raise WaysError("lowest" if head.string == 0 else "high")
            heads.append(replace(head, string=head.string - 1, finger=None))
        events.append(replace(event, heads=tuple(heads)))
    made = propose_fingering(replace(jig, events=tuple(events)), strings)
    if any(finger is None for _, finger in _places(made)):
        raise WaysError("high")
    return made


def _one_after_the_other(jigs: Sequence[Jig], jig_id: str, title: str) -> Jig:
    a = jigs[0]
    bar = Fraction(a.beats_per_bar * 4, a.beat_unit)
    ends = max(e.end_beats for e in a.events)
    shift = (-(-ends // bar) + 1) * bar  # its bar is full, and one to change over
    events = [
        replace(e, onset_beats=e.onset_beats + k * shift)
        for k, jig in enumerate(jigs)
        for e in jig.events
    ]
    return replace(
        a, id=jig_id, revision=1, title=title, events=tuple(_renamed(jig_id, events)), signs=(),
        changes=(), pickup_beats=Fraction(0), aims=(), derived_from=(a.id, a.revision),
    )  # fmt: skip


def _renamed(jig_id: str, events: Sequence[Event]) -> list[Event]:
    return [
        replace(
            e, id=f"{jig_id}.e{i}",
            heads=tuple(replace(h, id=f"{jig_id}.n{i}.{k}") for k, h in enumerate(e.heads)),
        )
        for i, e in enumerate(events)
    ]  # fmt: skip
