"""Another jig or instrument while a verdict stands: nothing of the last one is said any more."""

from __future__ import annotations

import numpy as np
import pytest

from aim_builders import jig_of, note
from jigwright.core.jig.fingering import propose_fingering
from jigwright.core.jig.line import jig_from_line
from jigwright.core.judge.verdict import Verdict
from jigwright.core.music.instruments import instrument
from jigwright.services.records import OwnedInstrument
from jigwright.ui.main_window import MainWindow
from jigwright.ui.places.stand import finger_distance_mm

LONG = "D4 E4 F#4 G4 A4 B4 C#5 D5"


def say_something_of_the_last_note(window: MainWindow) -> None:
    """As after a take whose last note was low."""
    stand = window.stand_model
    jig = jig_of(LONG)
    window.studio.add_jig(jig, utc="2026-11-30T10:00:00Z")
    window.session.set_jig(jig)
    stand.told.notes = tuple(note(jig, i, cents=-14.0 * (i == 7)) for i in range(8))
    stand.told.verdict = Verdict(kind="listen", row=7, pitch=jig.events[7].heads[0].pitch)
    stand.told.show_direction = True
    stand.changed.emit()


@pytest.mark.parametrize("kind", ["violin", "cello"])
def test_what_was_said_is_gone_before_anybody_asks(window: MainWindow, kind: str) -> None:
    window.go("stand")
    say_something_of_the_last_note(window)
    stand = window.stand_model
    assert "D" in window.stand.words()[0]
    seen: list[tuple[str, int, tuple[str, str]]] = []
    stand.changed.connect(
        lambda: seen.append(
            (window.session.now.jig.title, len(stand.told.notes), window.stand.words())
        )
    )
    strings = instrument(kind).strings
    owned = OwnedInstrument(id=f"other-{kind}", name="", kind=kind, strings=strings)
    window.studio.add_instrument(owned)
    short = jig_of(str(strings[0]), instrument_id=kind, id="short", title="short")
    window.studio.add_jig(short, utc="2026-11-30T10:01:00Z")
    window.session.set_instrument(owned)
    window.session.set_jig(short)
    assert seen
    assert {n for title, n, _ in seen if title == "short"} == {0}
    assert stand.told.verdict is None
    assert not stand.told.show_direction


def test_a_drone_is_put_away_after_what_was_said(window: MainWindow) -> None:
    """The companions tell of themselves while the jig changes."""
    window.go("stand")
    say_something_of_the_last_note(window)
    stand = window.stand_model
    stand.companions.cycle_drone()
    told: list[int] = []
    stand.changed.connect(lambda: told.append(len(stand.told.notes)))
    window.session.set_jig(jig_of("G3", id="short", title="short"))
    assert stand.companions.drone == "off"
    assert set(told) == {0}


def test_a_note_of_another_jig_has_no_distance(window: MainWindow) -> None:
    long = propose_fingering(jig_of(LONG))
    context = window.session.context()
    low = note(long, 1, cents=-14.0)  # on the D string
    own = finger_distance_mm(low, long, context)
    to_bridge_mm = 328.0 * 293.66 / low.target_hz
    assert own == pytest.approx(14.0 / 1200.0 * np.log(2.0) * to_bridge_mm, rel=0.02)
    for line in ("D4", "D4 E4"):  # shorter, and as long as is needed
        other = jig_from_line(line, jig_id="k", instrument_id="violin", title="k", tempo_bpm=120)
        assert finger_distance_mm(low, propose_fingering(other), context) is None
