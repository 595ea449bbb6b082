"""What is said at the Stand: short, kind, the place first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import isfinite, log2

from jigwright.core.delay_sweep import LoopDelay
from jigwright.core.gauge.two_strings import meeting_partials
from jigwright.core.jig.aims import LISTENED_FOR
from jigwright.core.judge.open_strings import (
    NeighboursFound,
    PegAdvice,
    StringDrift,
    StringFound,
)
from jigwright.core.judge.verdict import Verdict
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import PairNow
from jigwright.core.values import InputState, Unmeasured
from jigwright.wording.aims import aim_line, aim_name, aim_word, untold_line
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.findings import NOT_LITTLE_CENTS
from jigwright.wording.notes import class_name, letter_name, pitch_name, string_name


def input_name(device_id: str) -> str:
    """Name of the built-in device, in the window's language also where it was kept in English."""
    return tr("simulated player") if device_id in ("simulated", "simulated player") else device_id


def trouble_sentence(trouble: str, detail: str, *, kept: bool = False) -> str:
    """Why a recording ended by itself; what was kept; what to do.

    ``kept``: something had been played, and it is in the recording.
    """
    texts = {
        "no_device": tr(
            "No sound can be recorded from this input ({detail}). Choose another input at the top "
            "right, or the simulated player."
        ),
        "lost_device": tr("The input has gone. Plug it in and press Space."),
        "disk_full": tr("The disk is full, so recording stopped. Make room and press Space."),
        "disk": tr("The recording could not be written ({detail})."),
        "failed": tr("The recording stopped ({detail}). Press Space to begin again."),
        "died": tr("The recorder stopped unexpectedly. Press Space to begin again."),
    }
    said = texts.get(trouble, detail).format(detail=detail)
    if kept:
        said += " " + tr("What was played until then is in the recording and becomes a take.")
    return said


def ear_sentence(end: str) -> str:
    """What is said when the ear has failed: another one goes on, or none is tried any more."""
    if end == "again":
        return tr("Hearing stopped and has begun again. Nothing is lost: play on.")
    return tr(
        "Nothing can be heard at the moment, but everything is recorded. Play on: it is listened "
        "to when you put the bow down."
    )


def verdict_word(verdict: Verdict, *, direction: bool, hidden: bool = False) -> str:
    """The main word."""
    if verdict.kind == "nothing":
        return tr("Nothing of this jig was heard")
    if verdict.kind == "clean":
        return tr("Nothing to mend")
    if verdict.kind == "shown":
        return tr("Which do you like?")
    if verdict.aim is not None:
        return (
            tr("Not everything could be told")
            if verdict.kind == "untold"
            else aim_word(verdict.aim)
        )
    assert verdict.pitch is not None
    name = class_name(verdict.pitch)
    if verdict.kind == "unsure":
        return tr("Was there a {note}?").format(note=name)
    if hidden:
        return tr("How was the {note}?").format(note=name)
    if verdict.kind == "missed":
        return tr("Where was the {note}?").format(note=name)
    if verdict.kind == "wrong":
        return tr("Another note for {note}").format(note=name)
    if direction:
        much = abs(verdict.cents) >= NOT_LITTLE_CENTS
        if verdict.cents < 0:
            return (tr("{note} higher") if much else tr("{note} a little higher")).format(note=name)
        return (tr("{note} lower") if much else tr("{note} a little lower")).format(note=name)
    return tr("Listen to the {note}").format(note=name)


def verdict_line(
    verdict: Verdict, *, direction: bool, hidden: bool = False, millimetres: float | None = None
) -> str:
    """The second line."""
    if verdict.aim is not None:
        if verdict.kind == "untold":
            return untold_line(verdict.aim)
        return aim_line(verdict.aim, verdict.bar, figures=direction)
    if hidden and verdict.kind != "unsure":
        return tr("Left: low · Down: in · Right: high. Or play it again.")
    if verdict.kind == "nothing":
        return tr("Is the right jig chosen? Play when ready.")
    if verdict.kind == "shown":
        return tr("Nothing is judged here: compare them at the Desk.")
    if verdict.kind == "clean":
        if verdict.met and "pitch" not in verdict.met:
            return " · ".join(aim_name(kind) for kind in verdict.met[:LISTENED_FOR])
        return trn("{n} note, all inside.", "{n} notes, all inside.", verdict.n_notes).format(
            n=verdict.n_notes
        )
    if verdict.kind == "unsure":
        return tr("It cannot be told from the note before. Part them a little.")
    if verdict.kind == "missed":
        n = verdict.n_missed
        return trn("One note was left out.", "{n} notes were left out.", n).format(n=n)
    if verdict.kind in ("listen", "direction") and direction:
        way = tr("low") if verdict.cents < 0 else tr("high")
        text = tr("{cents} cents {way}").format(cents=round(abs(verdict.cents)), way=way)
        if millimetres is not None and abs(millimetres) >= 0.25:
            towards = tr("towards the bridge") if millimetres > 0 else tr("towards the scroll")
            text += ", " + tr("about {mm} mm {towards}").format(
                mm=f"{abs(millimetres):.1f}", towards=towards
            )
        if verdict.again:
            text += ". " + trn("As in the take before.", "As in {n} takes before.",
                               verdict.again).format(n=verdict.again)  # fmt: skip
        return text
    if verdict.coming_from is not None:
        return tr("coming from {note}").format(note=class_name(verdict.coming_from))
    return tr("the first note")


def string_line(found: StringFound) -> str:
    """One string: name, cents, Hz."""
    cents = round(found.cents)
    sign = "+" if cents > 0 else "−" if cents < 0 else ""
    return tr("{string}: {cents} c, {hz} Hz").format(
        string=string_name(found.string), cents=f"{sign}{abs(cents)}", hz=f"{found.f0_hz:.2f}"
    )


def strings_word(found: Sequence[StringFound], peg: PegAdvice | None, n_strings: int) -> str:
    """What to do next with the pegs."""
    if not found:
        return tr("Bow the A string")
    if peg is not None:
        name = letter_name(peg.string)
        return (
            tr("{string} up a little") if peg.cents > 0 else tr("{string} down a little")
        ).format(string=name)
    if len(found) < n_strings:
        return tr("Good. The next string")
    return tr("The strings are right")


def strings_against(strings: Sequence[Pitch], a4_hz: float) -> str:
    """What the strings are held against."""
    steps = {b.midi - a.midi for a, b in pairwise(strings)}
    if steps == {7}:
        text = tr("held against pure fifths from A {a4}")
    elif steps == {5}:
        text = tr("held against pure fourths from A {a4}")
    else:
        text = tr("held against pure intervals from A {a4}")
    return text.format(a4=f"{a4_hz:g}")


def strings_line(peg: PegAdvice | None, between: Sequence[NeighboursFound]) -> str:
    """Pegs, intervals and beats."""
    parts = []
    if peg is not None:
        parts.append(
            tr("{cents} cents at the {string} peg").format(
                cents=round(abs(peg.cents)), string=letter_name(peg.string)
            )
        )
    for pair in between:
        cents = round(pair.error_cents)
        if abs(cents) >= 2:
            wide = tr("wide") if cents > 0 else tr("narrow")
            parts.append(
                tr("{low}–{high} {cents} c {wide}, {beats} beats a second").format(
                    low=pitch_name(pair.lower), high=pitch_name(pair.upper), cents=abs(cents),
                    wide=wide, beats=f"{pair.beats_hz:.1f}",
                )
            )  # fmt: skip
    if not parts:
        return tr("Each peg moves the others: hear the first string again last.")
    return " · ".join(parts[:3])


@dataclass(frozen=True, slots=True, kw_only=True)
class PairFigures:
    """Two strings while they sound.

    Parameters
    ----------
    names : str
    line : str
        Beats and balance.
    balance_db : float or None
        Upper minus lower.
    beats_hz : float
        0 where no partials meet.
    """

    names: str
    line: str
    balance_db: float | None
    beats_hz: float = 0.0


def pair_figures(pair: PairNow, a4_hz: float, fifths: int) -> PairFigures:
    """Names, beats and balance of two notes; coarse, since one short window says no more."""
    low, high = (
        Pitch.from_midi(69 + round(12 * log2(f / a4_hz)), fifths=fifths)
        for f in (pair.lower_hz, pair.upper_hz)
    )
    parts = []
    beats = 0.0
    p, q = meeting_partials(1200 * log2(pair.upper_hz / pair.lower_hz))
    if p:
        beats = abs(p * pair.lower_hz - q * pair.upper_hz)
        n = round(beats)
        said = trn("one beat a second", "{n} beats a second", n)
        parts.append(tr("no beats") if beats < 0.5 else said.format(n=n))
    balance = pair.balance_db if isfinite(pair.balance_db) else None
    if balance is not None:
        if abs(balance) < 2.0:
            parts.append(tr("both alike"))
        else:
            louder = tr("upper") if balance > 0 else tr("lower")
            said = tr("{which} louder by {db} dB")
            parts.append(said.format(which=louder, db=round(abs(balance))))
    return PairFigures(
        names=f"{class_name(low)} – {class_name(high)}", line=" · ".join(parts), balance_db=balance,
        beats_hz=beats,
    )  # fmt: skip


def drift_sentence(drift: StringDrift) -> str:
    """Which string moved since it was checked or first heard."""
    down = tr("The open {string} has gone down by {c} ± {u} cents: check the strings (S).")
    up = tr("The open {string} has gone up by {c} ± {u} cents: check the strings (S).")
    return (down if drift.cents < 0 else up).format(
        string=string_name(drift.string), c=round(abs(drift.cents)),
        u=max(1, round(drift.uncertainty_cents)),
    )  # fmt: skip


def loop_sentence(found: LoopDelay | Unmeasured) -> str:
    """What measuring the way from loudspeaker to microphone gave."""
    if isinstance(found, LoopDelay):
        return tr(
            "Sound takes {ms} ms from the loudspeaker to the microphone. From now on notes are "
            "held against the metronome as you heard it."
        ).format(ms=f"{1000 * found.seconds:.0f}")
    return tr(
        "The sweeps were not heard by the microphone: take headphones out, turn the loudspeaker "
        "up a little, and try again."
    )


def input_words(state: InputState, room_dbfs: float, n_gaps: int) -> str:
    """What is said of the input, and how often something was lost."""
    words = {
        "clips": tr("too loud: it clips"), "soft": tr("very quiet: come nearer"),
        "heard": tr("hearing you well"), "waiting": tr("waiting for a note"),
        "talk": tr("somebody speaks: no take begins"),
        "quiet": tr("waiting for a note, the room is quiet"),
        "noisy": tr("noisy room ({db} dB): soft notes will be hard to judge").format(
            db=f"{room_dbfs:.0f}".replace("-", "−")
        ),
    }[state]  # fmt: skip
    if n_gaps:
        words += " · " + trn("{n} gap", "{n} gaps", n_gaps).format(n=n_gaps)
    return words


def heavy_sentence(minutes: float) -> str:
    """Enough of what tires for today."""
    return tr(
        "{n} minutes of slow bows, octaves or plucking today: enough. Something lighter now."
    ).format(n=round(minutes))
