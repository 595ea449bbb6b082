"""The demo's piece: a waltz of our own with its marks, and two of its places as spots."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from jigwright.core.jig.cue import CueNote, with_cue
from jigwright.core.jig.derive import spot
from jigwright.core.jig.edit import mark
from jigwright.core.jig.fingering import propose_fingering
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.jig.writing import hairpin, toggle_mark, write_words
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.wording.catalogue import tr

_TEMPO = 138.0
_TIDE = "B4:2 D5:1 (C5:1/2 B4 A4) (G4 F#4 A4) G4:2 B4:1 A4:3"
_HOME = "B4:2 D5:1 (E5:1/2 D5 C5) (B4 A4 C5) (B4:1 A4:1) F#4:1 G4:2 r:1"
_QUAY = "D5:1 (E5:1/2 F#5 G5 F#5) E5:1 (F#5:1/2 G5 A5 G5)"
_MIDDLE = f"{_QUAY} (F#5:1 D5:1) A4:1 B4:3 {_QUAY} (A5:1 F#5:1) C#5:1 D5:2 r:1"
_LOW = "F#4:2 A4:1 (G4:1/2 F#4 E4) (D4 C#4 E4) D4:2 F#4:1 E4:3"
_BACK = "G4:2 B4:1 (C5:1/2 B4 A4) (G4 F#4 A4) (G4:1 F#4:1) A4:1 D5:2 r:1"
_LAST = "B4:2 D5:1 (E5:1/2 D5 C5) (B4 A4 G4) (B4:1 A4:1) F#4:1 G4:2 B4:1"
_CHORDS = {
    "G": (43, 55, 59, 62), "D": (50, 57, 60, 66), "C": (48, 55, 60, 64), "A": (45, 55, 61, 64),
}  # fmt: skip
_HARMONIES = "GDGDGCDGDADGDAADDADAGDDDGDGDGCDGGG"
_END = "(G4:1 D4:1) B3:1 G3+G4:3"


def harbour_waltz() -> Jig:
    """Thirty-four bars for the violin in G; one theme comes twice, and once a fourth lower."""
    text = f"{_TIDE} {_HOME} {_MIDDLE} {_LOW} {_BACK} {_TIDE} {_LAST} {_END}"
    jig = jig_from_line(
        text, jig_id="demo-waltz", instrument_id="violin", title=tr("Harbour waltz"),
        key=Key(PitchClass("G")), tempo_bpm=_TEMPO, beats_per_bar=3,
    )  # fmt: skip
    jig = propose_fingering(jig, as_written=True)
    first = [next(i for i, e in enumerate(jig.events) if e.onset_beats >= 3 * b) for b in range(34)]
    for bar, level in ((0, "p"), (8, "f"), (16, "p"), (24, "mf"), (32, "p")):
        jig = mark(jig, first[bar], first[bar], dynamic=level)
    jig = write_words(jig, first[0], "dolce")
    jig = hairpin(jig, first[6], first[7], "crescendo")
    jig = hairpin(jig, first[14], first[15], "diminuendo")
    jig = toggle_mark(jig, len(jig.events) - 1, len(jig.events) - 1, "fermata")
    return with_cue(jig, _accompaniment())


def _accompaniment() -> Iterator[CueNote]:
    """A bass on every first beat and its chord on the two others."""
    for bar, name in enumerate(_HARMONIES):
        bass, *chord = _CHORDS[name]
        for beat, notes in enumerate(([bass], chord, chord)):
            at = Fraction(3 * bar + beat)
            for midi in notes:
                yield CueNote(onset_beats=at, end_beats=at + Fraction(3, 4), midi=midi)


def waltz_spot(first_bar: int, last_bar: int, slug: str) -> Jig:
    """Some of its bars, by their numbers, as an exercise of their own."""
    piece = harbour_waltz()
    inside = [
        i for i, e in enumerate(piece.events) if 3 * (first_bar - 1) <= e.onset_beats < 3 * last_bar
    ]
    return spot(
        piece, inside[0], inside[-1], jig_id=f"demo-waltz-{slug}",
        title=tr("Harbour waltz: bars {a} to {b}").format(a=first_bar, b=last_bar),
    )  # fmt: skip
