"""Engraved notation as values."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class HeadBox:
    """Where a notehead stands, in pixels of the engraving.

    Parameters
    ----------
    note_id : str
    x, y, width, height : float
        ``y`` is the middle of the head.
    """

    note_id: str
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Engraved:
    """Notation, usually one endless line.

    Parameters
    ----------
    svg : str
        Drawn in ``INK``; noteheads are groups with the id ``h-`` + element id.
    width, height : float
        Pixels.
    staff_top, staff_bottom : float
        The outer staff lines.
    heads : tuple of HeadBox
        In score order.
    """

    svg: str
    width: float
    height: float
    staff_top: float
    staff_bottom: float
    heads: tuple[HeadBox, ...]


INK = "#010203"
"""Placeholder colour that a theme replaces."""
FAINT = "#040506"
"""The same for what is proposed and not written."""


def coloured(svg: str, *, ink: str, faint: str) -> str:
    """Engraved notation in the colours of a theme."""
    return svg.replace(INK, ink).replace(FAINT, faint)


@dataclass(frozen=True, slots=True, kw_only=True)
class EngraveRequest:
    """What to engrave.

    Parameters
    ----------
    mei : str
    head_ids : tuple of (str, str)
        Pairs of note id and element id.
    scale : int
        Staff size; 40 gives a staff about 29 px high.
    target_width : float
        Wished width in pixels; the line is wider when the notes need it.
    wrap : bool
        Break into as many lines as the width asks for instead of one endless line.
    """

    mei: str
    head_ids: tuple[tuple[str, str], ...]
    scale: int
    target_width: float
    wrap: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetRequest:
    """One sheet of a score that is broken into lines and into sheets.

    Parameters
    ----------
    engrave : EngraveRequest
        With ``wrap``.
    height : float
        Pixels that a sheet may take.
    index : int
        From 0; the last one when there are fewer.
    """

    engrave: EngraveRequest
    height: float
    index: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """An engraved sheet, which of how many."""

    index: int
    n_sheets: int
    engraved: Engraved
