"""The present session, for everybody in the window; no widgets."""

from __future__ import annotations

from dataclasses import replace
from typing import TypeVar

from PyQt6.QtCore import QObject, pyqtSignal

from jigwright.core.jig.model import Jig
from jigwright.core.judge.judging import Context
from jigwright.core.music.pitch import PitchClass
from jigwright.services.moments import utc_now
from jigwright.services.recording import InputDevice
from jigwright.services.records import Changed, OwnedInstrument, Player, TakeRecord
from jigwright.services.session import (
    Session,
    SessionStore,
    after_showing,
    keep_revision,
    session_at_start,
    with_jig,
    with_player,
    with_view,
)
from jigwright.services.take_reader import View
from jigwright.wording.catalogue import language_now
from jigwright.wording.notes import NOTE_NAMES, NoteNames, use_note_names, use_tonic

T = TypeVar("T", Player, OwnedInstrument, Jig)


class SessionModel(QObject):
    """Holds the :class:`~jigwright.services.session.Session`; choices are remembered.

    Parameters
    ----------
    studio : SessionStore

    Signals
    -------
    changed : frozenset of str
        Which parts differ: ``player``, ``instrument``, ``jig``, ``view``, ``words``,
        ``drone``, ``all``.
    """

    changed = pyqtSignal(object)

    def __init__(self, studio: SessionStore, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._studio = studio
        self.now = Session()
        self.note_names: NoteNames = "letters"

    def load(self) -> None:
        """Take what was chosen last."""
        self.now = session_at_start(self._studio, self.now)
        kept = self._studio.setting("note_names")
        usual: NoteNames = "german" if language_now() == "de" else "letters"
        self.note_names = next((n for n in NOTE_NAMES if n == kept), usual)
        use_note_names(self.note_names)
        self.changed.emit(frozenset({"all"}))

    def follow(self, changed: Changed) -> None:
        """Players, instruments or jigs of the studio differ: hold what they are now."""
        if not changed.what & {"players", "instruments", "jigs"}:
            return
        now = self.now
        player = _same(now.player, self._studio.players())
        owned = _same(now.instrument, self._studio.instruments())
        jig = now.jig
        if "jigs" in changed.what and changed.by != "do" and jig is not None:
            jig = _same(jig, self._studio.jigs())
        self.now = replace(now, player=player, instrument=owned, jig=jig)
        parts = {
            name
            for name, was, is_ in (
                ("player", now.player, player), ("instrument", now.instrument, owned),
                ("jig", now.jig, jig),
            )
            if was != is_
        }  # fmt: skip
        if parts:
            self.changed.emit(frozenset(parts))

    def set_player(self, player: Player) -> None:
        """Choose who plays next and whose takes are shown."""
        self.now = with_player(self.now, player, self._studio)
        self._remember("player", player.id)
        self.changed.emit(frozenset({"player", "instrument", "jig"}))

    def set_instrument(self, owned: OwnedInstrument) -> None:
        """Choose the instrument of the next takes."""
        self.now = replace(self.now, instrument=owned)
        self._remember("instrument", owned.id)
        self.changed.emit(frozenset({"instrument"}))

    def set_jig(self, jig: Jig | None) -> None:
        """Choose the jig (``None``: free playing)."""
        self.now = with_jig(self.now, jig, self._studio)
        self._remember("jig", jig.id if jig else "")
        self.changed.emit(frozenset({"jig", "instrument"}))

    def revise_jig(self, jig: Jig) -> Jig:
        """Keep what was changed in a jig as its next revision, and go on with that."""
        made = keep_revision(jig, self._studio, utc=utc_now())
        if self.now.jig is not None and self.now.jig.id == made.id:
            self.set_jig(made)
        return made

    def set_view(self, view: View) -> None:
        """Hold figures against another A, reference or tolerance.

        Raises
        ------
        JigwrightError
            If the reference cannot be read; nothing changes.
        """
        self.now = with_view(self.now, view)
        self.changed.emit(frozenset({"view"}))

    def set_note_names(self, names: NoteNames) -> None:
        """Call notes another way from now on."""
        self.note_names = names
        use_note_names(names)
        self._remember("note_names", names)
        self.changed.emit(frozenset({"words"}))

    def showing(self, take: TakeRecord) -> None:
        """A take is shown: what is new is tuned like it. Nothing that is shown differs."""
        self.now = after_showing(self.now, take)

    def use_input(self, device: InputDevice) -> None:
        """Record from another device from now on; the Stand tells who shows it."""
        self.now = replace(self.now, input=device)

    def use_drone(self, sounds: PitchClass | None) -> None:
        """A drone sounds, another one, or none: just degrees are over its lowest note."""
        if sounds != self.now.sounds:
            self.now = replace(self.now, sounds=sounds)
            self.changed.emit(frozenset({"drone"}))

    def name_by(self, tonic: PitchClass | None) -> None:
        """Name notes by a tonic, where names depend on one."""
        use_tonic(tonic)

    def context(self) -> Context:
        """What the next take's figures will be held against."""
        return self.now.context()

    def _remember(self, name: str, value: str) -> None:
        if not self._studio.read_only:
            self._studio.set_setting(name, value)


def _same(one: T | None, rows: tuple[T, ...]) -> T | None:
    """What an entry is now; the first there is when it is gone."""
    same = next((r for r in rows if one is not None and r.id == one.id), None)
    return same or (rows[0] if rows else None)
