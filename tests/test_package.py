from __future__ import annotations

import configparser
import json
import shutil
import subprocess
import sys
import sysconfig
import venv
from pathlib import Path

import pytest
from defusedxml import ElementTree as SafeET

from jigwright.cli import main

ROOT = Path(__file__).parents[1]


@pytest.mark.slow
def test_the_wheel_works_outside_the_checkout(tmp_path: Path) -> None:
    copy = tmp_path / "source"
    copy.mkdir()
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        (copy / name).write_bytes((ROOT / name).read_bytes())
    import shutil

    shutil.copytree(
        ROOT / "src", copy / "src", ignore=shutil.ignore_patterns("*.egg-info", "__pycache__")
    )
    pip = [sys.executable, "-m", "pip", "--disable-pip-version-check", "-q"]
    subprocess.run(
        [*pip, "wheel", "--no-deps", "--no-build-isolation", "-w", str(tmp_path), str(copy)],
        check=True, capture_output=True,
    )  # fmt: skip
    (wheel,) = tmp_path.glob("*.whl")
    home = tmp_path / "env"
    venv.create(home, with_pip=False)
    site = next((home / "lib").glob("python*")) / "site-packages"
    subprocess.run([*pip, "install", "--no-deps", "--target", str(site), str(wheel)], check=True)
    (site / "dependencies.pth").write_text(sysconfig.get_paths()["purelib"] + "\n")
    python = home / "bin" / "python"

    def run(*words: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [str(python), "-m", "jigwright", *words], cwd=tmp_path, capture_output=True, text=True,
            check=False,
        )  # fmt: skip

    where = subprocess.run(
        [str(python), "-c", "import jigwright; print(jigwright.__file__)"],
        cwd=tmp_path, capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert str(site) in where.stdout
    assert run("jig", "scale", "D", "--tempo", "200", "--out", "d.json").returncode == 0
    assert run("play", "d.json", "--out", "d.wav", "--truth", "t.json").returncode == 0
    assert run("analyse", "d.wav", "--jig", "d.json", "--json", "o.json").returncode == 0
    assert len(json.loads((tmp_path / "o.json").read_text())["notes"]) == 15
    fonts = list((site / "jigwright" / "ui" / "fonts").glob("*.[to]tf"))
    assert len(fonts) == 5
    assert (site / "jigwright" / "ui" / "fonts" / "OFL.txt").exists()


def test_the_program_enters_and_leaves_the_desktops_menu(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    former = tmp_path / "applications" / "jigwright.desktop"
    former.parent.mkdir()
    former.write_text("as it was called once")
    assert main(["desktop", "install", "--to", str(tmp_path)]) == 0
    assert not former.exists()
    written = [Path(line) for line in capsys.readouterr().out.splitlines()]
    assert len(written) == 4
    entry = configparser.ConfigParser(interpolation=None)
    entry.optionxform = str
    entry.read(tmp_path / "applications" / "org.jigwright.Jigwright.desktop", encoding="utf-8")
    row = entry["Desktop Entry"]
    assert row["Exec"].endswith("open %F")
    assert Path(row["Exec"].split(" open ")[0].split(" -m ")[0].strip('"')).exists()
    assert "application/x-jigwright-take" in row["MimeType"]
    for path in written:
        if path.suffix in (".xml", ".svg"):
            SafeET.parse(path)
    validator = shutil.which("appstreamcli")
    if validator is not None:
        metainfo = next(p for p in written if p.name.endswith("metainfo.xml"))
        checked = subprocess.run(
            [validator, "validate", "--no-net", str(metainfo)], capture_output=True, text=True,
            check=False,
        )  # fmt: skip
        assert checked.returncode == 0, checked.stdout
    assert main(["desktop", "remove", "--to", str(tmp_path)]) == 0
    assert not any(path.exists() for path in written)
