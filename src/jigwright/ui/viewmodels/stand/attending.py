"""What a session asks of the Stand, done."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jigwright.core.jig.model import Jig

if TYPE_CHECKING:
    from jigwright.ui.viewmodels.session_model import SessionModel
    from jigwright.ui.viewmodels.stand.stand_model import StandModel


class StandAttends:
    """The Stand, as a session needs it.

    Parameters
    ----------
    stand : StandModel
    session : SessionModel
    """

    def __init__(self, stand: StandModel, session: SessionModel) -> None:
        self._stand, self._session = stand, session

    def take_up(self, jig: Jig) -> None:
        """Be ready for a jig; the input is opened for it once."""
        if self._stand.mode != "jig":
            self._stand.stop()
        self._session.set_jig(jig)
        self._stand.set_mode("jig")
        self._listen()

    def check_strings(self) -> None:
        """Be ready for the strings."""
        self._stand.set_mode("strings")
        self._listen()

    def rest(self) -> None:
        """Nothing is heard for a while."""
        self._stand.stop()
        self._stand.set_mode("jig")
        self._stand.again()

    def is_playing(self) -> bool:
        """Whether somebody is playing, or was just heard and waits for what is said."""
        return self._stand.state in ("playing", "judging")

    def is_here(self) -> bool:
        """Whether the Stand is in sight."""
        return self._stand.at_stand

    def strings_agree(self) -> bool:
        """Whether every string was heard and none is out."""
        check = self._stand.check
        return check.peg is None and len(check.strings) == len(self._session.now.strings)

    def _listen(self) -> None:
        if not self._stand.listening and self._stand.can_record:
            self._stand.begin()
