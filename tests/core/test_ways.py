"""Ways of doing the same: laws of the exercises, figures side by side, words."""

from __future__ import annotations

import pickle
from dataclasses import replace

import pytest

from aim_builders import all_in, jig_of, level, note
from jigwright.core.errors import JigError, WaysError
from jigwright.core.gauge.values import Start, Tone
from jigwright.core.jig.fingering import propose_fingering
from jigwright.core.jig.model import Jig
from jigwright.core.jig.ways import (
    MOST_NOTES,
    MOST_NOTES_OF_SEVERAL,
    OF_A_JIG,
    SEVERAL,
    STROKES,
    WAYS,
    WAYS_KINDS,
    Ways,
    open_ways,
    ways_of_jig,
)
from jigwright.core.judge.ways_heard import ways_heard
from jigwright.core.music.instruments import INSTRUMENTS, instrument
from jigwright.wording.errors import error_sentence
from jigwright.wording.ways import (
    REASONS,
    choice_for,
    reason_question,
    way_lines,
    way_name,
    ways_choice,
    ways_question,
    ways_title,
    ways_to_do,
)

TUNE = "D4 F#4 A4 B4 C#5 D5"
OPEN = [k for k in WAYS_KINDS if k not in OF_A_JIG]


def ways(kind: str, line: str = TUNE, instrument_id: str = "violin") -> Ways:
    jig = jig_of(line, instrument_id=instrument_id)
    return ways_of_jig(
        kind,
        jig,
        instrument(instrument_id).strings,
        jig_id="w",
        title="w",  # type: ignore[arg-type]
    )


def on_the_g(kind: str) -> Ways:
    strings = instrument("violin").strings
    return open_ways(kind, "violin", strings, (0,), jig_id="w", title="w")  # type: ignore[arg-type]


def pitches(w: Ways, way: int) -> list[str]:
    a, b = w.spans[way]
    return [str(h.pitch) for e in w.jig.events[a:b] for h in e.heads]


def places(jig: Jig, span: tuple[int, int]) -> list[tuple[int | None, int | None]]:
    return [(h.string, h.finger) for e in jig.events[slice(*span)] for h in e.heads]


@pytest.mark.parametrize("instrument_id", INSTRUMENTS)
@pytest.mark.parametrize("which", [(0,), (2,), (0, 1, 2, 3)])
@pytest.mark.parametrize("kind", OPEN)
def test_open_ways_are_the_same_strokes_with_time_to_change_over(
    kind, which, instrument_id
) -> None:
    strings = instrument(instrument_id).strings
    made = open_ways(kind, instrument_id, strings, which, jig_id="w", title="w")
    beats = {"bows": [2, 4, 8]}.get(kind, [4] * len(made.spans))
    assert len(made.spans) == len(made.names) == len(WAYS[kind])
    for (a, b), length in zip(made.spans, beats, strict=True):
        of_way = made.jig.events[a:b]
        assert [e.bow for e in of_way] == ["down", "up"] * len(which)
        assert {e.length_beats for e in of_way} == {length}
        assert [h.pitch for e in of_way for h in e.heads] == [
            strings[s] for s in which for _ in range(STROKES)
        ]
    for (_, end), (start, _) in zip(made.spans, made.spans[1:], strict=False):
        before, after = made.jig.events[end - 1], made.jig.events[start]
        assert after.onset_beats - before.end_beats == 4
    assert [made.way_of(i) for i in range(len(made.jig.events))] == sorted(
        list(range(len(made.spans))) * STROKES * len(which)
    )


@pytest.mark.parametrize("kind", sorted(OF_A_JIG - SEVERAL))
def test_both_ways_have_the_same_notes_in_the_same_rhythm(kind) -> None:
    made = ways(kind, "D4:1/2 F#4:1/2 A4 B4:2 C#5 D5")
    (a0, b0), (a1, b1) = made.spans
    one, other = made.jig.events[a0:b0], made.jig.events[a1:b1]
    assert pitches(made, 0) == pitches(made, 1) == ["D4", "F#4", "A4", "B4", "C#5", "D5"]
    shift = other[0].onset_beats - one[0].onset_beats
    assert all(y.onset_beats - x.onset_beats == shift for x, y in zip(one, other, strict=True))
    assert shift % 4 == 0  # whole bars
    assert shift - max(e.end_beats for e in one) >= 4  # one to change over
    assert len({e.id for e in made.jig.events}) == len(made.jig.events)
    assert len({h.id for e in made.jig.events for h in e.heads}) == 12
    assert made.spans == ((0, 6), (6, 12))
    assert [made.way_of(i) for i in range(12)] == [0] * 6 + [1] * 6
    assert made.jig.pickup_beats == 0
    assert made.jig.aims == ()
    assert made.jig.derived_from == ("j", 1)


@pytest.mark.parametrize(
    ("beats", "unit", "n", "shift"), [(4, 4, 6, 12), (3, 4, 6, 9), (6, 8, 6, 9), (6, 8, 7, 12)]
)
def test_the_second_way_begins_after_an_empty_bar(beats, unit, n, shift) -> None:
    jig = jig_of(" ".join(["D4"] * n), beats_per_bar=beats, beat_unit=unit)
    made = ways_of_jig("bowing", jig, instrument("violin").strings, jig_id="w", title="w")
    assert made.jig.events[n].onset_beats == shift


def test_only_what_is_compared_differs() -> None:
    fingering, bowing, string = ways("fingering"), ways("bowing"), ways("string")
    for made in (fingering, bowing, string):
        strings = instrument("violin").strings
        usual = propose_fingering(jig_of(TUNE), strings)
        assert places(made.jig, made.spans[0]) == places(usual, (0, 6))
    assert places(fingering.jig, (0, 6)) != places(fingering.jig, (6, 12))
    assert places(bowing.jig, (0, 6)) == places(bowing.jig, (6, 12))
    below = places(string.jig, (6, 12))
    assert [s for s, _ in below] == [s - 1 for s, _ in places(string.jig, (0, 6))]
    assert all(finger is not None for _, finger in below)


@pytest.mark.parametrize(
    ("line", "bows"),
    [
        ("D4 F#4 A4 B4", ["down", None, "up", None]),
        ("D4 F#4 A4", ["down", None, "up"]),
        ("(D4 F#4) A4 B4", ["down", "up", "down", "up"]),
    ],
)
def test_what_was_apart_is_slurred_and_what_was_slurred_is_apart(line, bows) -> None:
    made = ways("bowing", line)
    otherwise = made.jig.events[made.spans[1][0] :]
    assert [e.bow for e in otherwise] == bows
    assert all(e.proposed_bow for e in otherwise)


@pytest.mark.parametrize(
    ("kind", "line", "why"),
    [
        ("string", "G3 A4", "lowest"), ("string", "A4 G7", "high"),
        ("bowing", " ".join(["D4"] * (MOST_NOTES + 1)), "length"),
        ("fingering", "G3 G3", "fingering"),
    ],
)  # fmt: skip
def test_what_cannot_be_compared_is_refused_with_its_reason(kind, line, why) -> None:
    with pytest.raises(WaysError) as caught:
        ways(kind, line)
    assert caught.value.why == why
    again = pickle.loads(pickle.dumps(caught.value))
    assert again.why == why
    assert error_sentence(again)[0].isupper()
    assert why != "length" or "32 notes at most" in error_sentence(again)


def test_the_longest_and_the_shortest_that_can_be_compared_are_compared() -> None:
    assert len(ways("bowing", "D4").jig.events) == 2
    assert len(ways("bowing", " ".join(["D4"] * MOST_NOTES)).jig.events) == 2 * MOST_NOTES


def test_a_kind_is_made_of_what_it_compares() -> None:
    strings = instrument("violin").strings
    with pytest.raises(JigError):
        open_ways("bowing", "violin", strings, (0,), jig_id="w", title="w")
    with pytest.raises(JigError):
        open_ways("lanes", "violin", strings, (), jig_id="w", title="w")
    with pytest.raises(JigError):
        ways_of_jig("lanes", jig_of(TUNE), strings, jig_id="w", title="w")


# what was heard ---------------------------------------------------------------------------


def tone(db: float, bright: float = 3.0, hnr: float = 20.0) -> Tone:
    return Tone(
        brightness_ratio=bright, hnr_db=hnr, scratch_ratio=0.0, loudness_db=db,
        brightness_hz=440.0 * bright, brightness_slope=0.0,
    )  # fmt: skip


def start(attack_s: float) -> Start:
    return Start(attack_s=attack_s, noise_before_s=0.01, accent_db=0.0)


def test_figures_are_medians_of_each_way_and_loudness_is_against_the_loudest() -> None:
    made = open_ways(
        "two_ways", "violin", instrument("violin").strings, (0,), jig_id="w", title="w"
    )
    rows = [
        note(made.jig, 0, finger=0, tone=tone(-20), level=level(range_db=1.0), start=start(0.1)),
        note(
            made.jig, 1, finger=0, tone=tone(-22, 4.0, 24.0), level=level(range_db=3.0),
            start=start(0.3),
        ),
        note(made.jig, 2, finger=0, tone=tone(-14)),
        note(made.jig, 3, finger=0, tone=tone(-14)),
    ]  # fmt: skip
    one, other = ways_heard(rows, made)
    assert (one.n, other.n, one.n_missed) == (2, 2, 0)
    assert one.loudness_db == pytest.approx(-7.0)
    assert other.loudness_db == 0.0
    assert (one.brightness_ratio, one.noise_db) == (3.5, 22.0)
    assert one.range_db == pytest.approx(2.0)
    assert one.attack_s == pytest.approx(0.2)
    assert other.attack_s is other.range_db is None
    still = way_lines(made, (replace(one, range_db=0.01), other))
    assert "moves by 0.1 dB" in still[0]  # no sound is as still as nothing
    assert one.off_cents is None  # open strings are nobody's fault here
    lines = way_lines(made, (one, other))
    assert lines[0] == (
        "One way: 7 dB softer, brightness 3.5 × the note, 22 dB above its noise, moves by 2.0 dB, "
        "speaks in 200 ms"
    )
    assert lines[1].startswith("The other way: the loudest, ")


def test_stopped_notes_tell_how_far_off_they_were_and_missed_ones_are_counted() -> None:
    made = ways("string", "A4 B4 C#5")
    rows = all_in(made.jig, {0: {"cents": -4.0}, 1: {"cents": 6.0}, 2: {"cents": 5.0},
                             3: {"cents": None}, 4: {"cents": None}})  # fmt: skip
    one, other = ways_heard(rows, made)
    assert (one.n, one.n_missed, one.off_cents) == (3, 0, 5.0)
    assert (other.n, other.n_missed) == (1, 2)
    lines = way_lines(made, (one, other))
    assert lines[0] == "On its own strings: 5 cents off"
    assert lines[1] == "Each on the string below: 2 notes not heard, 0 cents off"


@pytest.mark.parametrize(("cents", "said"), [(1.2, "1 cent off"), (1.6, "2 cents off")])
def test_one_cent_is_one(cents, said) -> None:
    made = ways("string", "B4")
    found = ways_heard(all_in(made.jig, {0: {"cents": cents}}), made)
    assert way_lines(made, found)[0].endswith(said)


def test_an_open_string_is_not_off() -> None:
    made = ways("string", "A4 B4")
    rows = all_in(made.jig, {0: {"cents": 20.0, "finger": 0}, 1: {"cents": 2.0}})
    assert ways_heard(rows, made)[0].off_cents == 2.0


def test_notes_that_belong_nowhere_and_ways_nobody_played_say_nothing() -> None:
    made = open_ways("lanes", "violin", instrument("violin").strings, (2,), jig_id="w", title="w")
    found = ways_heard((), made)
    assert [w.n for w in found] == [0, 0, 0]
    assert way_lines(made, found) == [
        "Near the fingerboard: not heard", "In the middle: not heard", "Near the bridge: not heard"
    ]  # fmt: skip
    silent = ways_heard([note(made.jig, 0)], made)
    assert way_lines(made, silent)[0] == "Near the fingerboard: cannot tell"


def strokes(made: Ways, *levels: float) -> list:
    """One note for each level, from the first event on."""
    return [note(made.jig, i, tone=tone(db)) for i, db in enumerate(levels)]


def of_loudness(made: Ways, *levels: float) -> list[str]:
    lines = way_lines(made, ways_heard(strokes(made, *levels), made))
    return [line.split(": ")[1].split(",")[0] for line in lines]


@pytest.mark.parametrize(
    ("levels", "said"),
    [
        ((-20.4, -20.4, -20, -20), ["as loud as any", "as loud as any"]),
        ((-20.6, -20.6, -20, -20), ["1 dB softer", "the loudest"]),
        # two strokes that scatter by 1 dB tell 3 dB, by 4 dB they do not
        ((-23.5, -22.5, -20, -20), ["3 dB softer", "the loudest"]),
        ((-25, -21, -20, -20), ["as loud as any", "as loud as any"]),
        # the scatter both ways share says nothing of them
        ((-33, -23, -30, -20), ["3 dB softer", "the loudest"]),
    ],
)
def test_louder_is_what_is_louder_than_strokes_scatter(levels, said) -> None:
    assert of_loudness(on_the_g("two_ways"), *levels) == said


@pytest.mark.parametrize(
    ("levels", "said"),
    [
        ((-26, -26, -20, -20, -23, -23), ["6 dB softer", "the loudest", "3 dB softer"]),
        ((-26, -26, -20, -20, -20.3, -20.3), ["6 dB softer", "as loud as any", "as loud as any"]),
    ],
)
def test_of_three_lanes_one_is_the_loudest_or_two_are_alike(levels, said) -> None:
    assert of_loudness(on_the_g("lanes"), *levels) == said


def test_one_stroke_does_not_tell_which_is_louder() -> None:
    made = on_the_g("two_ways")
    found = ways_heard([note(made.jig, 0, tone=tone(-30)), note(made.jig, 2, tone=tone(-20))], made)
    assert [w.is_softer for w in found] == [None, False]
    assert not any("loud" in line or "softer" in line for line in way_lines(made, found))


def test_strokes_that_have_no_like_are_not_compared() -> None:
    made = on_the_g("two_ways")
    found = ways_heard([note(made.jig, 0, tone=tone(-30)), note(made.jig, 3, tone=tone(-20))], made)
    assert (found[0].loudness_db, found[0].is_softer) == (None, None)


def test_open_strings_alone_are_not_said_to_be_off() -> None:
    made = ways("bowing", "A4 A4")
    found = ways_heard(all_in(made.jig, {i: {"finger": 0} for i in range(4)}), made)
    assert way_lines(made, found) == ["Bowed as it is: cannot tell", "Bowed otherwise: cannot tell"]


def test_a_faster_bow_is_not_called_louder() -> None:
    made = on_the_g("bows")
    found = ways_heard(strokes(made, -10, -10, -20, -20), made)
    assert way_lines(made, found)[:2] == [
        "Half bows: brightness 3.0 × the note, 20 dB above its noise",
        "Whole bows: brightness 3.0 × the note, 20 dB above its noise",
    ]


@pytest.mark.parametrize("kind", WAYS_KINDS)
def test_every_comparison_has_its_own_words(kind) -> None:
    assert ways_to_do(kind).endswith(".")
    names = [way_name(kind, name) for name in WAYS[kind]]
    assert len(set(names)) == len(names)
    assert "{" not in ways_to_do(kind)
    assert len({ways_title(k) for k in WAYS_KINDS}) == len(WAYS_KINDS)
    assert ways_choice(kind, WAYS[kind][1]) == names[1]
    assert ways_choice(kind, None) == "no difference"


@pytest.mark.parametrize(
    ("n", "word"), [(2, "no difference"), (3, "the middle one"), (4, "takes this one")]
)
def test_what_is_asked_goes_by_how_many_there_are(n: int, word: str) -> None:
    made = ways("bowings", "D4 F#4 A4 B4 C#5 D5 E5 D5")
    fewer = replace(made, names=made.names[:n], spans=made.spans[:n])
    assert word in ways_question(fewer, 0)[1]


def test_of_many_the_one_that_can_be_taken_is_named() -> None:
    made = ways("bowings", "D4 F#4 A4 B4 C#5 D5 E5 D5")
    assert [ways_question(made, k)[0] for k in range(5)] == [
        "Bowed as it is", "Slurred in twos", "Slurred in fours",
        "One alone, then slurred in twos", "No difference",
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("line", "names"),
    [
        ("D4 F#4 A4 B4 C#5 D5", ("as_it_is", "twos", "fours", "across")),
        ("(D4 F#4) (A4 B4) (C#5 D5)", ("as_it_is", "apart", "fours", "across")),
        ("(D4 F#4) A4 (B4 C#5) D5", ("as_it_is", "apart", "twos", "fours", "across")),
        ("D4 (F#4 A4) (B4 C#5) D5", ("as_it_is", "apart", "twos", "fours")),
    ],
)
def test_several_bowings_are_those_that_differ(line: str, names: tuple[str, ...]) -> None:
    made = ways("bowings", line)
    assert made.names == names
    assert made.spans == tuple((6 * k, 6 * k + 6) for k in range(len(names)))
    bows = [tuple(e.bow is not None for e in made.jig.events[a:b]) for a, b in made.spans]
    assert len(set(bows)) == len(bows)
    assert all(pitches(made, k) == pitches(made, 0) for k in range(len(names)))


def test_slurs_are_as_long_as_they_are_called() -> None:
    made = ways("bowings", "D4 F#4 A4 B4 C#5 D5 E5 D5")
    bows = {
        name: [e.bow for e in made.jig.events[a:b]]
        for name, (a, b) in zip(made.names, made.spans, strict=True)
    }
    assert bows["twos"] == ["down", None, "up", None, "down", None, "up", None]
    assert bows["fours"] == ["down", None, None, None, "up", None, None, None]
    assert bows["across"] == ["down", "up", None, "down", None, "up", None, "down"]


def test_each_of_several_begins_after_an_empty_bar() -> None:
    made = ways("bowings", "D4 F#4 A4 B4 C#5 D5")
    begins = [made.jig.events[a].onset_beats for a, _ in made.spans]
    assert begins == [0, 12, 24, 36]


def test_several_fingerings_differ_from_each_other() -> None:
    made = ways("fingerings", "E4 A4 B4 E5 D5 C#5 B4 A4")
    assert 3 <= len(made.names) <= 4
    of_each = [tuple(places(made.jig, span)) for span in made.spans]
    assert len(set(of_each)) == len(of_each)
    assert made.names == WAYS["fingerings"][: len(made.names)]


@pytest.mark.parametrize(
    ("kind", "line", "why"),
    [
        ("bowings", " ".join(["D4"] * (MOST_NOTES_OF_SEVERAL + 1)), "length_of_several"),
        ("bowings", "D4", "fewer"), ("fingerings", "G3 G3", "fewer"),
    ],
)  # fmt: skip
def test_where_there_are_not_several_it_is_said(kind: str, line: str, why: str) -> None:
    with pytest.raises(WaysError) as caught:
        ways(kind, line)
    assert caught.value.why == why
    assert error_sentence(caught.value).endswith(".")
    assert why != "length_of_several" or "16 notes at most" in error_sentence(caught.value)
    assert ways("bowings", " ".join(["D4"] * MOST_NOTES_OF_SEVERAL)).names


def test_a_choice_is_said_with_its_reason() -> None:
    assert choice_for("near the bridge", "sound") == "near the bridge, since it sounds better"
    assert choice_for("near the bridge", "hand") == "near the bridge, since it lies better"
    assert choice_for("near the bridge", "sure") == "near the bridge, since it is surer"
    assert choice_for("near the bridge", "") == "near the bridge"
    assert choice_for("near the bridge", "{x}") == "near the bridge"
    assert len(REASONS) == 3
    assert all(mark in reason_question()[1] for mark in "←↓→")
