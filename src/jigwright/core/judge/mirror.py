"""Down against up along the hair, in the tenth of the bow where they differ most.

Medians over whole strokes hide what happens at one end of the bow: strokes of the same mean may
differ by 5 dB at the frog (B1).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.gauge.values import Stroke
from jigwright.core.gauge_maths import middle_with_range
from jigwright.core.values import Floats, Unmeasured

FEWEST_OF_EACH = 3
_FAMILY_WISE = 1.4  # ten tenths are looked at: 95 % of the largest of them
_FROG, _TIP = 3, 6  # tenths below and above


@dataclass(frozen=True, slots=True, kw_only=True)
class Mirror:
    """Where down and up strokes differ most.

    Parameters
    ----------
    n_down, n_up : int
    difference_db : float
        Down less up in that tenth, each stroke re its own median.
    uncertainty_db : float
        Half its 95 % range, for the largest of ten.
    part : str
        ``frog``, ``middle_of_bow`` or ``tip``.
    """

    n_down: int
    n_up: int
    difference_db: float
    uncertainty_db: float
    part: str

    @property
    def louder(self) -> str:
        """The way that is louder there."""
        return "down" if self.difference_db > 0 else "up"


def measure_mirror(strokes: Sequence[Stroke]) -> Mirror | Unmeasured:
    """Compare the courses of down and up strokes tenth by tenth, from the frog to the tip.

    Parameters
    ----------
    strokes : sequence of Stroke
        Those too short for a course, or of unknown direction, are left out.

    Returns
    -------
    Mirror or Unmeasured
        Reason ``too_few_strokes``: fewer than three of either.
    """
    sides: dict[str, list[Floats]] = {"down": [], "up": []}
    for s in strokes:
        if s.direction in sides and s.tenths_db:
            along = np.asarray(s.tenths_db)
            sides[s.direction].append(along if s.direction == "down" else along[::-1])
    if min(len(v) for v in sides.values()) < FEWEST_OF_EACH:
        return Unmeasured("too_few_strokes")
    differences, ranges = [], []
    for i in range(10):
        (down, half_down), (up, half_up) = (
            middle_with_range([float(course[i]) for course in sides[way]]) for way in ("down", "up")
        )
        differences.append(down - up)
        ranges.append(_FAMILY_WISE * float(np.hypot(half_down, half_up)))
    worst = int(np.argmax(np.abs(differences)))
    return Mirror(
        n_down=len(sides["down"]), n_up=len(sides["up"]), difference_db=differences[worst],
        uncertainty_db=ranges[worst],
        part="frog" if worst < _FROG else "tip" if worst > _TIP else "middle_of_bow",
    )  # fmt: skip
