"""The engraved sheets of one score, one below the other; only those in sight are drawn."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import accumulate

from PyQt6.QtCore import QByteArray, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtSvg import QSvgRenderer

from jigwright.services.notation import Engraved, HeadBox, Sheet, coloured


@dataclass(slots=True)
class _Drawn:
    engraved: Engraved
    svg: QSvgRenderer
    fresh: bool
    ahead: bool = False


class Sheets:
    """Sheets as they come from the engraver; old ones stand until theirs has come anew.

    Parameters
    ----------
    ink, faint : str
        Colours of the notation and of what is proposed.
    """

    def __init__(self, ink: str, faint: str) -> None:
        self._ink, self._faint = ink, faint
        self._drawn: list[_Drawn | None] = []

    def begin(self) -> None:
        """Another score, or the same one changed, is being engraved."""
        for one in self._drawn:
            if one is not None:
                one.fresh = False

    def clear(self) -> None:
        """No score."""
        self._drawn = []

    def put(self, sheet: Sheet) -> None:
        """Take one sheet in."""
        del self._drawn[sheet.n_sheets :]
        self._drawn += [None] * (sheet.n_sheets - len(self._drawn))
        self._drawn[sheet.index] = self._draw(sheet.engraved)

    def put_ahead(self, index: int, engraved: Engraved) -> None:
        """Take in a part that stands in for a sheet until all lines are broken anew."""
        self._drawn += [None] * (index + 1 - len(self._drawn))
        self._drawn[index] = self._draw(engraved, ahead=True)

    def set_ink(self, ink: str, faint: str) -> None:
        """Change the theme."""
        self._ink, self._faint = ink, faint
        for one in self._drawn:
            if one is not None:
                one.svg = self._draw(one.engraved).svg

    @property
    def wanted(self) -> int | None:
        """The first sheet that has not come yet."""
        return next(
            (i for i, d in enumerate(self._drawn) if d is None or d.ahead or not d.fresh), None
        )

    @property
    def whole(self) -> Engraved | None:
        """Everything that has come of the present score as if on one sheet; its SVG is empty."""
        fresh = [d.engraved for d in self._drawn if d is not None and d.fresh]
        if not fresh:
            return None
        heads = [
            replace(h, y=h.y + top)
            for d, top in zip(self._drawn, self.tops(), strict=True)
            if d is not None and d.fresh
            for h in d.engraved.heads
        ]
        return replace(fresh[0], svg="", height=self.height, heads=tuple(heads))

    @property
    def height(self) -> float:
        """Height of all sheets in pixels of the engraving."""
        return sum(self._heights())

    @property
    def width(self) -> float:
        """Width of the widest sheet."""
        return max((d.engraved.width for d in self._drawn if d is not None), default=0.0)

    def at(self, y: float) -> int:
        """The sheet that lies at a height."""
        tops = self.tops()
        return max((i for i, top in enumerate(tops) if top <= y), default=0)

    def note_ids(self, index: int) -> tuple[str, ...]:
        """Notes of a sheet, of the present score or the one before."""
        one = self._drawn[index] if index < len(self._drawn) else None
        return tuple(h.note_id for h in one.engraved.heads) if one is not None else ()

    def heads(self) -> tuple[HeadBox, ...]:
        """Noteheads of the present score, on all sheets that have come."""
        whole = self.whole
        return whole.heads if whole is not None else ()

    def tops(self) -> list[float]:
        """Where each sheet begins."""
        return list(accumulate(self._heights(), initial=0.0))[:-1]

    def paint(
        self, painter: QPainter, left: float, top: float, scale: float, sight: QRectF
    ) -> None:
        """Draw the sheets that are in sight."""
        for one, y in zip(self._drawn, self.tops(), strict=True):
            if one is None:
                continue
            where = QRectF(
                left, top + y * scale, one.engraved.width * scale, one.engraved.height * scale
            )
            if where.intersects(sight):
                one.svg.render(painter, where)

    def _heights(self) -> list[float]:
        known = [d.engraved.height for d in self._drawn if d is not None]
        usual = max(known, default=0.0)
        return [usual if d is None else d.engraved.height for d in self._drawn]

    def _draw(self, engraved: Engraved, *, ahead: bool = False) -> _Drawn:
        svg = coloured(engraved.svg, ink=self._ink, faint=self._faint)
        return _Drawn(engraved, QSvgRenderer(QByteArray(svg.encode())), fresh=True, ahead=ahead)
