"""What was heard: values only, NumPy at most (the first stratum; docs/architecture.md)."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from jigwright.core.values import Floats

HOP_S = 0.005
METHOD_VERSION = 22
BowWay = Literal["turned", "same", "unknown"]
STEADY_TONE = "steady_tone"  # begins the warning about a tone that nobody plays
THUMPS = "thumps"  # … and about something that knocked against the floor
METRONOME = "metronome"  # … and about a metronome that is not ours


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Contours:
    """Frame curves at exact multiples of 5 ms from the first sample.

    Parameters
    ----------
    f0_hz : ndarray, shape (n,)
        Fundamental; NaN where there is no pitch.
    level_db : ndarray, shape (n,)
        RMS re a full-scale square wave, in the instrument's band.
    clarity : ndarray, shape (n,)
        Height of the chosen peak of the normalised square-difference function, 0 … 1.
    centroid_hz : ndarray, shape (n,)
        Centre of gravity of the power spectrum; NaN in silence.
    loudness_db : ndarray, shape (n,)
        Level as hearing has it: compressed energies of ERB-wide bands, summed; only differences
        within a take mean anything.
    """

    f0_hz: Floats
    level_db: Floats
    clarity: Floats
    centroid_hz: Floats
    loudness_db: Floats

    def __len__(self) -> int:
        return len(self.f0_hz)


@dataclass(frozen=True, slots=True, kw_only=True)
class Segment:
    """A stretch of sound that holds one pitch.

    Parameters
    ----------
    onset_s, offset_s : float
        Begin and end of the driven sound.
    core_start_s, core_end_s : float
        Settled part that the pitch was taken from.
    f0_hz : float
        Centre of the settled part.
    uncertainty_cents : float
        Half the 95 % range of ``f0_hz``.
    spread_cents, drift_cents_per_s : float
        Standard deviation about, and slope of, the settled contour.
    level_dbfs : float
    attack_db : float
        How far the level fell just before the onset, dB; 0 in a slur.
    clarity : float
        Median clarity.
    i_pair : int
        Index of the pair it is (``f0_hz`` is then the lower note), or -1.
    slurred : bool
        Reached by a pitch step with the bow going on.
    covered_s : float
        How long after its onset the note before hides it from the contour; all its length where
        it was never seen there (:mod:`written_rises`).
    swing_cents, swing_gain : float
        Half the extent of the swing that matches a vibrato best, and how much more of the sound it
        gathers than the contour's own does (:mod:`matched_vibrato`); 0 where none was matched.
        With ``swing_hz`` how much more than no swing does.
    doubtful : bool
        It may begin here, and it may be part of the note it lies in.
    in_talk : bool
        It was heard while somebody speaks and nothing else sounds: a note only if what was to be
        played asks for it.
    faint : bool
        Among all the pitches that sound it has next to no share of the spectrum (:mod:`faint`): a
        note only if what was to be played asks for it.
    outsounded : bool
        It is short, and very soft or under another pitch all the while: no wrong note by itself.
    odds : float or None
        Where the pitch begins that was there before: the natural logarithm of the odds that it
        does begin again (:mod:`same_pitch`); ``None`` where they were not weighed.
    swing_hz : float
        Rate of a vibrato that the contour does not show (:mod:`sought_vibrato`); 0 where none was
        found, or the contour shows it.
    """

    onset_s: float
    offset_s: float
    core_start_s: float
    core_end_s: float
    f0_hz: float
    uncertainty_cents: float
    spread_cents: float
    drift_cents_per_s: float
    level_dbfs: float
    attack_db: float
    clarity: float
    i_pair: int = -1
    slurred: bool
    covered_s: float = 0.0
    swing_cents: float = 0.0
    swing_gain: float = 0.0
    doubtful: bool = False
    in_talk: bool = False
    faint: bool = False
    outsounded: bool = False
    odds: float | None = None
    swing_hz: float = 0.0

    @property
    def is_hidden(self) -> bool:
        """Whether no contour shows it."""
        return self.doubtful and self.covered_s >= self.offset_s - self.onset_s


@dataclass(frozen=True, slots=True, kw_only=True)
class Now:
    """The newest frame.

    Parameters
    ----------
    time_s : float
        From the first sample; already ``LiveEar.delay_s`` old.
    f0_hz : float
        NaN where no pitch is heard.
    level_db, clarity : float
    sounding : bool
        Whether the level is above what the room gives.
    """

    time_s: float
    f0_hz: float
    level_db: float
    clarity: float
    sounding: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PairNow:
    """Two notes of the newest window.

    Parameters
    ----------
    lower_hz, upper_hz : float
    balance_db : float
        Upper minus lower; NaN when it cannot be told.
    """

    lower_hz: float
    upper_hz: float
    balance_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class RingNow:
    """A string that was woken just now.

    Parameters
    ----------
    string : int
        0 = lowest.
    level_db, decay_s : float
        Re the note, and the time to fall by 60 dB.
    since_s : float
        Where the note that woke it ended.
    """

    string: int
    level_db: float
    decay_s: float
    since_s: float


def moved_ring(ring: RingNow | None, by_s: float) -> RingNow | None:
    """The same ring at a later time."""
    return None if ring is None else replace(ring, since_s=ring.since_s + by_s)


def moved(segment: Segment, by_s: float) -> Segment:
    """The same segment at a later time."""
    return replace(
        segment,
        onset_s=segment.onset_s + by_s,
        offset_s=segment.offset_s + by_s,
        core_start_s=segment.core_start_s + by_s,
        core_end_s=segment.core_end_s + by_s,
    )


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Pair:
    """A stretch in which two notes sound together.

    Parameters
    ----------
    onset_s, offset_s : float
    lower_hz, upper_hz : float
        Centres over the windows.
    lower_uncertainty_cents, upper_uncertainty_cents : float
        Half the 95 % ranges.
    balance_db, balance_uncertainty_db : float
        Upper minus lower; NaN when the two cannot be told apart.
    level_dbfs : float
    times_s, lower_track_hz, upper_track_hz, balance_track_db : ndarray, shape (m,)
        One value a window.
    parted : bool
        An octave whose two notes were told apart by phase: its tracks hold also where it is in
        tune.
    """

    onset_s: float
    offset_s: float
    lower_hz: float
    upper_hz: float
    lower_uncertainty_cents: float
    upper_uncertainty_cents: float
    balance_db: float
    balance_uncertainty_db: float
    level_dbfs: float
    times_s: Floats
    lower_track_hz: Floats
    upper_track_hz: Floats
    balance_track_db: Floats
    parted: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class RingLine:
    """What stands at one partial after a note, while nothing that is played covers it.

    Parameters
    ----------
    i_segment : int
        The note that ended.
    i_string : int
        Open string (0 = lowest) whose partial it is; -1: the note's own, which no string shares.
    partial : int
        Of the string; of the note for ``i_string`` -1.
    f_hz : float
        Where the partial was looked for.
    level_db : float
        100 … 400 ms after the note's end, re the note.
    note_db : float
        The note's own partial there, in the last of the note, re the note; NaN where it has none,
        0 where no line stands so clearly that it was asked for.
    decay_s : float
        Time to fall by 60 dB; NaN where it does not fall or too little is seen.
    slope_db_per_s, slope_sd : float
        What the decay was taken from, and its standard error; infinite where too little is seen.
    above_db : float
        The line over what stands 3 … 14 Hz beside it.
    floor_db : float
        That, re the note.
    offset_cents : float
        Pitch of the line from ``f_hz``.
    left_db : float
        What still rang there from earlier at the same time, re the note; NaN: not known.
    from_s, to_s : float
        When it was seen.
    """

    i_segment: int
    i_string: int
    partial: int
    f_hz: float
    level_db: float
    note_db: float
    decay_s: float
    slope_db_per_s: float
    slope_sd: float
    above_db: float
    floor_db: float
    offset_cents: float
    left_db: float
    from_s: float
    to_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Whistle:
    """A stretch in which one high line drowns the tone.

    Parameters
    ----------
    start_s, end_s : float
    f_hz : float
    above_tone_db : float
        The line's energy re everything else that sounds.
    """

    start_s: float
    end_s: float
    f_hz: float
    above_tone_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Fall:
    """A dip of the level inside a note.

    Parameters
    ----------
    time_s : float
    together_db : float
        By how much nearly all partials fall at once there.
    """

    time_s: float
    together_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Burst:
    """A rough stretch inside a note.

    Parameters
    ----------
    start_s, end_s : float
    between_db : float
        By how much the sound between the partials rises there, all the way up.
    """

    start_s: float
    end_s: float
    between_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LevelSwing:
    """A wave of level along a note.

    Parameters
    ----------
    start_s, end_s : float
        Of the note.
    together_db : float
        Peak to peak, as far as nearly all partials swing together.
    """

    start_s: float
    end_s: float
    together_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class BowTurn:
    """A moment at which one pitch begins again, and which way round.

    Parameters
    ----------
    time_s : float
        When it begins.
    lean : float
        From -1 (as before) to 1 (turned over).
    fits : float
        How well the better of both explains what is heard, 0 … 1.
    """

    time_s: float
    lean: float
    fits: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Speech:
    """A stretch in which somebody speaks.

    Parameters
    ----------
    start_s, end_s : float
    """

    start_s: float
    end_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class HeardNotes:
    """Only the notes of what was heard.

    Parameters
    ----------
    segments, doubtful : tuple of Segment
    pairs : tuple of Pair
    tail_s : float
        As :attr:`Heard.tail_s`.
    """

    segments: tuple[Segment, ...]
    doubtful: tuple[Segment, ...] = ()
    pairs: tuple[Pair, ...] = ()
    tail_s: float = float("nan")


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Heard:
    """Everything that depends on the sound and the instrument only.

    Parameters
    ----------
    contours : Contours
    segments : tuple of Segment
    doubtful : tuple of Segment
        Notes that may begin inside others, for those who know what was to be played.
    pairs : tuple of Pair
        Stretches of two notes; every one is a segment too (the lower note), in the same place.
    ring_lines : tuple of RingLine or None
        What stands at open strings' partials after notes; ``None``: it was not looked for.
    whistles : tuple of Whistle
    falls : tuple of Fall or None
        Dips of the level inside notes; ``None``: an earlier version did not look.
    bursts : tuple of Burst or None
        Rough stretches inside notes; ``None`` likewise.
    swings : tuple of LevelSwing or None
        Notes along which the level swings; ``None`` likewise.
    turns : tuple of BowTurn or None
        Where one pitch begins again, and which way round; ``None`` likewise.
    talks : tuple of Speech or None
        Where somebody speaks; ``None`` likewise.
    duration_s : float
    sample_rate_hz : int
    n_channels : int
    i_channel : int
        The one channel that was measured.
    noise_dbfs : float
        Level of the quiet parts.
    warnings : tuple of str
        Identifiers such as ``clipped``, ``repaired_samples``, ``dead_channel``, and
        ``steady_tone:196.0:-12`` (Hz, dB re the playing) and ``metronome:66.0:-14:0.25`` (beats a
        minute, dB re the playing, first beat in s): it sounded all along and was taken out.
    open_hz : tuple of float
        Open strings as they were taken to be tuned, low to high; empty: not known.
    window_s : float
        Length of the analysis window of the contours; 0: not kept with it.
    tail_s : float
        In which a note falls by 20 dB under the next one; NaN where that was not seen.
    method_version : int
    """

    contours: Contours
    segments: tuple[Segment, ...]
    duration_s: float
    sample_rate_hz: int
    n_channels: int
    i_channel: int
    noise_dbfs: float
    warnings: tuple[str, ...] = ()
    doubtful: tuple[Segment, ...] = ()
    pairs: tuple[Pair, ...] = ()
    ring_lines: tuple[RingLine, ...] | None = None
    open_hz: tuple[float, ...] = ()
    whistles: tuple[Whistle, ...] = ()
    falls: tuple[Fall, ...] | None = None
    bursts: tuple[Burst, ...] | None = None
    swings: tuple[LevelSwing, ...] | None = None
    turns: tuple[BowTurn, ...] | None = None
    talks: tuple[Speech, ...] | None = None
    window_s: float = 0.0
    tail_s: float = float("nan")
    method_version: int = METHOD_VERSION
