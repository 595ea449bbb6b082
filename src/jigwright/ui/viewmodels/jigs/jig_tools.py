"""What can be made out of a jig, with the sentence that says so."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from jigwright.core.jig.derive import (
    DISPLACEMENTS,
    as_double_stops,
    displaced,
    rebuilt,
    tempo_steps,
    weak_spans,
)
from jigwright.core.jig.derive import spot as make_spot
from jigwright.core.jig.edit import grouped
from jigwright.core.jig.fingering import Taste, propose_fingering
from jigwright.core.jig.hand_check import hand_troubles
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.model import Jig, revise
from jigwright.core.jig.order import written_out
from jigwright.core.jig.parallels import parallels
from jigwright.core.jig.signs import at_one_tempo
from jigwright.core.jig.spot_path import is_step
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.hands import trouble_line
from jigwright.wording.makers import jig_title
from jigwright.wording.writing import parallel_sentence

Span = tuple[int, int] | None
_MOST_SAID = 4
_MOST_STEPS = 12
SLOWEST_BPM = 20.0
_FIRST_TONIC = {"violin": "D", "viola": "G", "cello": "C", "bass": "F"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Derived:
    """New jigs and what is said of them; nothing when they cannot be made."""

    jigs: tuple[Jig, ...] = ()
    said: str = ""


def fresh_id() -> str:
    """Identity for a new jig."""
    return f"jig-{uuid.uuid4().hex[:12]}"


def first_jig(kind: str) -> Jig:
    """A scale that lies well on the instrument, for somebody who begins."""
    one = maker("scale")
    setting = Setting(
        instrument_id=kind, key=Key(PitchClass(_FIRST_TONIC[kind])), jig_id=f"first-scale-{kind}"
    )
    return one.make(replace(setting, title=jig_title(one, setting)))


def spot(jig: Jig, span: Span) -> Derived:
    """The chosen notes as an exercise of their own."""
    if span is None:
        return Derived()
    bar = jig.bar_of(jig.events[span[0]])[0]
    title = tr("{title}: spot in bar {bar}").format(title=jig.title, bar=bar)
    made = make_spot(jig, *span, jig_id=fresh_id(), title=title)
    return Derived(jigs=(made,), said=tr("The spot is a jig now."))


def weak_spots(jig: Jig, trouble: Mapping[int, int], n_takes: int) -> Derived:
    """The places where the last takes went wrong, each as an exercise of its own."""
    if not n_takes:
        return Derived(said=tr("There is no take of this jig yet."))
    spans = weak_spans(jig, trouble, least=2 if n_takes > 1 else 1)
    if not spans:
        said = tr("No note went wrong twice in the last {n} takes.")
        return Derived(said=said.format(n=n_takes))
    made = tuple(spot(jig, span).jigs[0] for span in spans)
    return Derived(
        jigs=made,
        said=trn("One spot from the last {takes} takes.", "{n} spots from the last {takes} takes.",
                 len(made)).format(n=len(made), takes=n_takes),
    )  # fmt: skip


def rebuild(jig: Jig, span: Span) -> Derived:
    """The chosen notes taken apart and put together again."""
    if span is None:
        return Derived()
    titles = [tr("{title}: step {n}").format(title=jig.title, n=k + 1) for k in range(40)]
    made = rebuilt(jig, *span, jig_id=fresh_id(), titles=titles)[:_MOST_STEPS]
    return Derived(jigs=tuple(made), said=tr("{n} small steps were made.").format(n=len(made)))


def displace(jig: Jig, span: Span) -> Derived:
    """The beat moved through the chosen notes, or all."""
    passage = _chosen(jig, span)
    whole = _bar_beats(passage)
    first = passage.events[0].onset_beats
    fit = [
        k
        for k in DISPLACEMENTS
        if k < len(passage.events) and passage.events[k].onset_beats - first <= whole
    ]
    made = tuple(
        replace(
            displaced(
                passage, k, jig_id=fresh_id(),
                title=tr("{title}: {n} before the beat").format(title=jig.title, n=k),
            ),
            derived_from=None if jig.id == "new" else (jig.id, jig.revision),
        )
        for k in fit
    )  # fmt: skip
    return Derived(jigs=made, said=tr("The beat was moved {n} ways.").format(n=len(made)))


def _bar_beats(jig: Jig) -> Fraction:
    return Fraction(jig.beats_per_bar * 4, jig.beat_unit)


def tempo_ladder(jig: Jig, span: Span) -> Derived:
    """The chosen notes, or all, from half the tempo to a little beyond it."""
    steps = tempo_steps(jig)
    made = tuple(
        replace(
            _chosen(jig, span), id=fresh_id(), revision=1, tempo_bpm=bpm,
            signs=at_one_tempo(_chosen(jig, span).signs),
            title=tr("{title}: {bpm} a minute").format(title=jig.title, bpm=round(bpm)),
            derived_from=None if jig.id == "new" else (jig.id, jig.revision),
        )
        for bpm in steps
    )  # fmt: skip
    said = tr("{n} tempi from {low} to {high} a minute.")
    return Derived(
        jigs=made, said=said.format(n=len(made), low=round(steps[0]), high=round(steps[-1]))
    )


def _chosen(jig: Jig, span: Span) -> Jig:
    return jig if span is None else make_spot(jig, *span, jig_id="new", title=jig.title)


def heard_part(jig: Jig, span: Span, *, speed: float) -> Jig:
    """What is to be heard: the chosen notes or all, at a share of the written tempo."""
    part = _chosen(jig, span)
    if speed == 1.0:
        return part
    return replace(
        part, tempo_bpm=max(SLOWEST_BPM, speed * part.tempo_bpm),
        signs=tuple(
            replace(s, value=max(SLOWEST_BPM, speed * s.value))
            if s.kind == "tempo" and s.value
            else s
            for s in part.signs
        ),
    )  # fmt: skip


def parallel(jig: Jig, _span: Span) -> Derived:
    """Places that move alike are named; the first pair become spots of their own."""
    found = parallels(jig)
    if not found:
        return Derived(said=tr("No two places of five notes or more move alike here."))
    spots = [
        made
        for at in (found[0].first, found[0].second)
        for made in bars_spot(jig, at, at + found[0].n_bars - 1).jigs
    ]
    said = " ".join(parallel_sentence(p, jig.bars()) for p in found[:_MOST_SAID])
    if len(found) > _MOST_SAID:
        more = len(found) - _MOST_SAID
        said += " " + trn("{n} more pair.", "{n} more pairs.", more).format(n=more)
    return Derived(jigs=tuple(spots), said=said)


def bars_spot(jig: Jig, first_bar: int, last_bar: int) -> Derived:
    """Whole bars as an exercise of their own."""
    bars = jig.bars()
    start = bars[first_bar].start_beats
    end = bars[last_bar].start_beats + bars[last_bar].length_beats
    there = [i for i, e in enumerate(jig.events) if start <= e.onset_beats < end]
    return spot(jig, (there[0], there[-1])) if there else Derived()


def write_out(jig: Jig, _span: Span) -> Derived:
    """Every bar as often as it is played."""
    title = tr("{title}: with its repeats").format(title=jig.title)
    made = written_out(jig, jig_id=fresh_id(), title=title)
    return Derived(jigs=(made,), said=tr("The repeats are written out now."))


def double(jig: Jig, _span: Span) -> Derived:
    """Neighbouring notes sounded together."""
    title = tr("{title}: as double stops").format(title=jig.title)
    made = as_double_stops(jig, jig_id=fresh_id(), title=title)
    return Derived(jigs=(made,), said=tr("Neighbouring notes sound together now."))


def finger(jig: Jig, *, string_length_mm: float | None) -> Derived:
    """Fingers proposed anew; a kept jig gets a new revision."""
    made = propose_fingering(jig, keep_given=False, string_length_mm=string_length_mm)
    kept = made if jig.id == "new" else revise(made)
    troubles = hand_troubles(made, string_length_mm=string_length_mm)
    said = tr("Fingers were proposed anew.")
    if troubles:
        said = tr("Fingers were proposed; not all can be played: {place}").format(
            place=trouble_line(troubles[0], made)
        )
    return Derived(jigs=(kept,), said=said)


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """Another fingering or bowing of the same notes.

    Parameters
    ----------
    name : str
    make : callable
        From a jig to the same jig played that way.
    kept : bool
        Whether it is a jig of its own already.
    """

    name: str
    make: Callable[[Jig], Jig]
    kept: bool = False


def kept_ways(jig: Jig, jigs: Sequence[Jig], taken: Sequence[str | None]) -> tuple[Way, ...]:
    """Other jigs with the same notes, the newest revision of each, with how many takes there are.

    Parameters
    ----------
    jig : Jig
    jigs : sequence of Jig
    taken : sequence of str or None
        The jig of every take.
    """

    def notes(one: Jig) -> list[object]:
        return [(e.onset_beats, [h.pitch for h in e.heads]) for e in one.events]

    others = (j for j in sorted(jigs, key=lambda j: j.revision) if not is_step(j.id))
    newest = {j.id: j for j in others if j.id != jig.id}
    same = [j for j in newest.values() if len(j.events) == len(jig.events)]

    def name(one: Jig) -> str:
        n = sum(t == one.id for t in taken)
        if not n:
            return tr("{title} (not played yet)").format(title=one.title)
        return trn("{title} (one take)", "{title} ({n} takes)", n).format(title=one.title, n=n)

    def as_it_is(one: Jig) -> Callable[[Jig], Jig]:
        return lambda _: one

    return tuple(
        Way(name=name(j), make=as_it_is(j), kept=True)
        for j in same
        if j.instrument_id == jig.instrument_id and notes(j) == notes(jig)
    )


def ways() -> tuple[Way, ...]:
    """Ways that can be set beside a jig."""
    names: dict[Taste, str] = {
        "low": tr("low positions"), "few_open": tr("without open strings"),
        "few_crossings": tr("few string crossings"),
    }  # fmt: skip

    def fingered(taste: Taste) -> Callable[[Jig], Jig]:
        return lambda jig: propose_fingering(jig, keep_given=False, taste=taste)

    def bowed(size: int) -> Callable[[Jig], Jig]:
        return lambda jig: grouped(jig, size, title=jig.title)

    fingers = [Way(name=name, make=fingered(taste)) for taste, name in names.items()]
    bows = [
        Way(name=trn("a bow to each note", "{n} notes in a bow", n).format(n=n), make=bowed(n))
        for n in (1, 2, 3, 4, 8)
    ]
    return (*fingers, *bows)
