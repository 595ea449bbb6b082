"""Names of exercises, their choices, and what they are for."""

from __future__ import annotations

from jigwright.core.jig.makers import Family, Maker, Setting
from jigwright.core.jig.makers.spec import SettingChoice
from jigwright.core.music.keys import Key
from jigwright.wording.catalogue import tr
from jigwright.wording.notes import letter_name


def family_name(family: Family) -> str:
    """Heading of a family."""
    return {
        "bow": tr("The bow"), "pitch": tr("Pitch"), "two_strings": tr("Two strings"),
        "tone": tr("Tone"), "time": tr("Time"),
    }[family]  # fmt: skip


def maker_name(maker_id: str) -> str:
    """Name of an exercise."""
    return _NAMES()[maker_id][0]


def maker_purpose(maker_id: str) -> str:
    """One sentence: what to listen for."""
    return _NAMES()[maker_id][1]


def mode_name(mode: str) -> str:
    """Name of a mode."""
    return {
        "major": tr("major"), "natural_minor": tr("natural minor"),
        "harmonic_minor": tr("harmonic minor"), "melodic_minor": tr("melodic minor"),
        "dorian": tr("dorian"), "phrygian": tr("phrygian"), "lydian": tr("lydian"),
        "mixolydian": tr("mixolydian"),
    }[mode]  # fmt: skip


def key_name(key: Key) -> str:
    """A key in words."""
    return tr("{tonic} {mode}").format(tonic=letter_name(key.tonic), mode=mode_name(key.mode))


def kind_name(instrument_id: str) -> str:
    """Name of a kind of instrument."""
    return {
        "violin": tr("violin"), "viola": tr("viola"), "cello": tr("cello"),
        "bass": tr("double bass"),
    }[instrument_id]  # fmt: skip


def jig_title(maker: Maker, setting: Setting) -> str:
    """A title from what was chosen."""
    parts = [maker_name(maker.id)]
    if maker.uses_key:
        parts.append(key_name(setting.key))
    for field in maker.fields:
        if field.id == "repeats":
            continue
        value = setting.values.get(field.id, field.default)
        if value == field.default and not isinstance(field, SettingChoice):
            continue
        if isinstance(field, SettingChoice):
            if value != field.default or field.id in ("interval", "shape", "contrast", "shift"):
                parts.append(option_name(field.id, str(value)))
        else:
            parts.append(f"{field_name(field.id).lower()} {value}")
    return ", ".join(parts)


def field_name(field_id: str) -> str:
    """Label of a choice."""
    return {
        "string": tr("String"), "repeats": tr("Times"), "beats_in_bow": tr("Beats in a bow"),
        "beats_of_note": tr("Beats a note"),
        "seconds": tr("Seconds wished"), "notes_in_bow": tr("Notes in a bow"),
        "most_notes": tr("Most notes in a bow"), "shares": tr("Shares of the bow"),
        "pattern": tr("Pattern"), "stage": tr("Stage"), "octaves": tr("Octaves"),
        "note_value": tr("Note value"), "frame": tr("Hand frame"), "position": tr("Position"),
        "on_string": tr("On string (1 = lowest)"), "shift": tr("Positions"), "glide": tr("Glide"),
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
    if field_id == "frame" and option == "lowered":
        return tr("all lowered")
    if field_id == "pick_up" and option == "none":
        return tr("none, as written")
    return names.get(option, option)


def _NAMES() -> dict[str, tuple[str, str]]:  # noqa: N802 - read as a table
    return {
        "scale": (tr("Scale"), tr("Open strings going up, fourth fingers coming down.")),
        "arpeggio": (tr("Arpeggio"), tr("Root, third and fifth, as far as the hand goes.")),
        "chromatic": (tr("Chromatic scale"), tr("Every half step the same size.")),
        "drone_scale": (
            tr("Drone scale downwards"),
            tr("Slowly over a held tonic. A note is out: correct it, go back one, come again."),
        ),
        "hand_pattern": (
            tr("Hand pattern"),
            tr("Every interval of one hand frame three times: the centre counts, and the spread."),
        ),
        "shifts": (
            tr("Shifts"),
            tr("Departure, guide note, arrival: first a slow glide, then without the guide."),
        ),
        "long_bows": (
            tr("Long open bows"),
            tr("Smooth, even, down and up as mirror images. Start in the middle of the bow."),
        ),
        "foundation_bow": (
            tr("Foundation bow"),
            tr("The bow's own weight on an open string, from start places ever nearer the frog."),
        ),
        "speed_series": (
            tr("Bow speeds"),
            tr("One pulse, a whole bow in 8, 4, 3, 2 and 1 beats. Nothing left over at the end."),
        ),
        "slowest_bow": (
            tr("The slowest bow"),
            tr("How long can one stroke stay clear? Short doses, with breaks."),
        ),
        "many_notes": (
            tr("Many notes in a bow"),
            tr("The bow keeps its time while the notes double. Even from end to end."),
        ),
        "growing_slur": (
            tr("Growing slur"),
            tr("One note in a bow, then two, then three, each time from the first note."),
        ),
        "dividing": (tr("Dividing the bow"), tr("Each note gets the share that was planned.")),
        "bow_changes": (tr("Bow changes"), tr("Turn round without a hole and without a bump.")),
        "crossings": (
            tr("String crossings"),
            tr("From string to string, neither hole nor neighbour."),
        ),
        "contact_trial": (
            tr("Contact-point trial"),
            tr("The same strokes by the fingerboard, in the middle, by the bridge. You choose."),
        ),
        "soft_bows": (tr("Soft long bows"), tr("Very soft without shaking, middle to tip.")),
        "off_string": (
            tr("Off the string"),
            tr("The same motion as on the string, lowered until the full hair touches."),
        ),
        "clean_starts": (tr("Clean starts"), tr("Full tone at once, from the string.")),
        "double_scale": (
            tr("Double-stop scale"),
            tr("The lower note is the base, the upper is fitted to it."),
        ),
        "over_open": (
            tr("Over the open string"),
            tr("The open string cannot move: fit each note above it until the beating stops."),
        ),
        "long_shapes": (
            tr("Long shaped notes"),
            tr("Let each note go somewhere, in loudness and in colour."),
        ),
        "echo": (tr("Statement and echo"), tr("The same words twice. Is the second soft enough?")),
        "pairs": (tr("Slurs of two"), tr("The first leads, the second does not stick out.")),
        "vibrato": (tr("Plain and with vibrato"), tr("First without, then with: the same pitch.")),
        "artificial_harmonics": (
            tr("Artificial harmonics"),
            tr("Stopped and touched a fourth above: the frame of the hand must not move."),
        ),
        "harmonics": (
            tr("Natural harmonics"),
            tr("Light finger, straight bow. A crooked bow folds it to another partial."),
        ),
        "plucked": (tr("Plucked scale"), tr("Long ring, even, no thud. Short doses.")),
        "ring_scale": (
            tr("Ring scale"),
            tr("Slowly, and listen under the next note: which string still sounds?"),
        ),
        "ring_echo": (tr("Echo"), tr("A short stroke, then silence: what still sounds?")),
        "ring_thrice": (
            tr("Each note that can ring, three times"),
            tr("Find the place where the instrument answers, leave it, find it again."),
        ),
        "held": (tr("Held to the end"), tr("Each note keeps its full value before the rest.")),
        "dotted": (tr("Dotted pairs"), tr("The short note belongs to the next one.")),
        "even_run": (
            tr("Even run"),
            tr("Every note heard. The beat moves: two notes before it, one, as written, three."),
        ),
    }  # fmt: skip
