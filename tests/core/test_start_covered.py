"""How a note starts is not told where the note before hides its beginning."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.gauge.start import measure_start
from jigwright.core.gauge.values import Start
from jigwright.core.sound.heard import Contours
from jigwright.core.values import Unmeasured


@pytest.mark.parametrize(("covered_s", "told"), [(0.0, True), (0.039, True), (0.041, False)])
def test_a_covered_beginning_is_refused(covered_s: float, told: bool) -> None:
    n = 400
    level = np.where(np.arange(n) * 0.005 < 0.55, -60.0, -20.0)  # full tone after 50 ms
    contours = Contours(
        f0_hz=np.full(n, 440.0), level_db=level, clarity=np.full(n, 0.99),
        centroid_hz=np.full(n, 900.0), loudness_db=level,
    )  # fmt: skip
    note = replace(segment(440.0, 0.5, seconds=1.0), covered_s=covered_s)
    found = measure_start(contours, note, blur_s=0.0)
    if told:
        assert isinstance(found, Start)
        assert found.attack_s == pytest.approx(0.05, abs=0.006)
    else:
        assert found == Unmeasured("room_tail")
