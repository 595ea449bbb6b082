"""Takes as they really are, drawn from a seeded generator: clean playing in ordinary rooms."""

from __future__ import annotations

from typing import Literal

import numpy as np

from jigwright.core.player.faults import Fault, parse_faults

Where = Literal["dry", "room", "microphone", "noise"]
WHERE: tuple[Where, ...] = ("dry", "room", "microphone", "noise")


def clean_take(rng: np.random.Generator, where: Where, *, vibrato: bool | None = None) -> str:
    """Faults (of the short text form) of a take in which nothing is to be found wanting.

    Pitches are spread by 3 cents; everything a good player does not hear as a fault is there.

    Parameters
    ----------
    rng : numpy.random.Generator
    where : {"dry", "room", "microphone", "noise"}
        Rooms have T60 0.3 … 1.5 s and direct to reverb +8 … -6 dB with early reflections.
    vibrato : bool, optional
        Drawn when not given.
    """
    parts = [
        "detune spread_cents=3",
        f"unsteady spread_ms={rng.uniform(4, 10):.1f}",
        f"wander cents={rng.uniform(0.5, 2.5):.2f} level_db={rng.uniform(0.3, 1.5):.2f}",
        f"uneven dip_db={rng.uniform(14, 28):.1f} least_db=7 gap_ms={rng.uniform(25, 60):.0f}",
        f"body ripple_db={rng.uniform(3, 6):.1f}",
        f"tempo_drift percent={rng.uniform(1, 6):.1f}",
    ]
    if rng.random() < 0.5:
        seconds, level = rng.uniform(0.2, 0.8), rng.uniform(-20, -10)
        parts.append(f"overlap seconds={seconds:.2f} level_db={level:.1f}")
    if rng.random() < 0.3:
        parts.append(f"portamento seconds={rng.uniform(0.06, 0.15):.3f}")
    if vibrato if vibrato is not None else rng.random() < 0.6:
        rate, extent = rng.uniform(4.5, 7.0), rng.uniform(12, 50)
        late = rng.choice([0.0, 0.0, 0.15])
        parts.append(
            f"vibrato rate_hz={rate:.2f} extent_cents={extent:.0f} start_s={late} "
            f"irregularity={rng.uniform(0.02, 0.1):.3f} wander={rng.uniform(0.05, 0.2):.3f} "
            f"arm_s={rng.uniform(0.05, 0.3):.2f}"
        )
    t60, wet = (rng.uniform(0.3, 1.5), rng.uniform(-8, 6)) if where != "dry" else (0.25, -18.0)
    early = int(rng.integers(4, 12)) if where != "dry" else 0
    parts.append(
        f"room rt60_s={t60:.2f} wet_db={wet:.1f} n_early={early} early_db={wet - 2:.1f} high=0.5"
    )
    snr = rng.uniform(22, 32) if where == "noise" else rng.uniform(38, 55)
    parts.append(f"noise snr_db={snr:.0f} hum_hz={50 if where == 'noise' else 0}")
    if where == "microphone":
        kind = rng.choice(["laptop", "phone"])
        parts.append(f"microphone kind={kind} clip_db={rng.choice([0, 0, 2])}")
    if where == "noise":
        other = (
            f"clicks per_min={rng.uniform(5, 20):.0f} level_db=-12",
            f"other_player level_db={rng.uniform(-30, -22):.0f}",
            f"talk from_s=0 to_s=3 level_db={rng.uniform(-30, -22):.0f}",
        )
        parts.append(str(rng.choice(other)))
    return "; ".join(parts)


def clean_faults(
    rng: np.random.Generator, where: Where, *, vibrato: bool | None = None
) -> tuple[Fault, ...]:
    """The same, read."""
    return parse_faults(clean_take(rng, where, vibrato=vibrato))
