"""Degrees over what sounds: by spelling, and either of two good places."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aim_builders import note
from builders import segment
from jigwright.core.gauge.values import Double
from jigwright.core.jig.line import jig_from_line
from jigwright.core.judge.doubles import judge_double, purer_place
from jigwright.core.judge.judging import Context, JudgedNote, judge
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch, PitchClass, cents_to_ratio, hz_to_cents
from jigwright.core.music.references import (
    EQUAL,
    PYTHAGOREAN,
    Reference,
    just,
    just_answers,
    just_ratio,
    over_sounding,
    parse_scale,
    pure_interval_cents,
    target_hz,
    targets_hz,
)
from jigwright.services.session import Session
from jigwright.wording.measures import answer_text, double_texts

C, G = PitchClass("C"), PitchClass("G")
PLAIN = Double(
    lower_hz=294.0, upper_hz=440.0, lower_uncertainty_cents=0.5, upper_uncertainty_cents=0.5,
    interval_cents=702.0, uncertainty_cents=0.7, beats_hz=float("nan"), beating_partials=(3, 2),
    balance_db=0.0, balance_uncertainty_db=1.0, both_ratio=1.0,
)  # fmt: skip
P = Pitch.parse


@pytest.mark.parametrize(
    ("fifths", "ratio", "cents"),
    [(0, (1, 1), 0.0), (1, (3, 2), 701.96), (4, (5, 4), 386.31), (3, (5, 3), 884.36),
     (6, (45, 32), 590.22), (-6, (64, 45), 609.78), (8, (25, 16), 772.63), (-4, (8, 5), 813.69),
     (7, (135, 128), 92.18), (-5, (16, 15), 111.73), (9, (75, 64), 274.58), (-3, (6, 5), 315.64),
     (-8, (32, 25), 427.37), (10, (225, 128), 976.54), (-7, (48, 25), 1129.33)],
)  # fmt: skip
def test_pure_ratios_go_by_spelling(fifths: int, ratio: tuple[int, int], cents: float) -> None:
    assert just_ratio(fifths) == ratio
    assert just_answers(fifths)[0].cents == pytest.approx(cents, abs=0.01)


@given(st.integers(-14, 14))
def test_a_sharp_leads_up_by_a_pure_semitone_and_no_answer_is_far(fifths: int) -> None:
    first, *others = just_answers(fifths)
    assert 0.0 <= first.cents < 1200.0
    assert first.is_first
    assert all(15.0 < abs(o.cents - first.cents) < 25.0 and not o.is_first for o in others)
    if fifths > 6:
        led = just_answers(fifths - 5)[0].cents
        assert (led - first.cents) % 1200.0 == pytest.approx(111.73, abs=0.01)
    if fifths < -6:
        led = just_answers(fifths + 5)[0].cents
        assert (first.cents - led) % 1200.0 == pytest.approx(111.73, abs=0.01)


def test_which_degrees_have_two_good_places() -> None:
    two = {f: just_answers(f)[1].ratio for f in range(-6, 7) if len(just_answers(f)) == 2}
    assert two == {
        -6: (1024, 729), -2: (16, 9), 2: (10, 9), 3: (27, 16), 5: (243, 128), 6: (729, 512),
    }  # fmt: skip
    assert just_answers(2)[1].cents == pytest.approx(182.40, abs=0.01)
    assert just_answers(5)[1].cents == pytest.approx(1109.78, abs=0.01)


def test_intervals_go_by_spelling_and_whole_octaves() -> None:
    assert pure_interval_cents(P("C4"), P("G#4")) == pytest.approx(772.63, abs=0.01)
    assert pure_interval_cents(P("C4"), P("Ab4")) == pytest.approx(813.69, abs=0.01)
    assert pure_interval_cents(P("C4"), P("Ab5")) == pytest.approx(2013.69, abs=0.01)
    assert pure_interval_cents(P("B3"), P("Cb4")) == pytest.approx(41.06, abs=0.01)
    assert pure_interval_cents(P("G3"), P("G3")) == 0.0


def over(reference: Reference, low: str, high: str) -> float:
    a, b = (target_hz(reference, P(n), 440.0) for n in (low, high))
    return hz_to_cents(b, a)


def test_a_drone_moves_what_is_pure() -> None:
    assert over(just(C), "C4", "A4") == pytest.approx(884.36, abs=0.01)
    assert over(over_sounding(just(C), G), "C4", "A4") == pytest.approx(905.87, abs=0.01)
    assert over_sounding(just(C), None) == just(C)
    assert over_sounding(EQUAL, G) == EQUAL
    assert over_sounding(PYTHAGOREAN, G) == PYTHAGOREAN
    session = Session()
    assert session.context().reference == EQUAL
    pure = replace(session, view=replace(session.view, reference="just:C"))
    assert pure.context().reference == just(C)
    assert replace(pure, sounds=G).context().reference == just(G)


def test_only_degrees_over_a_tonic_have_several_places() -> None:
    assert targets_hz(EQUAL, P("D4"), 440.0) == ((target_hz(EQUAL, P("D4"), 440.0), None),)
    assert len(targets_hz(just(C), P("E4"), 440.0)) == 1
    (first, one), (second, other) = targets_hz(just(C), P("D4"), 440.0)
    assert one is not None
    assert other is not None
    assert (one.ratio, other.ratio) == ((9, 8), (10, 9))
    assert hz_to_cents(first, second) == pytest.approx(21.51, abs=0.01)


def steps(n: int) -> Reference:
    text = f"x\n {n}\n" + "\n".join(f" {1200.0 * k / n:.6f}" for k in range(1, n + 1))
    return parse_scale(text, name="steps.scl", tonic=C)


@pytest.mark.parametrize(
    ("n", "sharp", "flat"), [(12, 800.0, 800.0), (19, 757.89, 821.05), (31, 774.19, 812.90),
                             (53, 815.09, 792.45)]
)  # fmt: skip
def test_scales_go_by_spelling_too(n: int, sharp: float, flat: float) -> None:
    assert over(steps(n), "C4", "G#4") == pytest.approx(sharp, abs=0.01)
    assert over(steps(n), "C4", "Ab4") == pytest.approx(flat, abs=0.01)
    assert over(steps(n), "C4", "C5") == pytest.approx(1200.0)


def test_a_scale_of_twelve_uneven_keys_has_one_for_each_whatever_lies_nearer() -> None:
    cents = [70, 240, 300, 420, 490, 560, 690, 760, 930, 990, 1110, 1200]
    text = "x\n 12\n" + "\n".join(f" {c}.0" for c in cents)
    scale = parse_scale(text, name="uneven.scl", tonic=C)
    assert over(scale, "C4", "D4") == pytest.approx(240.0)
    assert over(scale, "C4", "F#4") == pytest.approx(560.0)
    assert over(scale, "C4", "B3") == pytest.approx(-90.0)


def test_a_scale_without_a_fifth_goes_by_keys() -> None:
    text = "x\n 3\n 400.0\n 800.0\n 1200.0\n"
    scale = parse_scale(text, name="three.scl", tonic=C)
    assert over(scale, "C4", "G4") == pytest.approx(800.0)
    assert over(scale, "C4", "D#4") == pytest.approx(400.0)


def context(reference: Reference) -> Context:
    violin = instrument("violin")
    return Context(
        instrument_id="violin", strings=violin.strings, a4_hz=440.0, reference=reference,
        tolerance_cents=8.0,
    )  # fmt: skip


def one(name: str, cents: float, reference: Reference) -> JudgedNote:
    jig = jig_from_line(name, jig_id="one", instrument_id="violin", title="One")
    hz = target_hz(reference, P(name), 440.0) * cents_to_ratio(cents)
    measured = replace(note(jig, 0).measured, segment=segment(hz, 0.5))
    return judge([measured], jig, context(reference))[0]


@pytest.mark.parametrize(
    ("cents", "ratio", "off", "standing"),
    [(0.0, (9, 8), 0.0, "in"), (-10.0, (9, 8), -10.0, "low"), (-11.5, (10, 9), 10.0, "high"),
     (-21.5, (10, 9), 0.0, "in"), (-32.0, (10, 9), -10.5, "low"), (12.0, (9, 8), 12.0, "high")],
)  # fmt: skip
def test_the_nearer_of_two_good_places_counts(
    cents: float, ratio: tuple[int, int], off: float, standing: str
) -> None:
    note = one("D5", cents, just(C))
    assert note.answer is not None
    assert note.answer.ratio == ratio
    assert note.cents == pytest.approx(off, abs=0.1)
    assert note.standing == standing


def test_a_degree_with_one_place_keeps_it() -> None:
    note = one("E5", -21.5, just(C))
    assert (note.answer, note.standing) == (None, "low")
    assert one("D5", -21.5, PYTHAGOREAN).answer is None


def stop(low_cents: float, high_cents: float) -> Double:
    low, high = (target_hz(just(C), P(n), 440.0) for n in ("D4", "F4"))
    low, high = low * cents_to_ratio(low_cents), high * cents_to_ratio(high_cents)
    return replace(PLAIN, lower_hz=low, upper_hz=high, interval_cents=hz_to_cents(high, low))


def judged(low_cents: float, high_cents: float):  # type: ignore[no-untyped-def]
    return judge_double(
        stop(low_cents, high_cents), lower=P("D4"), upper=P("F4"),
        lower_places=targets_hz(just(C), P("D4"), 440.0),
        upper_places=targets_hz(just(C), P("F4"), 440.0),
    )  # fmt: skip


def test_d_and_f_over_a_pure_c_are_narrow_or_pure_and_it_is_said_why() -> None:
    written = judged(0.0, 0.0)
    assert written.interval_error_cents == pytest.approx(0.0, abs=1e-6)
    assert dict(written.against)["pure"] == pytest.approx(-21.51, abs=0.01)
    assert written.lower_answer is not None
    assert written.lower_answer.ratio == (9, 8)
    assert written.purer is not None
    assert (written.purer[0], written.purer[1].ratio) == ("lower", (10, 9))
    pure = judged(-21.5, 0.0)
    assert pure.lower_answer is not None
    assert pure.lower_answer.ratio == (10, 9)
    assert pure.interval_error_cents == pytest.approx(0.0, abs=0.1)
    assert pure.purer is None
    assert dict(t[:2] for t in double_texts(stop(-21.5, 0.0), pure, tonic=C))["Interval"] == (
        "pure, ± 0.7 cents"
    )
    texts = dict(t[:2] for t in double_texts(stop(0.0, 0.0), written, tonic=C))
    assert "as 9:8 over C" in texts["Lower note"]
    assert "narrow of pure" in texts["Interval"]
    assert "the lower note at 10:9 would make it pure" in texts["Interval"]
    assert "over" not in texts["Upper note"]


def test_the_stop_as_a_whole_chooses() -> None:
    low, high = targets_hz(just(C), P("D4"), 440.0), targets_hz(just(C), P("A4"), 440.0)
    between = replace(PLAIN, lower_hz=low[0][0] * cents_to_ratio(-10.0),
                      upper_hz=high[0][0] * cents_to_ratio(12.0))  # fmt: skip
    found = judge_double(between, lower=P("D4"), upper=P("A4"), lower_places=low, upper_places=high)
    assert found.lower_answer is not None
    assert found.upper_answer is not None
    assert (found.lower_answer.ratio, found.upper_answer.ratio) == ((9, 8), (27, 16))
    assert found.purer is None  # a pure fifth as they are


def test_the_upper_voice_may_be_the_one_that_makes_it_pure() -> None:
    low, high = targets_hz(just(C), P("E4"), 440.0), targets_hz(just(C), P("D5"), 440.0)
    taken = (low[0], high[0])
    pure = hz_to_cents(high[1][0], low[0][0])
    found = purer_place(pure, taken, low, high)
    assert found is not None
    assert (found[0], found[1].ratio) == ("upper", (10, 9))
    assert purer_place(pure + 1.2, taken, low, high) is None
    assert purer_place(hz_to_cents(high[0][0], low[0][0]), taken, low, high) is None


def test_which_place_in_words() -> None:
    assert answer_text(None, C) == ""
    assert answer_text(just_answers(2)[0], None) == ""
    assert answer_text(just_answers(2)[1], C) == "10:9 over C; 9:8 is as good"


@pytest.mark.parametrize(
    ("names", "low_cents", "high_cents", "lower", "upper"),
    [
        # over G: nearer to the leading note, but a stop wants its pure sixth
        (("A3", "F#4"), 0.0, 14.5, (9, 8), (15, 8)),
        # no other two places are pure, so the usual ones hold
        (("A3", "F#4"), -21.5, 0.0, (9, 8), (15, 8)),
        # over G: C and A at its usual place, a comma wide of pure, or at the one that is pure
        (("C4", "A4"), 0.0, 0.0, None, (9, 8)),
        (("C4", "A4"), 0.0, -12.0, None, (10, 9)),
        (("C4", "A4"), 0.0, -10.0, None, (9, 8)),
    ],
)
def test_a_stop_has_its_usual_places_or_such_as_make_it_pure(
    names: tuple[str, str],
    low_cents: float,
    high_cents: float,
    lower: tuple[int, int] | None,
    upper: tuple[int, int],
) -> None:
    places = [targets_hz(just(G), P(n), 440.0) for n in names]
    low, high = (p[0][0] * cents_to_ratio(c)
                 for p, c in zip(places, (low_cents, high_cents), strict=True))  # fmt: skip
    played = replace(PLAIN, lower_hz=low, upper_hz=high, interval_cents=hz_to_cents(high, low))
    found = judge_double(
        played, lower=P(names[0]), upper=P(names[1]), lower_places=places[0],
        upper_places=places[1],
    )  # fmt: skip
    assert (found.lower_answer.ratio if found.lower_answer else None) == lower
    assert found.upper_answer is not None
    assert found.upper_answer.ratio == upper
    at = next(hz for hz, a in places[1] if a is not None and a.ratio == upper)
    assert found.upper_target_hz == pytest.approx(at)
