"""What a score holds and a jig does not is named with its bar; nothing goes silently."""

from __future__ import annotations

import pytest

from jigwright.core.jig.imported import MARK_LOSSES, Imported, ImportLoss
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import ORNAMENTS
from jigwright.services.exchange.musicxml_in import read_musicxml
from jigwright.services.exchange.score_marks import ORNAMENT_OF
from jigwright.wording.scores import import_summary

HEAD = (
    '<?xml version="1.0"?><score-partwise version="4.0"><part-list><score-part id="P1">'
    '<part-name>Viola</part-name></score-part></part-list><part id="P1">'
)


def note(step: str = "D", *, notations: str = "", more: str = "") -> str:
    inside = f"<notations>{notations}</notations>" if notations else ""
    return (
        f"<note>{more}<pitch><step>{step}</step><octave>4</octave></pitch><duration>1</duration>"
        f"<voice>1</voice>{inside}</note>"
    )


def losses(*bars: str) -> list[tuple[str, str]]:
    """What is lost of some bars of a part."""
    first = "<attributes><divisions>1</divisions></attributes>"
    text = HEAD + "".join(
        f'<measure number="{i + 1}">{first if i == 0 else ""}{bar}</measure>'
        for i, bar in enumerate(bars)
    )
    got = read_musicxml(
        (text + "</part></score-partwise>").encode(), jig_id="j", title="t", instrument_id="violin"
    )
    return [(x.bar, x.what) for x in got.losses]


def direction(inside: str) -> str:
    return f"<direction><direction-type>{inside}</direction-type></direction>"


FULL = note() * 4


def test_a_plain_bar_loses_nothing() -> None:
    kept = (
        "<technical><up-bow/><fingering>2</fingering><string>2</string></technical>"
        "<articulations><staccato/></articulations><ornaments><trill-mark/><wavy-line/></ornaments>"
    )
    assert losses(note(notations=kept) + note() * 3) == []
    assert losses(direction("<words>pizz.</words>") + direction("<dynamics><mf/></dynamics>")
                  + direction('<wedge type="stop"/>') + FULL) == []  # fmt: skip


@pytest.mark.parametrize(
    ("notations", "what"),
    [
        ("<articulations><accent/></articulations>", "accent"),
        ("<articulations><strong-accent/></articulations>", "accent"),
        ("<articulations><tenuto/></articulations>", "tenuto"),
        ("<articulations><detached-legato/></articulations>", "tenuto"),
        ("<articulations><breath-mark/></articulations>", "breath"),
        ("<articulations><scoop/></articulations>", "other_mark"),
        ("<fermata/>", "fermata"),
        ("<arpeggiate/>", "arpeggio"),
        ("<dynamics><sf/></dynamics>", "dynamics"),
        ("<ornaments><schleifer/></ornaments>", "ornament"),
        ("<technical><snap-pizzicato/></technical>", "other_mark"),
    ],
)
def test_marks_of_a_note_are_named_in_their_bar(notations: str, what: str) -> None:
    marked = note() * 3 + note(notations=notations)
    assert losses(FULL, marked, FULL) == [("2", what)]
    assert losses(marked + note(notations=notations)) == [("1", what)]  # once a bar


def test_marks_of_rests_graces_and_tied_notes_are_named_too() -> None:
    rest = (
        "<note><rest/><duration>1</duration><voice>1</voice>"
        "<notations><fermata/></notations></note>"
    )
    assert losses(note() * 3 + rest) == [("1", "fermata")]
    grace = note(notations="<articulations><accent/></articulations>", more="<grace/>")
    assert losses(grace.replace("<duration>1</duration>", "") + FULL) == [("1", "accent")]
    tied = note().replace("</duration>", '</duration><tie type="start"/>')
    stop = note(notations="<fermata/>").replace("</duration>", '</duration><tie type="stop"/>')
    assert losses(note() * 2 + tied + stop) == [("1", "fermata")]


@pytest.mark.parametrize(
    ("inside", "what"),
    [
        ('<wedge type="crescendo"/>', "hairpin"),
        ('<wedge type="diminuendo"/>', "hairpin"),
        ("<words>dolce</words>", "words"),
        ("<dynamics><ppp/></dynamics>", "dynamics"),
        ('<octave-shift type="down"/>', "octave_line"),
        ('<pedal type="start"/>', "pedal"),
        ("<rehearsal>A</rehearsal>", "other_mark"),
        ("<segno/>", "other_mark"),
    ],
)
def test_directions_are_named_in_their_bar(inside: str, what: str) -> None:
    assert losses(FULL, FULL, direction(inside) + FULL) == [("3", what)]


def test_the_first_tempo_is_kept_and_later_ones_are_named() -> None:
    tempo = direction(
        "<metronome><beat-unit>quarter</beat-unit><per-minute>90</per-minute></metronome>"
    )
    assert losses(tempo + FULL, FULL) == []
    assert losses(tempo + FULL, FULL, tempo + FULL) == [("3", "tempo")]


@pytest.mark.parametrize(
    ("inside", "what"),
    [
        ('<repeat direction="backward"/>', ["repeat"]),
        ('<ending number="1" type="start"/>', ["ending"]),
        ('<ending number="1" type="stop"/>', []),
        ('<fermata type="upright"/>', ["fermata"]),
        ("<bar-style>light-heavy</bar-style>", []),
    ],
)
def test_bar_lines_are_named(inside: str, what: list[str]) -> None:
    found = losses(FULL, FULL + f'<barline location="right">{inside}</barline>')
    assert found == [("2", w) for w in what]


def test_the_summary_names_every_kind_and_its_first_bars() -> None:
    jig = jig_from_line("D4 E4", jig_id="j", instrument_id="violin", title="t")
    lost = tuple(ImportLoss(bar=str(b), what="hairpin") for b in (1, 3, 5, 7, 9, 11))
    got = Imported(
        jig=jig, losses=(*lost, ImportLoss(bar="2", what="fermata")), parts=("V",), i_part=0
    )
    text = import_summary(got)
    assert "6 bars: hairpins (1, 3, 5, 7 …)" in text
    assert "1 bar: holds (2)" in text
    assert "more" not in text


@pytest.mark.parametrize("what", MARK_LOSSES)
def test_every_kind_has_its_words(what: str) -> None:
    jig = jig_from_line("D4 E4", jig_id="j", instrument_id="violin", title="t")
    one = Imported(jig=jig, losses=(ImportLoss(bar="4", what=what),), parts=("V",), i_part=0)
    text = import_summary(one)
    assert "(4)" in text
    assert "_" not in text


def test_every_ornament_is_read_as_one_a_jig_knows() -> None:
    assert set(ORNAMENT_OF.values()) == set(ORNAMENTS)
