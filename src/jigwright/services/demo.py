"""The demo studio: an evening class at the music school of Saltmarsh Quay, all invented.

Made by the simulated player into a cache; it never touches a user's studio. The truth of the
takes is not kept: the studio holds only sound and what was heard in it.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Protocol

from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.model import Event, Jig, Notehead
from jigwright.core.jig.scales import make_scale
from jigwright.core.judge.work import SetWork
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key, Mode
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.sound.heard import Heard
from jigwright.services.demo_piece import harbour_waltz, waltz_spot
from jigwright.services.demo_version import DEMO_VERSION
from jigwright.services.records import DayNote, Mark, OwnedInstrument, Player, Remark, TakeRecord
from jigwright.wording.catalogue import tr
from jigwright.wording.verdicts import input_name


class DemoStore(Protocol):
    """What the demo needs of a studio."""

    def add_player(self, player: Player) -> None:
        """Add a player."""

    def add_instrument(self, owned: OwnedInstrument) -> None:
        """Add an instrument."""

    def set_remark(self, remark: Remark) -> None:
        """Leave words in a take."""

    def add_jig(self, jig: Jig, *, utc: str) -> None:
        """Add a jig."""

    def add_take(self, take: TakeRecord, source: Path, heard: Heard | None) -> TakeRecord:
        """Add a take."""

    def set_setting(self, name: str, value: str) -> None:
        """Remember a value."""

    def set_work(self, work: SetWork) -> None:
        """Set work."""

    def set_day_note(self, note: DayNote) -> None:
        """Write about a day."""

    def settle(self) -> None:
        """What was done so far can no longer be taken back."""


def _work() -> tuple[tuple[str, str, str, str, int], ...]:
    """Player, jig, words, due day, good takes."""
    return (
        ("demo-maris", "demo-quay-stops", tr("Slowly; listen for the beats to stop."),
         "2026-11-30", 3),
        ("demo-jory", "demo-g-major", tr("Third finger on the D string, against the open G."),
         "2026-12-02", 2),
        ("demo-pim", "demo-c-major", tr("Set the finger before the bow goes."), "2026-11-27", 3),
    )  # fmt: skip


def _days_written() -> tuple[tuple[str, str, int, str, str], ...]:
    """Day, word, liking, notes, next time."""
    return (
        ("2026-11-12", tr("dry"), 2, tr("Second finger on the D string again."),
         tr("Play it over the open D.")),
        ("2026-11-16", tr("warmer"), 3, tr("Slow, with the F sharp held."),
         tr("Same, then two in a bow.")),
        ("2026-11-19", tr("clear"), 4, tr("The F sharp landed more often than not."),
         tr("Thirds over G.")),
    )  # fmt: skip


def said_in_the_waltz() -> tuple[tuple[int, str], ...]:
    """Events of the waltz and what the teacher left there."""
    return (
        (24, tr("Let the F sharp lead: the bow travels first, then the fingers.")),
        (58, tr("Half-way house: breathe here.")),
    )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Course:
    """One player's weeks with one jig."""

    player: Player
    owned: OwnedInstrument
    jig: Jig
    a4_hz: float
    days: tuple[str, ...]
    faults: Callable[[int], str]
    marks: dict[int, Mark]


def _owned(kind: str, name: str) -> OwnedInstrument:
    return OwnedInstrument(
        id=f"demo-{kind}", name=name, kind=kind, strings=instrument(kind).strings
    )


def _scale(
    slug: str, kind: str, title: str, tonic: str, mode: Mode = "major", *, octaves: int = 1,
    slur: int = 1, tempo: float = 96.0, reference: str = "equal",
) -> Jig:  # fmt: skip
    return make_scale(
        jig_id=f"demo-{slug}", instrument_id=kind, key=Key(PitchClass.parse(tonic), mode),
        octaves=octaves, slur=slur, tempo_bpm=tempo, title=title, reference=reference,
        note_beats=Fraction(1),
    )  # fmt: skip


def _stops(slug: str, title: str, rows: Sequence[tuple[str, int, str, int]]) -> Jig:
    """Double stops on the two lowest strings: lower pitch and finger, upper pitch and finger."""
    jig_id = f"demo-{slug}"
    events = tuple(
        Event(
            id=f"{jig_id}.e{i}", onset_beats=Fraction(2 * i), length_beats=Fraction(2),
            heads=(
                Notehead(
                    id=f"{jig_id}.n{i}l", pitch=Pitch.parse(low), string=0, finger=low_finger
                ),
                Notehead(
                    id=f"{jig_id}.n{i}u", pitch=Pitch.parse(high), string=1, finger=high_finger
                ),
            ),
            bow="down" if i % 2 == 0 else "up",
        )
        for i, (low, low_finger, high, high_finger) in enumerate(rows)
    )  # fmt: skip
    return Jig(
        id=jig_id, title=title, instrument_id="violin", key=Key(PitchClass("G")), tempo_bpm=72.0,
        reference="just:G", events=events, tolerance_cents=8.0,
    )  # fmt: skip


def _days(month: int, *days: int) -> tuple[str, ...]:
    return tuple(f"2026-{month:02d}-{d:02d}T17:{(d * 7) % 60:02d}:00Z" for d in days)


def courses() -> tuple[Course, ...]:
    """The class: who plays what, when, and with which habits."""
    maris = Player(id="demo-maris", name="Maris Oake")
    jory = Player(id="demo-jory", name="Jory Vane")
    pim = Player(id="demo-pim", name="Pim Harrow")
    alba = Player(id="demo-alba", name="Alba Stroud")

    def maris_d(i: int) -> str:
        low = -19 + i // 3
        return (
            f"detune spread_cents=2.6; detune finger=2 string=1 cents={low};"
            "detune finger=2 string=2 cents=-2; slide notes=5,9 from_cents=-45 seconds=0.14;"
            "vibrato notes=7 extent_cents=34 rate_hz=5.4 start_s=0.12;"
            "unsteady spread_ms=12; shape notes=7 kind=swell db=7"
            + ("; weak notes=11 db=13" if i % 4 == 3 else "")
            + ("; back_one notes=2 first_cents=-31" if i == 6 else "")
        )

    def jory_g(i: int) -> str:
        return (
            f"detune spread_cents=3; detune finger=3 cents={13 - i};"
            "slide notes=6 from_cents=38 seconds=0.12; unsteady spread_ms=10;"
            "vibrato notes=14 extent_cents=26 rate_hz=5.0"
        )

    def pim_c(i: int) -> str:
        hunts = "hunt notes=4 size_cents=36 seconds=0.35;" if i < 5 else ""
        return (
            f"detune spread_cents=3.2; detune finger=4 cents={-16 + i}; {hunts}"
            "shape notes=0,14 kind=fade db=6; vibrato notes=7 extent_cents=30 rate_hz=4.8"
        )

    def alba_f(i: int) -> str:
        wrong = "; wrong notes=9 semitones=1" if i == 0 else ""
        return f"detune spread_cents=5; unsteady spread_ms=18{wrong}"

    def maris_a(i: int) -> str:
        return "detune spread_cents=3; detune notes=6,13 cents=11; unsteady spread_ms=8" + (
            "; miss notes=17" if i == 1 else ""
        )

    def maris_stops(i: int) -> str:
        return (
            f"detune notes=1 cents={15 - 2 * i}; detune notes=2,3 spread_cents=2;"
            f"lower balance_db=3; lower notes=4 cents={-9 + i}; lower notes=5 cents=4"
        )

    def maris_rings(i: int) -> str:
        low = f"detune notes=7,21 cents={-13 + 4 * i}; detune notes=11,17 cents={-10 + 4 * i}"
        return f"{low}; detune spread_cents=1; noise snr_db=48; room rt60_s=0.3 wet_db=-14"

    def maris_bows(i: int) -> str:
        faults = (
            "bounce notes=1,5 at=0.4; tremor notes=3 rate_hz=6 depth_db=5; hurry notes=4 db=6",
            "bounce notes=1 at=0.35; tremor notes=7 rate_hz=6 depth_db=4",
            "hurry notes=6 db=4",
        )
        return "detune spread_cents=1.5; unsteady spread_ms=10;" + faults[i]

    def waltz(piece: Jig, i: int) -> str:
        """High notes of the middle and the low place stay hard until they are taken out."""
        rows = []
        for k, event in enumerate(piece.events):
            high = str(event.heads[0].pitch) in ("G5", "A5", "F#5")
            low = str(event.heads[0].pitch) in ("C#4", "E4")
            if (high or low) and k % 2 == i % 2:
                rows.append(f"detune notes={k} cents={(19 if high else -17) - 3 * i}")
        return "; ".join(["detune spread_cents=3", "unsteady spread_ms=9", *rows[:24]])

    return (
        Course(
            player=maris, owned=_owned("violin", "“Tern”"), a4_hz=442.0,
            jig=maker("long_bows").make(
                Setting(
                    instrument_id="violin", jig_id="demo-long-bows",
                    title=tr("Long bows on the open strings"),
                    values={"repeats": 1, "beats_in_bow": 4},
                )
            ),
            days=_days(11, 4, 10, 18), faults=maris_bows, marks={},
        ),
        Course(
            player=maris, owned=_owned("violin", "“Tern”"), a4_hz=442.0,
            jig=_scale("d-major", "violin", tr("D major, one bow to a note"), "D"),
            days=_days(10, 19, 21, 24, 26, 29, 31) + _days(11, 2, 5, 9, 12, 16, 19),
            faults=maris_d, marks={3: "liked", 7: "kept"},
        ),
        Course(
            player=maris, owned=_owned("violin", "“Tern”"), a4_hz=442.0,
            jig=_scale("a-minor", "violin", tr("A melodic minor, two octaves"), "A",
                       "melodic_minor", octaves=2, slur=4, tempo=132.0),
            days=_days(11, 6, 13, 20), faults=maris_a, marks={},
        ),
        Course(
            player=maris, owned=_owned("violin", "“Tern”"), a4_hz=442.0,
            jig=maker("ring_scale").make(
                Setting(
                    instrument_id="violin", jig_id="demo-ring-scale", tempo_bpm=96.0,
                    title=tr("Harbour scale: which strings answer?"), key=Key(PitchClass("G")),
                )
            ),
            days=_days(11, 7, 15, 21), faults=maris_rings, marks={},
        ),
        Course(
            player=maris, owned=_owned("violin", "“Tern”"), a4_hz=442.0,
            jig=_stops(
                "quay-stops", tr("Quay stops: thirds and sixths over G"),
                (
                    ("G3", 0, "E4", 1), ("A3", 1, "F#4", 2),
                    ("B3", 2, "G4", 3), ("C4", 3, "E4", 1), ("B3", 2, "D4", 0),
                    ("A3", 1, "D4", 0), ("G3", 0, "D4", 0),
                ),
            ),
            days=_days(11, 11, 14, 17, 20), faults=maris_stops, marks={},
        ),
        *(
            Course(
                player=maris, owned=_owned("violin", "“Tern”"), a4_hz=442.0, jig=piece,
                days=days, faults=partial(waltz, piece), marks={},
            )
            for piece, days in (
                (harbour_waltz(), _days(11, 8, 22)),
                (waltz_spot(9, 12, "quay"), _days(11, 9, 12, 16)),
                (waltz_spot(17, 20, "low"), _days(11, 10, 13)),
            )
        ),
        Course(
            player=jory, owned=_owned("viola", "“Heron”"), a4_hz=440.0,
            jig=_scale("g-major", "viola", tr("G major, two in a bow"), "G", slur=2,
                       reference="just:G"),
            days=_days(11, 3, 4, 7, 10, 14, 17), faults=jory_g, marks={5: "kept"},
        ),
        Course(
            player=pim, owned=_owned("cello", "“Bollard”"), a4_hz=441.0,
            jig=_scale("c-major", "cello", tr("C major, four in a bow"), "C", slur=4, tempo=80.0),
            days=_days(11, 3, 6, 8, 11, 15, 18), faults=pim_c, marks={},
        ),
        Course(
            player=alba, owned=_owned("bass", "“Ferry”"), a4_hz=440.0,
            jig=_scale("f-major", "bass", tr("F major for bass"), "F", tempo=84.0),
            days=_days(11, 10, 14, 18), faults=alba_f, marks={},
        ),
    )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class MadeTake:
    """A take of the demo class, played and heard.

    Parameters
    ----------
    record : TakeRecord
    path : Path
        Its sound.
    heard : Heard
    remarks : tuple of Remark
    """

    record: TakeRecord
    path: Path
    heard: Heard
    remarks: tuple[Remark, ...]


FIRST_JIG = "demo-d-major"
"""The one that is shown first: its takes are made before all others."""


def begin_demo(store: DemoStore) -> None:
    """Fill an empty studio with the class and what it works on; its takes are made later."""
    for course in courses():
        store.add_player(course.player)
        store.add_instrument(course.owned)
        store.add_jig(course.jig, utc=course.days[0])
    for player_id, jig_id, words, due, good in _work():
        store.set_work(
            SetWork(
                id=f"work-{jig_id}", player_id=player_id, jig_id=jig_id, jig_revision=1,
                words=words, due=due, good_takes=good, who="Ines Brandt",
                set_utc="2026-11-16T18:00:00Z",
            )
        )  # fmt: skip
    for day, word, liking, notes, following in _days_written():
        store.set_day_note(
            DayNote(
                player_id="demo-maris", day=day, word=word, liking=liking, notes=notes,
                next_time=following,
            )
        )  # fmt: skip
    store.settle()
    store.set_setting("player", "demo-maris")
    store.set_setting("instrument", "demo-violin")
    store.set_setting("jig", FIRST_JIG)
    store.set_setting("demo", DEMO_VERSION)  # last: what lacks it was interrupted


def to_make(known: Collection[str] = ()) -> tuple[tuple[str, int], ...]:
    """Jig and number of every take that is not there yet, the first jig's first.

    Parameters
    ----------
    known : collection of str
        Ids of the takes there are.
    """
    rows = [(c.jig.id, i) for c in courses() for i in range(len(c.days))]
    rows.sort(key=lambda r: r[0] != FIRST_JIG)
    return tuple(r for r in rows if take_id(*r) not in known)


def take_id(jig_id: str, i: int) -> str:
    """Identity of a take of the demo class."""
    return f"{jig_id}-{i + 1:02d}"


def keep_take(store: DemoStore, made: MadeTake) -> None:
    """Put a take on its shelf; nobody takes that back."""
    record = replace(made.record, input_name=input_name("simulated"))
    store.add_take(record, made.path, made.heard)
    made.path.unlink(missing_ok=True)
    for remark, (_, words) in zip(made.remarks, said_in_the_waltz(), strict=False):
        store.set_remark(replace(remark, words=words))
    store.settle()
