"""The log of parts that failed: one line each, bounded, and never in the way."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from jigwright.core.isolation import LOGGER, isolated
from jigwright.services.failure_log import NAME, FailureLog, last_failures

pytestmark = pytest.mark.fails_on_purpose


def _fail(part: str = "ring") -> None:
    def broken() -> None:
        raise ValueError("no\nsuch partial")

    isolated(part, broken, None)


def test_a_failure_becomes_a_dated_line(tmp_path: Path) -> None:
    log = FailureLog(tmp_path)
    assert not log.path.exists()  # a studio in which nothing fails has no log
    _fail()
    log.close()
    text = last_failures(tmp_path)
    form = r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ 0\.1\.0 ring · ValueError: no such partial · .*"
    assert re.fullmatch(form, text)
    assert log.path.name == NAME == "failures.log"


def test_a_closed_log_takes_no_more(tmp_path: Path) -> None:
    log = FailureLog(tmp_path)
    _fail("one")
    log.close()
    _fail("two")
    assert len(last_failures(tmp_path).splitlines()) == 1
    assert not any(getattr(h, "baseFilename", "") == str(log.path) for h in LOGGER.handlers)


def test_the_newest_lines_are_given(tmp_path: Path) -> None:
    (tmp_path / NAME).write_text("".join(f"line {i}\n" for i in range(300)))
    lines = last_failures(tmp_path, most=200).splitlines()
    assert (lines[0], lines[-1], len(lines)) == ("line 100", "line 299", 200)


def test_no_log_and_a_damaged_one_are_no_trouble(tmp_path: Path) -> None:
    assert last_failures(tmp_path) == ""
    assert last_failures(tmp_path / "nowhere") == ""
    (tmp_path / NAME).write_bytes(b"\xff\xfe broken\nnext\n")
    assert last_failures(tmp_path).endswith("next")


def test_it_never_fills_a_disk(tmp_path: Path) -> None:
    log = FailureLog(tmp_path)
    for _ in range(1500):
        LOGGER.error("%s", "x" * 590)
    log.close()
    assert sum(p.stat().st_size for p in tmp_path.iterdir()) < 450_000


def test_a_log_that_cannot_be_written_stops_nothing(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    log = FailureLog(tmp_path / "no such folder")
    _fail()
    log.close()
    assert capsys.readouterr().err == ""
