"""Major and minor scales of one to four octaves."""

from __future__ import annotations

from fractions import Fraction

from jigwright.core.errors import JigError
from jigwright.core.jig.draft import Draft
from jigwright.core.jig.fingering import propose_fingering
from jigwright.core.jig.model import Jig
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch


def scale_pitches(key: Key, start: Pitch, octaves: int) -> tuple[Pitch, ...]:
    """Pitches of a scale up and down from ``start`` (the top note once)."""
    up = []
    for octave in range(octaves):
        for pitch_class in key.degrees():
            letter = Pitch(pitch_class.step, pitch_class.alter, 0)
            tonic = Pitch(key.tonic.step, key.tonic.alter, 0)
            carry = 1 if letter.diatonic < tonic.diatonic else 0
            up.append(Pitch(pitch_class.step, pitch_class.alter, start.octave + octave + carry))
    top = Pitch(start.step, start.alter, start.octave + octaves)
    down_by_class = {c.step: c for c in key.degrees(descending=True)}
    down = [Pitch(p.step, down_by_class[p.step].alter, p.octave) for p in reversed(up)]
    return (*up, top, *down)


def make_scale(
    *,
    jig_id: str,
    instrument_id: str,
    key: Key,
    octaves: int = 1,
    slur: int = 1,
    tempo_bpm: float = 60.0,
    note_beats: Fraction = Fraction(1),
    start_octave: int | None = None,
    strings: tuple[Pitch, ...] | None = None,
    reference: str = "equal",
    title: str = "",
) -> Jig:
    """Make a scale up and down.

    Parameters
    ----------
    jig_id : str
        Identity of the new jig; event ids are built on it.
    instrument_id : str
    key : Key
    octaves : int
        1 … 4.
    slur : int
        Notes in one bow.
    tempo_bpm : float
        Quarter notes a minute.
    note_beats : Fraction
        Written length of each note.
    start_octave : int, optional
        Octave of the first tonic; the lowest that fits by default.
    strings : tuple of Pitch, optional
        Open strings if not the usual ones.
    reference, title : str

    Raises
    ------
    JigError
        If the scale does not fit the instrument.
    """
    inst = instrument(instrument_id)
    open_strings = strings or inst.strings
    if not 1 <= octaves <= 4:
        raise JigError(f"one to four octaves are meant, got {octaves}")
    if not 1 <= slur <= 64:
        raise JigError(f"one to 64 notes in a bow are meant, got {slur}")
    if start_octave is None:
        start_octave = 0
        while Pitch(key.tonic.step, key.tonic.alter, start_octave).midi < open_strings[0].midi:
            start_octave += 1
    start = Pitch(key.tonic.step, key.tonic.alter, start_octave)
    pitches = scale_pitches(key, start, octaves)
    if min(p.midi for p in pitches) < open_strings[0].midi:
        raise JigError(f"{start} lies below the lowest string ({open_strings[0]})")
    if max(p.midi for p in pitches) > open_strings[-1].midi + inst.reach_semitones:
        raise JigError(f"{octaves} octaves from {start} go beyond the {inst.id}'s range")
    draft = Draft(jig_id)
    for i, pitch in enumerate(pitches):
        draft.note(pitch, note_beats, slurred=i % slur > 0)
    made = draft.finish(
        title=title or f"{key} scale", instrument_id=instrument_id, key=key,
        tempo_bpm=tempo_bpm, reference=reference,
    )  # fmt: skip
    return propose_fingering(made, open_strings, as_written=True)
