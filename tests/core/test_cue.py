"""An accompaniment beside a jig: kept as signs, cut and repeated with it, heard exactly."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from aim_builders import jig_of
from jigwright.core.companion import RATE_HZ, CueLine
from jigwright.core.errors import JigError
from jigwright.core.jig.cue import CueNote, cue_of, cue_tones, has_cue, is_cue_text, with_cue
from jigwright.core.jig.derive import spot
from jigwright.core.jig.edit import insert_time
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.signs import Sign

PIECE = jig_of("D4:1 E4:1 F#4:1 G4:1 " * 4)  # 120 a minute


def n(onset: str, end: str, midi: int) -> CueNote:
    return CueNote(onset_beats=Fraction(onset), end_beats=Fraction(end), midi=midi)


CHORD = (n("0", "4", 48), n("0", "4", 55), n("4", "5", 50), n("8", "16", 43))


def test_notes_are_kept_and_come_back_in_order() -> None:
    jig = with_cue(PIECE, reversed(CHORD))
    assert cue_of(jig) == CHORD
    assert [s.text for s in jig.signs] == ["48 55", "50", "43"]
    assert has_cue(jig)
    assert not has_cue(PIECE)
    assert cue_of(with_cue(jig, CHORD[:1])) == CHORD[:1]  # another takes its place
    assert with_cue(jig, ()) == PIECE


def test_other_signs_stay_and_notes_without_length_go() -> None:
    words = replace(PIECE, signs=(Sign(kind="words", at_beats=Fraction(2), text="dolce"),))
    jig = with_cue(words, [*CHORD, n("3", "3", 60), CHORD[0]])
    assert cue_of(jig) == CHORD
    assert with_cue(jig, ()).signs == words.signs


def test_a_spot_has_its_part_of_it_and_time_put_in_moves_it() -> None:
    jig = with_cue(PIECE, CHORD)
    part = spot(jig, 4, 7, jig_id="s", title="s")
    assert cue_of(part) == (n("0", "1", 50),)
    across = spot(jig, 8, 11, jig_id="s", title="s")
    assert cue_of(across) == (n("0", "4", 43),)
    later = insert_time(jig, 3, Fraction(2))
    assert cue_of(later)[2] == n("6", "7", 50)


def test_times_follow_the_tempi() -> None:
    slower = Sign(kind="tempo", at_beats=Fraction(8), value=60.0, text="1")
    jig = with_cue(replace(PIECE, signs=(slower,)), CHORD)
    tones = cue_tones(jig, 440.0)
    assert [(a, b) for a, b, _ in tones] == [(0.0, 2.0), (0.0, 2.0), (2.0, 2.5), (4.0, 12.0)]
    assert [round(hz, 2) for *_, hz in tones] == [130.81, 196.0, 146.83, 98.0]
    later = cue_tones(jig, 442.0, begin_s=1.5)
    assert later[2][:2] == (3.5, 4.0)
    assert later[2][2] == pytest.approx(442.0 / 440.0 * tones[2][2])


def test_it_is_in_the_jig_file() -> None:
    jig = with_cue(PIECE, CHORD)
    assert jig_from_json(jig_to_json(jig)) == jig


@pytest.mark.parametrize("text", ["48 55", "0", "127"])
def test_what_a_file_may_hold(text: str) -> None:
    assert is_cue_text(text)


@pytest.mark.parametrize("text", ["", "C4", "48,55", "128", "-1", "4.5", "²"])
def test_nonsense_in_a_file_is_refused(text: str) -> None:
    assert not is_cue_text(text)
    file = jig_to_json(with_cue(PIECE, CHORD)).replace('"48 55"', f'"{text}"')
    with pytest.raises(JigError, match=r"signs\[0\]"):
        jig_from_json(file)


# the sound ------------------------------------------------------------------------------------


def whole(line: CueLine, seconds: float = 3.0) -> np.ndarray:
    return line.block(0, round(seconds * RATE_HZ))


def test_a_note_sounds_from_its_beginning_to_its_end_at_its_pitch() -> None:
    x = whole(CueLine([(0.5, 1.5, 220.0)]))
    level = np.sqrt(np.mean(x.reshape(-1, RATE_HZ // 20) ** 2, axis=1))
    assert np.all(level[:10] == 0.0)
    assert np.all(level[10:30] > 0.002)
    assert np.all(level[32:] == 0.0)
    spectrum = np.abs(np.fft.rfft(x[RATE_HZ // 2 : 3 * RATE_HZ // 2]))
    assert int(np.argmax(spectrum)) == 220


def test_blocks_fit_together_exactly() -> None:
    line = CueLine([(0.1, 2.5, 196.0), (0.4, 0.6, 330.0), (1.0, 1.2, 440.0)])
    parts = [line.block(k, 4_800) for k in range(0, 3 * RATE_HZ, 4_800)]
    assert np.allclose(np.concatenate(parts), whole(line), atol=1e-7)


def test_notes_add_up_and_none_is_silence() -> None:
    a, b = (0.0, 1.0, 220.0), (0.5, 1.5, 330.0)
    both = whole(CueLine([b, a]))
    assert np.allclose(both, whole(CueLine([a])) + whole(CueLine([b])), atol=1e-6)
    assert not np.any(whole(CueLine([])))
    assert not np.any(CueLine([a]).block(-RATE_HZ, RATE_HZ))  # before the first beat
    assert np.max(np.abs(both)) < 0.3
