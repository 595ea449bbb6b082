from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jigwright.core.jig.model import Jig
from jigwright.core.judge.analysis import Judged, follow_and_measure, judge_take
from jigwright.core.judge.compare import compare_takes
from jigwright.core.judge.findings import PastLanding, mean_with_range
from jigwright.core.judge.judging import Context
from jigwright.core.music.instruments import INSTRUMENTS, instrument
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.music.references import EQUAL, PYTHAGOREAN, RING, Reference, just, pure_strings
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play
from jigwright.core.tone import RATE_HZ, target_tone
from jigwright.wording.catalogue import use_language
from jigwright.wording.findings import finding_advice, finding_sentence, finding_title
from jigwright.wording.notes import cents_text, low_high, reference_name
from signals import listen, perform, scale


def context(kind: str = "violin", reference: Reference = EQUAL, a4_hz: float = 440.0) -> Context:
    return Context(
        instrument_id=kind, strings=instrument(kind).strings, a4_hz=a4_hz, reference=reference,
        tolerance_cents=10.0,
    )  # fmt: skip


def judged(jig: Jig, faults: str, *, past: tuple[PastLanding, ...] = (), seed: int = 1) -> Judged:
    heard = listen(perform(jig, faults, seed=seed))
    _, measured = follow_and_measure(heard, jig, a4_hz=440.0, instrument_id=jig.instrument_id)
    return judge_take(measured, jig, context(jig.instrument_id), past=past)


def test_ring_tuning_follows_the_strings_as_they_were_checked() -> None:
    jig = scale()
    measured = follow_and_measure(listen(perform(jig)), jig, a4_hz=440.0, instrument_id="violin")[1]
    ring = context(reference=RING)
    d4 = Pitch.parse("D4")
    sharp = replace(ring, checked_hz={d4: ring.open_hz[d4] * 2 ** (8 / 1200)})
    plain, checked = (judge_take(measured, jig, c).notes for c in (ring, sharp))
    shift = {str(a.pitch): a.cents - b.cents for a, b in zip(plain, checked, strict=True)}
    assert (shift["D5"], shift["D4"]) == pytest.approx((8.0, 8.0))
    assert (shift["A4"], shift["E4"]) == pytest.approx((0.0, 0.0))


def test_low_and_high_with_distance() -> None:
    result = judged(scale(), "detune notes=2 cents=-14; detune notes=5 cents=22")
    low, high = result.notes[2], result.notes[5]
    assert (low.standing, high.standing) == ("low", "high")
    assert low.off_mm is not None
    assert high.off_mm is not None
    assert low.off_mm > 0 > high.off_mm  # low: towards the bridge
    assert abs(low.off_mm) == pytest.approx(2.1, abs=0.2)
    assert result.notes[0].off_mm is None  # an open string has no finger
    assert result.notes[0].standing == "in"


def test_another_a_or_reference_moves_every_figure_without_hearing_again() -> None:
    jig = scale()
    heard = listen(perform(jig))
    _, measured = follow_and_measure(heard, jig, a4_hz=440.0, instrument_id="violin")
    one = judge_take(measured, jig, context())
    two = judge_take(measured, jig, context(a4_hz=442.0))
    for a, b in zip(one.notes, two.notes, strict=True):
        assert a.cents is not None
        assert b.cents is not None
        assert a.cents - b.cents == pytest.approx(7.85, abs=0.01)
    pure = judge_take(measured, jig, context(reference=just(PitchClass("D"))))
    assert pure.notes[2].cents == pytest.approx(13.69 + 1.96, abs=0.3)


@pytest.mark.parametrize("kind", sorted(INSTRUMENTS))
def test_clean_takes_get_no_finding(kind: str) -> None:
    for seed in range(3):
        result = judged(scale(kind), "detune spread_cents=2; unsteady spread_ms=8", seed=seed)
        assert result.findings == ()


def test_wrong_and_missed_notes_are_said() -> None:
    result = judged(scale(), "wrong notes=4 semitones=1; miss notes=9")
    ids = {f.id for f in result.findings}
    assert {"wrong_note", "missed_notes"} <= ids
    for f in result.findings:
        assert finding_title(f, instrument("violin").strings)
        assert finding_sentence(f).endswith(".")


def test_a_habit_needs_several_takes() -> None:
    jig = scale()
    fault = "detune notes=2 cents=-18"
    alone = judged(jig, fault)
    assert [f.id for f in alone.findings] == ["note_off"]
    note_id = jig.events[2].heads[0].id

    def before(*cents: float) -> tuple[PastLanding, ...]:
        return tuple(
            PastLanding(
                take_id=str(k), note_id=e.heads[0].id, uncertainty_cents=0.5,
                cents=c if e.heads[0].id == note_id else 1.0 * ((i + k) % 3 - 1),
            )
            for k, c in enumerate(cents)
            for i, e in enumerate(jig.events)
        )  # fmt: skip

    past = before(-16.0, -19.0, -15.0, -20.0)
    habit = judged(jig, fault, past=past).findings[0]
    assert habit.id == "note_habit"
    assert habit.values["n_takes"] == 5
    assert "low" in finding_sentence(habit)
    mixed = before(15.0, -12.0, 9.0, -3.0)
    assert judged(jig, fault, past=mixed).findings[0].id == "note_off"


def test_tuning_is_recognised_only_when_the_notes_tell() -> None:
    jig = scale("violin", octaves=2)
    for reference in (EQUAL, PYTHAGOREAN, just(PitchClass("D"))):
        performance = play(
            jig, seed=2, reference=reference, a4_hz=441.5,
            faults=parse_faults("detune spread_cents=1.5"),
        )  # fmt: skip
        heard = listen(performance)
        _, measured = follow_and_measure(heard, jig, a4_hz=440.0, instrument_id="violin")
        tuning = judge_take(measured, jig, context()).tuning
        assert tuning.best_reference == reference.name
        assert tuning.estimated_a4_hz == pytest.approx(441.5, abs=0.6)
    wild = judged(jig, "detune spread_cents=14").tuning
    assert wild.best_reference is None
    assert judged(scale("violin"), "miss notes=3,4,5,6,7,8,9,10,11,12").tuning.by_reference == ()


def test_mean_with_range() -> None:
    mean, half = mean_with_range([1.0, 2.0, 3.0])
    assert (mean, round(half, 2)) == (2.0, 2.48)
    assert mean_with_range([5.0])[1] == float("inf")


def test_words() -> None:
    assert cents_text(-14.4) == "−14"
    assert cents_text(0.3) == "0"
    assert low_high(-14) == "14 low"
    assert reference_name("just:F#") == "pure over F♯"
    use_language("pseudo")
    try:
        assert reference_name("equal").startswith("⟦")
    finally:
        use_language("en")


def test_target_tone_is_moderate_and_soft_edged() -> None:
    tone = target_tone(440.0, 1.0)
    assert len(tone) == RATE_HZ
    assert 0.02 < float(np.abs(tone).max()) < 0.2
    assert abs(float(tone[0])) < 1e-6
    assert abs(float(tone[-1])) < 1e-6


def bow_found(faults: str, jig=None):
    from jigwright.core.judge.bow_findings import find_bow
    from jigwright.core.judge.judging import judge
    from jigwright.core.judge.playing import measure_playing

    jig = jig or scale(tempo=70)
    performance = perform(jig, faults)
    strings = pure_strings(instrument("violin").strings, 440.0)
    _, measured = follow_and_measure(listen(performance), jig, a4_hz=440.0, instrument_id="violin")
    playing = measure_playing(listen(performance), measured, jig, strings)
    context = Context(
        instrument_id="violin", strings=instrument("violin").strings, a4_hz=440.0,
        reference=EQUAL, tolerance_cents=10.0,
    )  # fmt: skip
    return find_bow(judge(measured, jig, context), playing, jig)


def test_the_bow_is_spoken_of_only_when_it_did_something() -> None:
    assert bow_found("detune spread_cents=6; vibrato extent_cents=30") == []
    broken = bow_found("bounce notes=4 depth_db=14 width_ms=40")
    assert [(f.id, f.notes) for f in broken] == [("bow_bounce", (4,))]
    shaking = bow_found("tremor notes=3,9 rate_hz=6.5 depth_db=6")
    assert [f.id for f in shaking] == ["bow_shake"]
    assert shaking[0].values["rate_hz"] == pytest.approx(6.5, abs=0.3)
    twice = bow_found("scratch notes=2,8 db=-6 seconds=0.15")
    assert [(f.id, f.values["n"]) for f in twice] == [("bow_scratch", 2.0)]
    for finding in (*broken, *shaking, *twice):
        assert finding_title(finding, instrument("violin").strings)
        assert finding_sentence(finding)
        assert finding_advice(finding)


def test_a_wanted_gap_is_no_lost_string() -> None:
    jig = scale(tempo=70)
    lifted = replace(jig, events=tuple(replace(e, lifted=True) for e in jig.events))
    assert bow_found("bounce notes=4 depth_db=14 width_ms=40", lifted) == []


def test_two_takes_are_compared_note_by_note() -> None:
    jig = scale()
    one = judged(jig, "detune notes=2 cents=-20; detune notes=5 cents=3").notes
    two = judged(jig, "detune notes=5 cents=25; gain db=-4; miss notes=7", seed=2).notes
    pairs, whole = compare_takes(one, two, levels=True)
    assert len(pairs) == 15
    assert whole.n == 14
    assert whole.n_nearer >= 1
    assert whole.n_farther >= 1
    assert whole.louder_db == pytest.approx(-4.0, abs=1.0)
    assert whole.brighter == pytest.approx(1.0, abs=0.08)
    assert pairs[7].two_cents is None
    apart, whole = compare_takes(one, two, levels=False)
    assert whole.louder_db is None
    assert all(p.brighter is None for p in apart)
    same, whole = compare_takes(one, one, levels=True)
    assert (whole.n_nearer, whole.n_farther) == (0, 0)
    assert all(p.louder_db == 0.0 for p in same if p.louder_db is not None)
