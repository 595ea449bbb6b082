"""What is asked comes first, what is wanted is no fault, and nothing is said twice."""

from __future__ import annotations

from dataclasses import replace

import pytest

from aim_builders import all_in, jig_of, level, note
from jigwright.core.gauge.values import Arrival
from jigwright.core.jig.aims import AIM_KINDS, Aim, aims
from jigwright.core.jig.model import Jig
from jigwright.core.judge.asked import AIMS_OF, is_asked, is_wanted, loudness_marks
from jigwright.core.judge.findings import Finding, find
from jigwright.core.music.pitch import Pitch
from jigwright.wording.findings import finding_title

STRINGS = (Pitch.parse("G3"), Pitch.parse("D4"), Pitch.parse("A4"), Pitch.parse("E5"))
HUNTED = Arrival(kind="hunted", first_cents=20.0, settle_s=0.3)


def test_every_finding_belongs_to_aims_that_exist() -> None:
    assert all(kinds <= set(AIM_KINDS) and kinds for kinds in AIMS_OF.values())


@pytest.mark.parametrize(
    ("finding", "asked"),
    [("bow_bounce", True), ("note_off", False), ("missed_notes", False), ("something_new", True)],
)
def test_a_jig_asks_for_what_its_aims_name(finding: str, asked: bool) -> None:
    jig = jig_of("D4 E4", *aims("even_bow", "mirror"))
    assert is_asked(finding, jig) is asked
    assert is_asked(finding, None)


def off(i: int, cents: float) -> dict[str, object]:
    return {"cents": cents, "standing": "low" if cents < 0 else "high"}


def found(jig: Jig, changes: dict[int, dict[str, object]], **more: object) -> list[Finding]:
    notes = all_in(jig, changes)
    return list(find(notes, tolerance_cents=10.0, jig=jig, **more))  # type: ignore[arg-type]


def test_what_was_not_asked_stands_below_what_was() -> None:
    bow = Finding(id="bow_bounce", severity=0.1, notes=(1,))
    line, changes = "D4 E4 F#4 G4", {0: off(0, -40.0)}
    for_bow = found(jig_of(line, *aims("even_bow")), changes, further=[bow])
    assert [f.id for f in for_bow] == ["bow_bounce", "note_off"]
    for_pitch = found(jig_of(line, *aims("pitch")), changes, further=[bow])
    assert [f.id for f in for_pitch] == ["note_off", "bow_bounce"]


def test_correcting_is_no_fault_where_going_back_is_the_exercise() -> None:
    line = "D4 E4 F#4 G4"
    back = jig_of(line, *aims("pitch", "second_arrival"))
    plain = jig_of(line, *aims("pitch"))
    assert (is_wanted("hunting", back), is_wanted("hunting", plain)) == (True, False)
    assert not is_wanted("note_off", back)
    assert not is_wanted("hunting", None)
    changes = {1: {"arrival": HUNTED}}
    assert [f.id for f in found(plain, changes)] == ["hunting"]
    assert found(back, changes) == []


def test_one_note_is_named_once() -> None:
    jig = jig_of("D4 E4 D4 F#4 D4")
    said = found(jig, {0: off(0, -21.0), 2: off(2, -25.0), 4: off(4, -19.0)})
    assert [(f.id, f.notes) for f in said] == [("note_off", (2,))]
    ways = found(jig, {0: off(0, -21.0), 2: off(2, 25.0), 3: off(3, 15.0)})
    assert [f.notes for f in ways] == [(2,), (0,)], "low and high are two things; two at most"
    wrong = {"standing": "wrong", "cents": 210.0}
    other = {"standing": "wrong", "cents": -190.0}
    same = found(jig, {0: wrong, 2: wrong, 4: other})
    assert [(f.id, f.notes) for f in same] == [("wrong_note", (0,)), ("wrong_note", (4,))]


def marked(*dynamics: str | None, shape: int | None = None) -> Jig:
    jig = jig_of(" ".join(["D4"] * len(dynamics)))
    events = tuple(
        replace(e, dynamic=d, shape="fade" if i == shape else None)
        for i, (e, d) in enumerate(zip(jig.events, dynamics, strict=True))
    )
    return replace(jig, events=events)


def test_a_mark_holds_until_the_next_and_a_shape_has_none() -> None:
    jig = marked(None, "f", None, "p", None, shape=4)
    notes = all_in(jig)
    assert loudness_marks(notes, jig) == ["", "f", "f", "p", "shape"]
    assert loudness_marks(notes, None) == [""] * 5
    extra = note(jig, 1)
    lined = replace(extra.measured.lined, i_event=None)
    stranger = replace(extra, measured=replace(extra.measured, lined=lined))
    assert loudness_marks([stranger], jig) == [""]


def levels(jig: Jig, *db: float) -> list[str]:
    changes = {i: {"level": level(v)} for i, v in enumerate(db)}
    return [f"{f.id}:{f.notes[0]}" for f in found(jig, changes) if f.id == "weak_note"]


def test_soft_is_no_weakness_where_p_is_written() -> None:
    jig = marked("f", *[None] * 5, "p", *[None] * 5)
    loud, soft = [-20.0] * 6, [-32.0] * 6
    assert levels(jig, *loud, *soft) == []
    assert levels(jig, *loud, *soft[:3], -41.0, *soft[4:]) == ["weak_note:9"]
    assert levels(marked(*[None] * 12), *loud, *soft[:1], *loud[:5]) == ["weak_note:6"]


def test_a_note_that_fades_is_weak_for_nobody() -> None:
    eight = [-20.0] * 6 + [-35.0, -20.0]
    assert levels(marked(*[None] * 8), *eight) == ["weak_note:6"]
    assert levels(marked(*[None] * 8, shape=6), *eight) == []


@pytest.mark.parametrize("n", [5, 6])
def test_six_notes_of_a_mark_are_needed(n: int) -> None:
    jig = marked(*[None] * n)
    assert levels(jig, -40.0, *[-20.0] * (n - 1)) == (["weak_note:0"] if n == 6 else [])


@pytest.mark.parametrize(("cents", "title"), [(-24.0, "D a little low"), (-25.0, "D low")])
def test_a_heading_has_its_bar_and_its_size(cents: float, title: str) -> None:
    jig = jig_of("E4 E4 E4 E4 D4 E4")
    said = found(jig, {4: off(4, cents)})[0]
    assert finding_title(said, STRINGS) == f"{title}, bar 2"


def test_what_has_no_one_place_has_no_bar() -> None:
    jig = jig_of("D4 E4 F#4 G4")
    two = found(jig, {1: {"arrival": HUNTED}, 2: {"arrival": HUNTED}})[0]
    assert finding_title(two, STRINGS) == "2 notes were searched for"
    notes = all_in(jig, {1: off(1, 25.0)})
    assert finding_title(find(notes, tolerance_cents=10.0)[0], STRINGS) == "E high"


def test_a_habit_is_of_every_bar() -> None:
    habit = Finding(
        id="note_habit", severity=1.0, notes=(0,), pitch=Pitch.parse("D4"),
        values={"cents": -12.0, "bar": 1},
    )  # fmt: skip
    assert finding_title(habit, STRINGS) == "D is usually low"


def test_an_extra_note_has_no_bar() -> None:
    jig = jig_of("D4 E4", Aim(kind="pitch"))
    one = Finding(id="bow_scratch", severity=1.0, notes=(0,), values={"n": 1.0})
    notes = all_in(jig)
    lined = replace(notes[0].measured.lined, i_event=None)
    notes[0] = replace(notes[0], measured=replace(notes[0].measured, lined=lined))
    said = find(notes, tolerance_cents=10.0, further=[one], jig=jig)
    assert "bar" not in said[0].values
