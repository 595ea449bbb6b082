"""A note that may be hidden in the one before is uncertain, and everything says so."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from builders import heard, keep_take, new_studio, segment
from jigwright.core.follow.align import line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.jig.line import jig_from_line
from jigwright.core.judge.findings import find
from jigwright.core.judge.judging import Context
from jigwright.core.judge.summary import is_good, summarise
from jigwright.core.judge.verdict import judge_at_once
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import EQUAL
from jigwright.core.sound.heard import Heard
from jigwright.core.values import Unmeasured
from jigwright.services.analysing import Analysed
from jigwright.services.result import result_dict
from jigwright.services.take_reader import MeasuredTake, TakeReader, judge_heard
from jigwright.wording.verdicts import verdict_line, verdict_word
from signals import take_record

HZ = {"D5": 587.33, "E5": 659.26, "F#5": 739.99, "G5": 783.99}
JIG = jig_from_line("D5 E5 E5 F#5 G5", jig_id="j", instrument_id="violin", title="j", tempo_bpm=120)
SHORT = jig_from_line("D5 E5 F#5 G5", jig_id="s", instrument_id="violin", title="s", tempo_bpm=120)
CONTEXT = Context(
    instrument_id="violin", strings=instrument("violin").strings, a4_hz=440.0, reference=EQUAL,
    tolerance_cents=10.0,
)  # fmt: skip


def played(*notes: tuple[str, float]) -> Heard:
    """Notes one after the other, each so long."""
    at, found = 0.5, []
    for name, seconds in notes:
        found.append(segment(HZ[name], at, seconds=seconds))
        at += seconds
    return heard(found)


def states(sound: Heard) -> list[str]:
    lined = line_up(sound.segments, JIG, a4_hz=440.0, params=FollowParams())
    return [n.state for n in lined.notes]


@pytest.mark.parametrize(("seconds", "state"), [(1.0, "uncertain"), (0.81, "uncertain"),
                                                 (0.79, "missed"), (0.5, "missed")])  # fmt: skip
def test_a_note_may_hide_where_there_is_room_for_it(seconds: float, state: str) -> None:
    sound = played(("D5", 0.5), ("E5", seconds), ("F#5", 0.5), ("G5", 0.5))
    found = states(sound)
    assert sorted(found[1:3]) == sorted(["played", state])
    assert [found[0], *found[3:]] == ["played"] * 3


def test_room_is_used_up() -> None:
    jig = jig_from_line(
        "D5 E5 E5 E5 F#5", jig_id="j", instrument_id="violin", title="j", tempo_bpm=120
    )
    sound = played(("D5", 0.5), ("E5", 1.0), ("F#5", 0.5))
    lined = line_up(sound.segments, jig, a4_hz=440.0, params=FollowParams())
    assert [n.state for n in lined.notes].count("uncertain") == 1
    assert [n.state for n in lined.notes].count("missed") == 1


def test_it_is_no_finding_and_no_verdict_and_has_its_reason() -> None:
    sound = played(("D5", 0.5), ("E5", 1.0), ("F#5", 0.5), ("G5", 0.5))
    judged, key_fifths = judge_heard(sound, JIG, CONTEXT)
    (row,) = (i for i, n in enumerate(judged.notes) if n.standing == "uncertain")
    note = judged.notes[row]
    assert note.cents is None
    assert note.measured.segment is None
    assert [f for f in find(judged.notes, tolerance_cents=10.0) if f.id == "missed_notes"] == []
    verdict = judge_at_once(judged.notes, JIG)
    assert (verdict.kind, verdict.row) == ("unsure", row)  # and not that nothing is to be mended
    assert verdict_word(verdict, direction=False) == verdict_word(
        verdict, direction=True, hidden=True
    )
    assert "E" in verdict_word(verdict, direction=False)
    assert verdict_line(verdict, direction=False)
    assert not is_good(summarise(judged.notes), JIG)  # no rung is climbed on it
    whole, _ = judge_heard(played(*((n, 0.5) for n in ("D5", "E5", "F#5", "G5"))), SHORT, CONTEXT)
    assert judge_at_once(whole.notes, SHORT).kind == "clean"
    assert is_good(summarise(whole.notes), SHORT)
    analysed = Analysed(heard=sound, judged=judged, key_fifths=key_fifths)
    result = result_dict(analysed, file="x", context=CONTEXT, jig=JIG)
    written = result["notes"][row]
    assert written["state"] == "uncertain"
    assert "hidden" in str(written)


def test_doubtful_notes_and_swings_are_kept_with_a_take(tmp_path: Path) -> None:
    studio = new_studio(tmp_path)
    sure = segment(HZ["E5"], 1.0, seconds=1.0)
    sure = replace(sure, covered_s=0.04, swing_cents=17.0, swing_gain=1.1)
    maybe = replace(segment(HZ["E5"], 1.5), doubtful=True)
    sound = replace(heard([sure]), doubtful=(maybe,), tail_s=0.21)
    source = tmp_path / "x.src"
    source.write_bytes(b"x")
    studio.add_take(take_record("t", None), source, sound)
    kept, notes = studio.heard("t"), studio.heard_notes("t")
    assert kept is not None
    assert notes is not None
    for one in (kept, notes):
        assert one.segments == (sure,)
        assert one.doubtful == (maybe,)
    assert kept.tail_s == notes.tail_s == 0.21
    studio.set_heard("t", replace(sound, tail_s=float("nan"), doubtful=()))
    again = studio.heard("t")
    assert again is not None
    assert np.isnan(again.tail_s)
    assert again.doubtful == ()
    studio.close()


def test_strokes_hold_the_notes_that_doubt_became(tmp_path: Path) -> None:
    """What is played is read from the same notes as what was lined up."""
    studio = new_studio(tmp_path)
    jig = jig_from_line(
        "D5 E5 E5 F#5", jig_id="k", instrument_id="violin", title="k", tempo_bpm=120
    )
    sure = played(("D5", 0.5), ("E5", 1.0), ("F#5", 0.5))
    maybe = replace(segment(HZ["E5"], 1.5, seconds=0.5), doubtful=True)
    take = keep_take(studio, "t", jig, replace(sure, doubtful=(maybe,)))
    reader = TakeReader(studio)
    measured, playing = reader.measured(take), reader.playing(take)
    assert isinstance(measured, MeasuredTake)
    assert [n.lined.state for n in measured.notes] == ["played"] * 4
    assert not isinstance(playing, Unmeasured)
    assert [c.time_s for c in playing.changes] == pytest.approx([1.0, 1.5, 2.0], abs=0.08)
    studio.close()


@pytest.mark.parametrize(("tail_s", "state"), [(0.3, "uncertain"), (0.02, "missed")])
def test_the_figures_of_many_takes_follow_as_the_take_itself_does(
    tmp_path: Path, tail_s: float, state: str
) -> None:
    """The F began late in a room: what is missing had its time, counted from further back."""
    studio = new_studio(tmp_path)
    jig = jig_from_line(
        "D5 E5 F#5 G5 D5", jig_id="k", instrument_id="violin", title="k", tempo_bpm=120
    )
    found = [segment(HZ["D5"], 0.0, seconds=0.5), segment(HZ["E5"], 0.8, seconds=0.7),
             segment(HZ["G5"], 1.5, seconds=0.5), segment(HZ["D5"], 2.0, seconds=0.5)]  # fmt: skip
    found = [replace(s, attack_db=3.0) for s in found]
    take = keep_take(studio, "t", jig, replace(heard(found), tail_s=tail_s))
    reader = TakeReader(studio)
    measured, quick = reader.measured(take), reader.pitches(take)
    studio.close()
    assert isinstance(measured, MeasuredTake)
    assert [n.lined.state for n in measured.notes][2] == state
    assert [n.lined.state for n in quick.notes] == [n.lined.state for n in measured.notes]
