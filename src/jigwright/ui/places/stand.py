"""The Stand: instrument up, screen two metres away, nothing to click."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtCore import QByteArray, QEvent, QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import QMenu, QPushButton, QVBoxLayout, QWidget

from jigwright.core.jig.aims import aims_of
from jigwright.core.jig.model import Jig
from jigwright.core.jig.ways import WAYS_KINDS
from jigwright.core.judge.judging import Context, JudgedNote
from jigwright.core.judge.session_run import SessionRun
from jigwright.core.judge.verdict import Verdict
from jigwright.core.music.instruments import millimetres
from jigwright.core.music.references import pure_strings
from jigwright.services.engraving import engrave_request
from jigwright.services.notation import Engraved, HeadBox, coloured
from jigwright.services.practising import ENOUGH_MINUTES
from jigwright.ui.painting.live import (
    fitted_px,
    fitted_text,
    paint_foot,
    paint_live_pair,
    paint_live_ring,
    paint_live_trace,
    paint_long_bow,
    paint_strings,
    paint_turns,
)
from jigwright.ui.painting.session_strip import paint_session_strip
from jigwright.ui.painting.takes_taken import paint_takes
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import Palette, sans
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.ear_first import EarAnswer
from jigwright.ui.viewmodels.stand.signals import GO_ON
from jigwright.ui.viewmodels.stand.stand_model import Mode, StandModel
from jigwright.ui.viewmodels.stand.turns import bars_of
from jigwright.ui.widgets.aims_menu import AimsMenu
from jigwright.ui.widgets.flow import FlowLayout
from jigwright.ui.widgets.own_keys import claims
from jigwright.wording.aims import listening_for
from jigwright.wording.catalogue import tr
from jigwright.wording.daybook import stage_of
from jigwright.wording.makers import key_name
from jigwright.wording.notes import letter_name
from jigwright.wording.session_run import next_line, rest_words
from jigwright.wording.verdicts import (
    heavy_sentence,
    input_words,
    pair_figures,
    strings_against,
    strings_line,
    strings_word,
    verdict_line,
    verdict_word,
)
from jigwright.wording.ways import ways_title

_SCALE = 88
_SESSION_PX, _SAID_PX = 58, 34
_MOST_SAID = 110


class _Sheet(QWidget):
    """The whole picture of the Stand, painted large."""

    def __init__(self, owner: StandPlace) -> None:
        super().__init__()
        self._owner = owner
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Stand"))

    def event(self, event: QEvent | None) -> bool:
        """Pedals come here, not to the window's shortcuts: only here it is known they are held."""
        return claims(event, (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown)) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Arrows and a page-turn pedal answer, keep and begin; Escape or a pedal held leaves."""
        if event is not None and self._owner.key(Qt.Key(event.key()), held=event.isAutoRepeat()):
            return
        super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """What is listened for can be changed where it is written."""
        if event is not None and self._owner.aims_at(event.position()):
            self._owner.choose_aims()
            return
        super().mousePressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw it."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._owner.paint(painter, QRectF(self.rect()))
        painter.end()


class StandPlace(QWidget):
    """Notation, one word, one line, and whether one is heard."""

    def __init__(
        self, stand: StandModel, session: SessionModel, jobs: JobRunner, palette: Palette
    ) -> None:
        super().__init__()
        self.stand, self._session, self._jobs, self._palette = stand, session, jobs, palette
        self._engraved: Engraved | None = None
        self._svg: QSvgRenderer | None = None
        self._jig: Jig | None = None
        self._event_of: dict[str, int] = {}
        self._words_rect = QRectF()
        self._left = False  # by the pedal that is still held
        self.sheet = _Sheet(self)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(60)
        self._soon.timeout.connect(self._engrave)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.sheet, 1)
        column.addWidget(self._make_row())
        stand.what_stands = self._said
        stand.changed.connect(self._changed)
        stand.moved.connect(self.sheet.update)
        stand.signals.given.connect(self._signalled)
        session.changed.connect(self._changed)

    def key(self, key: Qt.Key, *, held: bool = False) -> bool:
        """Take an arrow or a pedal (page up and down); says whether it meant something.

        The left pedal held down leaves, as Escape does: once, however long it is held.
        """
        stand = self.stand
        if key == Qt.Key.Key_Escape:
            return stand.leave()
        if key == Qt.Key.Key_PageUp and held:
            if not self._left:
                self._left = True
                stand.leave()
            return True
        self._left = False
        if held and key == Qt.Key.Key_PageDown:
            return True
        place = {
            Qt.Key.Key_Left: 0, Qt.Key.Key_PageUp: 0, Qt.Key.Key_Down: 1,
            Qt.Key.Key_Right: 2, Qt.Key.Key_PageDown: 2,
        }.get(key)  # fmt: skip
        if key == Qt.Key.Key_Up:
            return stand.place.back()
        if place is None:
            return False
        answers: tuple[EarAnswer, ...] = ("low", "in", "high")
        if stand.ear.asked is not None:
            stand.answer(answers[place])
        elif self._walks(place):
            pass
        elif stand.guided is not None and stand.guided.asking:
            stand.like(place)
        elif stand.lesson is not None and place != 1:
            (stand.speak if place == 0 else stand.keep_phrase)()
        elif key == Qt.Key.Key_PageDown:
            stand.again()
        elif key == Qt.Key.Key_PageUp:
            stand.tell_direction()
        elif key == Qt.Key.Key_Down and stand.mode == "jig":
            return stand.place.go()
        else:
            return False
        return True

    def _signalled(self, plucks: int) -> None:
        """A signal from the instrument does what its pedal does."""
        self.key(Qt.Key.Key_PageDown if plucks == GO_ON else Qt.Key.Key_PageUp)

    def _walks(self, place: int) -> bool:
        """Right goes on in a session when it asks, rests, or nothing is said; left stays."""
        walk = self.stand.walk
        if walk.run is None or place == 1:
            return False
        if place == 0:
            return walk.asks and walk.back()
        quiet = self.stand.told.verdict is None and self.stand.state != "playing"
        return (walk.asks or walk.rests or quiet) and walk.go()

    def _make_row(self) -> QWidget:
        self._row = row = QWidget()
        row.setObjectName("stand-row")
        row.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        line = FlowLayout(row, across=10, down=6)
        line.setContentsMargins(36, 4, 36, 12)
        s = self.stand
        self._ready = self._button(tr("Be ready"), s.toggle)
        self._ready.setProperty("kind", "first")
        self._drone = self._button(tr("Drone"), s.companions.cycle_drone)
        self._click = self._button(tr("Click"), self._click_menu)
        self._ear = self._button(tr("Ear first"), lambda: s.set_ear_first(not s.ear.on))
        self._strings = self._button(
            tr("Strings"), lambda: s.set_mode("jig" if s.mode == "strings" else "strings")
        )
        self._turns = self._button(tr("My turn, yours"), lambda: s.set_turns(not s.turns.on))
        self._guide = self._button(tr("Guided"), self._guide_menu)
        self._speak = self._button(tr("Aloud"), s.speaking.toggle)
        self._plucks = self._button(tr("Plucks"), s.signals.toggle)
        self._plucks.setToolTip(
            tr("Two plucks of the lowest open string are the right pedal, three the left one.")
        )
        self._direction = self._button(tr("Which way?"), s.tell_direction)
        buttons = (
            self._ready, self._drone, self._click, self._ear, self._strings, self._turns,
            self._guide, self._speak, self._plucks, self._direction,
        )  # fmt: skip
        for button in buttons:
            line.addWidget(button)
        return row

    def _click_menu(self) -> None:
        c = self.stand.companions
        menu = QMenu(self)
        rows: list[tuple[str, Callable[[], None], bool]] = [
            (tr("Metronome"), c.toggle_click, c.click),
            (tr("Count a bar before each take"), c.toggle_count_in, c.count_in),
        ]
        if c.has_cue:
            rows.append((tr("Accompaniment (with headphones)"), c.toggle_cue, c.plays_cue))
        n_first = len(rows)
        for n, name in enumerate(
            (tr("on the beat"), tr("halves"), tr("thirds"), tr("quarters")), 1
        ):
            rows.append(
                (name, partial(c.set_pulse, subdivisions=n), c.click and c.subdivisions == n)
            )
        for n, name in ((0, tr("no silent bars")), (1, tr("every second bar silent")),
                        (3, tr("three bars of four silent"))):  # fmt: skip
            rows.append((name, partial(c.set_pulse, silent_bars=n), c.click and c.silent_bars == n))
        for k, (text, run, on) in enumerate(rows):
            if k in (n_first, n_first + 4):
                menu.addSeparator()
            action = menu.addAction(text)
            if action is not None:
                action.setCheckable(True)
                action.setChecked(on)
                action.triggered.connect(lambda _=False, r=run: self._press(r))
        menu.exec(self._click.mapToGlobal(self._click.rect().topLeft()))
        self._click.setChecked(c.click or c.counts)

    def _guide_menu(self) -> None:
        menu = QMenu(self)
        for text, run in (*self._session_rows(), *self._place_rows()):
            action = menu.addAction(text)
            if action is not None:
                action.triggered.connect(lambda _=False, r=run: self._press(r))
        if menu.actions():
            menu.addSeparator()
        for mode, text in (
            ("slowest", tr("The slowest bow")), ("echo", tr("Echo test: what rings")),
            ("touch", tr("Touch test: what rings along")),
            *((kind, ways_title(kind)) for kind in WAYS_KINDS),
            ("lesson", tr("Lesson: everything is recorded")), ("jig", tr("Back to the jig")),
        ):  # fmt: skip
            action = menu.addAction(text)
            if action is not None:
                action.triggered.connect(lambda _=False, m=mode: self._press_mode(m))
        menu.exec(self._guide.mapToGlobal(self._guide.rect().topLeft()))

    def _session_rows(self) -> list[tuple[str, Callable[[], object]]]:
        """A session by mouse."""
        walk = self.stand.walk
        if walk.run is None:
            return []
        return [
            (tr("On in the session"), walk.go), (tr("Back in the session"), walk.back),
            (tr("Leave the session"), walk.leave),
        ]  # fmt: skip

    def _place_rows(self) -> list[tuple[str, Callable[[], object]]]:
        """What can be done about a weak place of the piece, by mouse."""
        place = self.stand.place
        if place.work is not None:
            return [
                (tr("On to the next step"), place.go), (tr("One step back"), place.back),
                (tr("Leave the steps"), place.leave),
            ]  # fmt: skip
        return [(tr("Work on the weak place"), place.go)] if place.can_go else []

    def _keys(self) -> str:
        """Keys that mean something now."""
        if self.stand.lesson is not None:
            return tr("F8 ends the lesson, all of it is kept")
        if self.stand.mode != "jig":
            return tr("Esc, or the left pedal held, leaves")
        return tr("Space ready · D which way · E ear first · S strings")

    def _press_mode(self, mode: Mode) -> None:
        self._press(lambda: self.stand.set_mode(mode))

    def _button(self, text: str, run: Callable[[], object]) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "second")
        button.setCheckable(True)
        button.setFont(sans(15))
        button.clicked.connect(lambda: self._press(run))
        return button

    def _press(self, run: Callable[[], object]) -> None:
        run()
        self._changed()
        self.sheet.setFocus()

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self._row.setStyleSheet(f"QWidget#stand-row {{ background: {palette.paper}; }}")
        self._load()

    def close_down(self) -> None:
        """Stop waiting work."""
        self._soon.stop()

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802
        """Engrave for the width."""
        super().resizeEvent(event)
        self._soon.start()

    def _changed(self) -> None:
        s = self.stand
        jig = self._session.now.jig
        if jig is not self._jig:
            self._jig = jig
            self._event_of = (
                {h.id: i for i, e in enumerate(jig.events) for h in e.heads} if jig else {}
            )
            self._engraved = self._svg = None
            self._soon.start()
        self._ready.setText(tr("Put the bow down") if s.listening else tr("Be ready"))
        self._ready.setChecked(s.listening)
        self._ready.setEnabled(s.can_record)
        drone = {
            "off": tr("Drone"), "tonic": tr("Drone: tonic"), "fifth": tr("Drone: with fifth"),
            "fifth_alone": tr("Drone: fifth alone"),
        }  # fmt: skip
        self._drone.setText(drone[s.companions.drone])
        self._drone.setChecked(s.companions.drone != "off")
        self._click.setChecked(s.companions.click or s.companions.counts)
        self._ear.setChecked(s.ear.on)
        self._strings.setChecked(s.mode == "strings")
        self._turns.setChecked(s.turns.on)
        self._speak.setChecked(s.speaking.on)
        self._plucks.setChecked(s.signals.on)
        self._guide.setChecked(s.guided is not None or s.lesson is not None)
        self._direction.setChecked(s.told.show_direction)
        self._direction.setVisible(s.told.verdict is not None and s.told.verdict.row is not None)
        self.sheet.setAccessibleDescription(". ".join(w for w in self.words() if w))
        self.sheet.update()

    # notation -----------------------------------------------------------------------------

    def _engrave(self) -> None:
        if self._jig is None:
            return
        request = engrave_request(
            self._jig, scale=_SCALE, target_width=float(max(400, self.width() - 100))
        )
        jig = self._jig

        def done(engraved: Engraved) -> None:
            if jig is self._jig:
                self._engraved = engraved
                self._load()

        def failed(_: Exception) -> None:
            self._engraved = None

        self._jobs.run("engrave", request, done=done, failed=failed, key="stand-score")

    def _load(self) -> None:
        if self._engraved is not None:
            svg = coloured(self._engraved.svg, ink=self._palette.ink, faint=self._palette.faint)
            self._svg = QSvgRenderer(QByteArray(svg.encode()))
        self.sheet.update()

    # painting -----------------------------------------------------------------------------

    def paint(self, painter: QPainter, rect: QRectF) -> None:
        """Draw the Stand."""
        painter.fillRect(rect, self._palette.color("paper"))
        inner = rect.adjusted(36, 22, -36, -14)
        run = self.stand.walk.run
        if run is not None:
            strip = QRectF(inner.left(), inner.bottom() - _SESSION_PX, inner.width(), _SESSION_PX)
            self._paint_session(painter, strip, run)
            inner.setBottom(strip.top() - 8)
        if self.stand.walk.rests:
            self._paint_rest(painter, inner)
            return
        if self.stand.mode == "strings":
            strings = self._session.now.strings
            word, line = self._string_words(len(strings))
            paint_strings(
                painter, inner, strings, self.stand.check.strings, word, line, self._palette
            )
            against = strings_against(strings, self._session.now.a4_hz)
            foot = QRectF(inner.left(), inner.bottom() - 112, inner.width(), 34)
            self._say(painter, foot, against, px=22, ink="ink2",
                      align=Qt.AlignmentFlag.AlignHCenter)  # fmt: skip
        elif not self.stand.follows:
            self._paint_free(painter, inner)
        else:
            self._paint_head(painter, inner)
            told = self._told_lines()
            share = 0.06 if told else 0.42
            height = share * inner.height()
            below = 66 + (_SAID_PX if self.stand.set_words[1] else 0)
            notation = QRectF(inner.left(), inner.top() + below, inner.width(), height)
            if not told:
                self._paint_notation(painter, notation)
            words = QRectF(
                inner.left(), notation.bottom() + 6, inner.width(),
                inner.bottom() - notation.bottom() - 86,
            )  # fmt: skip
            self._paint_words(painter, words)
        foot = QRectF(inner.left(), inner.bottom() - 66, inner.width(), 66)
        open_now = self.stand.listening and self.stand.state != "opening"
        level = self.stand.live.level if open_now else None
        playing, live = self.stand.state == "playing", self.stand.live
        state = live.input_state(playing=playing, beside=self.stand.companions.sounding)
        said = input_words(state, live.room_dbfs, live.level.n_overflows)
        paint_foot(painter, foot, level, playing, said, self._palette, keys=self._keys())

    def _paint_session(self, painter: QPainter, rect: QRectF, run: SessionRun) -> None:
        """Where one is in the session, what is left, and what comes then."""
        bar = QRectF(rect.left(), rect.top(), rect.width(), 20)
        paint_session_strip(painter, bar, run.legs, self._palette, at=run.at, named=False)
        under = QRectF(rect.left(), bar.bottom() + 4, rect.width(), rect.bottom() - bar.bottom())
        walk = self.stand.walk
        if walk.asks:
            self._say(painter, under, walk.line, px=26, ink="accent")
            return
        half = QRectF(under.left(), under.top(), 0.45 * under.width(), under.height())
        self._say(painter, half, walk.line, px=22, ink="ink2")
        rest = under.adjusted(0.45 * under.width(), 0, 0, 0)
        self._say(painter, rest, next_line(run), px=22, ink="ink2",
                  align=Qt.AlignmentFlag.AlignRight)  # fmt: skip

    def _paint_rest(self, painter: QPainter, inner: QRectF) -> None:
        """Nothing is to be played: what to do instead, and how long it lasts."""
        leg = self.stand.walk.leg
        if leg is None:
            return
        word, line = rest_words(leg)
        centre = Qt.AlignmentFlag.AlignHCenter
        big = QRectF(inner.left(), inner.top() + 0.26 * inner.height(), inner.width(), 130)
        self._say(painter, big, word, px=96, old_style=True, align=centre)
        below = QRectF(inner.left(), big.bottom() + 8, inner.width(), 44)
        self._say(painter, below, line, px=28, ink="ink2", align=centre)
        clock = QRectF(inner.left(), below.bottom() + 26, inner.width(), 60)
        left = int(leg.left_s)
        self._say(painter, clock, f"{left // 60}:{left % 60:02}", px=44, ink="ink2", align=centre)

    def _say(self, painter: QPainter, rect: QRectF, text: str, **look: Any) -> None:
        fitted_text(painter, rect, text, self._palette, **look)

    def _string_words(self, n_strings: int) -> tuple[str, str]:
        s = self.stand
        if s.listening or s.check.strings:
            return strings_word(s.check.strings, s.check.peg, n_strings), strings_line(
                s.check.peg, s.check.neighbours
            )
        if s.state == "preparing":
            return tr("A moment"), ""
        return tr("Strings first"), tr("Space, then bow each string slowly.")

    def _paint_head(self, painter: QPainter, inner: QRectF) -> None:
        jig, s = self._jig, self.stand
        title = jig.title if jig is not None else tr("No jig chosen yet")
        self._say(painter, QRectF(inner.left(), inner.top(), inner.width(), 36), title, px=28,
                   old_style=True)  # fmt: skip
        parts = []
        if s.companions.drone != "off" and jig is not None:
            tonic = letter_name(jig.key.tonic)
            parts.append(tr("a {note} drone is sounding").format(note=tonic))
        if jig is not None:
            parts.append(tr("{bpm} to the minute").format(bpm=round(jig.tempo_bpm)))
            parts.append(key_name(jig.key))
        if s.place.where:
            parts[-1:] = [s.place.where]
            self._steps(painter, QRectF(inner.right() - 220, inner.top() + 12, 220, 12))
        elif s.told.n_takes:
            good = s.told.met.count(True)
            parts.append(tr("{n} of {goal} good takes").format(n=good, goal=s.goal))
        self._say(painter, QRectF(inner.left(), inner.top() + 36, inner.width(), 34),
                   " · ".join(parts), px=26, ink="ink2")  # fmt: skip
        who, words = s.set_words
        if words and s.state != "playing":
            short = words if len(words) <= _MOST_SAID else words[: _MOST_SAID - 1].rstrip() + "…"
            said = f"{who}: {short}" if who else short
            line = QRectF(inner.left(), inner.top() + 70, inner.width(), _SAID_PX)
            self._say(painter, line, said, px=24, ink="accent")

    def _steps(self, painter: QPainter, rect: QRectF) -> None:
        """How far one has come: steps behind filled, the one in hand in the accent."""
        at, n = self.stand.place.progress
        width = rect.width() / max(1, n)
        for k in range(n):
            box = QRectF(rect.left() + k * width + 2, rect.top(), width - 4, rect.height())
            painter.setPen(QPen(self._palette.color("accent" if k == at else "ink2"), 1.5))
            painter.setBrush(
                self._palette.color("accent" if k == at else "ink2")
                if k <= at
                else Qt.BrushStyle.NoBrush
            )
            painter.drawRoundedRect(box, 3, 3)

    def _paint_notation(self, painter: QPainter, rect: QRectF) -> None:
        if self._engraved is None or self._svg is None:
            return
        e = self._engraved
        scale = min(1.0, rect.height() / e.height)
        width = e.width * scale
        heads = {self._event_of.get(h.note_id): h for h in e.heads}
        at = self._current_event()
        shift = 0.5 * (rect.width() - width)
        if width > rect.width():
            head = heads.get(at) if at is not None else None
            middle = head.x * scale if head is not None else 0.0
            shift = min(0.0, max(rect.width() - width, 0.3 * rect.width() - middle))
        painter.save()
        painter.setClipRect(rect)
        left, top = rect.left() + shift, rect.top() + 0.5 * (rect.height() - e.height * scale)
        if at is not None and at in heads:
            self._highlight(painter, heads[at], left, rect, scale)
        self._svg.render(painter, QRectF(left, top, width, e.height * scale))
        if self.stand.ear.asked is None:
            self._marks(painter, heads, left, top, scale)
        painter.restore()

    def _current_event(self) -> int | None:
        s = self.stand
        if s.state == "playing":
            jig = self._jig
            if s.live.i_event is None:
                return 0
            return min(s.live.i_event + 1, len(jig.events) - 1) if jig is not None else None
        if s.told.verdict is not None and s.told.verdict.row is not None:
            row = s.told.verdict.row
            if row < len(s.told.notes):
                return s.told.notes[row].measured.lined.i_event
        return None

    def _highlight(
        self, painter: QPainter, head: HeadBox, left: float, rect: QRectF, scale: float
    ) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._palette.color("band"))
        x = left + head.x * scale
        wide = head.width * scale + 30
        painter.drawRoundedRect(QRectF(x - 15, rect.top() + 4, wide, rect.height() - 8), 6, 6)

    def _marks(
        self, painter: QPainter, heads: dict[int | None, HeadBox], left: float, top: float,
        scale: float,
    ) -> None:  # fmt: skip
        """At most three marks: below the staff for low, above for high, a ring for missed."""
        s, e = self.stand, self._engraved
        if s.told.verdict is None or e is None or s.state == "playing":
            return
        for row in s.told.verdict.marks:
            if row >= len(s.told.notes):
                continue
            note = s.told.notes[row]
            head = heads.get(note.measured.lined.i_event)
            if head is None:
                continue
            x, y = left + head.x * scale, top + head.y * scale
            wide = head.width * scale
            if note.cents is None:
                painter.setPen(QPen(self._palette.color("accent"), 3))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(QPointF(x + 0.5 * wide, y), wide, wide)
                continue
            low = note.cents < 0
            staff = (e.staff_bottom if low else e.staff_top) * scale + top
            at = max(y, staff) + 26 if low else min(y, staff) - 34
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._palette.color("low" if low else "high"))
            painter.drawRect(QRectF(x - 6, at, wide + 12, 9))

    def _paint_words(self, painter: QPainter, rect: QRectF) -> None:
        self._words_rect = rect
        s = self.stand
        tall = 0.3 if self._told_lines() else 0.46
        main = QRectF(rect.left(), rect.top(), rect.width(), max(84.0, tall * rect.height()))
        below = QRectF(rect.left(), main.bottom(), rect.width(), 44)
        centre = Qt.AlignmentFlag.AlignHCenter
        word, line = self.words()
        self._say(painter, main, word, px=76, old_style=True, align=centre)
        self._say(painter, below, line, px=28, ink="ink2", align=centre)
        if s.guided is not None and s.state != "playing":
            self._lines(painter, QRectF(rect.left(), below.bottom() + 10, rect.width(),
                                        rect.bottom() - below.bottom() - 10))  # fmt: skip
        elif s.takes_turns and s.told.verdict is not None and s.state != "playing":
            strip = QRectF(rect.left() + 0.1 * rect.width(), below.bottom() + 8, 0.8 * rect.width(),
                           max(40.0, rect.bottom() - below.bottom() - 12))  # fmt: skip
            both = (s.turns.model_bars(), bars_of(s.told.notes))
            paint_turns(painter, strip, both, self._palette)
        elif s.state != "playing":
            at = QPointF(rect.center().x(), below.bottom() + 20)
            if s.told.n_takes:
                paint_takes(painter, at, s.told.met, s.goal, self._palette)
            top = below.bottom() + (36 if s.told.n_takes else 8)
            under = QRectF(rect.left(), min(top, rect.bottom() - 26), rect.width(), 34)
            self._say(painter, under, s.place.line, px=26, ink="accent", align=centre)
        elif not s.hide_live and s.guided is None:
            trace = rect.adjusted(0.14 * rect.width(), 12, -0.14 * rect.width(), -6)
            fifths = self._jig.key.fifths if self._jig else 0
            now = s.live.now.time_s if s.live.now is not None else 0.0
            a4_hz = self._session.now.a4_hz
            if s.live.pair is None:
                paint_live_trace(painter, trace, s.live.trace, now, a4_hz, fifths, self._palette)
                if s.live.ring is not None:
                    strings = self._session.now.strings
                    paint_live_ring(painter, trace, s.live.ring, now, strings, self._palette)
            else:
                paint_live_pair(
                    painter, trace, pair_figures(s.live.pair, a4_hz, fifths), self._palette
                )

    def _paint_free(self, painter: QPainter, inner: QRectF) -> None:
        """Without a jig: one long stroke with its running clock, or a lesson."""
        s = self.stand
        title = QRectF(inner.left(), inner.top(), inner.width(), 36)
        name = tr("Lesson") if s.lesson is not None else tr("The slowest bow")
        self._say(painter, title, name, px=28, old_style=True)
        word, line = self.words()
        centre = Qt.AlignmentFlag.AlignHCenter
        big = QRectF(inner.left(), inner.top() + 0.2 * inner.height(), inner.width(), 150)
        self._say(painter, big, word, px=120 if s.guided is not None else 84, old_style=True,
                  align=centre)  # fmt: skip
        below = QRectF(inner.left(), big.bottom() + 8, inner.width(), 44)
        self._say(painter, below, line, px=28, ink="ink2", align=centre)
        bar = QRectF(inner.left() + 60, below.bottom() + 30, inner.width() - 120, 26)
        if s.guided is not None:
            paint_long_bow(painter, bar, s.guided.bow, self._palette)
        elif s.listening:
            clock = f"{int(s.live.level.seconds) // 60}:{int(s.live.level.seconds) % 60:02}"
            self._say(painter, bar.adjusted(0, 0, 0, 20), clock, px=32, ink="ink2", align=centre)

    def _told_lines(self) -> list[str]:
        """Figures of a guided trial that may be seen now."""
        s = self.stand
        return [] if s.guided is None or s.state == "playing" else s.guided.lines()

    def _lines(self, painter: QPainter, rect: QRectF) -> None:
        lines = self._told_lines()[:4]
        step = min(52.0, rect.height() / max(1, len(lines)))
        px = fitted_px(lines, rect.width(), min(30.0, 0.7 * step))  # of one size, to be compared
        for k, text in enumerate(lines):
            row = QRectF(rect.left(), rect.top() + k * step, rect.width(), step)
            self._say(painter, row, text, px=px, align=Qt.AlignmentFlag.AlignHCenter)

    def words(self) -> tuple[str, str]:
        """What stands in the middle: the main word, and the line under it."""
        s = self.stand
        if s.signals.asks is not None:
            return s.signals.words()
        if s.walk.rests and s.walk.leg is not None:
            return rest_words(s.walk.leg)
        if s.guided is not None and s.state not in ("preparing", "opening", "judging"):
            return s.guided.words(
                listening=s.listening, playing=s.state == "playing", i_event=s.live.i_event
            )
        if s.lesson is not None and s.state not in ("preparing", "opening"):
            return s.lesson.words(listening=s.listening)
        doing = {
            "preparing": (tr("A moment"), tr("The simulated player takes up the instrument.")),
            "opening": (tr("A moment"), tr("The microphone is being opened.")),
            "judging": (tr("Listening back"), ""), "counting": (str(s.before.beat), ""),
            "model": (tr("Listen"), tr("Then it is your turn, for as long.")),
            "playing": ("", ""),
        }  # fmt: skip
        if s.state in doing:
            return doing[s.state]
        if s.told.verdict is not None:
            return self._verdict_words(s.told.verdict)
        if s.takes_turns and s.listening:
            return tr("Your turn"), ""
        if s.listening:
            begins = tr("It starts by itself and ends by itself.")
            return tr("Play when ready"), self._listening_for() or begins
        if not s.can_record:
            return tr("Only to look at"), tr("This studio is open in another window.")
        if self._jig is None:
            return (
                tr("A first scale"),
                tr("Space makes one and listens. In Jigs there are more exercises."),
            )
        ready = tr("Space when you are ready. Nothing else to press.")
        return tr("Take up your instrument"), self._listening_for() or ready

    def _said(self) -> tuple[str, str]:
        """What is spoken after a take; nothing where nothing was said."""
        return self.words() if self.stand.told.verdict is not None else ("", "")

    def aims_menu(self) -> AimsMenu | None:
        """What the jig is for, to be changed."""
        if self._jig is None or self.stand.read_only:
            return None
        return AimsMenu(self._jig, self._session.revise_jig, self.stand.message.emit, self)

    def aims_at(self, place: QPointF) -> bool:
        """Whether what is listened for is written there."""
        line = self._listening_for()
        return bool(line) and self.words()[1] == line and self._words_rect.contains(place)

    def choose_aims(self) -> None:
        """Open it in the middle of the place."""
        menu = self.aims_menu()
        if menu is not None:
            menu.exec(self.sheet.mapToGlobal(self.sheet.rect().center()))

    def _listening_for(self) -> str:
        """What the jig is for; empty where nobody asked for anything of its own."""
        if self._jig is None:
            return ""
        stage = stage_of(self._jig.id, self._jig.instrument_id)
        return f"{stage} {listening_for(aims_of(self._jig))}".strip()

    def _verdict_words(self, verdict: Verdict) -> tuple[str, str]:
        s = self.stand
        hidden = s.ear.asked is not None
        word = verdict_word(verdict, direction=s.told.show_direction, hidden=hidden)
        line = verdict_line(
            verdict, direction=s.told.show_direction, hidden=hidden, millimetres=self._millimetres()
        )
        if s.ear.was_right is not None:
            score = s.ear.score
            said = tr("Your ear was right.") if s.ear.was_right else tr("The ear missed it.")
            line = f"{said} " + tr("{right} of {n} so far.").format(
                right=score.right, n=score.asked
            )
        elif s.told.proposed_tolerance is not None and verdict.kind == "clean":
            line += "" if line.endswith(".") else "."
            line += " " + tr("Next, try ± {c} cents.").format(c=round(s.told.proposed_tolerance))
        said_once = s.watch.is_news or verdict.kind == "clean"  # else it would hide what to mend
        if s.watch.sentence and said_once and not hidden:
            line = s.watch.sentence
        if s.after.heavy_minutes >= ENOUGH_MINUTES:
            line = heavy_sentence(s.after.heavy_minutes)
        if s.break_due:
            line = tr("You have played for a good while: put the bow down, move, breathe.")
        return word, line

    def _millimetres(self) -> float | None:
        s, jig = self.stand, self._jig
        if s.told.verdict is None or s.told.verdict.row is None or jig is None:
            return None
        if s.told.verdict.row >= len(s.told.notes):
            return None
        note = s.told.notes[s.told.verdict.row]
        return finger_distance_mm(note, jig, self._session.context())


def finger_distance_mm(note: JudgedNote, jig: Jig, context: Context) -> float | None:
    """How far the finger must move along the string of the fingering.

    ``None`` without a fingering, and for a note that is not of this jig.
    """
    lined = note.measured.lined
    if lined.i_event is None or lined.i_event >= len(jig.events) or note.cents is None:
        return None
    head = jig.events[lined.i_event].heads[-1]
    if head.id != lined.note_id:
        return None
    if head.string is None or head.finger in (None, 0) or head.string >= len(context.strings):
        return None
    string = context.strings[head.string]
    open_hz = pure_strings(context.strings, context.a4_hz)[string]
    length = context.length_mm
    return millimetres(-note.cents, note.target_hz, open_hz, length)
