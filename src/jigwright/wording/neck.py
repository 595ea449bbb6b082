"""Where a note is stopped, in a sentence."""

from __future__ import annotations

from jigwright.core.music.pitch import Pitch
from jigwright.core.music.tables import DistanceRow
from jigwright.wording.catalogue import tr
from jigwright.wording.notes import pitch_name, string_name


def place_sentence(string: Pitch, row: DistanceRow) -> str:
    """Place, step from the half step below, and what a slip of a millimetre costs."""
    return tr(
        "{string}, {note}: {mm} mm from the nut, {step} mm above the half step below. "
        "A millimetre is {cents} c."
    ).format(
        string=string_name(string), note=pitch_name(row.pitch), mm=f"{row.from_nut_mm:.0f}",
        step=f"{row.step_mm:.1f}", cents=f"{10.0 / row.ten_cents_mm:.1f}",
    )  # fmt: skip
