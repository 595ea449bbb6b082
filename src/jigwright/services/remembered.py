"""Values a studio remembers as JSON: read whatever stands there.

Who wrote a setting may have been an older version, or a damaged disk: what cannot be read is as if
it had never been kept.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from jigwright.core.checking import read_json
from jigwright.core.errors import JigwrightError
from jigwright.services.ports import StudioPort

T = TypeVar("T")


def remembered(studio: StudioPort, name: str, read: Callable[[Any], T], usual: T) -> T:
    """Read a setting.

    Parameters
    ----------
    studio : StudioPort
    name : str
    read : callable
        Makes the value of what JSON holds; may raise on anything that does not fit.
    usual
        What counts when nothing is kept, or nothing that can be read.
    """
    text = studio.setting(name)
    if not text:
        return usual
    try:
        return read(read_json(text, what=name))
    except (
        JigwrightError, ValueError, TypeError, KeyError, IndexError, AttributeError, OverflowError,
    ):  # fmt: skip
        return usual
