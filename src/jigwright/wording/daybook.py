"""Words of the Daybook."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from jigwright.core.jig.makers.repertoire import Level
from jigwright.core.judge.ladder import READY_MADE, Ladder, Rung, Standing, rung_of
from jigwright.core.judge.plan import PlanItem
from jigwright.core.judge.season import SeasonCell
from jigwright.core.judge.trend import MORE_IS_BETTER, ChangePoint
from jigwright.core.judge.work import Progress, SetWork
from jigwright.core.music.pitch import Pitch
from jigwright.wording.aims import aim_name
from jigwright.wording.catalogue import tr, trn, with_comma
from jigwright.wording.choices import choices_said
from jigwright.wording.makers import maker_name
from jigwright.wording.notes import finger_name, pitch_name, reference_name, string_name


def _short_months() -> list[str]:
    return tr("Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec").split()


def part_name(part: str) -> str:
    """Name of a part of a session."""
    return {
        "settle": tr("Settle"), "strings": tr("Strings"), "warm_up": tr("Warm-up"),
        "bow": tr("Long bows"),
        "pitch": tr("Pitch"), "two_strings": tr("Two strings"), "stroke": tr("A stroke"),
        "tone": tr("Tone and shape"),
        "passage": tr("A passage"), "break": tr("Break"), "close": tr("To end with"),
    }[part]  # fmt: skip


def part_text(item: PlanItem) -> str:
    """What to do in a part."""
    texts = {
        "settle": tr("Shoulders, breath. A word for the sound you want today."),
        "strings": tr("Each string, each pair; the first one again last."),
        "break": tr("Put the instrument down. Look out of the window."),
        "warm_up": tr("Your own row of exercises, one after the other."),
        "close": tr("Play something you like. What will you do next time?"),
    }
    if item.part in texts:
        return texts[item.part]
    why = {
        "new": tr("not played yet"), "stale": tr("not for a while"), "weak": tr("needs it"),
        "theme": tr("theme of the week"), "due": tr("set for you"), "again": tr("due again"),
    }.get(item.why, "")  # fmt: skip
    parts = [item.title]
    if item.aim is not None:
        parts.append(tr("listening for: {aim}").format(aim=aim_name(item.aim)))
    if item.repetitions:
        times = trn("once", "about {n} times", item.repetitions)
        parts.append(times.format(n=item.repetitions))
    if item.heavy:
        parts.append(tr("a short dose"))
    return " · ".join([*parts, why] if why else parts)


def pace_text(tempo_bpm: float, tolerance_cents: float) -> str:
    """Tempo and tolerance of an exercise."""
    return tr("{bpm} a minute, ± {cents} c").format(
        bpm=round(tempo_bpm), cents=round(tolerance_cents)
    )


def school_name(school: str) -> str:
    """Name of a way to lay a session out."""
    return {
        "foundation": tr("foundation first"), "rotating": tr("rotating"),
    }[school]  # fmt: skip


def level_name(level: Level) -> str:
    """Name of a level of players."""
    return {
        "early": tr("first years"), "settled": tr("some years in"),
        "advanced": tr("studying it"),
    }[level]  # fmt: skip


def weekday_letters() -> tuple[str, ...]:
    """Monday to Sunday, as short as they go."""
    return tuple(tr("Mo Tu We Th Fr Sa Su").split())


def liking_name(liking: int) -> str:
    """How a day was, 1 to 5."""
    return {
        1: tr("not today"), 2: tr("so so"), 3: tr("all right"), 4: tr("good"), 5: tr("lovely"),
    }[liking]  # fmt: skip


def school_reason(school: str) -> str:
    """Why one would."""
    return {
        "foundation": tr(
            "Bow and pitch get most of the time, one exercise of each: what everything stands on."
        ),
        "rotating": tr(
            "Shorter pieces of more exercises, taken up again: it feels harder and sticks better."
        ),
    }[school]


def ladder_name(ladder_id: str) -> str:
    """Name of a ladder."""
    return {
        "foundation": tr("Foundation bow"), "notes_in_a_bow": tr("Notes in a bow"),
        "drone_scale": tr("Drone scale"), "hand_pattern": tr("Hand pattern"), "scale": tr("Scale"),
        "thirds": tr("Thirds"), "sixths": tr("Sixths"), "octaves": tr("Octaves"),
        "shifts": tr("Shifts"), "off_string": tr("Off the string"), "evenness": tr("Evenness"),
        "soft_bows": tr("Soft bows"), "vibrato": tr("Vibrato"), "bow_speed": tr("Bow speeds"),
    }[ladder_id]  # fmt: skip


def rung_name(rung: Rung) -> str:
    """What a rung asks."""
    parts = choices_said(rung.values)
    if not parts and rung.maker_id:
        parts.append(maker_name(rung.maker_id))
    pace = tr("at {bpm} a minute, within {cents} cents").format(
        bpm=round(rung.tempo_bpm), cents=round(rung.tolerance_cents)
    )
    return ", ".join([*parts, pace])


def standing_text(ladder: Ladder, where: Standing) -> str:
    """Where somebody stands."""
    if where.rung >= len(ladder.rungs):
        return tr("All rungs passed.")
    text = tr(
        "Rung {n} of {of}: {good} good of the last {seen}; {need} of {window} pass it."
    ).format(
        n=where.rung + 1, of=len(ladder.rungs), good=where.good, seen=where.of,
        need=ladder.rule.good, window=ladder.rule.of,
    )  # fmt: skip
    if not where.of:
        text = tr("Rung {n} of {of}. {need} good takes of {window} pass it.").format(
            n=where.rung + 1, of=len(ladder.rungs), need=ladder.rule.good, window=ladder.rule.of
        )
    if where.stepped_back:
        text += " " + tr("Stepped back once: that is part of it.")
    if where.rung < len(ladder.rungs):
        rung = ladder.rungs[where.rung]
        text = " ".join(filter(None, (text, stage_text(rung), weeks_text(rung))))
    if ladder.heavy:
        text += " " + tr("Short doses. Stop at pain, numbness or tingling.")
    return text


def stage_text(rung: Rung) -> str:
    """What a stage asks of the player before a take; else empty."""
    return {
        "start_middle": tr("Lay the bow on in its middle and draw to the tip; lift back."),
        "start_nearer": tr("Begin a hand nearer the frog; the string carries the arm."),
        "start_hand_away": tr("Begin a hand from the frog. Scratch is allowed, lifting is not."),
        "start_frog": tr("Begin at the frog. A little scratch is allowed, lifting is not."),
        "both_ways": tr("Down and up as mirror images, from frog to tip."),
        "weight": tr("As before, with weight added, and the string goes on to sound."),
    }.get(str(rung.values.get("start", "")), "")


_WEEKS = {
    "start_middle": 2, "start_nearer": 2, "start_hand_away": 3, "start_frog": 4, "both_ways": 6,
    "weight": 8,
}  # fmt: skip


def weeks_text(rung: Rung) -> str:
    """How long a stage may take; empty where nothing is known of it."""
    weeks = _WEEKS.get(str(rung.values.get("start", "")))
    return "" if weeks is None else tr("About {n} weeks.").format(n=weeks)


def stage_of(jig_id: str, instrument_id: str) -> str:
    """The words of the stage whose jig this is; empty for any other."""
    for ladder in READY_MADE:
        i = rung_of(jig_id, ladder, instrument_id)
        if i is not None:
            return stage_text(ladder.rungs[i])
    return ""


def figure_name(figure: str) -> str:
    """Name of a trend's figure."""
    return {
        "off_cents": tr("Distance from the target (cents)"),
        "spread_cents": tr("Spread (cents)"), "inside": tr("Notes inside (per cent)"),
        "bias_cents": tr("Bias (cents, + is high)"),
        "uneven_time": tr("Uneven spacing (per cent of a step)"),
        "uneven_level_db": tr("Uneven loudness (dB)"),
        "unsteady_down_db": tr("Wavering down strokes (dB)"),
        "unsteady_up_db": tr("Wavering up strokes (dB)"),
        "longest_down_s": tr("Longest down bow (s)"), "longest_up_s": tr("Longest up bow (s)"),
        "gap_frog_ms": tr("Hole at changes, frog (ms)"),
        "gap_tip_ms": tr("Hole at changes, tip (ms)"),
        "ring_share": tr("Rings won (per cent)"),
    }[figure]  # fmt: skip


def figure_unit(figure: str) -> str:
    """Unit of a trend's figure."""
    if figure in ("inside", "ring_share", "uneven_time"):
        return tr("per cent")
    if figure.endswith("_s"):
        return tr("s")
    if figure.endswith("_ms"):
        return tr("ms")
    return tr("cents") if figure.endswith("cents") else tr("dB")


def trend_part_name(part: str, strings: Sequence[Pitch]) -> str:
    """What a trend is narrowed to."""
    kind, _, which = part.partition(":")
    if kind == "finger":
        return finger_name(int(which))
    if kind == "string" and int(which) < len(strings):
        return string_name(strings[int(which)])
    return pitch_name(Pitch.parse(which)) if kind == "note" else tr("all notes")


def best_sentence(figure: str, value: float, day: str, *, flat: bool, cut: bool = False) -> str:
    """The best take that is shown, and whether the last days stand still.

    ``cut``: a better one lies before the last change of input or instrument.
    """
    best = tr("Best since the dashed line: {value} {unit}, {day}.")
    whole = figure in ("inside", "ring_share")
    said = (best if cut else tr("Best so far: {value} {unit}, {day}.")).format(
        value=f"{value:.0f}" if whole else f"{value:.1f}", unit=figure_unit(figure), day=day,
    )  # fmt: skip
    if flat:
        said += " " + tr(
            "The last days stand still: another tempo, string or exercise may help more than more "
            "of the same."
        )
    return said


def change_sentence(change: ChangePoint | None, figure: str, day: str, n: int, *, cut: bool) -> str:
    """What changed, if the numbers support it."""
    if n < 8:
        return tr("{n} takes. From eight on a change can be looked for.").format(n=n)
    if change is None:
        text = tr("No change that {n} takes support.").format(n=n)
    else:
        unit = figure_unit(figure)
        smaller = abs(change.after) < abs(change.before)
        better = not smaller if figure in MORE_IS_BETTER else smaller
        text = tr(
            "{way} since {day}: from {before} to {after} {unit}, a difference of {by} ± {u}."
        ).format(
            way=tr("Better") if better else tr("Not as good"), day=day,
            before=_short(change.before, figure),
            after=_short(change.after, figure), unit=unit, by=_short(abs(change.by), figure),
            u=_short(max(0.1 if unit == tr("dB") else 1.0, change.uncertainty), figure),
        )  # fmt: skip
    if cut:
        text += " " + tr("Another input or instrument begins at the dashed line: not compared.")
    return text


def _short(value: float, figure: str) -> str:
    return (
        with_comma(f"{value:.1f}")
        if figure.endswith(("_db", "_s"))
        else f"{value:.0f}".replace("-", "−")
    )


def short_day(day: date) -> str:
    """A day as short as it goes."""
    return tr("{day} {month}").format(day=day.day, month=_short_months()[day.month - 1])


def season_sentence(title: str, cell: SeasonCell, monday: date) -> str:
    """A jig in a week."""
    n = len(cell.take_ids)
    week = tr("week of {day}").format(day=short_day(monday))
    if not n:
        return tr("{title}, {week}: not played.").format(title=title, week=week)
    takes = trn("{n} take", "{n} takes", n).format(n=n)
    if cell.n_met:
        how = tr("{met} of {takes} met it").format(met=cell.n_met, takes=n)
    elif cell.share is not None:
        how = tr("{percent} % of the notes inside").format(percent=round(100 * cell.share))
    else:
        how = tr("cannot tell how far it was met")
    kept = tr(", a reference take among them") if cell.kept else ""
    return f"{title}, {week}: {takes}, {how}{kept}."


def day_name(day: str) -> str:
    """A day in words from its ISO date; another text stands as it is."""
    try:
        moment = date.fromisoformat(day)
    except ValueError:
        return day
    months = (
        tr("January"), tr("February"), tr("March"), tr("April"), tr("May"), tr("June"), tr("July"),
        tr("August"), tr("September"), tr("October"), tr("November"), tr("December"),
    )  # fmt: skip
    weekdays = (tr("Monday"), tr("Tuesday"), tr("Wednesday"), tr("Thursday"), tr("Friday"),
                tr("Saturday"), tr("Sunday"))  # fmt: skip
    return tr("{weekday}, {day} {month}").format(
        weekday=weekdays[moment.weekday()], day=moment.day, month=months[moment.month - 1]
    )


def pupil_line(days_ago: int | None, n_takes: int, n_new: int) -> str:
    """A pupil's last days in one line: when, how many takes in a week, how many to hear."""
    parts = [last_played_text(days_ago)]
    if n_takes:
        takes = trn("one take in seven days", "{n} takes in seven days", n_takes)
        parts.append(takes.format(n=n_takes))
    if n_new:
        parts.append(trn("one to hear", "{n} to hear", n_new).format(n=n_new))
    return " · ".join(parts)


def due_text(days_left: int) -> str:
    """When work is due, from today."""
    if days_left < 0:
        return trn("one day late", "{n} days late", -days_left).format(n=-days_left)
    if days_left == 0:
        return tr("due today")
    return trn("due tomorrow", "due in {n} days", days_left).format(n=days_left)


def work_progress(progress: Progress, wanted: int) -> str:
    """How far set work has come."""
    good = tr("{n} of {wanted} good takes").format(n=min(progress.n_good, wanted), wanted=wanted)
    if progress.state == "done":
        return tr("done: {good}").format(good=good)
    played = trn("one take so far", "{n} takes so far", progress.n_takes)
    if not progress.n_takes:
        played = tr("not played yet")
    return f"{due_text(progress.days_left)} · {good} · {played.format(n=progress.n_takes)}"


def work_sentence(work: SetWork, progress: Progress, title: str) -> str:
    """Set work in one sentence for the player."""
    said = tr("{who} set {title}: {how}.").format(
        who=work.who or tr("Somebody"), title=title, how=work_progress(progress, work.good_takes)
    )
    return f"{said} {work.words}" if work.words else said


def conditions_text(
    instrument: str, a4_hz: float, reference: str, tolerance_cents: float, day: str
) -> str:
    """What a take's figures were held against, and on what it was played."""
    held = tr("A {a4}, {reference} ± {cents} c").format(
        a4=f"{a4_hz:g}", reference=reference_name(reference), cents=f"{tolerance_cents:g}"
    )
    return " · ".join(part for part in (instrument, held, day) if part)


def last_played_text(days: int | None) -> str:
    """How long ago somebody played."""
    if days is None:
        return tr("not heard yet")
    if days == 0:
        return tr("played today")
    return trn("played yesterday", "played {n} days ago", days).format(n=days)
