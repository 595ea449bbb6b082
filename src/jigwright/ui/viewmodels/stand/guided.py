"""Guided trials at the Stand: the slowest bow and the echo test.

The touch test is in :mod:`jigwright.ui.viewmodels.stand.touch_trial`, ways of doing the same in
:mod:`jigwright.ui.viewmodels.stand.ways_trial`.
"""

from __future__ import annotations

import zlib
from collections.abc import Callable, Sequence
from fractions import Fraction
from typing import Literal

from jigwright.core.jig.draft import Draft, renamed
from jigwright.core.jig.exchange import jig_to_json
from jigwright.core.jig.fingering import placings
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.model import Jig
from jigwright.core.jig.ways import WAYS_KINDS, WaysKind
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.long_bow import LongBow
from jigwright.core.judge.trials import Echo, echoes
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import Now
from jigwright.services.moments import today, utc_now
from jigwright.services.recording import SIMULATED, EarSays
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.wording.catalogue import tr
from jigwright.wording.guided import bow_clock, echo_lines
from jigwright.wording.notes import pitch_name

GuidedKind = Literal["slowest", "echo", "touch"] | WaysKind
GUIDED: tuple[GuidedKind, ...] = ("slowest", "echo", "touch", *WAYS_KINDS)


class Guided:
    """One trial: what is to be played, and what is said while and after it.

    Parameters
    ----------
    kind : GuidedKind
    studio : StudioPort
    session : SessionModel
    """

    def __init__(self, kind: GuidedKind, studio: StudioPort, session: SessionModel) -> None:
        self.kind, self._studio, self._session = kind, studio, session
        self._instrument, self._strings = session.now.kind, session.now.strings
        self.bow = LongBow()
        self.echoes: tuple[Echo, ...] = ()
        self.say: Callable[[], object] = lambda: None  # called when something new can be said
        self._before = session.now.jig
        self.jig = self._make_jig()

    @property
    def follows(self) -> bool:
        """Whether a jig is followed and takes are kept."""
        return self.jig is not None

    @property
    def asking(self) -> bool:
        """Whether the player is asked which way he likes."""
        return False

    def simulated(self) -> tuple[Jig, tuple[str, ...]]:
        """What the simulated player plays."""
        if self.jig is not None:
            faults = "sympathy coupling_db=-24; lift share=0.5; room rt60_s=0.2 wet_db=-22"
            return self.jig, (faults,)
        setting = Setting(
            instrument_id=self._instrument, values={"seconds": 6, "string": "highest"}
        )
        return maker("slowest_bow").make(setting), ("bounce notes=0 at=0.6 depth_db=14",)

    def enter(self) -> None:
        """Show the trial's jig.

        Raises
        ------
        JigwrightError
            If it cannot be kept in the studio.
        """
        if self.jig is not None:
            self._studio.add_jig(self.jig, utc=utc_now())
            self._session.set_jig(self.jig)

    def leave(self) -> None:
        """Show the jig of before again."""
        if self.jig is not None and self._session.now.jig is not None:
            same = self._session.now.jig.id == self.jig.id
            if same and self._before is not None:
                self._session.set_jig(self._before)

    def heed(self, says: EarSays) -> bool:
        """Hear what the ear says of a free trial; says whether there is something new to keep."""
        ended = False
        if self.kind == "slowest":
            for frame in says.frames:
                ended |= self.bow.hear(frame)
            if ended:
                self._keep_best()
        return ended

    def begin(self) -> None:
        """The input is opened anew."""

    def watch(self, frame: Now) -> None:
        """A frame of the sound, whatever is played."""

    def taken(self, take: TakeRecord, notes: Sequence[JudgedNote]) -> None:  # noqa: ARG002
        """A take of the trial was measured."""
        if self.kind == "echo":
            self.echoes = echoes(notes)

    def like(self, place: int) -> None:
        """What the player liked, by the place of the pedal."""

    # words --------------------------------------------------------------------------------

    def words(self, *, listening: bool, playing: bool, i_event: int | None) -> tuple[str, str]:
        """The word and the line below it."""
        if self.kind == "slowest":
            if not listening and not self.bow.strokes:
                best = self._kept_best()
                goal = tr("15 to 20 seconds are an ordinary first goal.")
                if best:
                    goal = tr("Your best is {s} s.").format(s=f"{best:.1f}")
                return tr("The slowest bow"), tr("Space, then one long stroke.") + " " + goal
            return bow_clock(self.bow)
        if playing:
            return self._prompt(i_event)
        if self.echoes:
            rang = sum(e.n_rang > 0 for e in self.echoes)
            word = tr("{n} of {of} notes rang").format(n=rang, of=len(self.echoes))
            return word, tr("The touch test hears it while the note is held.")
        return tr("Echo test"), tr("Short note, stop its string dead, listen. Twice each.")

    def lines(self) -> list[str]:
        """Figures, once they may be seen."""
        return echo_lines(self.echoes)

    def _prompt(self, i_event: int | None) -> tuple[str, str]:
        assert self.jig is not None
        at = min(0 if i_event is None else i_event + 1, len(self.jig.events) - 1)
        return pitch_name(self.jig.events[at].heads[0].pitch), tr("Short, stop the string, listen.")

    # jigs ---------------------------------------------------------------------------------

    def _make_jig(self) -> Jig | None:
        return self._echo_jig() if self.kind == "echo" else None

    def _echo_jig(self) -> Jig:
        d = Draft(f"guided-echo-{self._instrument}-{self._strings[0].midi}")
        for string in self._strings[:3]:
            octave = Pitch(string.step, string.alter, string.octave + 1)
            ways = placings(octave, self._strings, self._instrument)
            elsewhere = [w for w in ways if self._strings[w.string] != string and w.finger]
            if not elsewhere:
                continue
            way = min(elsewhere, key=lambda w: w.price)
            for _ in range(2):
                d.note(octave, Fraction(1), strings=(way.string,), fingers=(way.finger,))
                d.rest(2)
        made = d.finish(
            title=tr("Echo test"), instrument_id=self._instrument,
            key=Key(self._strings[0].pitch_class), tempo_bpm=66.0, reference="ring",
        )  # fmt: skip
        return named_by_content(made)

    # the best slow bow --------------------------------------------------------------------

    def _kept_best(self) -> float:
        owned = self._session.now.instrument
        return self._studio.best_bow_s(owned.id) if owned is not None else 0.0

    def _keep_best(self) -> None:
        best, owned = self.bow.best, self._session.now.instrument
        simulated = self._session.now.input.id == SIMULATED  # what it tries out is nobody's best
        if best is None or owned is None or simulated or self._studio.read_only:
            return
        if best.seconds > self._kept_best():
            seconds = round(best.seconds, 2)
            self._studio.set_best_bow(owned.id, seconds, today().isoformat())


def named_by_content(jig: Jig) -> Jig:
    """The jig under an id of its own content: made again it is the same, made otherwise another."""
    return renamed(jig, f"{jig.id}-{zlib.crc32(jig_to_json(jig).encode()):08x}")
