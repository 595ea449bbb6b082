"""Names of exercises, their choices, and what they are for."""

from __future__ import annotations

from jigwright.core.jig.makers import Family, Maker, Setting
from jigwright.core.music.keys import Key
from jigwright.wording.catalogue import tr
from jigwright.wording.choices import ALWAYS_SAID, choices_said
from jigwright.wording.notes import letter_name, names_are_german


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
    """A key in words, for instance D major; German joins them, and writes minor small: fis-Moll."""
    tonic, mode = letter_name(key.tonic), mode_name(key.mode)
    if key.mode in ("dorian", "phrygian", "lydian", "mixolydian"):
        return f"{tonic} {mode}"
    small = names_are_german() and key.mode != "major"
    return tr("{tonic} {mode}").format(tonic=tonic.lower() if small else tonic, mode=mode)


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
    chosen = {}
    for field in maker.fields_on(setting.instrument_id):
        value = setting.values.get(field.id, field.default)
        if value != field.default or field.id in ALWAYS_SAID:
            chosen[field.id] = value
    return ", ".join([*parts, *choices_said(chosen, setting.open_strings)])


def _NAMES() -> dict[str, tuple[str, str]]:  # noqa: N802 - read as a table
    return {
        "scale": (tr("Scale"), tr("Open strings going up, fourth fingers coming down.")),
        "arpeggio": (tr("Arpeggio"), tr("Root, third and fifth, as far as the hand goes.")),
        "chromatic": (tr("Chromatic scale"), tr("Every half step the same size.")),
        "drone_scale": (
            tr("Drone scale downwards"),
            tr("Slowly over a held tonic. A note is out: correct it, go back one, come again."),
        ),
        "frame_across": (
            tr("Hand frame across two strings"),
            tr("One hand, two strings: each interval three times, then the check note."),
        ),
        "open_stopped": (
            tr("Open against stopped"),
            tr("The same pitch open and stopped. Does it sound like the same note?"),
        ),
        "balance": (
            tr("Balance of two strings"),
            tr("Each alone, then both: tilt the bow, less weight rather than more."),
        ),
        "octave_hand": (
            tr("Octaves with one hand"),
            tr("The frame of the hand narrows on the way up. Short doses."),
        ),
        "tune_on_strings": (
            tr("A tune on two strings"),
            tr("The same notes on the string below: another colour, the same line."),
        ),
        "study": (
            tr("Study through the chords"),
            tr("One pattern on every chord of the key: the hand knows the next one."),
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
