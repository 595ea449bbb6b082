"""The tool that mutates: each kind of change, where it stands, which tests it takes."""

from __future__ import annotations

import ast
import importlib.util
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]


@pytest.fixture(scope="module")
def tool():
    spec = importlib.util.spec_from_file_location("mutate", ROOT / "tools" / "mutate.py")
    assert spec is not None
    assert spec.loader is not None
    made = importlib.util.module_from_spec(spec)
    sys.modules["mutate"] = made
    spec.loader.exec_module(made)
    return made


@pytest.mark.parametrize(
    ("before", "after"),
    [
        ("a < b", {"a >= b"}), ("a == b", {"a != b"}), ("a in b", {"a not in b"}),
        ("a is None", {"a is not None"}), ("a and b", {"a or b", "a"}),
        ("a or b", {"a and b", "a"}),
        ("a + b", {"a - b"}), ("a / b", {"a * b"}), ("not a", {"a"}), ("-a", {"a"}),
        ("3", {"6"}), ("0", {"1"}), ("0.5", {"1.0"}), ("True", {"False"}), ("'x'", set()),
        ("a // b", set()),
    ],
)  # fmt: skip
def test_each_kind_of_change(tool, before: str, after: set[str]) -> None:
    found = list(tool.mutations(f"x = {before}\n"))
    assert {m.after for m in found} == after
    assert {m.source for m in found} == {f"x = ({a})\n" for a in after}


def test_a_change_stands_where_it_was_also_behind_other_letters(tool) -> None:
    source = "def f(a):\n    s = 'ü♯'; return a < 1\n"
    found = {m.after: m for m in tool.mutations(source)}
    assert found["a >= 1"].line == 2
    assert found["a >= 1"].source == "def f(a):\n    s = 'ü♯'; return (a >= 1)\n"
    for one in found.values():
        ast.parse(one.source)
    assert [m.after for m in tool.in_lines(list(found.values()), "2-2")] == list(found)
    assert tool.in_lines(list(found.values()), "1") == []
    assert len(tool.in_lines(list(found.values()), "")) == len(found)


def test_it_takes_the_tests_that_import_the_module(tool, tmp_path: Path) -> None:
    for name, text in (
        ("test_a.py", "from jigwright.core.judge.plan import lay_out\n"),
        ("test_b.py", "from jigwright.core.judge import plan\n"),
        ("test_c.py", "import jigwright.core.judge.plan\n"),
        ("test_d.py", "from jigwright.core.judge.planned import x\n"),
        ("helper.py", "import jigwright.core.judge.plan\n"),
    ):
        (tmp_path / name).write_text(text)
    found = tool.tests_of("core/judge/plan.py", tmp_path)
    assert [p.name for p in found] == ["test_a.py", "test_b.py", "test_c.py"]
    (tmp_path / "test_e.py").write_text("import jigwright.core.judge\n")
    found = tool.tests_of("core/judge/__init__.py", tmp_path)
    assert [p.name for p in found] == ["test_b.py", "test_e.py"]


def test_modules_of_the_program_can_be_mutated(tool) -> None:
    source = (ROOT / "src/jigwright/core/judge/session_run.py").read_text()
    found = list(tool.mutations(source))
    assert len(found) > 30
    for one in found[::7]:
        ast.parse(one.source)
        assert one.source != source
