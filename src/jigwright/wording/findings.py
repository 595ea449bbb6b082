"""Sentences for findings and for what could not be measured."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from jigwright.core.judge.findings import Finding
from jigwright.core.music.pitch import Pitch
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.notes import class_name, finger_name_start, pitch_name, string_name

NOT_LITTLE_CENTS = 25.0


def finding_title(finding: Finding, strings: tuple[Pitch, ...]) -> str:
    """Short heading of a finding, with the bar of what it speaks of where that is one place."""
    text = _title(finding, strings)
    habit = finding.id in ("note_habit", "finger_habit")
    if habit or "bar" not in finding.values or len(finding.notes) != 1:
        return text
    return tr("{title}, bar {bar}").format(title=text, bar=int(finding.values["bar"]))


def _title(finding: Finding, strings: tuple[Pitch, ...]) -> str:
    v = finding.values
    name = class_name(finding.pitch) if finding.pitch else ""
    low = v.get("cents", 0.0) < 0
    match finding.id:
        case "note_habit" | "finger_habit" if v.get("finger"):
            text = (
                tr("{finger} low on the {string}") if low else tr("{finger} high on the {string}")
            )
            return text.format(
                finger=finger_name_start(int(v["finger"])),
                string=string_name(strings[int(v["string"])]),
            )
        case "note_habit":
            return (tr("{note} is usually low") if low else tr("{note} is usually high")).format(
                note=name
            )
        case "note_off" if abs(v["cents"]) >= NOT_LITTLE_CENTS:
            return (tr("{note} low") if low else tr("{note} high")).format(note=name)
        case "note_off":
            return (tr("{note} a little low") if low else tr("{note} a little high")).format(
                note=name
            )
        case "wrong_note":
            return tr("Another note for {note}").format(note=name)
        case "missed_notes":
            return trn("A note was not heard", "{n} notes were not heard", int(v["n"])).format(
                n=int(v["n"])
            )
        case "slides":
            return trn("One note was slid into", "{n} notes were slid into", int(v["n"])).format(
                n=int(v["n"])
            )
        case "hunting":
            return trn(
                "One note was searched for", "{n} notes were searched for", int(v["n"])
            ).format(n=int(v["n"]))
        case "weak_note":
            return tr("{note} is much softer").format(note=name)
        case "ring_beside":
            return tr("The {string} seldom answers").format(string=_string(v, strings))
        case "string_out":
            text = tr("The {string} is low") if low else tr("The {string} is high")
            return text.format(string=_string(v, strings))
    n = int(v.get("n", 1))
    titles = {
        "bow_bounce": trn("The bow lost the string once", "The bow lost the string {n} times", n),
        "bow_shake": trn("One note shook", "{n} notes shook", n),
        "bow_scratch": trn("A scratch", "{n} scratches", n),
        "bow_neighbour_string": trn("A neighbour string sounded", "A neighbour string sounded "
                                    "{n} times", n),
        "bow_whistle": trn("The string whistled", "The string whistled {n} times", n),
        "bow_fold": trn("A harmonic folded", "{n} harmonics folded", n),
    }  # fmt: skip
    return titles.get(finding.id, finding.id).format(n=n)


def _string(v: Mapping[str, float], strings: Sequence[Pitch]) -> str:
    return string_name(strings[int(v["string"])])


def finding_sentence(finding: Finding) -> str:
    """The evidence in a sentence that stands alone, in a result or on a page.

    Parameters
    ----------
    finding : Finding
    """
    v = finding.values
    n = int(v.get("n", 1))
    name = class_name(finding.pitch) if finding.pitch else ""
    cents = abs(round(v.get("cents", 0.0)))
    way = tr("low") if v.get("cents", 0.0) < 0 else tr("high")
    match finding.id:
        case "note_habit":
            low_end = max(0, round(abs(v["cents"]) - v["half_range"]))
            text = tr(
                "{note} sat {cents} cents {way} ({a} to {b}): out in {n} of the last {all} takes"
            ).format(
                note=name,
                cents=cents,
                way=way,
                a=low_end,
                b=round(abs(v["cents"]) + v["half_range"]),
                n=int(v["n_off"]),
                all=int(v["n_takes"]),
            )
            return text + _distance(v) + "."
        case "finger_habit":
            return tr(
                "{finger} landed {cents} cents {way} on average of {n} notes, give or take {half}."
            ).format(
                finger=finger_name_start(int(v["finger"])), n=int(v["n_notes"]), cents=cents,
                way=way, half=round(v["half_range"]),
            )  # fmt: skip
        case "note_off":
            text = tr("{note} was {cents} cents {way}, give or take {u}").format(
                note=pitch_name(finding.pitch) if finding.pitch else "",
                cents=cents,
                way=way,
                u=max(1, round(v["uncertainty"])),
            )
            return text + _distance(v) + "."
        case "wrong_note":
            steps = round(abs(v["cents"]) / 100)
            return trn(
                "About {n} semitone {way} was heard in place of {note}.",
                "About {n} semitones {way} were heard in place of {note}.",
                steps,
            ).format(n=steps, way=way, note=name)
        case "missed_notes":
            return trn(
                "Nothing that fits was heard for {note}.",
                "Nothing that fits was heard for {n} notes, the first of them {note}.",
                n,
            ).format(note=name, n=n)
        case "slides" if "first_cents" not in v:
            return trn(
                "{note} was slid into and settled after {s} s.",
                "The first of {n} slides, into {note}, settled after {s} s.",
                n,
            ).format(note=name, n=n, s=f"{v['settle_s']:.2f}")
        case "slides":
            return trn(
                "{note} began {cents} cents away and settled after {s} s.",
                "The first of {n} slides, into {note}, began {cents} cents away and settled after "
                "{s} s.",
                n,
            ).format(note=name, n=n, cents=abs(round(v["first_cents"])), s=f"{v['settle_s']:.2f}")
        case "hunting":
            return trn(
                "On {note} the pitch turned back more than once and settled after {s} s.",
                "On {note}, the first of {n}, the pitch turned back more than once and settled "
                "after {s} s.",
                n,
            ).format(note=name, n=n, s=f"{v['settle_s']:.2f}")
        case "weak_note":
            return tr("{note} sounds {db} dB below the middle of this take.").format(
                note=name, db=round(v["db"])
            )
        case "ring_beside":
            return tr(
                "It rings in {n} of {of}: where it was silent, the finger lay {cents} cents {way} "
                "of it."
            ).format(n=n, of=int(v["of"]), cents=cents, way=way)
        case "string_out":
            return tr(
                "Where it rang along, {n} times, it sounded {cents} cents {way} of its tuning."
            ).format(n=n, cents=cents, way=way)
    return _bow_sentence(finding, name, n)


def _bow_sentence(finding: Finding, name: str, n: int) -> str:
    v = finding.values
    match finding.id:
        case "bow_bounce":
            return trn(
                "On {note} the tone broke off by {db} dB for a moment.",
                "The tone broke off {n} times for a moment, first on {note}, by {db} dB.",
                n,
            ).format(note=name, n=n, db=round(v["strength"]))
        case "bow_shake" if "rate_hz" in v:
            return trn(
                "{note} shook: {hz} waves a second of {db} dB, the pitch still.",
                "{n} notes shook; the first, {note}, with {hz} waves a second of {db} dB, the "
                "pitch still.",
                n,
            ).format(note=name, n=n, hz=f"{v['rate_hz']:.1f}", db=round(v["strength"]))
        case "bow_scratch":
            return trn(
                "On {note} the sound was {db} dB rougher for a moment than the rest of it.",
                "The sound was rougher for a moment {n} times, first on {note}, by {db} dB.",
                n,
            ).format(note=name, n=n, db=round(v["strength"]))
        case "bow_neighbour_string":
            return trn(
                "On {note} an open string sounds beside it.",
                "An open string sounds beside {n} notes, first beside {note}.",
                n,
            ).format(note=name, n=n)
        case "bow_whistle":
            return trn(
                "On {note} a high thin tone took its place for a moment.",
                "A high thin tone took the note's place {n} times, first on {note}.",
                n,
            ).format(note=name, n=n)
        case "bow_fold":
            return tr("{note}: partial {n} of the string sounded in its place.").format(
                note=name, n=round(v["strength"])
            )
    return ""


def finding_advice(finding: Finding) -> str:
    """One thing to try; what goes beyond the sound is a question."""
    return {
        "note_habit": tr("Three times each, slowly: the centre counts, and the spread."),
        "finger_habit": tr("Is the hand frame open or closed there? Try it on two strings."),
        "note_off": tr("Hold it against the open string or a drone until it stops moving."),
        "wrong_note": tr("Is it the note, or the place? Play the note before and this one alone."),
        "missed_notes": tr("A beat alone, the next alone, both, then both with the landing note."),
        "slides": tr("Set the finger, then the bow, then go. Or is the slide wanted?"),
        "hunting": tr("Sing it first, or hear the target, then play it once."),
        "weak_note": tr("Move the beat: two notes before it, one, as written, three."),
        "ring_beside": tr("Slide the finger slowly until the instrument answers, then leave it."),
        "string_out": tr("Check that string before the fingers."),
        "bow_bounce": tr("Start nearer the middle with the bow's own weight. Is the hand holding?"),
        "bow_shake": tr("Softer and slower, between middle and tip. Is the elbow level with it?"),
        "bow_scratch": tr("A little at the frog is allowed at first. Less weight, or more speed?"),
        "bow_neighbour_string": tr("Very short stopped bows across the crossing, then longer."),
        "bow_whistle": tr("Firm hair before the crossing: a little more weight, less speed?"),
        "bow_fold": tr("Straight bow, nearer the bridge, light finger. Down and up alike?"),
    }.get(finding.id, "")


def _distance(v: object) -> str:
    values = dict(v)  # type: ignore[call-overload]
    if "mm" not in values or abs(values["mm"]) < 0.25:
        return ""
    mm = abs(values["mm"])
    towards = tr("towards the bridge") if values["mm"] > 0 else tr("towards the scroll")
    return tr(", about {mm} mm {towards}").format(mm=f"{mm:.1f}", towards=towards)


def reason_text(reason: str) -> str:
    """Why a measure was refused."""
    texts = {
        "too_short": tr("the note is too short"),
        "slide_blurred": tr("the slide is as short as the analysis window"),
        "moving": tr("the two never came to rest"),
        "pitch_broken": tr("the pitch is interrupted"),
        "room_tail": tr("the note before still sounds in the room"),
        "not_plucked": tr("it is not written as plucked and does not fall like a plucked note"),
        "not_heard": tr("the note was not heard"),
        "hidden": tr("it may be hidden in the note before; whether it was played cannot be told"),
        "not_analysed": tr("the take has not been analysed"),
        "failed": tr("measuring it failed; a line about it stands in the log (F1)"),
        "not_yet": tr("not yet measured"),
        "nothing_shared": tr("no other open string shares a partial with it"),
        "covered": tr("the next note sounds at the same place"),
        "in_use": tr("the next note is played on that string"),
        "open_string": tr("it may be the open string itself that sounds on"),
        "other_string": tr("another open string has the same partial"),
        "rang_before": tr("the string still rang from before"),
        "room": tr("the room rings as long as the string would"),
        "steady": tr("what sounds there does not die away as a string does"),
        "played": tr("that string was bowed or plucked itself, or something else sounds there"),
        "faint": tr("a ring so weak could not be heard in this take"),
        "not_looked_for": tr("the take was analysed before this was measured"),
        "one_note": tr("one note is written and one was heard"),
        "one_string": tr("two notes are written; only one was heard"),
        "fused": tr("an octave or unison in which two strings cannot be told from one"),
        "two_notes": tr("two notes sound together"),
        "slurred": tr("the bow goes on from the note before"),
        "too_few": tr("too few notes"),
        "blurred": tr("its notes run into each other in the room"),
        "ornament": tr("the note turns with another one"),
        "not_turned": tr("it is written, and no other note was heard"),
        "no_ornament": tr("no trill is written and none was heard"),
        "no_jig": tr("the written length is not known without a jig"),
    }
    return texts.get(reason, reason)
