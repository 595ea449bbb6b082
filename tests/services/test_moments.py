"""One meaning of "day": the player's local day."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.services.moments import (
    local_day,
    local_offset_min,
    today,
    utc_moment,
    utc_now,
)
from jigwright.store.opening import open_studio
from signals import scale, take_record


@pytest.mark.parametrize(
    ("utc", "offset_min", "day"),
    [("2026-11-02T23:30:00Z", 0, 2), ("2026-11-02T23:30:00Z", 29, 2),
     ("2026-11-02T23:30:00Z", 30, 3), ("2026-11-03T00:00:00Z", -1, 2),
     ("2026-11-02T23:59:59Z", 60, 3), ("2026-11-02T12:00:00Z", -720, 2),
     ("2026-11-02T12:00:00Z", -721, 1), ("2026-11-02T12:00:00Z", 719, 2)],
)  # fmt: skip
def test_the_day_is_where_it_was_lived(utc: str, offset_min: int, day: int) -> None:
    assert local_day(utc, offset_min) == date(2026, 11, day)
    take = replace(take_record("t", None, utc=utc), utc_offset_min=offset_min)
    assert take.day == date(2026, 11, day)


@given(st.integers(40_000_000, 4_000_000_000), st.integers(-840, 840))
def test_a_day_is_at_most_one_away(seconds: int, offset_min: int) -> None:
    utc = datetime.fromtimestamp(seconds, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    day = local_day(utc, offset_min)
    assert abs(day - utc_moment(utc).date()) <= timedelta(days=1)
    assert local_day(utc, 0) == utc_moment(utc).date()


def test_now_is_today() -> None:
    before = today()
    day = local_day(utc_now(), local_offset_min())
    assert before <= day <= today()
    assert -840 <= local_offset_min(datetime(2026, 7, 1, tzinfo=UTC)) <= 840


def test_the_studio_counts_local_days(studio_copy, tmp_path) -> None:
    studio = open_studio(studio_copy)
    source = tmp_path / "a.wav"
    source.write_bytes(b"x")
    late = take_record("late", scale(), utc="2026-11-20T23:30:00Z", seconds=60.0)
    studio.add_take(replace(late, utc_offset_min=60), source, None)
    assert studio.activity("2026-11-21")["p"] == ("2026-11-21", 1, 60.0)
    assert studio.activity("2026-11-22")["p"] == ("2026-11-21", 0, 0.0)
    last, n, _ = studio.activity("2026-11-01")["p"]
    assert (last, n) == ("2026-11-21", 5)
    studio.change("bin_take", "late", {"binned": 1})
    assert studio.activity("2026-11-21")["p"][1] == 0
    studio.close()
