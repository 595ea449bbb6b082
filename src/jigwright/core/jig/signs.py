"""What stands in a score beside its notes: hairpins, words, repeats, and what is only kept.

A :class:`Sign` lies in time, not on a note, so that it survives notes that come and go. Whatever a
score holds and nobody here acts on is *kept*: its own text comes out again where it stood.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from jigwright.core.jig.model import Jig

Dynamic = Literal["ppp", "pp", "p", "mp", "mf", "f", "ff", "fff"]
DYNAMICS: tuple[Dynamic, ...] = ("ppp", "pp", "p", "mp", "mf", "f", "ff", "fff")
SignKind = Literal[
    "dynamic", "hairpin", "words", "tempo", "rehearsal", "repeat", "ending", "jump", "barline",
    "slur", "clef", "octave_line", "fermata", "kept", "cue",
]  # fmt: skip
SIGN_KINDS: tuple[SignKind, ...] = (
    "dynamic", "hairpin", "words", "tempo", "rehearsal", "repeat", "ending", "jump", "barline",
    "slur", "clef", "octave_line", "fermata", "kept", "cue",
)  # fmt: skip
HAIRPINS = ("crescendo", "diminuendo")
JUMPS = ("segno", "coda", "dacapo", "dalsegno", "tocoda", "fine")
MOST_SIGNS = 40_000
MOST_SIGN_TEXT = 4_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Sign:
    """One sign of a score.

    Parameters
    ----------
    kind : SignKind
        ``slur`` and ``kept`` only where the notes themselves do not tell; a ``slur`` that ends
        where it begins leads from grace notes to theirs.
    at_beats : Fraction
        Quarter notes from the start.
    end_beats : Fraction or None
        Of what lasts: a hairpin, an ending, a slur, an octave line, notes of an accompaniment.
    text : str
        The words; ``crescendo`` or ``diminuendo``; ``forward`` or ``backward``; the numbers of an
        ending; one of :data:`JUMPS`; the style of a bar line; sign and line of a clef; the note
        value of a tempo in quarter notes (empty: heard, not printed); the text of what is kept;
        MIDI numbers of an accompaniment's notes.
    value : float or None
        Quarter notes a minute; how often a repeat is played.
    above : bool or None
        Over or under the staff, where the score says so.
    """

    kind: SignKind
    at_beats: Fraction
    end_beats: Fraction | None = None
    text: str = ""
    value: float | None = None
    above: bool | None = None


TEXTS: dict[str, tuple[str, ...]] = {
    "hairpin": HAIRPINS, "jump": JUMPS, "repeat": ("forward", "backward"),
    "octave_line": ("up 8", "down 8", "up 15", "down 15"), "fermata": ("rest", "barline"),
    "slur": ("", "graces"),
}  # fmt: skip
"""Kinds whose text is one of a few."""
NOTE_VALUES = tuple(
    str(Fraction(8, 2**k) * (2 - Fraction(1, 2**dots))) for k in range(11) for dots in range(3)
)
"""Note values that a tempo can be printed in, in quarter notes."""


def in_order(signs: Iterable[Sign]) -> tuple[Sign, ...]:
    """Signs by time, then by kind, then by where they end; others keep their order."""
    return tuple(
        sorted(
            signs,
            key=lambda s: (s.at_beats, SIGN_KINDS.index(s.kind), s.end_beats or s.at_beats),
        )
    )


def shifted(signs: Iterable[Sign], at: Fraction, by: Fraction) -> tuple[Sign, ...]:
    """Signs after time was put in (or taken out, for a negative ``by``) at a moment.

    What stood inside time that was taken out stands where it was taken out.

    Parameters
    ----------
    signs : iterable of Sign
    at, by : Fraction
        In beats; with a negative ``by`` the time from ``at`` to ``at - by`` is gone.
    """

    def moved(beats: Fraction) -> Fraction:
        return beats if beats < at else max(at, beats + by)

    return tuple(
        replace(
            s, at_beats=moved(s.at_beats),
            end_beats=None if s.end_beats is None else moved(s.end_beats),
        )
        for s in signs
    )  # fmt: skip


def cut_to(signs: Iterable[Sign], start: Fraction, end: Fraction) -> tuple[Sign, ...]:
    """Signs of a stretch of time, counted from its start; what reaches over its ends is cut there.

    Repeats and endings go: a piece of a piece is played once.
    """
    inside = []
    for s in signs:
        last = s.end_beats
        there = start <= s.at_beats < end or (last is not None and s.at_beats < start < last)
        if not there or s.kind in ("repeat", "ending", "jump"):
            continue
        cut = None if last is None else min(last, end) - start
        inside.append(replace(s, at_beats=max(s.at_beats, start) - start, end_beats=cut))
    return tuple(inside)


def tempi_of(jig: Jig) -> tuple[tuple[Fraction, float], ...]:
    """Beats from which a tempo holds, and quarter notes a minute; the first from the start on."""
    rows = {Fraction(0): jig.tempo_bpm}
    for sign in jig.signs:
        if sign.kind == "tempo" and sign.value and sign.at_beats > 0:
            rows[sign.at_beats] = min(400.0, max(10.0, sign.value))
    return tuple(sorted(rows.items()))


def tempo_at(jig: Jig, beats: Fraction) -> float:
    """Quarter notes a minute that hold at a moment."""
    return [bpm for at, bpm in tempi_of(jig) if at <= beats or at == 0][-1]


def at_one_tempo(signs: Iterable[Sign]) -> tuple[Sign, ...]:
    """Signs without tempi: the jig's own holds all through."""
    return tuple(s for s in signs if s.kind != "tempo")
