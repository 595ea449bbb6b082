"""The recording that is open: what is asked of recorder and ear, and an ear that fails."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest

from jigwright.services.recording import (
    SILENT,
    Accompaniment,
    CaptureRequest,
    CaptureState,
    EarRequest,
    EarSays,
)
from jigwright.services.recordings import note_path
from jigwright.services.sitting import Sitting, recording_path
from jigwright.services.streams import Streams
from signals import NOTE, scale

WORD = EarSays(frames=(), notes=(), i_event=None, take=None)


class Process:
    """Recorder or ear, as the test wants it."""

    def __init__(self) -> None:
        self.asked: list[Any] = []
        self.says: list[Any] = []
        self.ended = self.closed = False

    running = True

    def prepare(self) -> None:
        self.asked.append("prepare")

    def start(self, request: Any) -> int:
        self.asked.append(request)
        return 0

    def messages(self) -> tuple[list[Any], bool]:
        said, self.says = self.says, []
        return said, self.ended

    def send(self, message: Any) -> None:
        raise AssertionError(message)

    def close(self, *, patience_s: float = 2.0) -> None:
        self.closed, self.patience_s = True, patience_s


class World:
    """A sitting with its recorder, its ears and its clock."""

    def __init__(self, folder: Path) -> None:
        self.now_s = 100.0
        self.recorder = Process()
        self.ears: list[Process] = []
        self.sitting = Sitting(Streams(lambda: self.recorder, self._ear), lambda: self.now_s)
        self.path = folder / "recordings" / f"{NOTE.id}.wav"
        self.jig = scale()

    def _ear(self) -> Process:
        self.ears.append(Process())
        return self.ears[-1]

    def open(self) -> None:
        self.sitting.open(
            self.path, NOTE, jig=self.jig, device_id="mic", raw=Path("raw"), speed=3.0
        )

    def records(self, seconds: float, **more: Any) -> None:
        self.recorder.says.append(CaptureState(running=True, seconds=seconds, **more))


@pytest.fixture
def world(tmp_path: Path) -> World:
    made = World(tmp_path)
    made.open()
    return made


def test_recorder_and_ear_get_the_same_file_and_who_plays(world: World) -> None:
    assert world.recorder.asked == [
        CaptureRequest(device_id="mic", to=world.path, play_raw=Path("raw"), speed=3.0)
    ]
    assert world.ears[0].asked == [
        EarRequest(
            path=world.path, instrument_id=NOTE.kind, strings=NOTE.strings, a4_hz=NOTE.a4_hz,
            jig=world.jig, from_s=0.0,
        )
    ]  # fmt: skip
    assert note_path(world.path).exists()  # who plays what is on the disk before any sound
    assert world.sitting.listening
    growing = world.sitting.growing
    assert growing is not None
    assert (growing.path, growing.note, growing.ended) == (world.path, NOTE, False)


def test_nothing_is_open_when_the_folder_cannot_be_written(tmp_path: Path) -> None:
    (tmp_path / "recordings").write_text("in the way")
    world = World(tmp_path)
    with pytest.raises(FileExistsError):
        world.open()
    assert world.sitting.growing is None
    assert not world.sitting.listening
    assert world.recorder.asked == []


def test_a_look_brings_the_newest_level_and_every_word(world: World) -> None:
    world.records(1.0)
    world.records(2.0, n_overflows=1)
    world.ears[0].says = [WORD, WORD]
    looked = world.sitting.look()
    assert looked.level == CaptureState(running=True, seconds=2.0, n_overflows=1)
    assert looked.says == (WORD, WORD)
    assert not looked.ended
    looked = world.sitting.look()
    assert (looked.level, looked.says, looked.ended) == (None, (), False)


@pytest.mark.parametrize("stopped", [True, False])
def test_the_recorders_end_is_seen_and_the_last_words_can_still_be_had(
    world: World, stopped: bool
) -> None:
    if stopped:
        world.recorder.says.append(CaptureState(running=False, seconds=3.0, trouble="disk_full"))
    else:
        world.recorder.ended = True
    world.ears[0].says = [WORD]
    looked = world.sitting.look()
    assert looked.ended
    assert looked.says == ()
    assert (looked.level is not None) is stopped
    assert world.sitting.last_words() == (WORD,)


def test_an_ear_that_has_ended_is_replaced_where_it_was(world: World) -> None:
    assert world.sitting.mend_ear() is None  # nobody has looked yet
    world.sitting.look()
    assert world.sitting.mend_ear() is None
    world.sitting.was_heard(7.0, own_from_s=None)
    world.ears[0].ended = True
    world.sitting.look()
    assert world.sitting.mend_ear() == "again"
    assert world.ears[0].closed
    assert world.ears[0].patience_s == 0.0  # it is dead, or hangs: nobody waits for it
    assert world.ears[1].asked[0].from_s == 7.0
    assert world.sitting.mend_ear() is None  # said once
    assert not world.recorder.closed


def test_it_begins_again_where_the_take_being_played_began(world: World) -> None:
    world.sitting.was_heard(7.0, own_from_s=4.5)
    world.ears[0].ended = True
    world.sitting.look()
    world.sitting.mend_ear()
    assert world.ears[1].asked[0].from_s == 4.5
    growing = world.sitting.growing
    assert growing is not None
    assert (growing.ledger.heard_s, growing.ledger.playing_s) == (7.0, 4.5)


@pytest.mark.parametrize(("silent_s", "ear"), [(5.0, None), (5.1, "again")])
def test_an_ear_that_hangs_is_replaced(world: World, silent_s: float, ear: str | None) -> None:
    world.records(1.0)
    world.ears[0].says = [WORD]
    world.sitting.look()
    world.now_s += silent_s
    world.records(6.0)
    world.sitting.look()
    assert world.sitting.mend_ear() == ear


def test_after_three_others_the_recorder_goes_on_alone(world: World) -> None:
    ends = []
    for _ in range(5):
        world.ears[-1].ended = True
        world.sitting.look()
        ends.append(world.sitting.mend_ear())
    assert ends == ["again", "again", "again", "given_up", None]
    assert len(world.ears) == 4
    assert world.ears[-1].closed
    assert not world.recorder.closed
    assert world.sitting.listening


def test_closing_hands_the_recording_over(world: World) -> None:
    growing = world.sitting.growing
    assert world.sitting.close() is growing
    assert world.recorder.closed
    assert world.ears[0].closed
    assert world.sitting.growing is None
    assert not world.sitting.listening
    world.sitting.was_heard(3.0, own_from_s=None)  # nothing is open: nothing happens
    assert world.sitting.mend_ear() is None
    assert world.sitting.close() is None


def test_a_new_recording_gets_a_fresh_watch(world: World) -> None:
    for _ in range(4):
        world.sitting.hearing.died()
    world.sitting.close()
    world.open()
    assert not world.sitting.hearing.given_up


def test_recordings_are_named_by_their_moment_and_never_twice(tmp_path: Path) -> None:
    now = datetime(2026, 11, 3, 18, 20, 7, tzinfo=UTC)
    one, two = recording_path(tmp_path, now), recording_path(tmp_path, now)
    assert one != two
    assert one.name.startswith("20261103T182007Z-")
    assert one.suffix == ".wav"
    assert one.parent.parent == tmp_path


# what sounds beside it ---------------------------------------------------------------------------

DRONE = Accompaniment(drone_hz=(294.0, 588.0))


def test_the_ear_learns_what_the_loudspeaker_plays_from_where_the_recording_is(
    world: World,
) -> None:
    world.records(4.0)
    world.sitting.look()
    world.sitting.was_heard(3.6, own_from_s=None)
    assert world.sitting.sounds_beside(DRONE)
    asked = world.ears[-1].asked[-1]
    assert asked.from_s == 3.6, "what the last ear had not come to is not left out"
    assert asked.beside == replace(DRONE, since_s=4.0)
    n = len(world.ears)
    world.records(6.0)
    world.sitting.look()
    assert not world.sitting.sounds_beside(DRONE), "nothing is new"
    assert len(world.ears) == n
    assert world.sitting.sounds_beside(SILENT)
    assert world.ears[-1].asked[-1].beside == Accompaniment(since_s=6.0)


def test_a_take_that_is_played_is_heard_again_from_its_beginning(world: World) -> None:
    world.records(9.0)
    world.sitting.look()
    world.sitting.was_heard(8.5, own_from_s=7.0)
    world.sitting.sounds_beside(DRONE)
    assert world.ears[-1].asked[-1].from_s == 7.0


def test_what_sounded_before_the_recording_is_known_from_its_beginning(tmp_path: Path) -> None:
    world = World(tmp_path)
    assert not world.sitting.sounds_beside(DRONE)
    world.open()
    assert world.ears[0].asked[0].beside == DRONE


# signals -----------------------------------------------------------------------------------------


def test_an_ear_that_heeds_signals_takes_over_when_they_are_wished(world: World) -> None:
    assert not world.ears[-1].asked[-1].signals
    world.records(4.0)
    world.sitting.look()
    world.sitting.was_heard(3.6, own_from_s=None)
    assert world.sitting.heed_signals(True)
    assert world.ears[-1].asked[-1].signals
    assert world.ears[-1].asked[-1].from_s == 3.6
    n = len(world.ears)
    assert not world.sitting.heed_signals(True), "nothing is new"
    assert len(world.ears) == n
    world.sitting.close()
    assert not world.sitting.heed_signals(False), "nothing is open"
    assert not world.sitting.signals
