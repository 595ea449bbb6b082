"""MIDI in and out: what a program wrote is exact, what somebody played is rounded."""

from __future__ import annotations

import io
from dataclasses import replace
from fractions import Fraction

import mido
import pytest

from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Change, Event, Jig, Notehead
from jigwright.core.jig.signs import Sign
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.services.exchange.midi import read_midi, write_midi

F = Fraction


def file_of(
    *notes: tuple[int, int, int], ticks: int = 480, name: str = "", program: int | None = None,
    metas: tuple[tuple[int, mido.MetaMessage], ...] = (),
) -> bytes:  # fmt: skip
    """Notes as number, first and last tick."""
    track = mido.MidiTrack()
    if name:
        track.append(mido.MetaMessage("track_name", name=name))
    if program is not None:
        track.append(mido.Message("program_change", program=program))
    rows = [(at, 0, message) for at, message in metas]
    for note, on, off in notes:
        rows.append((on, 2, mido.Message("note_on", note=note, velocity=64)))
        rows.append((off, 1, mido.Message("note_off", note=note)))
    now = 0
    for at, _, message in sorted(rows, key=lambda r: r[:2]):
        track.append(message.copy(time=at - now))
        now = at
    file = mido.MidiFile(type=0, ticks_per_beat=ticks)
    file.tracks.append(track)
    buffer = io.BytesIO()
    file.save(file=buffer)
    return buffer.getvalue()


def read(data: bytes, **more: object) -> Jig:
    return read_midi(data, jig_id="m", title="t", **more).jig  # type: ignore[arg-type]


def times(jig: Jig) -> list[tuple[Fraction, Fraction]]:
    return [(e.onset_beats, e.length_beats) for e in jig.events]


def jig_of(*rows: tuple[object, object], **more: object) -> Jig:
    events = tuple(
        Event(
            id=f"e{i}", onset_beats=F(a), length_beats=F(n),  # type: ignore[arg-type]
            heads=(Notehead(id=f"n{i}", pitch=Pitch("A", 0, 4)),), bow="down",
        )
        for i, (a, n) in enumerate(rows)
    )  # fmt: skip
    return Jig(
        id="j", title="t", instrument_id="violin", key=Key(PitchClass("C")), events=events, **more  # type: ignore[arg-type]
    )  # fmt: skip


@pytest.mark.parametrize(
    "rows",
    [
        [(0, F(3, 4)), (1, F(3, 4)), (2, 1)],  # rests of a sixteenth
        [(F(k, 16), F(1, 16)) for k in range(16)],  # sixty-fourths
        [(F(k, 3), F(1, 3)) for k in range(6)],
        [(F(k, 5), F(1, 5)) for k in range(5)],
        [(F(2 * k, 7), F(2, 7)) for k in range(7)],
        [(F(k, 32), F(1, 32)) for k in range(8)],
        [(0, F(1, 2)), (F(1, 2), F(1, 6)), (F(2, 3), F(1, 6)), (F(5, 6), F(1, 6))],
        [(0, F(1, 8)), (4, F(1, 8))],
    ],
)
def test_lengths_and_rests_come_back_to_the_tick(rows) -> None:
    jig = jig_of(*rows)
    assert times(read(write_midi(jig))) == times(jig)


def test_held_notes_come_back_held_with_their_own_ends() -> None:
    low = Notehead(id="g", pitch=Pitch("G", 0, 3))
    held = replace(low, id="g2", held=True, length_beats=F(1))
    jig = jig_of((0, 2), (2, 2))
    first, second = jig.events
    jig = replace(
        jig,
        events=(
            replace(first, heads=(low, *first.heads)),
            replace(second, heads=(held, *second.heads), bow=None),
        ),
    )
    got = read(write_midi(jig))
    assert times(got) == times(jig)
    assert [[(str(h.pitch), h.held, h.length_beats) for h in e.heads] for e in got.events] == [
        [("G3", False, None), ("A4", False, None)], [("G3", True, F(1)), ("A4", False, None)]
    ]  # fmt: skip


def test_tempi_keys_and_metres_come_back_where_they_stood() -> None:
    flat = Key(PitchClass("E", -1))
    jig = jig_of(
        (0, 4), (4, 3), (7, 3), tempo_bpm=90.0,
        signs=(Sign(kind="tempo", at_beats=F(0), value=90.0),
               Sign(kind="tempo", at_beats=F(7), value=120.0)),
        changes=(Change(at_beats=F(4), key=flat, metre=(3, 4)),),
    )  # fmt: skip
    got = read(write_midi(jig))
    assert got.tempo_bpm == 90.0
    assert [(s.at_beats, s.value) for s in got.signs] == [(7, 120.0)]
    assert [(b.metre, b.key.fifths) for b in got.bars()] == [
        ((4, 4), 0), ((3, 4), -3), ((3, 4), -3)
    ]  # fmt: skip


@pytest.mark.parametrize(
    "key", [Key(PitchClass("C", -1)), Key(PitchClass("C", 1)), Key(PitchClass("F", 1)),
            Key(PitchClass("A", 0), "natural_minor"), Key(PitchClass("A", -1), "natural_minor")],
)  # fmt: skip
def test_every_key_signature_comes_back(key) -> None:
    got = read(write_midi(replace(jig_of((0, 1)), key=key)))
    assert got.key.fifths == key.fifths
    assert got.key.mode == key.mode


def test_loudness_is_heard_in_the_velocities() -> None:
    jig = jig_of((0, 1), (1, 1), (2, 1))
    loud = [replace(e, dynamic=d) for e, d in zip(jig.events, ("ppp", None, "fff"), strict=True)]
    file = mido.MidiFile(file=io.BytesIO(write_midi(replace(jig, events=tuple(loud)))))
    velocities = [m.velocity for m in file.tracks[0] if m.type == "note_on"]
    assert velocities[0] == velocities[1] < velocities[2] <= 127


def test_notes_let_go_a_little_early_reach_to_the_next_if_all_are() -> None:
    gated = file_of(*[(60 + k, 480 * k, 480 * k + 431) for k in range(8)])
    assert times(read(gated))[:7] == [(k, 1) for k in range(7)]


def test_a_rest_of_a_quarter_of_the_time_and_more_stays_even_then() -> None:
    rows = [(60 + k, 480 * k, 480 * k + 431) for k in range(12)]
    rows[3] = (63, 3 * 480, 3 * 480 + 247)
    assert times(read(file_of(*rows)))[3] == (3, F(1, 2))


def test_played_notes_are_rounded_and_their_overlaps_cut_and_said() -> None:
    played = file_of(
        (60, 11, 520), (62, 489, 983), (64, 951, 1437), (65, 1453, 1930), (67, 1899, 2400)
    )
    got = read_midi(played, jig_id="m", title="t")
    assert times(got.jig)[:4] == [(0, 1), (1, 1), (2, 1), (3, 1)]
    assert [x.what for x in got.losses] == []
    over = file_of((60, 11, 760), (62, 489, 983), (64, 951, 1437), (65, 1453, 1930))
    assert [x.what for x in read_midi(over, jig_id="m", title="t").losses] == ["other_voice"]


def test_a_chord_played_not_quite_together_is_one() -> None:
    played = file_of((60, 3, 480), (64, 9, 470), (67, 17, 477), (62, 491, 960), (65, 1013, 1400))
    assert [len(e.heads) for e in read(played).events] == [3, 1, 1]


def test_a_key_pressed_again_before_it_is_let_go() -> None:
    both = file_of((60, 0, 960), (60, 480, 1440))
    assert [[h.held for h in e.heads] for e in read(both).events] == [[False], [False, True]]
    track = mido.MidiTrack([
        mido.Message("note_on", note=60, velocity=9, time=0),
        mido.Message("note_on", note=60, velocity=9, time=480),
        mido.Message("note_off", note=60, time=480),
    ])  # fmt: skip
    file = mido.MidiFile(type=0, ticks_per_beat=480)
    file.tracks.append(track)
    buffer = io.BytesIO()
    file.save(file=buffer)
    assert times(read(buffer.getvalue())) == [(0, 1), (1, 1)]


@pytest.mark.parametrize(
    ("name", "program", "notes", "kind", "sure"),
    [
        ("Viola", None, (67, 69), "viola", True), ("", 42, (67, 69), "cello", True),
        ("", None, (67, 69), "violin", False), ("", None, (50, 69), "viola", False),
        ("Violin", 42, (67, 69), "violin", True), ("", 70, (40, 50), "cello", False),
    ],
)  # fmt: skip
def test_whose_track_it_is(name, program, notes, kind, sure) -> None:
    data = file_of(*[(n, 480 * k, 480 * k + 480) for k, n in enumerate(notes)], name=name,
                   program=program)  # fmt: skip
    got = read_midi(data, jig_id="m", title="t")
    assert (got.jig.instrument_id, got.sure) == (kind, sure)
    asked = read_midi(data, jig_id="m", title="t", instrument_id="bass")
    assert (asked.jig.instrument_id, asked.sure) == ("bass", True)


def test_strokes_of_a_midi_file_are_proposals() -> None:
    got = read(
        write_midi(jig_from_line("D4 E4 F#4", jig_id="j", instrument_id="violin", title="t"))
    )
    assert [e.bow for e in got.events] == ["down", "up", "down"]
    assert all(e.proposed_bow for e in got.events)


def test_five_keys_at_once_are_four_and_said() -> None:
    got = read_midi(file_of(*[(60 + 3 * k, 0, 480) for k in range(5)]), jig_id="m", title="t")
    assert len(got.jig.events[0].heads) == 4
    assert "five_notes" in [x.what for x in got.losses]
