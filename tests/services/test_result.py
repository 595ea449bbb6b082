"""The result as data: every measure is there or says why not; nothing that JSON cannot hold."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from jigwright.audio.files import SndFiles
from jigwright.core.jig.model import Jig, note_list
from jigwright.core.judge.judging import Context
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import EQUAL
from jigwright.services.analysing import analyse_file
from jigwright.services.result import result_dict
from signals import perform, scale

MEASURES = ("arrival", "vibrato", "level", "tone", "start", "length", "ring", "double")


def analysed(folder: Path, played: Jig, faults: str, jig: Jig | None) -> dict[str, Any]:
    sound = perform(played, faults).sound
    path = folder / "take.wav"
    files = SndFiles()
    files.write_wav(path, sound.samples, sound.rate_hz)
    inst = instrument(played.instrument_id)
    context = Context(
        instrument_id=inst.id, strings=inst.strings, a4_hz=440.0, reference=EQUAL,
        tolerance_cents=10.0,
    )  # fmt: skip
    got = analyse_file(files, path, jig=jig, context=context)
    result = result_dict(got, file="take.wav", context=context, jig=jig)
    json.dumps(result, allow_nan=False)
    return result


@pytest.mark.parametrize("with_jig", [True, False])
def test_every_measure_is_given_or_refused_with_a_reason(tmp_path: Path, with_jig: bool) -> None:
    jig = scale("violin", slur=2, tempo=90)
    result = analysed(tmp_path, jig, "miss notes=4; vibrato notes=6", jig if with_jig else None)
    for note in result["notes"]:
        for name in MEASURES:
            assert (note[name] is None) == (name in note["unmeasured"]), (note["index"], name)
            assert note["unmeasured"].get(name, "x").strip()
    assert len(result["strokes"]) >= 7
    assert all(0 <= i < len(result["notes"]) for c in result["changes"] for i in c["notes"])
    assert (result["timing"] is None) == (not with_jig)
    directions = {s["direction"] for s in result["strokes"]}
    assert directions == ({"down", "up"} if with_jig else {"unknown"})


def test_a_double_stop_is_written_with_both_names_and_figures(tmp_path: Path) -> None:
    jig = note_list("G3+E4 A3+D4", instrument_id="violin", tempo_bpm=50)
    result = analysed(tmp_path, jig, "detune notes=0 cents=14", jig)
    assert [n["written"] for n in result["notes"]] == ["G3+E4", "A3+D4"]
    first = result["notes"][0]["double"]
    assert first["upper_cents"] == pytest.approx(14, abs=1)
    assert first["lower_cents"] == pytest.approx(0, abs=1)
    assert first["interval_error_cents"] == pytest.approx(14, abs=1)
    assert first["against"]["pure"] == pytest.approx(914 - 884.36, abs=1)
    assert first["beats_hz"] == pytest.approx(
        abs(5 * first["lower_hz"] - 3 * first["upper_hz"]), abs=0.01
    )
    assert result["notes"][0]["vibrato"] is None
    assert "two notes" in result["notes"][0]["unmeasured"]["vibrato"]
