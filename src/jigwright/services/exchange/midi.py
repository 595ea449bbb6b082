"""Standard MIDI files in and out, through mido.

MIDI knows keys and times, not spelling or bows: pitches are spelled from the key signature, lengths
are rounded to thirds and eighths of a quarter note, every note gets its own stroke.
"""

from __future__ import annotations

import io
from fractions import Fraction

from jigwright.core.errors import ScoreError
from jigwright.core.jig.draft import renamed
from jigwright.core.jig.imported import MAX_BYTES, MAX_NOTES, Imported, ImportLoss
from jigwright.core.jig.model import DYNAMICS, Event, Jig, Notehead
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass

_TICKS = 480
_GRIDS = (Fraction(1, 8), Fraction(1, 6))


def write_midi(jig: Jig) -> bytes:
    """Write a jig as a type 0 file."""
    import mido

    file = mido.MidiFile(type=0, ticks_per_beat=_TICKS)
    track = mido.MidiTrack()
    file.tracks.append(track)
    track.append(
        mido.MetaMessage(
            "track_name", name=jig.title.encode("latin-1", "replace").decode("latin-1")
        )
    )
    track.append(mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(jig.tempo_bpm)))
    track.append(
        mido.MetaMessage("time_signature", numerator=jig.beats_per_bar, denominator=jig.beat_unit)
    )
    messages: list[tuple[int, int, object]] = []
    loud = "mf"
    for event in jig.events:
        loud = event.dynamic or loud
        velocity = 40 + 14 * DYNAMICS.index(loud)
        on, off = round(event.onset_beats * _TICKS), round(event.end_beats * _TICKS)
        for head in event.heads:
            messages.append(
                (on, 1, mido.Message("note_on", note=head.pitch.midi, velocity=velocity))
            )
            messages.append((off, 0, mido.Message("note_off", note=head.pitch.midi, velocity=0)))
    now = 0
    for at, _, message in sorted(messages, key=lambda m: m[:2]):
        track.append(message.copy(time=at - now))  # type: ignore[attr-defined]
        now = at
    buffer = io.BytesIO()
    file.save(file=buffer)
    return buffer.getvalue()


def read_midi(
    data: bytes, *, jig_id: str, title: str, instrument_id: str = "violin",
    i_part: int | None = None,
) -> Imported:  # fmt: skip
    """Read the track with most notes, or the one asked for.

    Raises
    ------
    ScoreError
        If it is not a MIDI file or holds no notes.
    """
    import mido

    if len(data) > MAX_BYTES:
        raise ScoreError("too_large", f"{len(data) / 1e6:.0f} MB")
    try:
        file = mido.MidiFile(file=io.BytesIO(data), clip=True)
    except Exception as error:
        raise ScoreError("damaged", f"{type(error).__name__}"[:80]) from None
    per_beat = file.ticks_per_beat
    if not isinstance(per_beat, int) or per_beat <= 0:
        raise ScoreError("damaged", "its beats have no length")
    tracks = [_notes(track) for track in file.tracks]
    if i_part is None:
        i_part = max(range(len(tracks)), key=lambda i: len(tracks[i]), default=0)
    if not tracks or not 0 <= i_part < len(tracks) or not tracks[i_part]:
        raise ScoreError("no_notes", "no track holds notes")
    if len(tracks[i_part]) > MAX_NOTES:
        raise ScoreError("too_large", f"{len(tracks[i_part])} notes")
    tempo, metre, key = _meta(file)
    losses: list[ImportLoss] = []
    events = _events(tracks[i_part], per_beat, key, losses)
    lowest = instrument(instrument_id).strings[0].midi
    if any(h.pitch.midi < lowest for e in events for h in e.heads):
        losses.append(ImportLoss(bar="", what="out_of_range"))
    jig = Jig(
        id="midi", title=title, instrument_id=instrument_id, key=key, tempo_bpm=tempo,
        beats_per_bar=metre[0], beat_unit=metre[1], events=tuple(events),
    )  # fmt: skip
    names = tuple((t.name or f"{i + 1}")[:80] for i, t in enumerate(file.tracks))
    return Imported(jig=renamed(jig, jig_id), losses=tuple(losses), parts=names, i_part=i_part)


def _notes(track: object) -> list[tuple[int, int, int]]:
    """Key number, start and stop in ticks."""
    at = 0
    open_notes: dict[int, int] = {}
    notes = []
    for message in track:  # type: ignore[attr-defined]
        at += message.time
        if message.type == "note_on" and message.velocity > 0:
            open_notes.setdefault(message.note, at)
        elif message.type in ("note_off", "note_on") and message.note in open_notes:
            start = open_notes.pop(message.note)
            if at > start:
                notes.append((message.note, start, at))
    return sorted(notes, key=lambda n: (n[1], n[0]))


def _meta(file: object) -> tuple[float, tuple[int, int], Key]:
    import mido

    tempo, metre, key = 80.0, (4, 4), Key(PitchClass("C"))
    for track in file.tracks:  # type: ignore[attr-defined]
        for message in reversed(track):
            if message.type == "set_tempo":
                tempo = min(400.0, max(10.0, float(mido.tempo2bpm(message.tempo))))
            elif message.type == "time_signature":
                metre = (min(64, max(1, message.numerator)), message.denominator)
            elif message.type == "key_signature":
                minor = message.key.endswith("m")
                key = Key(
                    PitchClass.parse(message.key.removesuffix("m")),
                    "natural_minor" if minor else "major",
                )
    if metre[1] not in (1, 2, 4, 8, 16, 32):
        metre = (4, 4)
    return tempo, metre, key


def _events(
    notes: list[tuple[int, int, int]], per_beat: int, key: Key, losses: list[ImportLoss]
) -> list[Event]:
    events: list[Event] = []
    end = Fraction(0)
    i = 0
    while i < len(notes):
        start = notes[i][1]
        chord = [n for n in notes[i : i + 8] if n[1] - start <= per_beat // 16]
        i += len(chord)
        onset = _rounded(Fraction(start, per_beat))
        stop = _rounded(Fraction(max(n[2] for n in chord), per_beat))
        following = _rounded(Fraction(notes[i][1], per_beat)) if i < len(notes) else None
        if following is not None and stop > following:
            losses.append(ImportLoss(bar="", what="other_voice"))
            stop = following
        onset = max(onset, end)
        length = max(stop - onset, Fraction(1, 8))
        if following is not None and 0 < following - onset - length <= Fraction(1, 4):
            length = following - onset  # notes are let go a little early
        pitches = sorted({n[0] for n in chord})[:4]
        events.append(
            Event(
                id=f"e{len(events)}", onset_beats=onset, length_beats=length,
                heads=tuple(
                    Notehead(
                        id=f"n{len(events)}.{k}", pitch=Pitch.from_midi(p, fifths=key.fifths)
                    )
                    for k, p in enumerate(pitches)
                ),
                bow="down" if len(events) % 2 == 0 else "up",
            )
        )  # fmt: skip
        end = onset + length
    return events


def _rounded(beats: Fraction) -> Fraction:
    near = [round(beats / grid) * grid for grid in _GRIDS]
    return min(near, key=lambda b: abs(b - beats))
