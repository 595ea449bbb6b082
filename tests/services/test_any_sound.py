"""Any numbers at any rate, with any jig: a result without NaN, or a clear refusal."""

import json
import math

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jigwright.core.errors import AudioError
from jigwright.core.jig.model import note_list
from jigwright.core.judge.judging import Context
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import EQUAL
from jigwright.services.analysing import analyse_file
from jigwright.services.result import result_dict

KINDS = st.sampled_from(("violin", "viola", "cello", "bass"))
WORDS = st.lists(
    st.sampled_from(("D4", "E4", "F#4", "G3+B3", "C2", "E1", "A6", "D4+A4")), max_size=6
)


class Given:
    """Sound files that hold what the test gives."""

    def __init__(self, samples, rate_hz: int) -> None:
        self._what = (samples, rate_hz)

    def read(self, _path):
        return self._what


@st.composite
def sounds(draw):
    """Noise, steps, tones, spikes and broken numbers put one after another."""
    rate = draw(st.sampled_from((8000, 11_025, 44_100, 48_000, 96_000)))
    rng = np.random.default_rng(draw(st.integers(0, 2**20)))
    parts = []
    for _ in range(draw(st.integers(1, 4))):
        n = draw(st.integers(1, rate // 3))
        t = np.arange(n) / rate
        parts.append(
            draw(
                st.sampled_from(
                    (
                        np.zeros(n),
                        rng.normal(size=n),
                        np.sign(np.sin(2 * np.pi * rng.uniform(20, 5000) * t)),
                        np.sin(2 * np.pi * np.cumsum(np.linspace(50, 3000, n)) / rate),
                        np.where(rng.uniform(size=n) > 0.999, 1e6, 0.0),
                        np.where(rng.uniform(size=n) > 0.9, np.nan, 0.3),
                        np.full(n, -1e30),
                    )
                )
            )
        )
    x = np.concatenate(parts) * 10.0 ** draw(st.integers(-8, 1))
    return np.stack([x] * draw(st.integers(1, 2)), axis=1).astype(np.float32), rate


def numbers(value):
    if isinstance(value, dict):
        for inner in value.values():
            yield from numbers(inner)
    elif isinstance(value, list):
        for inner in value:
            yield from numbers(inner)
    elif isinstance(value, float):
        yield value


@settings(max_examples=30)
@given(sounds(), KINDS, WORDS)
def test_any_sound_gives_a_sane_result_or_a_refusal(sound, kind, words) -> None:
    samples, rate = sound
    context = Context(
        instrument_id=kind, strings=instrument(kind).strings, a4_hz=440.0, reference=EQUAL,
        tolerance_cents=10.0,
    )  # fmt: skip
    jig = note_list(" ".join(words), instrument_id=kind) if words else None
    try:
        with np.errstate(over="ignore", invalid="ignore"):
            got = analyse_file(Given(samples, rate), "x", jig=jig, context=context)
    except AudioError:
        return
    result = result_dict(got, file="x", context=context, jig=jig)
    assert all(math.isfinite(v) for v in numbers(result))
    json.dumps(result, allow_nan=False)
    for note in result["notes"]:
        if note["onset_s"] is not None:
            assert 0.0 <= note["onset_s"] < note["offset_s"] <= len(samples) / rate + 0.1
