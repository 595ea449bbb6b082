"""What lies under the notes of a jig: its bow plan, or the map of a piece."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from jigwright.core.jig.model import Jig
from jigwright.core.jig.spot_path import FEWEST_BARS
from jigwright.core.judge.piece_map import Played
from jigwright.services.records import TakeRecord
from jigwright.ui.theme import Palette, sans
from jigwright.ui.widgets.bow_plan_view import BowPlanView
from jigwright.ui.widgets.piece_map_view import PieceMapView
from jigwright.wording.catalogue import tr

_TURNS_PX, _ALL_PX = 34, 16_777_215


class BelowNotes(QWidget):
    """Two pictures of a jig, one at a time; a jig of few bars has no map.

    Parameters
    ----------
    palette : Palette
    takes_of, read : callable
        As :class:`~jigwright.ui.widgets.piece_map_view.PieceMapView` takes them.
    """

    def __init__(
        self, palette: Palette, takes_of: Callable[[Jig], list[TakeRecord]],
        read: Callable[[TakeRecord], Played | None],
    ) -> None:  # fmt: skip
        super().__init__()
        self.plan = BowPlanView(palette)
        self.map = PieceMapView(palette, takes_of, read)
        self._jig: Jig | None = None
        self.turn_to_plan = self._turn(tr("Bow plan"), of_map=False)
        self.turn_to_map = self._turn(tr("Map"), of_map=True)
        group = QButtonGroup(self)
        row = QHBoxLayout()
        for button in (self.turn_to_plan, self.turn_to_map):
            group.addButton(button)
            row.addWidget(button)
        row.addStretch(1)
        self.turn_to_plan.setChecked(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(row)
        column.addWidget(self.plan, 1)
        column.addWidget(self.map, 1)
        self.map.hide()

    def _turn(self, text: str, *, of_map: bool) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "turn")
        button.setFont(sans(14, bold=True))
        button.setCheckable(True)
        button.clicked.connect(lambda: self.show_side(of_map=of_map))
        return button

    def show_jig(self, jig: Jig | None) -> None:
        """Another jig, seen from the side that was seen before."""
        self._jig = jig
        self.show_side(of_map=self.turn_to_map.isChecked())

    def show_side(self, *, of_map: bool) -> None:
        """Show the map, or the bow plan."""
        has_map = self._jig is not None and len(self._jig.bars()) >= FEWEST_BARS
        for button in (self.turn_to_plan, self.turn_to_map):
            button.setVisible(has_map)
        (self.turn_to_map if of_map else self.turn_to_plan).setChecked(True)
        shown = of_map and has_map
        self._fit(shown)
        self.plan.setVisible(not shown)
        self.map.setVisible(shown)
        if shown:
            self.map.show_jig(self._jig)
            self._fit(True)
        else:
            self.map.close_down()

    def _fit(self, of_map: bool) -> None:
        """A map takes no more room than it fills; the notes get the rest."""
        most = self.map.wanted_height(self.width()) + _TURNS_PX if of_map else _ALL_PX
        self.setMaximumHeight(most)

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802
        """Another width, other rows of bars."""
        super().resizeEvent(event)
        if self.map.isVisibleTo(self):
            self._fit(True)

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self.plan.set_palette(palette)
        self.map.set_palette(palette)

    def close_down(self) -> None:
        """Read nothing more."""
        self.map.close_down()
