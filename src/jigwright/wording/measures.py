"""A measure in a few words, for the slip and the report."""

from __future__ import annotations

import math
from collections.abc import Sequence

from jigwright.core.gauge.values import Double, Ring, Start, Tone
from jigwright.core.judge.doubles import JudgedDouble
from jigwright.core.music.pitch import Pitch
from jigwright.core.values import Unmeasured
from jigwright.wording.catalogue import tr
from jigwright.wording.findings import reason_text
from jigwright.wording.notes import low_high, string_name

Text = tuple[str, bool]
"""What is said, and whether it is a measured figure."""


def cannot_tell(why: Unmeasured) -> Text:
    """Why a measure was refused."""
    return tr("cannot tell: {why}").format(why=reason_text(why.reason)), False


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
    return tr("{db} dB above its noise, brightness {ratio} × the note").format(
        db=round(tone.hnr_db), ratio=f"{tone.brightness_ratio:.1f}"
    ), True


def ring_text(ring: Ring | Unmeasured, strings: Sequence[Pitch]) -> Text:
    """What rang on."""
    if isinstance(ring, Unmeasured):
        return cannot_tell(ring)
    if not ring.rang:
        return tr("no open string rang"), True
    names = ", ".join(string_name(strings[i]) for i in ring.rang)
    return tr("{strings}: {db} dB").format(strings=names, db=round(ring.ring_db)), True


def double_texts(
    double: Double | Unmeasured, judged: JudgedDouble | None
) -> list[tuple[str, str, bool]]:
    """Rows about two strings: name, text, whether measured; none for a single note."""
    if isinstance(double, Unmeasured):
        if double.reason == "one_note":
            return []
        return [(tr("Two strings"), *cannot_tell(double))]
    rows = []
    if judged is not None:
        rows.append((tr("Lower note"), low_high(judged.lower_cents), True))
        rows.append((tr("Upper note"), low_high(judged.upper_cents), True))
        pure = dict(judged.against)["pure"]
        side = tr("wide of pure") if pure > 0 else tr("narrow of pure")
        rows.append(
            (
                tr("Interval"),
                tr("{c} ± {u} cents {side}").format(
                    c=f"{abs(pure):.0f}", u=f"{double.uncertainty_cents:.1f}", side=side
                ),
                True,
            )
        )
    if math.isfinite(double.beats_hz):
        rows.append((tr("Beats"), tr("{n} a second").format(n=f"{double.beats_hz:.1f}"), True))
    if math.isfinite(double.balance_db):
        louder = tr("upper louder") if double.balance_db > 0 else tr("lower louder")
        rows.append(
            (
                tr("Balance"),
                tr("{louder}, {db} ± {u} dB").format(
                    louder=louder, db=round(abs(double.balance_db)),
                    u=max(1, round(double.balance_uncertainty_db)),
                ),
                True,
            )
        )  # fmt: skip
    else:
        rows.append((tr("Balance"), tr("cannot tell: too few partials stand apart"), False))
    return rows
