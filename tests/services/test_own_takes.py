"""What the simulated player tries out counts for nobody."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from pathlib import Path

import pytest

from builders import heard_of, keep_take, new_studio
from jigwright.core.jig.makers import Setting, maker
from jigwright.services.pupils import progress_on, set_work
from jigwright.services.recording import SIMULATED
from jigwright.services.take_reader import TakeReader
from jigwright.store.studio import Studio

JIG = maker("scale").make(Setting(instrument_id="violin", values={}))
DAY = "2026-11-0{}T10:00:00Z"


@pytest.fixture
def studio(tmp_path: Path) -> Iterator[Studio]:
    made = new_studio(tmp_path / "s")
    sound = heard_of(JIG, [0.0] * len(JIG.events))
    for i, source in enumerate(("Stand", SIMULATED, "a.wav", SIMULATED), 1):
        keep_take(made, f"t{i}", JIG, sound, utc=DAY.format(i), source_name=source)
    yield made
    made.close()


def test_a_take_knows_whether_somebody_played_it(studio: Studio) -> None:
    assert [t.is_own for t in studio.takes()] == [True, False, True, False]


def test_the_past_of_a_take_is_of_its_kind(studio: Studio) -> None:
    reader = TakeReader(studio)
    takes = {t.id: t for t in studio.takes()}
    assert [t.id for t in reader.before(takes["t3"])] == ["t1"]
    assert [t.id for t in reader.before(takes["t4"])] == ["t2"]
    assert reader.before(takes["t1"]) == ()


def test_the_week_of_a_player_holds_what_was_played(studio: Studio) -> None:
    last, n, _ = studio.activity("2026-11-01")["p"]
    assert (last, n) == ("2026-11-03", 2)


def test_set_work_counts_what_was_played(studio: Studio) -> None:
    work = set_work(
        studio, "p", JIG, due=date(2026, 11, 9), good_takes=3, words="", who="",
        utc="2026-11-01T09:00:00Z",
    )  # fmt: skip
    reached = progress_on(studio, work, date(2026, 11, 8), lambda _: None, lambda _: JIG)
    assert reached.n_takes == 2
