"""Takes of the demo class: played by the simulated player, heard as any other sound."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from pathlib import Path

from jigwright.core.jig.model import Jig
from jigwright.core.jig.stops import written_pitches_hz, written_stops_hz
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import parse_reference, pure_strings
from jigwright.core.player.faults import Fault, parse_faults
from jigwright.core.player.play import play
from jigwright.core.sound.heard import Heard
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.services.demo import (
    Course,
    DemoStore,
    MadeTake,
    courses,
    keep_take,
    said_in_the_waltz,
    take_id,
    to_make,
)
from jigwright.services.ports import Progress, SoundFiles
from jigwright.services.records import Remark, TakeRecord

_ALONG = "sympathy coupling_db=-19 t60_s=1.6 step_db=1 slope_db=2"


def make_take(files: SoundFiles, scratch: Path, jig_id: str, i: int) -> MadeTake:
    """Play and hear one take; some seconds."""
    course = next(c for c in courses() if c.jig.id == jig_id)
    record, path, heard = _take(course, i, files, scratch)
    said = jig_id == "demo-waltz" and i == 1
    remarks = tuple(_remarks(record, course.jig, heard)) if said else ()
    return MadeTake(record=record, path=path, heard=heard, remarks=remarks)


def build_demo(
    store: DemoStore, files: SoundFiles, scratch: Path, *, known: Collection[str] = (),
    progress: Progress | None = None,
) -> int:  # fmt: skip
    """Make what a demo studio that was begun still lacks; returns the number of takes made."""
    rows = to_make(known)
    for n, (jig_id, i) in enumerate(rows, start=1):
        keep_take(store, make_take(files, scratch, jig_id, i))
        if progress is not None:
            progress(n / len(rows))
    return len(rows)


def _remarks(take: TakeRecord, jig: Jig, heard: Heard) -> Iterator[Remark]:
    """What the teacher left in the last run-through of the waltz."""
    for i_event, words in said_in_the_waltz():
        at_s = heard.segments[min(i_event, len(heard.segments) - 1)].onset_s
        yield Remark(
            id=f"said-{take.id}-{i_event}", take_id=take.id,
            note_id=jig.events[i_event].heads[-1].id, at_s=at_s, who="Ines Brandt", words=words,
            utc="2026-11-23T18:30:00Z",
        )  # fmt: skip


def _take(
    course: Course, i: int, files: SoundFiles, scratch: Path
) -> tuple[TakeRecord, Path, Heard]:
    inst = instrument(course.owned.kind)
    reference = parse_reference(course.jig.reference)
    open_hz = tuple(pure_strings(inst.strings, course.a4_hz).values())
    faults: tuple[Fault, ...] = parse_faults(f"{course.faults(i)}; {_ALONG}")
    seed = sum(map(ord, course.jig.id)) * 100 + i
    performance = play(
        course.jig, seed=seed, faults=faults, a4_hz=course.a4_hz, reference=reference
    )
    path = scratch / f"{take_id(course.jig.id, i)}.flac"
    files.write_wav(path, performance.sound.samples, performance.sound.rate_hz)
    samples, rate_hz = files.read(path)
    heard = hear(
        choose_signal(samples, rate_hz), inst, lowest_open_hz=min(open_hz), open_hz=open_hz,
        stops_hz=written_stops_hz(course.jig, course.a4_hz),
        written_hz=written_pitches_hz(course.jig, course.a4_hz),
    )  # fmt: skip
    record = TakeRecord(
        id=take_id(course.jig.id, i), jig_id=course.jig.id, jig_revision=course.jig.revision,
        player_id=course.player.id, instrument_id=course.owned.id, recorded_utc=course.days[i],
        utc_offset_min=0, audio="", sha256="", source_name=path.name,
        duration_s=heard.duration_s, a4_hz=course.a4_hz, reference=course.jig.reference,
        tolerance_cents=course.jig.tolerance_cents, input_name="simulated player",
        mark=course.marks.get(i, ""),
    )  # fmt: skip
    return record, path, heard
