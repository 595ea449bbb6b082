"""Student's t against a general library's."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from jigwright.core.student import student_limit


@given(st.floats(1e-7, 0.999), st.integers(1, 2000))
def test_it_is_the_librarys(chance: float, freedom: int) -> None:
    exact = float(stats.t.isf(0.5 * chance, freedom))
    assert student_limit(chance, freedom) == pytest.approx(exact, rel=2e-5, abs=1e-9)


@pytest.mark.parametrize("freedom", [1, 2, 3, 4, 5, 9, 30, 500])
@pytest.mark.parametrize("chance", [0.9, 0.5, 0.05, 0.01, 0.0003])
def test_few_and_many_degrees_of_freedom(chance: float, freedom: int) -> None:
    exact = float(stats.t.isf(0.5 * chance, freedom))
    assert student_limit(chance, freedom) == pytest.approx(exact, rel=1e-5)


@pytest.mark.parametrize(("chance", "freedom"), [(0.0, 5), (1.0, 5), (-0.1, 5), (0.05, 0)])
def test_what_has_no_t_is_refused(chance: float, freedom: int) -> None:
    with pytest.raises(ValueError, match="no t for"):
        student_limit(chance, freedom)
