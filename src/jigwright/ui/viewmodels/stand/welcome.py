"""The first minutes: who plays, what on, the strings once, one scale."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.music.instruments import instrument
from jigwright.services.moments import utc_now
from jigwright.services.recording import InputDevice
from jigwright.services.records import OwnedInstrument, Player
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.jigs.jig_tools import first_jig
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.stand_model import StandModel
from jigwright.wording.catalogue import tr

Stage = Literal["", "strings", "scale", "done"]
_SETTING = "welcome"
_BREATH_MS = 2500


class Welcome(QObject):
    """Leads from an empty studio to the first sentence about a scale.

    Signals
    -------
    message : str
    begun
        Names are known: the Stand is next.
    """

    message = pyqtSignal(str)
    begun = pyqtSignal()

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        stand: StandModel,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._studio, self._session, self._stand = studio, session, stand
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_BREATH_MS)
        self._timer.timeout.connect(self._go_on)
        stand.changed.connect(self._watch)

    @property
    def stage(self) -> Stage:
        """How far it has come."""
        text = self._studio.setting(_SETTING)
        return text if text in ("strings", "scale", "done") else ""  # type: ignore[return-value]

    @property
    def needed(self) -> bool:
        """Whether somebody is here for the first time."""
        studio = self._studio
        demo = bool(studio.setting("demo"))
        return not studio.read_only and not demo and not self.stage and not studio.takes()

    def begin(self, name: str, kind: str, called: str, device: InputDevice | None) -> None:
        """Take the answers and go to the strings.

        Raises
        ------
        JigwrightError
            If they cannot be kept.
        """
        studio = self._studio
        player = self._session.now.player or Player(id="player-first", name="")
        studio.add_player(replace(player, name=name.strip()[:80] or tr("Me")))
        owned = self._session.now.instrument
        studio.add_instrument(
            OwnedInstrument(
                id=owned.id if owned is not None else "instrument-first", name=called.strip()[:80],
                kind=kind, strings=instrument(kind).strings,
            )
        )  # fmt: skip
        studio.set_setting(_SETTING, "strings")
        self._session.load()
        if device is not None:
            self._stand.choose_device(device)
        self._stand.set_mode("strings")
        self.begun.emit()

    def skip(self) -> None:
        """Somebody would rather look around."""
        self._studio.set_setting(_SETTING, "done")

    def close_down(self) -> None:
        """Stop waiting."""
        self._timer.stop()

    def _watch(self) -> None:
        stage = self.stage
        if stage == "strings" and self._stand.mode == "strings":
            owned = self._session.now.instrument
            heard = len(self._stand.check.strings)
            if owned is not None and heard >= len(owned.strings) and not self._timer.isActive():
                self._timer.start()
        elif stage == "scale" and self._stand.told.n_takes:
            self._studio.set_setting(_SETTING, "done")
            self.message.emit(
                tr("Your first take is kept. At the Desk every note of it can be seen and heard.")
            )

    def _go_on(self) -> None:
        owned = self._session.now.instrument
        if owned is None or self.stage != "strings":
            return
        jig = first_jig(owned.kind)
        if not any(j.id == jig.id for j in self._studio.jigs()):
            self._studio.add_jig(jig, utc=utc_now())
        self._studio.set_setting(_SETTING, "scale")
        self._session.set_jig(jig)
        self._stand.set_mode("jig")
        self.message.emit(tr("All strings were heard. Now one scale, slowly."))
