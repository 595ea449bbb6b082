"""From one channel of sound to what was heard."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from jigwright.core.errors import AudioError
from jigwright.core.isolation import isolated
from jigwright.core.music.instruments import Instrument
from jigwright.core.sound.beginnings import Scene, with_beginnings
from jigwright.core.sound.continuity import without_waves
from jigwright.core.sound.contour import ContourParams, find_contour
from jigwright.core.sound.decay import legato_tail_s, tail_s
from jigwright.core.sound.disturbances import find_bursts, find_swings
from jigwright.core.sound.doubles import find_pairs, taking_turns, with_pairs
from jigwright.core.sound.faint import marked_faint
from jigwright.core.sound.falls import find_falls
from jigwright.core.sound.frame_params import FrameParams, frame_params
from jigwright.core.sound.frames import Frames, FrameStream, join_frames
from jigwright.core.sound.fundamental import lower_pieces
from jigwright.core.sound.heard import (
    HOP_S,
    Contours,
    Heard,
    Pair,
    RingLine,
    Segment,
    Speech,
    Whistle,
)
from jigwright.core.sound.intake import Signal
from jigwright.core.sound.measure_segment import Take, measure_doubtful, measure_segments
from jigwright.core.sound.metronome_out import (
    Ticking,
    codes_of,
    parted_from_ticks,
    without_metronome,
)
from jigwright.core.sound.novelty import novelty, novelty_window_s
from jigwright.core.sound.pair_measure import pair_params
from jigwright.core.sound.pair_strokes import doubtful_strokes
from jigwright.core.sound.pair_trills import without_trills
from jigwright.core.sound.polarity import find_turns, parted_where_turned
from jigwright.core.sound.ranges import widened, widened_pairs
from jigwright.core.sound.ringing import measure_lines
from jigwright.core.sound.risen_onsets import placed_by_rises
from jigwright.core.sound.same_pitch import by_odds, weighed
from jigwright.core.sound.segments import Piece, find_pieces
from jigwright.core.sound.short_swings import centred
from jigwright.core.sound.steady_tones import SteadyTone, tone_code, without_tones
from jigwright.core.sound.talk import find_talk, in_talk
from jigwright.core.sound.thumps import find_rumbles, find_thumps, thumps_code
from jigwright.core.sound.whistles import find_whistles, without_whistles
from jigwright.core.sound.written_rises import find_rises, pitches_sounding, written_rises
from jigwright.core.values import Floats, read_only

BLOCK_SAMPLES = 65_536
_RANGE_DB = 38.0
_HIGHEST_SHARE = 0.7  # no note begins in the highest half octave of the search range
_Progress = Callable[[float], None]


def hear(
    signal: Signal,
    inst: Instrument,
    *,
    lowest_open_hz: float,
    open_hz: Sequence[float] = (),
    stops_hz: Sequence[tuple[float, float]] = (),
    written_hz: Sequence[float] = (),
    progress: _Progress | None = None,
) -> Heard:
    """Analyse one channel.

    Parameters
    ----------
    signal : Signal
    inst : Instrument
    lowest_open_hz : float
        Frequency of the lowest open string as tuned.
    open_hz : sequence of float
        All open strings, for what rings after notes; none: not looked for.
    stops_hz : sequence of (float, float)
        Both notes of every written double stop, if what was to be played is known: hypotheses
        where the sound is not clear.
    written_hz : sequence of float
        Every pitch that was to be played, likewise.
    progress : callable, optional
        Called with the share done, 0 … 1.

    Raises
    ------
    AudioError
        If there are no samples.
    """
    if not len(signal.samples):
        raise AudioError("empty", "no samples")
    no_tones: tuple[SteadyTone, ...] = ()
    loud = signal.samples
    samples, tones = isolated(
        "tones that nobody plays",
        lambda: without_tones(loud, signal.rate_hz), (loud, no_tones),
    )  # fmt: skip
    no_tickings: tuple[Ticking, ...] = ()
    toneless = samples
    samples, tickings = isolated(
        "a metronome",
        lambda: without_metronome(toneless, signal.rate_hz), (toneless, no_tickings),
    )  # fmt: skip
    signal = replace(
        signal, samples=samples,
        warnings=(*signal.warnings, *(tone_code(t) for t in tones), *codes_of(tickings)),
    )  # fmt: skip
    heard = isolated(
        "hearing",
        lambda: _hear(
            signal,
            inst,
            lowest_open_hz=lowest_open_hz,
            open_hz=open_hz,
            stops_hz=stops_hz,
            written_hz=written_hz,
            tickings=tickings,
            progress=progress,
        ),
        None,
    )
    return unheard(signal) if heard is None else heard


def unheard(signal: Signal) -> Heard:
    """What is known of a sound that could not be analysed: its length, and that it failed."""
    nothing = read_only(np.zeros(0))
    return Heard(
        contours=Contours(
            f0_hz=nothing, level_db=nothing, clarity=nothing, centroid_hz=nothing,
            loudness_db=nothing,
        ),
        segments=(), pairs=(), whistles=(),
        duration_s=len(signal.samples) / signal.rate_hz, sample_rate_hz=signal.rate_hz,
        n_channels=signal.n_channels, i_channel=signal.i_channel, noise_dbfs=-140.0,
        warnings=(*signal.warnings, "unheard"),
    )  # fmt: skip


def _hear(
    signal: Signal,
    inst: Instrument,
    *,
    lowest_open_hz: float,
    open_hz: Sequence[float],
    stops_hz: Sequence[tuple[float, float]],
    written_hz: Sequence[float],
    tickings: Sequence[Ticking],
    progress: _Progress | None,
) -> Heard:
    params = frame_params(inst.id, lowest_open_hz, inst.highest_hz)
    stream = FrameStream(params, signal.rate_hz)
    stream.keep_filtered(len(signal.samples))
    parts: list[Frames] = []
    n = len(signal.samples)
    for i in range(0, n, BLOCK_SAMPLES):
        parts.append(stream.push(signal.samples[i : i + BLOCK_SAMPLES].astype(np.float64)))
        if progress is not None:
            progress(0.7 * (i / n))
    parts.append(stream.finish())
    frames = join_frames(parts)
    noise_db, floor_db = _floors(frames)
    contours = find_contour(frames, ContourParams(), floor_db=floor_db)
    blur = params.window_samples / params.rate_hz / HOP_S / 2
    waves: list[int] = []
    pieces = find_pieces(
        contours, floor_db=floor_db, blur_frames=max(2, round(blur)), shallow=waves
    )
    pieces, f0_hz = isolated(
        "octaves",
        lambda: lower_pieces(
            pieces, contours.f0_hz, stream.filtered, params.rate_hz, params.hop_samples,
            params.lowest_hz,
        ),
        (pieces, contours.f0_hz),
    )  # fmt: skip
    contours = replace(contours, f0_hz=f0_hz)
    new = isolated(
        "novelty",
        lambda: novelty(
            stream.filtered, params.rate_hz, params.hop_samples, len(contours.f0_hz),
            lowest_hz=lowest_open_hz,
        ),
        None,
    )  # fmt: skip
    pieces = isolated(
        "waves of level",
        lambda: without_waves(
            pieces,
            stream.filtered,
            params.rate_hz,
            params.hop_samples,
            contours.f0_hz,
            waves=waves,
            new=new,
        ),
        pieces,
    )
    no_rumbles: tuple[tuple[float, float], ...] = ()
    rumbles = isolated(
        "what rumbles",
        lambda: find_rumbles(signal.samples, signal.rate_hz, lowest_open_hz), no_rumbles,
    )  # fmt: skip
    whole = pieces
    pieces = isolated(
        "bows that turn",
        lambda: parted_where_turned(
            whole, stream.filtered, params.rate_hz, contours.f0_hz, sorted(waves), new
        ),
        pieces,
    )
    no_doubts: list[Piece] = []
    doubtful, scene = no_doubts, None
    if new is not None:
        struck_s = (*rumbles, *((s, s) for t in tickings for s in t.metronome.ticks_s))
        scene = seen = replace(
            scene_of(stream.filtered, params, contours, new), struck_s=struck_s
        )  # fmt: skip
        pieces, doubtful = isolated(
            "beginnings", lambda: with_beginnings(pieces, seen, sorted(waves)), (pieces, no_doubts)
        )
        begun, maybe_begun = pieces, doubtful
        pieces, doubtful = isolated(
            "one pitch again", lambda: by_odds(begun, maybe_begun, seen), (begun, maybe_begun)
        )
    take = Take(
        x=stream.filtered, rate_hz=params.rate_hz, hop_samples=params.hop_samples,
        contours=contours, blur_s=blur * HOP_S, noise_db=noise_db,
        new_window_s=novelty_window_s(lowest_open_hz),
    )  # fmt: skip
    no_whistles: tuple[Whistle, ...] = ()
    whistles = isolated(
        "whistles",
        lambda: find_whistles(take.x, params.rate_hz, contours, floor_db, inst.highest_hz),
        no_whistles,
    )
    single = without_whistles(measure_segments(take, pieces), whistles)
    of_ticks: tuple[Segment, ...] = ()
    single, of_ticks = isolated(
        "what is left of ticks",
        lambda: parted_from_ticks(single, tickings, signal.rate_hz), (single, of_ticks),
    )  # fmt: skip
    heard_alone = single
    risen = isolated(
        "pitches that rise",
        lambda: find_rises(take, pitches_sounding(written_hz, heard_alone), heard_alone), None,
    )  # fmt: skip
    if risen is not None:
        rising = risen
        single = isolated(
            "onsets under what sounds on", lambda: placed_by_rises(single, rising), single
        )
    single = isolated("short swings", lambda: centred(contours, single), single)
    maybe = isolated("doubtful notes", lambda: measure_doubtful(take, pieces, doubtful), ())

    def paired() -> tuple[tuple[Segment, ...], tuple[Pair, ...]]:
        found = find_pairs(
            take.x, params.rate_hz, contours, single, pair_params(inst.id),
            lowest_hz=0.96 * lowest_open_hz, highest_hz=0.4 * inst.highest_hz, floor_db=floor_db,
            second_hz=sorted(open_hz)[1] if len(open_hz) > 1 else 0.0,
            begun_s=[q.begins * HOP_S for q in pieces if q.begins is not None],
            stops_hz=stops_hz,
        )  # fmt: skip
        found = without_trills(found, stops_hz)
        return with_pairs(single, found), found

    segments, pairs = isolated("double stops", paired, (single, ()))
    strokes = isolated(
        "strokes on two strings", lambda: doubtful_strokes(segments, pairs, contours), ()
    )
    turns = taking_turns(single, pairs)
    none: tuple[Segment, ...] = ()
    hidden = none
    if written_hz and risen is not None:
        known = risen
        hidden = isolated(
            "written pitches that rise", lambda: written_rises(take, known, segments), none
        )
    if scene is not None:
        where, rose = scene, hidden
        hidden = isolated(
            "one pitch that rises again", lambda: weighed(rose, segments, where), hidden
        )
    maybe = tuple(sorted((*maybe, *turns, *strokes, *of_ticks, *hidden), key=lambda s: s.onset_s))
    legato_s = isolated(
        "tails under notes",
        lambda: legato_tail_s(take.x, params.rate_hz, segments),
        float("nan"),
    )
    ends_s = isolated("tails of notes", lambda: tail_s(contours, segments, noise_db), float("nan"))
    lingers_s = float(np.fmax(ends_s, legato_s))
    segments = isolated("ranges", lambda: widened(segments, lingers_s), segments)
    no_talk: tuple[Speech, ...] | None = None
    talks = isolated(
        "talk",
        lambda: find_talk(signal.samples, signal.rate_hz, segments),
        no_talk,
    )
    segments = in_talk(segments, talks or ())
    no_thumps: tuple[float, ...] = ()
    thumps = isolated(
        "thumps",
        lambda: find_thumps(signal.samples, signal.rate_hz, lowest_open_hz), no_thumps,
    )  # fmt: skip
    if risen is not None:
        shares, heard_so_far = risen.sounding, segments
        segments = isolated(
            "what hardly sounds", lambda: marked_faint(heard_so_far, shares), segments
        )
    pairs = isolated("ranges of stops", lambda: widened_pairs(pairs, segments, lingers_s), pairs)
    maybe = isolated("doubtful ranges", lambda: widened(maybe, lingers_s), maybe)
    no_lines: tuple[RingLine, ...] | None = None
    ring_lines = isolated(
        "what rings",
        lambda: measure_lines(take.x, params.rate_hz, segments, open_hz, pairs=pairs),
        no_lines,
    )
    if progress is not None:
        progress(1.0)
    return Heard(
        contours=Contours(
            f0_hz=read_only(contours.f0_hz),
            level_db=read_only(contours.level_db),
            clarity=read_only(contours.clarity),
            centroid_hz=read_only(contours.centroid_hz),
            loudness_db=read_only(contours.loudness_db),
        ),
        segments=segments,
        doubtful=maybe,
        pairs=pairs,
        ring_lines=ring_lines,
        open_hz=tuple(open_hz),
        whistles=whistles,
        duration_s=n / signal.rate_hz,
        sample_rate_hz=signal.rate_hz,
        n_channels=signal.n_channels,
        i_channel=signal.i_channel,
        noise_dbfs=noise_db,
        warnings=(*signal.warnings, *thumps_code(thumps)),
        window_s=params.window_s,
        falls=isolated("dips inside notes", lambda: find_falls(take, segments), None),
        bursts=isolated("rough stretches", lambda: find_bursts(take, segments), None),
        swings=isolated("waves of level", lambda: find_swings(take, segments), None),
        turns=isolated("which way the bow went", lambda: find_turns(take, segments), None),
        talks=talks,
        tail_s=legato_s,
    )


def scene_of(x: Floats, params: FrameParams, contours: Contours, new: Floats) -> Scene:
    """What beginnings are looked for in, with the instrument's range of pitches."""
    return Scene(
        x=x, rate_hz=params.rate_hz, hop_samples=params.hop_samples, contours=contours, new=new,
        lowest_hz=params.lowest_hz, highest_hz=_HIGHEST_SHARE * params.highest_hz,
    )  # fmt: skip


def _floors(frames: Frames) -> tuple[float, float]:
    """Level of the quiet parts, and the level below which nothing is looked for."""
    level = frames.level_db
    if not len(level):
        return -140.0, -80.0
    return floors(float(np.percentile(level, 95)), float(np.percentile(level, 3)))


def floors(loud: float, noise: float) -> tuple[float, float]:
    """Noise and floor in dB from the levels of the loud and of the quiet parts."""
    floor = max(loud - _RANGE_DB, -88.0)
    if noise < loud - 18.0:
        floor = max(floor, noise + 5.0)
    return noise, floor
