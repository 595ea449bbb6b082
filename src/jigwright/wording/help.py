"""What each figure means: in words, with what is to be heard, and when it cannot be told."""

from __future__ import annotations

from dataclasses import dataclass

from jigwright.wording.catalogue import tr


@dataclass(frozen=True, slots=True, kw_only=True)
class Topic:
    """One figure.

    Parameters
    ----------
    id, title : str
    means : str
        What it says and how it is measured.
    cannot : str
        When it cannot be told.
    """

    id: str
    title: str
    means: str
    cannot: str


def topics() -> tuple[Topic, ...]:
    """All figures that are explained, in the order they are met."""
    return (
        Topic(
            id="cents",
            title=tr("Cents from the target"),
            means=tr(
                "A cent is a hundredth of a half step. Each note is measured over its steady part "
                "and held against the chosen reference. Low lies below the line, high above it; "
                "the number behind ± says how sure the figure is. Inside the band the note is in."
            ),
            cannot=tr("A note shorter than about a tenth of a second is less sure."),
        ),
        Topic(
            id="arrival",
            title=tr("Arrival"),
            means=tr(
                "How a note was reached: landed at once, slid into from below or above, or "
                "searched for. The first error is how far away the finger fell; settled after "
                "says how long the way took."
            ),
            cannot=tr("Fast notes and written glides are left out."),
        ),
        Topic(
            id="vibrato",
            title=tr("Vibrato"),
            means=tr(
                "Width is from the lowest to the highest point, rate is in waves a second. The "
                "pitch of the note is the middle of the wave: vibrato is never called out of tune."
            ),
            cannot=tr("It needs about two waves of a steady note."),
        ),
        Topic(
            id="loudness",
            title=tr("Loudness and shape"),
            means=tr(
                "The level of the sound, in decibels re full scale, and how it moves: growing, "
                "fading, swelling. Only takes made at the same place of the microphone are "
                "compared."
            ),
            cannot=tr("A room that rings on hides how a note ends."),
        ),
        Topic(
            id="shake",
            title=tr("A bow that shakes"),
            means=tr(
                "The level trembles 3 to 12 times a second while the pitch stays still: the bow, "
                "not the finger. It is told apart from vibrato, which moves the pitch as well."
            ),
            cannot=tr("Short notes are too short for it."),
        ),
        Topic(
            id="bounce",
            title=tr("Contact lost"),
            means=tr(
                "The sound falls out for a few hundredths of a second inside a stroke: the hair "
                "left the string. In the ribbon it is a bite."
            ),
            cannot=tr("Between lifted notes it is wanted and not marked."),
        ),
        Topic(
            id="change",
            title=tr("Bow change"),
            means=tr(
                "The dip is how far the level falls at the change, the gap how long it stays more "
                "than 6 dB down, the bump how much the new stroke stands out, the jolt how far "
                "the pitch jumps. Where one pitch goes on, an angle under the band says that the "
                "bow was heard to turn, a dash that it went on the same way."
            ),
            cannot=tr(
                "In a ringing room dip and gap look smaller than they are. Down or up cannot be "
                "heard: that is the bowing's."
            ),
        ),
        Topic(
            id="start",
            title=tr("Start"),
            means=tr(
                "How long it takes from the first sound to the full tone, and whether noise comes "
                "first. A clean start from the string speaks within a few hundredths of a second."
            ),
            cannot=tr("In a slur there is no start to measure."),
        ),
        Topic(
            id="tone",
            title=tr("Tone"),
            means=tr(
                "How far the tone stands above its own noise, and how bright it is: the middle of "
                "the spectrum as a multiple of the note. Scratch makes the first smaller."
            ),
            cannot=tr("Where two strings sound the noise cannot be told from the other string."),
        ),
        Topic(
            id="ring",
            title=tr("Ring"),
            means=tr(
                "A note in tune wakes open strings that share its partials: the unison and the "
                "octave most, the twelfth and the fifth less, a third only far from where it "
                "belongs. The string sounds on at its own partials under the next note, long after "
                "the room is silent; there it is measured, in decibels under the note that woke "
                "it. Compare a note with itself, never with others."
            ),
            cannot=tr(
                "Where the next note has the same partials, where it is played on that string, or "
                "where the room rings as long. A finger that leans on the string keeps it from "
                "ringing. Measured on synthesised strings so far; no study with real instruments "
                "stands behind it."
            ),
        ),
        Topic(
            id="beats",
            title=tr("Two strings and their beats"),
            means=tr(
                "Both pitches are measured, and the interval between them. Where two partials "
                "nearly meet they beat: the nearer to pure, the slower, until they stand still."
            ),
            cannot=tr("Octaves and unisons with vibrato cannot be parted."),
        ),
        Topic(
            id="even",
            title=tr("Evenness"),
            means=tr(
                "How far the notes lie before or behind the pulse, and how equal their loudness "
                "is. The pulse is the take's own, or the metronome's where it is lined up."
            ),
            cannot=tr("It needs at least four notes without a stop."),
        ),
    )


def help_words() -> dict[str, str]:
    """Words of the help page itself."""
    return {
        "title": tr("What the figures mean"), "right": tr("Hear it as it should be"),
        "other": tr("Hear it as it should not be"), "cannot": tr("When it cannot be told:"),
    }  # fmt: skip
