"""The simulated bow turns the string's wave over, and what is heard of it is true."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jigwright.core.jig.line import jig_from_line
from jigwright.core.music.instruments import INSTRUMENTS, instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.music.references import pure_strings
from jigwright.core.player.bowing import way_round
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.performance import PlayedNote
from jigwright.core.player.play import play
from jigwright.core.sound.heard import Heard
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.sound.polarity import way_of

LINES = {"violin": "A4", "viola": "D4", "cello": "G2", "bass": "A1"}


def played(bow: int, onset_s: float) -> PlayedNote:
    return PlayedNote(
        i_event=0, pitch=Pitch.parse("A4"), target_hz=440.0, bow=bow, onset_s=onset_s,
        offset_s=onset_s + 1.0,
    )  # fmt: skip


def test_the_wave_turns_with_the_bow_and_not_with_a_slur_or_a_retake() -> None:
    t_s = np.arange(0.0, 4.0, 0.001)
    ways = way_round([played(1, 0.5), played(-1, 1.5), played(-1, 2.0), played(1, 3.0)], t_s)
    assert set(ways[t_s < 1.493]) == {1.0}
    assert set(ways[(t_s > 1.507) & (t_s < 2.993)]) == {-1.0}
    assert ways[t_s == 1.5] == pytest.approx(0.0, abs=0.01)
    assert ways[-1] == 1.0
    assert np.abs(np.diff(ways)).max() < 1.01
    stop = replace(played(-1, 1.5), lower=Pitch.parse("D4"))
    assert (way_round([played(1, 0.5), stop], t_s) == 1.0).all()
    assert (way_round([], t_s) == 1.0).all()
    assert (way_round([played(-1, 0.5)], t_s) == 1.0).all()
    assert way_round([played(-1, 0.5), played(1, 1.5)], t_s)[-1] == -1.0


def heard(kind: str, words: str, faults: str) -> Heard:
    jig = jig_from_line(
        words, jig_id="line", instrument_id=kind, title="line", tempo_bpm=80.0,
        key=Key(PitchClass("D"), "major"),
    )  # fmt: skip
    take = play(jig, seed=4, faults=parse_faults(faults))
    low = next(iter(pure_strings(instrument(kind).strings, 440.0).values()))
    signal = choose_signal(take.sound.samples, take.sound.rate_hz)
    return hear(signal, instrument(kind), lowest_open_hz=low)


@pytest.mark.parametrize("kind", sorted(INSTRUMENTS))
def test_turns_are_heard_on_every_instrument_in_a_room(kind: str) -> None:
    words = " ".join([f"{LINES[kind]}:2"] + [LINES[kind]] * 4)
    found = heard(kind, words, "room rt60_s=0.5 wet_db=0; noise snr_db=40")
    assert [way_of(t) for t in found.turns or ()] == ["turned"] * 4


def test_a_long_note_with_vibrato_in_ripples_of_the_body_is_one_note() -> None:
    found = heard("cello", "G2:4", "body ripple_db=5.4; vibrato rate_hz=6.65 extent_cents=46")
    assert len(found.segments) == 1
    assert not found.turns
