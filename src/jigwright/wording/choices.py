"""What can be chosen of an exercise: labels, options, and how a choice is said in a title."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from jigwright.core.music.pitch import Pitch
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.notes import string_name

ALWAYS_SAID = ("interval", "shape", "contrast", "from_position", "to_position", "fingers")
"""Choices that belong into a title even where they are the usual ones."""
_NEVER_SAID = ("repeats",)


def choices_said(values: Mapping[str, str | int], strings: Sequence[Pitch] = ()) -> list[str]:
    """What was chosen, as parts of a title.

    Parameters
    ----------
    values : mapping of str to str or int
        Chosen word or number by field.
    strings : sequence of Pitch
        Open strings, low to high, for fields that name one.
    """
    found = []
    for name, value in values.items():
        if name in _NEVER_SAID or (name == "to_position" and "from_position" in values):
            continue
        if name == "from_position":
            text = tr("position {a} to {b}").format(a=value, b=values.get("to_position", "?"))
        elif str(value).isdecimal():
            text = _number_said(name, int(value), strings)
        else:
            text = _word_said(name, str(value))
        if text:
            found.append(text)
    return found


def _number_said(name: str, n: int, strings: Sequence[Pitch]) -> str:
    if name in ("on_string", "lower_string") and strings:
        i = min(n, len(strings) - (name == "lower_string")) - 1
        if name == "on_string":
            return tr("on the {string}").format(string=string_name(strings[i]))
        return tr("on {low} and {high}").format(
            low=string_name(strings[i]), high=string_name(strings[i + 1])
        )
    if name == "position":
        return tr("position {n}").format(n=n) if n else tr("half position")
    said = {
        "octaves": trn("{n} octave", "{n} octaves", n),
        "notes_in_bow": trn("{n} note in a bow", "{n} notes in a bow", n),
        "beats_in_bow": trn("{n} beat in a bow", "{n} beats in a bow", n),
        "beats_of_note": trn("{n} beat a note", "{n} beats a note", n),
        "seconds": trn("{n} second", "{n} seconds", n),
        "most_notes": tr("up to {n} in a bow"),
        "steps": trn("{n} note", "{n} notes", n),
        "highest_partial": tr("up to partial {n}"),
        "from_degree": tr("from degree {n}"),
        "to_position": tr("to position {n}"),
    }.get(name)
    return said.format(n=n) if said is not None else f"{field_name(name)} {n}"


def _word_said(name: str, word: str) -> str:
    if name in ("fingers", "series"):
        numbers = word.replace("-", "–")
        text = tr("fingers {numbers}") if name == "fingers" else tr("bows of {numbers} beats")
        return text.format(numbers=numbers)
    said = {
        "pick_up": {
            "two": tr("two notes before the beat"), "one": tr("one note before the beat"),
            "three": tr("three notes before the beat"), "none": tr("as written"),
        },
        "string": {
            "lowest": tr("lowest string"), "second": tr("second lowest string"),
            "third": tr("third lowest string"), "highest": tr("highest string"),
        },
        "which_string": {
            "lowest": tr("on the lowest string"), "second": tr("on the second lowest string"),
            "third": tr("on the third lowest string"), "highest": tr("on the highest string"),
        },
        "glide": {
            "slow": tr("slow glide"), "hidden": tr("hidden glide"), "none": tr("without a glide"),
        },
        "scale_in": {"lower": tr("scale below"), "upper": tr("scale on top")},
        "octave_fingers": {
            "first_fourth": tr("first and fourth finger"), "fingered": tr("fingered"),
            "thumb": tr("with the thumb"),
        },
        "leading": {
            "even": tr("both alike"), "lower": tr("the lower string leads"),
            "upper": tr("the upper string leads"), "rocking": tr("now one, now the other"),
        },
        "start_place": {
            "balance": tr("from the balance"), "middle": tr("from the middle"),
            "tip": tr("from the tip"),
        },
    }.get(name, {}).get(word)  # fmt: skip
    return said or option_name(name, word)


def field_name(field_id: str) -> str:
    """Label of a choice."""
    return {
        "string": tr("String"), "repeats": tr("Times"), "beats_in_bow": tr("Beats in a bow"),
        "beats_of_note": tr("Beats a note"),
        "seconds": tr("Seconds wished"), "notes_in_bow": tr("Notes in a bow"),
        "most_notes": tr("Most notes in a bow"), "shares": tr("Shares of the bow"),
        "pattern": tr("Pattern"), "stage": tr("Stage"), "octaves": tr("Octaves"),
        "note_value": tr("Note value"), "frame": tr("Hand frame"), "position": tr("Position"),
        "on_string": tr("On string (1 = lowest)"), "glide": tr("Glide"),
        "lower_string": tr("Lower string (1 = lowest)"), "from_position": tr("From position"),
        "to_position": tr("To position"), "fingers": tr("Fingers"), "hand": tr("Left hand"),
        "from_degree": tr("From degree"), "figure": tr("Melodic figure"), "which_string": tr("On"),
        "rhythm": tr("Rhythm"), "bowing": tr("Bowing"), "chord": tr("Chord"),
        "octave_fingers": tr("Octaves with"), "leading": tr("Louder"),
        "balance_notes": tr("Notes"), "notes": tr("Notes"), "dotted_notes": tr("Notes"),
        "start_place": tr("Start at the"), "first_on": tr("First on the"), "study": tr("Pattern"),
        "interval": tr("Interval"), "order": tr("Order"), "scale_in": tr("Scale lies in the"),
        "steps": tr("Steps"), "shape": tr("Shape"), "contrast": tr("Contrast"),
        "character": tr("Character"), "highest_partial": tr("Up to partial"),
        "harmonic": tr("Kind"),
        "pick_up": tr("Notes before the beat"), "start": tr("Stage"), "series": tr("Beats"),
    }[field_id]  # fmt: skip


def option_name(field_id: str, option: str) -> str:
    """Name of one of several words."""
    names = {
        "single": tr("one string at a time"), "double": tr("on two strings"),
        "each": tr("each in turn"), "lowest": tr("lowest"), "second": tr("second lowest"),
        "third": tr("third lowest"), "highest": tr("highest"), "halves": tr("two halves"),
        "quarters": tr("four quarters"), "little_much": tr("little, then much"),
        "much_little": tr("much, then little"), "pairs": tr("two neighbours in turn"),
        "over_and_back": tr("over and back"), "skipping": tr("skipping a string"),
        "groups_of_eight": tr("groups of eight"), "on_then_off": tr("on the string, then off"),
        "lowered": tr("lowered from the air"), "quarter": tr("quarters"), "half": tr("halves"),
        "eighth": tr("eighths"), "sixteenth": tr("sixteenths"),
        "middle": tr("half step between 2 and 3"), "low_second": tr("half step between 1 and 2"),
        "wide": tr("half step on top"), "slow": tr("slow, heard"), "hidden": tr("hidden"),
        "none": tr("none"), "thirds": tr("thirds"), "sixths": tr("sixths"),
        "octaves": tr("octaves"), "fifths": tr("fifths"), "fourths": tr("fourths"),
        "seconds": tr("seconds"), "sevenths": tr("sevenths"), "tenths": tr("tenths"),
        "unisons": tr("unisons"), "together": tr("together"),
        "lower_upper_both": tr("lower, upper, both"), "long_short": tr("long and short"),
        "long_short_short": tr("long, short, short"), "lower": tr("lower voice"),
        "upper": tr("upper voice"), "swell": tr("swelling"), "grow": tr("growing"),
        "fade": tr("fading"), "level": tr("level"), "on_a_line": tr("on a line"),
        "sharp": tr("sharp, with gaps"), "two": tr("two"), "one": tr("one"), "three": tr("three"),
        "f-p": tr("loud, then soft"), "mf-pp": tr("middling, then very soft"),
        "p-f": tr("soft, then loud"), "start_middle": tr("start in the middle"),
        "start_nearer": tr("start a hand nearer the frog"),
        "start_hand_away": tr("start a hand from the frog"), "start_frog": tr("start at the frog"),
        "both_ways": tr("both ways"), "weight": tr("both ways, with weight"),
    }  # fmt: skip
    own = _OPTIONS().get(field_id, {})
    return own.get(option) or names.get(option, option)


def _OPTIONS() -> dict[str, dict[str, str]]:  # noqa: N802 - read as a table
    """Words that mean something else in one field than in another, and long lists of words."""
    return {
        "frame": {
            "lowered": tr("all lowered"), "closed": tr("closed hand"),
            "back": tr("first finger back"), "forward": tr("hand open forward"),
        },
        "pick_up": {"none": tr("none, as written")},
        "figure": {
            "steps": tr("by step"), "thirds": tr("in thirds"), "fours": tr("in groups of four"),
            "triads": tr("in triads"), "returning": tr("and back to each"),
        },
        "which_string": {
            "any": tr("all strings"), "lowest": tr("the lowest string"),
            "second": tr("the second lowest"), "third": tr("the third lowest"),
            "highest": tr("the highest string"),
        },
        "hand": {
            "free": tr("wherever it lies best"), "first_position": tr("first position only"),
        },
        "rhythm": {
            "even": tr("even"), "long_short": tr("long, short"), "short_long": tr("short, long"),
            "long_two": tr("long, two short"), "two_long": tr("two short, long"),
            "gallop": tr("galloping"),
        },
        "bowing": {
            "counted": tr("as many as said"), "two_two": tr("two slurred, two apart"),
            "one_three": tr("one apart, three slurred"),
            "three_one": tr("three slurred, one apart"), "two_one": tr("two slurred, one apart"),
            "hooked": tr("hooked in twos"),
        },
        "chord": {
            "of_key": tr("of the key"), "major": tr("major"), "minor": tr("minor"),
            "diminished": tr("diminished"), "augmented": tr("augmented"),
            "dominant_seventh": tr("dominant seventh"), "major_seventh": tr("major seventh"),
            "minor_seventh": tr("minor seventh"), "half_diminished": tr("half-diminished"),
            "diminished_seventh": tr("diminished seventh"),
        },
        "octave_fingers": {
            "first_fourth": tr("first and fourth"), "fingered": tr("1–3 and 2–4 in turn"),
            "thumb": tr("the thumb"),
        },
        "leading": {
            "even": tr("neither"), "lower": tr("the lower string"),
            "upper": tr("the upper string"), "rocking": tr("one, then the other"),
        },
        "balance_notes": {"open": tr("open strings"), "stopped": tr("first finger on both")},
        "notes": {
            "open": tr("open strings"), "stopped": tr("two fingers"), "tune": tr("a tune"),
            "scale": tr("a scale"),
        },
        "dotted_notes": {"scale": tr("a scale"), "tune": tr("a tune")},
        "start_place": {
            "frog": tr("frog"), "balance": tr("balance"), "middle": tr("middle"),
            "tip": tr("tip"),
        },
        "first_on": {
            "easiest": tr("string where it lies lowest"), "highest": tr("highest string"),
            "second_highest": tr("second highest string"),
            "third_highest": tr("third highest string"),
        },
        "study": {
            "around": tr("round the note"), "broken_chords": tr("broken chords"),
            "leaping": tr("in leaps"), "running": tr("running"), "rocking": tr("rocking"),
        },
    }  # fmt: skip
