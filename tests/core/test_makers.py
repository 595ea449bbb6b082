"""Every maker, every instrument, every option: playable exercises with right spelling and order."""

import pytest

from jigwright.core.errors import JigError
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.fingering import propose_fingering
from jigwright.core.jig.makers import MAKERS, Setting, SettingChoice, maker
from jigwright.core.jig.makers.ring import can_ring
from jigwright.core.jig.model import note_list
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import MODES, Key
from jigwright.core.music.pitch import Pitch, PitchClass

KINDS = ("violin", "viola", "cello", "bass")


def make(maker_id, kind="violin", key="D", mode="major", **values):
    setting = Setting(instrument_id=kind, key=Key(PitchClass.parse(key), mode), values=values)
    return maker(maker_id).make(setting)


def options(one):
    """The default, and each field's other values one at a time."""
    yield {}
    for field in one.fields:
        values = field.options if isinstance(field, SettingChoice) else (field.low, field.high)
        for value in values:
            yield {field.id: value}


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("one", MAKERS, ids=lambda m: m.id)
def test_every_option_makes_an_exercise_in_range_or_says_why_not(one, kind) -> None:
    inst = instrument(kind)
    made = 0
    for values in options(one):
        setting = Setting(
            instrument_id=kind, key=Key(PitchClass("F" if kind == "bass" else "D")), values=values
        )
        try:
            jig = one.make(setting)
        except JigError:
            continue  # it says why: tested below
        made += 1
        assert jig_from_json(jig_to_json(jig)) == jig
        for event in jig.events:
            for head in event.heads:
                assert head.pitch.midi >= inst.strings[0].midi
                if head.finger == 0:
                    assert head.pitch == inst.strings[head.string]
            strings = [h.string for h in event.heads if h.string is not None]
            assert strings == sorted(set(strings))
    assert made or kind not in one.kinds


def steps(jig):
    sizes = [e.heads[-1].pitch.midi - e.heads[0].pitch.midi for e in jig.events]
    return ["M" if s in (4, 9) else "m" if s in (3, 8) else "?" for s in sizes]


def test_thirds_and_sixths_follow_the_scale() -> None:
    assert steps(make("double_scale", interval="thirds"))[:8] == list("MmmMMmmM")
    top = make("double_scale", interval="sixths", scale_in="upper", key="G")
    below = make("double_scale", interval="sixths", scale_in="lower", key="G")
    assert steps(top)[:8] == list("mMMmmMMm")
    assert steps(below)[:8] == list("MMmMMmmM")


def test_melodic_minor_thirds_differ_going_down() -> None:
    jig = make("double_scale", key="D", mode="melodic_minor", interval="thirds")
    up, down = steps(jig)[:8], steps(jig)[7:][::-1]
    assert up != down


def test_slurs_double_and_the_bow_time_stays() -> None:
    eight, sixteen = (make("many_notes", notes_in_bow=n, repeats=1) for n in ("8", "16"))
    assert eight.length_beats == sixteen.length_beats
    assert sum(e.bow is not None for e in eight.events) == 2
    assert sum(e.bow is not None for e in sixteen.events) == 2


def test_a_growing_slur_begins_again_each_time() -> None:
    jig = make("growing_slur", most_notes=4)
    starts = [i for i, e in enumerate(jig.events) if e.bow]
    assert [b - a for a, b in zip(starts, starts[1:], strict=False)] == [1, 2, 3]
    assert len({jig.events[i].heads[0].pitch for i in starts}) == 1


@pytest.mark.parametrize(
    ("notes", "fingers"),
    [
        ("D4 E4 D4 E4", [0, 1, 0, 1]),  # a lower neighbour turns round on its string
        ("D4 E4 F#4 E4 D4", [0, 1, 2, 1, 0]),  # as does the last note
        ("F#4 E4 D4 C4 B3", [2, 1, 4, 3, 2]), ("F#4 E4 D4 D4 C4 B3", [2, 1, 4, 4, 3, 2]),
    ],
)  # fmt: skip
def test_a_fourth_finger_is_for_the_way_down_only(notes: str, fingers: list[int]) -> None:
    jig = propose_fingering(note_list(notes, instrument_id="violin"))
    assert [e.heads[0].finger for e in jig.events] == fingers


def test_open_strings_go_up_and_fourth_fingers_come_down() -> None:
    jig = make("scale")
    on_a = [e.heads[0].finger for e in jig.events if str(e.heads[0].pitch) == "A4"]
    assert on_a == [0, 4]


@pytest.mark.parametrize("mode", MODES)
def test_scales_of_every_mode_have_each_letter_once_an_octave(mode) -> None:
    jig = make("scale", mode=mode, key="A")
    up = [e.heads[0].pitch.step for e in jig.events[:8]]
    assert up[0] == up[7]
    assert len(set(up)) == 7


def test_cello_and_bass_hands_have_their_own_fingers() -> None:
    cello = [e.heads[0].finger for e in make("scale", kind="cello", key="C").events[:4]]
    assert cello == [0, 1, 3, 4]
    bass = make("scale", kind="bass", key="F")
    assert all(e.heads[0].finger in (0, 1, 2, 4) for e in bass.events)


def test_given_fingers_are_kept() -> None:
    jig = note_list("A4 B4", instrument_id="violin")
    fourth = propose_fingering(jig).events[0].heads[0]
    assert (fourth.string, fourth.finger) == (2, 0)
    given = jig_from_json(
        jig_to_json(jig)
        .replace('"string": null, "finger": null', '"string": 1, "finger": null')
        .replace('"string": null', '"string": 1')
    )
    assert [e.heads[0].string for e in propose_fingering(given).events] == [1, 1]


def test_unknown_words_are_refused() -> None:
    with pytest.raises(JigError, match="interval"):
        make("double_scale", interval="elevenths")
    with pytest.raises(JigError, match="octaves"):
        make("scale", octaves=9)
    with pytest.raises(JigError, match="unknown exercise"):
        maker("juggling")


def ring_jig(maker_id, kind, **values):
    return make(maker_id, kind, key="G", **values)


@pytest.mark.parametrize("kind", ["violin", "viola", "cello", "bass"])
def test_a_ring_scale_listens_for_the_notes_that_can_ring(kind) -> None:
    jig = ring_jig("ring_scale", kind)
    asked = next(a for a in jig.aims if a.kind == "ring")
    names = {e.heads[0].pitch.pitch_class for e in jig.events if e.id in asked.places}
    strings = {s.pitch_class for s in instrument(kind).strings}
    assert asked.places
    assert jig.reference == "ring"
    assert names & strings  # octaves of open strings
    opened = [e for e in jig.events if e.heads[0].pitch in instrument(kind).strings]
    assert not {e.id for e in opened} & set(asked.places)


def test_an_echo_has_silence_to_listen_into() -> None:
    jig = ring_jig("ring_echo", "violin")
    gaps = [b.onset_beats - a.end_beats for a, b in zip(jig.events, jig.events[1:], strict=False)]
    assert set(gaps) == {3}
    assert all(e.length_beats == 1 for e in jig.events)
    assert len(jig.events) <= 12


def test_every_ringing_note_comes_three_times_with_its_neighbour() -> None:
    jig = ring_jig("ring_thrice", "violin")
    asked = next(a for a in jig.aims if a.kind == "ring").places
    first = [e.heads[0].pitch.midi for e in jig.events[:6]]
    assert first == [first[0], first[0] + 2] * 3
    assert {e.id for e in jig.events[0:6:2]} <= set(asked)


@pytest.mark.parametrize(
    ("name", "rings"),
    [("D5", True), ("G4", True), ("E4", True), ("C5", False), ("B4", False), ("D4", False),
     ("F#4", False), ("A5", True)],
)  # fmt: skip
def test_which_stopped_notes_wake_a_violin(name: str, rings: bool) -> None:
    assert can_ring(Pitch.parse(name), Setting(instrument_id="violin")) == rings
