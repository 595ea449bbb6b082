"""A session kept: resumed on the same day, remembered the next, rubbish is none."""

from __future__ import annotations

import json
from datetime import date

import pytest

from builders import KeptSettings
from jigwright.core.judge.plan import PlanItem
from jigwright.core.judge.session_run import SessionRun, begin, heard, on, passed, stay
from jigwright.services.session_runs import keep_run, kept_run, last_sum, to_resume

TODAY, TOMORROW = date(2026, 11, 30), date(2026, 12, 1)
ITEMS = (
    PlanItem(part="settle", minutes=1),
    PlanItem(part="bow", minutes=4, jig_id="b", title="Long bows", why="due", repetitions=5,
             heavy=True, aim="even_bow"),
    PlanItem(part="close", minutes=1),
)  # fmt: skip


def run() -> SessionRun:
    now = passed(on(begin(ITEMS)), 12.34)
    return stay(heard(heard(heard(now, "b", True), "b", False), "b", None))


def test_a_session_comes_back_as_it_was() -> None:
    studio = KeptSettings()
    keep_run(studio, "me", TODAY, run())
    kept = kept_run(studio, "me")
    assert kept is not None
    day, back = kept
    assert day == TODAY
    assert back.at == 1
    assert [g.item for g in back.legs] == list(ITEMS)
    leg = back.legs[1]
    assert (leg.takes, leg.met, leg.told, leg.stays, leg.spent_s) == (3, 1, 2, 1, 12.3)
    assert kept_run(studio, "you") is None, "everybody has their own"


def test_only_today_goes_on_and_only_what_is_not_over() -> None:
    studio = KeptSettings()
    assert to_resume(studio, "me", TODAY) is None
    keep_run(studio, "me", TODAY, run())
    assert to_resume(studio, "me", TODAY) is not None
    assert to_resume(studio, "me", TOMORROW) is None
    assert last_sum(studio, "me", TODAY) is None
    remembered = last_sum(studio, "me", TOMORROW)
    assert remembered is not None
    assert remembered[0] == TODAY
    assert [i.title for i in remembered[1].not_yet] == ["Long bows"]
    keep_run(studio, "me", TODAY, on(on(run())))
    assert to_resume(studio, "me", TODAY) is None
    keep_run(studio, "me", TODAY, None)
    assert kept_run(studio, "me") is None


@pytest.mark.parametrize(
    "change",
    [
        lambda b: b.update(at=9), lambda b: b.update(at=-1), lambda b: b.update(legs=[]),
        lambda b: b.update(day="yesterday"), lambda b: b["legs"][0].pop("part"),
        lambda b: b["legs"][0].update(minutes="many"), lambda b: b.pop("legs"),
        lambda b: b.update(legs=3), lambda b: b.update(day=None),
    ],
)  # fmt: skip
def test_rubbish_is_no_session(change) -> None:  # type: ignore[no-untyped-def]
    studio = KeptSettings()
    keep_run(studio, "me", TODAY, run())
    body = json.loads(studio.kept["session-run:me"])
    change(body)
    studio.kept["session-run:me"] = json.dumps(body)
    assert kept_run(studio, "me") is None
    studio.kept["session-run:me"] = "{"
    assert kept_run(studio, "me") is None
