"""The order of playing: repeats, endings, jumps; and bars written out."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from jigwright.core.errors import JigError
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Change, Jig
from jigwright.core.jig.order import has_repeats, playing_order, written_out
from jigwright.core.jig.signs import Sign, in_order

F = Fraction


def bars(n: int, *signs: Sign) -> Jig:
    """Bars of one whole note, each another pitch."""
    text = " ".join(f"{'CDEFGAB'[k % 7]}{4 + k // 7}:4" for k in range(n))
    jig = jig_from_line(text, jig_id="j", instrument_id="viola", title="t")
    return replace(jig, signs=in_order(signs))


def forward(bar: int) -> Sign:
    return Sign(kind="repeat", at_beats=F(4 * bar), text="forward")


def back(after: int, times: float | None = None) -> Sign:
    """At the end of a bar."""
    return Sign(kind="repeat", at_beats=F(4 * after + 4), text="backward", value=times)


def ending(first: int, last: int, text: str) -> Sign:
    return Sign(kind="ending", at_beats=F(4 * first), end_beats=F(4 * last + 4), text=text)


def jump(bar: int, text: str, *, end: bool = False) -> Sign:
    return Sign(kind="jump", at_beats=F(4 * bar + (4 if end else 0)), text=text)


@pytest.mark.parametrize(
    ("signs", "order"),
    [
        ((), "0123"),
        ((back(1),), "010123"),
        ((forward(1), back(2)), "012123"),
        ((back(0), forward(2), back(3)), "0012323"),
        ((back(0), back(2)), "0012123"),  # the second repeat goes back to the first
        ((forward(1), back(2, 3.0)), "01212123"),
        ((forward(1), back(2, 1.0)), "0123"),
        ((ending(1, 1, "1"), back(1), ending(2, 2, "2")), "01023"),
        ((ending(1, 1, "1, 2"), back(1, 3.0), ending(2, 2, "3")), "0101023"),
        ((ending(1, 2, "1"), back(2), ending(3, 3, "2")), "01203"),
        ((jump(3, "dacapo", end=True), jump(1, "fine", end=True)), "012301"),
        ((jump(1, "segno"), jump(3, "dalsegno", end=True)), "0123123"),
        ((jump(1, "segno"), jump(2, "dalsegno", end=True), jump(1, "tocoda", end=True),
          jump(3, "coda")), "01213"),
        ((back(1), jump(3, "dacapo", end=True), jump(2, "fine", end=True)), "010123012"),
        ((ending(1, 1, "1"), back(1), ending(2, 2, "2"), jump(3, "dacapo", end=True)), "01023023"),
    ],
)  # fmt: skip
def test_bars_are_played_in_the_order_their_signs_say(signs, order) -> None:
    jig = bars(4, *signs)
    assert "".join(str(i) for i in playing_order(jig)) == order
    assert has_repeats(jig) is (order != "0123")


def test_a_jump_inside_a_bar_is_taken_at_its_end() -> None:
    inside = Sign(kind="jump", at_beats=F(14), text="dacapo")
    assert playing_order(bars(4, inside))[:5] == (0, 1, 2, 3, 0)


def test_signs_that_lead_round_and_round_come_to_an_end() -> None:
    endless = bars(3, forward(0), back(2, 99_999.0))
    assert len(playing_order(endless)) <= 20_000


def test_written_out_every_time_has_notes_of_its_own_and_bars_keep_their_numbers() -> None:
    jig = bars(3, back(1), Sign(kind="words", at_beats=F(0), text="dolce"),
               Sign(kind="hairpin", at_beats=F(4), end_beats=F(8), text="crescendo"))  # fmt: skip
    made = written_out(jig, jig_id="w", title="w")
    assert [str(e.heads[0].pitch) for e in made.events] == ["C4", "D4", "C4", "D4", "E4"]
    assert [e.onset_beats for e in made.events] == [0, 4, 8, 12, 16]
    assert [b.number for b in made.bars()] == [1, 2, 1, 2, 3]
    assert made.events[0].id == jig.events[0].id
    assert made.events[2].heads[0].replaces == jig.events[0].heads[0].id
    assert [(s.kind, s.at_beats, s.end_beats) for s in made.signs] == [
        ("words", 0, None), ("hairpin", 4, 8), ("words", 8, None), ("hairpin", 12, 16)
    ]  # fmt: skip
    assert made.derived_from == (jig.id, jig.revision)
    assert (made.id, made.revision, made.pickup_beats, made.silence_beats) == ("w", 1, 0, 0)
    assert not has_repeats(made)


def test_written_out_keys_metres_and_short_bars_stay() -> None:
    after = Sign(kind="repeat", at_beats=F(7), text="backward")
    jig = replace(bars(3, after), changes=(Change(at_beats=F(4), metre=(2, 4), bar_beats=F(3)),))
    made = written_out(jig, jig_id="w", title="w")
    assert [(b.length_beats, b.metre) for b in made.bars()][:4] == [
        (4, (4, 4)), (3, (2, 4)), (4, (4, 4)), (3, (2, 4))
    ]  # fmt: skip


def test_a_note_over_a_bar_line_ends_where_the_next_bar_is_another() -> None:
    long = replace(bars(3, back(1)), events=tuple(
        replace(e, length_beats=F(6)) if i == 1 else replace(e, onset_beats=e.onset_beats + 2)
        if i == 2 else e for i, e in enumerate(bars(3).events)
    ))  # fmt: skip
    made = written_out(long, jig_id="w", title="w")
    assert all(
        a.end_beats <= b.onset_beats for a, b in zip(made.events, made.events[1:], strict=False)
    )


def test_too_long_is_refused() -> None:
    text = "D4:1/4 " * 3200
    jig = jig_from_line(text, jig_id="j", instrument_id="violin", title="t")
    many = replace(jig, signs=(Sign(kind="repeat", at_beats=jig.length_beats, text="backward",
                                    value=8.0),))  # fmt: skip
    with pytest.raises(JigError, match="too many"):
        written_out(many, jig_id="w", title="w")
