"""Two strings: found, measured and judged, against the simulated player's truth."""

from __future__ import annotations

import json
from math import log2

import numpy as np
import pytest

from jigwright.core.gauge.two_strings import meeting_partials
from jigwright.core.gauge.values import Double
from jigwright.core.jig.model import Jig, note_list
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.judge.balance import StringBalance
from jigwright.core.judge.doubles import (
    JudgedDouble,
    OtherAnswer,
    conflicts,
    find_conflict,
    judge_double,
    other_answer,
    pure_interval_cents,
)
from jigwright.core.judge.measured import MeasuredNote
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.core.music.references import pure_strings
from jigwright.core.player.play import truth_json
from jigwright.core.sound.pair_fit import fit_notes, take_windows
from jigwright.core.sound.pair_lines import follow_lines
from jigwright.core.values import Unmeasured
from jigwright.wording.measures import balance_text, double_texts, other_answer_text
from signals import listen, perform

CHORDS = {
    "violin": "G3+B3 D4+B4 E4+C5 D4+A4 B3+D5",
    "viola": "C3+E3 G3+E4 D4+F#4 G3+D4",
    "cello": "C2+E2 G2+E3 G2+D3 E2+C3",
    "bass": "E1+G1 A1+D2 G1+E2",
}


GIVEN = Double(
    lower_hz=220.0, upper_hz=330.0, lower_uncertainty_cents=0.5, upper_uncertainty_cents=0.5,
    interval_cents=702.0, uncertainty_cents=0.9, beats_hz=0.0, beating_partials=(3, 2),
    balance_db=0.0, balance_uncertainty_db=2.0, both_ratio=1.0,
)  # fmt: skip


def cents(a: float, b: float) -> float:
    return 1200 * log2(a / b)


def measured(jig: Jig, faults: str, *, with_jig: bool = True) -> list[tuple[MeasuredNote, dict]]:
    performance = perform(jig, faults, seed=2)
    truth = json.loads(truth_json(performance, file="x"))["double_stops"]
    notes = follow_and_measure(
        listen(performance), jig if with_jig else None, a4_hz=440.0,
        instrument_id=jig.instrument_id,
    )[1]  # fmt: skip
    rows = []
    for row in truth:
        near = [n for n in notes if n.segment and abs(n.segment.onset_s - row["onset_s"]) < 0.25]
        rows += [(n, row) for n in near[:1]]
    assert len(rows) == len(truth)
    return rows


@pytest.mark.parametrize("kind", sorted(CHORDS))
def test_both_voices_balance_and_names(kind: str) -> None:
    jig = note_list(CHORDS[kind], instrument_id=kind, tempo_bpm=50)
    faults = "detune spread_cents=6; lower cents=5 balance_db=3; noise snr_db=40"
    for note, truth in measured(jig, faults, with_jig=False):
        assert isinstance(note.double, Double), truth
        assert str(note.lined.lower) == truth["lower"]["name"]
        assert str(note.lined.pitch) == truth["upper"]["name"]
        assert abs(cents(note.double.lower_hz, truth["lower"]["f0_hz"])) < 1.5
        assert abs(cents(note.double.upper_hz, truth["upper"]["f0_hz"])) < 1.5
        assert note.double.both_ratio > 0.8
        if np.isfinite(note.double.balance_db):
            off = abs(note.double.balance_db - truth["balance_db_upper_minus_lower"])
            assert off < note.double.balance_uncertainty_db + 2.0


def test_an_octave_in_tune_is_called_fused_and_one_out_is_measured() -> None:
    jig = note_list("A4+A5 D4+D5", instrument_id="violin", tempo_bpm=40)
    fused = measured(jig, "noise snr_db=45")
    assert [n.double for n, _ in fused] == [Unmeasured("fused")] * 2


def test_single_notes_never_become_two() -> None:
    jig = note_list("G3 B3 D4 F#4 A4 C5 E5 G5", instrument_id="violin", tempo_bpm=80)
    for faults in (
        "room rt60_s=0.5 wet_db=-10; noise snr_db=25",
        "vibrato rate_hz=5.5 extent_cents=60; detune spread_cents=8",
    ):
        notes = follow_and_measure(
            listen(perform(jig, faults)), jig, a4_hz=440.0, instrument_id="violin"
        )[1]
        assert [n.double for n in notes] == [Unmeasured("one_note")] * 8


def test_a_neighbour_string_is_heard_beside_a_single_note() -> None:
    from jigwright.core.judge.playing import measure_playing

    jig = note_list("E4 F#4 G4 B4", instrument_id="violin", tempo_bpm=50)
    heard = listen(perform(jig, "neighbour notes=2 balance_db=8"))
    _, notes = follow_and_measure(heard, jig, a4_hz=440.0, instrument_id="violin")
    strings = pure_strings(instrument("violin").strings, 440.0)
    events = measure_playing(heard, notes, jig, strings).events
    assert [(e.kind, e.row) for e in events] == [("neighbour_string", 2)]


def test_fit_reaches_the_truth_from_forty_cents_away() -> None:
    rate, n = 12_000, 2400
    t = np.arange(n) / rate
    x = sum(np.cos(2 * np.pi * k * 220.0 * t) / k for k in range(1, 9))
    x = x + sum(0.5 * np.cos(2 * np.pi * k * 331.0 * t + 1) / k for k in range(1, 9))
    windows = take_windows(np.asarray(x), rate, n, [0.0])
    fit = fit_notes(windows, (220.0 * 1.02, 331.0 * 0.985), n_steps=12)[0]
    assert fit is not None
    assert abs(cents(fit.f_hz[0], 220.0)) < 0.1
    assert abs(cents(fit.f_hz[1], 331.0)) < 0.1


@pytest.mark.parametrize(
    ("size", "partials"), [(0, (1, 1)), (1200, (2, 1)), (702, (3, 2)), (386, (5, 4)), (884, (5, 3))]
)
def test_the_lowest_partials_that_meet(size: float, partials: tuple[int, int]) -> None:
    assert meeting_partials(size) == partials


def test_conflicts_are_computed_not_assumed() -> None:
    strings = pure_strings(instrument("violin").strings, 440.0)
    g, d, a, _ = strings
    conflict = find_conflict(Pitch.parse("E4"), (g, a), strings, a4_hz=440.0)
    assert conflict is not None
    assert conflict.apart_cents == pytest.approx(21.5, abs=0.1)
    assert find_conflict(Pitch.parse("B3"), (g, d), strings, a4_hz=440.0) is None


def test_the_notes_between_two_open_strings_are_listed() -> None:
    found = conflicts(pure_strings(instrument("violin").strings, 440.0), fifths=1, a4_hz=440.0)
    listed = {(str(c.pitch), *sorted((str(c.first), str(c.second)))) for c in found}
    assert ("E4", "A4", "G3") in listed
    assert ("B4", "D4", "E5") in listed
    for c in found:  # each can be stopped on the string between the two
        pair = sorted((c.first, c.second), key=lambda p: p.midi)
        between = [s for s in instrument("violin").strings if pair[0].midi < s.midi < pair[1].midi]
        assert len(between) == 1
        assert 1 <= c.pitch.midi - between[0].midi <= 12
        assert c.apart_cents >= 2.0
    five = pure_strings(tuple(Pitch.parse(p) for p in ("G3", "D4")), 440.0)
    assert conflicts(five, fifths=0, a4_hz=440.0) == []


def over_g(e_cents: float, *, unsure: float = 0.5) -> OtherAnswer | None:
    """An E on the D string over the open G, so many cents from equal temperament."""
    strings = pure_strings(instrument("violin").strings, 440.0)
    double = Double(
        lower_hz=strings[Pitch.parse("G3")], upper_hz=329.6276 * 2 ** (e_cents / 1200),
        lower_uncertainty_cents=0.5, upper_uncertainty_cents=unsure, interval_cents=884.0,
        uncertainty_cents=1.0, beats_hz=0.0, beating_partials=(5, 3), balance_db=0.0,
        balance_uncertainty_db=2.0, both_ratio=1.0,
    )  # fmt: skip
    return other_answer(double, (Pitch.parse("E4"), 1), 0, strings, a4_hz=440.0)


@pytest.mark.parametrize(
    ("e_cents", "unsure", "taken", "middle"),
    [
        (-19.6, 0.5, "G3", False), (2.0, 0.5, "A4", False), (-8.8, 0.5, None, True),
        (-15.2, 0.5, "G3", False), (-14.0, 0.5, None, False), (-14.0, 9.0, None, False),
    ],
)  # fmt: skip
def test_which_of_two_pure_answers_was_played(
    e_cents: float, unsure: float, taken: str | None, middle: bool
) -> None:
    found = over_g(e_cents, unsure=unsure)
    assert found is not None
    assert found.heard_cents == pytest.approx(e_cents, abs=0.01)
    assert (found.taken and str(found.taken), found.middle) == (taken, middle)
    assert found.conflict.first_cents == pytest.approx(-19.55, abs=0.05)
    assert found.conflict.second_cents == pytest.approx(1.96, abs=0.05)
    words = other_answer_text(found)
    assert "−20" in words
    assert "+2" in words
    assert ("middle" in words.split(";")[-1]) is middle


def test_a_note_with_one_neighbour_has_one_answer() -> None:
    strings = pure_strings(instrument("violin").strings, 440.0)
    double = GIVEN
    assert other_answer(double, (Pitch.parse("B3"), 0), 1, strings, a4_hz=440.0) is None
    assert other_answer(double, (Pitch.parse("F5"), 3), 2, strings, a4_hz=440.0) is None
    assert other_answer(double, (Pitch.parse("E4"), 1), 3, strings, a4_hz=440.0) is None


@pytest.mark.parametrize(
    ("db", "unsure", "words"),
    [
        (2.0, 3.0, "neither is surely louder, ± 3 dB"),
        (-2.9, 2.0, "lower louder, 3 ± 2 dB"),
        (-3.1, 2.0, "lower louder, 3 ± 2 dB: lean to the upper string"),
        (6.0, 2.0, "upper louder, 6 ± 2 dB: lean to the lower string"),
        (0.2, 6.0, "neither is surely louder, ± 6 dB"),
    ],
)
def test_balance_is_said_only_where_it_is_sure(db: float, unsure: float, words: str) -> None:
    assert balance_text(StringBalance(db=db, uncertainty_db=unsure)) == (words, True)


@pytest.mark.parametrize(
    ("error", "pure", "why"), [(4.9, -21.5, True), (5.1, -21.5, False), (0.0, -6.9, False),
                               (0.0, 7.1, True)],
)  # fmt: skip
def test_why_a_clean_interval_is_not_pure(error: float, pure: float, why: bool) -> None:
    judged = JudgedDouble(
        lower_cents=0.0, upper_cents=error, interval_error_cents=error,
        against=(("equal", 0.0), ("pythagorean", 0.0), ("pure", pure)), mover="upper",
    )  # fmt: skip
    rows = {name: text for name, text, _ in double_texts(GIVEN, judged)}
    assert ("as the reference has it" in rows["Interval"]) is why


def test_who_may_move() -> None:
    double = Double(
        lower_hz=220.0, upper_hz=331.0, lower_uncertainty_cents=0.5, upper_uncertainty_cents=0.5,
        interval_cents=cents(331.0, 220.0), uncertainty_cents=0.7, beats_hz=2.0,
        beating_partials=(3, 2), balance_db=0.0, balance_uncertainty_db=2.0, both_ratio=1.0,
    )  # fmt: skip
    for fingers, mover in (
        ((0, 1), "upper"),
        ((1, 0), "lower"),
        ((0, 0), "neither"),
        ((1, 1), "both"),
    ):
        judged = judge_double(
            double, lower=Pitch.parse("A3"), upper=Pitch.parse("E4"),
            lower_places=[(220.0, None)],
            upper_places=[(330.0, None)], fingers=fingers,
        )  # fmt: skip
        assert judged.mover == mover
    assert dict(judged.against)["pure"] == pytest.approx(cents(331.0, 330.0), abs=0.01)
    assert pure_interval_cents(Pitch.parse("C3"), Pitch.parse("E4")) == pytest.approx(
        1200 + 386.31, abs=0.01
    )


def test_wavering_pairs_are_followed_by_their_own_partials() -> None:
    rate = 12_000
    t = np.arange(2 * rate) / rate
    lower_hz, upper_hz = 195.3, 313.2

    def voice(f_hz: float, extent_cents: float, vibrato_hz: float, gain: float) -> np.ndarray:
        cents = 0.5 * extent_cents * np.sin(2 * np.pi * vibrato_hz * t)
        phase = 2 * np.pi * np.cumsum(f_hz * 2 ** (cents / 1200)) / rate
        return sum(gain * np.cos(k * phase) / k for k in range(1, 12))

    x = voice(lower_hz, 30.0, 5.2, 0.5) + voice(upper_hz, 24.0, 6.1, 1.0)
    lines = follow_lines(x, rate, (lower_hz * 1.004, upper_hz * 0.996))
    assert lines is not None
    for line, true_hz in zip(lines, (lower_hz, upper_hz), strict=True):
        assert abs(cents(line.centre_hz, true_hz)) < 0.5
    track = 1200 * np.log2(lines[0].track_hz / lower_hz)
    low, high = np.percentile(track, [5, 95])
    assert high - low == pytest.approx(30.0, abs=4.0)


def test_an_octave_leaves_the_upper_note_no_partials_of_its_own() -> None:
    t = np.arange(12_000) / 12_000
    x = np.sin(2 * np.pi * 200 * t) + np.sin(2 * np.pi * 400 * t)
    assert follow_lines(x, 12_000, (200.0, 400.0)) is None
