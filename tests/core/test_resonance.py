"""Which strings are in use when, by fingering or by guess, and which notes are asked for a ring."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from builders import heard, segment
from jigwright.core.follow.values import LinedNote
from jigwright.core.gauge.ring_place import RingPlace
from jigwright.core.gauge.values import Ring, Vibrato
from jigwright.core.jig.fingering import propose_fingering
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.judge.resonance import ring_of, ring_place, strings_of
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import Heard, Pair
from jigwright.core.values import Unmeasured
from ring_builders import VIOLIN_HZ, line, room

D5, E5 = 586.6667, 660.0
STILL = Unmeasured("not_needed")


def fingered(words: str) -> Jig:
    jig = jig_from_line(words, jig_id="j", instrument_id="violin", title="t", tempo_bpm=60)
    return propose_fingering(jig, instrument("violin").strings)


def lined(i: int, pitch: str, **about: Any) -> LinedNote:
    usual = {"state": "played", "i_event": i, "note_id": "n", "attempt": 1, "segments": (i,)}
    return LinedNote(pitch=Pitch.parse(pitch), **(usual | about))


def sound(*f0s_hz: float) -> Heard:
    """Notes of a second, the D string ringing after the first."""
    notes = [segment(f, 0.5 + i, seconds=1.0) for i, f in enumerate(f0s_hz)]
    lines = (line(1, 2, from_s=1.55, to_s=2.5), line(1, 4, from_s=1.55, to_s=2.5), *room())
    return replace(heard(notes), ring_lines=lines, open_hz=VIOLIN_HZ)


def place_of(what: Heard, notes: list[LinedNote], jig: Jig | None) -> RingPlace:
    found = ring_place(what, notes, jig, "violin")
    assert isinstance(found, RingPlace)
    return found


def test_a_fingering_says_what_a_note_was_played_on() -> None:
    jig = fingered("D5 E5")
    string = jig.events[0].heads[0].string
    assert strings_of(lined(0, "D5"), jig, D5) == (string,)
    assert strings_of(lined(0, "D5"), None, D5) is None
    assert strings_of(lined(0, "D5", i_event=None), jig, D5) is None
    assert strings_of(lined(0, "D5"), jig, D5 * 2 ** (140 / 1200)) == (string,)
    assert strings_of(lined(0, "D5"), jig, D5 * 2 ** (160 / 1200)) is None  # another note
    bare = jig_from_line("D5 E5", jig_id="j", instrument_id="violin", title="t", tempo_bpm=60)
    assert strings_of(lined(0, "D5"), bare, D5) is None


def test_both_strings_of_a_stop_are_in_use() -> None:
    jig = fingered("G3+D4")
    note = lined(0, "D4", lower=Pitch.parse("G3"))
    assert strings_of(note, jig, VIOLIN_HZ[0]) == (0, 1)
    assert strings_of(note, jig, VIOLIN_HZ[1] * 1.5) is None


def test_strings_are_held_by_fingering_else_perhaps() -> None:
    what, jig = sound(D5, E5), fingered("D5 E5")
    notes = [lined(0, "D5"), lined(1, "E5")]
    sure = place_of(what, notes, jig).holds
    assert [h.surely for h in sure] == [(jig.events[i].heads[0].string,) for i in (0, 1)]
    guess = place_of(what, notes, None).holds
    assert [h.perhaps for h in guess] == [(2, 1, 0), (3, 2, 1, 0)]
    assert all(not h.surely for h in guess)
    assert (guess[1].from_s, guess[1].to_s) == (1.5, 2.5)


def test_a_take_that_was_not_looked_into_is_refused() -> None:
    old = replace(sound(D5, E5), ring_lines=None)
    assert ring_place(old, [], None, "violin") == Unmeasured("not_looked_for")
    nowhere = replace(sound(D5, E5), open_hz=())
    assert ring_place(nowhere, [], None, "violin") == Unmeasured("not_looked_for")
    assert ring_of(Unmeasured("failed"), lined(0, "D5"), segment(D5, 0.5), None, STILL) == (
        Unmeasured("failed")
    )


def rung(what: Heard, *, vibrato: Vibrato | Unmeasured = STILL) -> Ring | Unmeasured:
    jig = fingered("D5 E5")
    notes = [lined(0, "D5"), lined(1, "E5")]
    place = place_of(what, notes, jig)
    return ring_of(place, notes[0], what.segments[0], jig, vibrato)


def test_what_rang_after_a_note() -> None:
    found = rung(sound(D5, E5))
    assert isinstance(found, Ring)
    assert found.rang == (1,)


def test_beside_two_strings_bowed_together_nothing_is_told() -> None:
    what = sound(D5, E5)
    two = replace(what.segments[1], i_pair=0)
    pair = Pair(
        onset_s=two.onset_s, offset_s=two.offset_s, lower_hz=440.0, upper_hz=E5,
        lower_uncertainty_cents=1.0, upper_uncertainty_cents=1.0, balance_db=0.0,
        balance_uncertainty_db=1.0, level_dbfs=-20.0, times_s=what.contours.f0_hz[:1],
        lower_track_hz=what.contours.f0_hz[:1], upper_track_hz=what.contours.f0_hz[:1],
        balance_track_db=what.contours.f0_hz[:1],
    )  # fmt: skip
    near = replace(what, segments=(what.segments[0], two), pairs=(pair,))
    assert rung(near) == Unmeasured("two_notes")
    later = replace(two, onset_s=1.7, offset_s=2.5)
    assert isinstance(rung(replace(near, segments=(what.segments[0], later))), Ring)


def test_a_vibrato_leaves_less_to_be_had() -> None:
    def swing(extent_cents: float, *, present: bool = True) -> Vibrato:
        return Vibrato(
            present=present, rate_hz=5.5, extent_cents=extent_cents, extent_uncertainty_cents=1.0,
            regularity=0.9, start_s=0.1,
        )  # fmt: skip

    def share(vibrato: Vibrato | Unmeasured) -> float:
        found = rung(sound(D5, E5), vibrato=vibrato)
        assert isinstance(found, Ring)
        return found.strings[0].meeting.share_db

    assert share(swing(40.0)) < share(STILL) - 1.0
    assert share(swing(40.0, present=False)) == pytest.approx(share(STILL))


def test_the_usual_time_of_a_string_is_the_instruments() -> None:
    what = sound(D5, E5)
    times = []
    for kind in ("violin", "bass", "kazoo"):
        found = ring_place(what, [], None, kind)
        assert isinstance(found, RingPlace)
        times.append(found.t60_s)
    assert times == [1.5, 3.5, 2.0]
