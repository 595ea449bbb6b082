from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest

from jigwright.cli import main


@pytest.fixture
def played(tmp_path: Path) -> Path:
    jig, sound = tmp_path / "d.jig.json", tmp_path / "d.wav"
    assert main(["jig", "scale", "D", "--tempo", "150", "--out", str(jig)]) == 0
    words = ["play", str(jig), "--out", str(sound), "--truth", str(tmp_path / "d.json")]
    assert main([*words, "--seed", "4", "--faults", "detune notes=2 cents=-14"]) == 0
    return tmp_path


def strict(text: str) -> dict:  # type: ignore[type-arg]
    def refuse(name: str) -> None:
        raise ValueError(name)

    return json.loads(text, parse_constant=refuse)  # type: ignore[no-any-return]


def test_play_and_analyse(played: Path) -> None:
    out, table = played / "out.json", played / "out.csv"
    words = ["analyse", str(played / "d.wav"), "--jig", str(played / "d.jig.json")]
    assert main([*words, "--json", str(out), "--csv", str(table)]) == 0
    result, truth = strict(out.read_text()), strict((played / "d.json").read_text())
    assert result["schema"] == "jigwright.result/1"
    assert len(result["notes"]) == len(truth["notes"]) == 15
    for row, note in zip(result["notes"], truth["notes"], strict=True):
        assert row["state"] == "played"
        assert abs(row["pitch"]["cents"] - note["cents"]) < 0.5
        assert abs(row["onset_s"] - note["onset_sound_s"]) < 0.02
        assert set(row["unmeasured"]) >= {"ring", "double"}
        assert row["ring"] is None
    assert result["findings"][0]["notes"] == [2]
    assert len(table.read_text().splitlines()) == 16


def test_playing_is_deterministic(played: Path) -> None:
    jig = str(played / "d.jig.json")
    sounds = []
    for name in ("one.wav", "two.wav"):
        words = ["play", jig, "--out", str(played / name), "--truth", str(played / "t.json")]
        assert main([*words, "--seed", "9"]) == 0
        sounds.append((played / name).read_bytes())
    assert sounds[0] == sounds[1]


def test_note_list_and_blind(played: Path, capsys: pytest.CaptureFixture[str]) -> None:
    sound = str(played / "d.wav")
    out = played / "n.json"
    notes = "D4 E4 F#4 G4 A4 B4 C#5 D5 C#5 B4 A4 G4 F#4 E4 D4"
    assert main(["analyse", sound, "--notes", notes, "--json", str(out)]) == 0
    assert [n["jig_index"] for n in strict(out.read_text())["notes"]] == list(range(15))
    assert main(["analyse", sound, "--reference", "just:D", "--json", str(out)]) == 0
    blind = strict(out.read_text())
    assert [n["written"] for n in blind["notes"]] == notes.split()
    assert blind["notes"][0]["jig_index"] is None
    assert main(["analyse", sound]) == 0
    assert "F#4" in capsys.readouterr().out


def test_one_bad_file_does_not_stop_the_others(
    played: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    folder = played / "many"
    folder.mkdir()
    (folder / "good.wav").write_bytes((played / "d.wav").read_bytes())
    (folder / "bad.wav").write_bytes(b"no sound")
    (folder / "empty.flac").write_bytes(b"")
    out = played / "all.json"
    assert main(["analyse", str(folder), "--json", str(out), "--jobs", "2"]) == 1
    assert len(json.loads(out.read_text())) == 1
    lines = capsys.readouterr().err.strip().splitlines()
    assert len(lines) == 2
    assert all("bad.wav" in x or "empty.flac" in x for x in lines)


@pytest.mark.parametrize(
    "words",
    [
        ["analyse", "nowhere.wav"],
        ["analyse", "nowhere.wav", "--a4", "500"],
        ["analyse", "nowhere.wav", "--reference", "blue"],
        ["analyse", "nowhere.wav", "--notes", "D4 H2"],
        ["analyse", "nowhere.wav", "--strings", "E5 A4"],
        ["analyse", "nowhere.wav", "--jig", "nowhere.json"],
        ["jig", "scale", "H", "--out", "x.json"],
        ["jig", "scale", "D", "--octaves", "9", "--out", "x.json"],
        ["play", "nowhere.json", "--out", "a.wav", "--truth", "b.json"],
        ["studio", "check", "nowhere"],
    ],
)
def test_failures_are_one_line(words: list[str], capsys: pytest.CaptureFixture[str]) -> None:
    assert main(words) == 1
    err = capsys.readouterr().err.strip()
    assert err.startswith("jigwright: ")
    assert "\n" not in err


@pytest.mark.parametrize("words", [["analyse"], ["sing"], ["analyse", "a.wav", "--jobs", "x"]])
def test_wrong_words(words: list[str]) -> None:
    with pytest.raises(SystemExit) as caught:
        main(words)
    assert caught.value.code == 2


def test_nothing_is_written_half(played: Path) -> None:
    target = played / "missing" / "out.json"
    assert main(["analyse", str(played / "d.wav"), "--json", str(target)]) == 1
    assert not list(played.glob(".part-*"))


def test_odd_sounds_are_answered(write_sound: Callable[..., Path], tmp_path: Path) -> None:
    rng = np.random.default_rng(0)
    cases = {
        "silence.wav": np.zeros(48_000), "one.wav": np.array([0.1]),
        "noise.wav": 0.1 * rng.normal(size=48_000), "stereo.wav": np.zeros((4800, 2)),
    }  # fmt: skip
    for name, samples in cases.items():
        out = tmp_path / "o.json"
        assert main(["analyse", str(write_sound(name, samples)), "--json", str(out)]) == 0
        assert strict(out.read_text())["notes"] == []


def test_studio_words(
    studio_copy: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["studio", "check", str(studio_copy)]) == 0
    assert main(["studio", "list", str(studio_copy)]) == 0
    assert "t0" in capsys.readouterr().out
    assert main(["studio", "backup", str(studio_copy), str(tmp_path / "b")]) == 0


def test_no_qt_on_the_command_line(played: Path) -> None:
    code = (
        "import sys; from jigwright.cli import main;"
        f"main(['analyse', {str(played / 'd.wav')!r}, '--json', {str(played / 'o.json')!r}]);"
        "bad = [m for m in sys.modules if m.startswith('PyQt6') or m == 'jigwright.core.player'];"
        "sys.exit(repr(bad) if bad else 0)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


def test_a_take_travels_between_studios_by_file(studio_copy: Path, tmp_path: Path) -> None:
    from jigwright.store.opening import open_studio

    studio = open_studio(studio_copy)
    take = studio.takes()[0]
    studio.close()
    other = tmp_path / "other"
    open_studio(other).close()
    gift = tmp_path / "gift.take.zip"
    assert main(["studio", "export", str(studio_copy), take.id, "--out", str(gift)]) == 0
    assert main(["studio", "import", str(other), str(gift)]) == 0
    assert main(["studio", "import", str(other), str(gift)]) == 1
    assert main(["studio", "export", str(studio_copy), "nobody", "--out", str(gift)]) == 1
    studio = open_studio(other)
    assert [t.sha256 for t in studio.takes()] == [take.sha256]
    studio.close()
