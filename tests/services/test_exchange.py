"""Scores in and out: round trips, real files of other programs, hostile and broken ones."""

import importlib.util
import io
import zipfile
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jigwright.core.errors import ScoreError
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.makers import MAKERS, Setting
from jigwright.core.jig.model import ORNAMENTS, Change, Event, Jig, Notehead
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.services.exchange.midi import read_midi, write_midi
from jigwright.services.exchange.musicxml_in import read_musicxml
from jigwright.services.exchange.musicxml_out import write_musicxml
from jigwright.services.mei import jig_to_mei


def back(jig: Jig):
    return read_musicxml(
        write_musicxml(jig), jig_id="b", title="t", instrument_id=jig.instrument_id
    )


def plain(event: Event):
    """What a score keeps of an event."""
    heads = tuple((h.pitch, h.string, h.finger, h.partial, h.stopped) for h in event.heads)
    marks = (
        event.vibrato, event.pluck, event.dynamic, event.free, event.lifted, event.shape,
        event.glide, event.graces, event.ornament,
    )  # fmt: skip
    return event.onset_beats, event.length_beats, heads, event.bow, marks


@pytest.mark.parametrize("one", MAKERS, ids=lambda m: m.id)
@pytest.mark.parametrize("kind", ["violin", "bass"])
def test_every_exercise_comes_back_whole(one, kind) -> None:
    try:
        jig = one.make(Setting(instrument_id=kind, key=Key(PitchClass("G"))))
    except ValueError:
        return
    got = back(jig)
    assert not got.losses
    assert [plain(e) for e in got.jig.events] == [plain(e) for e in jig.events]
    assert got.jig.key.fifths == jig.key.fifths
    assert got.jig.tempo_bpm == jig.tempo_bpm


LENGTHS = st.sampled_from(
    [Fraction(1, 3), Fraction(2, 3), Fraction(1, 4), Fraction(1, 2), Fraction(3, 4), Fraction(1),
     Fraction(5, 4), Fraction(5, 2), Fraction(7), Fraction(1, 8)]
)  # fmt: skip
NAMES = ("G3", "A#3", "Bb3", "D4", "E#4", "Fb4", "G#4", "A4", "Cb5", "D5", "Fx5")
PITCHES = st.sampled_from([Pitch.parse(p) for p in NAMES])


@st.composite
def jigs(draw):
    events: list[Event] = []
    at = Fraction(0)
    for i in range(draw(st.integers(1, 14))):
        if i:
            at += draw(st.sampled_from([Fraction(0), Fraction(0), Fraction(1, 2)]))
        chord = sorted(draw(st.sets(PITCHES, min_size=1, max_size=2)), key=lambda p: p.midi)
        if len({p.midi for p in chord}) < len(chord):
            chord = chord[:1]
        gap = bool(events) and at > events[-1].end_beats
        pluck = draw(st.booleans()) and draw(st.booleans())
        after_pluck = bool(events) and events[-1].pluck
        goes_on = i > 0 and not gap and not pluck and not after_pluck and draw(st.booleans())
        bow = None if pluck or goes_on else draw(st.sampled_from(["down", "up"]))
        events.append(
            Event(
                id=f"e{i}", onset_beats=at, length_beats=draw(LENGTHS),
                heads=tuple(
                    Notehead(id=f"n{i}.{k}", pitch=p, finger=draw(st.sampled_from([None, 1, 3, 5])))
                    for k, p in enumerate(chord)
                ),
                bow=bow, pluck=pluck,
                dynamic=draw(st.sampled_from([None, None, "p", "ff"])),
                lifted=draw(st.booleans()), free=draw(st.booleans()),
                vibrato=draw(st.sampled_from([None, True, False])),
                shape=draw(st.sampled_from([None, "grow"])),
                graces=draw(st.sampled_from([(), (Pitch.parse("C5"),)])),
                ornament=draw(st.sampled_from([None, None, *ORNAMENTS])),
            )
        )  # fmt: skip
        at += events[-1].length_beats
    metre = draw(st.sampled_from([(4, 4), (3, 4), (6, 8)]))
    pickup = draw(st.sampled_from([Fraction(0), Fraction(1)]))
    bar = Fraction(metre[0] * 4, metre[1])
    change = Change(at_beats=pickup + bar, key=Key(PitchClass("E", -1)), metre=(5, 4))
    return Jig(
        id="j", title="Round & <trip>", instrument_id="violin",
        key=Key(PitchClass("F", 1), "natural_minor"), beats_per_bar=metre[0], beat_unit=metre[1],
        events=tuple(events), pickup_beats=pickup,
        changes=(change,) if at > pickup + bar and draw(st.booleans()) else (),
    )  # fmt: skip


@settings(max_examples=120)
@given(jigs())
def test_any_jig_comes_back_whole(jig) -> None:
    got = back(jig)
    assert [plain(e) for e in got.jig.events] == [plain(e) for e in jig.events]
    assert got.jig.title == jig.title
    assert got.jig.pickup_beats == jig.pickup_beats or jig.length_beats <= jig.pickup_beats
    assert [(c.at_beats, c.metre) for c in got.jig.changes] == [
        (c.at_beats, c.metre) for c in jig.changes
    ]
    assert not got.losses


@settings(max_examples=60)
@given(jigs())
def test_any_jig_can_be_written_as_notation(jig) -> None:
    from defusedxml import ElementTree as SafeET

    root = SafeET.fromstring(jig_to_mei(jig))
    ids = [e.get("{http://www.w3.org/XML/1998/namespace}id") for e in root.iter()]
    heads = [i for i in ids if i]
    assert len(heads) == len(set(heads)) == sum(len(e.heads) for e in jig.events)


@settings(max_examples=40)
@given(jigs())
def test_midi_keeps_pitch_and_time(jig) -> None:
    straight = replace(
        jig,
        events=tuple(
            replace(e, onset_beats=Fraction(i), length_beats=Fraction(1))
            for i, e in enumerate(jig.events)
        ),
    )
    got = read_midi(write_midi(straight), jig_id="m", title="t").jig
    assert [[h.pitch.midi for h in e.heads] for e in got.events] == [
        [h.pitch.midi for h in e.heads] for e in straight.events
    ]
    assert [e.onset_beats for e in got.events] == [e.onset_beats for e in straight.events]
    assert [e.length_beats for e in got.events] == [e.length_beats for e in straight.events]


def corpus(pattern: str) -> list[Path]:
    spec = importlib.util.find_spec("music21")
    if spec is None or not spec.submodule_search_locations:
        pytest.skip("the package with real scores is not installed")
    folder = Path(next(iter(spec.submodule_search_locations))) / "corpus"
    return sorted(folder.glob(pattern))


def test_quartets_of_other_programs_are_read_part_by_part() -> None:
    files = corpus("beethoven/**/*.mxl")[:2] + corpus("mozart/**/*.mxl")[:2]
    assert len(files) == 4
    for path in files:
        data = path.read_bytes()
        first = read_musicxml(data, jig_id="q", title="t")
        assert first.broken_at is None, path.name
        assert len(first.parts) >= 3
        assert len(first.jig.events) > 100
        for i in (0, len(first.parts) - 1):
            part = read_musicxml(data, jig_id="q", title="t", i_part=i)
            assert part.broken_at is None
            ends = [e.end_beats for e in part.jig.events]
            starts = [e.onset_beats for e in part.jig.events]
            assert all(b >= a for a, b in zip(ends, starts[1:], strict=False))


def test_many_odd_files_never_raise_anything_else() -> None:
    for path in corpus("*/*.xml")[:40:2] + corpus("*/*.mxl")[::8][:40:2]:
        try:
            got = read_musicxml(path.read_bytes(), jig_id="q", title="t")
        except ScoreError:
            continue
        assert got.jig.events


SCORE = (
    '<score-partwise><part-list><score-part id="P1"><part-name>Violin</part-name></score-part>'
    '</part-list><part id="P1"><measure number="1"><attributes><divisions>1</divisions>'
    '</attributes>{0}</measure><measure number="2">{1}</measure></part></score-partwise>'
)
NOTE = "<note><pitch><step>{}</step><octave>4</octave></pitch><duration>{}</duration></note>"


def test_a_broken_bar_is_named_and_what_stands_before_is_kept() -> None:
    text = SCORE.format(NOTE.format("D", 4), NOTE.format("H", 4))
    got = read_musicxml(text.encode(), jig_id="b", title="t")
    assert got.broken_at == "2"
    assert [str(e.heads[0].pitch) for e in got.jig.events] == ["D4"]


def test_other_voices_are_read_as_notes_that_sound_together() -> None:
    other = (
        "<backup><duration>4</duration></backup><note><pitch><step>A</step><octave>3</octave>"
        "</pitch><duration>4</duration><voice>2</voice></note>"
    )
    text = SCORE.format(NOTE.format("D", 4) + other, NOTE.format("E", 4))
    got = read_musicxml(text.encode(), jig_id="b", title="t")
    assert got.losses == ()
    assert [[str(h.pitch) for h in e.heads] for e in got.jig.events] == [["A3", "D4"], ["E4"]]


def archive(**files: bytes) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as made:
        for name, content in files.items():
            made.writestr(name.replace("__", "."), content)
    return buffer.getvalue()


BOMB = (
    b'<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]>'
    b"<score-partwise>&b;</score-partwise>"
)


@pytest.mark.parametrize(
    ("data", "reason"),
    [
        (b"", "damaged"), (b"PK\x03\x04 nonsense", "damaged"), (b"<score-partwise", "damaged"),
        (b"<html/>", "not_a_score"), (b"<score-timewise/>", "timewise"),
        (b"<score-partwise/>", "no_part"), (BOMB, "hostile"),
        (archive(readme__txt=b"x"), "not_a_score"),
        (archive(a__xml=b"<x>" + b" " * 30_000_000 + b"</x>"), "hostile"),
        (archive(**{f"f{i}__xml": b"x" for i in range(300)}), "hostile"),
        (SCORE.format("", "").encode(), "no_notes"),
    ],
)  # fmt: skip
def test_bad_scores_are_refused_with_a_reason(data, reason) -> None:
    with pytest.raises(ScoreError) as caught:
        read_musicxml(data, jig_id="b", title="t")
    assert caught.value.reason == reason


@given(st.binary(max_size=400))
def test_any_bytes_are_refused_as_midi_or_read(data) -> None:
    with pytest.raises(ScoreError):
        read_midi(b"MThd" + data, jig_id="m", title="t")


def test_artificial_harmonics_keep_the_stopped_and_the_sounding_note_apart() -> None:
    one = next(m for m in MAKERS if m.id == "artificial_harmonics")
    jig = one.make(Setting(instrument_id="violin", key=Key(PitchClass("A"))))
    head = jig.events[1].heads[0]
    assert head.stopped is not None
    assert head.pitch.midi - head.stopped.midi == 24
    assert 'head.shape="diamond"' in jig_to_mei(jig)
    xml = write_musicxml(jig).decode()
    assert xml.count("<touching-pitch") == len(jig.events) == xml.count("<base-pitch")
    assert back(jig).jig.events[1].heads[0].stopped == head.stopped


def test_a_chord_note_marked_as_a_harmonic_without_a_base_is_kept() -> None:
    one = next(m for m in MAKERS if m.id == "artificial_harmonics")
    jig = one.make(Setting(instrument_id="violin", key=Key(PitchClass("A"))))
    xml = write_musicxml(jig).replace(b"<base-pitch />", b"").replace(b"<base-pitch/>", b"")
    got = read_musicxml(xml, jig_id="b", title="t", instrument_id="violin")
    assert [len(e.heads) for e in got.jig.events] == [2] * len(jig.events)


@pytest.mark.parametrize(
    ("element", "ornament"),
    [("trill-mark", "trill"), ("shake", "trill"), ("inverted-mordent", "mordent"),
     ("inverted-turn", "turn"), ("delayed-turn", "turn"), ("tremolo", "tremolo")],
)  # fmt: skip
def test_ornaments_of_other_programs_are_read(element: str, ornament: str) -> None:
    jig = jig_from_line("D4 E4@trill F4", jig_id="j", instrument_id="violin", title="t")
    written = write_musicxml(jig)
    text = written.decode() if isinstance(written, bytes) else written
    assert text.count("<trill-mark") == 1
    other = text.replace("<trill-mark", f"<{element}")
    got = read_musicxml(
        other.encode() if isinstance(written, bytes) else other,
        jig_id="b", title="t", instrument_id="violin",
    )  # fmt: skip
    assert [e.ornament for e in got.jig.events] == [None, ornament, None]
    assert not any(e.free for e in got.jig.events)


@pytest.mark.parametrize(
    ("ornament", "written"),
    [("trill", "<trill "), ("mordent", "<mordent "), ("turn", "<turn "),
     ("tremolo", 'stem.mod="3slash"')],
)  # fmt: skip
def test_ornaments_are_engraved(ornament: str, written: str) -> None:
    jig = jig_from_line(f"D4 E4@{ornament} F4", jig_id="j", instrument_id="violin", title="t")
    mei = jig_to_mei(jig)
    assert mei.count(written) == 1
    plain_jig = jig_from_line("D4 E4 F4", jig_id="j", instrument_id="violin", title="t")
    assert written not in jig_to_mei(plain_jig)
