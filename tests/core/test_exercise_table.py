"""docs/exercises.md: every exercise there is, what it is for, and what can be chosen."""

from __future__ import annotations

import os
from pathlib import Path

from jigwright.core.errors import JigError
from jigwright.core.jig.makers import FAMILIES, MAKERS, Maker, Setting, SettingChoice
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.wording.aims import aim_name
from jigwright.wording.choices import field_name, option_name
from jigwright.wording.makers import family_name, kind_name, maker_name, maker_purpose

TABLE = Path(__file__).parents[2] / "docs" / "exercises.md"
HEAD = """# Exercises

What can be made, by family. *Listens for* is what an exercise says it is for; everything that
speaks or counts goes by it. `jigwright jig make NAME choice=value --key G --out FILE` makes one;
the Jigs place makes the same with its choices laid open. Written by
`tests/core/test_exercise_table.py` from the makers themselves.
"""


def for_what(one: Maker) -> str:
    for key in ("D", "G", "F", "C"):
        try:
            jig = one.make(Setting(instrument_id=one.kinds[0], key=Key(PitchClass.parse(key))))
        except JigError:
            continue
        return " · ".join(dict.fromkeys(aim_name(a.kind) for a in jig.aims))
    raise AssertionError(one.id)


def choices(one: Maker) -> str:
    found = []
    for field in one.fields:
        if isinstance(field, SettingChoice):
            words = list(
                dict.fromkeys([*field.options, *(o for own in field.by_kind.values() for o in own)])
            )
            said = ", ".join(option_name(field.id, w) for w in words)
            said = said if len(words) <= 9 else f"{len(words)} of them"
        else:
            said = f"{field.low} to {field.high}"
        found.append(f"{field_name(field.id).lower()} (`{field.id}`): {said}")
    return "; ".join(found) or "–"


def table() -> str:
    rows = [HEAD]
    for family in FAMILIES:
        rows += [
            f"## {family_name(family)}", "",
            "| Name | | Listens for | To choose |", "|---|---|---|---|",
        ]  # fmt: skip
        for one in MAKERS:
            if one.family == family:
                only = "" if len(one.kinds) == 4 else (
                    " Only " + ", ".join(kind_name(k) for k in one.kinds) + "."
                )  # fmt: skip
                rows.append(
                    f"| **{maker_name(one.id)}** `{one.id}` | {maker_purpose(one.id)}{only} "
                    f"| {for_what(one)} | {choices(one)} |"
                )
        rows.append("")
    return "\n".join(rows)


def test_the_table_of_exercises_is_up_to_date() -> None:
    made = table()
    if os.environ.get("JIGWRIGHT_APPROVE"):
        TABLE.write_text(made, encoding="utf-8")
    assert made == TABLE.read_text(encoding="utf-8"), "JIGWRIGHT_APPROVE=1 writes it anew"


def test_every_choice_has_its_words() -> None:
    for one in MAKERS:
        for field in one.fields:
            assert "_" not in field_name(field.id)
            if isinstance(field, SettingChoice):
                for option in field.options:
                    plain = option_name(field.id, option)
                    assert plain != option or option[0].isdigit() or option in SAME, option


SAME = {
    "quarter", "sharp", "two", "one", "three", "lowest", "highest", "hidden", "none", "thirds",
    "sixths", "octaves", "fifths", "fourths", "seconds", "sevenths", "tenths", "unisons",
    "together", "level", "even", "major", "minor", "diminished", "augmented", "rocking", "frog",
    "balance", "middle", "tip", "running", "fingered",
}  # fmt: skip
"""Words that are said as they are called."""
