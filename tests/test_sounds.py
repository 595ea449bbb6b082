"""Sounds with known truth, made by generators that are not ours."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
import soundfile

from jigwright.audio.files import SndFiles
from jigwright.cli import main
from jigwright.core.follow.align import line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.gauge.values import Vibrato
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.judge.measured import merge_segments
from jigwright.core.music.instruments import instrument
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear

PLAYED = (
    "scale1_violin_wg", "scale1_viola_gm", "scale1_cello_stk", "scale1_bass_wg",
    "scale2_violin_gm", "scale2_bass_stk", "legato_violin_wg", "fast_violin_wg", "fast_cello_gm",
    "strokes_cello_wg", "natural_cello_gm", "ownvibrato_violin_wg", "pizz_viola_wp",
    "bad_reverb", "bad_hum_noise", "bad_dead_left", "bad_rate8k",
)  # fmt: skip


def analyse(folder: Path, name: str):
    truth = json.loads((folder / f"{name}.json").read_text())
    x, rate = soundfile.read(folder / truth["file"])
    inst = instrument(truth["instrument"])
    lowest = truth["a4_hz"] * 2 ** ((inst.lowest.midi - 69) / 12)
    return truth, hear(choose_signal(x, rate), inst, lowest_open_hz=lowest)


@pytest.mark.parametrize("name", PLAYED)
def test_pitch_is_within_the_promised_range(sounds: Path, name: str) -> None:
    truth, heard = analyse(sounds, name)
    lined = line_up(heard.segments, None, a4_hz=truth["a4_hz"], params=FollowParams())
    found = [merge_segments([heard.segments[i] for i in n.segments]) for n in lined.notes]
    errors = []
    for note in truth["notes"]:
        if not note.get("f0_hz"):
            continue
        near = [s for s in found if abs(s.onset_s - note["onset_s"]) < 0.12]
        assert near, note["name"]
        allowed = note["uncertainty_cents"] + note.get("definition_spread_cents", 0.0)
        errors.append(
            max(0.0, min(abs(1200 * np.log2(s.f0_hz / note["f0_hz"])) for s in near) - allowed)
        )
    fast = name.startswith("fast")
    assert np.median(errors) <= (1.0 if fast else 0.2)
    assert np.percentile(errors, 95) <= (4.0 if fast else 1.3)
    assert len(found) <= len(truth["notes"]) + 2


@pytest.mark.parametrize("name", ["vibrato_violin_stk", "vibrato_cello_wg", "vibrato_bass_gm"])
def test_vibrato_is_within_the_promised_range(sounds: Path, name: str) -> None:
    truth, heard = analyse(sounds, name)
    _, measured = follow_and_measure(
        heard, None, a4_hz=truth["a4_hz"], instrument_id=truth["instrument"]
    )
    assert len(measured) == len(truth["notes"])
    for m, note in zip(measured, truth["notes"], strict=True):
        v = m.vibrato
        assert isinstance(v, Vibrato)
        extent = note["vibrato_extent_cents"]
        if not extent or extent < 6:
            continue
        allowed = note.get("vibrato_extent_uncertainty_cents", 0.5)
        assert v.present
        assert abs(v.rate_hz - note["vibrato_rate_hz"]) < 0.2
        assert abs(v.extent_cents - extent) < max(2.0, 0.08 * extent) + allowed


def test_dynamics_are_recognised(sounds: Path) -> None:
    truth, heard = analyse(sounds, "dynamics_violin_wg")
    _, measured = follow_and_measure(heard, None, a4_hz=440.0, instrument_id="violin")
    want = {"steady": "level", "crescendo": "grow", "diminuendo": "fade", "swell": "swell"}
    seen = 0
    for note in truth["notes"]:
        shape = want.get(note["dynamics"]["shape"])
        if shape is None:
            continue
        row = next(m for m in measured if abs(m.segment.onset_s - note["onset_s"]) < 0.1)
        assert row.level.shape == shape
        seen += 1
        env = note["dynamics"]["env_db"]
        if shape in ("grow", "fade"):
            assert row.level.slope_db_per_s == pytest.approx((env[-1] - env[0]) / 4.9, abs=1.0)
    assert seen == 4
    tremor = next(n for n in truth["notes"] if n["dynamics"]["shape"] == "tremor")
    row = next(m for m in measured if abs(m.segment.onset_s - tremor["onset_s"]) < 0.1)
    assert row.level.tremor_hz == pytest.approx(6.0, abs=0.5)
    assert row.level.tremor_db == pytest.approx(4.0, rel=0.2)


def test_every_file_is_answered(sounds: Path, tmp_path: Path) -> None:
    for path in sorted(sounds.glob("bad_*.json")):
        truth = json.loads(path.read_text())
        audio = next(p for p in sounds.glob(f"{path.stem}.*") if p.suffix != ".json")
        out = tmp_path / "o.json"
        status = main(["analyse", str(audio), "--json", str(out)])
        assert status == (1 if "refusal" in truth["expect"] and path.stem == "bad_garbage" else 0)
        if status == 0 and "no notes" in truth["expect"]:
            assert json.loads(out.read_text())["notes"] == []


def test_a_truncated_file_gives_what_there_is(sounds: Path) -> None:
    samples, rate = SndFiles().read(sounds / "bad_truncated.wav")
    assert len(samples) / rate == pytest.approx(2.5, abs=0.01)


@pytest.mark.parametrize("suffix", ["wav", "flac", "ogg", "aiff", "mp3"])
@pytest.mark.parametrize("channels", [1, 2])
def test_every_format_is_read(tmp_path: Path, suffix: str, channels: int) -> None:
    t = np.arange(44_100) / 44_100
    x = np.stack([0.2 * np.sin(2 * np.pi * 440 * t)] * channels, axis=1)
    path = tmp_path / f"tone.{suffix}"
    soundfile.write(path, x, 44_100)
    samples, rate = SndFiles().read(path)
    assert rate == 44_100
    assert samples.shape[1] == channels
    heard = hear(choose_signal(samples, rate), instrument("violin"), lowest_open_hz=196.0)
    assert len(heard.segments) == 1
    assert abs(1200 * np.log2(heard.segments[0].f0_hz / 440.0)) < 0.3
