from __future__ import annotations

import json
import os
import signal
import stat
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile

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
        assert "double" in row["unmeasured"]
        assert (row["ring"] is None) == ("ring" in row["unmeasured"])
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


@pytest.mark.parametrize("blind", [False, True])
def test_talk_in_a_break_is_said_and_is_no_note(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], blind: bool
) -> None:
    jig, sound, out = tmp_path / "d.jig.json", tmp_path / "d.wav", tmp_path / "n.json"
    scale = ["jig", "scale", "D", "--instrument", "cello", "--tempo", "120"]
    assert main([*scale, "--out", str(jig)]) == 0
    faults = "pause notes=8 seconds=5; talk from_s=5.2 to_s=9.2 level_db=-6"
    played = ["play", str(jig), "--out", str(sound), "--truth", str(tmp_path / "t.json")]
    assert main([*played, "--faults", faults]) == 0
    given = ["--instrument", "cello"] if blind else ["--jig", str(jig)]
    assert main(["analyse", str(sound), *given, "--json", str(out)]) == 0
    result = strict(out.read_text())
    assert [n["state"] for n in result["notes"]] == ["played"] * 15
    assert result["source"]["talks"] == [pytest.approx([5.2, 9.2], abs=0.8)]
    capsys.readouterr()
    assert main(["analyse", str(sound), *given]) == 0
    start, end = result["source"]["talks"][0]
    assert f"somebody speaks from {start:.1f} to {end:.1f} s" in capsys.readouterr().out


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


# standard streams, signals, names, places -----------------------------------------------------


def run(words: list[str], *, data: bytes = b"", env: dict[str, str] | None = None):
    return subprocess.run(
        [sys.executable, "-m", "jigwright", *words], input=data, capture_output=True, timeout=120,
        check=False, env={**os.environ, **(env or {})},
    )  # fmt: skip


def test_a_dash_is_standard_input_and_output(played: Path) -> None:
    sound = (played / "d.wav").read_bytes()
    words = ["analyse", "-", "--jig", str(played / "d.jig.json"), "--json", "-"]
    done = run(words, data=sound)
    assert done.returncode == 0
    assert done.stderr == b""
    result = strict(done.stdout.decode())
    assert result["source"]["file"] == "-"
    assert len(result["notes"]) == 15
    table = run(["analyse", str(played / "d.wav"), "--csv", "-"])
    assert len(table.stdout.decode().splitlines()) == 16
    assert not Path("-").exists()
    jig = run(["jig", "scale", "D", "--out", "-"])
    assert strict(jig.stdout.decode())["schema"] == "jigwright.jig/1"
    again = run(["analyse", str(played / "d.wav"), "--jig", "-", "--json", "-"], data=jig.stdout)
    assert strict(again.stdout.decode())["notes"][0]["written"] == "D4"


@pytest.mark.parametrize("words", [["analyse"], ["analyse", "--jobs", "2"]])
def test_an_interruption_is_one_line_and_130(played: Path, words: list[str]) -> None:
    many = [str(played / "d.wav")] * 40
    process = subprocess.Popen(
        [sys.executable, "-m", "jigwright", *words, *many, "--json", str(played / "o.json")],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, start_new_session=True,
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),  # as at a keyboard
    )  # fmt: skip
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:  # until it hears: its processor time grows
        ticks = Path(f"/proc/{process.pid}/stat").read_text().split()[13]
        if int(ticks) > 100:
            break
    os.killpg(process.pid, signal.SIGINT)
    out, err = process.communicate(timeout=30)
    assert process.returncode == 130
    assert err.decode() == "jigwright: interrupted; nothing was written half\n"
    assert out == b""
    assert not (played / "o.json").exists()
    assert not list(played.glob(".part-*"))


def test_whoever_reads_may_go(played: Path) -> None:
    words = [sys.executable, "-m", "jigwright", "jig", "list"]
    with subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as process:
        process.stdout.close()
        err = process.stderr.read()
    assert b"Traceback" not in err


@pytest.mark.parametrize(
    "words",
    [
        ["analyse", "{pipe}"], ["analyse", "{sound}", "--jig", "{pipe}"],
        ["analyse", "{sound}", "--reference", "{pipe}.scl"], ["play", "{pipe}", "--out", "a.wav",
        "--truth", "a.json"], ["analyse", "{sound}", "--json", "{pipe}"],
        ["analyse", "{sound}", "--json", "/dev/full"], ["analyse", "{sound}", "--csv", "{folder}"],
        ["analyse", "{sound}", "--json", "{folder}"], ["jig", "convert", "{pipe}.mid", "--out",
        "x.json"], ["jig", "convert", "{folder}", "--out", "x.json"],
        ["play", "{jig}", "--out", "/dev/null", "--truth", "-"], ["studio", "check", "{pipe}"],
        ["studio", "import", "{studio}", "{pipe}"], ["analyse", "/dev/zero"],
        ["jig", "scale", "D", "--out", "/dev/null"],
    ],
)  # fmt: skip
def test_pipes_devices_and_folders_are_refused_at_once(
    played: Path, studio_copy: Path, words: list[str]
) -> None:
    pipes = [played / "p", played / "p.scl", played / "p.mid"]
    for pipe in pipes:
        os.mkfifo(pipe)
    places = {
        "pipe": str(played / "p"), "sound": str(played / "d.wav"), "folder": str(played),
        "jig": str(played / "d.jig.json"), "studio": str(studio_copy),
    }  # fmt: skip
    began = time.monotonic()
    done = run([w.format(**places) for w in words])
    assert time.monotonic() - began < 20
    assert done.returncode == 1
    assert len(done.stderr.splitlines()) == 1, done.stderr
    assert b"Traceback" not in done.stderr
    assert stat.S_ISCHR(Path("/dev/null").stat().st_mode)


def test_text_is_written_whatever_the_locale_and_the_names(played: Path) -> None:
    odd = os.fsdecode(os.fsencode(played) + b"/caf\xe9 \xff.wav")
    samples, rate = soundfile.read(played / "d.wav")
    soundfile.write(played / "d.wav", samples[: 2 * rate], rate)
    (played / "d.wav").rename(odd)
    for env in ({"LC_ALL": "C", "PYTHONUTF8": "0", "PYTHONCOERCECLOCALE": "0"}, {"LC_ALL": "C"}):
        table = run(["analyse", odd, "--notes", "D4 E4 F#4"], env=env)
        assert table.returncode == 0, table.stderr
        assert b"Traceback" not in table.stderr
        done = run(["analyse", odd, "--json", "-"], env=env)
        assert done.returncode == 0
        assert strict(done.stdout.decode())["source"]["file"].endswith(".wav")
    missing = run(["analyse", odd + "x"], env={"LC_ALL": "C"})
    assert missing.returncode == 1
    assert len(missing.stderr.splitlines()) == 1


@pytest.mark.parametrize(
    "words",
    [
        ["analyse", "x.wav", "--jobs", "0"], ["analyse", "x.wav", "--jobs", "65"],
        ["analyse", "x.wav", "--jobs", "9" * 5000], ["play", "j", "--out", "o.wav", "--truth", "t",
        "--seed", "-1"], ["play", "j", "--out", "o.wav", "--truth", "t", "--seed", "4294967296"],
        ["--lang", "xx", "jig", "list"],
    ],
)  # fmt: skip
def test_values_out_of_range_are_wrong_words(
    words: list[str], capsys: pytest.CaptureFixture[str]
) -> None:
    with pytest.raises(SystemExit) as left:
        main(words)
    assert left.value.code == 2
    assert "is meant, got" in capsys.readouterr().err


@pytest.mark.parametrize(
    "fault",
    [
        "detune cents=1e9", "detune cents=nan", "vibrato rate_hz=0.01", "vibrato rate_hz=41",
        "room rt60_s=0", "room rt60_s=21", "repeat times=51", "noise snr_db=200", "lift share=0",
        "slide seconds=601", "wrong semitones=49", "miss notes=-1", "miss notes=100000",
        "fold from_partial=33", "bounce at=1.1", "detune finger=10", "pluck t60_s=inf", "miss",
    ],
)  # fmt: skip
def test_faults_out_of_range_are_refused_with_a_sentence(
    played: Path, fault: str, capsys: pytest.CaptureFixture[str]
) -> None:
    words = ["play", str(played / "d.jig.json"), "--out", str(played / "o.wav"), "--truth", "-"]
    assert main([*words, "--faults", fault]) == 1
    said = capsys.readouterr().err
    assert len(said.splitlines()) == 1
    assert "does not fit" in said or "nothing is left" in said
    assert not (played / "o.wav").exists()


@pytest.mark.parametrize(
    "fault",
    [
        "detune cents=4800", "vibrato rate_hz=0.1", "room rt60_s=20", "noise snr_db=120",
        "lift share=1", "wrong semitones=-48", "miss notes=0", "bounce at=1", "detune finger=9",
    ],
)  # fmt: skip
def test_faults_at_the_edge_are_played(played: Path, fault: str) -> None:
    words = ["play", str(played / "d.jig.json"), "--out", str(played / "o.wav")]
    assert main([*words, "--truth", str(played / "t.json"), "--faults", fault]) == 0


def test_an_unknown_take_is_not_no_studio(
    studio_copy: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    words = ["studio", "export", str(studio_copy), "nobody", "--out", str(tmp_path / "x.take.zip")]
    assert main(words) == 1
    assert "no such take" in capsys.readouterr().err


@pytest.mark.fails_on_purpose
def test_a_file_that_cannot_be_judged_does_not_stop_the_others(
    played: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    from jigwright.commands import analyse

    real, n = analyse.result_dict, []

    def sometimes(*words: object, **more: object) -> object:
        n.append(1)
        if len(n) == 1:
            raise ZeroDivisionError("broken")
        return real(*words, **more)  # type: ignore[arg-type]

    monkeypatch.setattr(analyse, "result_dict", sometimes)
    sound, out = str(played / "d.wav"), played / "two.json"
    assert main(["analyse", sound, sound, "--json", str(out)]) == 1
    assert len(strict_list(out.read_text())) == 1
    assert "judging it failed" in capsys.readouterr().err


def strict_list(text: str) -> list:  # type: ignore[type-arg]
    return json.loads(text)  # type: ignore[no-any-return]


@pytest.mark.parametrize("line", ["D4 E4 F#4", "D4!0 E4!1 F#4!2"])  # a line names no strings
def test_hand_says_what_cannot_be_played(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], line: str
) -> None:
    jig = tmp_path / "l.json"
    assert main(["jig", "line", line, "--out", str(jig)]) == 0
    assert main(["jig", "hand", str(jig)]) == 1
    out = capsys.readouterr().out.splitlines()
    assert len(out) == 3
    assert all("no finger is written" in text for text in out)
    assert out[0].startswith("bar 1, beat 1: D4")


def test_hand_goes_by_the_string_length(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    jig = tmp_path / "o.json"
    words = ["jig", "make", "double_scale", "interval=octaves", "--instrument", "cello"]
    assert main([*words, "--out", str(jig)]) == 0
    assert main(["jig", "hand", str(jig)]) == 0
    assert "all of it" in capsys.readouterr().out
    assert main(["jig", "hand", str(jig), "--string-length", "800"]) == 1
    assert "do not lie at once" in capsys.readouterr().out
    assert main(["jig", "hand", str(jig), "--string-length", "90"]) == 1
    assert "150 to 1300" in capsys.readouterr().err
    assert main(["jig", "hand", str(jig), "--strings", "C2 G2 D3 A3"]) == 0


def test_hand_judges_by_the_strings_it_is_given(tmp_path: Path) -> None:
    jig = tmp_path / "o.json"
    words = ["jig", "make", "double_scale", "interval=thirds", "--instrument", "violin"]
    assert main([*words, "--out", str(jig)]) == 0
    assert main(["jig", "hand", str(jig)]) == 0
    assert main(["jig", "hand", str(jig), "--strings", "G3 D4 G4 E5"]) == 1
