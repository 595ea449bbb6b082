"""Everything a score holds comes in, and comes out where it stood; what cannot is named."""

from __future__ import annotations

from fractions import Fraction
from xml.etree import ElementTree as ET

import pytest

from jigwright.core.jig.imported import MARK_LOSSES, Imported, ImportLoss
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import MARKS, ORNAMENTS, Jig
from jigwright.services.exchange.musicxml_in import read_musicxml
from jigwright.services.exchange.musicxml_out import write_musicxml
from jigwright.services.exchange.score_directions import Directions
from jigwright.services.exchange.score_events import ReadSigns
from jigwright.services.exchange.score_file import parsed, unpacked
from jigwright.services.exchange.score_marks import (
    DRIFT_BEATS,
    MARK_OF,
    ORNAMENT_OF,
    kept_text,
    marks_of,
    printed_length,
    printed_unit,
    tempo_of,
)
from jigwright.wording.scores import import_summary, loss_sentence

HEAD = (
    '<?xml version="1.0"?><score-partwise version="4.0"><part-list><score-part id="P1">'
    '<part-name>Viola</part-name></score-part></part-list><part id="P1">'
)


def note(
    step: str = "D", *, notations: str = "", more: str = "", duration: int = 1, voice: int = 1,
    tie: str = "", octave: int = 4, after: str = "",
) -> str:  # fmt: skip
    inside = f"<notations>{notations}</notations>" if notations else ""
    ties = "".join(f'<tie type="{t}"/>' for t in tie.split())
    length = "" if "grace" in more else f"<duration>{duration}</duration>"
    return (
        f"<note>{more}<pitch><step>{step}</step><octave>{octave}</octave></pitch>{length}"
        f"{ties}<voice>{voice}</voice>{inside}{after}</note>"
    )


def rest(duration: int = 1, *, notations: str = "") -> str:
    inside = f"<notations>{notations}</notations>" if notations else ""
    return f"<note><rest/><duration>{duration}</duration><voice>1</voice>{inside}</note>"


def back(duration: int) -> str:
    return f"<backup><duration>{duration}</duration></backup>"


def direction(inside: str, *, placement: str = "", more: str = "") -> str:
    where = f' placement="{placement}"' if placement else ""
    return f"<direction{where}><direction-type>{inside}</direction-type>{more}</direction>"


FULL = note() * 4
ARTICULATIONS = "<articulations><{}/></articulations>"


def read(*bars: str, numbers: tuple[str, ...] = ()) -> Imported:
    first = "<attributes><divisions>1</divisions></attributes>"
    text = HEAD + "".join(
        f'<measure number="{numbers[i] if numbers else i + 1}">{first if i == 0 else ""}{bar}'
        "</measure>"
        for i, bar in enumerate(bars)
    )
    return read_musicxml(
        (text + "</part></score-partwise>").encode(), jig_id="j", title="t", instrument_id="violin"
    )


def again(jig: Jig) -> Jig:
    """The jig that its own export is read as."""
    got = read_musicxml(write_musicxml(jig), jig_id="j", title="t", instrument_id=jig.instrument_id)
    assert got.losses == ()
    return got.jig


def kept(*bars: str) -> Jig:
    """What is read of bars that lose nothing, on the way in, out and in again."""
    got = read(*bars)
    assert got.losses == ()
    assert again(got.jig) == got.jig
    return got.jig


def written(jig: Jig) -> ET.Element:
    return ET.fromstring(write_musicxml(jig))


# at the notes --------------------------------------------------------------------------------


@pytest.mark.parametrize(("name", "mark"), sorted(MARK_OF.items()))
def test_every_articulation_is_kept_and_comes_out_at_its_note(name: str, mark: str) -> None:
    jig = kept(FULL, note() + note(notations=ARTICULATIONS.format(name)) + note() * 2)
    assert [e.marks for e in jig.events if e.marks] == [(mark,)]
    assert jig.events[5].marks == (mark,)
    found = written(jig).findall(f"part/measure[2]/note[2]/notations/articulations/{name}")
    assert len(found) == 1


def test_short_notes_are_lifted_and_broad_ones_are_not() -> None:
    for name, lifted in (
        ("staccato", True), ("staccatissimo", True), ("spiccato", True), ("tenuto", False),
        ("detached-legato", True), ("accent", False),
    ):  # fmt: skip
        jig = kept(note(notations=ARTICULATIONS.format(name)) + note() * 3)
        assert [e.lifted for e in jig.events] == [lifted, False, False, False], name
    both = kept(note(notations="<articulations><staccato/><accent/></articulations>") * 4)
    assert both.events[0].lifted
    assert both.events[0].marks == ("accent",)


@pytest.mark.parametrize(
    ("notations", "marks"),
    [
        ("<fermata/>", ("fermata",)),
        ("<arpeggiate/>", ("rolled",)),
        ("<technical><snap-pizzicato/></technical>", ("snap",)),
        ("<ornaments><inverted-mordent/></ornaments>", ("inverted",)),
        ("<ornaments><delayed-inverted-turn/></ornaments>", ("inverted", "delayed")),
        ('<ornaments><tremolo type="single">1</tremolo></ornaments>', ("slash1",)),
        ('<ornaments><tremolo type="single">3</tremolo></ornaments>', ()),
    ],
)
def test_other_marks_of_a_note(notations: str, marks: tuple[str, ...]) -> None:
    jig = kept(note() * 2 + note(notations=notations) + note())
    assert [e.marks for e in jig.events] == [(), (), marks, ()]


def test_every_ornament_is_read_as_one_a_jig_knows() -> None:
    assert set(ORNAMENT_OF.values()) == set(ORNAMENTS)
    for name, ornament in ORNAMENT_OF.items():
        jig = kept(note(notations=f"<ornaments><{name}/></ornaments>") + note() * 3)
        assert jig.events[0].ornament == ornament
        assert jig.events[0].graces == ()


@pytest.mark.parametrize(
    "notations",
    [
        "<articulations><scoop/></articulations>",
        "<ornaments><schleifer/></ornaments>",
        "<ornaments><trill-mark/><wavy-line type='start' number='1'/></ornaments>",
        "<ornaments><trill-mark/><accidental-mark>flat</accidental-mark></ornaments>",
        "<ornaments><trill-mark/><turn/></ornaments>",
        "<technical><open-string/></technical>",
        "<technical><hole><hole-closed>yes</hole-closed></hole></technical>",
        "<technical><fingering>1</fingering><fingering>3</fingering></technical>",
        "<technical><harmonic><natural/></harmonic></technical>",
        "<technical><up-bow/><down-bow/></technical>",
        "<ornaments><tremolo type='start'>2</tremolo></ornaments>",
        "<non-arpeggiate type='bottom'/>",
    ],
)
def test_what_nobody_reads_comes_out_as_it_was(notations: str) -> None:
    jig = kept(FULL, note() * 3 + note(notations=notations))
    out = written(jig).find("part/measure[2]/note[4]/notations")
    assert out is not None
    wanted = ET.fromstring(f"<notations>{notations}</notations>")
    names = sorted((e.tag, (e.text or "").strip(), *e.attrib.items()) for e in wanted.iter())
    assert sorted((e.tag, (e.text or "").strip(), *e.attrib.items()) for e in out.iter()) == names


def test_words_that_are_sung_stay_under_their_notes() -> None:
    text = "<lyric number='1'><syllabic>single</syllabic><text>la</text></lyric>"
    jig = kept(note() + note(after=text) + note() * 2)
    assert written(jig).findtext("part/measure/note[2]/lyric/text") == "la"


def test_a_mark_too_long_to_keep_is_named() -> None:
    long = "<articulations><scoop>" + "x" * 5000 + "</scoop></articulations>"
    assert [(x.bar, x.what) for x in read(FULL, note(notations=long) * 4).losses] == [
        ("2", "other_mark")
    ]


def test_layout_is_not_kept_but_everything_else_of_a_text_is() -> None:
    mark = ET.fromstring('<bracket type="start" default-x="3" color="#123456" number="2"/>')
    assert kept_text(mark, "direction-type") == (
        '<direction-type><bracket type="start" number="2" /></direction-type>'
    )


def test_marks_of_the_table_are_all_marks_of_a_jig() -> None:
    assert set(MARK_OF.values()) < set(MARKS)


def test_holds_on_tied_notes_stand_on_the_last_of_them() -> None:
    tied = note(duration=4, tie="start")
    jig = kept(tied, note(duration=4, tie="stop", notations="<fermata/>"))
    assert len(jig.events) == 1
    assert jig.events[0].marks == ("fermata",)
    bars = written(jig).findall("part/measure")
    assert bars[0].find("note/notations/fermata") is None
    assert bars[1].find("note/notations/fermata") is not None


def test_holds_on_rests_and_bar_lines_stay_there() -> None:
    jig = kept(note() * 2 + rest(1) + rest(1, notations="<fermata/>"),
               FULL + '<barline location="right"><fermata/></barline>')  # fmt: skip
    holds = [(s.at_beats, s.text) for s in jig.signs if s.kind == "fermata"]
    assert holds == [(3, "rest"), (8, "barline")]
    out = written(jig)
    notes = out.findall("part/measure[1]/note")
    assert [n.find("notations/fermata") is not None for n in notes] == [False, False, False, True]
    assert out.find("part/measure[2]/barline[@location='right']/fermata") is not None


def test_grace_notes_keep_their_stroke_their_slur_and_their_order() -> None:
    long = note("E", more="<grace/>") + note("F", more="<grace/>")
    short = note("G", more='<grace slash="yes"/>', notations='<slur type="start" number="1"/>')
    jig = kept(long + note(), note() + short + note(notations='<slur type="stop" number="1"/>'))
    assert [str(p) for p in jig.events[0].graces] == ["E4", "F4"]
    assert jig.events[0].marks == ("long_graces",)
    assert jig.events[2].marks == ()
    slurs = [(s.at_beats, s.end_beats, s.text) for s in jig.signs if s.kind == "slur"]
    assert slurs == [(2, 2, "graces")]
    assert jig.events[2].bow is not None  # the slur is no bow over two notes


def test_a_slur_from_graces_to_a_tied_note_ends_at_the_first_of_its_notes() -> None:
    short = note("G", more='<grace slash="yes"/>', notations='<slur type="start" number="1"/>')
    tied = note(duration=4, tie="start", notations='<slur type="stop" number="1"/>')
    jig = kept(short + tied, note(tie="stop") + note() * 3)
    assert [(s.at_beats, s.end_beats) for s in jig.signs if s.kind == "slur"] == [(0, 0)]


def test_a_slur_over_one_tied_note_leads_nowhere_and_from_graces_it_ends_at_its_last() -> None:
    tied = note(duration=4, tie="start", notations=slur("start"))
    got = read(tied, note(tie="stop", notations=slur("stop")) + note() * 3)
    assert [(x.bar, x.what) for x in got.losses] == [("1", "slur")]
    short = note("G", more='<grace slash="yes"/>', notations=slur("start"))
    end = note("F", tie="start", notations=slur("stop"))
    jig = kept(short + note() * 3 + end, note("F", tie="stop") + note() * 3)
    assert [(s.at_beats, s.end_beats) for s in jig.signs if s.kind == "slur"] == [(0, 3)]


def test_a_slur_ends_at_its_note_though_another_voice_begins_under_the_tied_rest_of_it() -> None:
    first = note("B", duration=2, notations=slur("start"))
    first += note("E", duration=2, tie="start", octave=5)
    end = note("E", duration=2, tie="stop", octave=5, notations=slur("stop")) + note(duration=2)
    jig = kept(first, end + back(4) + note("A", duration=4, voice=2))
    assert [e.bow is None for e in jig.events[:2]] == [False, True]
    assert drawn(jig) == [("0", "start"), ("2", "stop")]


def test_a_clef_inside_a_rest_stays_there() -> None:
    bass = "<attributes><clef><sign>F</sign><line>4</line></clef></attributes>"
    jig = kept(note() + rest(2) + bass + rest(1), FULL)
    assert [(s.at_beats, s.text) for s in jig.signs if s.kind == "clef"] == [(3, "F4")]


def test_graces_before_no_note_and_marks_of_graces_are_named() -> None:
    assert [x.what for x in read(FULL + note(more="<grace/>")).losses] == ["graces"]
    marked = note(more="<grace/>", notations=ARTICULATIONS.format("accent"))
    assert [x.what for x in read(marked + FULL).losses] == ["grace_marks"]


# bows, fingers ---------------------------------------------------------------------------------


def test_written_bows_are_written_and_others_are_proposals_that_stay_out() -> None:
    up = note(notations="<technical><up-bow/></technical>")
    jig = kept(note() + up + note() * 2)
    assert [e.bow for e in jig.events] == ["down", "up", "down", "up"]
    assert [e.proposed_bow for e in jig.events] == [True, False, True, True]
    out = write_musicxml(jig).decode()
    assert out.count("<up-bow") == 1
    assert out.count("<down-bow") == 0
    asked = write_musicxml(jig, proposed=True).decode()
    assert (asked.count("<up-bow"), asked.count("<down-bow")) == (2, 2)


@pytest.mark.parametrize(("upbeat", "first"), [(1, "up"), (2, "down"), (3, "up")])
def test_an_upbeat_goes_so_that_the_first_full_bar_begins_down(upbeat: int, first: str) -> None:
    jig = read(note() * upbeat, FULL, numbers=("0", "1")).jig
    assert jig.events[0].bow == first
    assert jig.events[upbeat].bow == "down"


def test_a_bow_written_in_the_upbeat_is_believed() -> None:
    down = note(notations="<technical><down-bow/></technical>")
    jig = read(down, FULL, numbers=("0", "1")).jig
    assert [e.bow for e in jig.events[:2]] == ["down", "up"]


def test_fingers_and_strings_are_kept() -> None:
    jig = kept(note("A", notations="<technical><string>3</string><fingering>4</fingering>"
                                   "</technical>") + note() * 3)  # fmt: skip
    assert (jig.events[0].heads[0].string, jig.events[0].heads[0].finger) == (1, 4)


# slurs and ties --------------------------------------------------------------------------------


def slur(kind: str, number: int = 1) -> str:
    return f'<slur type="{kind}" number="{number}"/>'


def slurs_of(jig: Jig) -> list[tuple[Fraction, Fraction | None]]:
    return [(s.at_beats, s.end_beats) for s in jig.signs if s.kind == "slur"]


def drawn(jig: Jig) -> list[tuple[str, str]]:
    """Begin and stop of slurs in the export, note by note."""
    return [
        (f"{i}", s.get("type", ""))
        for i, n in enumerate(written(jig).iterfind("part/measure/note"))
        for s in n.iterfind("notations/slur")
    ]


def test_a_plain_slur_is_one_bow_and_needs_no_sign() -> None:
    jig = kept(note(notations=slur("start")) + note() + note(notations=slur("stop")) + note())
    assert [e.bow for e in jig.events] == ["down", None, None, "up"]
    assert slurs_of(jig) == []
    assert drawn(jig) == [("0", "start"), ("2", "stop")]


def test_a_phrase_slur_over_two_bows_is_kept_beside_them() -> None:
    jig = kept(
        note(notations=slur("start", 1) + slur("start", 2)) + note(notations=slur("stop", 2))
        + note(notations=slur("start", 2)) + note(notations=slur("stop", 2) + slur("stop", 1))
    )  # fmt: skip
    assert sorted(slurs_of(jig)) == [(0, 1), (0, 3), (2, 3)]
    assert sorted(drawn(jig)) == sorted(
        [
            ("0", "start"),
            ("0", "start"),
            ("1", "stop"),
            ("2", "start"),
            ("3", "stop"),
            ("3", "stop"),
        ]
    )


def test_slurs_that_meet_on_a_note_stay_two() -> None:
    jig = kept(note(notations=slur("start")) + note(notations=slur("stop") + slur("start"))
               + note(notations=slur("stop")) + note())  # fmt: skip
    assert slurs_of(jig) == [(0, 1), (1, 2)]
    assert len(drawn(jig)) == 4
    assert [e.bow is None for e in jig.events] == [False, True, True, False]


def test_a_rest_and_a_written_bow_under_a_slur_begin_a_new_stroke() -> None:
    jig = kept(note(notations=slur("start")) + rest() + note(notations=slur("stop")) + note())
    assert [e.bow is None for e in jig.events] == [False, False, False]
    assert slurs_of(jig) == [(0, 2)]


@pytest.mark.parametrize("kind", ["start", "stop"])
def test_slurs_that_lead_nowhere_are_named(kind: str) -> None:
    got = read(FULL, note() * 2 + note(notations=slur(kind)) + note())
    assert [(x.bar, x.what) for x in got.losses] == [("2", "slur")]


def test_a_note_tied_under_a_moving_voice_is_held_not_a_chord() -> None:
    low = note("G", duration=4, voice=2, octave=3)
    jig = kept(note("B", duration=2) + note("C", duration=2, octave=5) + back(4) + low)
    assert [[str(h.pitch) for h in e.heads] for e in jig.events] == [["G3", "B4"], ["G3", "C5"]]
    assert [[h.held for h in e.heads] for e in jig.events] == [[False, False], [True, False]]
    assert jig.events[1].bow is None
    out = [(n.findtext("voice"), n.findtext("duration"), len(n.findall("tie")))
           for n in written(jig).iterfind("part/measure/note")]  # fmt: skip
    whole = 4 * int(written(jig).findtext("part/measure/attributes/divisions") or 0)
    assert out == [("1", str(whole // 2), 0), ("1", str(whole // 2), 0), ("2", str(whole), 0)]


def test_a_chord_of_which_one_note_is_tied_on() -> None:
    chord = note("G", duration=2, octave=3) + note("B", duration=2, more="<chord/>", tie="start")
    after = note("B", duration=2, tie="stop") + note("D", duration=2, more="<chord/>", octave=5)
    jig = kept(chord + after)
    assert [[(str(h.pitch), h.held) for h in e.heads] for e in jig.events] == [
        [("G3", False), ("B4", False)], [("B4", True), ("D5", False)]
    ]  # fmt: skip


def test_slurs_and_holds_end_at_a_note_that_is_held_on_under_the_next() -> None:
    first = note("C", notations=slur("start")) + note("D")
    end = note("E", tie="start", notations=slur("stop") + "<fermata/>")
    after = note("E", tie="stop") + note("G", more="<chord/>")
    jig = kept(first + end + after)
    assert [h.held for h in jig.events[3].heads] == [True, False]
    assert jig.events[2].marks == ("fermata",)
    assert drawn(jig) == [("0", "start"), ("2", "stop")]


def test_a_chord_of_which_one_note_ends_early() -> None:
    chord = note("G", duration=2, octave=3) + note("B", duration=2, more="<chord/>", tie="start")
    jig = kept(chord + note("B", duration=2, tie="stop"))
    assert len(jig.events) == 1
    assert [(str(h.pitch), h.length_beats) for h in jig.events[0].heads] == [
        ("G3", 2),
        ("B4", None),
    ]
    assert jig.events[0].length_beats == 4


def test_a_tie_told_by_its_first_note_alone_leads_to_the_same_pitch_only() -> None:
    joined = read(note(tie="start") + note() + note("E") * 2)
    assert [e.length_beats for e in joined.jig.events] == [2, 1, 1]
    assert joined.losses == ()
    other = read(note(tie="start") + note("E") + note() * 2)
    assert [e.length_beats for e in other.jig.events] == [1, 1, 1, 1]
    assert [x.what for x in other.losses] == ["tie"]


def test_five_voices_are_four_and_the_fifth_is_named() -> None:
    bar = back(4).join(note(duration=4, voice=v) for v in range(1, 6))
    got = read(bar)
    assert [(x.bar, x.what) for x in got.losses] == [("1", "other_voice")]
    assert {h.voice for e in got.jig.events for h in e.heads} == {1, 2, 3, 4}


# beside the notes ------------------------------------------------------------------------------


def test_hairpins_over_bar_lines_keep_both_ends_and_their_side() -> None:
    opened = direction('<wedge type="crescendo" number="1"/>', placement="above")
    closed = direction('<wedge type="stop" number="1"/>')
    jig = kept(note() * 2 + opened + note() * 2, note() * 3 + closed + note())
    found = [(s.at_beats, s.end_beats, s.text, s.above) for s in jig.signs if s.kind == "hairpin"]
    assert found == [(2, 7, "crescendo", True)]


def test_overlapping_hairpins_do_not_close_each_other() -> None:
    jig = kept(
        direction('<wedge type="crescendo" number="1"/>') + note() * 2
        + direction('<wedge type="diminuendo" number="2"/>') + note()
        + direction('<wedge type="stop" number="1"/>') + note()
        + direction('<wedge type="stop" number="2"/>')
    )  # fmt: skip
    found = [(s.at_beats, s.end_beats, s.text) for s in jig.signs if s.kind == "hairpin"]
    assert found == [(0, 3, "crescendo"), (2, 4, "diminuendo")]


def test_a_hairpin_nobody_closed_ends_where_the_next_begins_or_the_part_ends() -> None:
    opened = direction('<wedge type="crescendo"/>')
    signs = read(opened + note() * 3 + opened + note()).jig.signs
    assert [(s.at_beats, s.end_beats) for s in signs if s.kind == "hairpin"] == [(0, 3), (3, 4)]


def test_a_direction_with_an_offset_stands_inside_its_note() -> None:
    late = direction("<dynamics><p/></dynamics>", more="<offset>1</offset>")
    jig = kept(late + note(duration=2) + note(duration=2))
    assert [(s.at_beats, s.text) for s in jig.signs if s.kind == "dynamic"] == [(1, "p")]
    assert [e.dynamic for e in jig.events] == [None, None]


@pytest.mark.parametrize("level", ["ppp", "p", "mf", "fff"])
def test_loudness_at_a_note_is_the_notes_own(level: str) -> None:
    jig = kept(note() + direction(f"<dynamics><{level}/></dynamics>") + note() * 3)
    assert [e.dynamic for e in jig.events] == [None, level, None, None]
    assert not [s for s in jig.signs if s.kind == "dynamic"]


@pytest.mark.parametrize("level", ["sf", "sfz", "fp", "rfz", "pppp"])
def test_accents_of_loudness_stay_signs(level: str) -> None:
    jig = kept(note() + direction(f"<dynamics><{level}/></dynamics>") + note() * 3)
    assert [(s.at_beats, s.text) for s in jig.signs if s.kind == "dynamic"] == [(1, level)]
    assert jig.events[1].dynamic is None


def test_words_rehearsal_letters_and_jumps_stand_where_they_stood() -> None:
    jig = kept(
        direction("<words>dolce</words>", placement="below") + FULL,
        direction("<rehearsal>B</rehearsal>") + direction("<segno/>") + FULL,
        note() * 3
        + direction("<words>D.S. al Fine</words>", more='<sound dalsegno="x"/>')
        + note(),
    )
    rows = [(s.kind, s.at_beats, s.text, s.above) for s in jig.signs if s.kind != "tempo"]
    assert rows == [
        ("words", 0, "dolce", False), ("rehearsal", 4, "B", None), ("jump", 4, "segno", None),
        ("words", 11, "D.S. al Fine", None), ("jump", 11, "dalsegno", None),
    ]  # fmt: skip


def test_plucking_is_read_from_words_and_its_plain_words_are_made_again() -> None:
    plain = kept(note() + direction("<words>pizz.</words>") + note() * 2
                 + direction("<words>arco</words>") + note())  # fmt: skip
    assert [e.pluck for e in plain.events] == [False, True, True, False]
    assert [e.bow is None for e in plain.events] == [False, True, True, False]
    assert not [s for s in plain.signs if s.kind == "words"]
    assert write_musicxml(plain).decode().count("<words") == 2
    more = kept(note() + direction("<words>pizz. sempre</words>") + note() * 3)
    assert [s.text for s in more.signs if s.kind == "words"] == ["pizz. sempre"]
    assert write_musicxml(more).decode().count("<words") == 1


def test_octave_lines_and_unread_directions_come_out_again() -> None:
    jig = kept(
        direction('<octave-shift type="down" size="8"/>') + FULL
        + direction('<octave-shift type="stop" size="8"/>'),
        direction('<pedal type="start"/>') + FULL, direction('<dashes type="start"/>') + FULL,
    )  # fmt: skip
    assert [(s.at_beats, s.end_beats, s.text) for s in jig.signs if s.kind == "octave_line"] == [
        (0, 4, "down 8")
    ]
    out = write_musicxml(jig).decode()
    assert "<pedal" in out
    assert "<dashes" in out


# tempo, bars -----------------------------------------------------------------------------------


def metronome(unit: str, per: str, *, dot: bool = False) -> str:
    dots = "<beat-unit-dot/>" if dot else ""
    return (
        f"<metronome><beat-unit>{unit}</beat-unit>{dots}<per-minute>{per}</per-minute></metronome>"
    )


def test_every_tempo_is_kept_in_its_own_note_values() -> None:
    jig = kept(direction(metronome("quarter", "60", dot=True)) + FULL,
               FULL, direction(metronome("half", "40")) + FULL)  # fmt: skip
    assert jig.tempo_bpm == 90.0
    rows = [(s.at_beats, s.text, s.value) for s in jig.signs if s.kind == "tempo"]
    assert rows == [(0, "3/2", 90.0), (8, "2", 80.0)]


def test_a_changed_first_tempo_is_what_is_written() -> None:
    from dataclasses import replace

    jig = kept(direction(metronome("half", "40")) + FULL)
    out = written(replace(jig, tempo_bpm=120.0))
    assert out.findtext("part/measure/direction/direction-type/metronome/per-minute") == "60"


def test_a_score_without_tempo_prints_none_and_a_jig_of_ones_own_does() -> None:
    jig = kept(FULL)
    assert b"<metronome" not in write_musicxml(jig)
    own = jig_from_line("D4 E4", jig_id="j", instrument_id="violin", title="t")
    assert b"<metronome" in write_musicxml(own)


@pytest.mark.parametrize(
    ("xml", "wanted"),
    [
        (metronome("eighth", "100"), ("1/2", 50.0)),
        (metronome("quarter", "c. 72"), ("1", 72.0)),
        (metronome("quarter", "fast"), None),
        ("<metronome><beat-unit>quarter</beat-unit><beat-unit>half</beat-unit></metronome>", None),
    ],
)
def test_tempi_that_say_something_else_are_only_kept(xml: str, wanted: object) -> None:
    assert tempo_of(ET.fromstring(xml)) == wanted


def test_note_values_of_tempi_are_told_back() -> None:
    assert printed_unit(Fraction(3, 2)) == ("quarter", 1)
    assert printed_unit(Fraction(1, 2)) == ("eighth", 0)
    assert printed_unit(Fraction(7, 2)) == ("half", 2)


def barline(inside: str, where: str = "right") -> str:
    return f'<barline location="{where}">{inside}</barline>'


def test_repeats_endings_and_double_bars_come_out_again() -> None:
    jig = kept(
        barline('<repeat direction="forward"/>', "left") + FULL,
        barline('<ending number="1" type="start"/>', "left") + FULL
        + barline('<ending number="1" type="stop"/><repeat direction="backward" times="3"/>'),
        barline('<ending number="2" type="start"/>', "left") + FULL
        + barline('<ending number="2" type="discontinue"/>'),
        FULL + barline("<bar-style>light-light</bar-style>"), FULL,
    )  # fmt: skip
    rows = [(s.kind, s.at_beats, s.end_beats, s.text, s.value) for s in jig.signs
            if s.kind in ("repeat", "ending", "barline")]  # fmt: skip
    assert rows == [
        ("repeat", 0, None, "forward", None), ("ending", 4, 8, "1", 1.0),
        ("repeat", 8, None, "backward", 3.0), ("ending", 8, 12, "2", None),
        ("barline", 16, None, "light-light", None),
    ]  # fmt: skip


def test_a_bar_split_at_a_repeat_stays_split_and_numbers_stay() -> None:
    got = read(FULL, note() * 3, note(), FULL, numbers=("7", "8", "X1", "9"))
    bars = got.jig.bars()
    assert [(b.number, b.length_beats) for b in bars] == [(7, 4), (8, 3), (8, 1), (9, 4)]
    assert got.losses == ()
    assert again(got.jig).bars() == bars


def test_a_repeat_at_the_end_of_a_bar_that_is_short_here_stands_at_its_end() -> None:
    first = "<attributes><divisions>1</divisions></attributes>"
    bar = note() * 2 + barline('<repeat direction="backward"/>')
    mine = f'<measure number="1">{first}{FULL}</measure><measure number="2">{bar}</measure></part>'
    other = f'<part id="P2"><measure number="1">{first}{FULL}</measure><measure number="2">'
    text = HEAD + mine + other + f"{FULL}</measure></part></score-partwise>"
    jig = read_musicxml(text.encode(), jig_id="j", title="t", instrument_id="violin").jig
    assert [s.at_beats for s in jig.signs if s.kind == "repeat"] == [8]
    assert again(jig) == jig


def test_slurs_of_one_voice_do_not_end_on_a_long_note_of_another() -> None:
    low = note("G", duration=4, octave=3, voice=2)
    jig = kept(
        note(notations=slur("start")) + note(notations=slur("stop"))
        + note(notations=slur("start")) + note(notations=slur("stop")) + back(4) + low
    )  # fmt: skip
    rows = [(n.findtext("voice"), [s.get("type") for s in n.iterfind("notations/slur")])
            for n in written(jig).iterfind("part/measure/note")]  # fmt: skip
    assert rows == [("1", ["start"]), ("1", ["stop"]), ("1", ["start"]), ("1", ["stop"]), ("2", [])]


def test_bars_of_rest_at_the_end_are_not_forgotten() -> None:
    jig = kept(FULL, rest(4), rest(4))
    assert jig.silence_beats == 8
    assert [b.number for b in jig.bars()] == [1, 2, 3]


def test_clefs_come_out_where_they_stood() -> None:
    tenor = "<attributes><clef><sign>C</sign><line>4</line></clef></attributes>"
    jig = kept(note() * 2 + tenor + note() * 2, FULL)
    assert [(s.at_beats, s.text) for s in jig.signs if s.kind == "clef"] == [(2, "C4")]


def test_rounded_durations_are_read_as_they_are_printed() -> None:
    def third(duration: int, *, actual: int = 3) -> ET.Element:
        return ET.fromstring(
            f"<note><duration>{duration}</duration><type>eighth</type><time-modification>"
            f"<actual-notes>{actual}</actual-notes><normal-notes>2</normal-notes>"
            "</time-modification></note>"
        )

    assert printed_length(third(33), Fraction(33, 100)) == Fraction(1, 3)
    far = Fraction(1, 3) + DRIFT_BEATS + Fraction(1, 1000)
    assert printed_length(third(36), far) == far
    assert printed_length(third(33, actual=0), Fraction(33, 100)) == Fraction(33, 100)
    assert printed_length(ET.fromstring("<note/>"), Fraction(7, 9)) == Fraction(7, 9)


# named, worded ---------------------------------------------------------------------------------


def test_cues_odd_keys_and_marks_of_rests_are_named() -> None:
    dot = rest(notations="<articulations><staccato/></articulations>")
    assert [(x.bar, x.what) for x in read(FULL, note() * 3 + dot).losses] == [("2", "other_mark")]
    assert [x.what for x in read(note(more="<cue/>") + note() * 3).losses] == ["cue"]
    odd = "<attributes><key><key-step>C</key-step><key-alter>1</key-alter></key></attributes>"
    assert [x.what for x in read(odd + FULL).losses] == ["odd_key"]


def test_the_summary_names_every_kind_and_its_first_bars() -> None:
    jig = jig_from_line("D4 E4", jig_id="j", instrument_id="violin", title="t")
    lost = tuple(ImportLoss(bar=str(b), what="slur") for b in (1, 3, 5, 7, 9, 11))
    got = Imported(jig=jig, losses=(*lost, ImportLoss(bar="2", what="cue")), parts=("V",), i_part=0)
    text = import_summary(got)
    assert "6 bars: slurs that lead nowhere (1, 3, 5, 7 …)" in text
    assert "1 bar: cue notes (2)" in text
    assert "more" not in text
    assert "guess" not in text
    guessed = Imported(jig=jig, losses=(), parts=("V",), i_part=0, sure=False)
    assert "guess from its range" in import_summary(guessed)


@pytest.mark.parametrize("what", MARK_LOSSES)
def test_every_kind_has_its_words(what: str) -> None:
    jig = jig_from_line("D4 E4", jig_id="j", instrument_id="violin", title="t")
    one = Imported(jig=jig, losses=(ImportLoss(bar="4", what=what),), parts=("V",), i_part=0)
    text = import_summary(one)
    assert "(4)" in text
    assert "_" not in text


def test_a_fifth_voice_has_its_sentence() -> None:
    assert loss_sentence(ImportLoss(bar="4", what="other_voice")) == (
        "Bar 4: a fifth voice was left out."
    )


def test_the_reader_of_directions_stands_alone() -> None:
    beside, lost = ReadSigns(), []
    reader = Directions(beside, lost.append)
    reader.direction(ET.fromstring(direction('<wedge type="diminuendo"/>')), Fraction(1))
    reader.finish(Fraction(6))
    assert [(s.at_beats, s.end_beats) for s in beside.signs] == [(1, 6)]
    assert lost == []


def test_marks_of_a_plain_note_are_none() -> None:
    found = marks_of(parsed(unpacked(note().encode())))
    assert (found.marks, found.kept, found.fields, found.bow) == (set(), [], {}, None)


def test_a_bar_that_is_short_here_only_is_as_long_as_in_the_other_parts() -> None:
    def two_parts(second: str) -> Jig:
        first = "<attributes><divisions>1</divisions></attributes>"
        mine = f'<measure number="1">{first}{FULL}</measure><measure number="2">{note()}</measure>'
        mine += f'<measure number="3">{FULL}</measure></part>'
        other = f'<part id="P2"><measure number="1">{first}{FULL}</measure><measure number="2">'
        other += f'{second}</measure><measure number="3">{FULL}</measure></part></score-partwise>'
        text = (HEAD + mine + other).encode()
        return read_musicxml(text, jig_id="j", title="t", instrument_id="violin").jig

    assert [b.length_beats for b in two_parts(FULL).bars()] == [4, 4, 4]
    assert [b.length_beats for b in two_parts(note() * 2).bars()] == [4, 2, 4]
    assert [b.length_beats for b in two_parts("<note><duration>x</duration></note>").bars()] == [
        4, 1, 4
    ]  # fmt: skip
