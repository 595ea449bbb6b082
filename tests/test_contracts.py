"""Every import rule is seen to fail once: a copy of the house with one wrong import in it."""

from __future__ import annotations

import ast
import os
import re
import shutil
import subprocess
import sys
import tomllib
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
LINT = Path(sys.executable).with_name("lint-imports")
CONTRACTS = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"][
    "contracts"
]
WRONG = {
    "layers": ("services/moments.py", "from jigwright.store import trouble"),
    "core": ("core/music/keys.py", "from jigwright.core.jig import model"),
    "window": ("ui/viewmodels/sound.py", "from jigwright.ui.widgets import labels"),
    "qt": ("wording/catalogue.py", "import PyQt6.QtCore"),
    "pure": ("core/sound/frames.py", "import threading"),
    "blind-analysis": ("core/gauge/values.py", "from jigwright.core.player import faults"),
    "honest-player": ("core/player/faults.py", "from jigwright.core.sound import heard"),
    "adapters": ("ui/app.py", "from jigwright.store import opening"),
    "light-window": ("ui/theme.py", "import scipy.signal"),
    "desk": ("ui/places/tables.py", "from jigwright.ui.viewmodels.desk import desk_model"),
}


@pytest.fixture(scope="module")
def house(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("house")
    shutil.copy(ROOT / "pyproject.toml", folder)
    shutil.copytree(
        ROOT / "src" / "jigwright", folder / "jigwright",
        ignore=shutil.ignore_patterns("__pycache__", "fonts", "catalogues"),
    )  # fmt: skip
    return folder


def _lint(house: Path, contract: str) -> subprocess.CompletedProcess[str]:
    env = {**os.environ, "PYTHONPATH": str(house)}
    return subprocess.run(
        [LINT, "--contract", contract, "--no-cache"], cwd=house, env=env, capture_output=True,
        text=True, check=False,
    )  # fmt: skip


def test_every_contract_has_its_wrong_import() -> None:
    assert [c["id"] for c in CONTRACTS] == list(WRONG)


@pytest.mark.parametrize("contract", WRONG)
def test_a_wrong_import_is_seen(house: Path, contract: str) -> None:
    file, line = WRONG[contract]
    path = house / "jigwright" / file
    before = path.read_text()
    future = "from __future__ import annotations\n"
    assert future in before
    try:
        path.write_text(before.replace(future, f"{future}\n{line}\n", 1))
        done = _lint(house, contract)
    finally:
        path.write_text(before)
    assert done.returncode == 1, done.stdout + done.stderr
    assert re.search(r"1 broken", done.stdout), done.stdout


@pytest.mark.parametrize("contract", ["layers", "core", "window"])
def test_a_new_room_must_be_given_its_place(house: Path, contract: str) -> None:
    where = {"layers": "", "core": "core", "window": "ui"}[contract]
    new = house / "jigwright" / where / "brand_new.py"
    new.write_text('"""A room nobody has placed."""\n')
    try:
        done = _lint(house, contract)
    finally:
        new.unlink()
    assert done.returncode == 1
    assert "brand_new" in done.stdout


def test_models_know_no_widgets() -> None:
    models = ROOT / "src" / "jigwright" / "ui" / "viewmodels"
    files = sorted(models.rglob("*.py"))
    assert len(files) > 30
    assert [str(f) for f in files if "QtWidgets" in f.read_text()] == []


def test_a_class_name_stands_once_and_names_say_what_is_inside() -> None:
    names: dict[str, list[str]] = {}
    files = sorted((ROOT / "src").rglob("*.py"))
    for file in files:
        for name in re.findall(r"^class (\w+)", file.read_text(), re.MULTILINE):
            names.setdefault(name, []).append(file.name)
    assert {n: f for n, f in names.items() if len(f) > 1 and not n.startswith("_")} == {}
    stems = {f.stem for f in files}
    assert not stems & {"told", "tries", "shown", "owners", "probe", "utils", "helpers", "misc"}
    assert len([f for f in files if f.stem == "stand"]) == 1


def _imported_by_tests() -> set[str]:
    found = set()
    for file in (ROOT / "tests").rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.ImportFrom) and node.module:
                found |= {node.module, *(f"{node.module}.{a.name}" for a in node.names)}
            elif isinstance(node, ast.Import):
                found |= {a.name for a in node.names}
    return found


def test_every_module_of_the_use_cases_is_imported_by_a_test() -> None:
    source = ROOT / "src"
    modules = {
        ".".join(f.relative_to(source).with_suffix("").parts)
        for f in (source / "jigwright" / "services").rglob("*.py")
        if f.stem != "__init__"
    }
    assert len(modules) > 30
    assert sorted(modules - _imported_by_tests()) == []
