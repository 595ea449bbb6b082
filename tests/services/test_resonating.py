"""Where a string answers a finger over takes: which landings count, and who is left out."""

from __future__ import annotations

from dataclasses import replace

import pytest

from builders import heard_of, keep_take, new_studio
from jigwright.core.jig.line import jig_from_line
from jigwright.core.music.pitch import Pitch
from jigwright.services.resonating import WokenRow, answer_to, over_takes, ring_table, woken
from jigwright.services.take_reader import TakeReader
from ring_builders import VIOLIN_HZ, line, meeting, room, string_ring

D5 = Pitch.parse("D5")


def row(cents: float, level_db: float | None, *, finger: int = 3, string: int = 1) -> WokenRow:
    one = replace(string_ring(string, level_db=level_db), meeting=meeting(string))
    return WokenRow(pitch=D5, finger=finger, on_string=2, cents=cents, one=one)


def landing(cents: float, **about: int) -> WokenRow:
    """What a string at 2 cents above the target gives: half of it 3 cents off."""
    off = (cents - 2.0) / 3.0
    fell = 10**0.1  # keeps the numbers from being perfect
    return row(cents, -28.0 - 10.0 * fell * (off**2 / (1 + off**2)) - off**2, **about)


TAKES = [tuple(landing(c) for c in (-7.0 + i, 0.0, 2.0 + i, 8.0)) for i in range(3)]


def test_the_place_is_found_over_takes() -> None:
    found = answer_to(TAKES, D5, 3, 2)
    assert found is not None
    assert found.string == 1
    assert found.n_takes == 3
    assert found.place.n == 12
    assert found.place.cents == pytest.approx(2.0, abs=1.5)


def test_another_finger_string_or_note_is_another_place() -> None:
    assert answer_to(TAKES, D5, 4, 2) is None
    assert answer_to(TAKES, D5, 3, 1) is None
    assert answer_to(TAKES, Pitch.parse("E5"), 3, 2) is None
    assert answer_to([], D5, 3, 2) is None


def test_a_note_is_held_against_itself_over_takes() -> None:
    silent = [(row(1.0, None), row(0.0, -30.0)), (row(-2.0, None, string=0),), (row(3.0, None),)]
    found = over_takes(silent, D5, 3, 2)
    assert [(o.string, o.n_rang, o.n_told, o.n_takes) for o in found] == [
        (1, 1, 3, 2), (0, 0, 1, 1),
    ]  # fmt: skip
    assert over_takes(silent, D5, 4, 2) == ()
    assert over_takes([], D5, 3, 2) == ()


def test_a_third_that_was_silent_is_not_counted_and_one_that_rang_is() -> None:
    far = replace(row(0.0, None), one=string_ring(1, level_db=None, apart_cents=21.0))
    near = replace(row(0.0, -40.0), one=string_ring(1, level_db=-40.0, apart_cents=21.0))
    assert over_takes([(far,)], D5, 3, 2) == ()
    assert over_takes([(far, near)], D5, 3, 2)[0].n_told == 1


def test_a_note_stands_with_itself_take_by_take() -> None:
    takes = [
        (row(1.0, None), row(0.0, -30.0), row(0.0, -26.0)),  # of three landings the loudest
        (row(0.0, None),), (), (row(1.0, None), row(0.0, None)),
    ]  # fmt: skip
    (found,) = ring_table(takes)
    assert (found.pitch, found.finger, found.on_string, found.string) == (D5, 3, 2, 1)
    assert found.cells[0] == (True, -26.0)
    assert [c is not None and c[0] for c in found.cells] == [True, False, False, False]
    assert found.cells[2] is None, "nothing was told there"
    assert (found.n_rang, found.n_told) == (1, 3)


def test_rows_of_the_table() -> None:
    low = replace(row(0.0, -30.0), pitch=Pitch.parse("G4"))
    twice = [(row(0.0, -30.0), row(0.0, -30.0, string=0), low), (row(0.0, -28.0), low)]
    assert [(str(r.pitch), r.string) for r in ring_table(twice)] == [("G4", 1), ("D5", 1)]
    assert ring_table(twice[:1]) == (), "one take is no history"
    far = replace(row(0.0, None), one=string_ring(1, level_db=None, apart_cents=21.0))
    assert ring_table([(far,), (far,)]) == (), "it did not fit: that is nobody's silence"
    louder_first = [(row(0.0, -26.0), row(0.0, -30.0)), (row(0.0, -28.0),)]
    assert ring_table(louder_first)[0].cells[0] == (True, -26.0)


def test_the_surest_string_is_named() -> None:
    vague = [(row(c, -35.0 + 4.0 * (-1) ** n, string=0)) for n, c in enumerate((-4, -2, 0, 2, 4))]
    found = answer_to([*TAKES, tuple(vague)], D5, 3, 2)
    assert found is not None
    assert found.string == 1


def test_what_a_take_woke_is_read_from_what_was_heard(tmp_path) -> None:
    jig = jig_from_line("D5 F#5 D5 F#5", jig_id="j", instrument_id="violin", title="t",
                        tempo_bpm=60)  # fmt: skip
    heard = heard_of(jig, [0.0, 0.0, -8.0, 0.0])
    lines = []
    for i, state in ((0, 30.0), (2, 5.0)):
        s = heard.segments[i]
        lines.append(
            line(1, 2, i_segment=i, above_db=state, from_s=s.offset_s + 0.05,
                 to_s=s.offset_s + 0.45)
        )  # fmt: skip
        lines += room(i_segment=i)
    # one more ring says where the string sounds
    lines.append(line(1, 2, i_segment=3, above_db=30.0))
    studio = new_studio(tmp_path)
    sound = replace(heard, ring_lines=tuple(lines), open_hz=VIOLIN_HZ)
    take = keep_take(studio, "t", jig, sound)
    rows = woken(TakeReader(studio), take)
    said = [(r.pitch, round(r.cents), r.one.meeting.string, r.one.state) for r in rows]
    assert (D5, 0, 1, "rang") in said
    assert (D5, -8, 1, "silent") in said
    studio.close()
