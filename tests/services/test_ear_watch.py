"""An ear that dies or hangs is noticed, replaced three times, then given up."""

from __future__ import annotations

from typing import Any

import pytest

from jigwright.services.ear_watch import EarWatch
from jigwright.services.streams import Streams


class Clock:
    def __init__(self) -> None:
        self.now = 100.0

    def __call__(self) -> float:
        return self.now


@pytest.mark.parametrize(("silent_s", "hangs"), [(5.0, False), (5.1, True)])
def test_an_ear_that_spoke_hangs_after_five_seconds(silent_s: float, hangs: bool) -> None:
    clock = Clock()
    watch = EarWatch(clock)
    watch.said(1, 10.0)
    clock.now += silent_s
    watch.said(0, 20.0)
    assert watch.hangs(20.0) is hangs


@pytest.mark.parametrize(("silent_s", "hangs"), [(20.0, False), (20.1, True)])
def test_a_fresh_ear_may_take_its_time(silent_s: float, hangs: bool) -> None:
    clock = Clock()
    watch = EarWatch(clock)
    clock.now += silent_s
    assert watch.hangs(20.0) is hangs


@pytest.mark.parametrize(("grew_s", "hangs"), [(2.0, False), (2.1, True)])
def test_it_hangs_only_while_sound_comes_in(grew_s: float, hangs: bool) -> None:
    clock = Clock()
    watch = EarWatch(clock)
    watch.said(1, 10.0)
    clock.now += 60.0
    assert watch.hangs(10.0 + grew_s) is hangs


def test_three_others_are_tried() -> None:
    clock = Clock()
    watch = EarWatch(clock)
    assert [watch.died() for _ in range(4)] == [True, True, True, False]
    assert watch.given_up
    clock.now += 1000.0
    assert not watch.hangs(1000.0)  # nobody is there to hang


def test_a_new_ear_gets_the_time_of_a_new_ear() -> None:
    clock = Clock()
    watch = EarWatch(clock)
    watch.said(1, 10.0)
    clock.now += 6.0
    assert watch.died()
    assert not watch.hangs(40.0)
    clock.now += 20.1
    assert watch.hangs(40.0)


class Fake:
    """A stream that remembers what it was told."""

    def __init__(self) -> None:
        self.told: list[Any] = []
        self.running = True

    def prepare(self) -> None:
        self.told.append("prepare")

    def start(self, request: object) -> int:
        self.told.append(request)
        return 0

    def messages(self) -> tuple[list[object], bool]:
        return ["said"], False

    def send(self, message: object) -> None:
        self.told.append(message)

    def close(self, *, patience_s: float = 2.0) -> None:
        self.told.append(("close", patience_s))


def _request(from_s: float) -> Any:
    return ("ear", from_s)


def test_another_ear_takes_over_and_the_recorder_is_left_alone() -> None:
    captures: list[Fake] = []
    ears: list[Fake] = []

    def make(to: list[Fake]) -> Fake:
        to.append(Fake())
        return to[-1]

    streams = Streams(lambda: make(captures), lambda: make(ears))
    streams.open("capture", _request(0.0))  # type: ignore[arg-type]
    streams.restart_ear(_request(4.0))
    assert captures[0].told == ["capture"]
    assert ears[0].told == [("ear", 0.0), ("close", 0.0)]  # at once: it hangs, or is dead
    assert ears[-1].told == [("ear", 4.0)]
    assert streams.heard() == (("said",), False)
    streams.drop_ear()
    assert ears[-1].told[-1] == ("close", 0.0)
    assert captures[0].told == ["capture"]
    streams.close()
    assert captures[0].told[-1] == ("close", 2.0)
    streams.restart_ear(_request(9.0))  # nothing is open: nothing happens
    streams.drop_ear()
    assert not streams.running
    assert streams.heard() == ((), False)


def test_a_spare_ear_is_taken_first() -> None:
    made: list[Fake] = []

    def make() -> Fake:
        made.append(Fake())
        return made[-1]

    streams = Streams(make, make)
    streams.open("capture", _request(0.0))  # type: ignore[arg-type]
    streams.prepare()
    spare_capture, spare_ear = made[2], made[3]
    streams.restart_ear(_request(2.0))
    assert spare_ear.told == ["prepare", ("ear", 2.0)]
    assert spare_capture.told == ["prepare", ("close", 2.0)]
