"""Down against up, tenth by tenth along the hair."""

from __future__ import annotations

import pytest

from jigwright.core.gauge.values import Stroke
from jigwright.core.gauge_maths import middle_with_range
from jigwright.core.judge.mirror import Mirror, measure_mirror
from jigwright.core.values import Unmeasured
from jigwright.wording.pages import mirror_sentence

FLAT = (0.0,) * 10


def stroke(direction: str, tenths: tuple[float, ...] = FLAT) -> Stroke:
    return Stroke(
        start_s=0.0, end_s=2.0, direction=direction, rows=(0,), steadiness_db=0.2,
        end_hurry_db=0.0, slope_db_per_s=0.0, mean_dbfs=-20.0, tenths_db=tenths,
    )  # fmt: skip


def bump(tenth: int, db: float, base: float = 0.0) -> tuple[float, ...]:
    return tuple(db if i == tenth else base for i in range(10))


def strokes(down: list[tuple[float, ...]], up: list[tuple[float, ...]]) -> list[Stroke]:
    return [stroke("down", t) for t in down] + [stroke("up", t) for t in up]


@pytest.mark.parametrize(
    ("tenth", "part"),
    [(0, "frog"), (2, "frog"), (3, "middle_of_bow"), (6, "middle_of_bow"), (7, "tip"), (9, "tip")],
)
def test_it_names_the_part_of_the_bow_where_they_differ_most(tenth: int, part: str) -> None:
    found = measure_mirror(strokes([bump(tenth, 5.0)] * 3, [FLAT] * 3))
    assert isinstance(found, Mirror)
    assert (found.difference_db, found.part, found.louder) == (5.0, part, "down")
    # an up stroke begins at the tip: its last tenth lies at the frog
    other = measure_mirror(strokes([FLAT] * 3, [bump(9 - tenth, 5.0)] * 3))
    assert isinstance(other, Mirror)
    assert (other.difference_db, other.part, other.louder) == (-5.0, part, "up")


def test_strokes_that_are_alike_from_frog_to_tip_are_mirrors() -> None:
    falling = tuple(2.0 - 0.4 * i for i in range(10))
    found = measure_mirror(strokes([falling] * 3, [falling[::-1]] * 3))
    assert isinstance(found, Mirror)
    assert found.difference_db == pytest.approx(0.0)
    same_course = measure_mirror(strokes([falling] * 3, [falling] * 3))
    assert isinstance(same_course, Mirror)
    assert abs(same_course.difference_db) == pytest.approx(3.6)


@pytest.mark.parametrize(("n_down", "n_up", "told"), [(3, 3, True), (2, 9, False), (9, 2, False)])
def test_three_of_each_are_needed(n_down: int, n_up: int, *, told: bool) -> None:
    found = measure_mirror(strokes([FLAT] * n_down, [FLAT] * n_up))
    assert isinstance(found, Mirror) is told
    if isinstance(found, Unmeasured):
        assert found.reason == "too_few_strokes"
    else:
        assert (found.n_down, found.n_up) == (n_down, n_up)


def test_short_strokes_and_those_without_a_direction_do_not_count() -> None:
    some = [*strokes([FLAT] * 2, [FLAT] * 3), stroke("down", ()), stroke("unknown")]
    assert isinstance(measure_mirror(some), Unmeasured)


def test_the_range_is_that_of_the_largest_of_ten() -> None:
    levels = [4.0, 5.0, 6.5, 5.5, 4.5, 5.2]
    found = measure_mirror(strokes([bump(1, v) for v in levels], [FLAT] * 6))
    assert isinstance(found, Mirror)
    assert found.uncertainty_db == pytest.approx(1.4 * middle_with_range(levels)[1])


def mirror(difference: float, range_db: float, part: str = "frog") -> Mirror:
    return Mirror(n_down=4, n_up=4, difference_db=difference, uncertainty_db=range_db, part=part)


@pytest.mark.parametrize(
    ("difference", "range_db", "said"),
    [
        (5.0, 1.0, "Down strokes are 5.0 ± 1.0 dB louder at the frog."),
        (-2.5, 1.0, "Up strokes are 2.5 ± 1.0 dB louder at the frog."),
        (2.4, 1.0, "Whether down and up are alike cannot be told: they differ by 2.4"),
        (2.4, 0.6, "Down strokes are 2.4 ± 0.6 dB louder"),
        (2.0, 0.9, "Down and up are alike within 3 dB all along the bow."),
        (0.1, 0.1, "Down and up are alike within 1 dB all along the bow."),
    ],
)  # fmt: skip
def test_alike_is_said_of_the_worst_tenth_with_its_range(
    difference: float, range_db: float, said: str
) -> None:
    assert mirror_sentence(mirror(difference, range_db), 0, 8).startswith(said)


def test_lost_contact_comes_first_and_a_refusal_last() -> None:
    words = mirror_sentence(Unmeasured("too_few_strokes"), 2, 8)
    assert words.startswith("The bow lost the string in 2 strokes of 8.")
    assert "Too few long strokes" in words
    assert "tip" in mirror_sentence(mirror(5.0, 1.0, "tip"), 0, 8)
    assert "middle" in mirror_sentence(mirror(5.0, 1.0, "middle_of_bow"), 1, 8)
