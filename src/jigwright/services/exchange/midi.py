"""Standard MIDI files in and out, through mido.

MIDI knows keys and times, not spelling or bows: pitches are spelled from the key signature and
every note gets its own stroke. A file written by a program keeps its lengths to the tick; a file
that somebody played is rounded to eighths and sixths of a quarter note, and notes that were let go
a little early reach to the next one.
"""

from __future__ import annotations

import io
from bisect import bisect_left
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from math import lcm

from jigwright.core.errors import ScoreError
from jigwright.core.jig.cue import CueNote, with_cue
from jigwright.core.jig.draft import renamed
from jigwright.core.jig.imported import MAX_BYTES, MAX_NOTES, Imported, ImportLoss
from jigwright.core.jig.model import Change, Event, Jig, Notehead
from jigwright.core.jig.phrases import written_loudness
from jigwright.core.jig.signs import DYNAMICS, Sign, tempi_of
from jigwright.core.jig.voices import slices
from jigwright.core.music.guessing import guess_instrument
from jigwright.core.music.instruments import InstrumentId, instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass

_TICKS, _MOST_TICKS = 480, 32_767
_PLAYED_GRIDS = (8, 6)
_PLAIN_GRIDS = (1, 2, 4, 8, 16, 3, 6, 12)
_FINE_GRIDS = (*_PLAIN_GRIDS, 5, 10, 7, 14, 32, 24, 9)
_ALL_GRIDS = (*_PLAIN_GRIDS, 5, 10, 7, 14, 32, 24, 9, 20, 28, 18, 11, 13, 15, 64, 48)
_EXACT_SHARE = 0.95  # of beginnings on a grid: a program wrote the file
_HELD_SHARE = 0.9  # of ends on a grid: lengths are meant
_LET_GO = Fraction(1, 4)  # of the time to the next note: let go early, not a rest
_DRIFT = Fraction(1, 100)  # of a quarter note: rounded ticks, one after the other
_LEGATO_BEATS = Fraction(1, 4)  # keys let go a little late
_CHORD_BEATS = Fraction(1, 16)
_LOUD, _STEP = 30, 13
_PROGRAMS: dict[int, InstrumentId] = {40: "violin", 41: "viola", 42: "cello", 43: "bass"}
_DRUMS = 9  # channel ten: its keys are instruments, not pitches
_KEYS = ("Cb", "Gb", "Db", "Ab", "Eb", "Bb", "F", "C", "G", "D", "A", "E", "B", "F#", "C#")


@dataclass(frozen=True, slots=True)
class _Note:
    """A key pressed: beats, MIDI number."""

    onset: Fraction
    end: Fraction
    midi: int


def write_midi(jig: Jig) -> bytes:
    """Write a jig as a type 0 file: notes, loudness, keys, metres and tempi."""
    import mido

    ticks = _ticks_for(jig)
    file = mido.MidiFile(type=0, ticks_per_beat=ticks)
    track = mido.MidiTrack()
    file.tracks.append(track)
    name = jig.title.encode("latin-1", "replace").decode("latin-1")
    track.append(mido.MetaMessage("track_name", name=name))
    program = next(n for n, kind in _PROGRAMS.items() if kind == jig.instrument_id)
    track.append(mido.Message("program_change", program=program))
    messages: list[tuple[int, int, object]] = [
        (round(at * ticks), 0, message) for at, message in _signatures(jig)
    ]
    loud = "mf"
    for event, mark in zip(jig.events, written_loudness(jig), strict=True):
        loud = mark or loud
        velocity = _LOUD + _STEP * DYNAMICS.index(loud)
        for note in _notes_of(event, jig):
            on, off = round(note.onset * ticks), round(note.end * ticks)
            for at, order, kind, v in ((on, 2, "note_on", velocity), (off, 1, "note_off", 0)):
                messages.append((at, order, mido.Message(kind, note=note.midi, velocity=v)))
    now = 0
    for at, _, message in sorted(messages, key=lambda m: m[:2]):
        track.append(message.copy(time=at - now))  # type: ignore[attr-defined]
        now = at
    buffer = io.BytesIO()
    file.save(file=buffer)
    return buffer.getvalue()


def _ticks_for(jig: Jig) -> int:
    times = {t.denominator for e in jig.events for t in (e.onset_beats, e.end_beats)}
    times |= {h.length_beats.denominator for e in jig.events for h in e.heads if h.length_beats}
    times |= {b.start_beats.denominator for b in jig.bars()}
    least = lcm(*times) if times else 1
    if least > _MOST_TICKS:
        return _TICKS
    return least * -(-_TICKS // least)


def _signatures(jig: Jig) -> Iterator[tuple[Fraction, object]]:
    """Tempi, keys and metres with their beats."""
    import mido

    for at, bpm in tempi_of(jig):
        yield at, mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(bpm))
    before = None
    for bar in jig.bars():
        if before is None or before.metre != bar.metre:
            beats, unit = bar.metre
            yield (
                bar.start_beats,
                mido.MetaMessage("time_signature", numerator=beats, denominator=unit),
            )
        if before is None or before.key != bar.key:
            fifths = max(-7, min(7, bar.key.fifths))
            name = _KEYS[fifths + 7]
            if bar.key.mode.endswith("minor"):
                name = str(PitchClass.from_fifths(fifths + 3)) + "m"
            yield bar.start_beats, mido.MetaMessage("key_signature", key=name)
        before = bar


def _notes_of(event: Event, jig: Jig) -> Iterator[_Note]:
    """What begins at an event; a note that is held under others is one note."""
    for head in event.heads:
        if not head.held:
            length = head.length_beats or event.length_beats
            end = event.onset_beats + length
            if length == event.length_beats:
                end = _held_until(jig, event, head)
            yield _Note(event.onset_beats, end, head.pitch.midi)


def _held_until(jig: Jig, event: Event, head: Notehead) -> Fraction:
    end = event.end_beats
    i = _index(jig, event) + 1
    while i < len(jig.events) and jig.events[i].onset_beats == end:
        later = jig.events[i]
        same = next(
            (
                h
                for h in later.heads
                if h.held and h.pitch.midi == head.pitch.midi and h.voice == head.voice
            ),
            None,
        )
        if same is None:
            break
        if same.length_beats is not None:
            return later.onset_beats + same.length_beats
        end = later.end_beats
        i += 1
    return end


def _index(jig: Jig, event: Event) -> int:
    i = bisect_left(jig.events, event.onset_beats, key=lambda e: e.onset_beats)
    while jig.events[i] is not event:
        i += 1
    return i


def read_midi(
    data: bytes, *, jig_id: str, title: str, instrument_id: str | None = None,
    i_part: int | None = None, cue_part: int | None = None,
) -> Imported:  # fmt: skip
    """Read the track with most notes, or the one asked for.

    Parameters
    ----------
    data : bytes
    jig_id, title : str
    instrument_id : str, optional
        Otherwise as the track's name or sound has it, else guessed from its range.
    i_part : int, optional
    cue_part : int, optional
        Another track, kept as accompaniment.

    Raises
    ------
    ScoreError
        If it is not a MIDI file or holds no notes; ``no_part`` if there is no such other track.
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
    tracks = [_pressed(track) for track in file.tracks]
    if i_part is None:
        i_part = max(range(len(tracks)), key=lambda i: len(tracks[i]), default=0)
    if not tracks or not 0 <= i_part < len(tracks) or not tracks[i_part]:
        raise ScoreError("no_notes", "no track holds notes")
    if len(tracks[i_part]) > MAX_NOTES:
        raise ScoreError("too_large", f"{len(tracks[i_part])} notes")
    if cue_part is not None and not 0 <= cue_part < len(tracks):
        raise ScoreError("no_part", f"part {cue_part + 1} of {len(tracks)}")
    tempi, metres, keys = _meta(file, per_beat)
    losses: list[ImportLoss] = []
    notes = _in_beats(tracks[i_part], per_beat, losses)
    low, high = min(n.midi for n in notes), max(n.midi for n in notes)
    named = guess_instrument(file.tracks[i_part].name or "") or _sound_of(file.tracks[i_part])
    kind = instrument_id or named or guess_instrument("", (low, high)) or "violin"
    if low < instrument(kind).strings[0].midi:
        losses.append(ImportLoss(bar="", what="out_of_range"))
    changes = [Change(at_beats=at, key=k) for at, k in keys[1:]]
    changes += [Change(at_beats=at, metre=m) for at, m in metres[1:]]
    tempo = min(400.0, max(10.0, tempi[0][1]))
    jig = Jig(
        id="midi", title=title, instrument_id=kind, key=keys[0][1], tempo_bpm=tempo,
        beats_per_bar=metres[0][1][0], beat_unit=metres[0][1][1],
        events=tuple(_events(notes, keys, losses)),
        changes=tuple(sorted(changes, key=lambda c: c.at_beats)),
        signs=tuple(Sign(kind="tempo", at_beats=at, value=bpm) for at, bpm in tempi[1:]),
    )  # fmt: skip
    if cue_part is not None and cue_part != i_part:
        jig = with_cue(jig, _cue_notes(file.tracks[cue_part], per_beat))
    names = tuple((t.name or f"{i + 1}")[:80] for i, t in enumerate(file.tracks))
    return Imported(
        jig=renamed(jig, jig_id), losses=tuple(losses), parts=names, i_part=i_part,
        sure=bool(instrument_id or named),
    )  # fmt: skip


def _pressed(track: object, *, drums: bool = True) -> list[tuple[int, int, int]]:
    """Key number, start and stop in ticks.

    A key pressed again before it was let go is two notes that overlap, if it is let go as often;
    else the second press ends the first.
    """
    at = 0
    rows: dict[int, list[tuple[int, bool]]] = {}
    for message in track:  # type: ignore[attr-defined]
        at += message.time
        if message.type in ("note_on", "note_off") and (drums or message.channel != _DRUMS):
            down = message.type == "note_on" and message.velocity > 0
            rows.setdefault(message.note, []).append((at, down))
    notes = []
    for key, moves in rows.items():
        again_ends = 2 * sum(down for _, down in moves) > len(moves)
        waiting: list[int] = []
        for at, down in moves:
            if waiting and (not down or again_ends):
                start = waiting.pop(0)
                if at > start:
                    notes.append((key, start, at))
            if down:
                waiting.append(at)
    return sorted(notes, key=lambda n: (n[1], n[0]))


def _cue_notes(track: object, per_beat: int) -> list[CueNote]:
    """Another track as it sounds, each press as it was played; without drums."""
    return [
        CueNote(onset_beats=Fraction(start, per_beat), end_beats=Fraction(end, per_beat), midi=key)
        for key, start, end in _pressed(track, drums=False)
    ]


def _sound_of(track: object) -> InstrumentId | None:
    """The instrument that a track's sound names."""
    for message in track:  # type: ignore[attr-defined]
        if message.type == "program_change":
            return _PROGRAMS.get(message.program)
    return None


def _meta(
    file: object, per_beat: int
) -> tuple[
    list[tuple[Fraction, float]], list[tuple[Fraction, tuple[int, int]]], list[tuple[Fraction, Key]]
]:
    """Tempi in quarter notes a minute, metres and keys with the beats from which they hold."""
    import mido

    tempi: dict[Fraction, float] = {}
    metres: dict[Fraction, tuple[int, int]] = {}
    keys: dict[Fraction, Key] = {}
    for track in file.tracks:  # type: ignore[attr-defined]
        ticks = 0
        for message in track:
            ticks += message.time
            at = Fraction(ticks, per_beat)
            if message.type == "set_tempo" and message.tempo > 0:
                tempi.setdefault(at, round(float(mido.tempo2bpm(message.tempo)), 3))
            elif message.type == "time_signature":
                metre = (min(64, max(1, message.numerator)), message.denominator)
                metres.setdefault(at, metre if metre[1] in (1, 2, 4, 8, 16, 32) else (4, 4))
            elif message.type == "key_signature":
                minor = message.key.endswith("m")
                tonic = PitchClass.parse(message.key.removesuffix("m"))
                keys.setdefault(at, Key(tonic, "natural_minor" if minor else "major"))
    tempi.setdefault(Fraction(0), 80.0)
    metres.setdefault(Fraction(0), (4, 4))
    keys.setdefault(Fraction(0), Key(PitchClass("C")))
    return sorted(tempi.items()), sorted(metres.items()), sorted(
        keys.items(), key=lambda k: k[0]
    )  # fmt: skip


def _in_beats(
    notes: Sequence[tuple[int, int, int]], per_beat: int, losses: list[ImportLoss]
) -> list[_Note]:
    """Presses in exact beats as far as the file is exact, else rounded."""
    starts = [Fraction(n[1], per_beat) for n in notes]
    ends = [Fraction(n[2], per_beat) for n in notes]
    tick = Fraction(1, per_beat)
    begun = set(starts)
    steps = [b - a for a, b in pairwise([Fraction(0), *sorted(begun)])]
    written = (
        _share_on(steps, tick, _PLAIN_GRIDS) >= _EXACT_SHARE
        or _share_on(steps, tick, _FINE_GRIDS, drift=False) >= _EXACT_SHARE
    )
    held = [
        e
        for s, e in zip(starts, ends, strict=True)
        if e in begun or any(_on(t, tick, _PLAIN_GRIDS) is not None for t in (e, e - s))
    ]
    lengths_meant = written and len(held) >= _HELD_SHARE * len(ends)
    onsets = sorted(begun)
    found = []
    for (key, _, _), start, end in zip(notes, starts, ends, strict=True):
        onset = _near(start, tick) if written else _rounded(start)
        stop = _near(end, tick) if lengths_meant else _rounded(_until_next(start, end, onsets))
        shortest = tick if lengths_meant else Fraction(1, _PLAYED_GRIDS[0])
        found.append(_Note(onset, max(stop, onset + shortest), key))
    return found if lengths_meant else _without_overlaps(found, losses)


def _share_on(
    times: Sequence[Fraction], tick: Fraction, grids: Sequence[int], *, drift: bool = True
) -> float:
    return sum(_on(t, tick, grids, drift=drift) is not None for t in times) / max(1, len(times))


def _on(
    time: Fraction, tick: Fraction, grids: Sequence[int], *, drift: bool = True
) -> Fraction | None:
    """The point of the coarsest grid that a time lies on: to a tick, or to what ticks add up to."""
    for tolerance in (tick / 2, tick, _DRIFT) if drift else (tick / 2,):
        for n in grids:
            near = Fraction(round(time * n), n)
            if abs(near - time) <= tolerance:
                return near
    return None


def _near(time: Fraction, tick: Fraction) -> Fraction:
    near = _on(time, tick, _ALL_GRIDS)
    return time if near is None else near


def _rounded(beats: Fraction) -> Fraction:
    near = [Fraction(round(beats * grid), grid) for grid in _PLAYED_GRIDS]
    return min(near, key=lambda b: abs(b - beats))


def _until_next(start: Fraction, end: Fraction, onsets: Sequence[Fraction]) -> Fraction:
    """The end of a note, or the next beginning where it was let go a little early."""
    i = bisect_left(onsets, end)
    if i < len(onsets) and onsets[i] - end <= _LET_GO * (onsets[i] - start):
        return onsets[i]
    return end


def _without_overlaps(notes: list[_Note], losses: list[ImportLoss]) -> list[_Note]:
    """Played notes end where the next chord begins; beginnings close together are one chord."""
    result: list[_Note] = []
    i = 0
    while i < len(notes):
        onset = notes[i].onset
        chord = []
        while i < len(notes) and notes[i].onset - onset < _CHORD_BEATS:
            chord.append(notes[i])
            i += 1
        stop = max(n.end for n in chord)
        if i < len(notes) and stop > notes[i].onset:
            longer = stop - notes[i].onset > _LEGATO_BEATS
            if longer and ImportLoss(bar="", what="other_voice") not in losses:
                losses.append(ImportLoss(bar="", what="other_voice"))
            stop = notes[i].onset
        result += [replace(n, onset=onset, end=stop) for n in chord]
    return result


def _events(
    notes: Sequence[_Note], keys: Sequence[tuple[Fraction, Key]], losses: list[ImportLoss]
) -> Iterator[Event]:
    """Every beginning is an event with its own stroke; longer notes are held."""
    bow = False
    for i, piece in enumerate(slices(notes)):
        key = next(k for at, k in reversed(keys) if at <= piece.onset or at == keys[0][0])
        heads = [(n, False) for n in piece.new] + [(n, True) for n in piece.held]
        heads.sort(key=lambda h: h[0].midi)
        if len(heads) > 4 and ImportLoss(bar="", what="five_notes") not in losses:
            losses.append(ImportLoss(bar="", what="five_notes"))
        begins = not piece.held
        bow = bow != begins
        yield Event(
            id=f"e{i}", onset_beats=piece.onset, length_beats=piece.end - piece.onset,
            heads=tuple(
                Notehead(
                    id=f"n{i}.{k}", pitch=Pitch.from_midi(n.midi, fifths=key.fifths), held=held,
                    length_beats=n.end - piece.onset if n.end < piece.end else None,
                )
                for k, (n, held) in enumerate(heads[:4])
            ),
            bow=("down" if bow else "up") if begins else None, proposed_bow=begins,
        )  # fmt: skip
