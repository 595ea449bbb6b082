"""Laws of every exercise there is, on each instrument and in each key."""

from __future__ import annotations

from itertools import pairwise

import pytest

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import aims_of
from jigwright.core.jig.hand_check import hand_troubles
from jigwright.core.jig.makers import MAKERS, Maker, Setting, SettingChoice, maker
from jigwright.core.jig.model import Jig
from jigwright.core.music.instruments import INSTRUMENTS, instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.wording.makers import maker_name, maker_purpose

FOURTEEN_KEYS = tuple(Key(PitchClass.from_fifths(f)) for f in range(-6, 8))
PLAYED = [(one, kind) for one in MAKERS for kind in one.kinds]
NEEDS_RING = {"ring_scale", "ring_echo", "ring_thrice"}
FREE_OF_KEY = {
    "chromatic", "shifts", "hand_pattern", "frame_across", "harmonics", "artificial_harmonics",
    "balance",
}  # fmt: skip


def made(one: Maker, kind: str, key: Key, **values: str | int) -> Jig:
    return one.make(Setting(instrument_id=kind, key=key, values=values))


@pytest.mark.parametrize(("one", "kind"), PLAYED, ids=[f"{one.id}-{kind}" for one, kind in PLAYED])
def test_every_exercise_in_every_key_can_be_played_and_is_for_something(
    one: Maker, kind: str
) -> None:
    refused = 0
    for key in FOURTEEN_KEYS if one.uses_key else FOURTEEN_KEYS[6:7]:
        # only what an instrument cannot give: a key without a note that rings
        if one.id in NEEDS_RING and not takes(one, kind, key):
            refused += 1
        else:
            check(made(one, kind, key), one, key)
    assert refused <= 4


@pytest.mark.parametrize(
    ("one", "kind"), [p for p in PLAYED if not p[0].uses_key], ids=lambda p: getattr(p, "id", p)
)
def test_where_no_key_matters_there_is_no_signature(one: Maker, kind: str) -> None:
    flat, sharp = (made(one, kind, Key(PitchClass.parse(tonic))) for tonic in ("Eb", "E"))
    assert flat == sharp
    assert flat.key.fifths == 0
    assert all(h.pitch.alter == 0 for e in flat.events for h in e.heads if h.finger == 0)


def check(jig: Jig, one: Maker, key: Key) -> None:
    inst = instrument(jig.instrument_id)
    assert aims_of(jig), "for something"
    assert jig.aims, "and says so itself"
    assert hand_troubles(jig) == (), f"{one.id} in {key}"
    assert jig.length_beats.denominator == 1, "it ends on a beat"
    strokes = [e.bow for e in jig.events if e.bow is not None]
    assert strokes or all(e.pluck for e in jig.events)
    heads = [h for e in jig.events for h in e.heads]
    assert all(h.pitch.midi >= inst.strings[0].midi for h in heads)
    assert all(abs(h.pitch.alter) <= 1 for h in heads) or abs(key.fifths) > 5
    if one.uses_key and one.id not in FREE_OF_KEY:
        own = {str(c) for c in (*key.degrees(), *(s.pitch_class for s in inst.strings))}
        shared = sum(str(h.pitch.pitch_class) in own for h in heads)
        assert shared >= 0.9 * len(heads), "notes of its key"
    for before, after in pairwise(jig.events):
        assert before.end_beats <= after.onset_beats


@pytest.mark.parametrize("kind", sorted(INSTRUMENTS))
@pytest.mark.parametrize("one", MAKERS, ids=lambda m: m.id)
def test_no_choice_is_refused_in_every_key(one: Maker, kind: str) -> None:
    if kind not in one.kinds:
        with pytest.raises(JigError, match=kind):
            made(one, kind, Key(PitchClass("D")))
        return
    for field in one.fields_on(kind):
        values = field.options if isinstance(field, SettingChoice) else (field.low, field.high)
        for value in values:
            if (field.id, value) in COMBINED:
                continue
            keys = FOURTEEN_KEYS[4:9]
            assert any(takes(one, kind, k, **{field.id: value}) for k in keys), (field.id, value)


COMBINED = {
    ("to_position", 1), ("fingers", "3-1"), ("fingers", "4-2"), ("fingers", "4-1"),
    ("to_position", 6), ("to_position", 7), ("from_position", 5),
}  # fmt: skip
"""Shifts that are none from the first to the third position: tried beside others, below."""


def takes(one: Maker, kind: str, key: Key, **values: str | int) -> bool:
    try:
        made(one, kind, key, **values)
    except JigError:
        return False
    return True


@pytest.mark.parametrize("kind", sorted(INSTRUMENTS))
def test_shifts_go_between_all_positions_by_all_fingers(kind: str) -> None:
    one, key = maker("shifts"), Key(PitchClass("D"))
    fields = {f.id: f for f in one.fields_on(kind)}
    pairs = fields["fingers"].options  # type: ignore[union-attr]
    assert len(pairs) == (9 if kind == "bass" else 16)
    top = fields["to_position"].high  # type: ignore[union-attr]
    done = set()
    for start in range(1, top + 1):
        for end in range(1, top + 1):
            for fingers in pairs:
                values = {"from_position": start, "to_position": end, "fingers": fingers}
                try:
                    jig = made(one, kind, key, **values)
                except JigError:
                    continue
                done.add(fingers)
                leaves, lands = (int(f) for f in fingers.split("-"))
                first, arrival = jig.events[0].heads[0], jig.events[-1].heads[0]
                assert (first.finger, arrival.finger) == (leaves, lands)
                assert first.string == arrival.string
                if leaves == lands:
                    assert (end > start) == (arrival.pitch.midi > first.pitch.midi)
    assert done == set(pairs)


def test_every_exercise_says_what_it_is_and_what_for() -> None:
    names = [maker_name(one.id) for one in MAKERS]
    assert len(set(names)) == len(names)
    assert all(maker_purpose(one.id).endswith((".", "?")) for one in MAKERS)
