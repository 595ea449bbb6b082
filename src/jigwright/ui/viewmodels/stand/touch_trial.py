"""The touch test at the Stand: a note is held, an open string touched and let go."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.errors import JigError
from jigwright.core.jig.draft import Draft
from jigwright.core.jig.fingering import placings
from jigwright.core.jig.model import Jig
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.touch_trial import TouchClock, TouchNote, longest_hold, touch_notes
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch
from jigwright.core.music.references import pure_strings
from jigwright.core.sound.heard import Now
from jigwright.core.sound.touch import TouchRing
from jigwright.core.values import Unmeasured
from jigwright.services.jobs import TouchRequest
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.services.take_reader import TakeReader
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.guided import Guided, named_by_content
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.guided import touch_lines, touch_word
from jigwright.wording.notes import pitch_name, string_name

_BEATS = 13  # at 60: five stretches and a little


class TouchTrial(Guided):
    """Holds the notes, the clock of the words, and what was found.

    Parameters
    ----------
    studio : StudioPort
    session : SessionModel
    jobs : JobRunner
    """

    def __init__(
        self, studio: StudioPort, session: SessionModel, reader: TakeReader, jobs: JobRunner
    ) -> None:
        self._jobs = jobs
        self.clock = TouchClock()
        self.found: list[tuple[TouchNote, TouchRing | Unmeasured]] = []
        super().__init__("touch", studio, session)
        self._reader = reader

    @property
    def notes(self) -> tuple[TouchNote, ...]:
        """What is held, in the order of the jig."""
        return touch_notes(self._strings)

    def simulated(self) -> tuple[Jig, tuple[str, ...]]:
        """What the simulated player plays: he touches the strings when it is time."""
        assert self.jig is not None
        faults = ["sympathy coupling_db=-24", "room rt60_s=0.2 wet_db=-22"]
        at_s = 0.0
        for i, note in enumerate(self.notes):
            for a, b in ((2.6, 5.1), (7.6, 10.1)):
                faults.append(f"touch string={note.string} from_s={at_s + a} to_s={at_s + b}")
            at_s = float(self.jig.events[min(i + 1, len(self.jig.events) - 1)].onset_beats)
        return self.jig, ("; ".join(faults),)

    def begin(self) -> None:
        """From the first note; the time of the sound starts anew."""
        self.found, self.clock = [], TouchClock()

    def watch(self, frame: Now) -> None:
        """Follow the note that is held."""
        self.clock.hear(frame)

    def taken(self, take: TakeRecord, notes: Sequence[JudgedNote]) -> None:
        """A take was measured: compare its stretches, note by note."""
        self.found, self.clock = [], TouchClock()
        heard = self._reader.heard(take)
        if heard is None:
            return
        context = self._session.context()
        hz = list(pure_strings(self._strings, context.a4_hz).values())
        path = self._studio.audio_path(take)
        for i, what in enumerate(self.notes):
            bows = longest_hold(
                [
                    row.measured.segment for row in notes
                    if row.measured.lined.i_event == i and row.measured.segment is not None
                ]
            )  # fmt: skip
            if not bows:
                continue
            request = TouchRequest(
                path=path, i_channel=heard.i_channel,
                f0_hz=max(bows, key=lambda s: s.offset_s - s.onset_s).f0_hz,
                onset_s=bows[0].onset_s, offset_s=bows[-1].offset_s, open_hz=hz[what.string],
            )  # fmt: skip

            def done(ring: TouchRing | Unmeasured, what: TouchNote = what) -> None:
                self.found.append((what, ring))
                self.found.sort(key=lambda f: self.notes.index(f[0]))
                self.say()

            def failed(_error: Exception, what: TouchNote = what) -> None:
                self.found.append((what, Unmeasured("not_heard")))
                self.say()

            self._jobs.run("touch", request, done=done, failed=failed)

    def words(self, *, listening: bool, playing: bool, i_event: int | None) -> tuple[str, str]:
        """The word it is time for, else what was found or what is to be done."""
        del listening, i_event
        if playing or self.clock.seconds is not None:
            left = self.notes[self.clock.n_held :]
            what = left[0] if left else self.notes[-1]
            name = string_name(self._strings[what.string])
            return touch_word(self.clock, name, pitch_name(what.note) if left else None)
        if self.found:
            told = [r for _, r in self.found if isinstance(r, TouchRing)]
            if not told:
                return tr("cannot tell").capitalize(), tr("Once more, with a quieter bow.")
            rang = sum(r.rang for r in told)
            said = trn(
                "{n} of {of} string rang along", "{n} of {of} strings rang along", len(told)
            ).format(n=rang, of=len(told))
            return said, tr("What changed when the string was let go is the ring.")
        what = self.notes[0]
        return tr("Touch test"), tr(
            "Hold {note} still. Touch the {string} when told, and let it go."
        ).format(note=pitch_name(what.note), string=string_name(self._strings[what.string]))

    def lines(self) -> list[str]:
        """String by string."""
        return touch_lines(
            [
                (string_name(self._strings[w.string]), pitch_name(w.note), ring)
                for w, ring in self.found
            ]
        )

    def _make_jig(self) -> Jig | None:
        if not self.notes:
            raise JigError(tr("No note an octave below an open string can be stopped here."))
        d = Draft(f"guided-touch-{self._instrument}-{self._strings[0].midi}")
        for what in self.notes:
            string, finger = self._placed(what.note)
            d.note(what.note, _BEATS, strings=(string,), fingers=(finger,))
            d.rest(3)
        made = d.finish(
            title=tr("Touch test"), instrument_id=self._instrument,
            key=Key(self._strings[0].pitch_class), tempo_bpm=60.0, reference="ring",
        )  # fmt: skip
        return named_by_content(made)

    def _placed(self, note: Pitch) -> tuple[int | None, int | None]:
        ways = [w for w in placings(note, self._strings, self._instrument) if w.finger]
        way = min(ways, key=lambda w: w.price, default=None)
        return (way.string, way.finger) if way is not None else (None, None)
