"""The words at the right of the header and their menus: what every number depends on."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMenu, QWidget

from jigwright.core.errors import JigwrightError
from jigwright.core.music.instruments import (
    LONGEST_MM,
    SHORTEST_MM,
    instrument,
    parse_strings,
)
from jigwright.services.recording import SIMULATED, InputDevice
from jigwright.services.records import OwnedInstrument
from jigwright.services.settling_in import add_instrument, add_player
from jigwright.services.studio_port import StudioPort
from jigwright.services.take_reader import AS_PLAYED, View
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.desk.take_prints import ShownTake
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.stand_model import StandModel
from jigwright.ui.widgets.header import Header
from jigwright.wording.catalogue import LANGUAGES, language_now, tr
from jigwright.wording.errors import error_sentence
from jigwright.wording.instruments import ask_length_words, length_words
from jigwright.wording.makers import kind_name
from jigwright.wording.notes import (
    NOTE_NAMES,
    note_names_name,
    pitch_name,
    read_pitch,
    reference_name,
    typed_name,
)
from jigwright.wording.verdicts import input_name

_COMMON_A = (415.0, 430.0, 440.0, 441.0, 442.0, 443.0)
_LOOK_MS = 4_000
_TOLERANCES = (5.0, 8.0, 10.0, 15.0, 20.0, 30.0)


class ContextMenus:
    """Fills and writes the context words of the header.

    Parameters
    ----------
    window : QWidget
    header : Header
    studio : StudioPort
    session : SessionModel
    model : ShownTake
    run_command, say : callable
    stand : StandModel
    jobs : JobRunner
    """

    def __init__(
        self,
        window: QWidget,
        header: Header,
        studio: StudioPort,
        session: SessionModel,
        model: ShownTake,
        *,
        run_command: Callable[[str], None],
        say: Callable[[str], None],
        stand: StandModel,
        jobs: JobRunner,
    ) -> None:
        self._say = say
        self._window, self._header, self._model = window, header, model
        self._studio, self._session = studio, session
        self._run = run_command
        self._stand, self._jobs = stand, jobs
        self._inputs: tuple[InputDevice, ...] = ()
        self._looked = False
        self._input_shown: QMenu | None = None
        self._watch = QTimer(window)
        self._watch.setInterval(_LOOK_MS)
        self._watch.timeout.connect(self._look_again)
        stand.changed.connect(self.refresh)
        header.add_chip("player", tr("Player"), self._player_menu)
        header.add_chip("instrument", tr("Instrument"), self._instrument_menu)
        header.add_chip("a4", tr("Tuning A"), self._a_menu)
        header.add_chip("reference", tr("Tuning reference and tolerance"), self._reference_menu)
        header.add_chip("input", tr("Input"), self._input_menu)

    def watch_inputs(self, wished: bool) -> None:
        """Look again and again while the Stand waits: a microphone may be plugged in later."""
        if wished:
            self._watch.start()
        else:
            self._watch.stop()

    def _look_again(self) -> None:
        if not self._stand.listening:
            self.look_for_inputs()

    def look_for_inputs(self) -> None:
        """Ask the worker what can be recorded from; a menu that is open shows it at once."""

        def done(found: tuple[InputDevice, ...]) -> None:
            before = {one.id for one in self._inputs} if self._looked else None
            news = found != self._inputs
            self._inputs, self._looked = found, True
            self._stand.offer_inputs(found)
            now = self._stand.device
            if before is not None and now.id not in before and now in found:
                self._say(tr("{name} is there now.").format(name=now.name))
            if news and self._input_shown is not None and self._input_shown.isVisible():
                self._input_shown.clear()
                self._fill_inputs(self._input_shown)

        self._jobs.run("list_inputs", None, done=done, failed=lambda _: None, key="inputs")

    def refresh(self) -> None:
        """Write the words."""
        m, h = self._model, self._header
        context = m.context()
        now = self._session.now
        h.set_chip("player", now.player.name if now.player else tr("no player"))
        owned = now.instrument
        h.set_chip(
            "instrument",
            f"{kind_name(owned.kind)} {owned.name}".strip() if owned else tr("no instrument"),
        )
        h.set_chip("a4", f"A {context.a4_hz:g}")
        text = reference_name(context.reference.name)
        if context.checked_hz and context.reference.kind == "ring":
            text += tr(", strings as checked")
        h.set_chip("reference", f"{text} ±{context.tolerance_cents:g} c")
        as_played = self._session.now.view == AS_PLAYED
        for name in ("a4", "reference"):
            font = h.chip(name).font()
            font.setItalic(not as_played)
            h.chip(name).setFont(font)
        at_stand = self._stand.at_stand
        taken = input_name(m.take.input_name) if m.take else tr("from file")
        h.set_chip("input", self._stand.device.name if at_stand else taken)

    def _add(
        self, menu: QMenu, text: str, run: Callable[[], object], *, chosen: bool = False
    ) -> None:
        action = menu.addAction(text)
        if action is None:
            return
        action.setCheckable(chosen)
        action.setChecked(chosen)
        action.triggered.connect(lambda _=False: run())

    def _view(
        self,
        *,
        a4_hz: float | None = None,
        reference: str | None = None,
        tolerance_cents: float | None = None,
    ) -> None:
        """Change one part of what figures are shown against."""
        now = self._session.now.view
        self._session.set_view(
            View(
                a4_hz=a4_hz or now.a4_hz,
                reference=reference or now.reference,
                tolerance_cents=tolerance_cents or now.tolerance_cents,
            )
        )

    def _player_menu(self, menu: QMenu) -> None:
        now = self._session.now.player
        for player in self._studio.players():
            self._add(menu, player.name, partial(self._session.set_player, player),
                      chosen=now is not None and player.id == now.id)  # fmt: skip
        menu.addSeparator()
        self._add(menu, tr("Add a player …"), self._new_player)
        menu.addSeparator()
        self._add(menu, tr("Back this studio up …"), lambda: self._run("backup"))
        names = menu.addMenu(tr("Note names"))
        if names is not None:
            for one in NOTE_NAMES:
                self._add(names, note_names_name(one), partial(self._session.set_note_names, one),
                          chosen=one == self._session.note_names)  # fmt: skip
        language = menu.addMenu(tr("Language"))
        if language is not None:
            for code, name in LANGUAGES:
                self._add(language, name, partial(self._set_language, code),
                          chosen=code == language_now())  # fmt: skip

    def _set_language(self, code: str) -> None:
        if self._studio.read_only:
            return
        self._studio.set_setting("language", code)
        self._say(tr("The window speaks the other language from its next start on."))

    def _instrument_menu(self, menu: QMenu) -> None:
        now = self._session.now.instrument
        for owned in self._studio.instruments():
            strings = " ".join(pitch_name(s) for s in owned.strings)
            self._add(menu, f"{kind_name(owned.kind)} {owned.name} ({strings})".replace("  ", " "),
                      partial(self._session.set_instrument, owned),
                      chosen=now is not None and owned.id == now.id)  # fmt: skip
        menu.addSeparator()
        if now is not None and not self._studio.read_only:
            self._add(menu, length_words(now), partial(self._ask_length, now))
        self._add(menu, tr("Add an instrument …"), self._new_instrument)

    def _a_menu(self, menu: QMenu) -> None:
        m = self._model
        now = m.context().a4_hz
        values = sorted({*_COMMON_A, now, *([m.take.a4_hz] if m.take else [])})
        for hz in values:
            self._add(menu, f"A {hz:g} Hz", partial(self._view, a4_hz=hz),
                      chosen=hz == now)  # fmt: skip
        if m.judged is not None and m.judged.tuning.estimated_a4_hz is not None:
            own = round(m.judged.tuning.estimated_a4_hz, 1)
            self._add(menu, tr("Your own A in this take: {hz} Hz").format(hz=own),
                      lambda: self._view(a4_hz=own))  # fmt: skip
        menu.addSeparator()
        self._add(menu, tr("Another A …"), self._other_a)
        self._as_played(menu)

    def _reference_menu(self, menu: QMenu) -> None:
        m = self._model
        jig = m.take_jig() or self._session.now.jig
        now = m.context().reference.name
        names = ["equal", "pythagorean", "ring", "meantone"]
        if jig is not None:
            names.insert(2, f"just:{jig.key.tonic}")
            dominant = type(jig.key.tonic).from_fifths(jig.key.tonic.fifths + 1)
            names.insert(3, f"just:{dominant}")
        if now not in names:
            names.append(now)
        for name in names:
            self._add(menu, reference_name(name),
                      partial(self._view, reference=name), chosen=name == now)  # fmt: skip
        self._add(menu, tr("Scale file …"), self._scale_file)
        menu.addSeparator()
        tolerance = m.context().tolerance_cents
        for cents in sorted({*_TOLERANCES, tolerance}):
            self._add(menu, tr("within ±{c} cents").format(c=f"{cents:g}"),
                      partial(self._view, tolerance_cents=cents),
                      chosen=cents == tolerance)  # fmt: skip
        self._as_played(menu)

    def _input_menu(self, menu: QMenu) -> None:
        self._input_shown = menu
        self._fill_inputs(menu)
        self.look_for_inputs()

    def _fill_inputs(self, menu: QMenu) -> None:
        stand = self._stand
        simulated = InputDevice(id=SIMULATED, name=input_name(SIMULATED))
        for device in (simulated, *self._inputs):
            self._add(menu, device.name, partial(stand.choose_device, device),
                      chosen=device.id == stand.device.id)  # fmt: skip
        if not self._inputs:
            action = menu.addAction(tr("No microphone was found"))
            if action is not None:
                action.setEnabled(False)
        menu.addSeparator()
        if stand.loop.can_begin(stand.device.id):
            self._add(menu, tr("Line up metronome and microphone"), stand.measure_loop)
        self._add(menu, tr("Bring in a recording …"), lambda: self._run("import"))

    def _as_played(self, menu: QMenu) -> None:
        if self._session.now.view != AS_PLAYED:
            menu.addSeparator()
            self._add(menu, tr("As it was played"), lambda: self._session.set_view(View()))

    def _other_a(self) -> None:
        m = self._model
        value, ok = QInputDialog.getDouble(
            self._window, tr("Another A"), tr("Hz, 380 to 470"), m.context().a4_hz, 380.0, 470.0, 1
        )
        if ok:
            self._session.set_view(replace(self._session.now.view, a4_hz=value))

    def _scale_file(self) -> None:
        m = self._model
        name, _ = QFileDialog.getOpenFileName(
            self._window, tr("Scale file"), "", tr("Scale files (*.scl)")
        )
        if not name:
            return
        jig = m.take_jig() or self._session.now.jig
        text = f"{name}:{jig.key.tonic}" if jig is not None else name
        try:
            self._session.set_view(replace(self._session.now.view, reference=text))
        except JigwrightError as error:
            self._say(error_sentence(error))

    def _new_player(self) -> None:
        name, ok = QInputDialog.getText(self._window, tr("Add a player"), tr("Name"))
        if ok and name.strip():
            self._session.set_player(add_player(self._studio, name.strip()))

    def _new_instrument(self) -> None:
        kinds = ("violin", "viola", "cello", "bass")
        names = [kind_name(kind) for kind in kinds]
        kind, ok = QInputDialog.getItem(
            self._window, tr("Add an instrument"), tr("Kind"), names, 0, editable=False
        )
        if not ok:
            return
        usual = " ".join(typed_name(s) for s in instrument(kinds[names.index(kind)]).strings)
        strings, ok = QInputDialog.getText(
            self._window,
            tr("Add an instrument"),
            tr("Strings, low to high (four or five)"),
            text=usual,
        )
        if not ok:
            return
        name, ok = QInputDialog.getText(
            self._window, tr("Add an instrument"), tr("Its name, if it has one")
        )
        if not ok:
            return
        one = kinds[names.index(kind)]
        length = self._length(one, None)
        try:
            plain = " ".join(str(read_pitch(word)) for word in strings.split())
            owned = add_instrument(
                self._studio, one, name.strip(), parse_strings(plain), string_length_mm=length
            )
        except JigwrightError as error:
            self._say(error_sentence(error))
            return
        self._session.set_instrument(owned)

    def _ask_length(self, owned: OwnedInstrument) -> None:
        """Ask for the string length of an instrument; every millimetre stands on it."""
        length = self._length(owned.kind, owned.string_length_mm)
        if length is None:
            return
        try:
            self._studio.add_instrument(replace(owned, string_length_mm=length))
        except JigwrightError as error:
            self._say(error_sentence(error))

    def _length(self, kind: str, known: float | None) -> float | None:
        """A string length in millimetres; ``None`` when nobody says one."""
        usual = known or instrument(kind).string_length_mm
        value, ok = QInputDialog.getDouble(
            self._window, tr("String length"), ask_length_words(), usual, SHORTEST_MM, LONGEST_MM, 1
        )
        return value if ok else None
