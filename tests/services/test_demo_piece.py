"""The demo's piece: it is what it says, fits a hand, goes out and comes back."""

from __future__ import annotations

from jigwright.core.jig.cue import cue_of
from jigwright.core.jig.hand_check import hand_troubles
from jigwright.core.jig.parallels import parallels
from jigwright.services.demo_piece import harbour_waltz, waltz_spot
from jigwright.services.exchange.musicxml_in import read_musicxml
from jigwright.services.exchange.musicxml_out import write_musicxml


def test_the_waltz_has_thirty_four_bars_of_three_and_its_marks() -> None:
    piece = harbour_waltz()
    bars = piece.bars()
    assert [b.number for b in bars] == list(range(1, 35))
    assert {b.length_beats for b in bars} == {3}
    assert [e.dynamic for e in piece.events if e.dynamic] == ["p", "f", "p", "mf", "p"]
    beside = [s.kind for s in piece.signs if s.kind != "cue"]
    assert beside == ["words", "hairpin", "hairpin"]
    assert piece.events[-1].marks == ("fermata",)


def test_its_theme_comes_again_and_a_fourth_lower() -> None:
    pairs = {(p.first + 1, p.second + 1): p for p in parallels(harbour_waltz())}
    assert pairs[1, 25].n_bars == 7
    assert pairs[1, 25].differ == (5,)
    assert (pairs[1, 17].n_bars, pairs[1, 17].steps) == (4, -3)


def test_its_accompaniment_is_three_beats_a_bar_and_fits_the_tune() -> None:
    piece = harbour_waltz()
    notes = cue_of(piece)
    assert {n.onset_beats for n in notes} == set(range(34 * 3))
    assert len(notes) == 34 * 7
    for event in piece.events:  # on every first beat the tune is a note of its chord, or a step off
        if event.onset_beats % 3 == 0:
            bar = [n.midi % 12 for n in notes if 0 <= n.onset_beats - event.onset_beats < 3]
            top = event.heads[-1].pitch.midi % 12
            assert min(min((top - c) % 12, (c - top) % 12) for c in bar) <= 2


def test_a_hand_can_play_it() -> None:
    assert hand_troubles(harbour_waltz()) == ()


def test_spots_keep_the_numbers_of_their_bars() -> None:
    spot = waltz_spot(9, 12, "quay")
    assert [b.number for b in spot.bars()] == [9, 10, 11, 12]
    assert spot.derived_from == ("demo-waltz", 1)
    assert spot.events[0].dynamic == "f"


def test_it_goes_out_and_comes_back() -> None:
    piece = harbour_waltz()
    got = read_musicxml(write_musicxml(piece), jig_id=piece.id, title="t", instrument_id="violin")
    assert got.losses == ()
    assert [(e.onset_beats, e.length_beats, e.bow, e.dynamic, e.marks) for e in got.jig.events] == [
        (e.onset_beats, e.length_beats, e.bow, e.dynamic, e.marks) for e in piece.events
    ]
    assert [h.finger for e in got.jig.events for h in e.heads] == [
        h.finger for e in piece.events for h in e.heads
    ]
