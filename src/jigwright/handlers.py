"""What the worker process can do: built inside the process."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jigwright.core.delay_sweep import LoopDelay
from jigwright.core.errors import AudioError
from jigwright.core.isolation import isolated
from jigwright.core.sound.touch import TouchRing, measure_touch
from jigwright.core.values import Unmeasured
from jigwright.services.jobs import (
    DecodeRequest,
    DemoRequest,
    GiveRequest,
    HearRequest,
    LoopRequest,
    PagesRequest,
    PartsRequest,
    PreviewRequest,
    RawSound,
    ScoreRequest,
    SlowRequest,
    TakeInRequest,
    TouchRequest,
)
from jigwright.services.notation import Engraved, EngraveRequest, Sheet, SheetRequest
from jigwright.services.ports import Progress, SoundFiles
from jigwright.services.recording import (
    RATE_HZ,
    CutRequest,
    CutTake,
    FindRequest,
    FoundTakes,
    InputDevice,
)


def make_handlers() -> Mapping[str, Callable[[Any, Progress], Any]]:
    """Build the job table; heavy libraries are imported here, after the window has painted."""
    from jigwright.audio.files import SndFiles
    from jigwright.core.sound.loop_delay import find_delay
    from jigwright.engraving.score import VerovioEngraver

    files = SndFiles()
    engraver = VerovioEngraver()

    def hear(request: HearRequest, progress: Progress) -> Any:
        from jigwright.services.analysing import hear_file

        return hear_file(
            files, request.path, instrument_id=request.instrument_id, strings=request.strings,
            a4_hz=request.a4_hz, drone_hz=request.drone_hz, jig=request.jig, progress=progress,
        )  # fmt: skip

    def engrave(request: EngraveRequest, _progress: Progress) -> Engraved:
        return engraver.engrave(request)

    def decode(request: DecodeRequest, _progress: Progress) -> RawSound:
        samples, rate_hz = files.read(request.path)
        mono = np.nan_to_num(samples[:, min(request.i_channel, samples.shape[1] - 1)])
        return _raw(mono.astype(np.float32), rate_hz, request.to)

    def preview(request: PreviewRequest, _progress: Progress) -> RawSound:
        from jigwright.core.player.play import play
        from jigwright.services.references import load_reference

        if request.tries:
            return _tries(request)
        performance = play(
            request.jig, seed=1, a4_hz=request.a4_hz, reference=load_reference(request.reference)
        )
        samples = performance.sound.samples
        if request.drone or request.click or request.cue:
            samples = samples + _company(request, len(samples), performance.notes[0].onset_s)
        return _raw(samples.astype(np.float32), performance.sound.rate_hz, request.to)

    def loop_delay(request: LoopRequest, _progress: Progress) -> LoopDelay | Unmeasured:
        samples, rate_hz = files.read(request.path)
        return find_delay(samples[:, 0], rate_hz, request.played_at_s)

    def touch(request: TouchRequest, _progress: Progress) -> TouchRing | Unmeasured:
        samples, rate_hz = files.read(request.path)
        one = np.nan_to_num(samples[:, min(request.i_channel, samples.shape[1] - 1)])
        return measure_touch(
            one, rate_hz, f0_hz=request.f0_hz, onset_s=request.onset_s,
            offset_s=request.offset_s, open_hz=request.open_hz,
        )  # fmt: skip

    def demo_take(request: DemoRequest, _progress: Progress) -> Any:
        from jigwright.services.demo_takes import make_take

        request.scratch.mkdir(parents=True, exist_ok=True)
        return make_take(files, request.scratch, request.jig_id, request.i)

    def engrave_sheet(request: SheetRequest, _progress: Progress) -> Sheet:
        return engraver.sheet(request)

    def engrave_pages(request: PagesRequest, _progress: Progress) -> tuple[str, ...]:
        return engraver.pages(request.engrave, request.page_height)

    return {
        "hear": hear, "decode": decode, "engrave": engrave, "engrave_pages": engrave_pages,
        "engrave_sheet": engrave_sheet, "loop_delay": loop_delay, "touch": touch,
        "demo_take": demo_take,
        "read_work": _read_work, "give_take": _give_take, "take_in": _take_in, "preview": preview,
        "read_score": _read_score, "cut_take": partial(_cut_take, files),
        "cut_file": partial(_cut_file, files),
        "find_takes": _find_takes, "list_inputs": _list_inputs, "slow": _slow, "warm": _warm,
    }  # fmt: skip


def _cut_take(files: SoundFiles, request: CutRequest, progress: Progress) -> CutTake:
    from jigwright.audio.wav_stream import read_span
    from jigwright.core.jig.stops import written_pitches_hz, written_stops_hz
    from jigwright.core.music.instruments import instrument
    from jigwright.core.music.references import pure_strings
    from jigwright.core.sound.drone import remove_drone
    from jigwright.core.sound.intake import choose_signal
    from jigwright.core.sound.listen import hear as hear_signal

    samples, rate_hz = read_span(request.path, request.start_s, request.stop_s)
    samples = np.nan_to_num(samples)
    _write_checked(files, request.to, samples, rate_hz)
    seconds = len(samples) / rate_hz
    open_hz = tuple(pure_strings(request.strings, request.a4_hz).values())

    if request.drone_hz:
        with_drone = samples
        samples = isolated(
            "drone", lambda: remove_drone(with_drone, rate_hz, request.drone_hz), with_drone
        )
    heard = hear_signal(
        choose_signal(samples[:, None], rate_hz), instrument(request.instrument_id),
        lowest_open_hz=min(open_hz), open_hz=open_hz,
        stops_hz=written_stops_hz(request.jig, request.a4_hz),
        written_hz=written_pitches_hz(request.jig, request.a4_hz), progress=progress,
    )  # fmt: skip
    return CutTake(path=request.to, heard=heard, seconds=seconds)


def _cut_file(files: SoundFiles, request: PartsRequest, progress: Progress) -> tuple[Path, ...]:
    samples, rate_hz = files.read(request.path)
    one = np.nan_to_num(samples[:, min(request.i_channel, samples.shape[1] - 1)])
    request.to.mkdir(parents=True, exist_ok=True)
    made: list[Path] = []
    n = len(request.spans)
    try:
        for k, (start_s, stop_s) in enumerate(request.spans):
            part = one[max(0, round(start_s * rate_hz)) : round(stop_s * rate_hz)]
            to = request.to / f"{request.name} ({k + 1} of {n}).flac"
            _write_checked(files, to, part.astype(np.float32), rate_hz)
            made.append(to)
            progress((k + 1) / n)
    except BaseException:  # all or none: the whole is on the shelf
        for path in made:
            path.unlink(missing_ok=True)
        raise
    return tuple(made)


def _find_takes(request: FindRequest, progress: Progress) -> FoundTakes:
    from jigwright.audio.wav_stream import blocks_of
    from jigwright.services.ear import Ear

    start_s, stop_s = request.ear.from_s, request.stop_s

    def blocks() -> Iterator[NDArray[np.float32]]:
        for k, block in enumerate(blocks_of(request.ear.path, start_s, stop_s)):
            progress(min(1.0, k / max(1.0, stop_s - start_s)))
            yield block

    return Ear(request.ear, RATE_HZ).find(blocks(), stop_s=stop_s, at_end=request.at_end)


def _tries(request: PreviewRequest) -> RawSound:
    """Several renditions with time between them, as somebody practises."""
    from jigwright.core.player.faults import parse_faults
    from jigwright.core.player.play import play
    from jigwright.services.references import load_reference

    reference = load_reference(request.reference)
    parts: list[NDArray[np.float32]] = []
    rate_hz = 48_000
    for seed, faults in enumerate(request.tries, start=1):
        performance = play(
            request.jig, seed=seed, a4_hz=request.a4_hz, reference=reference,
            faults=parse_faults(faults),
        )  # fmt: skip
        rate_hz = performance.sound.rate_hz
        gap = np.zeros(round(request.gap_s * rate_hz), dtype=np.float32)
        parts += [performance.sound.samples, gap]
    lead = np.zeros(round(request.lead_s * rate_hz), dtype=np.float32)
    return _raw(np.concatenate([lead, *parts]), rate_hz, request.to)


def _write_checked(files: SoundFiles, to: Path, samples: NDArray[np.float32], rate_hz: int) -> None:
    """Write 24-bit FLAC and decode it again before anything relies on it."""
    files.write_wav(to, np.clip(samples, -1.0, 1.0 - 2.0**-23), rate_hz)
    again, rate = files.read(to)
    same = rate == rate_hz and again.shape[0] == len(samples)
    if not same or float(np.max(np.abs(again[:, 0] - np.clip(samples, -1.0, 1.0)), initial=0.0)) > (
        2.0**-22
    ):
        to.unlink(missing_ok=True)
        raise AudioError("unreadable", "the take could not be written faithfully")


def _slow(request: SlowRequest, _progress: Progress) -> RawSound:
    from jigwright.core.stretch import stretch

    samples = np.fromfile(
        request.path, dtype=np.float32, offset=4 * request.first,
        count=request.last - request.first,
    )  # fmt: skip
    return _raw(stretch(samples, request.factor), request.rate_hz, request.to)


def _read_score(request: ScoreRequest, _progress: Progress) -> Any:
    from jigwright.services.exchange.scores import read_score as read

    return read(
        request.path, jig_id=request.jig_id, instrument_id=request.instrument_id,
        i_part=request.i_part, cue_part=request.cue_part,
    )  # fmt: skip


def _list_inputs(_request: None, _progress: Progress) -> tuple[InputDevice, ...]:
    from jigwright.audio.capture import list_inputs as listed

    return listed()


def _warm(_request: None, _progress: Progress) -> None:
    import jigwright.services.analysing  # noqa: F401 - the import is the work


def _give_take(request: GiveRequest, _progress: Progress) -> None:
    from jigwright.services.exchange.bundle import write_bundle

    write_bundle(
        request.to, take=request.take, player=request.player, owned=request.owned,
        jig=request.jig, remarks=request.remarks, audio=request.audio,
    )  # fmt: skip


def _read_work(path: Path, _progress: Progress) -> Any:
    from jigwright.services.exchange.workfile import read_work

    return read_work(path)


def _take_in(request: TakeInRequest, _progress: Progress) -> Any:
    from jigwright.services.exchange.bundle import read_bundle

    return read_bundle(request.path, request.to)


def _company(request: PreviewRequest, n_samples: int, first_s: float) -> NDArray[np.float32]:
    """Drone on the tonic, click and accompaniment under the simulated player."""
    from jigwright.core.companion import CueLine, Pulse, click_block, drone_block
    from jigwright.core.jig.cue import cue_tones
    from jigwright.core.jig.pace import WrittenTime
    from jigwright.core.music.pitch import Pitch

    jig = request.jig
    out = np.zeros(n_samples, dtype=np.float32)
    if request.drone:
        lowest = min(h.pitch.midi for e in jig.events for h in e.heads)
        tonic = Pitch.in_class(jig.key.tonic, lowest - 3)
        hz = request.a4_hz * 2.0 ** ((tonic.midi - 69) / 12.0)
        out += 0.4 * drone_block((hz,), 0, n_samples)
    if request.click:
        shift = round(first_s * 48_000)
        pulse = Pulse(bpm=jig.tempo_bpm, beats_per_bar=jig.beats_per_bar)
        out[shift:] += 0.5 * click_block(pulse, 0, n_samples - shift)
    if request.cue:
        begin_s = first_s - WrittenTime(jig).at(jig.events[0].onset_beats)
        line = CueLine(cue_tones(jig, request.a4_hz, begin_s=begin_s))
        out += line.block(0, n_samples)
    return out


def _raw(samples: NDArray[np.float32], rate_hz: int, to: Path) -> RawSound:
    part = to.with_suffix(".part")
    samples.tofile(part)
    part.replace(to)
    return RawSound(path=to, rate_hz=rate_hz, n_samples=len(samples))
