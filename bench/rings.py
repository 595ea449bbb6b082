"""Rings under the next note: found, level, decay, how many notes are told, and false ones.

Connected scales of all instruments in the ring tuning, in rooms to 0.6 s, noise 30 … 50 dB down,
with strings that ring along (each coupled otherwise, some out of tune) and with strings that do
not: with vibrato, drone, double stops and pizzicato among them. The truth is what the player's own
resonators gave at the partials the note shares, in the room.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field

import numpy as np

from jigwright.core.gauge.values import Ring
from jigwright.core.jig.model import Jig, note_list
from jigwright.core.jig.scales import make_scale
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import RING, pure_strings
from jigwright.core.music.sympathy import OPEN_T60_S, shared_partials
from jigwright.core.player.faults import Room, Sympathy, parse_faults
from jigwright.core.player.play import play
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.values import Unmeasured

KINDS = ("violin", "viola", "cello", "bass")
TONICS = {
    "violin": ("G", "A", "D", "Bb", "C"), "viola": ("C", "D", "G", "Eb", "F"),
    "cello": ("C", "D", "G", "F", "Bb"), "bass": ("E", "F", "G", "A"),
}  # fmt: skip
LOUD_DB, SOME_DB, NONE_DB = -32.0, -45.0, -56.0


@dataclass(slots=True)
class Count:
    """What came of some takes."""

    n: Counter[str] = field(default_factory=Counter)
    level: list[float] = field(default_factory=list)
    decay: list[float] = field(default_factory=list)


def _words(rng, kind: str, what: str) -> Jig:
    tonic = str(rng.choice(TONICS[kind]))
    if what == "stops":
        strings = instrument(kind).strings
        words = " ".join(f"{a}+{b} {b}" for a, b in zip(strings, strings[1:], strict=False))
        return note_list(words, instrument_id=kind, tempo_bpm=60)
    return make_scale(
        jig_id="b", instrument_id=kind, slur=int(rng.choice([1, 2])),
        tempo_bpm=float(rng.choice([60, 90])), key=Key(PitchClass.parse(tonic)), octaves=2,
    )  # fmt: skip


def _faults(rng, kind: str, *, rings: bool, what: str) -> str:
    text = (
        f"room rt60_s={rng.choice([0.2, 0.4, 0.6])} wet_db={rng.choice([-18, -10, -6])}; "
        f"noise snr_db={rng.choice([30, 40, 50])}; detune spread_cents={rng.choice([0, 3])}; wander"
    )
    if what == "vibrato":
        text += f"; vibrato rate_hz=5.5 extent_cents={rng.integers(15, 40)}"
    if what == "drone":
        text += f"; drone f_hz={rng.choice([110.0, 146.83, 220.0])} db={rng.integers(-30, -18)}"
    if what == "pizzicato":
        text += "; pluck"
    if rings:
        text += (
            f"; sympathy coupling_db={rng.uniform(-26, -12):.1f} "
            f"t60_s={OPEN_T60_S[kind] * rng.uniform(0.7, 1.5):.2f} "
            f"step_db={rng.choice([0, 1])} slope_db={rng.choice([0, 2])} "
            f"out_string={rng.integers(4)} out_cents={rng.choice([0, 0, -5, 4])}"
        )
    return text


def planted_db(x, rate: int, segment, open_hz: float, wet_db: float) -> float:
    """Level of the strings' sound at the partials a note shares with one, re the note."""
    lo, hi = (round((segment.offset_s + s) * rate) for s in (0.1, 0.4))
    part = x[lo:hi]
    if len(part) < 0.2 * rate:
        return float("nan")
    taper, t_s = np.hanning(len(part)), np.arange(len(part)) / rate
    power = 0.0
    for _, m in shared_partials(segment.f0_hz, open_hz):
        z = 2.0 * np.sum(part * taper * np.exp(-2j * np.pi * m * open_hz * t_s)) / taper.sum()
        power += 0.5 * abs(z) ** 2
    return 10 * np.log10(power * (1 + 10 ** (wet_db / 10)) + 1e-15) - segment.level_dbfs


def count_take(count: Count, rng, kind: str, *, rings: bool, what: str, blind: bool) -> bool:
    """Play and judge one take; whether any ring was claimed that no string gave."""
    jig, text = _words(rng, kind, what), _faults(rng, kind, rings=rings, what=what)
    faults = parse_faults(text)
    p = play(jig, seed=int(rng.integers(1 << 30)), faults=faults, reference=RING)
    inst = instrument(kind)
    open_hz = tuple(pure_strings(inst.strings, 440.0).values())
    heard = hear(
        choose_signal(p.sound.samples, p.sound.rate_hz), inst, lowest_open_hz=min(open_hz),
        open_hz=open_hz,
    )  # fmt: skip
    _, notes = follow_and_measure(heard, None if blind else jig, a4_hz=440.0, instrument_id=kind)
    sympathy = next((x for x in faults if isinstance(x, Sympathy)), None)
    wet_db = next(x.wet_db for x in faults if isinstance(x, Room))
    false = False
    for note in notes:
        ring, segment = note.ring, note.segment
        if segment is None or ring == Unmeasured("nothing_shared"):
            continue
        count.n["notes that can ring"] += 1
        if not isinstance(ring, Ring):
            count.n[f"not told: {ring.reason}"] += 1
            continue
        count.n["told"] += 1
        for one in ring.strings:
            j, planted = one.meeting.string, -150.0
            if p.sound.ring is not None:
                every = p.sound.ring.sum(axis=0)
                planted = planted_db(every, p.sound.rate_hz, segment, open_hz[j], wet_db)
                if not np.isfinite(planted):
                    continue
            if one.state == "rang":
                if planted < NONE_DB:
                    false = True
                    count.n["false"] += 1
                    continue
                count.level.append(one.level_db - planted)
                if sympathy is not None:
                    true_s = sympathy.t60_s / one.meeting.string_partial**0.5
                    count.decay.append(one.decay_s / true_s)
            for limit, name in ((LOUD_DB, "loud"), (SOME_DB, "some")):
                if planted > limit and one.state != "unknown":
                    count.n[f"{name} {one.state}"] += 1
    return false


def ring(rng, count: int) -> None:
    """The table of `--only ring`."""
    for blind in (False, True):
        rung, takes = Count(), max(8, count // 2)
        false = sum(
            count_take(rung, rng, KINDS[k % 4], rings=True, blind=blind,
                       what=("plain", "vibrato")[k // 4 % 2])
            for k in range(takes)
        )  # fmt: skip
        _show(f"ring, {'blind' if blind else 'with the jig'}, {takes} takes", rung)
        print(f"  takes with a false ring {false}")
    dead = Count()
    kinds = ("plain", "vibrato", "drone", "stops", "pizzicato")
    false = sum(
        count_take(dead, rng, KINDS[k % 4], rings=False, what=kinds[k // 4 % 5], blind=k % 3 == 0)
        for k in range(count)
    )
    print(f"no string rings: {false} of {count} takes claim one")


def _show(name: str, c: Count) -> None:
    n, level, decay = c.n, np.array(c.level), np.array(c.decay)
    told = n["told"] / max(1, n["notes that can ring"])
    print(f"{name}: told {100 * told:.0f} % of {n['notes that can ring']} notes that can ring")
    for name in ("loud", "some"):
        rang, silent = n[f"{name} rang"], n[f"{name} silent"]
        if rang + silent:
            print(f"  planted {name}: {rang} of {rang + silent} found")
    if len(level):
        near = 100 * np.mean(np.abs(decay - 1) < 0.3)
        print(
            f"  level off by dB {np.median(np.abs(level)):.1f} (median), bias "
            f"{np.median(level):+.1f}; decay within 30 %: {near:.0f} %"
        )
    print("  " + ", ".join(f"{k} {v}" for k, v in n.most_common() if k.startswith("not told")))
