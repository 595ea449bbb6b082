"""Values that cross files and processes: rows of JSON, requests to the worker, the demo."""

from __future__ import annotations

import inspect
import json
import pickle
import re
from collections.abc import Iterator
from dataclasses import FrozenInstanceError, fields, is_dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest

from builders import new_studio
from jigwright.core.errors import FieldError
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.music.instruments import INSTRUMENTS, instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.services import jobs, notation, studio_port
from jigwright.services.demo import courses
from jigwright.services.demo_version import DEMO_VERSION
from jigwright.services.engraving import bars_in_sight, engrave_request
from jigwright.services.notation import EngraveRequest
from jigwright.services.records import OwnedInstrument, Player, Remark
from jigwright.services.settling_in import add_instrument, add_player, settle_in
from jigwright.services.take_fields import (
    instrument_row,
    moment,
    plain_id,
    read_instrument,
    read_player,
    read_remark,
    read_take,
    take_row,
)
from jigwright.store.opening import open_studio
from jigwright.store.studio import Studio
from signals import scale, take_record

NELL = Player(id="p", name="Nell Harbour")
GULL = OwnedInstrument(
    id="i", name="“Gull”", kind="violin", strings=instrument("violin").strings,
    string_length_mm=327.5,
)  # fmt: skip


# rows ----------------------------------------------------------------------------------------


@pytest.mark.parametrize("jig", [None, scale()])
def test_a_take_survives_its_row(jig: Jig | None) -> None:
    take = replace(
        take_record("t-1", jig), sha256="ab" * 32, mark="kept", utc_offset_min=-210, a4_hz=441.5,
        reference="just:D", audio="audio/2026/t.flac", binned=True,
    )  # fmt: skip
    row = json.loads(json.dumps(take_row(take)))
    assert "audio" not in row
    assert "binned" not in row
    assert read_take(row, "take", NELL, GULL) == replace(take, audio="", binned=False)


def test_an_instrument_survives_its_row() -> None:
    for owned in (GULL, replace(GULL, string_length_mm=None)):
        assert read_instrument(json.loads(json.dumps(instrument_row(owned))), "i") == owned
    older = instrument_row(GULL)
    del older["string_length_mm"]
    assert read_instrument(older, "i").string_length_mm is None


@pytest.mark.parametrize(
    ("field", "good", "bad"),
    [
        ("string_length_mm", (150.0, 1300.0), (149.9, 1300.1, "x", True, float("nan"))),
        ("kind", ("viola",), ("kazoo", "", 3, None)),
        ("strings", ("C3 G3 D4 A4",), ("", "H2", "A4 D4", "A4", 3)),
        ("id", ("a.b-c_D9",), ("", ".a", "a/b", "a b", "a" * 81, None)),
        ("name", ("",), (3, None)),
    ],
)
def test_an_instrument_is_read_within_bounds(
    field: str, good: tuple[Any, ...], bad: tuple[Any, ...]
) -> None:
    for value in good:
        read_instrument({**instrument_row(GULL), field: value}, "i")
    for value in bad:
        with pytest.raises(FieldError, match=f"i.{field}"):
            read_instrument({**instrument_row(GULL), field: value}, "i")


@pytest.mark.parametrize(
    ("field", "good", "bad"),
    [
        ("a4_hz", (380.0, 470.0), (379.9, 470.1, None)),
        ("tolerance_cents", (1, 100), (0.9, 100.1)),
        ("utc_offset_min", (-840, 840), (-841, 841, 1.5)),
        ("duration_s", (0, 86_400), (-0.1, 86_401)),
        ("recorded_utc", ("2026-11-02T10:00:00Z",), ("2026-11-02", "yesterday", 3)),
        ("mark", ("", "liked", "kept"), ("best", 1)),
        ("sha256", ("0" * 64,), ("0" * 63, "G" * 64, "A" * 64)),
        ("jig_revision", (1, 1_000_000), (None, -1, 1_000_001, 1.5)),
    ],
)
def test_a_take_is_read_within_bounds(
    field: str, good: tuple[Any, ...], bad: tuple[Any, ...]
) -> None:
    row = take_row(replace(take_record("t", scale()), sha256="0" * 64))
    for value in good:
        read_take({**row, field: value}, "take", NELL, GULL)
    for value in bad:
        with pytest.raises(FieldError, match=f"take.{field}"):
            read_take({**row, field: value}, "take", NELL, GULL)


@pytest.mark.parametrize("row", [None, 3, "x", [], True, {}])
def test_rows_that_are_none_are_refused(row: Any) -> None:
    for read in (
        read_player, read_instrument, lambda r, w: read_take(r, w, NELL, GULL),
        lambda r, w: read_remark(r, w, "t"),
    ):  # fmt: skip
        with pytest.raises(FieldError):
            read(row, "here")


def test_a_remark_belongs_to_the_take_it_came_with() -> None:
    row = {
        "id": "r", "take_id": "another", "note_id": None, "at_s": 1.0, "who": "Ines",
        "words": "Lean.", "utc": "2026-11-02T10:00:00Z",
    }  # fmt: skip
    assert read_remark(row, "r", "t") == Remark(
        id="r", take_id="t", note_id=None, at_s=1.0, who="Ines", words="Lean.",
        utc="2026-11-02T10:00:00Z",
    )  # fmt: skip
    assert plain_id("a.b", "x") == "a.b"
    with pytest.raises(FieldError):
        moment("now", "x")


# requests ------------------------------------------------------------------------------------


def _values(module: Any) -> list[type]:
    return [c for _, c in inspect.getmembers(module, inspect.isclass)
            if is_dataclass(c) and c.__module__ == module.__name__]  # fmt: skip


@pytest.mark.parametrize("kind", [*_values(jobs), *_values(notation)], ids=lambda c: c.__name__)
def test_what_goes_to_the_worker_is_frozen_and_travels(kind: type) -> None:
    made = kind(**{f.name: f"{f.name}!" for f in fields(kind)})
    again = pickle.loads(pickle.dumps(made))
    assert again == made
    with pytest.raises(FrozenInstanceError):
        setattr(made, fields(kind)[0].name, None)


def _long(n: int) -> Jig:
    bars = " | ".join(["D4:1 E4 F#4 G4"] * n)
    return jig_from_line(
        bars, jig_id="long", title="Long", instrument_id="violin", key=Key(PitchClass("D"))
    )


def test_only_what_is_in_sight_is_engraved_first() -> None:
    assert bars_in_sight(_long(15), None) is None  # 60 events are engraved at once
    long = _long(60)
    n_bars = len(long.bars())
    assert bars_in_sight(long, None) == (0, 23)
    first, stop = bars_in_sight(long, (100, 140)) or (0, 0)
    assert first <= 25 < 35 <= stop <= n_bars
    assert bars_in_sight(long, (230, 10_000)) == (57, n_bars)


def test_a_request_to_the_engraver_names_every_head() -> None:
    jig = scale()
    request = engrave_request(jig, scale=40, target_width=800.0)
    assert isinstance(request, EngraveRequest)
    assert [note for note, _ in request.head_ids] == [h.id for e in jig.events for h in e.heads]
    assert len({element for _, element in request.head_ids}) == len(request.head_ids)
    assert all(f'"{element}"' in request.mei for _, element in request.head_ids)
    part = engrave_request(_long(60), scale=40, target_width=800.0, bars=(0, 4))
    assert len(part.mei) < len(engrave_request(_long(60), scale=40, target_width=800.0).mei) / 3
    assert not request.wrap


# ports ---------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "port", [c for _, c in inspect.getmembers(studio_port, inspect.isclass)
             if c.__module__ == studio_port.__name__], ids=lambda c: c.__name__,
)  # fmt: skip
def test_the_studio_is_what_the_use_cases_ask_for(port: type) -> None:
    wanted = {n for n in vars(port) if not n.startswith("_")}
    assert {n for n in wanted if not hasattr(Studio, n)} <= {"folder"}
    for name in wanted:
        ours, theirs = getattr(Studio, name, None), getattr(port, name)
        if inspect.isfunction(theirs):
            assert list(inspect.signature(theirs).parameters) == list(
                inspect.signature(ours).parameters
            ), name


# settling in ---------------------------------------------------------------------------------


@pytest.fixture
def studio(tmp_path: Path) -> Iterator[Studio]:
    made = open_studio(tmp_path / "studio")
    yield made
    made.close()


def test_an_empty_studio_gets_a_player_and_a_violin(studio: Studio) -> None:
    settle_in(studio)
    assert [p.name for p in studio.players()] == ["Me"]
    assert [i.kind for i in studio.instruments()] == ["violin"]
    assert studio.undo() is None  # nobody did that
    before = (studio.players(), studio.instruments())
    settle_in(studio)
    assert (studio.players(), studio.instruments()) == before


def test_who_is_added_can_be_taken_back(studio: Studio) -> None:
    player = add_player(studio, "x" * 100)
    owned = add_instrument(
        studio, "bass", "Heron", (Pitch.parse("E1"), Pitch.parse("A1")), string_length_mm=1045.0
    )
    assert len(player.name) == 80
    assert studio.instruments() == (owned,)
    assert owned.string_length_mm == 1045.0
    assert studio.undo() is not None
    assert studio.undo() is not None
    assert (studio.players(), studio.instruments()) == ((), ())


def test_a_reader_settles_nothing(tmp_path: Path) -> None:
    writer = new_studio(tmp_path / "s")
    reader = open_studio(tmp_path / "s")
    settle_in(reader)
    assert len(reader.players()) == 2
    reader.close()
    writer.close()


# the demo ------------------------------------------------------------------------------------


def test_the_demo_is_an_evening_class_of_ours() -> None:
    made = courses()
    assert len({c.player.id for c in made}) >= 4
    assert {c.owned.kind for c in made} == set(INSTRUMENTS)
    assert len({c.jig.id for c in made}) == len(made)
    for course in made:
        assert course.jig.instrument_id == course.owned.kind
        assert list(course.days) == sorted(set(course.days))
        assert set(course.marks) <= set(range(len(course.days)))
        assert 430 <= course.a4_hz <= 445
        assert all(e.length_beats > Fraction(0) for e in course.jig.events)
        for i in range(len(course.days)):
            assert isinstance(course.faults(i), str)
    assert re.fullmatch(r"\d+\.\d+", DEMO_VERSION)
