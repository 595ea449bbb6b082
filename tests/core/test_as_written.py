"""One note for one, a stop for a stop, at the note's pitch."""

from dataclasses import replace

import pytest

from builders import heard_of
from jigwright.core.follow.align import line_up
from jigwright.core.follow.as_written import is_as_written
from jigwright.core.follow.moves import FollowParams
from jigwright.core.jig.line import jig_from_line

LINE = jig_from_line("D4 E4 F#4 G4 A4 B4", jig_id="l", instrument_id="violin", title="l")
STOP = jig_from_line("D4+A4 E4 F#4", jig_id="s", instrument_id="violin", title="s")


def asked(off_cents, i=2, *, jig=LINE, i_pair=-1):
    played = [0.0] * len(LINE.events)
    played[i] = off_cents
    segments = heard_of(LINE, played).segments
    lined = line_up(segments, LINE, a4_hz=440.0, params=FollowParams())
    row = next(r for r in lined.notes if r.i_event == i)
    segments = tuple(replace(s, i_pair=i_pair) if k == i else s for k, s in enumerate(segments))
    return is_as_written(row, replace(lined, offset_cents=0.0), segments, jig, a4_hz=440.0)


@pytest.mark.parametrize(("off_cents", "yes"), [(69.0, True), (-69.0, True), (71.0, False)])
def test_how_near_it_must_be(off_cents, yes) -> None:
    assert asked(off_cents) is yes


def test_a_stop_stands_for_a_stop_alone() -> None:
    assert not asked(0.0, i_pair=0)
    assert asked(0.0, i=0)
    assert not asked(0.0, i=0, jig=STOP)
    assert asked(0.0, i=0, jig=STOP, i_pair=0)


def test_what_was_missed_or_is_not_written_is_not() -> None:
    segments = heard_of(LINE, [0.0, 0.0, None, 0.0, 0.0, 0.0]).segments
    lined = line_up(segments, LINE, a4_hz=440.0, params=FollowParams())
    (missed,) = [r for r in lined.notes if not r.segments]
    assert not is_as_written(missed, lined, segments, LINE, a4_hz=440.0)
    extra = replace(lined.notes[0], i_event=None)
    assert not is_as_written(extra, lined, segments, LINE, a4_hz=440.0)
