"""An accompaniment that may sound as a cue: another part of the same score, kept beside a jig (S5).

Its notes are signs of the kind ``cue`` – time of beginning and end, and MIDI numbers – so that they
go along wherever time is cut, put in, or played twice.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import groupby

from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime
from jigwright.core.jig.signs import Sign, in_order
from jigwright.core.music.pitch import A4_MIDI

MOST_CUE_NOTES = 20_000


@dataclass(frozen=True, slots=True, kw_only=True, order=True)
class CueNote:
    """One note of an accompaniment.

    Parameters
    ----------
    onset_beats, end_beats : Fraction
        In quarter notes from the start of the jig.
    midi : int
        0 … 127.
    """

    onset_beats: Fraction
    end_beats: Fraction
    midi: int


def with_cue(jig: Jig, notes: Iterable[CueNote]) -> Jig:
    """A jig with another accompaniment, or with none; notes without length are left out."""
    rows = sorted({n for n in notes if n.end_beats > n.onset_beats})[:MOST_CUE_NOTES]
    signs = [
        Sign(kind="cue", at_beats=at, end_beats=end, text=" ".join(str(n.midi) for n in group))
        for (at, end), group in groupby(rows, key=lambda n: (n.onset_beats, n.end_beats))
    ]
    return replace(jig, signs=in_order([*(s for s in jig.signs if s.kind != "cue"), *signs]))


def has_cue(jig: Jig) -> bool:
    """Whether there is an accompaniment."""
    return any(s.kind == "cue" for s in jig.signs)


def cue_of(jig: Jig) -> tuple[CueNote, ...]:
    """The accompaniment of a jig, by time."""
    return tuple(
        sorted(
            CueNote(onset_beats=s.at_beats, end_beats=s.end_beats, midi=int(midi))
            for s in jig.signs
            if s.kind == "cue" and s.end_beats is not None
            for midi in s.text.split()
        )
    )


def cue_tones(
    jig: Jig, a4_hz: float, *, begin_s: float = 0.0
) -> tuple[tuple[float, float, float], ...]:
    """Every note as it sounds, played as written, in equal temperament.

    Parameters
    ----------
    jig : Jig
    a4_hz : float
    begin_s : float
        When the jig begins.

    Returns
    -------
    tuple of (float, float, float)
        Beginning and end in seconds, and frequency in hertz.
    """
    time = WrittenTime(jig)
    return tuple(
        (
            begin_s + time.at(n.onset_beats), begin_s + time.at(n.end_beats),
            a4_hz * 2.0 ** ((n.midi - A4_MIDI) / 12.0),
        )
        for n in cue_of(jig)
    )  # fmt: skip


def is_cue_text(text: str) -> bool:
    """Whether a text is what a sign of this kind holds."""
    words = text.split()
    return bool(words) and all(w.isdecimal() and int(w) < 128 for w in words)
