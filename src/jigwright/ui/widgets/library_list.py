"""Jigs as cards: title, first bars, what was last played; searched, starred, renamed, binned."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import (
    QByteArray,
    QEvent,
    QModelIndex,
    QRectF,
    QSize,
    Qt,
    QTimer,
    pyqtBoundSignal,
    pyqtSignal,
)
from PyQt6.QtGui import QKeyEvent, QPainter, QPixmap
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.jig.model import Jig
from jigwright.services.engraving import engrave_request
from jigwright.services.library import LibraryRow
from jigwright.services.notation import Engraved, coloured
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import Palette, sans
from jigwright.ui.widgets.labels import label, word_button
from jigwright.wording.catalogue import tr

_PLAIN_PX, _CARD_PX, _NOTES_PX = 46, 84, 36
_INDENT_PX = 16
_SCALE, _WIDTH_PX = 24, 300.0
_ABOVE_PX, _BELOW_PX = 20.0, 12.0  # of the staff, as engraved
_FIRST_BARS = (0, 3)
_OWN_KEYS = (Qt.Key.Key_Delete, Qt.Key.Key_F2, Qt.Key.Key_Return, Qt.Key.Key_Enter)
ROW = Qt.ItemDataRole.UserRole + 1


class _Incipits:
    """First bars of jigs as pictures, engraved one after the other while somebody looks."""

    def __init__(self, jobs: JobRunner, palette: Palette, ready: Callable[[], None]) -> None:
        self._jobs, self.palette, self._ready = jobs, palette, ready
        self._engraved: dict[tuple[str, int], Engraved | None] = {}
        self._drawn: dict[tuple[str, int, str], QPixmap] = {}

    def picture(self, jig: Jig) -> QPixmap | None:
        """The picture, if it is there."""
        engraved = self._engraved.get((jig.id, jig.revision))
        if engraved is None:
            return None
        key = jig.id, jig.revision, self.palette.name
        if key not in self._drawn:
            svg = coloured(engraved.svg, ink=self.palette.ink, faint=self.palette.faint)
            renderer = QSvgRenderer(QByteArray(svg.encode()))
            top = max(0.0, engraved.staff_top - _ABOVE_PX)
            height = engraved.staff_bottom - top + _BELOW_PX
            pixmap = QPixmap(round(engraved.width), max(1, round(height)))
            pixmap.fill(Qt.GlobalColor.transparent)
            painter = QPainter(pixmap)
            renderer.render(painter, QRectF(0, -top, engraved.width, engraved.height))
            painter.end()
            self._drawn[key] = pixmap
        return self._drawn[key]

    def next_of(self, jigs: Sequence[Jig]) -> bool:
        """Begin to engrave the first that lacks its picture; False when none does."""
        jig = next((j for j in jigs if (j.id, j.revision) not in self._engraved), None)
        if jig is None:
            return False
        key = jig.id, jig.revision

        def done(engraved: Engraved | None) -> None:
            self._engraved[key] = engraved
            self._ready()

        bars = (_FIRST_BARS[0], min(_FIRST_BARS[1], len(jig.bars())))
        self._jobs.run(
            "engrave",
            engrave_request(
                jig, scale=_SCALE, target_width=_WIDTH_PX, bars=bars, fingerings=False
            ),
            done=done, failed=lambda _: done(None), key="incipit",
        )  # fmt: skip
        return True


class LibraryList(QWidget):
    """The shelf with its search.

    Signals
    -------
    searched
        Other words are searched, or the bin is shown or left.
    rename, star, put_away, bring_back : object
        Asked for a jig.
    """

    searched = pyqtSignal()
    rename = pyqtSignal(object)
    star = pyqtSignal(object)
    put_away = pyqtSignal(object)
    bring_back = pyqtSignal(object)

    def __init__(self, jobs: JobRunner, palette: Palette) -> None:
        super().__init__()
        self.search = QLineEdit()
        self.search.setFont(sans(14))
        self.search.setPlaceholderText(tr("Search: title, key, tempo, aim"))
        self.search.setAccessibleName(tr("Search the jigs"))
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(lambda _: self.searched.emit())
        self.list = _Cards(self)
        self.bin = word_button("", self._turn_bin)
        self.said = label("", px=13, second=True)
        self.undo = word_button(tr("Bring it back"), lambda: self._undo())
        self._undo: Callable[[], object] = lambda: None
        self.of_the_bin = False
        foot = QHBoxLayout()
        foot.addWidget(self.said, 1)
        foot.addWidget(self.undo)
        foot.addWidget(self.bin)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self.search)
        column.addWidget(self.list, 1)
        column.addLayout(foot)
        self._incipits = _Incipits(jobs, palette, self._came)
        self.list.setItemDelegate(_Card(self._incipits, self.list))
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(60)
        self._soon.timeout.connect(self._engrave_next)
        self.say("", None)

    def show_rows(
        self, rows: Sequence[LibraryRow], lines: Sequence[str], chosen: str | None, n_binned: int
    ) -> int:
        """Fill the list, each card with its line; returns the chosen row, -1 for none."""
        self.list.blockSignals(True)
        self.list.clear()
        at = 0 if rows else -1
        for i, row in enumerate(rows):
            item = QListWidgetItem(row.jig.title)
            item.setData(Qt.ItemDataRole.UserRole, row.jig)
            item.setData(ROW, row)
            item.setData(Qt.ItemDataRole.AccessibleDescriptionRole, lines[i])
            self.list.addItem(item)
            at = i if row.jig.id == chosen else at
        if at >= 0:
            self.list.setCurrentRow(at)
        self.list.blockSignals(False)
        self.bin.setVisible(bool(n_binned) or self.of_the_bin)
        self.bin.setText(
            tr("Back to the shelf") if self.of_the_bin else tr("In the bin: {n}").format(n=n_binned)
        )
        self._soon.start()
        return at

    def say(self, words: str, undo: Callable[[], object] | None) -> None:
        """Say what was done, and offer to take it back."""
        self.said.setText(words)
        self.said.setVisible(bool(words))
        self.undo.setVisible(undo is not None)
        self._undo = undo or (lambda: None)

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._incipits.palette = palette
        self.list.viewport().update()  # type: ignore[union-attr]

    def jig_now(self) -> Jig | None:
        """The chosen jig."""
        item = self.list.currentItem()
        return item.data(Qt.ItemDataRole.UserRole) if item is not None else None

    def menu(self) -> QMenu:
        """What can be done with the chosen jig."""
        menu = QMenu(self)
        jig = self.jig_now()
        rows: tuple[tuple[str, pyqtBoundSignal], ...] = (
            (tr("Rename …") + "   F2", self.rename), (tr("Star") + "   *", self.star),
            (tr("Put it into the bin") + "   Del", self.put_away),
        )  # fmt: skip
        if self.of_the_bin:
            rows = ((tr("Bring it back"), self.bring_back),)
        for text, signal in rows:
            action = menu.addAction(text)
            if action is not None and jig is not None:
                action.triggered.connect(lambda _=False, s=signal, j=jig: s.emit(j))
        return menu

    def key(self, event: QKeyEvent) -> bool:
        """Keys that do something with the chosen jig."""
        jig = self.jig_now()
        if jig is None:
            return False
        by_key = {Qt.Key.Key_Delete: self.put_away, Qt.Key.Key_F2: self.rename}
        signal = by_key.get(Qt.Key(event.key())) or (self.star if event.text() == "*" else None)
        if self.of_the_bin:
            back = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            signal = self.bring_back if back else None
        if signal is None:
            return False
        signal.emit(jig)
        return True

    def _turn_bin(self) -> None:
        self.of_the_bin = not self.of_the_bin
        self.say("", None)
        self.searched.emit()

    def _engrave_next(self) -> None:
        if self.isVisible():
            jigs = [self.list.item(i).data(Qt.ItemDataRole.UserRole)  # type: ignore[union-attr]
                    for i in range(self.list.count())]  # fmt: skip
            self._incipits.next_of(jigs)

    def _came(self) -> None:
        self.list.scheduleDelayedItemsLayout()
        self._soon.start()

    def showEvent(self, event: object) -> None:  # noqa: N802, ARG002
        """Somebody looks: engrave what is missing."""
        self._soon.start()


class _Cards(QListWidget):
    """The list itself."""

    def __init__(self, library: LibraryList) -> None:
        super().__init__()
        self._library = library
        self.setFont(sans(14))
        self.setAccessibleName(tr("Jigs of this studio"))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(
            lambda at: library.menu().exec(self.mapToGlobal(at))
        )

    def event(self, event: QEvent | None) -> bool:
        """Keys of the library are not the window's while somebody stands here."""
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and (event.key() in _OWN_KEYS or event.text() == "*")
        ):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Keys of the library first."""
        if event is None or self._library.key(event):
            return
        super().keyPressEvent(event)


class _Card(QStyledItemDelegate):
    """Paints one card."""

    def __init__(self, incipits: _Incipits, parent: QWidget) -> None:
        super().__init__(parent)
        self._incipits = incipits

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:  # noqa: N802
        """Higher once the first bars are there."""
        row: LibraryRow = index.data(ROW)
        there = row is not None and self._incipits.picture(row.jig) is not None
        return QSize(option.rect.width(), _CARD_PX if there else _PLAIN_PX)

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        """Title, first bars, last played."""
        row: LibraryRow | None = index.data(ROW)
        if painter is None or row is None:
            return
        p = self._incipits.palette
        painter.save()
        box = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, p.color("band"))
        elif option.state & QStyle.StateFlag.State_MouseOver:
            painter.fillRect(box, p.color("hover"))
        inner = box.adjusted(12 + _INDENT_PX * row.depth, 5, -10, -5)
        if row.depth:
            painter.setPen(p.color("line"))
            x = inner.left() - 9
            painter.drawLine(round(x), round(box.top()), round(x), round(box.bottom()))
        painter.setFont(sans(14, bold=row.depth == 0))
        painter.setPen(p.color("ink"))
        star = 18 if row.starred else 0
        title = painter.fontMetrics().elidedText(
            row.jig.title, Qt.TextElideMode.ElideRight, round(inner.width()) - star
        )
        painter.drawText(inner, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, title)
        if row.starred:
            painter.setPen(p.color("accent"))
            painter.drawText(inner, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, "✶")
        painter.setFont(sans(12))
        painter.setPen(p.color("ink2"))
        line = painter.fontMetrics().elidedText(
            index.data(Qt.ItemDataRole.AccessibleDescriptionRole), Qt.TextElideMode.ElideRight,
            round(inner.width()),
        )  # fmt: skip
        painter.drawText(inner, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom, line)
        picture = self._incipits.picture(row.jig)
        if picture is not None:
            place = QRectF(inner.left(), inner.top() + 19, inner.width(), _NOTES_PX)
            scale = _NOTES_PX / max(1, picture.height())
            painter.setClipRect(place)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawPixmap(
                QRectF(place.left(), place.top(), picture.width() * scale, _NOTES_PX), picture,
                QRectF(picture.rect()),
            )  # fmt: skip
        painter.restore()
