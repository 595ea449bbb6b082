"""Every figure of every gauge has a place where a player meets it.

Each field is changed by an amount that matters; the words or the picture of its place must change.
A figure that has no place on the screen is named here, with the place it has: the table of figures.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from dataclasses import fields, replace
from typing import Any

import pytest

from aim_builders import jig_of, note, playing
from jigwright.core.gauge import values
from jigwright.core.gauge.values import (
    AgainstClicks,
    Arrival,
    BowChange,
    BowEvent,
    Double,
    Level,
    Meeting,
    Pluck,
    Ring,
    Start,
    StopArrival,
    StringRing,
    Stroke,
    Timing,
    Tone,
    Trilled,
    Vibrato,
)
from jigwright.core.judge.changes import place_of
from jigwright.core.music.pitch import Pitch
from jigwright.core.values import Unmeasured
from jigwright.services.takecsv import COLUMNS, take_csv
from jigwright.ui.painting.bow_lane import notch
from jigwright.wording.changes import change_text
from jigwright.wording.measures import (
    arrival_text,
    double_texts,
    event_text,
    level_text,
    pluck_text,
    start_text,
    stop_arrival_text,
    stroke_text,
    tone_text,
    trill_text,
    vibrato_text,
)
from jigwright.wording.pages import click_sentence
from jigwright.wording.ringing import ring_text
from ring_builders import meeting, ring, string_ring

JIG = jig_of("D4 E4")
STRINGS = (Pitch.parse("G3"), Pitch.parse("D4"))
STROKE = Stroke(
    start_s=0.5, end_s=2.5, direction="down", rows=(0,), steadiness_db=1.0, end_hurry_db=2.0,
    slope_db_per_s=1.0, mean_dbfs=-20.0, tenths_db=(0.0,) * 10,
)  # fmt: skip

# a typical figure, one that a player would hear the difference of, and where it is said
GAUGES: dict[type, tuple[Any, dict[str, Any], Callable[[Any], object]]] = {
    Arrival: (
        Arrival(kind="slid_up", first_cents=-30.0, settle_s=0.2),
        {"kind": "landed", "first_cents": -60.0, "settle_s": 0.4}, arrival_text,
    ),
    Vibrato: (
        Vibrato(present=True, rate_hz=5.5, extent_cents=40.0, extent_uncertainty_cents=3.0,
                regularity=0.9, start_s=0.1),
        {"present": False, "rate_hz": 6.5, "extent_cents": 60.0, "extent_uncertainty_cents": 9.0,
         "regularity": 0.5, "start_s": 0.6}, vibrato_text,
    ),
    Double: (
        Double(lower_hz=294.0, upper_hz=440.0, lower_uncertainty_cents=0.5,
               upper_uncertainty_cents=0.5, interval_cents=700.0, uncertainty_cents=1.0,
               beats_hz=2.0, beating_partials=(3, 2), balance_db=3.0, balance_uncertainty_db=2.0,
               both_ratio=1.0),
        {"reached": Unmeasured("moving"), "beats_hz": 4.0, "balance_db": -3.0,
         "balance_uncertainty_db": 6.0, "both_ratio": 0.6},
        lambda d: double_texts(d, None),
    ),
    StopArrival: (
        StopArrival(kind="corrected", settle_s=0.5, swings_cents=(18.0,), mover="upper",
                    still_s=0.5),
        {"kind": "landed", "settle_s": 0.9, "swings_cents": (-12.0,), "mover": "lower",
         "still_s": 1.2}, stop_arrival_text,
    ),
    Level: (
        Level(mean_dbfs=-20.0, range_db=6.0, slope_db_per_s=1.0, shape="grow", tremor_hz=5.0,
              tremor_db=3.0),
        {"range_db": 12.0, "shape": "fade", "tremor_hz": 8.0, "tremor_db": 6.0}, level_text,
    ),
    Tone: (
        Tone(hnr_db=25.0, brightness_hz=1200.0, brightness_ratio=3.0, brightness_slope=0.5,
             scratch_ratio=0.1, loudness_db=0.0),
        {"hnr_db": 15.0, "brightness_ratio": 5.0, "brightness_slope": -0.9, "scratch_ratio": 0.3},
        tone_text,
    ),
    Start: (
        Start(attack_s=0.05, noise_before_s=0.06, accent_db=3.0),
        {"attack_s": 0.1, "noise_before_s": 0.12, "accent_db": 6.0}, start_text,
    ),
    Meeting: (
        meeting(1, apart_cents=-7.0, share_db=-10.0),
        {"string": 0, "apart_cents": 9.0, "share_db": -16.0}, lambda m: silent_text(m),
    ),
    StringRing: (
        string_ring(1),
        {"meeting": meeting(0), "state": "silent", "level_db": -40.0, "decay_s": 2.0},
        lambda s: ring_text(ring(s), STRINGS),
    ),
    Ring: (
        ring(string_ring(0, level_db=-20.0, decay_s=1.0)),
        {"strings": (string_ring(1, level_db=-30.0, decay_s=2.0),)},
        lambda r: ring_text(r, STRINGS),
    ),
    Pluck: (
        Pluck(ring_s=1.0, level_dbfs=-20.0, thud_db=-5.0),
        {"ring_s": 2.0, "level_dbfs": -10.0, "thud_db": 5.0}, pluck_text,
    ),
    Trilled: (
        Trilled(n_notes=13, rate_hz=10.0, rate_uncertainty_hz=0.5, unevenness=0.05,
                neighbour_cents=200.0, begins_on_main=True, ends_on_main=True),
        {"n_notes": 9, "rate_hz": 12.0, "unevenness": 0.3, "neighbour_cents": 90.0,
         "begins_on_main": False, "ends_on_main": False}, trill_text,
    ),
    Stroke: (
        STROKE,
        {"start_s": 0.1, "end_s": 4.0, "direction": "up", "steadiness_db": 3.0,
         "end_hurry_db": -4.0}, stroke_text,
    ),
    BowChange: (
        BowChange(time_s=1.0, from_direction="down", to_direction="up", rows=(0, 1), dip_db=12.0,
                  gap_ms=40.0, bump_db=3.0, noise_db=9.0, pitch_jolt_cents=12.0),
        {"from_direction": "up", "to_direction": "down", "dip_db": 20.0, "gap_ms": 90.0,
         "bump_db": 6.0, "pitch_jolt_cents": -20.0, "heard_way": "turned"},
        lambda c: (change_text(c), notch(c), place_of(c)),
    ),
    BowEvent: (
        BowEvent(kind="bounce", start_s=1.0, end_s=1.1, row=0, strength=12.0),
        {"kind": "scratch", "start_s": 1.4, "strength": 20.0}, event_text,
    ),
    AgainstClicks: (
        AgainstClicks(late_ms=(10.0, 20.0), centre_ms=15.0, spread_ms=10.0),
        {"centre_ms": -30.0, "spread_ms": 40.0}, click_sentence,
    ),
}  # fmt: skip

# fields of the table of figures, by column; what stands there is not on the screen in words
IN_THE_TABLE = {
    (Level, "mean_dbfs"): "level_dbfs", (Level, "slope_db_per_s"): "level_slope_db_per_s",
    (Tone, "brightness_hz"): "brightness_hz", (Tone, "loudness_db"): "loudness_db",
    (StringRing, "above_room_db"): "above_room_db",
    (StringRing, "level_uncertainty_db"): "ring_range_db",
    (StringRing, "decay_uncertainty_s"): "ring_range_s", (StringRing, "limit_db"): "ring_limit_db",
    (StringRing, "string_cents"): "ring_string_cents",
    (Meeting, "note_partial"): "ring_note_partial",
    (Meeting, "string_partial"): "ring_string_partial",
    (Meeting, "half_width_cents"): "ring_half_width_cents",
    (Meeting, "string_cents"): "ring_taken_cents",
    (Double, "interval_cents"): "interval_cents",
    (Double, "uncertainty_cents"): "interval_range_cents",
    (Stroke, "slope_db_per_s"): "stroke_slope_db_per_s",
    (BowChange, "noise_db"): "change_noise_db",
    (Trilled, "rate_uncertainty_hz"): "trill_range_hz",
}  # fmt: skip

# what says where and between which, and is drawn: lanes, ladders, ribbons, columns
PLACES = {
    (Double, "lower_hz"), (Double, "upper_hz"), (Double, "lower_uncertainty_cents"),
    (Double, "upper_uncertainty_cents"), (Double, "beating_partials"), (Stroke, "rows"),
    (Stroke, "mean_dbfs"), (Stroke, "tenths_db"), (BowChange, "time_s"), (BowChange, "rows"),
    (StringRing, "reason"), (BowEvent, "end_s"), (BowEvent, "row"), (AgainstClicks, "late_ms"),
}  # fmt: skip


def silent_text(met: Meeting) -> tuple[str, bool]:
    """A string that could have rung from where the note lay."""
    silent = ring(replace(string_ring(level_db=None), meeting=met))
    return ring_text(silent, STRINGS, met.apart_cents)


def every_field() -> list[tuple[type, str]]:
    gauges = [
        c for c in vars(values).values()
        if isinstance(c, type) and c.__module__ == values.__name__ and c is not Timing
    ]  # fmt: skip
    return [(c, f.name) for c in gauges for f in fields(c)]


@pytest.mark.parametrize(("gauge", "name"), every_field(), ids=lambda v: getattr(v, "__name__", v))
def test_a_field_is_met_somewhere(gauge: type, name: str) -> None:
    typical, others, said = GAUGES[gauge]
    if name in others:
        other = replace(typical, **{name: others[name]})
        assert said(other) != said(typical), "its words stay the same"
    else:
        assert (gauge, name) in PLACES or (gauge, name) in IN_THE_TABLE, "nobody meets it"


def table(**gauges: Any) -> dict[str, str]:
    bow = {k: gauges.pop(k) for k in ("strokes", "changes", "events", "timing") if k in gauges}
    rows = take_csv([note(JIG, 0, **gauges), note(JIG, 1)], JIG, playing(**bow))
    found = list(csv.DictReader(io.StringIO(rows)))
    assert tuple(found[0]) == COLUMNS
    return found[1] if "changes" in bow else found[0]


KEYS = {Stroke: "strokes", BowChange: "changes", BowEvent: "events"}


@pytest.mark.parametrize(("gauge", "name", "column"), [(*k, v) for k, v in IN_THE_TABLE.items()])
def test_the_table_holds_what_no_words_say(gauge: type, name: str, column: str) -> None:
    typical = GAUGES[gauge][0]
    for value in (1.25, -7.5):
        changed = replace(typical, **{name: value})
        key = KEYS.get(gauge)
        name_of_it = "trill" if gauge is Trilled else gauge.__name__.lower()
        if gauge is Meeting:
            name_of_it, changed = "ring", ring(replace(GAUGES[StringRing][0], meeting=changed))
        elif gauge is StringRing:
            name_of_it, changed = "ring", ring(changed)
        given = {key: (changed,)} if key else {name_of_it: changed}
        assert float(table(**given)[column]) == pytest.approx(value)


def test_the_table_holds_the_bow_of_every_note() -> None:
    change = GAUGES[BowChange][0]
    row = table(strokes=(replace(STROKE, rows=(1,)),), changes=(change,))
    assert (row["change_place"], row["change_gap_ms"], row["change_bump_db"]) == (
        "tip", "40.0", "3.0",
    )  # fmt: skip
    assert (row["stroke"], row["stroke_s"], row["stroke_end_db"]) == ("down", "2.0", "2.0")
    event = GAUGES[BowEvent][0]
    assert table(events=(event, replace(event, row=1)))["events"] == "bounce@1.00s:12.0"
    timing = Timing(
        tempo_bpm=120.0, rows=(1, 0), onset_error_ms=(5.0, -9.0), evenness_time=1.0,
        evenness_level_db=1.0,
    )  # fmt: skip
    assert table(timing=timing)["late_ms"] == "-9.0"


def test_without_a_bow_the_table_has_empty_cells() -> None:
    row = next(csv.DictReader(io.StringIO(take_csv([note(JIG, 0)], JIG))))
    assert row["stroke"] == row["change_gap_ms"] == row["events"] == ""
    vibrato = Vibrato(
        present=False, rate_hz=float("nan"), extent_cents=float("nan"),
        extent_uncertainty_cents=1.0, regularity=0.1, start_s=float("nan"),
    )  # fmt: skip
    assert table(vibrato=vibrato)["vibrato_hz"] == ""


def test_words_leave_out_what_is_too_small_to_matter() -> None:
    tone = replace(GAUGES[Tone][0], brightness_slope=0.29, scratch_ratio=0.029)
    assert tone_text(tone)[0] == "25 dB above its noise, brightness 3.0 × the note"
    assert "thud" not in pluck_text(replace(GAUGES[Pluck][0], thud_db=-10.1))[0]  # type: ignore[index]
    trill = GAUGES[Trilled][0]
    assert ", even," in trill_text(replace(trill, unevenness=0.1))[0]  # type: ignore[index]
    assert "fairly even" in trill_text(replace(trill, unevenness=0.11))[0]  # type: ignore[index]
    assert "uneven" in trill_text(replace(trill, unevenness=0.21))[0]  # type: ignore[index]
    assert trill_text(Unmeasured("no_ornament")) is None
    assert trill_text(Unmeasured("blurred")) is not None
    assert trill_text(Unmeasured("not_turned")) is not None
    stroke = stroke_text(replace(STROKE, end_hurry_db=1.4))[0]
    assert stroke == "down, 2.0 s, wavers by 1.0 dB"
    still = replace(STROKE, steadiness_db=0.049, end_hurry_db=0.0)
    assert stroke_text(still)[0] == "down, 2.0 s, does not waver"
    assert "wavers by 0.1 dB" in stroke_text(replace(still, steadiness_db=0.051))[0]
    level = replace(GAUGES[Level][0], shape="level", range_db=0.0, tremor_hz=float("nan"))
    assert level_text(level)[0] == "steady within 0.1 dB"
    assert level_text(replace(level, range_db=0.26))[0] == "steady within 0.3 dB"
    nothing = replace(STROKE, steadiness_db=float("nan"), end_hurry_db=float("nan"))
    assert stroke_text(nothing)[0] == "down, 2.0 s"
    even = GAUGES[Vibrato][0]
    assert "fairly even" in vibrato_text(replace(even, regularity=0.84))[0]
    assert "uneven" in vibrato_text(replace(even, regularity=0.64))[0]
    assert "begins" not in vibrato_text(replace(even, start_s=0.24))[0]
