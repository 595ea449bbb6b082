"""The string check: what was found stays, is kept with the day, and is one player's own."""

from __future__ import annotations

from dataclasses import replace

import pytest

from builders import segment
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import pure_strings
from jigwright.services import moments
from jigwright.services.records import Player
from jigwright.ui.main_window import MainWindow
from jigwright.ui.viewmodels.stand.string_check import StringCheck

VIOLIN = pure_strings(instrument("violin").strings, 440.0)
G, D, A, E = VIOLIN


def bowed(string, cents: float = 0.0, at_s: float = 1.0):
    return segment(VIOLIN[string] * 2 ** (cents / 1200), at_s, seconds=1.0)


@pytest.fixture
def check(window: MainWindow) -> StringCheck:
    return StringCheck(window.studio, window.session)


def cents(check: StringCheck) -> dict:
    return {s.string: round(s.cents) for s in check.strings}


def kept(window: MainWindow) -> dict:
    owned = window.session.now.instrument
    return window.studio.string_check(owned.id, moments.today().isoformat())


def test_a_verdict_stays_however_long_another_string_is_bowed(window, check) -> None:
    check.hear([bowed(D, -12)], VIOLIN)
    on_a = [bowed(A, 0, at_s=2.0 + 2 * i) for i in range(20)]
    for n in range(1, 21):
        check.hear([bowed(D, -12), *on_a[:n]], VIOLIN)
    assert cents(check) == {D: -12, A: 0}
    assert check.peg is not None
    assert check.peg.string == D
    check.hear([], VIOLIN)  # listening begins anew
    assert cents(check) == {D: -12, A: 0}
    check.hear([bowed(D, 0.0)], VIOLIN)  # turned and heard again
    assert cents(check) == {D: 0, A: 0}
    assert [(n.lower, n.upper) for n in check.neighbours] == [(D, A)]
    assert set(kept(window)) == {D, A}


def test_another_a_moves_what_was_found_not_what_was_heard(check) -> None:
    check.hear([bowed(A, 8)], VIOLIN)
    check.hear([], pure_strings(instrument("violin").strings, 442.0))
    assert cents(check) == {A: 0}


def test_it_is_kept_once_for_what_was_found_once(window, check, monkeypatch) -> None:
    writes: list[dict] = []
    monkeypatch.setattr(
        type(window.studio), "set_string_check", lambda _s, _i, _d, hz: writes.append(hz)
    )
    for _ in range(5):
        check.hear([bowed(A)], VIOLIN)
    assert len(writes) == 1
    check.hear([bowed(A), bowed(G, at_s=3.0)], VIOLIN)
    assert [set(w) for w in writes] == [{A}, {A, G}]


def test_nobody_elses_check_is_shown(window) -> None:
    stand = window.stand_model
    stand.set_mode("strings")
    stand.check.hear([bowed(A, 5)], VIOLIN)
    jig = window.session.now.jig
    window.session.set_jig(None)  # the same player and instrument
    window.session.set_jig(jig)
    assert cents(stand.check) == {A: 5}
    other = Player(id="other", name="Lotte Quill")
    window.studio.add_player(other)
    told: list[int] = []
    stand.changed.connect(lambda: told.append(len(stand.check.strings)))
    window.session.set_player(other)
    assert stand.check.strings == ()
    assert stand.check.peg is None
    assert told[-1] == 0


def test_another_instrument_begins_anew(window, check) -> None:
    check.hear([bowed(A, 5), bowed(D, 1, at_s=3.0)], VIOLIN)
    assert not check.follow()
    owned = window.session.now.instrument
    window.studio.add_instrument(replace(owned, id="other"))
    window.session.set_instrument(replace(owned, id="other"))
    assert check.follow()
    assert check.strings == check.neighbours == ()
    assert not check.follow()
    check.hear([bowed(G)], VIOLIN)
    assert cents(check) == {G: 0}  # what was heard of the other is forgotten


def test_a_studio_to_be_read_only_is_not_written(window, check, monkeypatch) -> None:
    monkeypatch.setattr(type(window.studio), "read_only", property(lambda _self: True))
    check.hear([bowed(A, 5)], VIOLIN)
    assert cents(check) == {A: 5}
    assert kept(window) == {}
