"""The present as a frozen value, and how it is chosen."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import FrozenInstanceError, replace
from pathlib import Path

import pytest

from builders import keep_take, new_studio
from jigwright.core.errors import JigwrightError
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.services.records import OwnedInstrument, Player
from jigwright.services.session import (
    Session,
    after_showing,
    session_at_start,
    with_jig,
    with_player,
    with_view,
)
from jigwright.services.take_reader import View
from jigwright.store.studio import Studio
from signals import scale

UTC = "2026-11-20T10:00:00Z"
FIVE = OwnedInstrument(
    id="f", name="Heron", kind="bass",
    strings=tuple(Pitch.parse(s) for s in ["B0", "E1", "A1", "D2", "G2"]), string_length_mm=1042.0,
)  # fmt: skip


@pytest.fixture
def studio(tmp_path: Path) -> Iterator[Studio]:
    made = new_studio(tmp_path / "studio")
    yield made
    made.close()


def test_nothing_chosen_is_a_violin_at_440() -> None:
    now = Session()
    assert (now.kind, now.a4_hz, now.reference, now.tolerance_cents) == (
        "violin", 440.0, "equal", 10.0,
    )  # fmt: skip
    assert now.strings == instrument("violin").strings
    assert now.string_length_mm == 328.0
    with pytest.raises(FrozenInstanceError):
        now.player = None  # type: ignore[misc]


def test_the_instrument_brings_its_strings_and_its_length() -> None:
    now = Session(instrument=FIVE)
    assert now.kind == "bass"
    assert now.strings == FIVE.strings
    assert now.string_length_mm == 1042.0
    assert replace(now, instrument=replace(FIVE, string_length_mm=None)).string_length_mm == 1060.0
    context = now.context()
    assert (context.instrument_id, context.strings, context.length_mm) == (
        "bass", FIVE.strings, 1042.0,
    )  # fmt: skip


def test_a_view_goes_before_the_jig_and_the_jig_before_the_usual() -> None:
    jig = replace(scale(), reference="just:D", tolerance_cents=6.0)
    now = Session(jig=jig, last_a4_hz=442.0)
    assert (now.a4_hz, now.reference, now.tolerance_cents) == (442.0, "just:D", 6.0)
    seen = with_view(now, View(a4_hz=415.0, reference="pythagorean", tolerance_cents=3.0))
    assert (seen.a4_hz, seen.reference, seen.tolerance_cents) == (415.0, "pythagorean", 3.0)
    assert seen.context().reference.name == "pythagorean"
    with pytest.raises(JigwrightError):
        with_view(now, View(reference="no such thing"))


def test_at_the_start_is_what_was_chosen_last_else_the_first(studio: Studio) -> None:
    first = session_at_start(studio)
    assert first.player == Player(id="p", name="Nell Harbour")
    assert first.instrument is not None
    assert first.instrument.name == "cello"  # by name
    assert first.jig is None
    studio.add_jig(scale(), utc=UTC)
    for name, value in (("player", "q"), ("instrument", "i"), ("jig", "scale-violin")):
        studio.set_setting(name, value)
    then = session_at_start(studio)
    assert then.player is not None
    assert then.instrument is not None
    assert (then.player.id, then.instrument.id, then.jig) == ("q", "i", scale())
    studio.set_setting("player", "gone")
    assert session_at_start(studio).player == first.player
    kept = session_at_start(studio, Session(last_a4_hz=443.0))
    assert kept.a4_hz == 443.0


def test_a_player_brings_the_instrument_and_the_jig_of_the_last_take(studio: Studio) -> None:
    now = session_at_start(studio)
    odo = studio.players()[1]
    assert with_player(now, odo, studio) == replace(now, player=odo)
    keep_take(studio, "a", scale(), None, player_id="q", instrument_id="i")
    jig = scale("cello")
    keep_take(studio, "b", jig, None, player_id="q", instrument_id="c", utc="2026-11-03T10:00:00Z")
    later = with_player(now, odo, studio)
    assert later.instrument is not None
    assert (later.instrument.id, later.jig) == ("c", jig)
    studio.change("bin_take", "b", {"binned": 1})
    again = with_player(now, odo, studio)
    assert again.instrument is not None
    assert again.instrument.id == "i"


def test_a_jig_brings_an_instrument_it_is_written_for(studio: Studio) -> None:
    violin = next(i for i in studio.instruments() if i.id == "i")
    now = Session(instrument=violin)
    assert with_jig(now, scale(), studio).instrument == violin
    other = with_jig(now, scale("cello"), studio)
    assert other.instrument is not None
    assert other.instrument.id == "c"
    assert with_jig(now, scale("bass"), studio).instrument == violin  # there is no bass
    assert with_jig(other, None, studio).instrument == other.instrument


def test_what_is_new_is_tuned_like_what_was_shown(studio: Studio) -> None:
    take = keep_take(studio, "a", None, None, a4_hz=443.0)
    now = after_showing(Session(), take)
    assert now.context().a4_hz == 443.0
    assert with_view(now, View(a4_hz=440.0)).context().a4_hz == 440.0
