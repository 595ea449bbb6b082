"""Who plays what on which instrument now, and what figures are held against: a frozen value.

Everything that depends on the present is given a :class:`Session`; another player, jig or A makes
another one. Choosing is a function of what the studio holds.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Protocol, TypeVar

from jigwright.core.jig.model import Jig
from jigwright.core.judge.judging import Context
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.music.references import over_sounding
from jigwright.services.moments import utc_now
from jigwright.services.recording import SIMULATED, InputDevice
from jigwright.services.records import OwnedInstrument, Player, TakeRecord
from jigwright.services.references import load_reference, reference_or_equal
from jigwright.services.studio_port import JigStore, PeopleStore, SettingStore, TakeStore
from jigwright.services.take_reader import AS_PLAYED, View

T = TypeVar("T", Player, OwnedInstrument, Jig)
USUAL_TOLERANCE_CENTS = 10.0


class SessionStore(SettingStore, PeopleStore, JigStore, TakeStore, Protocol):
    """What choosing needs of a studio."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Session:
    """The present.

    Parameters
    ----------
    player : Player or None
    instrument : OwnedInstrument or None
        With its own strings and string length.
    jig : Jig or None
        ``None``: free playing.
    view : View
        Another A, reference or tolerance than takes were played against.
    last_a4_hz : float
        The A of the take shown last: what is new is tuned like it.
    input : InputDevice
    clock : callable
        Wall time in UTC.
    sounds : PitchClass or None
        Lowest note of the drone while it sounds: just degrees are over it.
    """

    player: Player | None = None
    instrument: OwnedInstrument | None = None
    jig: Jig | None = None
    view: View = AS_PLAYED
    last_a4_hz: float = 440.0
    input: InputDevice = field(default_factory=lambda: InputDevice(id=SIMULATED, name=SIMULATED))
    clock: Callable[[], str] = utc_now
    sounds: PitchClass | None = None

    @property
    def kind(self) -> str:
        """Kind of the instrument in hand; a violin when none was chosen."""
        return self.instrument.kind if self.instrument is not None else "violin"

    @property
    def strings(self) -> tuple[Pitch, ...]:
        """Strings of the instrument in hand, low to high."""
        if self.instrument is not None:
            return self.instrument.strings
        return instrument(self.kind).strings

    @property
    def string_length_mm(self) -> float:
        """Its own string length, else that of a full-size one."""
        own = self.instrument.string_length_mm if self.instrument is not None else None
        return own or instrument(self.kind).string_length_mm

    @property
    def a4_hz(self) -> float:
        """The A in force."""
        return self.view.a4_hz or self.last_a4_hz

    @property
    def reference(self) -> str:
        """The reference in force."""
        return self.view.reference or (self.jig.reference if self.jig is not None else "equal")

    @property
    def tolerance_cents(self) -> float:
        """The tolerance in force."""
        own = self.jig.tolerance_cents if self.jig is not None else USUAL_TOLERANCE_CENTS
        return self.view.tolerance_cents or own

    def context(self) -> Context:
        """What the next take's figures will be held against."""
        return Context(
            instrument_id=self.kind, strings=self.strings, a4_hz=self.a4_hz,
            reference=over_sounding(reference_or_equal(self.reference), self.sounds),
            tolerance_cents=self.tolerance_cents,
            string_length_mm=self.string_length_mm,
        )  # fmt: skip


def session_at_start(studio: SessionStore, now: Session | None = None) -> Session:
    """Who and what was chosen last, else the first there is."""
    players, instruments, jigs = studio.players(), studio.instruments(), studio.jigs()
    return replace(
        now or Session(),
        player=_chosen(players, studio.setting("player")),
        instrument=_chosen(instruments, studio.setting("instrument")),
        jig=_chosen(jigs, studio.setting("jig")),
    )


def _chosen(rows: Sequence[T], one: str) -> T | None:
    return next((r for r in rows if r.id == one), rows[0] if rows else None)


def with_player(session: Session, player: Player, studio: SessionStore) -> Session:
    """Another player, with the instrument and the jig of his or her last take."""
    changed = replace(session, player=player)
    mine = studio.takes(player_id=player.id)
    if not mine:
        return changed
    last = mine[-1]
    owned = next((i for i in studio.instruments() if i.id == last.instrument_id), None)
    if owned is not None:
        changed = replace(changed, instrument=owned)
    if last.jig_id and last.jig_revision:
        changed = replace(changed, jig=studio.jig(last.jig_id, last.jig_revision))
    return changed


def with_jig(session: Session, jig: Jig | None, studio: PeopleStore) -> Session:
    """Another jig, on an instrument it is written for if there is one."""
    changed = replace(session, jig=jig)
    if jig is None or (session.instrument is not None and session.kind == jig.instrument_id):
        return changed
    fitting = next((i for i in studio.instruments() if i.kind == jig.instrument_id), None)
    return changed if fitting is None else replace(changed, instrument=fitting)


def keep_revision(jig: Jig, store: JigStore, *, utc: str) -> Jig:
    """Keep what was changed in a jig as its next revision; a jig as it is kept stays that.

    Parameters
    ----------
    jig : Jig
    store : JigStore
    utc : str
    """
    before = [j for j in store.jigs() if j.id == jig.id]
    if jig in before:
        return jig
    made = replace(jig, revision=max((j.revision for j in before), default=0) + 1)
    store.add_jig(made, utc=utc)
    return made


def with_view(session: Session, view: View) -> Session:
    """Against another A, reference or tolerance.

    Raises
    ------
    JigwrightError
        If the reference cannot be read; nothing changes.
    """
    if view.reference is not None:
        load_reference(view.reference)
    return replace(session, view=view)


def after_showing(session: Session, take: TakeRecord) -> Session:
    """What is new is tuned like the take that was shown last."""
    return replace(session, last_a4_hz=take.a4_hz)
