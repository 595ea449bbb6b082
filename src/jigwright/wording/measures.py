"""A measure in a few words, for the slip and the report."""

from __future__ import annotations

import math

from jigwright.core.gauge.values import (
    NOT_FOLLOWED,
    Arrival,
    BowEvent,
    Double,
    Level,
    Pluck,
    Start,
    StopArrival,
    Stroke,
    Tone,
    Trilled,
    Vibrato,
)
from jigwright.core.judge.balance import StringBalance, plain_balance
from jigwright.core.judge.doubles import JudgedDouble, OtherAnswer
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import GoodPlace, just_answers
from jigwright.core.values import Unmeasured
from jigwright.wording.catalogue import tr
from jigwright.wording.findings import reason_text
from jigwright.wording.notes import class_name, low_high, pitch_name

LEAST_COLOUR = 0.3  # octaves a second
LEAST_SCRATCH = 0.03
CLEAN_CENTS, NOT_PURE_CENTS = 4.0, 6.0  # of an interval against its reference, and against pure
EVEN_DB = 3.0  # nobody need lean for less
EVEN_TRILL, FAIR_TRILL = 0.1, 0.2  # spread of its notes' times, of their mean
EVEN_VIBRATO, FAIR_VIBRATO = 0.85, 0.65  # share of the contour that one wave explains
LATE_VIBRATO_S = 0.25
LEAST_THUD_DB = -10.0
LEAST_HURRY_DB = 1.5
LEAST_BEATING_S = 0.15

Text = tuple[str, bool]
"""What is said, and whether it is a measured figure."""


_LEAST_DB = 0.1  # the last place that is written: nothing is steady within 0.0 dB


def cannot_tell(why: Unmeasured) -> Text:
    """Why a measure was refused."""
    return tr("cannot tell: {why}").format(why=reason_text(why.reason)), False


def arrival_text(arrival: Arrival) -> str:
    """How a note was reached."""
    if arrival.kind == "landed":
        return tr("Landed")
    seconds = f"{arrival.settle_s:.2f}"
    if arrival.kind == "hunted":
        return tr("Searched for it, settled after {s} s").format(s=seconds)
    if not math.isfinite(arrival.first_cents):
        up = tr("Slid up to it, settled after {s} s")
        down = tr("Slid down to it, settled after {s} s")
        return (up if arrival.kind == "slid_up" else down).format(s=seconds)
    up = tr("Slid up to it from {cents} cents below, settled after {s} s")
    down = tr("Slid down to it from {cents} cents above, settled after {s} s")
    return (up if arrival.kind == "slid_up" else down).format(
        cents=round(abs(arrival.first_cents)), s=seconds
    )


def level_text(level: Level | Unmeasured) -> Text:
    """The course of the level."""
    if isinstance(level, Unmeasured):
        return cannot_tell(level)
    if level.shape is None:
        return tr("{db} dB; too short for a shape").format(db=round(level.mean_dbfs)), True
    names = {
        "level": tr("steady within {db} dB"), "grow": tr("grows over {db} dB"),
        "fade": tr("fades over {db} dB"), "swell": tr("swells by {db} dB"),
        "dip": tr("sinks in the middle by {db} dB"),
    }  # fmt: skip
    text = names[level.shape].format(db=f"{max(_LEAST_DB, level.range_db):.1f}")
    if level.tremor_hz == level.tremor_hz:  # not NaN
        text += ", " + tr("a wave of {db} dB at {hz} a second").format(
            db=f"{level.tremor_db:.1f}", hz=f"{level.tremor_hz:.1f}"
        )
    return text, True


def start_text(start: Start | Unmeasured) -> Text:
    """The start of a stroke."""
    if isinstance(start, Unmeasured):
        return cannot_tell(start)
    text = tr("full tone after {ms} ms").format(ms=round(1000 * start.attack_s))
    if start.noise_before_s > 0.04:
        text += ", " + tr("{ms} ms of noise first").format(ms=round(1000 * start.noise_before_s))
    if start.accent_db > 2.0:
        text += ", " + tr("accent of {db} dB").format(db=f"{start.accent_db:.0f}")
    return text, True


def tone_text(tone: Tone | Unmeasured) -> Text:
    """Noise and brightness."""
    if isinstance(tone, Unmeasured):
        return cannot_tell(tone)
    text = tr("{db} dB above its noise, brightness {ratio} × the note").format(
        db=round(tone.hnr_db), ratio=f"{tone.brightness_ratio:.1f}"
    )
    if abs(tone.brightness_slope) >= LEAST_COLOUR:
        way = tr("brighter") if tone.brightness_slope > 0 else tr("darker")
        text += ", " + tr("grows {way} by {n} octaves a second").format(
            way=way, n=f"{abs(tone.brightness_slope):.1f}"
        )
    if tone.scratch_ratio >= LEAST_SCRATCH:
        text += ", " + tr("rough for {percent} % of its length").format(
            percent=round(100 * tone.scratch_ratio)
        )
    return text, True


def vibrato_text(vibrato: Vibrato | Unmeasured) -> Text:
    """Rate, width with its range, evenness and where it begins."""
    if isinstance(vibrato, Unmeasured):
        return cannot_tell(vibrato)
    if not vibrato.present:
        return tr("none"), True
    text = tr("{rate} a second, {extent} ± {u} cents wide").format(
        rate=f"{vibrato.rate_hz:.1f}", extent=round(vibrato.extent_cents),
        u=max(1, round(vibrato.extent_uncertainty_cents)),
    )  # fmt: skip
    if math.isnan(vibrato.regularity):
        return text + ", " + tr("blurred by the room"), True
    text += ", " + (
        tr("even") if vibrato.regularity >= EVEN_VIBRATO
        else tr("fairly even") if vibrato.regularity >= FAIR_VIBRATO else tr("uneven")
    )  # fmt: skip
    if vibrato.start_s >= LATE_VIBRATO_S:
        text += ", " + tr("begins after {s} s").format(s=f"{vibrato.start_s:.1f}")
    return text, True


def pluck_text(pluck: Pluck | Unmeasured) -> Text | None:
    """A plucked note; nothing where none was plucked."""
    if isinstance(pluck, Unmeasured):
        return None if pluck.reason in ("not_plucked", "not_heard") else cannot_tell(pluck)
    text = tr("rings for {s} s, {db} dB at its loudest").format(
        s=f"{pluck.ring_s:.1f}", db=round(pluck.level_dbfs)
    )
    if pluck.thud_db >= LEAST_THUD_DB:
        text += ", " + tr("a thud {db} dB re the tone").format(db=f"{pluck.thud_db:+.0f}")
    return text, True


def trill_text(trill: Trilled | Unmeasured) -> Text | None:
    """A trill; nothing where none was heard."""
    if isinstance(trill, Unmeasured):
        return cannot_tell(trill) if trill.reason in ("blurred", "not_turned", "failed") else None
    text = tr("{n} notes, {rate} a second").format(n=trill.n_notes, rate=f"{trill.rate_hz:.1f}")
    text += ", " + (
        tr("even") if trill.unevenness <= EVEN_TRILL
        else tr("fairly even") if trill.unevenness <= FAIR_TRILL else tr("uneven")
    )  # fmt: skip
    text += ", " + tr("the other note {cents} c away").format(cents=_signed(trill.neighbour_cents))
    begins = tr("begins on the note") if trill.begins_on_main else tr("begins on the other note")
    ends = "" if trill.ends_on_main else ", " + tr("ends on the other note")
    return f"{text}, {begins}{ends}", True


def stroke_text(stroke: Stroke) -> Text:
    """The stroke a note belongs to."""
    way = {"down": tr("down"), "up": tr("up")}.get(stroke.direction, tr("direction not written"))
    parts = [tr("{way}, {s} s").format(way=way, s=f"{stroke.end_s - stroke.start_s:.1f}")]
    if math.isfinite(stroke.steadiness_db):
        wavers = tr("wavers by {db} dB").format(db=f"{stroke.steadiness_db:.1f}")
        parts.append(wavers if stroke.steadiness_db >= 0.5 * _LEAST_DB else tr("does not waver"))
    if math.isfinite(stroke.end_hurry_db) and abs(stroke.end_hurry_db) >= LEAST_HURRY_DB:
        said = (
            tr("swells by {db} dB at its end") if stroke.end_hurry_db > 0
            else tr("sinks by {db} dB at its end")
        )  # fmt: skip
        parts.append(said.format(db=f"{abs(stroke.end_hurry_db):.1f}"))
    return ", ".join(parts), True


def event_text(event: BowEvent) -> Text:
    """What happened inside a note."""
    said = {
        "bounce": tr("contact lost by {n} dB"), "scratch": tr("scratch, {n} dB rougher"),
        "whistle": tr("a whistle, {n} dB over the tone"),
        "neighbour_string": tr("the neighbour string sounded, {n} dB below"),
        "shake": tr("the bow shook by {n} dB"), "fold": tr("partial {n} spoke instead"),
    }[event.kind]  # fmt: skip
    return tr("{what}, at {s} s").format(
        what=said.format(n=round(event.strength)), s=f"{event.start_s:.1f}"
    ), True


def balance_text(balance: StringBalance) -> Text:
    """Which string is louder, if one surely is, and which way to lean."""
    u = max(1, round(balance.uncertainty_db))
    beside = ", " + tr("held against each string alone") if balance.against_alone else ""
    if not balance.is_sure:
        return tr("neither is surely louder, ± {u} dB").format(u=u) + beside, True
    louder, lean = (
        (tr("upper louder"), tr("lean to the lower string"))
        if balance.db > 0
        else (tr("lower louder"), tr("lean to the upper string"))
    )
    text = tr("{louder}, {db} ± {u} dB").format(louder=louder, db=round(abs(balance.db)), u=u)
    even = abs(balance.db) <= EVEN_DB
    return (text + beside if even else f"{text}{beside}: {lean}"), True


def _signed(cents: float) -> str:
    return f"{cents:+.0f}".replace("-", "−")


def other_answer_text(found: OtherAnswer) -> str:
    """What a pure interval with one open string costs against the other."""
    c = found.conflict
    text = tr("pure with {first} at {a}, with {second} at {b} cents; the middle {m}").format(
        first=pitch_name(c.first), a=_signed(c.first_cents), second=pitch_name(c.second),
        b=_signed(c.second_cents), m=_signed(0.5 * (c.first_cents + c.second_cents)),
    )  # fmt: skip
    if found.taken is not None:
        took = tr("you took {string}'s").format(string=pitch_name(found.taken))
    elif found.middle:
        took = tr("you took the middle")
    else:
        took = tr("yours {c}").format(c=_signed(found.heard_cents))
    return f"{text}; {took}"


def ratio_text(answer: GoodPlace) -> str:
    """A ratio as written."""
    return f"{answer.ratio[0]}:{answer.ratio[1]}"


def answer_text(answer: GoodPlace | None, tonic: PitchClass | None) -> str:
    """Which of a degree's good places was taken; empty where it has one."""
    if answer is None or tonic is None:
        return ""
    others = [ratio_text(a) for a in just_answers(answer.fifths) if a.ratio != answer.ratio]
    return tr("{ratio} over {note}; {other} is as good").format(
        ratio=ratio_text(answer), note=class_name(tonic), other=", ".join(others)
    )


def _voice_text(cents: float, answer: GoodPlace | None, tonic: PitchClass | None) -> str:
    text = low_high(cents)
    if answer is None or tonic is None:
        return text
    return text + ", " + tr("as {ratio} over {note}").format(
        ratio=ratio_text(answer), note=class_name(tonic)
    )  # fmt: skip


def stop_arrival_text(reached: StopArrival | Unmeasured) -> Text:
    """How two strings came together."""
    if isinstance(reached, Unmeasured):
        return cannot_tell(reached)
    sides = [
        (tr("{n} wide") if c > 0 else tr("{n} narrow")).format(n=round(abs(c)))
        for c in reached.swings_cents
    ]
    seconds = f"{reached.settle_s:.1f}"
    if reached.kind == "landed":
        parts = [tr("at once")]
    elif reached.kind == "corrected":
        parts = [tr("{side} cents at first, settled after {s} s").format(side=sides[0], s=seconds)]
    else:
        parts = [
            tr("searched for: {sides} cents, settled after {s} s").format(
                sides=", ".join(sides), s=seconds
            )
        ]
    moved = {
        "upper": tr("the upper note moved"), "lower": tr("the lower note moved"),
        "both": tr("both notes moved"), "": "",
    }[reached.mover]  # fmt: skip
    if moved:
        parts.append(moved)
    if reached.still_s > LEAST_BEATING_S:
        parts.append(tr("beats until {s} s").format(s=f"{reached.still_s:.1f}"))
    return ", ".join(parts), True


def _why_not_pure(judged: JudgedDouble) -> str:
    if judged.purer is None:
        return tr("as the reference has it: it keeps no pure one here")
    voice, answer = judged.purer
    text = (
        tr("as the reference has it; the lower note at {ratio} would make it pure")
        if voice == "lower"
        else tr("as the reference has it; the upper note at {ratio} would make it pure")
    )
    return text.format(ratio=ratio_text(answer))


def double_texts(
    double: Double | Unmeasured,
    judged: JudgedDouble | None,
    balance: StringBalance | None = None,
    *,
    tonic: PitchClass | None = None,
) -> list[tuple[str, str, bool]]:
    """Rows about two strings: name, text, whether measured; none for a single note."""
    if isinstance(double, Unmeasured):
        if double.reason == "one_note":
            return []
        return [(tr("Two strings"), *cannot_tell(double))]
    rows = []
    if judged is not None:
        lower, upper = judged.lower_answer, judged.upper_answer
        rows.append((tr("Lower note"), _voice_text(judged.lower_cents, lower, tonic), True))
        rows.append((tr("Upper note"), _voice_text(judged.upper_cents, upper, tonic), True))
        pure = dict(judged.against)["pure"]
        side = tr("wide of pure") if pure > 0 else tr("narrow of pure")
        interval = tr("{c} ± {u} cents {side}").format(
            c=f"{abs(pure):.0f}", u=f"{double.uncertainty_cents:.1f}", side=side
        )
        if round(pure) == 0:
            interval = tr("pure, ± {u} cents").format(u=f"{double.uncertainty_cents:.1f}")
        clean = abs(judged.interval_error_cents) <= CLEAN_CENTS + double.uncertainty_cents
        if clean and abs(pure) - double.uncertainty_cents > NOT_PURE_CENTS:
            interval += ", " + _why_not_pure(judged)
        rows.append((tr("Interval"), interval, True))
    if double.reached != NOT_FOLLOWED:
        rows.append((tr("Together"), *stop_arrival_text(double.reached)))
    if math.isfinite(double.beats_hz):
        rows.append((tr("Beats"), tr("{n} a second").format(n=f"{double.beats_hz:.1f}"), True))
    if math.isfinite(double.both_ratio):
        rows.append(
            (
                tr("Both sound"),
                tr("{percent} % of the time").format(percent=round(100 * double.both_ratio)), True,
            )
        )  # fmt: skip
    balance = balance or plain_balance(double)
    if math.isfinite(balance.db):
        rows.append((tr("Balance"), *balance_text(balance)))
    else:
        rows.append((tr("Balance"), tr("cannot tell: too few partials stand apart"), False))
    return rows
