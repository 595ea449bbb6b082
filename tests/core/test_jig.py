from __future__ import annotations

import json
from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.errors import FaultError, JigError, PitchNameError
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.fingering import propose_fingering
from jigwright.core.jig.model import change_pitch, note_list
from jigwright.core.jig.scales import make_scale
from jigwright.core.music.instruments import INSTRUMENTS, instrument
from jigwright.core.music.keys import MODES, Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.player.faults import BackOne, Detune, VibratoFault, parse_faults
from jigwright.services.mei import jig_to_mei
from signals import scale


@given(
    st.sampled_from(sorted(INSTRUMENTS)), st.sampled_from("CDEFGAB"), st.sampled_from(MODES),
    st.integers(1, 2), st.integers(1, 8),
)  # fmt: skip
def test_scales_survive_json_and_can_be_fingered(
    kind: str, tonic: str, mode: str, octaves: int, slur: int
) -> None:
    jig = make_scale(
        jig_id="x", instrument_id=kind, key=Key(PitchClass(tonic), mode),  # type: ignore[arg-type]
        octaves=octaves, slur=slur,
    )  # fmt: skip
    assert jig_from_json(jig_to_json(jig)) == jig
    assert len(jig.events) == 14 * octaves + 1
    strings = instrument(kind).strings
    for event in jig.events:
        head = event.heads[0]
        assert head.string is not None
        assert strings[head.string].midi <= head.pitch.midi
        assert (head.finger == 0) == (strings[head.string].midi == head.pitch.midi)
    assert sum(e.bow is not None for e in jig.events) == -(-len(jig.events) // slur)
    assert jig_to_mei(jig).count("<note ") == len(jig.events)


def test_bass_never_uses_the_third_finger_low_down() -> None:
    notes = note_list(
        " ".join(str(Pitch.from_midi(m)) for m in range(28, 48)), instrument_id="bass"
    )
    strings = instrument("bass").strings
    heads = [e.heads[0] for e in propose_fingering(notes).events]
    low = [h for h in heads if h.pitch.midi - strings[h.string].midi <= 7]
    assert len(low) >= 15
    assert {h.finger for h in low} <= {0, 1, 2, 4}


def test_identity_survives_edits() -> None:
    jig = scale()
    new = change_pitch(jig, jig.events[2].heads[0].id, Pitch.parse("F4"), new_id="other")
    assert new.revision == jig.revision + 1
    assert new.events[2].heads[0].replaces == jig.events[2].heads[0].id
    assert [e.id for e in new.events] == [e.id for e in jig.events]
    with pytest.raises(JigError, match="no notehead"):
        change_pitch(jig, "nobody", Pitch.parse("F4"), new_id="x")


@pytest.mark.parametrize(
    "spoil",
    [
        lambda b: b.update(schema="other"),
        lambda b: b.update(events=[{"id": 1}]),
        lambda b: b["events"][0].update(length_beats="1/0"),
        lambda b: b["events"][0].update(bow="sideways"),
        lambda b: b["events"][0]["notes"][0].update(pitch="H9"),
        lambda b: b["events"][0]["notes"][0].update(string=99),
        lambda b: b["events"][1].update(id=b["events"][0]["id"]),
        lambda b: b.update(metre=[0, 3]),
        lambda b: b.update(tempo_bpm="fast"),
        lambda b: b.update(tempo_bpm=0),
    ],
)
def test_malformed_jigs_are_refused(spoil: object) -> None:
    body = json.loads(jig_to_json(scale()))
    spoil(body)  # type: ignore[operator]
    with pytest.raises(JigError):
        jig_from_json(json.dumps(body))


@pytest.mark.parametrize("text", ["", "[1", "null", "[" * 100_000])
def test_what_is_no_jig_is_refused(text: str) -> None:
    with pytest.raises(JigError):
        jig_from_json(text)


def test_note_list() -> None:
    jig = note_list("D4 F#4 G3+B3", instrument_id="violin")
    assert [len(e.heads) for e in jig.events] == [1, 1, 2]
    assert str(jig.events[2].heads[1].pitch) == "B3"
    with pytest.raises(JigError):
        note_list("  ", instrument_id="violin")
    with pytest.raises(PitchNameError):
        note_list("D4 X", instrument_id="violin")


def test_scale_that_does_not_fit_is_refused() -> None:
    with pytest.raises(JigError, match="range"):
        make_scale(jig_id="x", instrument_id="bass", key=Key(PitchClass("C")), octaves=4)
    with pytest.raises(JigError, match="title"):
        replace(scale(), title=" ")


def test_faults_read_from_words_and_json() -> None:
    words = parse_faults("detune notes=2,5 cents=-14; vibrato finger=2 extent_cents=30; back_one")
    assert words[0] == Detune(notes=(2, 5), cents=-14.0)
    assert words[1] == VibratoFault(finger=2, extent_cents=30.0)
    assert isinstance(words[2], BackOne)
    assert parse_faults('[{"fault": "detune", "notes": [2, 5], "cents": -14}]') == words[:1]
    for bad in ("sneeze", "detune cents", "detune colour=3", "detune cents=x", "[1]", "[{"):
        with pytest.raises(FaultError):
            parse_faults(bad)


def test_exact_fractions() -> None:
    jig = make_scale(
        jig_id="x", instrument_id="violin", key=Key(PitchClass("D")), note_beats=Fraction(1, 3)
    )
    assert jig.length_beats == 5
