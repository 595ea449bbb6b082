"""The Stand's state: listening, takes that begin and end by themselves, what is said after them."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Literal

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.errors import JigwrightError
from jigwright.core.isolation import isolated
from jigwright.core.judge.aims import met_or_not
from jigwright.core.judge.analysis import Judged
from jigwright.core.music.references import pure_strings
from jigwright.core.values import Unmeasured
from jigwright.services.growing import Growing
from jigwright.services.ledger import Keeps, Span
from jigwright.services.live_picture import LivePicture
from jigwright.services.moments import utc_now
from jigwright.services.ports import Stream
from jigwright.services.pupils import said_of
from jigwright.services.recording import SIMULATED, EarSays, InputDevice
from jigwright.services.records import TakeRecord
from jigwright.services.sitting import Sitting, recording_path
from jigwright.services.streams import Streams
from jigwright.services.studio_port import StudioPort
from jigwright.services.take_flow import FlowState, TakeFlow
from jigwright.services.take_reader import TakeReader
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.jigs.jig_tools import first_jig
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.ui.viewmodels.stand import simulated_takes
from jigwright.ui.viewmodels.stand.after_take import AfterTake
from jigwright.ui.viewmodels.stand.attending import StandAttends
from jigwright.ui.viewmodels.stand.before_take import BeforeTake
from jigwright.ui.viewmodels.stand.companions import Companions
from jigwright.ui.viewmodels.stand.ear_first import EarAnswer
from jigwright.ui.viewmodels.stand.guided import GUIDED, Guided, GuidedKind
from jigwright.ui.viewmodels.stand.input_choice import InputChoice
from jigwright.ui.viewmodels.stand.lesson import Lesson
from jigwright.ui.viewmodels.stand.lesson_keeping import LessonKeeping
from jigwright.ui.viewmodels.stand.loop_check import LoopCheck, loop_of
from jigwright.ui.viewmodels.stand.place_work import PlaceWork
from jigwright.ui.viewmodels.stand.session_walk import SessionWalk
from jigwright.ui.viewmodels.stand.signals import PluckedSignals
from jigwright.ui.viewmodels.stand.speaking import Speaking
from jigwright.ui.viewmodels.stand.string_check import StringCheck
from jigwright.ui.viewmodels.stand.take_keeper import TakeKeeper
from jigwright.ui.viewmodels.stand.touch_trial import TouchTrial
from jigwright.ui.viewmodels.stand.turns import Turns
from jigwright.ui.viewmodels.stand.ways_trial import WaysTrial
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence
from jigwright.wording.makers import kind_name
from jigwright.wording.verdicts import ear_sentence, trouble_sentence

Mode = Literal["jig", "strings", "lesson"] | GuidedKind
_POLL_MS = 20
_SPARE_MS = 400
_GOAL = 5
_BREATH_S = 2.5
_BREAK_AFTER_S = 25 * 60.0


class StandModel(QObject):
    """Drives capture and ear; keeps takes; says one thing.

    Signals
    -------
    changed
        Anything that is shown, except what moves all the time.
    moved
        Levels, the newest pitch, the place in the jig.
    message : str
    """

    changed = pyqtSignal()
    moved = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        reader: TakeReader,
        sound: SoundModel,
        jobs: JobRunner,
        cache: Path,
        *,
        capture: Callable[[], Stream] | None,
        ear: Callable[[], Stream] | None,
        show: Callable[[str], Judged | Unmeasured | None],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._studio, self._session, self._reader = studio, session, reader
        self._sound, self._jobs, self._cache = sound, jobs, cache
        self.after = AfterTake(studio, session, reader, show)
        self.told, self.ear, self.watch = self.after.told, self.after.ear, self.after.watch
        self._streams = Streams(capture, ear)
        self.sitting, self.flow, self.live = Sitting(self._streams), TakeFlow(), LivePicture()
        self._since_s = 0.0
        self.speed = 1.0
        self.source_name = tr("Stand")
        self.at_stand = False
        self.mode: Mode = "jig"
        self.guided: Guided | None = None
        self.input = InputChoice(studio, session)
        self.goal = _GOAL
        # before its parts are told: what they say of themselves must find the last jig's words gone
        session.changed.connect(self._session_changed)
        self.companions = Companions(session, sound, self)
        self.companions.changed.connect(self._sounds_beside)
        self.companions.message.connect(self.message)
        self.keeper = TakeKeeper(studio, session, jobs, self.companions)
        self.lesson_keeping = LessonKeeping(
            studio, session, self.keeper, record=self.record_free,
            failed=self._not_kept, changed=self.changed.emit,
        )  # fmt: skip
        self.turns = Turns(studio, session, reader, sound, jobs, cache, self)
        self.before = BeforeTake(session, self.turns, self.companions, self)
        self.before.over.connect(self._your_turn)
        self._jig_ready = session.now.jig
        self.place = PlaceWork(studio, session, lambda: self.state == "playing", self)
        self.place.changed.connect(self.changed)
        self.place.message.connect(self.message)
        self.speaking = Speaking(studio, self)
        self.speaking.over.connect(self._spoken)
        self.speaking.message.connect(self.message)
        self.signals = PluckedSignals(studio, lambda: session.now.strings, self)
        self.signals.changed.connect(self._signals_wished)
        self.sitting.signals = self.signals.on
        self.what_stands: Callable[[], tuple[str, str]] = lambda: ("", "")
        self._set: tuple[object, tuple[str, str]] = (None, ("", ""))
        self.walk = SessionWalk(studio, session, StandAttends(self, session), self)
        self.walk.changed.connect(self._walked)
        self.hide_live = False
        self.check = StringCheck(studio, session)
        self.loop = LoopCheck(studio, sound, jobs, cache, capture, self)
        self.loop.message.connect(self.message)
        self._timer = QTimer(self)
        self._timer.setInterval(_POLL_MS)
        self._timer.timeout.connect(self._poll)

    def stay(self, here: bool) -> None:
        """Somebody comes to the Stand or leaves it: recording begins at once while he is there."""
        if here == self.at_stand:
            return
        self.at_stand = here
        if here:
            self._prepare_spare()
        else:
            self._streams.drop_spare()

    def _walked(self) -> None:
        """While a session asks to go on, what the next item is heard with gets ready."""
        if self.walk.asks and self.can_record and self.at_stand:
            self._streams.prepare()
        self.changed.emit()

    def _prepare_spare(self) -> None:
        if self.can_record and self.at_stand and not self.listening:
            self._streams.prepare()

    # what can be done ---------------------------------------------------------------------

    @property
    def state(self) -> FlowState:
        """Where the sitting stands."""
        return self.flow.state

    @property
    def growing(self) -> Growing | None:
        """The recording that is open."""
        return self.sitting.growing

    @property
    def lesson(self) -> Lesson | None:
        """What has been heard and kept of a lesson; ``None`` when there is none."""
        return self.lesson_keeping.lesson

    @property
    def listening(self) -> bool:
        """Whether the microphone (or its stand-in) is open."""
        return self._streams.running

    @property
    def follows(self) -> bool:
        """Whether a jig is followed and takes are kept."""
        return self.mode == "jig" or (self.guided is not None and self.guided.follows)

    @property
    def source(self) -> str:
        """Where a take comes from."""
        return SIMULATED if self.device.id == SIMULATED else self.source_name

    @property
    def read_only(self) -> bool:
        """Whether nothing can be changed here."""
        return self._studio.read_only

    @property
    def can_record(self) -> bool:
        """Whether there is anything to record with and into."""
        return self._streams.possible and not self._studio.read_only

    @property
    def device(self) -> InputDevice:
        """What is recorded from."""
        return self.input.device

    def choose_device(self, device: InputDevice) -> None:
        """Record from another device from now on."""
        was = self.listening
        if was:
            self.stop()
        self.input.choose(device)
        if was:
            self.begin()
        self.changed.emit()

    def load_device(self) -> None:
        """Take the device that was used last with this instrument."""
        self.input.load()

    def offer_inputs(self, found: tuple[InputDevice, ...]) -> None:
        """Take the first real input when none was ever chosen for this instrument."""
        if not self.listening and self.input.offer(found):
            self.changed.emit()

    def toggle(self) -> None:
        """Be ready, or put the bow down; while playing: end the take now.

        Who is ready in the break of a session goes on with it.
        """
        if self.walk.rests:
            self.walk.go()
        elif self.listening or self.state == "preparing":
            self.stop()
        else:
            self.begin()

    def set_mode(self, mode: Mode) -> None:
        """Play a jig, check the strings, or be guided through a trial."""
        if mode == self.mode:
            return
        was = self.listening
        self.stop()
        if self.guided is not None:
            self.guided.leave()
            self.guided = None
        self.mode, self.told.verdict = mode, None
        self.lesson_keeping.lesson = Lesson() if mode == "lesson" else None
        if mode in GUIDED:
            self._guide(mode)
        self.check.clear()
        if mode == "strings":
            self.watch.clear()
        self.live.notes = []
        if was:
            self.begin()
        self.changed.emit()

    def _sounds_beside(self) -> None:
        """The ear learns what our loudspeaker plays; what it had heard of a take it hears again."""
        if self.sitting.sounds_beside(self.companions.beside()):
            self.live.notes = []
        self.changed.emit()

    def _signals_wished(self) -> None:
        """The ear listens for plucks from now on, or no longer; to learn them it must listen."""
        if self.sitting.heed_signals(self.signals.on):
            self.live.notes = []
        if self.signals.asks is not None and not self.listening and self.can_record:
            self.begin()
        self.changed.emit()

    def leave(self) -> bool:
        """Go one step back, from inside outwards; says whether there was one.

        What asks for an answer, then a mode, then listening, then what was switched on, then what
        is said.
        """
        if self.signals.learnt():
            pass
        elif self.ear.asked is not None:
            self.ear.ask(None)
            self.flow.answer()
        elif self.mode != "jig":
            self.stop()
            self.set_mode("jig")
        elif self.listening or self.state == "preparing":
            self.stop()
        elif self.companions.sounding:
            self.companions.rest()
        elif self.takes_turns:
            self.set_turns(False)
        elif self.place.leave() or self.walk.leave():
            pass
        elif self.ear.on:
            self.set_ear_first(False)
        elif self.told.verdict is not None:
            self.again()
        else:
            return False
        self.changed.emit()
        return True

    def _session_changed(self, parts: frozenset[str]) -> None:
        """Another jig: nothing that was said of the last one stays, and the ear follows the new."""
        jig, was = self._session.now.jig, self._jig_ready
        another = bool(parts & {"jig", "all"}) and jig != was
        # in a guided trial and a lesson its own jig comes and goes with it
        clears = another and self.guided is None and self.lesson is None
        if another:
            self._jig_ready = jig
        if clears:  # before anybody is told of the change: its notes are the last jig's
            self._say_nothing_of_the_last()
        if self.check.follow():
            self.watch.clear()
            self.live.notes = []
            self.changed.emit()
        if another and was is not None and (jig is None or jig.id != was.id):
            self.companions.rest()  # the drone and the tempo of one exercise are not the next one's
        if not clears:
            return
        if self.listening and self.mode == "jig":
            self.stop()
            self.begin()
        self.changed.emit()

    def _say_nothing_of_the_last(self) -> None:
        self.told.begin()
        self.told.show_direction = False
        self.told.notes = ()
        self.ear.ask(None)
        self.live.notes = []

    def _guide(self, mode: GuidedKind) -> None:
        try:
            guided: Guided
            match mode:
                case "touch":
                    guided = TouchTrial(self._studio, self._session, self._reader, self._jobs)
                case "slowest" | "echo":
                    guided = Guided(mode, self._studio, self._session)
                case _:
                    guided = WaysTrial(mode, self._studio, self._session)
            guided.say = self.changed.emit
            guided.enter()
        except JigwrightError as error:
            self.mode = "jig"
            self.message.emit(error_sentence(error))
            return
        self.guided = guided

    def begin(self) -> None:
        """Open the input and wait for the first note."""
        if not self.can_record:
            self.message.emit(tr("This studio can only be looked at here; nothing is recorded."))
            return
        if self.mode == "jig" and self._session.now.jig is None:
            first = first_jig(self._session.now.kind)
            self._studio.add_jig(first, utc=utc_now())
            self._session.set_jig(first)
        jig, owned = self._session.now.jig, self._session.now.instrument
        if self.follows and jig and owned and jig.instrument_id != owned.kind:
            self.message.emit(
                tr("This jig is written for {kind}; it is heard on your {own}.").format(
                    kind=kind_name(jig.instrument_id), own=kind_name(owned.kind)
                )
            )
        self.told.begin()
        if self.guided is not None:
            self.guided.begin()
        self.ear.ask(None)
        self._since_s = time.monotonic()
        self.before.clear()
        if self.takes_turns:
            self.flow.prepare()
            self.changed.emit()
            self.turns.prepare(self._open_device, self._refused)
        else:
            self._open_device()

    def _open_device(self) -> None:
        if self.device.id == SIMULATED:
            self._prepare_simulated()
        else:
            self._open(None)

    def _refused(self, error: Exception) -> None:
        self.flow.refuse()
        self.message.emit(error_sentence(error))
        self.changed.emit()

    # my turn, your turn -------------------------------------------------------------------

    @property
    def takes_turns(self) -> bool:
        """Whether a model plays before each take."""
        return self.turns.on and self.mode == "jig"

    def set_turns(self, on: bool) -> None:
        """Let a model play before each take, or not."""
        was = self.listening
        self.stop()
        self.turns.on = on
        if was:
            self.begin()
        self.changed.emit()

    def _before_take(self) -> None:
        """Let the model play, or count a bar, where that is wished."""
        if not self.listening or not self.flow.is_open:
            return
        if self.flow.begin_before(
            self.before.begin(model=self.takes_turns, follows=self.follows, speed=self.speed)
        ):
            self.changed.emit()

    def _your_turn(self) -> None:
        was = self.flow.hand_over()
        if was is not None:
            self.before.open(self.live.level.seconds, model=was == "model")
            self.changed.emit()

    def _watch_turn(self) -> None:
        """The player's space is over: what was begun is kept, else the model plays again."""
        if not self.takes_turns or not self.before.turn.is_over(self.live.level.seconds):
            return
        if self.state == "playing" and self.growing is not None:
            self._drain(self.growing)
        elif self.state == "waiting":
            self._before_take()

    def stop(self) -> None:
        """Close the input; a take that is being played is kept as far as it went."""
        self._timer.stop()
        growing = self.sitting.close()  # first: all that was played is in the file now
        self.turns.stop()
        self.speaking.stop()
        self._sound.stop()
        if growing is not None:
            self._end(growing)
        self.flow.close()
        self.live.rest()
        self.changed.emit()
        QTimer.singleShot(_SPARE_MS, self._prepare_spare)

    def _end(self, growing: Growing) -> None:
        """Nothing more is recorded into a file: what is owed of it becomes takes."""
        growing.ended = True
        self._drain(growing)
        self.lesson_keeping.whole(growing)
        self.keeper.settle(growing)

    def measure_loop(self) -> None:
        """Measure the way from loudspeaker to microphone for the chosen input."""
        self.stop()
        self.loop.begin(self.device.id)

    def close_down(self) -> None:
        """The window closes."""
        self.loop.stop()
        self.place.close_down()
        self.walk.close_down()
        self.at_stand = False
        self.stop()
        self._streams.drop_spare()
        if self.guided is not None:
            self.guided.leave()

    @property
    def set_words(self) -> tuple[str, str]:
        """Who set the jig in hand, and what to mind; empty when nobody did."""
        now = self._session.now
        player_id = now.player.id if now.player is not None else None
        key = (self._studio.stamp, player_id, now.jig)
        if self._set[0] != key:  # painted fifty times a second, set once a week
            work = said_of(self._studio.works(), player_id, now.jig)
            self._set = (key, (work.who, work.words.strip()) if work is not None else ("", ""))
        return self._set[1]

    @property
    def break_due(self) -> bool:
        """Whether somebody has played for long without putting the bow down."""
        return self.listening and time.monotonic() - self._since_s > _BREAK_AFTER_S

    def again(self) -> None:
        """Forget what was said and listen on."""
        self.told.verdict = None
        self.changed.emit()

    def like(self, place: int) -> None:
        """The way the player liked, by the place of the pedal."""
        if self.guided is not None:
            self.guided.like(place)
            self.changed.emit()

    def tell_direction(self) -> None:
        """Show direction and figures of what was said."""
        self.told.show_direction = not self.told.show_direction
        self.changed.emit()

    def set_ear_first(self, on: bool) -> None:
        """Hide figures until the ear has judged."""
        self.ear.on = on
        self.changed.emit()

    def answer(self, word: EarAnswer) -> None:
        """The ear's judgement by key or pedal."""
        if self.ear.answer(word):
            self.flow.answer()
        self.changed.emit()

    # recording ----------------------------------------------------------------------------

    def _prepare_simulated(self) -> None:
        self.flow.prepare()
        self.changed.emit()
        kind = self._session.now.kind
        jig = self._session.now.jig
        played: tuple[str, ...] = (
            simulated_takes.BETTER if self.mode == "jig" else simulated_takes.FREE
        )
        if self.mode == "strings":
            jig = simulated_takes.open_strings(kind)
        if self.guided is not None:
            jig, played = self.guided.simulated()

        def done(path: Path) -> None:
            if self.state == "preparing":
                self._open(path)

        simulated_takes.prepare(
            self._jobs, self._cache, jig, played, kind=kind, a4_hz=self.keeper.a4_hz(),
            before_s=self.before.lead_s(model=self.takes_turns, follows=self.follows),
            done=done, failed=self._refused,
        )  # fmt: skip

    @property
    def keeps(self) -> Keeps:
        """What becomes of what is recorded in this mode."""
        if self.lesson is not None:
            return "whole"
        return "takes" if self.follows else "nothing"

    def _open(self, raw: Path | None) -> None:
        path = recording_path(self._studio.folder)
        note = self.keeper.note(
            path.stem, input_name=self.device.name, source=self.source, keeps=self.keeps,
            free=not self.follows,
        )  # fmt: skip
        try:
            self.sitting.open(
                path, note, jig=self._session.now.jig if self.follows else None,
                device_id=self.device.id, raw=raw, speed=self.speed,
            )  # fmt: skip
        except OSError as error:
            self._refused(error)
            return
        assert self.growing is not None
        self.keeper.alive.append(self.growing)
        self.live.begin()
        self.flow.open()
        self._timer.start()
        self.changed.emit()

    def _poll(self) -> None:
        looked = self.sitting.look()
        if looked.level is not None:
            self.live.level = looked.level
            if looked.level.seconds > 0.0 and self.flow.ready():
                self.changed.emit()
                self._before_take()
            self._watch_turn()
            self.moved.emit()
        if looked.ended:
            self._capture_ended()
            return
        for one in looked.says:
            self._heed(one)
        if looked.says:
            self.moved.emit()
        ear = self.sitting.mend_ear()
        if ear is not None:
            self.live.notes = []
            self.message.emit(ear_sentence(ear))
            self.changed.emit()

    def _drain(self, growing: Growing) -> None:
        """The take being played ends now, by hand or because its time is over."""
        since = growing.ledger.playing_s
        if since is not None:
            self._take_ended((since, growing.seconds), growing)
            growing.ledger = growing.ledger.was_heard(growing.seconds)

    def _write_heard(self, until_s: float, since_s: float | None) -> None:
        own = None
        if since_s is not None and self.follows and not self.flow.is_before:
            own = self.before.turn.own_part((since_s, max(until_s, since_s + 1.0)))
        self.sitting.was_heard(until_s, own_from_s=None if own is None else own[0])

    def _heed(self, says: EarSays) -> None:
        self.live.hear(says)
        self.signals.heard(says.signal)
        if says.frames:
            self._write_heard(says.frames[-1].time_s, says.since_s)
            if self.guided is not None:
                for frame in says.frames:
                    self.guided.watch(frame)
        if not self.follows:
            self._heed_freely(says)
            return
        if self.flow.is_before or self.signals.asks is not None:
            return
        self.live.i_event = says.i_event
        began, take = self.flow.hear(says)
        if began:
            self.changed.emit()
        if take is not None:
            self._take_ended(take, self.growing)

    def _heed_freely(self, says: EarSays) -> None:
        """No jig is followed: strings are checked, a trial is guided, or a lesson goes on."""
        told = False
        if self.mode == "strings" and says.notes:
            strings = pure_strings(self.keeper.instrument()[1], self.keeper.a4_hz())
            self.check.hear(self.live.notes, strings)
            told = True
        told |= self.guided is not None and self.guided.heed(says)
        told |= self.lesson_keeping.heed(says, self.growing)
        if told:
            self.changed.emit()

    def _take_ended(self, span: Span, growing: Growing | None) -> None:
        own = self.before.turn.own_part(span)
        if own is None or growing is None:
            return
        self.flow.judge()
        self.changed.emit()
        self.keeper.cut(
            growing, own, record=self._record(self.source), done=self._kept,
            failed=self._not_kept, clicks=self._clicks(own[0]),
        )  # fmt: skip

    def _clicks(self, start_s: float) -> tuple[float, float] | None:
        """Where the metronome is in a take that begins at a moment; ``None`` if unknown."""
        loop, zero_s = loop_of(self._studio, self.device.id), self.live.level.zero_s
        if loop is None or zero_s is None:
            return None
        found = self.companions.clicks(zero_s, loop.seconds, start_s)
        return None if found is None else (found[0] - start_s, found[1])

    def record_free(self, source: str) -> TakeRecord:
        """A take to be that no jig is played in."""
        return self._record(source, free=True)

    def _record(self, source: str, *, free: bool = False) -> TakeRecord:
        name = self.device.name
        if self.live.level.n_overflows:
            name += " " + tr("({n} gaps)").format(n=self.live.level.n_overflows)
        return self.keeper.record(input_name=name, source=source, free=free)

    # lesson -------------------------------------------------------------------------------

    def keep_phrase(self) -> None:
        """Keep the last phrase of the lesson as a take."""
        if self.listening and self.growing is not None:
            self.lesson_keeping.phrase(self.growing, self.live.level.seconds)

    def speak(self) -> None:
        """Begin or end a spoken remark."""
        if self.listening and self.growing is not None:
            self.lesson_keeping.speak(self.growing, self.live.level.seconds)

    def _kept(self, kept: TakeRecord) -> None:
        self.flow.go_on(listening=self.listening)
        if self.after.kept(kept, self.guided) == "failed":
            self.message.emit(
                tr("The take is kept, but nothing can be said about it; see the log (F1).")
            )
        if self.ear.asked is not None:
            self.flow.go_on(listening=self.listening, asks=True)
        if self.after.last is not None:
            self.place.set_speed(self.speed)
            isolated("place", partial(self.place.heard, *self.after.last), None)
            judged, jig = self.after.last
            isolated("session", partial(self.walk.heard, jig, met_or_not(judged.aims)), None)
        self._speak()
        self.changed.emit()
        QTimer.singleShot(round(1000 * _BREATH_S / self.speed), self._before_take)

    def _speak(self) -> None:
        """Say aloud what stands there, unless the ear is to answer first."""
        if self.ear.asked is None and self.state in ("waiting", "off"):
            said = self.speaking.say(*self.what_stands())
            if said and self.flow.begin_before("speaking"):
                self.before.turn.wait()

    def _spoken(self) -> None:
        if self.state == "speaking":
            self._your_turn()
            self._before_take()

    def _not_kept(self, error: Exception) -> None:
        """A take could not be made; the recording stays and owes it."""
        self.flow.go_on(listening=self.listening)
        self.message.emit(
            tr(
                "No take could be made of that: {why} The recording is kept; what was played is "
                "offered again when you put the bow down."
            ).format(why=error_sentence(error))
        )
        self.changed.emit()

    # ends ---------------------------------------------------------------------------------

    def _capture_ended(self) -> None:
        self._timer.stop()
        for one in self.sitting.last_words():
            self._heed(one)
        growing = self.sitting.close()
        if growing is not None:
            self._end(growing)
        self.flow.close()
        kept = growing is not None and bool(growing.n_cutting or growing.owed or growing.searching)
        trouble, detail = self.live.level.trouble or "died", self.live.level.detail
        self.message.emit(trouble_sentence(trouble, detail, kept=kept))
        self.changed.emit()
