"""Moments, plain files, and the ear that finds takes afterwards."""

from __future__ import annotations

import os
import socket
from pathlib import Path

import numpy as np
import pytest

from jigwright.core.errors import FileKindError
from jigwright.core.music.instruments import instrument
from jigwright.core.player.voice import speech
from jigwright.services.ear import Ear
from jigwright.services.moments import is_utc, utc_moment
from jigwright.services.plain_files import check_readable, check_writable
from jigwright.services.recording import RATE_HZ, EarRequest
from jigwright.wording.errors import error_sentence
from jigwright.wording.leftovers import (
    done_sentence,
    left_sentence,
    length_text,
    moment_text,
    offer_about,
    offer_title,
)
from signals import perform, scale


@pytest.mark.parametrize(
    ("text", "fits"),
    [
        ("2026-11-02T18:20:00Z", True), ("1970-01-01T00:00:00Z", True),
        ("1969-12-31T23:59:59Z", False), ("2026-11-02T18:20:00", False), ("", False),
        ("2026-02-30T00:00:00Z", False), ("2026-11-02 18:20:00Z", False), (None, False),
        ("2026-11-02T18:20:00Z ", False), (20261102, False), ("٢026-11-02T18:20:00Z", True),
    ],
)  # fmt: skip
def test_moments(text: object, fits: bool) -> None:
    if isinstance(text, str) and not text.isascii():
        assert is_utc(text) in (True, False)  # other digits: read or refused, never raised
        return
    assert is_utc(text) is fits


def test_a_moment_is_read_in_utc() -> None:
    moment = utc_moment("2026-11-02T18:20:05Z")
    assert (moment.year, moment.hour, moment.second) == (2026, 18, 5)
    assert moment.utcoffset().total_seconds() == 0  # type: ignore[union-attr]


def test_only_plain_files_are_read_and_written(tmp_path: Path) -> None:
    plain = tmp_path / "plain"
    plain.write_bytes(b"12345")
    os.mkfifo(tmp_path / "pipe")
    with socket.socket(socket.AF_UNIX) as made:
        made.bind(str(tmp_path / "sock"))
    assert check_readable(plain) == 5
    check_writable(plain)
    check_writable(tmp_path / "nothing yet")
    kinds = {"pipe": "pipe", "sock": "socket", ".": "folder"}
    for name, kind in kinds.items():
        for check in (check_readable, check_writable):
            with pytest.raises(FileKindError) as caught:
                check(tmp_path / name)  # type: ignore[operator]
            assert caught.value.file_kind == kind
            assert kind in error_sentence(caught.value)
    with pytest.raises(FileKindError, match="device"):
        check_readable(Path("/dev/null"))
    with pytest.raises(FileNotFoundError):
        check_readable(tmp_path / "nothing yet")


# takes found afterwards -----------------------------------------------------------------------


def _request(from_s: float = 0.0) -> EarRequest:
    return EarRequest(
        path=Path("x"), instrument_id="violin", strings=instrument("violin").strings, a4_hz=440.0,
        jig=scale(), from_s=from_s,
    )  # fmt: skip


def _blocks(x: np.ndarray) -> list[np.ndarray]:
    return [x[i : i + RATE_HZ] for i in range(0, len(x), RATE_HZ)]


@pytest.fixture(scope="module")
def sitting() -> tuple[np.ndarray, float]:
    """Two seconds of quiet, a scale, three and a half seconds of quiet; the scale's first onset."""
    one = perform(scale(tempo=200.0), "")
    quiet = 1e-4 * np.random.default_rng(0).standard_normal(RATE_HZ * 7 // 2)
    sound = np.concatenate([quiet[: 2 * RATE_HZ], one.sound.samples, quiet])
    return sound, 2.0 + one.notes[0].onset_s


def test_a_take_is_found_where_it_was_played(sitting: tuple[np.ndarray, float]) -> None:
    sound, onset_s = sitting
    seconds = len(sound) / RATE_HZ
    found = Ear(_request(), RATE_HZ).find(_blocks(sound), stop_s=seconds, at_end=True)
    ((start, stop),) = found.spans
    assert onset_s - 0.6 < start < onset_s
    assert seconds - 3.2 < stop < seconds
    assert found.heard_s == seconds


def test_times_count_from_the_beginning_of_the_recording(
    sitting: tuple[np.ndarray, float],
) -> None:
    sound, onset_s = sitting
    stop_s = 100.0 + len(sound) / RATE_HZ
    found = Ear(_request(100.0), RATE_HZ).find(_blocks(sound), stop_s=stop_s, at_end=True)
    assert found.spans[0][0] == pytest.approx(100.0 + onset_s, abs=0.6)
    assert found.spans[0][0] < 100.0 + onset_s


def test_a_take_that_goes_on_is_left_to_the_next_stretch(
    sitting: tuple[np.ndarray, float],
) -> None:
    sound, onset_s = sitting
    stop_s = onset_s + 2.0
    part = _blocks(sound[: round(stop_s * RATE_HZ)])
    open_end = Ear(_request(), RATE_HZ).find(part, stop_s=stop_s, at_end=False)
    assert open_end.spans == ()
    assert onset_s - 0.6 < open_end.heard_s < onset_s  # from the beginning of the take
    last = Ear(_request(), RATE_HZ).find(part, stop_s=stop_s, at_end=True)
    assert last.spans == ((open_end.heard_s, stop_s),)
    assert last.heard_s == stop_s


def test_a_take_that_fills_its_stretch_is_cut_there(sitting: tuple[np.ndarray, float]) -> None:
    sound, onset_s = sitting
    start = round((onset_s + 0.05) * RATE_HZ)
    part = _blocks(sound[start : start + 2 * RATE_HZ])
    found = Ear(_request(50.0), RATE_HZ).find(part, stop_s=52.0, at_end=False)
    assert found.spans == ((50.0, 52.0),)
    assert found.heard_s == 52.0


def _said(seconds: float, seed: int = 2) -> np.ndarray:
    voice = speech(round(seconds * RATE_HZ), RATE_HZ, np.random.default_rng(seed))
    return np.concatenate([0.05 * voice, 1e-4 * np.random.default_rng(seed).normal(size=RATE_HZ)])


@pytest.mark.parametrize("seconds", [0.7, 2.0, 5.0])
def test_talk_before_and_after_playing_is_no_take(
    sitting: tuple[np.ndarray, float], seconds: float
) -> None:
    sound, onset_s = sitting
    x = np.concatenate([_said(seconds), sound, _said(seconds, 3), np.zeros(3 * RATE_HZ)])
    length_s = len(x) / RATE_HZ
    found = Ear(_request(), RATE_HZ).find(_blocks(x), stop_s=length_s, at_end=True)
    ((start, stop),) = found.spans
    first_s = seconds + 1.0 + onset_s
    assert first_s - 0.6 < start < first_s
    assert first_s + 3.0 < stop < first_s + len(sound) / RATE_HZ - 2.0


def test_playing_that_follows_talk_at_once_is_whole(sitting: tuple[np.ndarray, float]) -> None:
    sound, onset_s = sitting
    talk = _said(3.0)[: 3 * RATE_HZ]
    x = np.concatenate([talk, sound[round((onset_s - 0.1) * RATE_HZ) :]])
    found = Ear(_request(), RATE_HZ).find(_blocks(x), stop_s=len(x) / RATE_HZ, at_end=True)
    assert len(found.spans) == 1
    assert found.spans[0][0] < 3.1


def test_talk_is_told_and_then_nobody_plays() -> None:
    low = EarRequest(
        path=Path("x"), instrument_id="cello", strings=instrument("cello").strings, a4_hz=440.0,
        jig=scale("cello"),
    )  # fmt: skip
    ear, told = Ear(low, RATE_HZ), []
    x = np.concatenate([_said(4.0), np.zeros(2 * RATE_HZ)])
    for i in range(0, len(x), RATE_HZ // 20):
        says = ear.hear(x[i : i + RATE_HZ // 20])
        told.append((says.playing, says.talking))
        assert says.take is None
    assert (True, True) not in told
    assert any(talking for _, talking in told)
    assert told[-1] == (False, False)


def test_quiet_holds_no_take() -> None:
    quiet = 1e-4 * np.random.default_rng(1).standard_normal(3 * RATE_HZ)
    found = Ear(_request(), RATE_HZ).find(_blocks(quiet), stop_s=3.0, at_end=True)
    assert found.spans == ()


# words ----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("seconds", "text"), [(59.4, "59 s"), (59.6, "1 min 00 s"), (133.0, "2 min 13 s"), (7, "7 s")]
)
def test_lengths_in_words(seconds: float, text: str) -> None:
    assert length_text(seconds) == text


def test_an_offer_says_when_who_and_what() -> None:
    moment = moment_text("2026-11-05T23:50:00Z", 60)
    assert moment == "Friday, 6 November, 00:50"  # the player's own day
    assert moment_text("some day", 60) == "some day"
    title = offer_title(133.0, moment)
    assert title == f"{moment}. The program was interrupted: 2 min 13 s are not kept yet."
    assert offer_title(None, "").startswith("A take was interrupted")
    assert offer_about("Oda", "Scale", 442.0) == "Oda · Scale · A 442"
    assert offer_about("Oda", "", 441.5) == "Oda · without a jig · A 441.5"
    assert "not written down" in offer_about("", "", None)


def test_what_came_of_it() -> None:
    assert done_sentence(1, "Oda") == "One take was made of it: Oda."
    assert done_sentence(3, "") == "3 takes were made of it."
    assert "kept before" in done_sentence(0, "Oda")
    said = left_sentence("x.wav", OSError(28, "No space left"))
    assert "recording/x.wav" in said
    assert "No space left" in said
