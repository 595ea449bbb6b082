"""What the gauges return: values only."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jigwright.core.sound.heard import BowWay
from jigwright.core.values import Unmeasured

ArrivalKind = Literal["landed", "slid_up", "slid_down", "hunted"]
LevelShape = Literal["level", "grow", "fade", "swell", "dip"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Arrival:
    """How a note's pitch was reached.

    Parameters
    ----------
    kind : ArrivalKind
    first_cents : float
        First stable pitch after the onset, from the note's own settled pitch. NaN for a slide
        too short for the instrument's analysis window.
    settle_s : float
        From the onset until the pitch stays within the tolerance.
    """

    kind: ArrivalKind
    first_cents: float
    settle_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Vibrato:
    """Vibrato of the settled part.

    Parameters
    ----------
    present : bool
    rate_hz, extent_cents : float
        Rate, and extent peak to peak; NaN when absent.
    extent_uncertainty_cents : float
        Half the 95 % range.
    regularity : float
        Share of the contour's variance the sinusoid explains, 0 … 1; NaN where a room hides the
        vibrato from it.
    start_s : float
        From the onset to the first swing; NaN when absent or hidden.
    """

    present: bool
    rate_hz: float
    extent_cents: float
    extent_uncertainty_cents: float
    regularity: float
    start_s: float


NOT_FOLLOWED = Unmeasured("not_needed")
StopKind = Literal["landed", "corrected", "hunted"]
StopMover = Literal["lower", "upper", "both", ""]


@dataclass(frozen=True, slots=True, kw_only=True)
class StopArrival:
    """How two strings came together.

    Parameters
    ----------
    kind : StopKind
        ``corrected``: from one side; ``hunted``: to and fro.
    settle_s : float
        After the onset.
    swings_cents : tuple of float
        Farthest places before, one for every stay on a side, from where the interval settled; + is
        wide.
    mover : StopMover
        Which voice moved; empty where none did.
    still_s : float
        After the onset, from when no beats are heard; NaN where they go on, or no partials meet.
    """

    kind: StopKind
    settle_s: float
    swings_cents: tuple[float, ...]
    mover: StopMover
    still_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Double:
    """Two strings sounding together.

    Parameters
    ----------
    lower_hz, upper_hz : float
    lower_uncertainty_cents, upper_uncertainty_cents : float
        Half the 95 % ranges.
    interval_cents, uncertainty_cents : float
        Size of the interval and half its 95 % range.
    beats_hz : float
        Beats of the lowest coincident partials; NaN where none coincide within a quarter tone.
    beating_partials : tuple of (int, int)
        Which partial of the lower meets which of the upper; (0, 0) for none.
    balance_db, balance_uncertainty_db : float
        Upper minus lower; NaN when it cannot be told.
    both_ratio : float
        Share of the time in which both sound.
    reached : StopArrival or Unmeasured
        How the two came together.
    """

    lower_hz: float
    upper_hz: float
    lower_uncertainty_cents: float
    upper_uncertainty_cents: float
    interval_cents: float
    uncertainty_cents: float
    beats_hz: float
    beating_partials: tuple[int, int]
    balance_db: float
    balance_uncertainty_db: float
    both_ratio: float
    reached: StopArrival | Unmeasured = NOT_FOLLOWED


@dataclass(frozen=True, slots=True, kw_only=True)
class Level:
    """Level of the driven part.

    Parameters
    ----------
    mean_dbfs, range_db, slope_db_per_s : float
        Range and slope are NaN for notes too short for a shape.
    shape : LevelShape or None
    tremor_hz, tremor_db : float
        Strongest regular wave of 3 … 12 Hz left after the shape, peak to peak; NaN when none
        stands out.
    """

    mean_dbfs: float
    range_db: float
    slope_db_per_s: float
    shape: LevelShape | None
    tremor_hz: float
    tremor_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Tone:
    """Tone of the settled part.

    Parameters
    ----------
    hnr_db : float
        Harmonic-to-noise ratio.
    brightness_hz, brightness_ratio : float
        Spectral centroid, and the same over the fundamental.
    brightness_slope : float
        Octaves a second the centroid moves; NaN over less than a quarter of a second.
    scratch_ratio : float
        Share of the time in which the sound is hardly periodic.
    loudness_db : float
        Loudness after hearing; differences within a take only.
    """

    hnr_db: float
    brightness_hz: float
    brightness_ratio: float
    brightness_slope: float
    scratch_ratio: float
    loudness_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Start:
    """Start of a stroke.

    Parameters
    ----------
    attack_s : float
        From the onset to within 3 dB of the settled level.
    noise_before_s : float
        Until the sound is clearly periodic.
    accent_db : float
        Peak of the first 150 ms above the settled level, 0 for none.
    """

    attack_s: float
    noise_before_s: float
    accent_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Meeting:
    """Where a note meets an open string.

    Parameters
    ----------
    string : int
        0 = lowest.
    note_partial, string_partial : int
        The lowest two that lie together.
    apart_cents : float
        The note's partial less the string's; + is high.
    half_width_cents : float
        So far off the ring falls by half (by 3 dB).
    share_db : float
        What that leaves of the full ring, 0 or less.
    string_cents : float
        Where the string was taken to sound, from its tuning.
    """

    string: int
    note_partial: int
    string_partial: int
    apart_cents: float
    half_width_cents: float
    share_db: float
    string_cents: float = 0.0


RingState = Literal["rang", "silent", "unknown"]


@dataclass(frozen=True, slots=True, kw_only=True)
class StringRing:
    """What one open string did after a note that could wake it.

    Parameters
    ----------
    meeting : Meeting
    state : RingState
    reason : str
        Why it cannot be told: ``covered``, ``in_use``, ``open_string``, ``other_string``,
        ``rang_before``, ``room``, ``steady``, ``played``, ``faint``; empty where it can.
    level_db, level_uncertainty_db : float
        100 … 400 ms after the note, re the note, and half its 95 % range; NaN unless it rang.
    decay_s, decay_uncertainty_s : float
        Time to fall by 60 dB likewise.
    limit_db : float
        A weaker ring would not have been told, re the note; NaN where nothing was looked at.
    string_cents : float
        Where the string itself sounded, from its tuning; NaN unless it rang.
    above_room_db : float
        The ring over what room and stopped string leave of other partials; NaN where not known.
    """

    meeting: Meeting
    state: RingState
    reason: str = ""
    level_db: float = float("nan")
    level_uncertainty_db: float = float("nan")
    decay_s: float = float("nan")
    decay_uncertainty_s: float = float("nan")
    limit_db: float = float("nan")
    string_cents: float = float("nan")
    above_room_db: float = float("nan")


@dataclass(frozen=True, slots=True, kw_only=True)
class Ring:
    """What open strings did after a note.

    Parameters
    ----------
    strings : tuple of StringRing
        Those it could wake, at least one of them told.
    """

    strings: tuple[StringRing, ...]

    @property
    def rang(self) -> tuple[int, ...]:
        """Strings (0 = lowest) that rang."""
        return tuple(s.meeting.string for s in self.strings if s.state == "rang")

    @property
    def strongest(self) -> StringRing | None:
        """The one that rang loudest."""
        rang = [s for s in self.strings if s.state == "rang"]
        return max(rang, key=lambda s: s.level_db, default=None)

    @property
    def ring_db(self) -> float:
        """Level of the strongest re the note; NaN when none rang."""
        return self.strongest.level_db if self.strongest is not None else float("nan")

    @property
    def above_room_db(self) -> float:
        """How far the strongest stands over the room; NaN when none rang."""
        return self.strongest.above_room_db if self.strongest is not None else float("nan")

    @property
    def decay_s(self) -> float:
        """Decay of the strongest; NaN when none rang or it cannot be told."""
        return self.strongest.decay_s if self.strongest is not None else float("nan")


@dataclass(frozen=True, slots=True, kw_only=True)
class Pluck:
    """A plucked note.

    Parameters
    ----------
    ring_s : float
        Time to fall by 60 dB.
    level_dbfs : float
        At its peak.
    thud_db : float
        Energy at the peak beyond the tone's own, re the tone; -30 is none.
    """

    ring_s: float
    level_dbfs: float
    thud_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Trilled:
    """A trill.

    Parameters
    ----------
    n_notes : int
        Notes that were heard.
    rate_hz : float
        Notes a second.
    rate_uncertainty_hz : float
        Half of its 95 % range.
    unevenness : float
        Spread of the time from note to note, of its mean.
    neighbour_cents : float
        The other note from the main one, signed.
    begins_on_main, ends_on_main : bool
    """

    n_notes: int
    rate_hz: float
    rate_uncertainty_hz: float
    unevenness: float
    neighbour_cents: float
    begins_on_main: bool
    ends_on_main: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Stroke:
    """One bow stroke.

    Parameters
    ----------
    start_s, end_s : float
    direction : str
        ``down`` or ``up`` as written, ``unknown`` where nothing is.
    rows : tuple of int
    steadiness_db : float
        Robust spread of the level about its smooth course; NaN when too short.
    end_hurry_db : float
        Level of the last eighth over what the rest leads one to expect; NaN when too short.
    slope_db_per_s, mean_dbfs : float
    tenths_db : tuple of float
        Level of the ten tenths of the stroke re its median, its very ends left out; empty when
        too short.
    """

    start_s: float
    end_s: float
    direction: str
    rows: tuple[int, ...]
    steadiness_db: float
    end_hurry_db: float
    slope_db_per_s: float
    mean_dbfs: float
    tenths_db: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class BowChange:
    """One bow change.

    Parameters
    ----------
    time_s : float
        Minimum of the level.
    from_direction, to_direction : str
    rows : tuple of (int, int)
        Notes before and after.
    dip_db, gap_ms, bump_db, noise_db, pitch_jolt_cents : float
        Depth below the lower shoulder; time more than 6 dB below it; level after the change above
        the settled one; roughness above the settled one; excursion of the pitch (NaN when the
        pitch changes).
    heard_way : BowWay
        Whether the string's wave turned over, where one pitch goes on.
    """

    time_s: float
    from_direction: str
    to_direction: str
    rows: tuple[int, int]
    dip_db: float
    gap_ms: float
    bump_db: float
    noise_db: float
    pitch_jolt_cents: float
    heard_way: BowWay = "unknown"


EventKind = Literal["bounce", "scratch", "whistle", "neighbour_string", "shake", "fold"]


@dataclass(frozen=True, slots=True, kw_only=True)
class BowEvent:
    """Something that happened inside a note.

    Parameters
    ----------
    kind : EventKind
    start_s, end_s : float
    row : int
    strength : float
        dB for ``bounce`` (depth), ``scratch`` (roughness), ``shake`` (peak to peak) and
        ``neighbour_string`` (how far the weaker lies below); for ``fold`` the partial that
        sounded; for ``whistle`` dB re everything else.
    """

    kind: EventKind
    start_s: float
    end_s: float
    row: int
    strength: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Timing:
    """Time of a take.

    Parameters
    ----------
    tempo_bpm : float
        Quarter notes a minute.
    rows : tuple of int
        Notes the errors belong to.
    onset_error_ms : tuple of float
        + is late.
    evenness_time : float
        Spread of the steps in per cent of a step.
    evenness_level_db : float
    """

    tempo_bpm: float
    rows: tuple[int, ...]
    onset_error_ms: tuple[float, ...]
    evenness_time: float
    evenness_level_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class AgainstClicks:
    """Onsets against a metronome that sounded while they were played.

    Parameters
    ----------
    late_ms : tuple of float
        Each onset, + late.
    centre_ms, spread_ms : float
        Median and robust standard deviation.
    """

    late_ms: tuple[float, ...]
    centre_ms: float
    spread_ms: float
